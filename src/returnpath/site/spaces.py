"""The spaces of a panel as they are numbered, and the leg each of them is on.

The stabs of a panel take the legs in turn from the top, row by row; which row a number is in is a
matter of how the maker, or whoever wrote the door, numbered them.
"""

from typing import Literal

from .power import Panel

#: How a distribution board of the metric rule set is numbered where nobody said: one row of ways.
METRIC_NUMBERING: Literal["column"] = "column"


def as_numbered(panel: Panel, is_metric: bool) -> Panel:
    """The panel with the numbering that is usual where nobody said one: the same as the study
    assumes, so that a face and the legs of the network agree."""
    if panel.numbering is None and is_metric:
        return panel.model_copy(update={"numbering": METRIC_NUMBERING})
    return panel


def row_of(panel: Panel, space: int) -> int:
    """The row of a space, from 0 at the top."""
    if panel.numbering == "column":
        return space - 1
    if panel.numbering == "down":
        return (space - 1) % _rows_of_a_side(panel, space)
    return (space - 1) // 2


def is_left(panel: Panel, space: int) -> bool:
    """Whether a space is in the left column, or in the only one."""
    if panel.numbering == "column":
        return True
    if panel.numbering == "down":
        return space <= _rows_of_a_side(panel, space)
    return space % 2 == 1


def _rows_of_a_side(panel: Panel, space: int) -> int:
    """How many spaces a side has; where nobody counted them, all are taken to be on one."""
    return max(-(-(panel.spaces or 2 * space) // 2), 1)


def below(panel: Panel, space: int, rows: int = 1) -> int | None:
    """The space so many rows under another; None where its side ends before."""
    if panel.numbering in ("down", "column"):
        found = space + rows
        same = is_left(panel, found) == is_left(panel, space)
        return found if same or panel.numbering == "column" else None
    return space + 2 * rows


def leg_of_space(panel: Panel, space: int, lines: int) -> int:
    """The line (1, 2, 3) that a space's stab is on."""
    return row_of(panel, space) % lines + 1
