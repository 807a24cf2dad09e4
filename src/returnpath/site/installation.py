"""The installation as one document. A fact is a plain value or None: nobody has given it.

Each field's metadata (label, unit, kind, choices, limits, help) is what the bench, the error
sentences and the job file's documentation are made from. Assumed values are never stored.
"""

from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from .. import tables
from .base import Element, Source
from .circuits import Array, Circuit
from .earthing import Electrode, Joint, Metal
from .power import Building, Feeder, Panel, Service, Supply

MOST = 1000  # elements of one list

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


class Practice(Element):
    """Local practice: the schools that this place follows."""

    id: str = "practice"
    edition: Literal[2008, 2011, 2014, 2017, 2020, 2023] = Field(
        default=2023,
        json_schema_extra={
            "label": "rules of",
            "kind": "choice",
            "choices": {str(e): str(e) for e in tables.EDITIONS},
        },
    )
    clearing: Literal["instantaneous", "five times", "timed", "one ohm"] = Field(
        default="instantaneous",
        json_schema_extra={
            "label": "clearing judged by",
            "kind": "choice",
            "choices": {
                "instantaneous": "opens at once",
                "five times": "five times the rating",
                "timed": "within 0.8 s",
                "one ohm": "one ohm home",
            },
            "help": "At once: the magnetic trip must reach. Five times: an older rule of thumb."
            " Timed: the international limit, not a US rule. One ohm: lax, and meaningless"
            " above 20 A.",
        },
    )
    arc_v: Literal[0, 40, 50] = Field(
        default=0,
        json_schema_extra={
            "label": "arc allowance",
            "kind": "choice",
            "choices": {"0": "none", "40": "40 V", "50": "50 V"},
            "help": "Volts taken off for an arc at the fault. None: a bolted fault. 40 or 50 V:"
            " a cautious allowance.",
        },
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
    sources: dict[str, Source] = Field(default={}, max_length=5000)
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
        element_id, _, rest = path.partition(".")
        here: Any = self.elements()[element_id]
        for name in rest.split("."):
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
    return getattr(element, "name", None) or _NAMES[type(element).__name__]
