"""Over-current devices as a band of opening times, never a line. method 5.

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
from functools import cache, cached_property

from . import tables, working
from .errors import BadInput, number_in
from .working import Working, figures

#: What a manufacturer's magnetic figure can be, multiples of the rating.
LEAST_BAND, MOST_BAND, TIMES = 2, 48, "times the rating"
#: The class of miniature breakers that limit what they let through.
LIMITING_CLASS = 3


@cache
def rule(key: str) -> float:
    """A figure of breaker_rules.csv."""
    return next(float(r["value"]) for r in tables.rows("breaker_rules") if r["key"] == key)


@cache
def largest_rating() -> int:
    """The largest rating the calibration table reaches, A."""
    return max(int(r["rating_to_a"]) for r in tables.rows("breaker_calibration"))


@dataclass(frozen=True)
class Breaker:
    """A breaker that opens by heat and, above its magnetic band, at once.

    ``kind`` "inverse-time", or "B", "C", "D": an IEC miniature breaker, whose magnetic band is
    its type's. ``rating_a`` In, amperes; ``lo`` and ``hi`` the ends of the magnetic band in
    multiples of In as the manufacturer states them, each None when it is assumed: an upper figure
    alone is a fact and is used, with 5 under it; a lower one alone leaves the upper end assumed.
    ``magnetic`` False for an old breaker that has none.
    """

    rating_a: float
    lo: float | None = None
    hi: float | None = None
    magnetic: bool = True
    kind: str = "inverse-time"  # or the IEC miniature breaker types B, C, D
    energy_class: int = 1  # of an IEC miniature breaker: 3 opens within a half cycle

    def __post_init__(self):
        number_in(self.rating_a, "Breaker rating", 0, largest_rating(), "A", above_low=True)
        if self.is_mcb:
            row = _mcb_type(self.kind)
            if self.lo is not None or self.hi is not None or not self.magnetic:
                raise BadInput(f"A type {self.kind} breaker's magnetic band is its type's.")
            _mcb_row(self.rating_a)
            object.__setattr__(self, "lo", float(row["lo"]))
            object.__setattr__(self, "hi", float(row["hi"]))
        if self.lo is not None:
            number_in(self.lo, "Lower end of the magnetic band", LEAST_BAND, MOST_BAND, TIMES)
        if self.hi is not None:
            least = LEAST_BAND if self.lo is None else self.lo
            number_in(self.hi, "Upper end of the magnetic band", least, MOST_BAND, TIMES)

    @property
    def is_mcb(self) -> bool:
        """Whether it is a type B, C or D miniature breaker."""
        return self.kind != "inverse-time"

    @cached_property
    def is_assumed(self) -> bool:
        """Whether the upper end of the magnetic band stands in for a figure nobody has given."""
        return self.magnetic and self.hi is None

    @cached_property
    def band_lo(self) -> float:
        """Lower end of the magnetic band, multiples of In; infinite without a magnetic trip."""
        if not self.magnetic:
            return math.inf
        return min(rule("assumed_lo"), self.band_hi) if self.lo is None else self.lo

    @cached_property
    def band_hi(self) -> float:
        """Upper end in force (as entered, else assumed), multiples of In."""
        if not self.magnetic:
            return math.inf
        return max(rule("assumed_hi"), self.lo or 0.0) if self.hi is None else self.hi

    @cached_property
    def unproved_hi(self) -> float:
        """Upper end everything is judged by again: as entered, else 20."""
        return max(rule("unproved_hi"), self.band_hi) if self.is_assumed else self.band_hi

    def _calibration(self) -> tuple[float, float]:
        """(t135, t200): longest opening times at 1.35 and 2 × In, seconds."""
        for row in tables.rows("breaker_calibration"):
            if float(row["rating_over_a"]) < self.rating_a <= float(row["rating_to_a"]):
                t135 = 60 * float(row["max_minutes_at_135pct"])
                return t135, 60 * float(row["max_minutes_at_200pct"])
        raise AssertionError(self.rating_a)  # pragma: no cover - checked when made

    def thermal(self) -> tuple[float, float, float, float, float, float]:
        """(never below, upper knee, t at the knees: first, second, holds up to, fast t): the
        figures that the two thermal edges are drawn through, multiples of In and seconds."""
        if self.is_mcb:
            kind, row = _mcb_type(self.kind), _mcb_row(self.rating_a)
            first, second = float(row["max_s_at_145pct"]), float(row["max_s_at_255pct"])
            fast = float(row["min_s_at_255pct"])
            return float(kind["must_below"]), 2.55, first, second, float(kind["never_below"]), fast
        t135, t200 = self._calibration()
        fast = rule("fast_share") * t200
        return rule("may_never_open_below"), 2.0, t135, t200, rule("holds_up_to"), fast

    @cached_property
    def _curve(self) -> tuple[float, ...]:
        """What the edges are drawn from, once a device: (hi, instant, floor, knee, first, slope,
        tau, holds, fast tau)."""
        floor, knee, first, second, holds, fast = self.thermal()
        slope = math.log(second / first) / math.log(knee / floor)
        tau = second / math.log(knee**2 / (knee**2 - floor**2))
        # The fast edge has its own asymptote: the current it must hold.
        fast_tau = fast / math.log(knee**2 / (knee**2 - holds**2))
        instant = rule("mcb_instant_slow_s" if self.is_mcb else "instant_slow_s")
        return self.band_hi, instant, floor, knee, first, slope, tau, holds, fast_tau

    def slow_s(self, amps: float, hi: float | None = None) -> float:
        """Longest time to open at ``amps``, seconds; ``math.inf``: may never open.

        ``hi`` replaces the upper end of the magnetic band (to judge by 20 × as well).
        """
        if not 0 <= amps < 1e7:
            number_in(amps, "Current", 0, 1e7, "A")
        hi_in, instant, floor, knee, first, slope, tau, *_ = self._curve
        m = amps / self.rating_a
        if m >= (hi_in if hi is None else hi):
            return instant
        if m < floor:
            return math.inf
        if m < knee:
            return first * (m / floor) ** slope
        return -tau * math.log1p(-((floor / m) ** 2))

    def heat_s(self, amps: float, hi: float | None = None) -> float:
        """Longest time that heat is judged by, s: the slow edge, but a half cycle from the top of
        the magnetic band of an energy class 3 (method 15). Never a time to disconnect in."""
        limits = self.energy_class == LIMITING_CLASS and self.is_mcb
        if limits and amps >= self.band_hi * self.rating_a:
            return rule("half_cycle_s")
        return self.slow_s(amps, hi)

    def fast_s(self, amps: float) -> float:
        """Shortest time to open at ``amps``, seconds; ``math.inf``: does not open."""
        if not 0 <= amps < 1e7:
            number_in(amps, "Current", 0, 1e7, "A")
        m = amps / self.rating_a
        if m >= self.band_lo:
            return rule("instant_fast_s")
        *_, holds, fast_tau = self._curve
        if m <= holds:
            return math.inf
        return -fast_tau * math.log1p(-((holds / m) ** 2))

    def opens_working(self, amps: float) -> Working:
        """Longest time to open at ``amps`` on the curve in force, with what it rests on."""
        slow = self.slow_s(amps)

        def recipe():
            m = amps / self.rating_a
            floor, knee, first, second, *_ = self.thermal()
            yield working.table(
                f"{self.name}: opens within {first:g} s at {floor:g} × and"
                f" {second:g} s at {knee:g} ×",
                "IEC 60898" if self.is_mcb else "UL 489 calibration",
            )
            yield self.band_step()
            yield working.formula(f"{figures(amps, 6)} A / {self.rating_a:g} A = {m:.4f} ×")
            if self.is_assumed:
                late = self.slow_s(amps, self.unproved_hi)
                yield working.note(
                    f"If its magnetic trip only began at {self.unproved_hi:g} ×:"
                    f" {figures(late)}{' s' if math.isfinite(late) else ''}"
                )
            yield working.note(f"trips after {figures(self.fast_s(amps))} s at the earliest")
            yield self._slow_step(m, slow)

        return Working(f"{self.rating_a:g} A breaker at {figures(amps)} A", slow, "s", recipe)

    def _slow_step(self, m: float, slow: float) -> working.Step:
        """The slow edge at ``m`` times the rating, with its figures."""
        hi, instant, floor, knee, first, slope, tau, *_ = self._curve
        if m >= hi:
            return working.formula(
                f"{m:.4f} × is {hi:g} × or more, the magnetic trip: t = {instant:g} s", "method 5"
            )
        if m < floor:
            return working.note(f"{m:.4f} × is under {floor:g} ×: may not trip")
        text = (
            f"t = {first:g} · ({m:.6f}/{floor:g})^({slope:.6f}) = {figures(slow, 4)} s"
            if m < knee
            else f"t = −{tau:.6f} · ln(1 − ({floor:g}/{m:.6f})^2) = {figures(slow, 4)} s"
        )
        return working.formula(text, "method 5")

    @property
    def name(self) -> str:
        """``"20 A breaker"``, ``"16 A type B breaker"``."""
        kind = f"type {self.kind} " if self.is_mcb else ""
        return f"{self.rating_a:g} A {kind}breaker"

    def band_step(self) -> working.Step:
        """Where the magnetic band comes from."""
        if not self.magnetic:
            return working.given("No magnetic trip: heat alone opens it")
        band = f"magnetic trip between {self.band_lo:g} and {self.band_hi:g} × the rating"
        if self.is_assumed:
            why = tables.assumption_texts()["breaker magnetic trip"][1]
            return working.assumption(f"{band}; judged again at {self.unproved_hi:g} ×", why)
        if self.is_mcb:
            return working.table(band, f"type {self.kind}")
        return working.given(f"{band}, as the manufacturer states it")


def _mcb_type(kind: str) -> dict[str, str]:
    for row in tables.rows("breaker_mcb"):
        if row["type"] == kind:
            return row
    raise BadInput(f"“{kind}” is not a type of breaker; inverse-time, B, C and D are.")


def _mcb_row(rating_a: float) -> dict[str, str]:
    for row in tables.rows("mcb_calibration"):
        if float(row["rating_over_a"]) < rating_a <= float(row["rating_to_a"]):
            return row
    raise BadInput(f"Miniature breakers end at 125 A, not {rating_a:g} A.")


def widened(nominal: float) -> tuple[float, float]:
    """(lo, hi) of one nominal magnetic multiple: widened 20 % each way."""
    share = rule("nominal_widening")
    return nominal * (1 - share), nominal * (1 + share)


def residual_device_slow_s(amps: float, rated_ma: float, delayed: bool = False) -> float:
    """Longest time of an RCD of ``rated_ma`` at a residual current of ``amps``, seconds.

    ``math.inf`` under its rated residual current. Source: IEC 61008 (rcd_iec.csv).
    """
    number_in(amps, "Current", 0, 1e7, "A")
    number_in(rated_ma, "RCD rating", 1, 3000, "mA")
    column = "max_break_time_delayed_s" if delayed else "max_break_time_general_s"
    slow = math.inf
    for row in tables.rows("rcd_iec"):
        if amps * 1000 >= float(row["multiple_of_rated_residual_current"]) * rated_ma:
            slow = float(row[column])
    return slow


def ground_fault_interrupter_slow_s(amps: float) -> float:
    """Longest time of a class A interrupter at a residual current of ``amps``, seconds.

    t = (20/I_mA)^1.43, floor 0.025 s; ``math.inf`` under 6 mA. method 5.
    """
    number_in(amps, "Current", 0, 1e7, "A")
    if amps < rule("gfi_must_trip_a"):
        return math.inf
    return max((20 / (amps * 1000)) ** 1.43, rule("gfi_floor_s"))
