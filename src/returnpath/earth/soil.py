"""Soil and its measurement: four pins, and the three-point test of an electrode. method 7."""

import math
from functools import cache

from .. import tables
from ..errors import number_in

AGREE_WITHIN = 0.05
PROBE_SHARES = (0.52, 0.62, 0.72)


@cache
def soils() -> dict[str, tuple[float, float, float]]:
    """soil → (low, typical, high) resistivity, Ω·m."""
    return {
        r["soil"]: (float(r["low_ohm_m"]), float(r["typical_ohm_m"]), float(r["high_ohm_m"]))
        for r in tables.rows("soil_resistivity")
    }


def four_pins(spacing_m: float, ohm: float) -> float:
    """Resistivity from four pins ``spacing_m`` apart reading ``ohm``: 2πbR, Ω·m."""
    number_in(spacing_m, "Pin spacing", 0.1, 200, "m")
    number_in(ohm, "Reading", 0, 1e6, "Ω", above_low=True)
    return 2 * math.pi * spacing_m * ohm


PROBE_FACTOR = 5.0  # of the electrode system's largest dimension, so that its shell is past


def probe_distances_ft(largest_ft: float) -> tuple[float, float]:
    """(current probe, potential probe) of a three-point test, feet from the electrode.

    The current probe at five times the system's largest dimension at least, the potential probe
    at 61.8 % of that; readings at 52, 62 and 72 % must agree within 5 % or go farther.
    """
    number_in(largest_ft, "Largest dimension", 0.5, 2000, "ft")
    far = PROBE_FACTOR * largest_ft
    return far, 0.618 * far
