"""The installation as one document. A fact is a plain value or None: nobody has given it.

Each field's metadata (label, unit, kind, choices, limits, help) is what the bench, the error
sentences and the job file's documentation are made from. Assumed values are never stored.
"""

from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from .. import tables
from ..vocabulary import FactPath
from .base import Element, Part, Provenance
from .building import Building
from .circuits import Array, Circuit
from .earthing import Electrode, Joint, Metal
from .power import Feeder, Panel, Service, Supply

MOST = 1000  # elements of one list
LAST_ID = 99_999_999_999  # the last number an id has room for

#: The lists of a site: name → (what is in it, the letter its ids begin with), in working order.
LISTS: dict[str, tuple[type[Element], str]] = {
    "supplies": (Supply, "u"),
    "services": (Service, "s"),
    "buildings": (Building, "b"),
    "panels": (Panel, "p"),
    "feeders": (Feeder, "f"),
    "electrodes": (Electrode, "e"),
    "metals": (Metal, "m"),
    "circuits": (Circuit, "c"),
    "arrays": (Array, "a"),
    "joints": (Joint, "j"),
}


def school(
    label: str, default: Any, choices: dict[str, str], reasons: str, rules: str = "us"
) -> Any:
    """A point on which local practice differs: the first choice is the default. ``rules``: in
    which rule set it is asked."""
    more = {"label": label, "kind": "choice", "choices": choices, "help": reasons, "rules": rules}
    return Field(default=default, json_schema_extra=more)


class Requirement(Part):
    """A local requirement on top of the rules: what, who said so, when."""

    text: str = Field(max_length=200)
    who: str = Field(default="", max_length=80)
    when: str = Field(default="", max_length=40)


class Practice(Element):
    """Local practice: the schools that this place follows, with both reasons."""

    id: str = "practice"
    edition: Literal[2005, 2008, 2011, 2014, 2017, 2020, 2023, 2026] = school(
        "rules of", 2023, {str(e): str(e) for e in tables.EDITIONS}, "The edition in force here."
    )
    clearing: Literal["instantaneous", "five times", "timed", "one ohm"] = school(
        "clearing judged by",
        "instantaneous",
        {
            "instantaneous": "instantaneous trip",
            "five times": "five times the rating",
            "timed": "within 0.8 s",
            "one ohm": "one ohm",
        },
        "Instantaneous: the magnetic trip reaches. Five times: an older rule of thumb. Timed: the"
        " international limit, not a US rule. One ohm: lax, and meaningless above 20 A.",
    )
    clearing_required_by: str | None = Field(
        default=None,
        max_length=80,
        json_schema_extra={
            "label": "clearing is required by",
            "kind": "text",
            "help": "Who asks for it here, and when; empty: it is advice, and a slow trip is a"
            " check, never a fix.",
        },
    )
    arc_v: Literal[0, 40, 50] = school(
        "arc allowance",
        0,
        {"0": "none", "40": "40 V", "50": "50 V"},
        "Volts taken off for an arc at the fault. None: a bolted fault. 40 or 50 V: a cautious"
        " allowance.",
        rules="both",
    )
    electrode: Literal["two", "prove"] = school(
        "rods",
        "two",
        {"two": "always two", "prove": "prove one at 25 Ω"},
        "Two: cheaper than a test. Prove: one that measures 25 Ω or less may stand alone.",
    )
    rod_spacing: Literal["six", "twice"] = school(
        "rod spacing",
        "six",
        {"six": "6 ft least", "twice": "twice the rod’s length"},
        "6 ft: the rule's least. Twice its length: nearer rods share their soil.",
    )
    metal_conduit: Literal["accept", "wire"] = school(
        "metal conduit",
        "accept",
        {"accept": "accept as the return", "wire": "wire always"},
        "Accept: made up tight it is a permitted fault path. Wire: fittings loosen with the years.",
    )
    neutral: Literal["calculated", "same"] = school(
        "neutral",
        "calculated",
        {"calculated": "calculated", "same": "same as lines"},
        "Calculated: by its load, never under the table. Same: nothing to get wrong later.",
    )
    voltage_drop: Literal["advice", "limit"] = school(
        "voltage drop",
        "advice",
        {"advice": "advice", "limit": "limit"},
        "Advice: 3 and 5 % are notes to the rule. Limit: some offices enforce them.",
        rules="both",
    )
    gfci_at: Literal["breaker", "outlet"] = school(
        "GFCI and AFCI",
        "breaker",
        {"breaker": "at the breaker", "outlet": "at the receptacle"},
        "Breaker: the whole run is protected. Outlet: it is reset where it trips.",
    )
    shared_neutral: Literal["allowed", "avoid"] = school(
        "shared-neutral circuits",
        "allowed",
        {"allowed": "allowed with common opening", "avoid": "avoid"},
        "Allowed: less copper. Avoid: a lost neutral doubles the volts on one side.",
        rules="both",
    )
    array_bonding: Literal["washers", "wire"] = school(
        "array bonding",
        "washers",
        {"washers": "washers", "wire": "wire to every frame"},
        "Washers: listed and quick. Wire: seen from the ground, and lasts.",
    )
    array_electrode: Literal["edition"] = school(
        "array electrode", "edition", {"edition": "by edition"}, "The edition it was built under."
    )
    balance: Literal["load", "space"] = school(
        "balance",
        "load",
        {"load": "by load", "space": "by space"},
        "Load: what is drawn counts. Space: loads change, the count stays.",
        rules="both",
    )
    three_wire_ranges: Literal["keep", "replace"] = school(
        "three-wire ranges",
        "keep",
        {"keep": "keep if permitted", "replace": "replace"},
        "Keep: permitted where it was. Replace: a loose neutral makes the range live.",
    )
    dead_by: Literal["lock", "cap"] = school(
        "make dead by",
        "lock",
        {"lock": "lock", "cap": "cap conductors"},
        "Lock: quick to undo. Cap: nobody can switch it on by mistake.",
        rules="both",
    )
    touch_v: Literal[50, 25] = school(
        "touch voltage",
        50,
        {"50": "50 V", "25": "25 V"},
        "50 V: dry places. 25 V: asked for by some for farms, pools and building sites.",
        rules="metric",
    )
    socket_rcd: Literal["all", "outdoors"] = school(
        "30 mA for socket-outlets",
        "all",
        {"all": "all up to 32 A", "outdoors": "those outdoors only"},
        "All: anyone may plug in anything. Outdoors: older practice, where the others were wired"
        " before it was asked for.",
        rules="metric",
    )
    zs_measured: Literal["exact", "four fifths"] = school(
        "a Zs read cold",
        "exact",
        {"exact": "corrected for temperature", "four fifths": "against 0.8 of the allowed"},
        "Corrected: by the metal's own coefficient. 0.8: a rule of thumb on the cautious side.",
        rules="metric",
    )
    rcd_times: Literal["once", "also five"] = school(
        "RCD times are read",
        "once",
        {"once": "at its rating", "also five": "at its rating and at five times"},
        "At its rating: the test that finds a worn device. Five times too: it takes as long again,"
        " and shows the time that protects a person.",
        rules="metric",
    )
    devices_per_circuit: int | None = Field(default=None, ge=1, le=60)
    requirements: tuple[Requirement, ...] = Field(
        default=(), max_length=100, json_schema_extra={"label": "local requirements"}
    )


