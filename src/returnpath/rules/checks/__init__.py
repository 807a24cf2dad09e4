"""The families of checks; importing this package enters them all in the registry."""

from . import (  # noqa: F401
    array,
    array_joints,
    bonding,
    conductors,
    directory,
    electrode_conductors,
    electrodes,
    ground_wires,
    local,
    loops,
    neutral,
    old_work,
    outbuilding,
    protection,
    return_path,
    short_circuits,
    sources,
)
