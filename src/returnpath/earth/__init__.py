"""Earth: what electrodes are worth in their soil. Plain values in: no site here."""

from .electrodes import (
    buried_wire,
    concrete_encased,
    mutual_rods,
    parallel,
    plate,
    ring,
    rod,
    rods,
    rods_working,
    together,
)
from .soil import four_pins, probe_distances_ft, soils, three_point

__all__ = [
    "buried_wire",
    "concrete_encased",
    "four_pins",
    "mutual_rods",
    "parallel",
    "plate",
    "probe_distances_ft",
    "ring",
    "rod",
    "rods",
    "rods_working",
    "soils",
    "three_point",
    "together",
]
