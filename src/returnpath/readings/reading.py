"""A reading as it is spoken: “studio outlets loop 0.66”, “n-g 1.9 V with heater on”.

The kind, the place, the value with its unit, and whether loads were on. Nothing is guessed: what is
not understood is said.
"""

import re
from collections.abc import Callable
from dataclasses import dataclass
from functools import cache

from .. import tables
from ..site import Circuit, Electrode, Element, Feeder, Installation, Metal, Panel, name_of
from ..site.plan import names_on_plan

MOST_CHARACTERS = 200
MOST_LINES = 100
_LOADED = re.compile(
    r"\b(?:with\s+(?:the\s+)?[\w ]{1,30}?\s+on|(?:heater|dryer|oven|kettle|pump|lights?)\s+on"
    r"|under\s+load|loaded|loads?\s+on|as\s+found)\b"
)
_NO_TRIP = re.compile(r"\bno[- ]?trip(?:\s+range)?\b")
_FILLERS = re.compile(r"\b(?:at|the|of|on|is|was|got|a|reads?|reading|meter|measured)\b|[,:=]")
_UNITS = {
    "Ω": r"(?:Ω|ω|ohms?|r|milliohms?)?", "A": r"(?:a|amps?|amperes?|ka|ma)?",
    "V": r"(?:v|volts?|mv)?", "ms": r"(?:ms|milliseconds?)?", "mA": r"(?:ma|milliamps?)?",
    "MΩ": r"(?:mω|meg(?:ohm)?s?|mohms?|gω|gig(?:ohm)?s?|gohms?)?",
    "in-lb": r"(?:in[- ]?lbs?|inch[- ]pounds?|ft[- ]?lbs?|foot[- ]pounds?|n[·.]?m)?",
    "°C": r"(?:°?\s*[cf])?",
}  # fmt: skip


#: (unit, how another is said) → its figure in that unit.
_OTHER_UNITS: tuple[tuple[str, str, Callable[[float], float]], ...] = (
    ("A", r"ka", lambda v: v * 1000), ("A", r"ma", lambda v: v / 1000),
    ("V", r"mv", lambda v: v / 1000), ("Ω", r"milliohms?", lambda v: v / 1000),
    ("MΩ", r"g(?:ω|ig(?:ohm)?s?|ohms?)", lambda v: v * 1000),
    ("in-lb", r"f(?:t|oot)[- ]?(?:lbs?|pounds?)", lambda v: v * 12),
    ("in-lb", r"n[·.]?m", lambda v: v * 8.8507), ("°C", r"°?\s*f", lambda v: (v - 32) / 1.8),
)  # fmt: skip
#: What is said beside a kind, and is in its place or its name already.
_BESIDE = {
    "clamp": r"\b(?:egc|wire|conductor|around)\b",
    "clamp-bond": r"\b(?:wire|strap|screw)\b", "clamp-line": r"\b(?:wire|conductor)\b",
    "r2": r"\b(?:egc|cpc|wire|dead(?:\s+test)?)\b", "r1r2": r"\bdead(?:\s+test)?\b",
    "torque": r"\b(?:lugs?|neutral|ground|earth|breakers?|screws?|terminals?|bar|switch)\b",
    "temperature": r"\b(?:lugs?|breakers?|terminals?)\b",
}  # fmt: skip
#: What a tester is set to: a figure that is no reading.
_SETTINGS = {
    "trip": r"\b(?:at\s+)?(?:10|30|100|300|500)\s*ma\b|\b(?:0|180)\s*(?:deg(?:rees)?|°)",
    "insulation": r"(?:\bat\s+|@\s*)?\b(?:250|500|1000)\s*v(?:dc|olts?)?\b",
}  # fmt: skip
_NOTHING = r"(?!)"
_OVER_RANGE = re.compile(r"\b(?:ol|o\.l\.?|over|infinity|infinite|no|open)\b")  # “no continuity”


#: Read as found, with the loads on.
AS_FOUND = ("ng", "clamp", "clamp-bond", "clamp-line")


