"""A place typed line by line, as one would say it: the kind first, then its facts."""

from .making import PlaceReading
from .reading import read_place
from .sheath import UNDERSTOOD, Reading, read_circuit

__all__ = ["UNDERSTOOD", "PlaceReading", "Reading", "read_circuit", "read_place"]
