"""Sizes the rules ask for. Plain values in, Working out: no site here."""

from .bonding import (
    building_gec,
    gas_bond,
    intersystem,
    pipe_bond,
    pool_grid,
    smallest_array_egc,
    structure_bond,
    water_bond,
)
from .equipment import motor_egc, smallest_egc, tap_egc
from .lines import ampacity, device_allowed, smallest_line
from .service import (
    electrode_kinds,
    main_bonding_jumper,
    service_line,
    smallest_gec,
    smallest_neutral,
    supply_side_jumper,
)

__all__ = [
    "ampacity",
    "building_gec",
    "device_allowed",
    "electrode_kinds",
    "gas_bond",
    "intersystem",
    "main_bonding_jumper",
    "motor_egc",
    "pipe_bond",
    "pool_grid",
    "service_line",
    "smallest_array_egc",
    "smallest_egc",
    "smallest_gec",
    "smallest_line",
    "smallest_neutral",
    "structure_bond",
    "supply_side_jumper",
    "tap_egc",
    "water_bond",
]
