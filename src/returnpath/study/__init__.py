"""Studies of a site: what a fault, a load, a lost neutral or a hand does.

``sources`` which source serves which study · ``spine`` what is solved once · ``port`` what a
solved network looks like from a place · ``protection`` what opens · ``heat`` and ``conductors``
what lives · ``faults`` a fault and what it amounts to · ``one_fault`` every kind of fault ·
``loop`` the way out and back, leg by leg · ``load`` loads on and neutrals lost · ``shock`` a
person · ``array`` the d.c. side.
"""

import sys
from types import ModuleType

from ..site import Installation
from .array import ArrayStudy
from .compare import Moved, compare
from .faults import FaultStudy
from .load import LoadStudy, Stray, Touch, load_study, person
from .loop import Leg
from .port import FaultKind, Side
from .site import SiteStudy, study
from .verdict import Criterion, Verdict

__all__ = [
    "ArrayStudy",
    "Criterion",
    "FaultKind",
    "FaultStudy",
    "Leg",
    "LoadStudy",
    "Moved",
    "Side",
    "SiteStudy",
    "Stray",
    "Touch",
    "Verdict",
    "compare",
    "load_study",
    "person",
    "study",
]


class _Callable(ModuleType):
    """``from returnpath import study`` gives this package, which must then be the function too:
    a package and a name of the face cannot both be an attribute of ``returnpath``."""

    def __call__(self, site: Installation) -> SiteStudy:
        """Study every place of a site."""
        return study(site)


sys.modules[__name__].__class__ = _Callable
