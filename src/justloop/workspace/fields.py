"""The bench's fields, made from the model's metadata: no form class an element."""

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cache

from returnpath import tables
from returnpath.conductor import method
from returnpath.device import rule
from returnpath.site import (
    Array,
    Building,
    Circuit,
    Electrode,
    Feeder,
    FieldInfo,
    Installation,
    Joint,
    Metal,
    Panel,
    Practice,
    Service,
    Supply,
    fields_of,
    name_of,
    show_value,
)
from returnpath.site.serves import NOWHERE, places, places_of
from returnpath.site.speech import TRADE_MM, field_in, info_for, rule_set_of, speaks_of
from returnpath.study.protection import breaker_of
from returnpath.vocabulary import FactPath, fact_in
from returnpath.words import RuleSet

from ..address import Address
from ..solved import SolvedSite

MOST_BUTTONS = 3  # more choices than this become a list

#: element → what its bench shows at once; every other fact waits behind “More”.
FIRST = {
    Circuit: ("breaker.rating_a", "line_size", "length_ft", "egc", "egc_size", "raceway_size",
              "places"),
    Panel: ("name", "main.rating_a", "bond", "bond_kind", "bond_size"),
    Supply: ("kva", "percent_z", "x_over_r", "fault_a", "fault_kind", "bond"),
    Service: ("run", "length_ft", "line_size", "line_material", "neutral_size"),
    Feeder: ("breaker.rating_a", "length_ft", "line_size", "neutral_size", "egc", "egc_size",
             "raceway_size", "year"),
    Electrode: ("kind", "gec_size", "gec_material", "ohm", "lands", "spacing_ft"),
    Metal: ("name", "kind", "material", "bonded", "bond_size", "panel"),
    Building: ("name", "permit", "disconnect", "wired_year"),
    Array: ("name", "circuit", "inverter", "built_under", "isc_a", "frames", "detector"),
    Joint: ("ohm", "open"),
    Practice: ("edition", "clearing", "arc_v", "touch_v", "socket_rcd", "zs_measured", "rcd_times"),
}  # fmt: skip


@dataclass(frozen=True)
class Field:
    """One field of the bench, ready to draw.

    ``value`` the text in the box; ``assumed`` what stands in while it is empty, with ``why``;
    ``choices`` (value, label, pressed); ``error`` the sentence beside it; ``mine`` the value of
    this person when another's stands (a conflict).
    """

    path: str
    label: str
    kind: str
    unit: str
    value: str
    help: str = ""
    assumed: str = ""
    assumed_text: str = ""
    why: str = ""
    known: str = ""
    choices: tuple[tuple[str, str, bool], ...] = ()
    error: str = ""
    mine: str = ""
    can_clear: bool = True

    @property
    def empty(self) -> str:
        """What an empty box means: a name may stay open, a figure is not known."""
        return "" if self.kind == "text" else "not known"

    @property
    def shown(self) -> str:
        """A size as the trade writes it; what was refused as it was typed."""
        label = next((label for _, label, on in self.choices if on), self.value)
        return self.value if self.error or self.mine else label

    @property
    def id(self) -> str:
        """A stable id, fit for HTML."""
        return _id_of(self.path)

    @property
    def is_buttons(self) -> bool:
        """Few choices: buttons, not a list."""
        return self.kind == "choice" and len(self.choices) <= MOST_BUTTONS


def first_of(model: type, rule_set: RuleSet) -> tuple[str, ...] | None:
    """The facts of an element that its bench shows at once; None where it shows all."""
    if rule_set is RuleSet.METRIC and model in METRIC_FIRST:
        return METRIC_FIRST[model]
    return FIRST.get(model)


def _id_of(path: str) -> str:
    return "f-" + path.replace(".", "-")


def fact_href(site: Installation, address: Address, path: str) -> str:
    """The bench's field of a fact, opened where it waits behind “More”."""
    return fact_hrefs(site, address)(path)


def fact_hrefs(site: Installation, address: Address) -> Callable[[str], str]:
    """The same for many facts of one place."""
    elements, rule_set = site.elements(), rule_set_of(site)

    def href(path: str) -> str:
        path = FactPath(path)
        first = first_of(type(elements[path.element]), rule_set)
        more = address.more if first is None or path.fact in first else "1"
        return f"{address.to(at=path.element, more=more, tab='facts')}#{_id_of(path)}"

    return href


def count_known(element) -> int:
    """How many facts of an element somebody gave."""
    plain, grouped = _facts_of(type(element))
    facts = element.__dict__
    given = [facts[name] for name in plain]
    known = len(given) - given.count(None)
    return known + sum(getattr(facts[group], leaf) is not None for group, leaf in grouped)


