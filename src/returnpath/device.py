"""Over-current devices as a band of opening times, never a line. METHOD 5.

Longest times from UL 489 calibration (``tables/breaker_calibration.csv``); the product's own
choices in ``tables/breaker_rules.csv``. M is the current over the rating.

        seconds
          |  \\  \\        slow edge: thermal, then 0.025 s from hi × In
          |   \\   \\
          |    |____|___   fast edge: thermal, then 0.008 s from lo × In
          +-----------------  amperes
"""

import math
from dataclasses import dataclass
from functools import cache

from . import tables, working
from .errors import BadInput, number_in
from .working import Working, figures


@cache
def rule(key: str) -> float:
    """A figure of breaker_rules.csv."""
    return next(float(r["value"]) for r in tables.rows("breaker_rules") if r["key"] == key)


@cache
def largest_rating() -> int:
    """The largest rating the calibration table reaches, A."""
    return max(int(r["rating_to_a"]) for r in tables.rows("breaker_calibration"))


@dataclass(frozen=True, slots=True)
class Breaker:
    """An inverse-time breaker.

    ``rating_a`` In, amperes; ``lo`` and ``hi`` the magnetic band in multiples of In as the maker
    states it, both None when it is assumed; ``magnetic`` False for an old breaker that has none.
    """

    rating_a: float
    lo: float | None = None
    hi: float | None = None
    magnetic: bool = True

    def __post_init__(self):
        number_in(self.rating_a, "Breaker rating", 0, largest_rating(), "A", above_low=True)
        if (self.lo is None) != (self.hi is None):
            raise BadInput("A maker's magnetic band needs both its ends, such as 5 and 10 times.")
        if self.lo is not None:
            number_in(self.lo, "Lower end of the magnetic band", 2, 40, "times the rating")
            number_in(self.hi, "Upper end of the magnetic band", self.lo, 40, "times the rating")

    @property
    def is_assumed(self) -> bool:
        """Whether the magnetic band stands in for a maker's figure nobody has given."""
        return self.magnetic and self.lo is None

    @property
    def band_lo(self) -> float:
        """Lower end of the magnetic band, multiples of In; infinite without a magnetic trip."""
        if not self.magnetic:
            return math.inf
        return rule("assumed_lo") if self.lo is None else self.lo

    @property
    def band_hi(self) -> float:
        """Upper end in force (as entered, else assumed), multiples of In."""
        if not self.magnetic:
            return math.inf
        return rule("assumed_hi") if self.hi is None else self.hi

    @property
    def unproved_hi(self) -> float:
        """Upper end everything is judged by again: as entered, else 20."""
        return rule("unproved_hi") if self.is_assumed else self.band_hi

    def _calibration(self) -> tuple[float, float]:
        """(t135, t200): longest opening times at 1.35 and 2 × In, seconds."""
        for row in tables.rows("breaker_calibration"):
            if float(row["rating_over_a"]) < self.rating_a <= float(row["rating_to_a"]):
                t135 = 60 * float(row["max_minutes_at_135pct"])
                return t135, 60 * float(row["max_minutes_at_200pct"])
        raise AssertionError(self.rating_a)  # pragma: no cover - checked when made

    def slow_s(self, amps: float, hi: float | None = None) -> float:
        """Longest time to open at ``amps``, seconds; ``math.inf``: may never open.

        ``hi`` replaces the upper end of the magnetic band (to judge by 20 × as well).
        """
        m = number_in(amps, "Current", 0, 1e7, "A") / self.rating_a
        hi = self.band_hi if hi is None else hi
        floor = rule("may_never_open_below")
        if m >= hi:
            return rule("instant_slow_s")
        if m < floor:
            return math.inf
        t135, t200 = self._calibration()
        if m < 2:
            slope = math.log(t200 / t135) / math.log(2 / floor)
            return t135 * (m / floor) ** slope
        tau = t200 / math.log(4 / (4 - floor**2))
        return -tau * math.log1p(-((floor / m) ** 2))

    def fast_s(self, amps: float) -> float:
        """Shortest time to open at ``amps``, seconds; ``math.inf``: does not open."""
        m = number_in(amps, "Current", 0, 1e7, "A") / self.rating_a
        if m >= self.band_lo:
            return rule("instant_fast_s")
        holds = rule("holds_up_to")
        if m <= holds:
            return math.inf
        _, t200 = self._calibration()
        tau = rule("fast_share") * t200 / math.log(4 / (4 - rule("may_never_open_below") ** 2))
        return -tau * math.log1p(-((holds / m) ** 2))

    def opens_working(self, amps: float) -> Working:
        """Longest time to open at ``amps`` on the curve in force, with what it rests on."""
        slow = self.slow_s(amps)

        def recipe():
            m = amps / self.rating_a
            t135, t200 = self._calibration()
            yield working.table(
                f"{self.rating_a:g} A breaker: opens within {t135:g} s at 1.35 × and"
                f" {t200:g} s at 2 ×",
                "UL 489 calibration",
            )
            yield self.band_step()
            yield working.formula(f"{figures(amps, 4)} A / {self.rating_a:g} A = {m:.2f} ×")
            text = f"opens after {figures(self.fast_s(amps))} to {figures(slow)} s"
            yield working.formula(text if math.isfinite(slow) else "may never open", "method 5")
            if self.is_assumed:
                late = self.slow_s(amps, self.unproved_hi)
                yield working.note(
                    f"If its magnetic trip only began at {self.unproved_hi:g} ×: {figures(late)} s"
                )

        return Working(f"{self.rating_a:g} A breaker at {figures(amps)} A", slow, "s", recipe)

    def band_step(self) -> working.Step:
        """Where the magnetic band comes from."""
        if not self.magnetic:
            return working.given("No magnetic trip: heat alone opens it")
        band = f"magnetic trip between {self.band_lo:g} and {self.band_hi:g} × the rating"
        if self.is_assumed:
            why = tables.assumption_texts()["breaker magnetic trip"][1]
            return working.assumption(f"{band}; judged again at {self.unproved_hi:g} ×", why)
        return working.given(f"{band}, as the maker states it")


def widened(rating_a: float, nominal: float) -> Breaker:
    """A breaker whose maker gives one nominal magnetic multiple: widened 20 % each way."""
    share = rule("nominal_widening")
    return Breaker(rating_a, lo=nominal * (1 - share), hi=nominal * (1 + share))


def ground_fault_interrupter_slow_s(amps: float) -> float:
    """Longest time of a class A interrupter at a residual current of ``amps``, seconds.

    t = (20/I_mA)^1.43, floor 0.025 s; ``math.inf`` under 6 mA. METHOD 5.
    """
    number_in(amps, "Current", 0, 1e7, "A")
    if amps < rule("gfi_must_trip_a"):
        return math.inf
    return max((20 / (amps * 1000)) ** 1.43, rule("gfi_floor_s"))
