"""The installation as the electrician describes it: facts, edits, and the job file."""

from .edits import Add, Edit, Move, Remove, Replace, Set, apply, describe, parse_edit
from .fields import FieldInfo, field_info, fields_of, parse_text, show_value
from .jobfile import FORMAT, dumps, loads
from .model import (
    Circuit,
    Device,
    Electrode,
    Installation,
    Panel,
    Practice,
    Service,
    Source,
    Supply,
)
from .quickline import Reading, read_circuit

__all__ = [
    "FORMAT",
    "Add",
    "Circuit",
    "Device",
    "Edit",
    "Electrode",
    "FieldInfo",
    "Installation",
    "Move",
    "Panel",
    "Practice",
    "Reading",
    "Remove",
    "Replace",
    "Service",
    "Set",
    "Source",
    "Supply",
    "apply",
    "describe",
    "dumps",
    "field_info",
    "fields_of",
    "loads",
    "parse_edit",
    "parse_text",
    "read_circuit",
    "show_value",
]
