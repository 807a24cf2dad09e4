"""Longest run: this circuit's one-way length at which clearing and heat both still hold.

A branch circuit hangs on its panel by its line and its return alone, so the impedance seen from
its end is the panel's plus ohms per foot times feet, exactly, however the rest is meshed.
"""

import math
from collections.abc import Callable

LONGEST_FT = 5000.0
PRECISION_FT = 0.01
SCAN_STEPS = 60


def longest_run_ft(
    clears: Callable[[float], bool], heat_holds: Callable[[float], bool]
) -> float | None:
    """Feet at which both still hold, all else equal; None where no length does.

    ``clears`` is met at every length up to some limit. ``heat_holds`` may also fail near the
    panel, where the current is highest: the far end of the longest stretch that holds counts.
    """
    if not clears(0.0):
        return None
    limit = LONGEST_FT if clears(LONGEST_FT) else _boundary(clears, 0.0, LONGEST_FT)
    if heat_holds(limit):
        return limit
    bad = limit
    for step in range(SCAN_STEPS - 1, -1, -1):
        length = limit * step / SCAN_STEPS
        if heat_holds(length):
            return _boundary(heat_holds, length, bad)
        bad = length
    return None


def _boundary(holds: Callable[[float], bool], good: float, bad: float) -> float:
    """The last length that holds between a good and a bad one."""
    while bad - good > PRECISION_FT:
        middle = (good + bad) / 2
        good, bad = (middle, bad) if holds(middle) else (good, middle)
    return good


def amps_at(volts: float, panel_ohm: complex, ohm_per_ft: complex) -> Callable[[float], float]:
    """Fault current against one-way length, A."""
    return lambda length_ft: volts / abs(panel_ohm + ohm_per_ft * length_ft)


def whole_feet(length_ft: float | None) -> float | None:
    """Rounded down: a question asked with this figure still passes at it."""
    return None if length_ft is None else float(math.floor(length_ft))
