"""Sizes the rules ask for. Plain values in, Working out: no site here."""

from .equipment import smallest_egc
from .lines import ampacity, device_allowed, smallest_line
from .service import main_bonding_jumper, service_line, smallest_gec, smallest_neutral

__all__ = [
    "ampacity",
    "device_allowed",
    "main_bonding_jumper",
    "service_line",
    "smallest_egc",
    "smallest_gec",
    "smallest_line",
    "smallest_neutral",
]