@dataclass(frozen=True)
class ReadingKind:
    """What can be read: its unit, the kinds of place it is read at, an instrument's usual error
    (share and absolute), how it is said, and how the box is filled with it."""

    key: str
    label: str
    unit: str
    at: tuple[str, ...]
    error_share: float
    error_abs: float
    said: str
    typed: str


@cache
def reading_kinds() -> dict[str, ReadingKind]:
    """Every kind by its key."""
    return {
        r["key"]: ReadingKind(
            r["key"], r["label"], r["unit"], tuple(r["at"].split()),
            float(r["error_pct"]) / 100, float(r["error_abs"]), r["words"], r["typed"],
        )
        for r in tables.rows("reading_kinds")
    }  # fmt: skip


@dataclass(frozen=True)
class TypedReading:
    """A reading as it was understood; ``problem`` says what was not, and then nothing is kept.
    ``celsius`` of the conductors or the air where it was said; ``error`` (share, absolute) of the
    instrument where it is known; ``no_trip`` the range of a loop meter that trips no ground-fault
    device."""

    text: str
    kind: str = ""
    place: str = ""
    place_name: str = ""
    value: float = 0.0
    loaded: bool = False
    problem: str = ""
    celsius: float | None = None
    error: tuple[float, float] | None = None
    no_trip: bool = False

    @property
    def unit(self) -> str:
        """Of the value."""
        return reading_kinds()[self.kind].unit if self.kind else ""

    def words(self) -> str:
        """Read back: “Studio outlets: loop 0.66 Ω”."""
        kind = reading_kinds()[self.kind]
        loaded = ", loads on" if self.loaded else ""
        warm = f", at {self.celsius:g} °C" if self.celsius is not None else ""
        return f"{self.place_name}: {kind.label} {figure_of(self.kind, self.value)}{loaded}{warm}"


def figure_of(kind: str, value: float) -> str:
    """A value as it is shown: “0.66 Ω”; a plug-in tester's lamps in words."""
    if kind == LAMPS:
        return next((says for _, code, says in tester_lamps() if code == value), "not known")
    found = reading_kinds().get(kind)
    return f"{value:g} {found.unit}" if found else f"{value:g}"


LAMPS = "lamps"


@cache
def tester_lamps() -> tuple[tuple[str, float, str], ...]:
    """(what is said, its code, what the lamps show) of a plug-in tester."""
    return tuple((r["said"], float(r["code"]), r["says"]) for r in tables.rows("tester_lamps"))


def read_readings(site: Installation, text: str) -> tuple[TypedReading, ...]:
    """Each line by itself."""
    lines = [line for line in text.splitlines() if line.strip()][:MOST_LINES]
    return tuple(read_reading(site, line) for line in lines)


def read_reading(site: Installation, text: str) -> TypedReading:
    """One line."""
    said = " ".join(text.replace("–", "-").split())[:MOST_CHARACTERS]
    low = said.lower()
    loaded = bool(_LOADED.search(low))
    no_trip = bool(_NO_TRIP.search(low))
    rest = _NO_TRIP.sub(" ", _LOADED.sub(" ", low))
    place, name, rest = _place(site, rest)
    kind, rest = _kind(rest)
    celsius, rest = _celsius(rest) if kind and kind.key != "temperature" else (None, rest)
    if kind and kind.key == "clamp-bond" and place and _sort(site.elements()[place]) == "metal":
        kind = reading_kinds()["clamp"]  # “gas pipe bond clamp”
    if kind is not None and kind.key == "r2" and place and _is_ring(site, place):
        kind = reading_kinds()["ring-egc"]  # of a ring: r2, end to end
    if kind is None:
        kinds = "loop, r2, n-g, clamp, torque"
        return TypedReading(said, problem=f"“{said}”: which kind of reading? Say {kinds}.")
    rest = re.sub(_SETTINGS.get(kind.key, _NOTHING), " ", rest)
    value, left, problem = _value(kind, rest)
    if problem:
        return TypedReading(said, kind.key, problem=f"“{said}”: {problem}")
    if not place:
        place, name, left = _usual_place(site, kind, left)
    if place and _sort(site.elements()[place]) == "panel":
        own = r"\b(?:panel|board)\b" + (r"|\b(?:main|origin)\b" if place == site.panel.id else "")
        left = re.sub(own, " ", left)
    left = _without_beside(kind, left)
    if "electrode" in kind.at and re.search(_ROD, left):
        place, name, which = _rod(site, place)
        if which:
            return TypedReading(said, kind.key, problem=f"“{said}”: which rod? {which}.")
        left = re.sub(_ROD, " ", left)
    if place and _sort(site.elements()[place]) == "electrode":
        left = re.sub(r"\b(?:ground|earth)\b", " ", left)
    spare = _FILLERS.sub(" ", left).split()
    if spare:
        return TypedReading(said, kind.key, problem=f"“{' '.join(spare)}” was not understood.")
    if not place:
        return TypedReading(said, kind.key, problem=f"“{said}”: at which place?")
    element = site.elements()[place]
    if _sort(element) not in kind.at:
        return TypedReading(
            said, kind.key, problem=f"{kind.label.capitalize()} is not read at {name}."
        )
    return TypedReading(said, kind.key, place, name, value, loaded, celsius=celsius,
                       no_trip=no_trip)  # fmt: skip


