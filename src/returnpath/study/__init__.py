"""Studies of a site: what a fault does, and how long for."""

from .loop import Leg, LoopStudy, SiteStudy, study
from .verdict import Criterion, Verdict

__all__ = ["Criterion", "Leg", "LoopStudy", "SiteStudy", "Verdict", "study"]
