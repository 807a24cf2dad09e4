"""What a loop meter should read at a receptacle, and from where on a joint is suspected.

The conductors are anywhere between cold (25 °C, the strongest source) and hot (75 °C, the weakest):
the reading lies between the loop's ohms of those two. method 4 and 9.
"""

import math
from dataclasses import dataclass

from ..study import FaultStudy
from ..working import Working, figures, formula, note, of

OVER_SHARE, OVER_OHM = 0.2, 0.1


@dataclass(frozen=True, slots=True)
class Expected:
    """Ohms: a reading from ``low`` to ``high`` fits; over ``suspect`` look for a loose joint."""

    low: float
    high: float
    suspect: float
    working: Working

    def words(self) -> str:
        """As a test sheet writes it."""
        return f"{figures(self.low)}–{figures(self.high)} Ω"


def expected_loop(fault: FaultStudy) -> Expected | None:
    """The band of a line-to-case loop; None where there is no closed loop to measure.

    Suspect: over the hot figure by the larger of 20 % and 0.1 Ω.
    """
    basis = fault.basis
    if basis is None or not fault.lowest_a or not math.isfinite(fault.loop_ohm):
        return None
    low, high = sorted((abs(basis.high.ohm), fault.loop_ohm))
    suspect = high + max(OVER_SHARE * high, OVER_OHM)
    steps = (
        formula(f"conductors at 25 °C, strongest source: {figures(low)} Ω", "method 4"),
        formula(f"conductors at 75 °C, weakest source: {figures(high)} Ω", "method 4"),
        note(f"over by the larger of 20 % and 0.1 Ω: {figures(suspect)} Ω"),
    )
    return Expected(low, high, suspect, of("Loop at the receptacle", high, "Ω", *steps))
