"""The supply systems: how many lines, at what volts, in which units.

          lines  to neutral   between lines
split       2      120 V         240 V        centre tap: two halves in line
wye         3      120 V         208 V
high-leg    3      120 V         240 V        one line is 208 V to neutral: B (408.3(E))
230         1      230 V          -
400/230     3      230 V         400 V
"""

import math
from enum import StrEnum


class System(StrEnum):
    """A supply system, written in a job file as its value."""

    SPLIT = "120/240 split"
    WYE = "120/208 wye"
    HIGH_LEG = "120/240 high-leg"
    SINGLE_230 = "230"
    THREE_400 = "400/230"

    @property
    def label(self) -> str:
        """The trade's words."""
        return _LABELS[self]

    @property
    def lines(self) -> int:
        """Line conductors: 1, 2 or 3."""
        return {System.SPLIT: 2, System.SINGLE_230: 1}.get(self, 3)

    @property
    def is_metric(self) -> bool:
        """Whether its conductors are in square millimetres and its times the IEC's."""
        return self in (System.SINGLE_230, System.THREE_400)

    @property
    def has_centre_tap(self) -> bool:
        """Whether its source is a centre-tapped winding."""
        return self in (System.SPLIT, System.HIGH_LEG)

    @property
    def phases(self) -> int:
        """Windings that share its rating: 1 or 3."""
        return 3 if self in (System.WYE, System.THREE_400) else 1

    @property
    def volts(self) -> float:
        """Line to neutral, V (the high leg apart)."""
        return 230.0 if self.is_metric else 120.0

    @property
    def volts_between(self) -> float:
        """Between two lines, V; line to neutral where there is one line alone."""
        if self.has_centre_tap:
            return 2 * self.volts
        return self.volts if self.lines == 1 else math.sqrt(3) * self.volts

    @property
    def high_leg(self) -> int:
        """The line that is far over 120 V to neutral where nobody says another: B, the middle bar
        (408.3(E)); 0 where there is none."""
        return 2 if self is System.HIGH_LEG else 0

    def rated_volts(self, poles: int) -> float:
        """What a load on ``poles`` is made for: line to neutral on one, between lines on more."""
        return self.volts if poles == 1 else self.volts_between


_LABELS = {
    System.SPLIT: "120/240 V, centre tap",
    System.WYE: "120/208 V, three-phase wye",
    System.HIGH_LEG: "120/240 V, high-leg delta",
    System.SINGLE_230: "230 V, line and neutral",
    System.THREE_400: "400/230 V, three-phase",
}
