"""Resistance of electrodes to remote earth. method 7; ρ in Ω·m, lengths in metres.

            |  L       s = 2 × depth
     -------+-------   ground
            |
            | a (radius)

Formulas: the long-used ones for rods, wires, rings and plates in uniform soil.
"""

import math

import numpy as np

from .. import working
from ..errors import number_in
from ..vocabulary.units import FOOT_M as FEET
from ..vocabulary.units import INCH_M as INCH
from ..working import Working, figures
from .soil import probe_distances_ft

CONCRETE_OHM_M = 60.0
CONCRETE_COVER_M = 3 * INCH


def _soil(soil_ohm_m: float) -> float:
    return number_in(soil_ohm_m, "Soil resistivity", 0.5, 100_000, "Ω·m")


def rod(soil_ohm_m: float, length_m: float, radius_m: float) -> float:
    """A driven rod: ρ/(2πL)·(ln(4L/a) − 1), Ω."""
    _soil(soil_ohm_m)
    number_in(length_m, "Rod length", 0.15, 60, "m")
    number_in(radius_m, "Rod radius", 0.001, 0.2, "m")
    return soil_ohm_m / (2 * math.pi * length_m) * (math.log(4 * length_m / radius_m) - 1)


def mutual_rods(soil_ohm_m: float, length_m: float, distance_m: float) -> float:
    """Mutual resistance of two equal rods: ρ/(2πL)·[asinh(2L/d) + d/2L − √(1 + d²/4L²)], Ω."""
    _soil(soil_ohm_m)
    number_in(distance_m, "Distance of rods", 0.02, 1000, "m")
    ratio = distance_m / (2 * length_m)
    term = math.asinh(1 / ratio) + ratio - math.sqrt(1 + ratio**2)
    return soil_ohm_m / (2 * math.pi * length_m) * term


def together(matrix: np.ndarray) -> float:
    """Resistance of electrodes joined above ground, from their resistance matrix, Ω."""
    ones = np.ones(len(matrix))
    return float(1 / (ones @ np.linalg.solve(matrix, ones)))


def rods(
    soil_ohm_m: float, length_m: float, radius_m: float, count: int, spacing_m: float
) -> float:
    """``count`` equal rods in a row, ``spacing_m`` apart, joined, Ω."""
    number_in(count, "Number of rods", 1, 50)
    own = rod(soil_ohm_m, length_m, radius_m)
    matrix = np.full((count, count), own)
    for i in range(count):
        for j in range(count):
            if i != j:
                matrix[i, j] = mutual_rods(soil_ohm_m, length_m, abs(i - j) * spacing_m)
    return together(matrix)


def buried_wire(soil_ohm_m: float, length_m: float, radius_m: float, depth_m: float) -> float:
    """A straight wire of whole length ``length_m`` at ``depth_m``, Ω.

    With half length L and s = 2 × depth: ρ/(4πL)·(ln(4L/a) + ln(4L/s) − 2 + s/2L − s²/16L² +
    s⁴/512L⁴).
    """
    _soil(soil_ohm_m)
    number_in(length_m, "Length in the ground", 0.15, 1000, "m")
    number_in(radius_m, "Radius", 0.0005, 1, "m")
    half, s = length_m / 2, 2 * number_in(depth_m, "Depth", 0.05, 50, "m")
    # The series is for a wire longer than its depth; a short one is taken as deep as half its
    # length, which errs against it.
    s = min(s, 2 * half)
    series = s / (2 * half) - s**2 / (16 * half**2) + s**4 / (512 * half**4)
    logs = math.log(4 * half / radius_m) + math.log(4 * half / s)
    return soil_ohm_m / (4 * math.pi * half) * (logs - 2 + series)


def ring(soil_ohm_m: float, diameter_m: float, wire_m: float, depth_m: float) -> float:
    """A ring of wire of diameter ``wire_m``: ρ/(2π²D)·(ln(8D/w) + ln(4D/s)), Ω."""
    _soil(soil_ohm_m)
    number_in(diameter_m, "Ring diameter", 0.5, 1000, "m")
    number_in(wire_m, "Wire diameter", 0.001, 0.2, "m")
    s = 2 * number_in(depth_m, "Depth", 0.05, 50, "m")
    logs = math.log(8 * diameter_m / wire_m) + math.log(4 * diameter_m / s)
    return soil_ohm_m / (2 * math.pi**2 * diameter_m) * logs


