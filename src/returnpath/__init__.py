"""The computation behind Just Loop: ground-fault return paths of dwellings.

>>> from returnpath import read, study
>>> place = study(read("examples/pebblewick.json"))
>>> place.worst.place_name, place.worst.verdict.value
('Tool shed', 'trips instantaneously if the curve is as assumed')
>>> round(place.worst.lowest_a), place.worst.workings["lowest_a"].steps()[-1].source
(202, 'method 4')

``read`` a job file, ``study`` it, ``judge`` it; ``Site`` is what was read, ``BadInput`` what a
person can get wrong. Everything else is behind it and may move. Knows no screen, no database and
no web framework. Lengths are in feet, impedances in ohms (complex phasors, r.m.s.), areas in
circular mils.
"""

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from .face import BadInput, Site, judge, read, study

#: Part of the key under which solved results are cached: raise it when a figure may change.
ENGINE_VERSION = "6.0"
__version__ = "0.2.0"

__all__ = ["ENGINE_VERSION", "BadInput", "Site", "__version__", "judge", "read", "study"]


def __getattr__(name: str) -> Any:
    """The face, imported when first asked for: ``import returnpath`` alone costs nothing."""
    if name in __all__:
        from . import face

        return getattr(face, name)
    raise AttributeError(f"module 'returnpath' has no attribute '{name}'")
