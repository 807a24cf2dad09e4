"""The five verdicts and the four clearing criteria (method 5)."""

import math
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache

from .. import tables
from ..device import Breaker
from ..site import Circuit

ONE_OHM = 1.0
ONE_OHM_MEANS_LITTLE_ABOVE_A = 20
FIVE_TIMES = 5.0
#: Less than this is no conductor's ohms: only joints of no ohms lie between.
NO_OHM = 1e-4


class Verdict(StrEnum):
    """What the device does at the lowest current, best first."""

    AT_ONCE = "trips instantaneously"
    AT_ONCE_IF_ASSUMED = "trips instantaneously if the curve is as assumed"
    SLOW = "delayed trip"
    MAY_NEVER_OPEN = "may not trip"
    NOT_KNOWN = "not known yet"


ORDER = list(Verdict)


def verdict_of(device: Breaker, amps: float) -> Verdict:
    """The verdict of one device at ``amps`` through it. It may not trip only where its slow edge
    never does (under 1.35 × of a breaker); all else is delayed, however long (method 5)."""
    m = amps / device.rating_a
    slow = device.slow_s(amps)
    if math.isinf(slow):
        return Verdict.MAY_NEVER_OPEN
    if m >= device.unproved_hi:
        return Verdict.AT_ONCE
    return Verdict.AT_ONCE_IF_ASSUMED if m >= device.band_hi else Verdict.SLOW


def verdict_of_set(devices: list[tuple[Breaker, float]]) -> Verdict:
    """The best verdict of (device, its own amperes): whichever opens first clears the fault."""
    if len(devices) == 1:
        return verdict_of(*devices[0])
    return min((verdict_of(d, amps) for d, amps in devices), key=ORDER.index)


def timed_verdict(slow_s: float, unproved_s: float, limit: "TimeLimit") -> Verdict:
    """The verdict of the metric rule set: against the disconnection time, on the curve in force
    and if its magnetic trip only began at 20 ×."""
    if unproved_s <= limit.seconds:
        return Verdict.AT_ONCE
    if slow_s <= limit.seconds:
        return Verdict.AT_ONCE_IF_ASSUMED
    return Verdict.MAY_NEVER_OPEN if math.isinf(slow_s) else Verdict.SLOW


@dataclass(frozen=True, slots=True)
class Criterion:
    """One way to call a fault cleared: its name, whether it is met, and the figures."""

    name: str
    met: bool
    figures: str
    remark: str = ""


@dataclass(frozen=True, slots=True)
class TimeLimit:
    """The disconnection time that holds, s, and whether it rests on a fact nobody gave."""

    seconds: float
    unsaid: bool = False


def time_limit(volts: float, circuit: Circuit | None, earthing: str | None) -> TimeLimit:
    """The IEC disconnection time (disconnection_times.csv): TN unless ``earthing`` is TT.

    The short one for final circuits up to 63 A with socket-outlets and up to 32 A of fixed
    equipment; the long one for other circuits and for distribution. Where nobody said what a
    circuit over 32 A feeds, the short one: the stricter.
    """
    short, long, sockets_to, fixed_to = _times("TT" if earthing == "TT" else "TN", volts)
    rating = circuit.breaker.rating_a if circuit is not None else None
    if rating is None or rating > sockets_to:
        return TimeLimit(long)
    if rating <= fixed_to or circuit.feeds == "socket-outlets":
        return TimeLimit(short)
    return TimeLimit(long) if circuit.feeds == "fixed equipment" else TimeLimit(short, True)


@lru_cache(maxsize=64)
def _times(system: str, volts: float) -> tuple[float, float, float, float]:
    """(s of a final circuit, s of distribution, the short one up to A with socket-outlets, up to A
    of fixed equipment) of a row of disconnection_times.csv."""
    row = next(
        r
        for r in tables.rows("disconnection_times")
        if r["system"] == system
        and float(r["volts_to_earth_over"]) < volts <= float(r["volts_to_earth_to"])
    )
    heads = ("final_circuit_s", "distribution_s", "final_sockets_to_a", "final_fixed_to_a")
    short, long, sockets, fixed = (float(row[head]) for head in heads)
    return short, long, sockets, fixed


def criteria(
    device: Breaker,
    lowest_a: float,
    slow_s: float,
    return_ohm: float,
    other_metal: float,
    limit: TimeLimit,
    is_us: bool = True,
) -> dict[str, Criterion]:
    """All four side by side, by name. ``return_ohm`` as solved, ``other_metal`` the share of the
    fault that pipes and structure bring home."""
    m = lowest_a / device.rating_a
    hi = device.band_hi
    unsaid = ("what it feeds is not said",) if limit.unsaid else ()
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
            slow_s <= limit.seconds,
            "never" if math.isinf(slow_s) else f"{slow_s:.3g} s of {limit.seconds:g} s allowed",
            "; ".join(("not a US rule", *unsaid) if is_us else unsaid),
        ),
        _one_ohm(device, return_ohm, other_metal),
    )
    return {c.name: c for c in found}


def _one_ohm(device: Breaker, ohm: float, other_metal: float) -> Criterion:
    """The return at 75 °C against one ohm. Metal of unknown ohms is never taken as none."""
    unmeasured = other_metal > 0 and ohm < NO_OHM
    lax = device.rating_a > ONE_OHM_MEANS_LITTLE_ABOVE_A
    remark = "meaningless above 20 A" if lax else "lax: a guideline"
    if other_metal > 0:
        remark = f"other metal carries {other_metal * 100:.0f} % of it: measure it; {remark}"
    if math.isinf(ohm):
        words = "no return"
    elif unmeasured:
        words = "not known: other metal brings it home"
    else:
        words = f"{ohm:.3f} Ω of {ONE_OHM:g} Ω"
    return Criterion("one ohm", ohm <= ONE_OHM and not unmeasured, words, remark)
