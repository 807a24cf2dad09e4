"""Electrodes, other metal, and joints that are not what they should be."""

from typing import Literal

from ..vocabulary import BranchId, Size
from .base import Compass, Element, Metal_, YesNo, east, fact, metal, north, runs_to, yes_no


class Electrode(Element):
    """One grounding electrode (or a kind of them) and the conductor that goes to it."""

    name: str | None = fact("electrode", "text")
    panel: str = "p1"
    kind: Literal["rod", "plate", "concrete", "ring", "water", "several"] | None = fact(
        "electrode",
        "choice",
        choices={
            "rod": "ground rod",
            "concrete": "concrete-encased electrode (Ufer)",
            "water": "metal water pipe",
            "ring": "ground ring",
            "plate": "plate",
            "several": "several kinds",
        },
    )
    ohm: float | None = fact("resistance", "number", unit="Ω", low=0.01, high=100_000)
    length_ft: float | None = fact(
        "length in the ground", "length", low=0.5, high=1000, help="Rod, pipe, wire or steel."
    )
    diameter_in: float | None = fact("diameter", "number", unit="in", low=0.05, high=12)
    area_sqft: float | None = fact("plate area", "number", unit="sq ft", low=0.2, high=100)
    depth_in: float | None = fact("depth", "number", unit="in", low=1, high=240)
    near: str | None = fact("next to", "ref", to="electrodes")
    spacing_ft: float | None = fact("distance from it", "length", low=0.1, high=500)
    year: int | None = fact("set in", "number", low=1880, high=2100, whole=True)
    joined: YesNo | None = yes_no("connected to the others")
    proved_ohm: float | None = fact("measured", "number", unit="Ω", low=0.01, high=100_000)
    gec_size: Size | None = fact("electrode conductor", "size")
    gec_material: Metal_ | None = metal()
    goes_on_to: str | None = fact(
        "its conductor goes on to", "ref", to="electrodes", help="One conductor for both."
    )
    gec_length_ft: float | None = fact("its length", "length", low=0, high=500)
    gec_exposed: YesNo | None = yes_no("exposed to damage")
    gec_splice: Literal["none", "irreversible", "other"] | None = fact(
        "splice",
        "choice",
        choices={"none": "none", "irreversible": "irreversible", "other": "other"},
    )
    gec_sleeve: Literal["none", "plastic", "steel, both ends", "steel, one end"] | None = fact(
        "sleeve",
        "choice",
        choices={
            "none": "none",
            "plastic": "plastic",
            "steel, both ends": "steel, bonded at both ends",
            "steel, one end": "steel, bonded at one end",
        },
    )
    gec_height_in: float | None = fact("lowest height", "number", unit="in", low=-240, high=240)
    clamp: Literal["listed", "not listed"] | None = fact(
        "clamp", "choice", choices={"listed": "listed", "not listed": "not listed"}
    )
    clamp_wires: int | None = fact("wires under it", "number", low=0, high=9, whole=True)
    entry_ft: float | None = fact(
        "connected from where the pipe enters", "length", low=0, high=500,
        help="The first 5 ft inside count; past them only where the pipe cannot be opened.",
    )  # fmt: skip
    east_ft: float | None = east()
    north_ft: float | None = north()
    runs: Compass | None = runs_to()
    lands: Literal["neutral bar", "ground bar"] | None = fact(
        "lands on",
        "choice",
        choices={"neutral bar": "neutral bar", "ground bar": "ground bar"},
    )


class Metal(Element):
    """Other metal: pipe, gas, structure, pool, or anything within reach."""

    name: str | None = fact("metal", "text")
    panel: str | None = fact("bonded at", "ref", to="panels")
    kind: Literal["water", "gas", "structure", "pool", "other"] | None = fact(
        "kind",
        "choice",
        choices={
            "water": "water pipe",
            "gas": "gas pipe",
            "structure": "structure",
            "pool": "pool or spa",
            "other": "other metal",
        },
    )
    material: Literal["metal", "plastic", "mixed", "none"] | None = fact(
        "made of",
        "choice",
        choices={
            "metal": "metal",
            "plastic": "plastic",
            "mixed": "metal and plastic",
            "none": "there is none here",
        },
    )
    bonded: YesNo | None = yes_no("bonded")
    bond_size: Size | None = fact("bonding wire", "size")
    bond_material: Metal_ | None = metal()
    earth_ohm: float | None = fact("to earth", "number", unit="Ω", low=0.01, high=1e6)
    shared_main: YesNo | None = yes_no(
        "metal main shared with neighbors", "A metal way to the neighbors' neutral."
    )
    main_ohm: float | None = fact("of the shared main", "number", unit="Ω", low=0.001, high=100)
    also_joins: str | None = fact(
        "also joins", "ref", to="panels", help="The panel of another building it reaches."
    )
    join_ohm: float | None = fact("of that way", "number", unit="Ω", low=0.0001, high=1000)
    corrugated: Literal["yes", "arc-resistant", "no"] | None = fact(
        "CSST",
        "choice",
        choices={"yes": "yes, yellow", "arc-resistant": "yes, listed arc-resistant", "no": "no"},
        help="Corrugated stainless steel gas tubing.",
        rules="us",
    )
    water_bonded: YesNo | None = yes_no(
        "pool water bonded", "A listed fitting of 9 sq in in contact with the water."
    )
    perimeter_bonded: YesNo | None = yes_no(
        "perimeter bonded", "8 AWG or the reinforcing steel, 3 ft around."
    )
    live_by: str | None = fact(
        "could be made live by", "ref", to="circuits", help="The circuit of the gas appliance."
    )
    east_ft: float | None = east()
    north_ft: float | None = north()
    runs: Compass | None = runs_to()
    past_repair: YesNo | None = yes_no("a plastic repair cuts it off from its bond")


class Joint(Element):
    """A joint that is loose (ohms) or open, on one branch: ``f1.neutral``, ``s1.line2``."""

    on: BranchId = BranchId("")
    ohm: float | None = fact("resistance", "number", unit="Ω", low=0, high=1e6)
    open: YesNo | None = yes_no("open")
    hardware: (
        Literal["washer reused", "indoor lug", "copper on aluminum", "two wires", "not listed"]
        | None
    ) = fact(
        "what is wrong with it",
        "choice",
        choices={
            "washer reused": "washer used before",
            "indoor lug": "indoor lug outdoors",
            "copper on aluminum": "copper on aluminum",
            "two wires": "two wires in one lug",
            "not listed": "not listed for it",
        },
        help="Of an array's joint: it may carry today and not in ten years.",
    )
