"""Longest run: this circuit's one-way length at which clearing and heat both still hold.

A branch circuit hangs on its panel by its line and its return alone, so the impedance seen from
its end is the panel's plus ohms per foot times feet, exactly, however the rest is meshed.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

from .heat import worst_letthrough
from .port import Place, Seen, parallel
from .protection import DeviceSet
from .verdict import FIVE_TIMES, ONE_OHM

LONGEST_FT = 5000.0
LEAST_FT = 0.01  # a shorter run has no ohms a foot to speak of
PRECISION_FT = 0.01
SCAN_STEPS = 60
BACK_OFF = 1 - 1e-9  # equality meets: rounding must not make it miss


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


@dataclass(slots=True)
class RunSeen:
    """A circuit's fault as a function of its length: open volts and ohms of the panel's port,
    the line as (ohms a foot, ohms of its joints), the ways home likewise."""

    volts: float
    port_ohm: complex
    line: tuple[complex, float]
    home: tuple[tuple[complex, float], ...]

    @property
    def is_linear(self) -> bool:
        """Whether its ohms are a constant and so much a foot."""
        return len(self.home) == 1 or all(joint == 0 for _, joint in self.home)

    def home_ohm(self, feet: float) -> complex:
        """The return at a length."""
        return parallel(per_ft * feet + joint for per_ft, joint in self.home)

    def ohm(self, feet: float) -> complex:
        """Z_th at a length."""
        per_ft, joint = self.line
        return self.port_ohm + per_ft * feet + joint + self.home_ohm(feet)

    def constant_and_per_ft(self) -> tuple[complex, complex]:
        """(ohms at no length, ohms a foot), where they are linear."""
        constant = self.port_ohm + self.line[1]
        if len(self.home) == 1:
            constant += self.home[0][1]
        return constant, self.line[0] + parallel(per_ft for per_ft, _ in self.home)


def run_seen(seen: Seen, place: Place) -> RunSeen:
    """A hanging circuit's fault as a function of its length."""
    feet = _feet(place)
    plain, back = place.run_ohms(seen.solved.state.temperature_c, seen.solved.hz)
    home = tuple((back[part] / feet, (ohm - back[part]).real) for part, ohm in seen.home)
    line = plain / feet, (seen.line_ohm - plain).real
    return RunSeen(abs(seen.port.volts), seen.port.ohm, line, home)


def _feet(place: Place) -> float:
    """The length of its circuit today."""
    return (place.circuit.length_ft if place.circuit is not None else None) or 0.0


@dataclass
class RunSearch:
    """The longest run of one circuit: how each state sees it, its devices, its worst conductor.

    ``hot`` and ``cold`` as the states see the fault today; ``limit_a`` of the source; ``ratio``
    of the conductor that gets hottest, its share of the fault as it is today.
    """

    hot: list[Seen]
    cold: list[Seen]
    place: Place
    arc_v: float
    lowest_volts: float
    limit_a: float | None
    devices: DeviceSet
    ratio: float

    def __post_init__(self) -> None:
        #: (driving volts, ohms at no length, ohms a foot) of each state, where all are linear.
        self._linear_lows = self._linear(self.hot, self.lowest_volts, self.arc_v)
        self._linear_highs = self._linear(self.cold, 1.0, 0.0)

    def _linear(
        self, seen_all: list[Seen], factor: float, less: float
    ) -> list[tuple[float, complex, complex]] | None:
        found, feet = [], _feet(self.place)
        for seen in seen_all:
            volts = max(factor * abs(seen.port.volts) - less, 0.0)
            if seen.solved.wiring.on.is_empty:
                found.append((volts, seen.port.ohm, (seen.line_ohm + seen.home_ohm) / feet))
                continue
            run = run_seen(seen, self.place)
            if not run.is_linear:
                return None
            found.append((volts, *run.constant_and_per_ft()))
        return found

    @cached_property
    def lows(self) -> list[RunSeen]:
        """How the hot states see it."""
        return [run_seen(s, self.place) for s in self.hot]

    @cached_property
    def highs(self) -> list[RunSeen]:
        """How the cold states see it."""
        return [run_seen(s, self.place) for s in self.cold]

    def _low(self, feet: float) -> float:
        """The lowest current at a length, A."""
        if self._linear_lows is not None:
            low = math.inf
            for volts, ohm, per_ft in self._linear_lows:
                low = min(low, volts / abs(ohm + per_ft * feet))
        else:
            low = min(
                max(self.lowest_volts * s.volts - self.arc_v, 0.0) / abs(s.ohm(feet))
                for s in self.lows
            )
        return low if self.limit_a is None else min(low, self.limit_a)

    def _high(self, feet: float) -> float:
        if self._linear_highs is not None:
            high = 0.0
            for volts, ohm, per_ft in self._linear_highs:
                high = max(high, volts / abs(ohm + per_ft * feet))
        else:
            high = max(s.volts / abs(s.ohm(feet)) for s in self.highs)
        return high if self.limit_a is None else min(high, self.limit_a)

    def run(self, criterion: str, limit_s: float, unproved: bool) -> float | None:
        """Feet at which ``criterion`` (``limit_s`` of the timed one) and the heat check both
        hold; None where none does."""
        clearing = self._clearing(criterion, limit_s, unproved)
        if clearing is None:
            return None
        devices = self.devices
        steps, certain = devices.steps(unproved), devices.certain_from(unproved)

        def slow(amps: float) -> float:
            return devices.heat_s(amps, unproved)

        def holds(length: float) -> bool:
            low = self._low(length)
            high = max(low, self._high(length))
            if certain <= low:  # instantaneous at every current of the range
                through = slow(low) * high**2
            else:
                through, _ = worst_letthrough(slow, low, high, steps)
            return through * self.ratio <= 1

        return with_heat(clearing, holds)

    def _clearing(self, criterion: str, limit_s: float, unproved: bool) -> float | None:
        """Feet at which the clearing criterion alone still holds."""
        device = self.devices.devices[0][0]
        if criterion == "one ohm":
            return _edge(lambda feet: all(abs(s.home_ohm(feet)) <= ONE_OHM for s in self.lows))
        if criterion == "instantaneous":
            hi = device.unproved_hi if unproved else device.band_hi
            amps = hi * device.rating_a
        elif criterion == "five times":
            amps = FIVE_TIMES * device.rating_a
        else:
            amps = self._amps_for(limit_s, unproved)
        if math.isinf(amps) or (self.limit_a is not None and amps > self.limit_a):
            return None
        if self._linear_lows is None:
            return _edge(lambda feet: self._low(feet) >= amps)
        found = [reach_ft(volts, amps, ohm, per_ft) for volts, ohm, per_ft in self._linear_lows]
        reached = [feet for feet in found if feet is not None]
        return min(reached) if len(reached) == len(found) else None

    def _amps_for(self, seconds: float, unproved: bool) -> float:
        """The least fault current that the slow edge clears within ``seconds``."""
        low, high = 1.0, 1e6
        slow_s = self.devices.over_current_s  # a residual-current device has no longest run
        if slow_s(high, unproved) > seconds:
            return math.inf
        while high - low > 0.01:
            middle = (low + high) / 2
            if slow_s(middle, unproved) <= seconds:
                high = middle
            else:
                low = middle
        return high


def _edge(clears: Callable[[float], bool]) -> float | None:
    """The last length at which ``clears`` holds; None where not even the shortest does."""
    if not clears(LEAST_FT):
        return None
    return LONGEST_FT if clears(LONGEST_FT) else _boundary(clears, LEAST_FT, LONGEST_FT)
