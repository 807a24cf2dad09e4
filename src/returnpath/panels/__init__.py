"""The panel as it is: its face of numbered spaces, the amperes on its legs, what evens them."""

from .balance import BreakerMove, Legs, even_out, legs_after, legs_of_panel, moves_of
from .face import (
    MOST_SPACES,
    Face,
    Space,
    Unit,
    are_too_many,
    face_of,
    fits,
    taken_spaces,
)
from .load import DwellingLoad, LoadItem, dwelling_load, floor_area

__all__ = [
    "MOST_SPACES",
    "BreakerMove",
    "DwellingLoad",
    "Face",
    "Legs",
    "LoadItem",
    "Space",
    "Unit",
    "are_too_many",
    "dwelling_load",
    "even_out",
    "face_of",
    "fits",
    "floor_area",
    "legs_after",
    "legs_of_panel",
    "moves_of",
    "taken_spaces",
]  # fmt: skip
