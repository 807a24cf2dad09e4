"""Ring final circuits: both ends of every conductor at the board. method 15.

    board ==x======================(fault)===========1-x== board
            r·x·(1 − x): nothing at the ends, a quarter of the whole in the middle

A conductor with one end off (or broken near the board) is a radial of the whole length: r·x.
"""

import math
from dataclasses import dataclass
from functools import lru_cache

from .. import tables
from .circuits import Circuit
from .power import Feeder

QUARTER = 0.25


@dataclass(frozen=True, slots=True)
class RingShares:
    """What a fault at ``at`` (0 to 1 along the ring) sees of the whole length's ohms, by
    conductor."""

    at: float
    line: float
    neutral: float
    egc: float


def is_ring(run: Circuit | Feeder) -> bool:
    """Whether both ends of a run come to its board."""
    return getattr(run, "ring", None) == "yes"


def shares_at(x: float, line_open: bool, neutral_open: bool, egc_open: bool) -> RingShares:
    """The shares at ``x``; a conductor that is open counts from its whole end."""

    def share(is_open: bool) -> float:
        return x if is_open else x * (1 - x)

    return RingShares(x, share(line_open), share(neutral_open), share(egc_open))


def ring_shares(circuit: Circuit) -> RingShares:
    """The shares where a fault to the protective conductor sees the most ohms. Its neutral's is
    what is then wanting to the most that a fault between line and neutral sees: the two together
    are right, wherever along the ring that is."""
    ratio = _egc_ratio(circuit.line_size or "", circuit.egc_size or "")
    return _worst(circuit.ring_open or "none", ratio)


@lru_cache(maxsize=256)
def _worst(broken: str, ratio: float) -> RingShares:
    line, neutral, egc = (broken == c for c in ("line", "neutral", "protective conductor"))
    # r1·f(x) + r2·g(x) is a parabola: its top, or the far end where that is beyond it.
    if line:
        at = min(1.0, (1 + ratio) / (2 * ratio))
    elif egc:
        at = min(1.0, (1 + ratio) / 2)
    else:
        at = 0.5
    found = shares_at(at, line, neutral, egc)
    # Both whole: a quarter each, at the middle. One of them open: its whole length, at its end.
    most = 1.0 if line or neutral else 2 * QUARTER
    return RingShares(at, found.line, most - found.line, found.egc)


@lru_cache(maxsize=256)
def _egc_ratio(line: str, egc: str) -> float:
    """Ohms of the protective conductor over the line's, in one metal."""
    if not line or not egc:
        return 1.0
    ohms = tables.metric_conductors()
    if line in ohms and egc in ohms:
        return (ohms[egc]["copper"] or 1.0) / (ohms[line]["copper"] or 1.0)
    return tables.area(line) / tables.area(egc)


def ring_points(circuit: Circuit, count: int = 8) -> tuple[RingShares, ...]:
    """The shares at ``count`` + 1 points along a ring, from one end to the other."""
    broken = circuit.ring_open or "none"
    flags = tuple(broken == c for c in ("line", "neutral", "protective conductor"))
    return tuple(shares_at(n / count, *flags) for n in range(count + 1))


@dataclass(frozen=True, slots=True)
class RingEnds:
    """End to end readings of a whole ring, Ω at 20 °C; ``math.inf`` for a broken conductor.
    ``line_neutral`` and ``line_egc`` what every socket reads once the ends are cross-connected."""

    r1: float
    rn: float
    r2: float
    line_neutral: float
    line_egc: float


def ring_ends(circuit: Circuit) -> RingEnds | None:
    """What r1, rn and r2 of a ring should read at 20 °C; None where size or length is absent."""
    from ..conductor import Wire, impedance  # the conductor's tables know no site

    if circuit.line_size is None or circuit.length_ft is None or circuit.egc_size is None:
        return None
    metal = circuit.line_material or "copper"
    r1 = impedance(Wire(circuit.line_size, metal, "twin"), circuit.length_ft, 20.0).real
    egc = Wire(circuit.egc_size, circuit.egc_material or metal, "twin")
    r2 = impedance(egc, circuit.length_ft, 20.0).real
    broken = circuit.ring_open or "none"
    found = {"line": r1, "neutral": r1, "protective conductor": r2}
    if broken in found:
        found[broken] = math.inf
    one, other, third = found.values()
    return RingEnds(one, other, third, (one + other) / 4, (one + third) / 4)
