"""The trade's names as types: systems, paths of facts, branches, sizes, levels, units.

Text stays text underneath (each is a ``str``), so that a job file, a dictionary key and an
address hold the same thing that a function's signature names.
"""

from .levels import GRAVE, Level
from .paths import BranchId, FactPath, NodeId, fact_in, with_fact
from .sizes import Size
from .systems import System

__all__ = [
    "GRAVE",
    "BranchId",
    "FactPath",
    "Level",
    "NodeId",
    "Size",
    "System",
    "fact_in",
    "with_fact",
]
