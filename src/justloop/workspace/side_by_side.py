"""Two places, or before and after, side by side; and what a trial moves."""

import math
from dataclasses import dataclass, field

from django.utils.safestring import mark_safe

from returnpath.vocabulary import GRAVE
from returnpath.working import figures

from ..drawing.marks import verdict_svg
from ..drawing.strip import strip_scene
from ..solved import SolvedSite
from .loop_view import SHORT, heat_words


@dataclass(frozen=True)
class LoopColumn:
    """One loop of two: its name, verdict, drawings, and figures by their label."""

    name: str
    verdict: str
    mark: str = ""
    strip: str = ""
    cells: dict[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class PairRow:
    """One figure of both."""

    label: str
    left: str
    right: str
    moved: bool


@dataclass(frozen=True)
class LoopPair:
    """Two loops side by side."""

    left: LoopColumn
    right: LoopColumn
    rows: list[PairRow]


@dataclass(frozen=True)
class WhatMoved:
    """What a change moves."""

    moves: str
    gone: list["MovedFinding"]
    come: list["MovedFinding"]
    more_gone: int
    more_come: int
    turned: list["Turned"]
    more_turned: int
    strays: "StrayChange | None"


@dataclass(frozen=True)
class MovedFinding:
    """A finding that goes or comes."""

    level: str
    place: str
    found: str


@dataclass(frozen=True)
class Turned:
    """A verdict that turns."""

    name: str
    was: str
    now: str


@dataclass(frozen=True)
class StrayChange:
    """The most load current on metal, before and after."""

    was: str
    now: str


def column(name: str, fault) -> LoopColumn:
    """One loop as a column."""
    if fault is None:
        return LoopColumn(name, "not there")
    cells: dict[str, str] = {}
    if fault.lowest_a is not None:
        cells["Round the loop"] = (
            f"{figures(fault.loop_ohm)} Ω" if math.isfinite(fault.loop_ohm) else "open"
        )
        cells["Lowest current"] = f"{figures(fault.lowest_a)} A"
        if fault.device is not None:
            cells["Times the breaker"] = f"{figures(fault.multiple)} ×"
            cells["Breaker opens"] = (
                "never" if math.isinf(fault.slow_s) else f"by {figures(fault.slow_s)} s"
            )
            cells["Heat used, worst wire"] = heat_words(fault)[0]
        cells["Case to earth"] = f"{figures(fault.touch_earth_v)} V"
        if fault.longest_run_ft is not None:
            cells["Longest run"] = f"{math.floor(fault.longest_run_ft)} ft"
    closed = bool(fault.lowest_a) and math.isfinite(fault.loop_ohm)
    return LoopColumn(
        name,
        SHORT[fault.verdict],
        # no person's text is in either drawing
        mark_safe(verdict_svg(fault.verdict, 26)),  # noqa: S308
        mark_safe(strip_scene(fault, figured=False).svg()) if closed else "",  # noqa: S308
        cells,
    )


def side_by_side(left_name: str, left, right_name: str, right) -> LoopPair:
    """Rows of two loops; ``moved`` where they differ."""
    a, b = column(left_name, left), column(right_name, right)
    rows = [
        PairRow(
            label,
            a.cells.get(label, "–"),
            b.cells.get(label, "–"),
            a.cells.get(label) != b.cells.get(label),
        )
        for label in dict.fromkeys((*a.cells, *b.cells))
    ]
    return LoopPair(a, b, rows)


def loop_at(solved: SolvedSite, place: str):
    """The loop of a circuit, an enclosure or other metal, or None."""
    study = solved.study
    found = study.loops.get(place) or study.enclosures.get(place)
    if found is None and place.startswith(("m", "e")):
        found = study.metals.get(place)
    return found


def moved(before: SolvedSite, after: SolvedSite) -> WhatMoved:
    """What a change moves: findings that go and come, verdicts that turn, amperes on metal."""
    old = {f.key: f for f in _all(before.findings)}
    new = {f.key: f for f in _all(after.findings)}
    gone = [f for k, f in old.items() if k not in new and f.level != "note"]
    come = [f for k, f in new.items() if k not in old and f.level != "note"]
    turned = _turned(before, after)
    return WhatMoved(
        moves=_moves(gone, come, turned),
        gone=[MovedFinding(level=f.level, place=f.place_name, found=f.found) for f in gone[:12]],
        come=[MovedFinding(level=f.level, place=f.place_name, found=f.found) for f in come[:12]],
        more_gone=max(len(gone) - 12, 0),
        more_come=max(len(come) - 12, 0),
        turned=turned[:12],
        more_turned=max(len(turned) - 12, 0),
        strays=_strays(before, after),
    )


def _all(found):
    for one in found:
        yield one
        yield from _all(one.folded)


def _turned(before: SolvedSite, after: SolvedSite) -> list[Turned]:
    rows = []
    for place, fault in after.study.loops.items():
        was = before.study.loops.get(place)
        if was is not None and was.verdict is not fault.verdict:
            rows.append(Turned(name=fault.place_name, was=str(was.verdict), now=str(fault.verdict)))
    return rows


NUMBERS = ("no", "one", "two", "three", "four", "five", "six")
MOST_NAMED = 2


def _moves(gone: list, come: list, turned: list) -> str:
    """What it would do, in words: “the Loft studio danger goes; two questions come”."""
    said = [*_leaving(gone, "goes", "go"), *_leaving(come, "comes", "come")]
    if len(turned) == 1:
        one = turned[0]
        said.append(f"{one.name}: {one.was} → {one.now}")
    elif turned:
        said.append(f"{_number(len(turned))} verdicts turn")
    text = "; ".join(said)
    return text[:1].upper() + text[1:]


def _leaving(found: list, one: str, many: str) -> list[str]:
    """Dangers and fixes by their place while they are few, the rest counted."""
    grave = [f for f in found if f.level in GRAVE]
    said = []
    if len(grave) > MOST_NAMED:
        for level in GRAVE:
            count = sum(f.level == level for f in grave)
            if count:
                words = level if count == 1 else {"danger": "dangers", "fix": "fixes"}[level]
                said.append(f"{_number(count)} {words} {one if count == 1 else many}")
    else:
        said += [f"the {f.place_name} {f.level} {one}" for f in grave]
    rest = len(found) - len(grave)
    if rest:
        words = "question" if rest == 1 else "questions"
        said.append(f"{_number(rest)} {words} {one if rest == 1 else many}")
    return said


def _number(count: int) -> str:
    return NUMBERS[count] if count < len(NUMBERS) else str(count)


def _strays(before: SolvedSite, after: SolvedSite) -> StrayChange | None:
    """The most load current on metal that should carry none, before and after."""

    def most(solved: SolvedSite) -> float:
        strays = [s.amps for load in solved.study.loads.values() for s in load.strays]
        return max(strays, default=0.0)

    a, b = most(before), most(after)
    if abs(a - b) < 0.005:
        return None
    return StrayChange(was=f"{figures(a)} A", now=f"{figures(b)} A")
