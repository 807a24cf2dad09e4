"""The installation as an electrical network, solved without assuming any path."""

from .build import State, build
from .solver import EARTH, Coupled, Fault, Network, Nudged, Solution, coupled

__all__ = [
    "EARTH",
    "Coupled",
    "Fault",
    "Network",
    "Nudged",
    "Solution",
    "State",
    "build",
    "coupled",
]