def _without_beside(kind: ReadingKind, low: str) -> str:
    return re.sub(_BESIDE.get(kind.key, _NOTHING), " ", low)


def _rod(site: Installation, place: str) -> tuple[str, str, str]:
    """(id, name, "") of the one rod at a panel, or of the place; else the names of those it could
    be."""
    names = names_on_plan(site)
    rods = [e for e in site.electrodes if e.kind == "rod" and place in ("", e.panel, e.id)]
    if len(rods) == 1:
        return rods[0].id, names[rods[0].id], ""
    return place, "", ", ".join(names[e.id] for e in rods) or "none is entered there"


def _is_ring(site: Installation, place: str) -> bool:
    return getattr(site.elements()[place], "ring", None) == "yes"


def _celsius(low: str) -> tuple[float | None, str]:
    """(degrees that are said beside the value, the text without them): “at 22C”, “at 70 F”."""
    match = re.search(r"\bat\s+(-?\d{1,3}(?:[.]\d+)?)\s*°?\s*([cf])\b", low)
    if match is None:
        return None, low
    degrees = float(match[1])
    celsius = degrees if match[2] == "c" else (degrees - 32) / 1.8
    return round(celsius, 1), low[: match.start()] + " " + low[match.end() :]


def asked_of(site: Installation, text: str) -> tuple[str, str]:
    """(kind, place) of a line whose value is not read yet: “Studio outlets loop”; empty where it
    does not say."""
    low = " ".join(text.replace("–", "-").split())[:MOST_CHARACTERS].lower()
    place, _, rest = _place(site, _NO_TRIP.sub(" ", _LOADED.sub(" ", low)))
    kind, rest = _kind(rest)
    if kind is not None and not place:
        place, _, _ = _usual_place(site, kind, rest)
    return (kind.key if kind else ""), place


def _sort(element: Element) -> str:
    found = {Circuit: "circuit", Panel: "panel", Feeder: "feeder", Electrode: "electrode",
             Metal: "metal"}  # fmt: skip
    return found.get(type(element), "")


def _place(site: Installation, low: str) -> tuple[str, str, str]:
    """(id, name, the text without it) of the longest name that the text holds; "" for none or
    where two places have it."""
    names = {c.id: name_of(c) for c in (*site.circuits, *site.feeders)} | names_on_plan(site)
    names = {i: n for i, n in names.items() if _sort(site.elements()[i])}
    found = [i for i, n in names.items() if re.search(rf"\b{re.escape(n.lower())}\b", low)]
    if not found:
        return "", "", low
    longest = max(len(names[i]) for i in found)
    best = [i for i in found if len(names[i]) == longest]
    if len({names[i] for i in best}) == 1 and len(best) > 1:
        return "", "", low
    name = names[best[0]]
    return best[0], name, re.sub(rf"\b{re.escape(name.lower())}\b", " ", low, count=1)


def _kind(low: str) -> tuple[ReadingKind | None, str]:
    best, at = None, None
    for kind in reading_kinds().values():
        match = re.search(rf"(?<![\w-])(?:{kind.said})(?![\w+-])", low)
        if match and (at is None or len(match[0]) > len(at[0])):
            best, at = kind, match
    if best is None or at is None:
        return None, low
    return best, low[: at.start()] + " " + low[at.end() :]