def plate(soil_ohm_m: float, area_m2: float, depth_m: float) -> float:
    """A plate, one face, by its equal-area radius r: ρ/8r + ρ/(4πs)·(1 − 7r²/12s² + 33r⁴/40s⁴)."""
    _soil(soil_ohm_m)
    number_in(area_m2, "Plate area", 0.01, 20, "m²")
    r = math.sqrt(area_m2 / math.pi)
    s = 2 * number_in(depth_m, "Depth", 0.05, 50, "m")
    s = max(s, 2 * r)  # the series is for a plate deeper than its radius
    series = 1 - 7 * r**2 / (12 * s**2) + 33 * r**4 / (40 * s**4)
    return soil_ohm_m / (8 * r) + soil_ohm_m / (4 * math.pi * s) * series


def concrete_encased(
    soil_ohm_m: float, length_m: float, radius_m: float, depth_m: float = 0.75
) -> float:
    """Steel or wire in a footing: the concrete's shell in series with it as a buried wire, Ω.

    ρc/(2πℓ)·ln(rc/a) + a wire of radius rc; cover rc − a = 3 in, ρc 60 Ω·m: an estimate.
    """
    number_in(length_m, "Length of steel", 0.3, 1000, "m")
    outer = radius_m + CONCRETE_COVER_M
    shell = CONCRETE_OHM_M / (2 * math.pi * length_m) * math.log(outer / radius_m)
    return shell + buried_wire(soil_ohm_m, length_m, outer, depth_m)


def parallel(ohms: list[float]) -> float:
    """Electrodes far apart, joined: no mutual part, Ω. ``math.inf`` for none."""
    return 1 / sum(1 / r for r in ohms) if ohms else math.inf


def rods_working(
    length_ft: float,
    diameter_in: float,
    soil_ohm_m: float,
    count: int = 1,
    spacing_ft: float | None = None,
) -> Working:
    """Rods as an electrician gives them, with the sum."""
    length, radius = length_ft * FEET, diameter_in * INCH / 2
    number_in(length_ft, "Rod length", 0.5, 200, "ft")
    number_in(diameter_in, "Rod diameter", 0.1, 12, "in")
    one = rod(soil_ohm_m, length, radius)
    spacing_ft = length_ft if spacing_ft is None else spacing_ft
    number_in(spacing_ft, "Spacing", 0.1, 1000, "ft")
    value = rods(soil_ohm_m, length, radius, count, spacing_ft * FEET)

    def recipe():
        yield working.given(
            f"{working.count_of(count, 'rod')} of {length_ft:g} ft × {diameter_in:g} in in"
            f" {soil_ohm_m:g} Ω·m"
        )
        yield working.formula(
            f"R1 = ρ/(2πL)·(ln(4L/a) − 1) = {soil_ohm_m:g}/(2π·{length:.3f})"
            f"·(ln(4·{length:.3f}/{radius:.5f}) − 1) = {figures(one)} Ω",
            "method 7",
        )
        if count > 1:
            m = mutual_rods(soil_ohm_m, length, spacing_ft * FEET)
            yield working.formula(
                f"mutual of neighbours {spacing_ft:g} ft apart: {figures(m)} Ω;"
                f" {count} together {figures(value)} Ω",
                "method 7",
            )
        if count == 1:
            for apart in (6.0, 2 * length_ft):
                two = rods(soil_ohm_m, length, radius, 2, apart * FEET)
                less = (1 - two / one) * 100
                yield working.formula(
                    f"a second rod {apart:g} ft away: {figures(two)} Ω, {less:.0f} % less",
                    "method 7",
                )
        far, near = probe_distances_ft(max(length_ft, (count - 1) * spacing_ft))
        yield working.note(
            f"to measure it: current probe {far:g} ft out, read at {near:.0f} ft;"
            " 52, 62 and 72 % must agree within 5 %"
        )
        yield working.note("Uniform soil; the true figure changes with season: measure it.")

    return Working("Rods to remote earth", value, "Ω", recipe)
