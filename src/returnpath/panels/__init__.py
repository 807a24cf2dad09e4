"""The panel as it is: its face of numbered spaces, the amperes on its legs, what evens them."""

from .balance import BreakerMove, Legs, even_out, legs_after, legs_of_panel, moves_of
from .demand import Counted, LoadItem, floor_area, typed_item
from .face import (
    MOST_SPACES,
    Face,
    Space,
    Unit,
    are_too_many,
    face_of,
    fits,
    rooms,
    swaps,
    taken_spaces,
)
from .load import METHOD_WORDS, DwellingLoad, LoadMethod, dwelling_load

__all__ = [
    "METHOD_WORDS",
    "MOST_SPACES",
    "BreakerMove",
    "Counted",
    "DwellingLoad",
    "Face",
    "Legs",
    "LoadItem",
    "LoadMethod",
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
    "rooms",
    "swaps",
    "taken_spaces",
    "typed_item",
]  # fmt: skip
