"""What a body meets: a person as a branch of the faulted network, against curve c1
(method 8).

    case --- person (1,000 Ω, 500 Ω wet) --- where the feet stand
      |
    the fault's own volts, behind what the network has between the two: Z

An aid to understanding, never a licence to touch.
"""

import itertools
import math
from functools import cache

from .. import tables, working
from ..errors import number_in
from ..network.solver import EARTH
from ..working import Working, figures
from .port import Seen

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


def body_ohm(wet: bool) -> float:
    """Ohms of a person: 1,000, wet 500."""
    return WET_OHM if wet else DRY_OHM


def person_ohm(seen: Seen, wet: bool) -> float:
    """|Z + R|, Ω: the person's ohms with what the faulted network has between case and earth.

    Z_th between case and remote earth with the fault closed: Z_pp − Z_pf²/Z_ff, where p is the
    pair case and earth, f the pair of the fault.
    """
    standing = seen.solved.port(seen.port.b, EARTH)
    own = standing.ohm + seen.home_ohm
    nodes = seen.solved.network.nodes
    across = standing.each[nodes[seen.port.a]] - standing.each[nodes[seen.port.b]]
    mutual = across - seen.home_ohm
    return abs(own - mutual**2 / seen.ohm + body_ohm(wet))


def body_working(volts: float, ohm: float, slow_s: float, wet: bool) -> Working:
    """The body current at the slow clearing time against curve c1, mA. ``ohm`` of the person and
    the network in series."""
    amps, limit = volts / ohm * 1000, c1_ma(slow_s)
    time = "for as long as it lasts" if math.isinf(slow_s) else f"for {figures(slow_s)} s"

    def recipe():
        yield working.given(
            f"a person of {body_ohm(wet):g} Ω from the enclosure to remote earth, {time}"
        )
        yield working.table(
            f"curve c1 at that time: {figures(limit)} mA"
            + (", which is passed" if amps > limit else ""),
            "IEC 60479-1",
        )
        yield working.note("An aid to understanding, never a licence to touch.")
        yield working.formula(
            f"I = 1000 · {figures(volts, 6)} V / {figures(ohm, 6)} Ω = {figures(amps, 4)} mA",
            "method 8",
        )

    return Working("Through a person from the enclosure to earth", amps, "mA", recipe)
