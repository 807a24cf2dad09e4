"""What a body meets: touch volts through a person, against curve c1. METHOD 8.

An aid to understanding, never a licence to touch.
"""

import itertools
import math
from functools import cache

from .. import tables, working
from ..errors import number_in
from ..working import Working, figures

DRY_OHM, WET_OHM = 1000.0, 500.0


@cache
def _points() -> tuple[tuple[float, float], ...]:
    rows = tables.rows("body_current_c1")
    return tuple((float(r["duration_s"]), float(r["current_ma"])) for r in rows)


def c1_ma(duration_s: float) -> float:
    """Body current of curve c1 for a duration, mA: log-log between the points read off.

    Beyond the last point it stays. Source: IEC 60479-1 (body_current_c1.csv).
    """
    if math.isnan(duration_s) or duration_s < 0:
        number_in(duration_s, "Duration", 0, 1e9, "s")
    points = _points()
    if duration_s <= points[0][0]:
        return points[0][1]
    for (t1, i1), (t2, i2) in itertools.pairwise(points):
        if duration_s <= t2:
            part = math.log(duration_s / t1) / math.log(t2 / t1)
            return i1 * (i2 / i1) ** part
    return points[-1][1]


def body_ma(volts: float, wet: bool) -> float:
    """Milliamperes through a person across ``volts``: 1,000 Ω, 500 Ω wet."""
    return volts / (WET_OHM if wet else DRY_OHM) * 1000


def body_working(volts: float, slow_s: float, wet: bool) -> Working:
    """The body current at the slow clearing time against curve c1, mA."""
    amps, limit = body_ma(volts, wet), c1_ma(slow_s)
    time = "for as long as it lasts" if math.isinf(slow_s) else f"for {figures(slow_s)} s"
    return working.of(
        "Through a person from the case to earth",
        amps,
        "mA",
        working.formula(
            f"{figures(volts)} V / {WET_OHM if wet else DRY_OHM:g} Ω = {figures(amps)} mA {time}",
            "method 8",
        ),
        working.table(
            f"curve c1 at that time: {figures(limit)} mA"
            + (", which is passed" if amps > limit else ""),
            "IEC 60479-1",
        ),
        working.note("An aid to understanding, never a licence to touch."),
    )