@cache
def _facts_of(model: type) -> tuple[tuple[str, ...], tuple[tuple[str, str], ...]]:
    """(the names of its plain facts, (group, name) of those in a group): a page asks it of every
    element."""
    paths = [tuple(FactPath.of("", info.path).names) for info in fields_of(model)]
    return (
        tuple(p[0] for p in paths if len(p) == 1),
        tuple((p[0], p[1]) for p in paths if len(p) == 2),
    )


@dataclass
class Typed:
    """What a refused save leaves to show: text and sentence by path, and a conflict's text."""

    text: dict[str, str] = field(default_factory=dict)
    errors: dict[str, str] = field(default_factory=dict)
    mine: dict[str, str] = field(default_factory=dict)


#: The same of the metric rule set, where it differs.
METRIC_FIRST = {
    Circuit: ("breaker.rating_a", "breaker.kind", "line_size", "length_ft", "egc", "egc_size",
              "ring", "ring_open", "rcd_ma", "rcd_type", "places"),
    Panel: ("name", "main.rating_a", "rcd_ma", "bond", "insulated"),
    Supply: ("earthing", "ze_ohm", "fault_a", "system", "bond"),
    Feeder: ("breaker.rating_a", "breaker.kind", "length_ft", "line_size", "egc", "egc_size",
             "rcd_ma"),
}  # fmt: skip


def bench_fields(
    solved: SolvedSite, element_id: str, typed: Typed, with_more: bool = True
) -> tuple[list, list]:
    """(fields shown at once, every other field) of one element; the others only when asked for,
    or when one of them was refused."""
    element = solved.site.elements()[element_id]
    rule_set = rule_set_of(solved.site)
    infos = {
        i.path: info_for(i, rule_set)
        for i in fields_of(type(element))
        if _applies(element, solved, i.path) and _is_spoken(element, i, rule_set)
    }
    first = first_of(type(element), rule_set) or tuple(infos)
    shown = [_field(solved, element_id, infos[p], typed) for p in first if p in infos]
    refused = any(FactPath(p).element == element_id for p in (*typed.errors, *typed.mine))
    behind = [p for p in infos if p not in first] if with_more or refused else []
    return shown, [_field(solved, element_id, infos[p], typed) for p in behind]


def one_field(solved: SolvedSite, path: str, typed: Typed) -> Field:
    """The field of a single fact."""
    path = FactPath(path)
    return _field(solved, path.element, field_in(solved.site, path), typed)


def _is_spoken(element, info: FieldInfo, rule_set: RuleSet) -> bool:
    """Whether a fact is one of the rule set's, or somebody gave it all the same."""
    if speaks_of(info, rule_set):
        return True
    return not isinstance(element, Practice) and fact_in(element, info.path) is not None


#: Facts that mean something only of one kind of supply.
OF_UTILITY = ("percent_z", "x_over_r", "fault_a", "fault_kind", "primary_mva", "earth_ohm")
OF_OTHERS = ("limit", "bond", "neutral_switched", "breaker.rating_a")


def _applies(element, solved: SolvedSite, path: str) -> bool:
    """Whether a field means anything where the others stand."""
    if isinstance(element, Circuit | Feeder):
        if path in ("egc_size", "egc_material"):
            return element.egc in ("wire", "both")
        if path == "raceway_size":
            return element.egc in ("raceway", "both")
        if path == "year" and isinstance(element, Feeder):
            return element.egc == "none" or element.year is not None
        if path.startswith("breaker."):
            return _device_applies(element.breaker, path)
    if isinstance(element, Panel):
        if path in ("bond_kind", "bond_size") and element.bond == "out":
            return False
        if path == "bond_size":
            return element.bond_kind == "wire"
        if path.startswith("main."):
            return _device_applies(element.main, path)
    if isinstance(element, Supply):
        if path == "fault_kind":
            return element.fault_a is not None
        if element.kind in (None, "utility"):
            return path not in OF_OTHERS
        return path not in OF_UTILITY
    if isinstance(element, Electrode) and path == "spacing_ft":
        return element.near is not None
    return True


def _device_applies(device, path: str) -> bool:
    is_band = FactPath(path).leaf in ("lo", "hi", "magnetic_nominal")
    if device.kind in ("B", "C", "D"):
        return not is_band  # its band is its type's
    return not (is_band and device.magnetic == "none")


#: Kinds that are chosen: their box holds the value itself, not its words.
FROM_A_LIST = ("choice", "size", "raceway", "ref")


