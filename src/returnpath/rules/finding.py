"""A finding: what is wrong at one place, why it matters, what to do about it."""

from collections.abc import Iterable
from dataclasses import dataclass, field

from ..site import Edit
from ..vocabulary import Level
from ..working import Working

#: Worst first.
LEVELS = tuple(Level)

#: What a finding can rest on.
RULE, LOCAL, MAKER, PRACTICE = (
    "rule",
    "local requirement",
    "manufacturer's instruction",
    "good practice",
)


@dataclass(frozen=True, slots=True)
class Authority:
    """What a finding rests on, and where to read it. ``doubtful``: check locally."""

    kind: str
    where: str
    doubtful: bool = False

    def __str__(self) -> str:
        tail = "; check locally" if self.doubtful else ""
        return f"{self.kind}: {self.where}{tail}"


@dataclass(frozen=True)
class Finding:
    """``id`` names the check, ``place`` the element; ``found`` has the figures.

    ``fix`` the edits that would mend it, where edits can; ``parts`` what it takes; ``asks`` the
    fact that would settle it; ``root``: mending it may make others go, ``folded`` those that do.
    """

    id: str
    level: Level
    place: str
    place_name: str
    found: str
    why: str
    do: str
    authority: Authority
    fix: tuple[Edit, ...] = ()
    parts: tuple[str, ...] = ()
    asks: str = ""
    working: Working | None = None
    root: bool = False
    folded: tuple["Finding", ...] = field(default=())

    @property
    def key(self) -> str:
        """What it is remembered by: check id and element id."""
        return f"{self.id}:{self.place}"


def worst(found: Iterable[Finding]) -> Finding | None:
    """The first of the worst level, None where nothing was found."""
    return min(found, key=lambda f: LEVELS.index(f.level), default=None)
