"""The loop impedances that devices allow, as a table one can hang beside the board. method 15."""

from dataclasses import dataclass

from ..device import Breaker
from ..fuse import Fuse, ratings
from .metric import AMBIENT_C, MEASURED_SHARE, allowed_zs, measured_at, operating_a

TYPES = ("B", "C", "D")
MCB_RATINGS = (6, 10, 16, 20, 25, 32, 40, 50, 63)
#: A final circuit's time, and a distribution circuit's.
TIMES_S = (0.4, 5.0)


@dataclass(frozen=True, slots=True)
class AllowedZs:
    """One device: Ia, A; the loop it allows with its conductors hot, and read at room temperature
    by the metal's own coefficient and by the rule of four fifths, Ω."""

    kind: str
    rating_a: float
    seconds: float
    operating_a: float
    hot_ohm: float
    cold_ohm: float
    four_fifths_ohm: float


def allowed_row(device: Breaker, seconds: float, volts: float = 230.0) -> AllowedZs:
    """The row of one device."""
    hot = float(str(allowed_zs(device, seconds, volts).value))
    return AllowedZs(
        device.kind,
        device.rating_a,
        seconds,
        operating_a(device, seconds),
        hot,
        measured_at(hot, AMBIENT_C),
        hot * MEASURED_SHARE,
    )


def allowed_table(volts: float = 230.0) -> tuple[AllowedZs, ...]:
    """Types B, C, D from 6 to 63 A and gG fuses, for 0.4 and 5 s."""
    devices: list[Breaker] = [Breaker(r, kind=kind) for kind in TYPES for r in MCB_RATINGS]
    devices += [Fuse(r) for r in ratings()]
    return tuple(allowed_row(d, seconds, volts) for seconds in TIMES_S for d in devices)