def _field(solved: SolvedSite, element_id: str, info: FieldInfo, typed: Typed) -> Field:
    path = f"{element_id}.{info.path}"
    site = solved.site
    value = site.value_at(path)
    assumption = solved.study.assumed.find(path)
    source = site.sources.get(path)
    known = ""
    if source is not None and source.bound is not None:
        over = "no longer than" if source.kind == "no more than" else "over"
        known = f"{over} {show_value(info, source.bound)}, {source.who or 'answered'}"
    elif source is not None and source.kind == "cannot tell":
        known = "cannot be told yet"
    curve = _assumed_curve(site, element_id, info)
    return Field(
        path=path,
        label=info.label,
        kind=info.kind,
        unit=info.unit,
        value=typed.text.get(
            path, str(value or "") if info.kind in FROM_A_LIST else show_value(info, value)
        ),
        help=info.help,
        assumed=show_value(info, assumption.value)
        if assumption
        else curve or _read_places(site, element_id, info),
        assumed_text=_as_text(info, assumption.value) if assumption else "",
        why=assumption.why if assumption else "",
        known=known,
        choices=_choices(site, element_id, info, value),
        error=typed.errors.get(path, ""),
        mine=typed.mine.get(path, ""),
        can_clear=not isinstance(site.elements()[element_id], Practice),
    )


def _read_places(site, element_id: str, info: FieldInfo) -> str:
    """What a circuit's name says that it serves, while nobody has said."""
    if info.kind != "places" or site.value_at(f"{element_id}.{info.path}") is not None:
        return ""
    return ", ".join(label for _, label, _ in _places(site.elements()[element_id]))


def _as_text(info: FieldInfo, value) -> str:
    """An assumed value as it would be typed, so that *yes* can make it known."""
    return str(value) if info.kind in ("choice", "size") else show_value(info, value)


def _assumed_curve(site, element_id: str, info: FieldInfo) -> str:
    """The assumed end of a magnetic band, shown in its empty box."""
    path = FactPath.of(element_id, info.path)
    if path.leaf not in ("lo", "hi") or site.value_at(path) is not None:
        return ""
    made = breaker_of(site.value_at(path.group))
    if made is not None and made.magnetic:
        return f"{made.band_lo if path.leaf == 'lo' else made.band_hi:g} × rating"
    return f"{rule(f'assumed_{path.leaf}'):g} × rating"


def _choices(site, element_id: str, info: FieldInfo, value) -> tuple[tuple[str, str, bool], ...]:
    if info.kind == "size":
        made = _sizes(site, _metal(site, element_id, info))
        return tuple((s, tables.size_name(s), s == value) for s in made)
    if info.kind == "places":
        return _places(site.elements()[element_id])
    if info.kind == "ref":
        listed = getattr(site, info.to)
        return tuple((e.id, name_of(e), e.id == value) for e in listed if e.id != element_id)
    if info.kind == "raceway":
        words = _trade_words(site)
        return tuple((r, words(r), r == value) for r in _trade_sizes(site, element_id))
    return tuple((k, label, str(value) == k) for k, label in info.choices.items())


def _sizes(site, metal: str) -> tuple[str, ...]:
    """The sizes that a place's rule set offers in a metal."""
    if rule_set_of(site) is RuleSet.US:
        return tables.sizes(metal)
    made = tables.metric_conductors()
    return tuple(size for size, row in made.items() if row[metal] is not None)


def _trade_words(site):
    """A conduit's trade size in the units of a place."""
    if rule_set_of(site) is RuleSet.US:
        return lambda trade: f"{trade} in"
    return lambda trade: f"{TRADE_MM[trade]} mm" if trade in TRADE_MM else trade


def _places(circuit: Circuit) -> tuple[tuple[str, str, bool], ...]:
    """(the list without it, the place, pressed): a tap takes one away."""
    here = places_of(circuit)
    return tuple(
        (", ".join(p for p in here if p != place) or NOWHERE, places()[place], True)
        for place in here
    )


def _metal(site, element_id: str, info: FieldInfo) -> str:
    """The metal whose sizes are offered: the field beside it, copper where nobody has said."""
    element = site.elements()[element_id]
    which = info.path.split("_")[0]
    if which == "neutral":
        which = "line"
    return getattr(element, f"{which}_material", None) or (
        "aluminium" if isinstance(element, Service) else "copper"
    )


def _trade_sizes(site, element_id: str) -> list[str]:
    name = getattr(site.elements()[element_id], "method", None)
    kind = (method(name).steel_return if name else "") or "EMT"
    return [r["trade_size_in"] for r in tables.rows("raceway_steel") if r["type"] == kind]
