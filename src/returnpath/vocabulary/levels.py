"""How grave a finding is."""

from enum import StrEnum


class Level(StrEnum):
    """Worst first. danger: someone can be shocked or a fire start from what is known to be there;
    fix: breaks a rule in force; check: measure, look or ask; note: permitted, worth knowing."""

    DANGER = "danger"
    FIX = "fix"
    CHECK = "check"
    NOTE = "note"

    @property
    def rank(self) -> int:
        """0 for the worst."""
        return list(Level).index(self)


#: What somebody must mend; the others are looked at, or known.
GRAVE = (Level.DANGER, Level.FIX)
