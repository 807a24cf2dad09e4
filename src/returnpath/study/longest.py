"""Longest run: this circuit's one-way length at which clearing and heat both still hold.

A branch circuit hangs on its panel by its line and its return alone, so the impedance seen from
its end is the panel's plus ohms per foot times feet, exactly, however the rest is meshed.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass

from .heat import DeviceSet, worst_letthrough
from .verdict import FIVE_TIMES, ONE_OHM, timed_limit_s

LONGEST_FT = 5000.0
LEAST_FT = 0.01  # a shorter run has no ohms a foot to speak of
PRECISION_FT = 0.01
SCAN_STEPS = 60
BACK_OFF = 1 - 1e-9  # equality meets: rounding must not make it miss


def longest_run_ft(
    clears: Callable[[float], bool], heat_holds: Callable[[float], bool]
) -> float | None:
    """Feet at which both still hold, all else equal; None where no length does.

    ``clears`` is met at every length up to some limit.
    """
    if not clears(0.0):
        return None
    limit = LONGEST_FT if clears(LONGEST_FT) else _boundary(clears, 0.0, LONGEST_FT)
    return with_heat(limit, heat_holds)


def with_heat(limit: float, heat_holds: Callable[[float], bool]) -> float | None:
    """The longest run up to ``limit`` (where clearing ends) at which heat holds too.

    Heat may also fail near the panel, where the current is highest: the far end of the longest
    stretch that holds counts.
    """
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


def reach_ft(volts: float, amps: float, outside_ohm: complex, ohm_per_ft: complex) -> float | None:
    """Feet at which ``volts`` still drive ``amps``: |Z + z·L| = V/I solved for L; None if even
    0 ft is too far."""
    if amps <= 0:
        return LONGEST_FT
    target = volts / amps
    a, c = abs(ohm_per_ft) ** 2, abs(outside_ohm) ** 2 - target**2
    if c > 0 or volts <= 0:
        return None
    b = 2 * (outside_ohm.conjugate() * ohm_per_ft).real
    feet = (-b + math.sqrt(b * b - 4 * a * c)) / (2 * a)
    return min(feet * BACK_OFF, LONGEST_FT)


def whole_feet(length_ft: float | None) -> float | None:
    """Rounded down: a question asked with this figure still passes at it."""
    return None if length_ft is None else float(math.floor(length_ft))


@dataclass
class RunSearch:
    """The longest run of one circuit: its panel's ports, its ohms a foot, its devices.

    ``seen`` looks at the fault in one solved state at today's ``length_ft``; the ohms outside
    the panel's port scale with length.
    """

    hot: tuple
    cold: tuple
    seen: Callable
    length_ft: float
    arc_v: float
    lowest_volts: float
    limit_a: float | None
    devices: DeviceSet
    ratio: float

    def __post_init__(self):
        self.lows = [self._parts(self.seen(s)) for s in self.hot]
        self.highs = [self._parts(self.seen(s)) for s in self.cold]

    def _parts(self, seen) -> tuple[float, complex, complex, complex]:
        """(open volts, the port's ohms, line and return ohms a foot, return ohms a foot)."""
        feet = self.length_ft
        line, home = seen.line_ohm / feet, seen.home_ohm / feet
        return abs(seen.port.volts), seen.port.ohm, line + home, home

    def run(self, criterion: str, volts: float, earthing, unproved: bool) -> float | None:
        """Feet at which ``criterion`` and the heat check both hold; None where none does."""
        clearing = self._clearing(criterion, volts, earthing, unproved)
        if clearing is None:
            return None
        steps = list(self.devices.steps(unproved))

        def slow(amps: float) -> float:
            return self.devices.slow_s(amps, unproved)

        def holds(length: float) -> bool:
            low = min(
                max(self.lowest_volts * v - self.arc_v, 0.0) / abs(z + per_ft * length)
                for v, z, per_ft, _ in self.lows
            )
            high = max(v / abs(z + per_ft * length) for v, z, per_ft, _ in self.highs)
            if self.limit_a is not None:
                low, high = min(low, self.limit_a), min(high, self.limit_a)
            through, _ = worst_letthrough(slow, low, max(low, high), steps)
            return through * self.ratio <= 1

        return with_heat(clearing, holds)

    def _clearing(self, criterion, volts, earthing, unproved) -> float | None:
        """Feet at which the clearing criterion alone still holds."""
        device = self.devices.devices[0][0]
        if criterion == "one ohm":
            feet = [ONE_OHM / abs(home) if home else LONGEST_FT for *_, home in self.lows]
            return min(*feet, LONGEST_FT)
        if criterion == "instantaneous":
            hi = device.unproved_hi if unproved else device.band_hi
            amps = hi * device.rating_a
        elif criterion == "five times":
            amps = FIVE_TIMES * device.rating_a
        else:
            amps = self._amps_for(timed_limit_s(volts, True, earthing), unproved)
        if math.isinf(amps) or (self.limit_a is not None and amps > self.limit_a):
            return None
        found = [
            reach_ft(self.lowest_volts * v - self.arc_v, amps, z, per_ft)
            for v, z, per_ft, _ in self.lows
        ]
        return None if None in found else min(found)

    def _amps_for(self, seconds: float, unproved: bool) -> float:
        """The least fault current that the slow edge clears within ``seconds``."""
        low, high = 1.0, 1e6
        if self.devices.slow_s(high, unproved) > seconds:
            return math.inf
        while high - low > 0.01:
            middle = (low + high) / 2
            if self.devices.slow_s(middle, unproved) <= seconds:
                high = middle
            else:
                low = middle
        return high
