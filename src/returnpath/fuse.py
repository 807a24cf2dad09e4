"""gG fuses as a band of melting and clearing times between the gates of IEC 60269-1.

        seconds
          |  fast: holds 1.25 In · gates of 10 s and 0.1 s · then I²t
          |     slow: clears 1.6 In in an hour or two · gates of 5 s and 0.1 s · then I²t
          +--------------------------------------------------------------------  amperes

Between two gates a straight line on the double logarithmic sheet; gates from
``tables/fuse_gg.csv``. method 15.
"""

import itertools
import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache

from . import tables, working
from .device import Breaker
from .errors import BadInput, number_in
from .working import Working, figures

Points = tuple[tuple[float, float], ...]
Pair = tuple[tuple[float, float], tuple[float, float] | None]

KIND = "gG"
CLEARS_FROM, HOLDS_TO = 1.6, 1.25  # the conventional currents, × In
SHORT_HOUR_TO_A = 63  # up to here the conventional time is one hour, then two


@cache
def _gates() -> dict[float, dict[str, float]]:
    heads = ("least_10s_a", "most_5s_a", "least_0_1s_a", "most_0_1s_a")
    return {float(r["rating_a"]): {h: float(r[h]) for h in heads} for r in tables.rows("fuse_gg")}


def ratings() -> tuple[float, ...]:
    """The ratings whose gates are known, A."""
    return tuple(_gates())


@dataclass(frozen=True)
class Fuse(Breaker):
    """A gG fuse of ``rating_a``. One whose gates no table here has is judged by its neighbours: it
    clears no later than the next larger, and holds as long as the next smaller; BadInput beyond
    the largest."""

    kind: str = KIND
    magnetic: bool = False

    def __post_init__(self) -> None:
        number_in(self.rating_a, "Fuse rating", 0, 1250, "A", above_low=True)
        if self.rating_a > max(ratings()):
            raise BadInput(
                f"The gates of a {self.rating_a:g} A gG fuse are not known, only up to"
                f" {max(ratings()):g} A."
            )

    @property
    def _larger(self) -> float:
        """The least rating with gates that is no smaller."""
        return min(r for r in ratings() if r >= self.rating_a)

    @property
    def _smaller(self) -> float | None:
        """The largest with gates that is no larger; None below all of them."""
        return max((r for r in ratings() if r <= self.rating_a), default=None)

    @property
    def is_mcb(self) -> bool:
        """No: nothing in it opens by magnetism."""
        return False

    @property
    def name(self) -> str:
        """``"63 A gG fuse"``."""
        return f"{self.rating_a:g} A gG fuse"

    @property
    def _hour(self) -> float:
        return 3600.0 if self._larger <= SHORT_HOUR_TO_A else 7200.0

    def _slow_points(self) -> Points:
        """(amperes, seconds) that the slow edge goes through, rising."""
        gate = _gates()[self._larger]
        first = (CLEARS_FROM * self._larger, self._hour)
        return first, (gate["most_5s_a"], 5.0), (gate["most_0_1s_a"], 0.1)

    def _fast_points(self, rating: float) -> Points:
        gate = _gates()[rating]
        first = (HOLDS_TO * rating, 3600.0 if rating <= SHORT_HOUR_TO_A else 7200.0)
        return first, (gate["least_10s_a"], 10.0), (gate["least_0_1s_a"], 0.1)

    def slow_s(self, amps: float, hi: float | None = None) -> float:
        """Longest time to clear at ``amps``, s; ``math.inf``: may never."""
        number_in(amps, "Current", 0, 1e7, "A")
        return _on(self._slow_points(), amps)

    def fast_s(self, amps: float) -> float:
        """Shortest time to clear at ``amps``, s; ``math.inf``: does not."""
        number_in(amps, "Current", 0, 1e7, "A")
        if self._smaller is None:  # nothing tells how long it holds: it may open at once
            return 0.0 if amps > HOLDS_TO * self.rating_a else math.inf
        return _on(self._fast_points(self._smaller), amps)

    def opens_working(self, amps: float) -> Working:
        """Longest time to clear at ``amps``, with the gates it lies between."""
        slow = self.slow_s(amps)

        def recipe() -> Iterator[working.Step]:
            gate = _gates()[self._larger]
            if self._larger != self.rating_a:
                yield working.note(
                    f"its own gates are not listed; one of {self._larger:g} A clears no sooner"
                )
            yield working.table(
                f"{self._larger:g} A gG fuse: clears {gate['most_5s_a']:g} A within 5 s and"
                f" {gate['most_0_1s_a']:g} A within 0.1 s",
                "IEC 60269-1",
            )
            yield working.note(f"clears after {figures(self.fast_s(amps))} s at the earliest")
            yield self._own_step(amps, slow)

        return Working(f"{self.name} at {figures(amps)} A", slow, "s", recipe)

    def _own_step(self, amps: float, slow: float) -> working.Step:
        points = self._slow_points()
        if amps < points[0][0]:
            return working.note(f"{figures(amps)} A is under {points[0][0]:g} A: may not clear")
        a, b = _between(points, amps)
        slope = -2.0 if b is None else math.log(b[1] / a[1]) / math.log(b[0] / a[0])
        return working.formula(
            f"t = {a[1]:g} · ({figures(amps, 6)}/{a[0]:g})^({slope:.6f}) = {figures(slow, 4)} s",
            "method 15",
        )


def _between(points: Points, amps: float) -> Pair:
    """The gates around a current; no second one past the last: I²t holds there."""
    for a, b in itertools.pairwise(points):
        if amps <= b[0]:
            return a, b
    return points[-1], None


def _on(points: Points, amps: float) -> float:
    if amps < points[0][0]:
        return math.inf
    a, b = _between(points, amps)
    slope = -2.0 if b is None else math.log(b[1] / a[1]) / math.log(b[0] / a[0])
    return a[1] * (amps / a[0]) ** slope
