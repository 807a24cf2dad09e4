"""The panel as it is: its face of numbered spaces, the amperes on its legs, what evens them."""

from .balance import BreakerMove, Legs, even_out, legs_of_panel, moves_of
from .face import Face, Space, Unit, face_of, fits

__all__ = [
    "BreakerMove",
    "Face",
    "Legs",
    "Space",
    "Unit",
    "even_out",
    "face_of",
    "fits",
    "legs_of_panel",
    "moves_of",
]  # fmt: skip
