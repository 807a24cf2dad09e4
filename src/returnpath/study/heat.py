"""Heat used: how much of a conductor's limit a fault eats before the slow edge (method 6).

The largest over all currents from lowest to highest of slow-edge time ÷ the conductor's limit.
In the thermal part I²t falls as the current grows, in the magnetic part it rises, so the worst
lies at an end of the range or just below a magnetic step.
"""

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import NamedTuple

from ..vocabulary import FactPath

JUST_BELOW = 1 - 1e-9
RECOMPUTE_HOT_ABOVE = 0.25
OVERSTATED_OVER_S = 5.0
OFFSET_UNDER_S = 0.1
#: What remains of a few volts over a broken path is no current.
NO_CURRENT_A = 1e-3
LEAST_SHARE = 1e-3  # a device or conductor with less of a fault has no part in it


class Carrier(NamedTuple):
    """A conductor of the loop: its place, its name, its I²t limit, its share of the current."""

    path: FactPath
    label: str
    i2t: float
    share: float

    @property
    def ratio(self) -> float:
        """Share of its limit used by each A²s of the fault."""
        return self.share**2 / self.i2t


@dataclass(frozen=True, slots=True)
class HeatUse:
    """The worst use of one conductor: ``fraction`` of its limit (``math.inf``: nothing opens).

    ``amps`` through the conductor and ``slow_s``, ``limit_s`` at the worst current.
    """

    carrier: Carrier
    fraction: float
    amps: float
    slow_s: float
    limit_s: float


def worst_currents(low: float, high: float, steps: Iterable[float]) -> list[float]:
    """The currents of a range at which heat can be worst."""
    inside = [s * JUST_BELOW for s in steps if low < s * JUST_BELOW < high]
    return [low, *inside, high]


def worst_letthrough(
    slow_s: Callable[[float], float], low: float, high: float, steps: Iterable[float] = ()
) -> tuple[float, float]:
    """(the largest slow-edge time × current², A²s; the fault current it is at, A).

    Every conductor carries a fixed share of the fault, so one current is the worst for all.
    """
    worst, at = 0.0, high
    for amps in worst_currents(low, high, steps):
        if amps < NO_CURRENT_A:
            continue
        through = slow_s(amps) * amps**2
        if through > worst:
            worst, at = through, amps
    return worst, at


def use_of(carrier: Carrier, through: float, at: float, slow: float) -> HeatUse:
    """What a let-through does to one conductor."""
    amps = at * carrier.share
    if amps < NO_CURRENT_A:
        return HeatUse(carrier, 0.0, amps, slow, math.inf)
    return HeatUse(carrier, through * carrier.ratio, amps, slow, carrier.i2t / amps**2)
