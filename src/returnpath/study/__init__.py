"""Studies of a site: what a fault, a load, a lost neutral or a hand does."""

from .array import ArrayStudy
from .compare import Change, compare
from .faults import CASE, LINE, NEUTRAL, FaultStudy
from .legs import Leg
from .load import LoadStudy, Stray, Touch, load_study, open_neutral, person, shared_neutral_lost
from .site import SiteStudy, study
from .verdict import Criterion, Verdict

__all__ = [
    "CASE",
    "LINE",
    "NEUTRAL",
    "ArrayStudy",
    "Change",
    "Criterion",
    "FaultStudy",
    "Leg",
    "LoadStudy",
    "SiteStudy",
    "Stray",
    "Touch",
    "Verdict",
    "compare",
    "load_study",
    "open_neutral",
    "person",
    "shared_neutral_lost",
    "study",
]
