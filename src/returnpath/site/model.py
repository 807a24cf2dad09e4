"""The installation as pydantic models. A fact is a plain value or None: nobody has given it.

Each field's metadata (label, unit, kind, choices, limits, help) is what the bench, the error
sentences and the job file's documentation are made from. Assumed values are never stored.
"""

from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from .. import tables
from ..conductor import methods
from ..device import largest_rating


def fact(label: str, kind: str, **meta: Any) -> Any:
    """A field that may be absent. ``kind``: number, length, amps, size, raceway, choice, text."""
    return Field(default=None, json_schema_extra={"label": label, "kind": kind, **meta})


class Element(BaseModel):
    """Something with an id of its own: opaque, never reused."""

    model_config = ConfigDict(extra="forbid", frozen=True, str_max_length=200)
    id: str = Field(pattern=r"^[a-z]+[0-9]*$", max_length=12)


class Part(BaseModel):
    """A group of facts inside an element."""

    model_config = ConfigDict(extra="forbid", frozen=True, str_max_length=200)


MOST_CIRCUITS = 200
METAL = {"copper": "copper", "aluminium": "aluminium"}
YES_NO = {"yes": "yes", "no": "no"}


class Source(Part):
    """Where a fact comes from, or what is known of one that is still absent."""

    kind: Literal["measured", "marking", "told", "no more than", "no less than", "cannot tell"]
    bound: float | None = None
    who: str = ""
    when: str = ""


class Device(Part):
    """An inverse-time breaker."""

    rating_a: float | None = fact("breaker", "amps", low=1, high=largest_rating())
    magnetic: Literal["trips", "none"] | None = fact(
        "magnetic trip",
        "choice",
        choices={"trips": "has one", "none": "none (old breaker)"},
        help="Old breakers may open by heat alone.",
    )
    lo: float | None = fact(
        "magnetic trip from",
        "number",
        unit="× rating",
        low=2,
        high=40,
        help="The lowest current at which the maker says it may trip at once.",
    )
    hi: float | None = fact(
        "magnetic trip to",
        "number",
        unit="× rating",
        low=2,
        high=40,
        help="The current at which the maker says it trips at once for certain.",
    )
    interrupting_ka: float | None = fact(
        "interrupting rating", "number", unit="kA", low=1, high=200, help="On its label: 10 or 22."
    )


class Supply(Element):
    """The utility's transformer, or what the utility says of it."""

    kva: float | None = fact("transformer", "number", unit="kVA", low=1, high=500)
    percent_z: float | None = fact(
        "impedance", "number", unit="%", low=0.2, high=20, help="%Z on the plate."
    )
    x_over_r: float | None = fact("X/R", "number", low=0, high=50)
    fault_a: float | None = fact(
        "available fault current",
        "amps",
        low=50,
        high=200_000,
        help="At the transformer's terminals. Utilities give a maximum: it serves the highest"
        " current only.",
    )
    fault_kind: Literal["line to line", "line to neutral"] | None = fact(
        "given as",
        "choice",
        choices={"line to line": "line to line", "line to neutral": "line to neutral"},
    )
    primary_mva: float | None = fact(
        "primary short-circuit level",
        "number",
        unit="MVA",
        low=0.05,
        high=1e6,
        help="Single-phase, where the utility gives one.",
    )
    earth_ohm: float | None = fact("utility neutral to earth", "number", unit="Ω", low=0, high=1000)


class Service(Element):
    """The run from the transformer to the service panel."""

    run: Literal["overhead", "underground"] | None = fact(
        "service run",
        "choice",
        choices={"overhead": "overhead drop", "underground": "underground lateral"},
    )
    length_ft: float | None = fact("length", "length", low=0, high=5000)
    line_size: str | None = fact("line conductors", "size")
    line_material: Literal["copper", "aluminium"] | None = fact("metal", "choice", choices=METAL)
    neutral_size: str | None = fact("neutral", "size")
    sets: int | None = fact("parallel sets", "number", low=1, high=6, whole=True)