#: What a meter shows at the end of its range is that figure and more.
_AND_MORE = r"(?:>\s*=?|≥|over|more\s+than|above)\s*(?=\d)|(?<=\d)\s*\+(?=\s|$|ω|ohm|m)"
LEAST_END_OHM = 1999.0


def _end_of_range(kind: ReadingKind, low: str) -> str:
    """“>550” of insulation, “2000+” of a loop: the figure itself, which is the least that it is.
    Nothing is taken off a figure inside of a range: there “over 2 Ω” would be no reading."""
    plain = re.sub(_AND_MORE, " ", low)
    figures = [float(f) for f in re.findall(r"\d+(?:\.\d+)?", plain)]
    if kind.unit == "MΩ" or (kind.unit == "Ω" and any(f >= LEAST_END_OHM for f in figures)):
        return plain
    return low


def _value(kind: ReadingKind, low: str) -> tuple[float, str, str]:
    """(value, the text without it, what is wrong)."""
    if kind.key == LAMPS:
        return _lamps(low)
    low = _end_of_range(kind, low)
    pattern = rf"(?<![\w.])(-?(?:\d+(?:[.,]\d+)?|[.]\d+))\s*{_UNITS[kind.unit]}(?![\w.])"
    found = list(re.finditer(pattern, low))
    if len(found) != 1:
        why = "which figure?" if found else f"its value in {kind.unit} is missing"
        if kind.unit == "Ω" and not found and _OVER_RANGE.search(low):
            why = "over the range: write where the meter's range ends, as 2000 Ω"
        return 0.0, low, why
    number = float(found[0][1].replace(",", "."))
    unit = found[0][0].strip()[len(found[0][1]) :].strip()
    for of, said, turned in _OTHER_UNITS:
        if of == kind.unit and re.fullmatch(said, unit):
            number = turned(number)
    number = float(f"{number:.6g}")  # 1900 mV is 1.9 V
    if not 0 <= number < 1e7:
        return 0.0, low, "that value cannot be read"
    return number, low[: found[0].start()] + " " + low[found[0].end() :], ""


def _lamps(low: str) -> tuple[float, str, str]:
    for said, code, _ in sorted(tester_lamps(), key=lambda row: -len(row[0])):
        match = re.search(rf"\b(?:{said})\b", low)
        if match:
            return code, low[: match.start()] + " " + low[match.end() :], ""
    return 0.0, low, "say what the lamps show: correct, open ground, open neutral, reversed"


_ROD = r"\b(?:ground\s+|earth\s+)?rods?\b"
#: What a reading is at where only a word for it is said.
_WORDS = (
    (r"\bgec\b|\belectrode conductor\b|\b(?:earth\s+)?electrodes?\b", "electrodes"),
    (r"\b(?:water|gas)\s+(?:pipe|bond)\b|\bpipe\b", "metals"),
    (
        r"\bmain(?:\s+(?:panel|lugs?|breaker))?\b|\bpanel\b|\bservice\b|\blugs?\b"
        r"|\b(?:main\s+)?board\b|\borigin\b|\bintake\b",
        "panels",
    ),
)


def _usual_place(site: Installation, kind: ReadingKind, low: str) -> tuple[str, str, str]:
    """The one place that a word can mean; an N–G reading without one is at the service."""
    names = names_on_plan(site)
    for pattern, list_name in _WORDS:
        match = re.search(pattern, low)
        if match is None:
            continue
        elements = getattr(site, list_name)
        if list_name == "panels":
            elements = [site.panel]
        if list_name == "metals":
            elements = [m for m in elements if (m.kind or "") in match[0]] or elements
        if list_name == "electrodes":  # the GEC that leaves the panel
            elements = elements[:1]
        if len(elements) == 1:
            rest = low[: match.start()] + " " + low[match.end() :]
            return elements[0].id, names[elements[0].id], rest
    if "panel" in kind.at and not _without_beside(kind, low).strip():
        return site.panel.id, names[site.panel.id], low
    return "", "", low
