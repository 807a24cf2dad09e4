"""An array as it lies on the roof: rows of frames on rails, and every joint of their bonding.

    row 1   [1m1]─[1m2]─[1m3]─[1m4]╪[1m5]─[1m6]─[1m7]     ╪ a splice of the rail
              └── jumper1 ──┐                              ─ the rail, where it is listed for it
    row 2   [2m1]─[2m2]─…                                  lug: the array EGC leaves here

A joint is a branch of its array: ``a1.frame2m3``, ``a1.splice1s1``, ``a1.jumper1``, ``a1.lug``,
``a1.box``, ``a1.disconnect``, ``a1.inverter``. With a wire to every frame there are no splices:
each frame's lug is on its row's wire.
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache

from .. import tables
from ..errors import BadInput
from .circuits import Array

RAIL_MODULES = 4  # modules to a length of rail
ROOT = "root"  # where the array EGC begins
MOST_FRAMES = 600


@dataclass(frozen=True)
class RoofJoint:
    """One joint: its branch's part, its kind, the two ends it joins."""

    part: str
    kind: str
    a: str
    b: str


@cache
def joint_kinds() -> dict[str, tuple[float, str, bool]]:
    """kind → (ohms of a sound one, words, whether modules hide it)."""
    return {
        r["part"]: (float(r["ohm"]), r["label"], r["hidden"] == "yes")
        for r in tables.rows("array_joints")
    }


def size_of(array: Array) -> tuple[int, int]:
    """(rows, modules in a row): as they lie; one row of all modules a string where nobody said."""
    if array.rows and array.columns:
        return array.rows, array.columns
    return (array.strings or 1), (array.modules or 1)


def is_laid_out(array: Array) -> bool:
    """Whether somebody said how it lies on the roof."""
    return bool(array.rows and array.columns)


def is_wired(array: Array) -> bool:
    """Whether every frame has its own lug on a wire, instead of rails that bond."""
    return array.bonding == "lugs"


def frames_of(array: Array) -> tuple[str, ...]:
    """The frames, row by row: ``1m1``."""
    rows, columns = size_of(array)
    return tuple(f"{r}m{c}" for r in range(1, rows + 1) for c in range(1, columns + 1))


def roof_joints(array: Array) -> tuple[RoofJoint, ...]:
    """Every joint of an array's bonding; none where nobody said how it lies."""
    return tuple(_joints(array)) if is_laid_out(array) else ()


def _joints(array: Array) -> Iterator[RoofJoint]:
    rows, columns = size_of(array)
    wired = is_wired(array)
    for r in range(1, rows + 1):
        for c in range(1, columns + 1):
            section = 0 if wired else (c - 1) // RAIL_MODULES
            yield RoofJoint(f"frame{r}m{c}", "frame", f"f{r}m{c}", f"rail{r}s{section}")
        if not wired:
            for s in range(1, (columns - 1) // RAIL_MODULES + 1):
                yield RoofJoint(f"splice{r}s{s}", "splice", f"rail{r}s{s}", f"rail{r}s{s - 1}")
        if r < rows:
            yield RoofJoint(f"jumper{r}", "jumper", f"rail{r + 1}s0", f"rail{r}s0")
    yield RoofJoint("lug", "lug", "rail1s0", ROOT)
    if array.boxes != "plastic":
        yield RoofJoint("box", "box", "box", ROOT)
    if array.dc_disconnect != "no":
        yield RoofJoint("disconnect", "disconnect", "disconnect", ROOT)
    if array.inverter != "micro":
        yield RoofJoint("inverter", "inverter", "inverter", ROOT)


def name_of_joint(part: str) -> str:
    """``frame2m3`` in words: “row 2, module 3: its washer or lug”."""
    if match := re.fullmatch(r"frame(\d+)m(\d+)", part):
        return f"row {match[1]}, module {match[2]}"
    if match := re.fullmatch(r"splice(\d+)s(\d+)", part):
        return f"row {match[1]}, rail splice {match[2]}"
    if match := re.fullmatch(r"jumper(\d+)", part):
        return f"jumper from row {match[1]} to row {int(match[1]) + 1}"
    return joint_kinds().get(part, (0.0, part, False))[1]


def name_of_frame(frame: str) -> str:
    """``2m3`` in words."""
    row, _, column = frame.partition("m")
    return f"row {row}, module {column}"


#: ``3 rows of 7, washers, rails, 6 cu``: a whole array in one line.
_ROWS = re.compile(r"(\d{1,2})\s*(?:rows?\s*(?:of|x|by)?|x|×|by)\s*(\d{1,2})", re.IGNORECASE)


_SIZE = re.compile(
    r"#?(\d{1,2})\s*(?:awg)?\s*(cu|copper|al|aluminum|aluminium)?(?:\s*(?:egc|wire))?", re.I
)
_WORDS: dict[str, dict[str, str]] = {
    "washers": {"bonding": "washers"},
    "toothed washers": {"bonding": "washers"},
    "clamps": {"bonding": "clamps"},
    "lugs": {"bonding": "lugs"},
    "wire to every frame": {"bonding": "lugs"},
    "rails": {"rails": "bonded", "rails_listed": "yes"},
    "listed rails": {"rails": "bonded", "rails_listed": "yes"},
    "rails not listed": {"rails": "bonded", "rails_listed": "no"},
    "no rails": {"rails": "none"},
    "exposed": {"egc_exposed": "yes"},
}
LAYOUT_EXAMPLE = "3 rows of 7, washers, rails, 6 cu"


def layout_facts(text: str) -> dict[str, object]:
    """The facts of ``3 rows of 7, washers, rails, 6 cu``; BadInput names what is not understood."""
    facts: dict[str, object] = {}
    for part in filter(None, (p.strip().lower() for p in text.split(","))):
        if found := _ROWS.fullmatch(part):
            facts |= {"rows": int(found[1]), "columns": int(found[2])}
        elif part in _WORDS:
            facts |= _WORDS[part]
        elif (found := _SIZE.fullmatch(part)) and found[1] in tables.sizes("copper"):
            facts["egc_size"] = found[1]
            if found[2]:
                facts["egc_material"] = tables.METAL_WORDS[found[2].lower()]
        else:
            raise BadInput(f"“{part[:40]}” was not understood; write {LAYOUT_EXAMPLE}.")
    if "rows" not in facts:
        raise BadInput(f"How many rows of how many modules? Write {LAYOUT_EXAMPLE}.")
    return facts