class Panel(Element):
    """The service panel: main breaker, bars and the bond between them."""

    name: str | None = fact("panel", "text")
    main: Device = Device()
    bond: Literal["in", "out"] | None = fact(
        "main bond",
        "choice",
        choices={"in": "in", "out": "out"},
        help="Screw, strap or wire between the neutral bar and the ground bar or case.",
    )
    bond_kind: Literal["screw", "strap", "wire"] | None = fact(
        "kind of bond",
        "choice",
        choices={"screw": "screw", "strap": "strap", "wire": "wire"},
    )
    bond_size: str | None = fact("bonding jumper", "size", help="Where the bond is a wire.")
    terminals_c: Literal[60, 75] | None = fact(
        "terminals", "choice", choices={"60": "60 °C", "75": "75 °C"}, help="On the breaker."
    )


class Electrode(Element):
    """The grounding electrode system and the conductor that goes to it."""

    kind: Literal["rod", "plate", "concrete", "ring", "water", "several"] | None = fact(
        "electrode",
        "choice",
        choices={
            "rod": "ground rods only",
            "concrete": "concrete-encased",
            "water": "metal water pipe",
            "ring": "ground ring",
            "plate": "plate",
            "several": "several kinds",
        },
    )
    ohm: float | None = fact("resistance", "number", unit="Ω", low=0.01, high=100_000)
    gec_size: str | None = fact("electrode conductor", "size")
    gec_material: Literal["copper", "aluminium"] | None = fact("metal", "choice", choices=METAL)
    lands: Literal["neutral bar", "ground bar"] | None = fact(
        "lands on",
        "choice",
        choices={"neutral bar": "neutral bar", "ground bar": "ground bar"},
    )


class Circuit(Element):
    """One branch circuit from the panel to the metal it feeds."""

    panel: str = "p1"
    name: str | None = fact("circuit", "text")
    breaker: Device = Device()
    poles: Literal[1, 2] | None = fact("poles", "choice", choices={"1": "one", "2": "two"})
    neutral: Literal["yes", "no"] | None = fact("neutral", "choice", choices=YES_NO)
    method: str | None = fact(
        "wiring method", "choice", choices={m.name: m.label for m in methods().values()}
    )
    length_ft: float | None = fact(
        "one-way length", "length", low=0, high=5000, help="Along the cable, panel to outlet."
    )
    line_size: str | None = fact("line wire", "size")
    line_material: Literal["copper", "aluminium"] | None = fact("metal", "choice", choices=METAL)
    insulation: str | None = fact(
        "insulation",
        "choice",
        choices={r["insulation"]: r["label"] for r in tables.rows("insulations")},
    )
    egc: Literal["wire", "raceway", "both", "none"] | None = fact(
        "return path",
        "choice",
        choices={"wire": "ground wire", "raceway": "steel raceway", "both": "both", "none": "none"},
        help="What joins the metal case to the panel's ground bar.",
    )
    egc_size: str | None = fact("ground wire", "size")
    egc_material: Literal["copper", "aluminium"] | None = fact("metal", "choice", choices=METAL)
    raceway_size: str | None = fact("trade size", "raceway", unit="in")
    gfci: Literal["yes", "no"] | None = fact(
        "ground-fault protection", "choice", choices=YES_NO, help="A GFCI breaker or outlet."
    )


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
    supplies: tuple[Supply, ...] = Field(default=(Supply(id="u1"),), min_length=1, max_length=1)
    service: Service = Service(id="s1")
    panels: tuple[Panel, ...] = Field(default=(Panel(id="p1"),), min_length=1, max_length=1)
    electrodes: tuple[Electrode, ...] = Field(
        default=(Electrode(id="e1"),), min_length=1, max_length=1
    )
    circuits: tuple[Circuit, ...] = Field(default=(), max_length=MOST_CIRCUITS)
    practice: Practice = Practice()
    sources: dict[str, Source] = Field(default={}, max_length=5000)
    last_id: int = Field(default=1, ge=1)

    @property
    def supply(self) -> Supply:
        """The utility's supply."""
        return self.supplies[0]

    @property
    def panel(self) -> Panel:
        """The service panel."""
        return self.panels[0]

    @property
    def electrode(self) -> Electrode:
        """The electrode system of the service."""
        return self.electrodes[0]

    def elements(self) -> dict[str, Element]:
        """Every element by id, in the order of the work."""
        listed = (*self.supplies, self.service, *self.panels, *self.electrodes, *self.circuits)
        return {e.id: e for e in (*listed, self.practice)}

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
