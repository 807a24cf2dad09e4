"""A place typed line by line, as one would say it: the kind first, then its facts."""

from .examples import first_example, line_examples
from .making import PlaceReading
from .reading import read_place
from .sheath import UNDERSTOOD, Reading, read_circuit

__all__ = [
    "UNDERSTOOD",
    "PlaceReading",
    "Reading",
    "first_example",
    "line_examples",
    "read_circuit",
    "read_place",
]