class Installation(BaseModel):
    """One job's site as a document: what a revision stores.

    ``sources`` maps a fact's path (``"c1.length_ft"``) to where it comes from; ``last_id`` is
    the number of the newest id ever given, so that none is used twice.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    frequency_hz: Literal[50, 60] = 60
    supplies: tuple[Supply, ...] = Field(default=(Supply(id="u1"),), max_length=20)
    services: tuple[Service, ...] = Field(default=(Service(id="s1"),), max_length=20)
    buildings: tuple[Building, ...] = Field(default=(), max_length=MOST)
    panels: tuple[Panel, ...] = Field(default=(Panel(id="p1"),), max_length=MOST)
    feeders: tuple[Feeder, ...] = Field(default=(), max_length=MOST)
    electrodes: tuple[Electrode, ...] = Field(default=(Electrode(id="e1"),), max_length=MOST)
    metals: tuple[Metal, ...] = Field(default=(), max_length=MOST)
    circuits: tuple[Circuit, ...] = Field(default=(), max_length=MOST)
    arrays: tuple[Array, ...] = Field(default=(), max_length=50)
    joints: tuple[Joint, ...] = Field(default=(), max_length=MOST)
    soil_ohm_m: float | None = Field(default=None, ge=0.5, le=100_000)
    practice: Practice = Practice()
    sources: dict[FactPath, Provenance] = Field(default={}, max_length=5000)
    last_id: int = Field(default=1, ge=1)

    @property
    def supply(self) -> Supply:
        """The first supply: the utility's."""
        return self.supplies[0]

    @property
    def service(self) -> Service:
        """The first service run."""
        return self.services[0]

    @property
    def panel(self) -> Panel:
        """The panel or enclosure that the first service run reaches."""
        return next(p for p in self.panels if p.id == self.services[0].to)

    @property
    def electrode(self) -> Electrode:
        """The first electrode of the service."""
        return self.electrodes[0]

    def elements(self) -> dict[str, Element]:
        """Every element by id, in the order of the work."""
        found = {e.id: e for name in LISTS for e in getattr(self, name)}
        found[self.practice.id] = self.practice
        return found

    def circuit(self, circuit_id: str) -> Circuit:
        """The circuit with this id; KeyError when there is none."""
        for circuit in self.circuits:
            if circuit.id == circuit_id:
                return circuit
        raise KeyError(circuit_id)

    def value_at(self, path: str) -> Any:
        """The stored value at ``"c1.breaker.rating_a"``; KeyError where there is no such place."""
        path = FactPath(path)
        here: Any = self.elements()[path.element]
        for name in path.names:
            if not isinstance(here, BaseModel) or name not in type(here).model_fields:
                raise KeyError(path)
            here = getattr(here, name)
        return here


_NAMES = {
    "Supply": "Supply",
    "Service": "Service run",
    "Panel": "Panel",
    "Electrode": "Electrodes",
    "Practice": "Local practice",
    "Circuit": "Unnamed circuit",
    "Building": "Building",
    "Feeder": "Feeder",
    "Metal": "Metal",
    "Array": "Array",
    "Joint": "Joint",
}


def name_of(element: Element) -> str:
    """What an element is called in words."""
    if given := getattr(element, "name", None):
        return given
    if isinstance(element, Electrode) and element.kind is not None:
        info = Electrode.model_fields["kind"].json_schema_extra
        words = info["choices"][element.kind]
        return words[:1].upper() + words[1:]
    return _NAMES[type(element).__name__]
