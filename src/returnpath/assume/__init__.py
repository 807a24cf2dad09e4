"""Fills absent facts with what stands in for them, and lists what it filled and why.

Figures from ``tables/assumptions.csv`` and the size tables. The presence of a return conductor
or of a bond is never assumed.
"""

from .electrodes import electrode_ohm
from .filling import Assumption
from .whole import Assumed, assume

__all__ = ["Assumed", "Assumption", "assume", "electrode_ohm"]
