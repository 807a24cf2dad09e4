"""What every kind of typed line makes: the reading, and what its makers share."""

from dataclasses import dataclass, field
from typing import Any

from ...vocabulary import FactPath
from ..edits import Edit
from ..installation import Installation
from .kind import (
    ARRAY,
    BUILDING,
    CIRCUIT,
    ELECTRODE,
    METAL,
    PANEL,
    SERVICE,
    SUPPLY,
    LineKind,
)
from .line import Line
from .name import take_name

OWN_BUILDING = "in a building of its own"
KIND_WORDS = {
    CIRCUIT: "A circuit", PANEL: "A sub-panel", ELECTRODE: "An electrode", METAL: "Other metal",
    BUILDING: "A building", SUPPLY: "A source", SERVICE: "The service run", ARRAY: "An array",
}  # fmt: skip


@dataclass
class PlaceReading:
    """What was read: ``kind`` first, in words too; the ``edits`` it makes; ``facts`` by the job
    file's keys, ``assumed`` those of custom; ``unused`` the words that are neither, ``doubts`` the
    other kinds it could be; ``problems`` what cannot be."""

    kind: str = ""
    count: int = 1
    title: str = ""
    facts: dict[str, Any] = field(default_factory=dict)
    assumed: list[str] = field(default_factory=list)
    edits: list[Edit] = field(default_factory=list)
    words: list[str] = field(default_factory=list)
    assumed_words: list[str] = field(default_factory=list)
    unused: list[str] = field(default_factory=list)
    doubts: list[str] = field(default_factory=list)
    problems: list[str] = field(default_factory=list)
    remarks: list[str] = field(default_factory=list)  # what to think of before it is kept
    is_asked: bool = False  # nothing says that it is of this kind: it is offered too

    @property
    def offered(self) -> list[tuple[str, str]]:
        """The kinds to choose from, each with its words."""
        kinds = [self.kind, *self.doubts] if self.is_asked else self.doubts
        return [(kind, KIND_WORDS[kind]) for kind in kinds]

    @property
    def is_complete(self) -> bool:
        """Whether it makes something and nothing was left over."""
        return bool(self.edits) and not self.problems and not self.unused

    @property
    def kept_words(self) -> str:
        """The read-back for the history and of a list; of what is assumed, the part it makes."""
        made = [f"{w} (assumed)" for w in self.assumed_words if w == OWN_BUILDING]
        return ", ".join([self.title, *self.words, *made, *self.remarks])


@dataclass
class Making:
    """What the makers share."""

    site: Installation
    line: Line
    kind: LineKind
    panel: str
    made: PlaceReading
    accept: str

    def name(self, allowed: frozenset[str] = frozenset()) -> str:
        """The name that is left, with the words that mean nothing as the person decided."""
        if self.kind.word is not None:
            self.line.take(self.kind.word)
        name, unused = take_name(self.line, allowed=allowed)
        if unused and self.accept == "name":
            return f"{name} {' '.join(unused)}".strip()[:80]
        self.made.unused = [] if self.accept == "drop" else unused
        return name

    def left_is_unused(self) -> None:
        """Where the thing has no name: all that is left was not used."""
        if self.kind.word is not None:
            self.line.take(self.kind.word)
        _, left = take_name(self.line, may_have_any=False)
        self.made.unused = [] if self.accept in ("drop", "name") else left

    def told(self, fact: str, words: str) -> None:
        """One fact in words, as read or as assumed."""
        (self.made.assumed_words if fact in self.line.assumed else self.made.words).append(words)


def nested(flat: dict[str, Any]) -> dict[str, Any]:
    """``{"breaker.rating_a": 20}`` as the job file has it."""
    found: dict[str, Any] = {}
    for key, value in flat.items():
        group, *leaf = FactPath.of("c1", key).names
        if leaf:
            found.setdefault(group, {})[leaf[0]] = value
        else:
            found[key] = value
    return found


def only(line: Line, keys) -> dict[str, Any]:
    """The line's facts that an element has; any other figure it gives is not silently lost."""
    for key in line.facts.keys() - set(keys) - {"proved_ohm", "main.rating_a"}:
        if key not in line.assumed:
            value = line.facts[key]
            shown = f"{value:g}" if isinstance(value, float) else value
            line.problems.append(f"{_LABELS.get(key, key)} ({shown}) does not belong to it.")
    return {k: line.facts[k] for k in keys if k in line.facts}


#: What the kinds that are no run make of an electrical fact; any other is refused.
USES = {
    ELECTRODE: ("length_ft", "diameter_in", "line_size", "line_material", "gec_size", "egc_size",
                "spacing_ft", "depth_in", "egc"),
    METAL: ("line_size", "line_material", "egc_size", "egc", "length_ft"),
    BUILDING: ("year",),
    SUPPLY: ("load_va", "breaker.rating_a", "breaker.kind", "ze_ohm", "fault_a", "line_size", "line_material", "length_ft", "egc",
             "egc_size"),
    SERVICE: ("length_ft", "line_size", "line_material", "neutral_size", "neutral", "sets",
              "breaker.rating_a", "poles", "route", "spaces"),
    ARRAY: ("length_ft", "line_size", "line_material", "egc_size", "egc", "load_va"),
}  # fmt: skip


_LABELS = {"spacing_ft": "A distance apart", "neutral_size": "A neutral of its own size",
           "sets": "Parallel sets", "gfci": "GFCI", "afci": "AFCI", "space": "A space",
           "length_ft": "A length", "load_va": "A load", "line_size": "A wire size",
           "breaker.rating_a": "A breaker", "poles": "Poles", "year": "A year",
           "method": "A wiring method", "raceway_size": "A trade size", "neutral": "A neutral",
           "nameplate_mca_a": "MCA", "nameplate_max_a": "MOCP", "tandem": "A tandem breaker",
           "line_material": "A metal", "breaker.interrupting_ka": "An interrupting rating",
           "outlets": "Receptacles", "spaces": "A number of spaces", "relied_on": "Flexible metal or armor", "flex_ft": "Flexible metal", "depth_in": "A depth", "egc": "A ground", "egc_size": "A ground wire"}  # fmt: skip
