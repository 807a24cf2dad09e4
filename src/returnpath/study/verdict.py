"""The five verdicts and the four clearing criteria. METHOD 5, DESIGN 3."""

import math
from dataclasses import dataclass
from enum import StrEnum

from .. import tables
from ..device import Breaker, rule

ONE_OHM = 1.0
ONE_OHM_MEANS_LITTLE_ABOVE_A = 20
FIVE_TIMES = 5.0


class Verdict(StrEnum):
    """What the device does at the lowest current, best first."""

    AT_ONCE = "opens at once"
    AT_ONCE_IF_ASSUMED = "opens at once if the curve is as assumed"
    SLOW = "slow"
    MAY_NEVER_OPEN = "may never open"
    NOT_KNOWN = "not known yet"


ORDER = list(Verdict)


def judge(device: Breaker, amps: float) -> Verdict:
    """The verdict of one device at ``amps`` through it."""
    m = amps / device.rating_a
    slow = device.slow_s(amps)
    if math.isinf(slow):
        return Verdict.MAY_NEVER_OPEN
    if m >= device.unproved_hi:
        return Verdict.AT_ONCE
    if m >= device.band_hi:
        return Verdict.AT_ONCE_IF_ASSUMED
    if m >= device.band_lo or slow < rule("thermal_minute_s"):
        return Verdict.SLOW
    return Verdict.MAY_NEVER_OPEN


def judge_set(devices: list[tuple[Breaker, float]]) -> Verdict:
    """The best verdict of (device, its own amperes): whichever opens first clears the fault."""
    return min((judge(d, amps) for d, amps in devices), key=ORDER.index)


@dataclass(frozen=True, slots=True)
class Criterion:
    """One way to call a fault cleared: its name, whether it is met, and the figures."""

    name: str
    met: bool
    figures: str
    remark: str = ""


def timed_limit_s(volts: float, final: bool = True, earthing: str | None = None) -> float:
    """The IEC disconnection time (disconnection_times.csv), s: TN unless ``earthing`` is TT."""
    system = "TT" if earthing == "TT" else "TN"
    for row in tables.rows("disconnection_times"):
        over, to = float(row["volts_to_earth_over"]), float(row["volts_to_earth_to"])
        if row["system"] == system and over < volts <= to:
            return float(row["final_circuit_s" if final else "distribution_s"])
    raise ValueError(volts)  # pragma: no cover - every system's voltage has a row


def criteria(
    device: Breaker,
    lowest_a: float,
    slow_s: float,
    return_ohm: float,
    volts: float,
    final: bool = True,
    earthing: str | None = None,
) -> dict[str, Criterion]:
    """All four side by side, by name (METHOD 5)."""
    m = lowest_a / device.rating_a
    limit = timed_limit_s(volts, final, earthing)
    lax = device.rating_a > ONE_OHM_MEANS_LITTLE_ABOVE_A
    hi = device.band_hi
    reach = f"{m:.1f} × of {hi:g} × needed" if math.isfinite(hi) else "it has no magnetic trip"
    found = (
        Criterion(
            "instantaneous",
            m >= hi,
            reach,
            "on the assumed curve" if device.is_assumed and hi <= m < device.unproved_hi else "",
        ),
        Criterion("five times", m >= FIVE_TIMES, f"{m:.1f} × of {FIVE_TIMES:g} × needed"),
        Criterion(
            "timed",
            slow_s <= limit,
            "never" if math.isinf(slow_s) else f"{slow_s:.3g} s of {limit:g} s allowed",
            "not a US rule",
        ),
        Criterion(
            "one ohm",
            return_ohm <= ONE_OHM,
            "no return" if math.isinf(return_ohm) else f"{return_ohm:.3f} Ω of {ONE_OHM:g} Ω",
            "meaningless above 20 A" if lax else "lax: a guideline",
        ),
    )
    return {c.name: c for c in found}
