"""The panel as it is: its face of numbered spaces, the amperes on its legs, what evens them."""

from .balance import BreakerMove, Legs, even_out, legs_after, legs_of_panel, moves_of
from .face import Face, Space, Unit, face_of, fits
from .load import DwellingLoad, LoadItem, dwelling_load, floor_area

__all__ = [
    "BreakerMove",
    "DwellingLoad",
    "Face",
    "Legs",
    "LoadItem",
    "Space",
    "Unit",
    "dwelling_load",
    "even_out",
    "face_of",
    "fits",
    "floor_area",
    "legs_after",
    "legs_of_panel",
    "moves_of",
]  # fmt: skip
