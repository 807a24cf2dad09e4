"""What every element of a site is made of: facts that may be absent, with their metadata."""

from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from .. import tables
from ..conductor import insulation_limits, methods
from ..vocabulary import Size

METAL = {"copper": "copper", "aluminium": "aluminum"}
YES_NO = {"yes": "yes", "no": "no"}
EGC = {"wire": "EGC wire", "raceway": "steel raceway", "both": "both", "none": "none"}
Metal_ = Literal["copper", "aluminium"]
YesNo = Literal["yes", "no"]
Egc = Literal["wire", "raceway", "both", "none"]


def fact(label: str, kind: str, **meta: Any) -> Any:
    """A field that may be absent. ``kind``: number, length, amps, size, raceway, choice, text,
    or ref (``to``: the list that the id is in)."""
    return Field(default=None, json_schema_extra={"label": label, "kind": kind, **meta})


def yes_no(label: str, help: str = "", rules: str = "both") -> Any:
    """A fact that is yes, no or not known; ``rules`` whose it is."""
    return fact(label, "choice", choices=YES_NO, help=help, rules=rules)


def metal(label: str = "metal") -> Any:
    """Copper or aluminium."""
    return fact(label, "choice", choices=METAL)


def wiring_method() -> Any:
    """How a run is wired."""
    return fact("wiring method", "choice", choices={m.name: m.label for m in methods().values()})


PLAN_FT = 2000.0  # how far from the plan's corner anything stands


def east() -> Any:
    """Feet east of the plan's corner."""
    return fact("feet east", "number", unit="ft", low=-PLAN_FT, high=PLAN_FT,
                help="On the plan: from its southwest corner.")  # fmt: skip


def north() -> Any:
    """Feet north of the plan's corner."""
    return fact("feet north", "number", unit="ft", low=-PLAN_FT, high=PLAN_FT)


Compass = Literal["north", "east", "south", "west"]


def runs_to() -> Any:
    """Which way a pipe, footing or wire runs from where it is placed."""
    words = ("north", "east", "south", "west")
    return fact("runs to the", "choice", choices={w: w for w in words})


Route = Literal["dry", "wet", "underground", "insulation"]


RcdType = Literal["AC", "A", "F", "B"]


def rcd_ma(label: str = "RCD") -> Any:
    """The rated residual current of a residual-current device."""
    return fact(label, "number", unit="mA", low=1, high=3000)


def rcd_type() -> Any:
    """Which residual currents a residual-current device sees."""
    return fact(
        "RCD type",
        "choice",
        choices={"AC": "type AC", "A": "type A", "F": "type F", "B": "type B"},
        help="AC: a.c. only. A: pulses too. F: of mixed frequencies. B: smooth d.c. as well.",
        rules="metric",
    )


def route() -> Any:
    """Where a cable or conduit runs, as far as it decides what may be used there."""
    return fact(
        "runs",
        "choice",
        choices={
            "dry": "indoors, dry",
            "wet": "outdoors or wet",
            "underground": "underground",
            "insulation": "in thermal insulation",
        },
    )


def insulation() -> Any:
    """What the insulation is made of: how hot it may get for a moment."""
    return fact(
        "insulation",
        "choice",
        choices={
            r["insulation"]: r["label"]
            for r in tables.rows("insulations")
            if r["insulation"] in insulation_limits()
        },
    )


class Element(BaseModel):
    """Something with an id of its own: opaque, never reused."""

    model_config = ConfigDict(extra="forbid", frozen=True, str_max_length=200)
    id: str = Field(pattern=r"^[a-z]+[0-9]*$", max_length=12)


class Part(BaseModel):
    """A group of facts inside an element."""

    model_config = ConfigDict(extra="forbid", frozen=True, str_max_length=200)


class Around(Part):
    """What a run has around it: heat, company, a roof, what else is in its raceway."""

    ambient_f: float | None = fact(
        "hottest air around it",
        "number",
        unit="°F",
        low=-40,
        high=185,
        help="An attic in summer: 120 to 140. The tables are made for 86.",
        rules="us",
    )
    carrying: int | None = fact(
        "current-carrying conductors together",
        "number",
        low=1,
        high=200,
        whole=True,
        help="In its raceway, or bundled without space over more than 24 in. EGCs do not count, nor"
        " a neutral that carries only the unbalance.",
        rules="us",
    )
    neutral_counts: YesNo | None = yes_no(
        "its neutral counts",
        "Of two lines and neutral of a wye, or of mostly electronic load on a four-wire wye.",
        rules="us",
    )
    nm_together: int | None = fact(
        "NM cables together",
        "number",
        low=1,
        high=60,
        whole=True,
        help="Without space, in insulation or through one opening that is sealed or foamed.",
        rules="us",
    )
    above_roof_in: float | None = fact(
        "above a roof in the sun",
        "number",
        unit="in",
        low=0,
        high=120,
        help="Height of its raceway or cable above the roof.",
        rules="us",
    )
    cable_90: YesNo | None = yes_no(
        "cable marked 90 °C", "NM-B is; NM of before about 1985 may hold 60 °C wire.", rules="us"
    )
    raceway_wires: str | None = fact(
        "all wires in its raceway",
        "text",
        help="How many of which size: 3 #6, 1 #10 ground.",
        rules="us",
    )


class Segment(Part):
    """One stretch of a run: its wire, its method, its own fault path, its length."""

    method: str = "NM"
    length_ft: float = Field(gt=0, le=5000)
    line_size: Size
    line_material: Metal_ = "copper"
    egc: Egc = "wire"
    egc_size: Size | None = None
    egc_material: Metal_ | None = None
    raceway_size: str | None = None


class Provenance(Part):
    """Where a fact comes from, or what is known of one that is still absent."""

    kind: Literal["measured", "marking", "told", "no more than", "no less than", "cannot tell"]
    bound: float | None = None
    who: str = ""
    when: str = ""
