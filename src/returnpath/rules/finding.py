"""A finding: what is wrong at one place, why it matters, what to do about it."""

from collections.abc import Iterable
from dataclasses import dataclass

from ..site import Edit

#: Worst first. danger: someone can be shocked or a fire start from what is there; fix: breaks a
#: rule in force; check: measure or ask; note.
LEVELS = ("danger", "fix", "check", "note")


@dataclass(frozen=True, slots=True)
class Finding:
    """``id`` names the check, ``place`` the element; ``found`` has the figures.

    ``authority`` is what it rests on (a section by edition, or good practice); ``fix`` the edits
    that would mend it, where edits can.
    """

    id: str
    level: str
    place: str
    place_name: str
    found: str
    why: str
    do: str
    authority: str
    fix: tuple[Edit, ...] = ()

    @property
    def key(self) -> str:
        """What it is remembered by: check id and element id."""
        return f"{self.id}:{self.place}"


def worst(found: Iterable[Finding]) -> Finding | None:
    """The first of the worst level, None where nothing was found."""
    return min(found, key=lambda f: LEVELS.index(f.level), default=None)
