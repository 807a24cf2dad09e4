"""Sums of an array beside its bonding: backfeed on the bars, volts lost, labels, what a detector
sees. Plain values in: no site here but the array's own facts."""

from .backfeed import Backfeed, Way, backfeed
from .detector import Detected, detected
from .labels import Label, LabelCount, cut_list, labels_of
from .volts import DropRow, drop_rows

__all__ = [
    "Backfeed",
    "Detected",
    "DropRow",
    "Label",
    "LabelCount",
    "Way",
    "backfeed",
    "cut_list",
    "detected",
    "drop_rows",
    "labels_of",
]
