"""What stands in for facts of electrodes and other metal: ohms from kind, size and soil."""

from functools import cache

from .. import earth, tables
from ..site import Electrode, Metal
from ..vocabulary.units import FOOT_M as FEET
from ..vocabulary.units import INCH_M as INCH
from .filling import Filling, usual


def electrode_ohm(electrode: Electrode, soil_ohm_m: float) -> float | None:
    """Ohms of one electrode from its kind, sizes and soil; None where it counts for nothing."""
    kind, length = electrode.kind, electrode.length_ft
    radius = (electrode.diameter_in or usual("rod diameter in")) * INCH / 2
    depth = (electrode.depth_in or usual("plate and ring depth in")) * INCH
    if kind == "rod":
        return earth.rod(soil_ohm_m, (length or usual("rod length ft")) * FEET, radius)
    if kind == "plate":
        area = (electrode.area_sqft or usual("plate area sq ft")) * FEET**2
        return earth.plate(soil_ohm_m, area, depth)
    if kind == "concrete":
        steel = (length or usual("concrete-encased length ft")) * FEET
        wire = (electrode.diameter_in or 0.5) * INCH / 2
        return earth.concrete_encased(soil_ohm_m, steel, wire, depth)
    if kind == "ring":
        diameter = (length or usual("ring length ft")) * FEET / 3.14159
        return earth.ring(soil_ohm_m, diameter, (electrode.diameter_in or 0.29) * INCH, depth)
    if kind == "water":
        if length is None:
            return None  # an unknown length counts for nothing
        return earth.buried_wire(soil_ohm_m, length * FEET, radius, depth)
    return _service_electrode_ohm()


def fill_electrode(f: Filling, soil_ohm_m: float, is_tt: bool, is_apart: bool = False) -> None:
    element: Electrode = f.element
    if element.kind in (None, "several"):
        why = "a rod that just passes; it matters little while the bond is closed"
        f.fill("ohm", _service_electrode_ohm(), why=why)
    else:
        why = f"from its kind and {soil_ohm_m:g} Ω·m soil"
        known = element.proved_ohm
        f.fill("ohm", known or (lambda: electrode_ohm(element, soil_ohm_m)), why=why)
    f.fill("gec_material", "copper", why="usual")
    if is_tt:
        f.fill("lands", "ground bar", why="TT: the electrode is the protective bar's own")
    if is_apart:
        f.fill("lands", "ground bar", why="past the service the neutral bar is no place for it")
    f.fill("lands", "neutral bar", "electrode conductor lands")


@cache
def _service_electrode_ohm() -> float:
    text = tables.assumption_texts()["service electrode ohm"][0]
    return float(next(w for w in text.split() if w.isdecimal()))


def fill_metal(f: Filling) -> None:
    element: Metal = f.element
    f.fill("bond_material", "copper", why="usual")
    if element.shared_main == "yes":
        f.fill("main_ohm", usual("shared water main ohm"), "shared water main ohm")
    if element.also_joins is not None:
        fact = "metal way between buildings ohm"
        f.fill("join_ohm", usual(fact), fact)
