"""The families of checks; importing this package enters them all in the registry."""

from . import (  # noqa: F401
    bonding,
    conductors,
    electrode_conductors,
    electrodes,
    ground_wires,
    local,
    loops,
    neutral,
    old_work,
    outbuilding,
    return_path,
    short_circuits,
)
