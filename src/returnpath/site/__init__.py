"""The installation as the electrician describes it: facts, edits, and the job file."""

from .base import Element, Provenance
from .building import Building
from .circuits import Array, Circuit
from .directory import read_csv, write_csv
from .earthing import Electrode, Joint, Metal
from .edits import (
    Add,
    Edit,
    Move,
    Remove,
    Replace,
    Set,
    Soil,
    apply,
    apply_all,
    describe,
    parse_edit,
    resolved,
)
from .fields import FieldInfo, field_info, fields_of, parse_text, show_value
from .installation import LISTS, Installation, Practice, name_of
from .jobfile import FORMAT, dumps, dumps_practice, loads, loads_practice
from .parts import duplicate, read_lines, removal
from .power import Device, Feeder, Panel, Service, Supply
from .rebase import rebase
from .typed import (
    UNDERSTOOD,
    PlaceReading,
    Reading,
    first_example,
    line_examples,
    read_circuit,
    read_place,
)

__all__ = [
    "FORMAT",
    "LISTS",
    "UNDERSTOOD",
    "Add",
    "Array",
    "Building",
    "Circuit",
    "Device",
    "Edit",
    "Electrode",
    "Element",
    "Feeder",
    "FieldInfo",
    "Installation",
    "Joint",
    "Metal",
    "Move",
    "Panel",
    "PlaceReading",
    "Practice",
    "Provenance",
    "Reading",
    "Remove",
    "Replace",
    "Service",
    "Set",
    "Soil",
    "Supply",
    "apply",
    "apply_all",
    "describe",
    "dumps",
    "dumps_practice",
    "duplicate",
    "field_info",
    "fields_of",
    "first_example",
    "line_examples",
    "loads",
    "loads_practice",
    "name_of",
    "parse_edit",
    "parse_text",
    "read_circuit",
    "read_csv",
    "read_lines",
    "read_place",
    "rebase",
    "removal",
    "resolved",
    "show_value",
    "write_csv",
]
