"""The record of a place: what must be seen before it is covered, what is not read yet."""

from .lacks import KeptSlot, Record, RecordKind, record_findings, record_kinds
from .slots import Slot, slots_of

__all__ = [
    "KeptSlot",
    "Record",
    "RecordKind",
    "Slot",
    "record_findings",
    "record_kinds",
    "slots_of",
]
