"""Whose words a place speaks: the rule set of its supply, and the names people gave in it."""

from ..words import RuleSet
from .installation import Installation


def rule_set_of(site: Installation) -> RuleSet:
    """The rule set of the utility's supply: metric where its system is."""
    system = site.supply.system
    return RuleSet.METRIC if system is not None and system.is_metric else RuleSet.US


def names_in(site: Installation) -> frozenset[str]:
    """What people called the parts of a place: their own words, never reworded."""
    names = {getattr(e, "name", None) for e in site.elements().values()}
    return frozenset(n for n in names if n)
