"""A change that a form stands for: edits to save as one revision."""

from dataclasses import dataclass

from returnpath.site import Edit

OLD_PAGE = "The page is out of date: load it again."


@dataclass(frozen=True)
class Change:
    """Edits to save as one revision; ``words`` for the history, else each edit's own; ``select``
    the element that is selected next, or the list whose newest it is."""

    edits: tuple[Edit, ...]
    words: str = ""
    select: str = ""
