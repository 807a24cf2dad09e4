"""Whose words and units a place speaks: the rule set of its supply, and the names people gave."""

from dataclasses import replace

from ..conductor import methods
from ..vocabulary import FactPath, System
from ..vocabulary.units import FOOT_M, INCH_M
from ..words import RuleSet
from .fields import FieldInfo, field_info
from .installation import Installation

#: What a unit of the model is shown and typed in, in the metric rule set, and how much of that
#: unit one of the model's is.
SHOWN_IN = {"ft": ("m", FOOT_M), "in": ("mm", INCH_M * 1000), "sq ft": ("m²", FOOT_M**2)}
#: Trade sizes of steel conduit by their metric designators.
TRADE_MM = {
    "3/8": 12, "1/2": 16, "3/4": 21, "1": 27, "1-1/4": 35, "1-1/2": 41, "2": 53, "2-1/2": 63,
    "3": 78, "3-1/2": 91, "4": 103, "5": 129, "6": 155,
}  # fmt: skip
#: Kinds of device that one rule set alone offers.
_FOREIGN_KINDS = {RuleSet.US: ("gG", "switch"), RuleSet.METRIC: ("inverse-time",)}


def rule_set_of(site: Installation) -> RuleSet:
    """The rule set of the utility's supply: metric where its system is."""
    system = site.supply.system
    return RuleSet.METRIC if system is not None and system.is_metric else RuleSet.US


def names_in(site: Installation) -> frozenset[str]:
    """What people called the parts of a place: their own words, never reworded."""
    names = {getattr(e, "name", None) for e in site.elements().values()}
    return frozenset(n for n in names if n)


def speaks_of(info: FieldInfo, rule_set: RuleSet) -> bool:
    """Whether a fact is one of a rule set's."""
    return info.rules in ("both", rule_set.value)


def info_for(info: FieldInfo, rule_set: RuleSet) -> FieldInfo:
    """A fact's metadata in a rule set's units, with the choices that are of it."""
    choices = info.choices
    if info.path == "method":
        own = (rule_set.value, "both")
        choices = {k: v for k, v in choices.items() if methods()[k].rules in own}
    elif info.path == "system" and rule_set is RuleSet.METRIC:
        choices = {k: v for k, v in choices.items() if System(k).is_metric}
    elif info.path.endswith(".kind") and "gG" in choices:
        choices = {k: v for k, v in choices.items() if k not in _FOREIGN_KINDS[rule_set]}
    if rule_set is RuleSet.METRIC and info.unit in SHOWN_IN and info.kind != "raceway":
        unit, factor = SHOWN_IN[info.unit]
        return replace(info, unit=unit, factor=factor, choices=choices, stored=info)
    return info if choices is info.choices else replace(info, choices=choices, stored=info)


def field_in(site: Installation, path: str) -> FieldInfo:
    """The metadata of a fact of a place, in its own units. KeyError where there is no element."""
    fact = FactPath(path)
    return info_for(field_info(site.elements()[fact.element], fact.fact), rule_set_of(site))
