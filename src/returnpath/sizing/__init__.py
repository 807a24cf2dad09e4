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
from .lines import (
    LEAST_PARALLEL,
    ampacity,
    column_of,
    device_allowed,
    device_allowed_sets,
    smallest_line,
    smallest_run,
)
from .service import (
    electrode_kinds,
    main_bonding_jumper,
    service_line,
    smallest_gec,
    smallest_neutral,
    supply_side_jumper,
)

__all__ = [
    "LEAST_PARALLEL",
    "ampacity",
    "building_gec",
    "column_of",
    "device_allowed",
    "device_allowed_sets",
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
    "smallest_run",
    "structure_bond",
    "supply_side_jumper",
    "tap_egc",
    "water_bond",
]
