"""Which defect explains the readings: single defects of the place, ranked. method 14."""

from .defects import Defect, defects_of
from .edits import edits_of
from .nets import Nets, nets_of
from .propose import Proposal
from .rank import Candidate, Diagnoser, Diagnosis, Given, diagnose, given_of

__all__ = [
    "Candidate",
    "Defect",
    "Diagnoser",
    "Diagnosis",
    "Given",
    "Nets",
    "Proposal",
    "defects_of",
    "diagnose",
    "edits_of",
    "given_of",
    "nets_of",
]
