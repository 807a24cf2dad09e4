"""The schedule of tests of a metric job: every circuit, dead tests before live ones, what each
should read and what it read."""

from dataclasses import dataclass
from typing import Any

from returnpath.readings import DEAD, LIVE, ScheduleRow, schedule_rows
from returnpath.site import name_of

from ..solved import SolvedSite


@dataclass(frozen=True)
class TestCell:
    """One test: its column, what it should read, what it read; ``typed`` the line that asks for
    its number."""

    kind: str
    head: str
    should: str
    read: str


@dataclass(frozen=True)
class TestLine:
    """One circuit of the schedule."""

    row: ScheduleRow
    dead: tuple[TestCell, ...]
    live: tuple[TestCell, ...]


@dataclass(frozen=True)
class TestBoard:
    """One board with its circuits."""

    name: str
    lines: tuple[TestLine, ...]


@dataclass
class SchedulePage:
    """The schedule on screen and on paper."""

    job: Any
    boards: tuple[TestBoard, ...]
    origin: tuple[TestCell, ...]
    back: str
    site: Any
    revision: Any = None
    colours: Any = None
    static: str = ""
    firm: Any = None


def boards_of(solved: SolvedSite, read: dict[tuple[str, str], str]) -> tuple[TestBoard, ...]:
    """Board by board, in walking order; ``read`` the newest figure of each place and kind."""
    found = []
    for panel in solved.site.panels:
        lines = []
        for row in schedule_rows(solved.study, panel.id):
            dead, live = (
                tuple(
                    TestCell(
                        kind, head, row.expected.get(kind, ""), read.get((row.circuit, kind), "")
                    )
                    for kind, head in kinds.items()
                    if kind in row.expected or (row.circuit, kind) in read
                )
                for kinds in (DEAD, LIVE)
            )
            lines.append(TestLine(row, dead, live))
        if lines:
            found.append(TestBoard(name_of(panel), tuple(lines)))
    return tuple(found)


def origin_of(solved: SolvedSite, read: dict[tuple[str, str], str]) -> tuple[TestCell, ...]:
    """What is read at the origin: Ze, the electrode, the prospective current."""
    site, first = solved.study.assumed.site, solved.site.panel.id
    unit = site.supply
    ze = f"{unit.ze_ohm:g} Ω" if unit.ze_ohm is not None else "not told"
    found = [TestCell("ze", "Ze", ze, read.get((first, "ze"), ""))]
    for electrode in site.electrodes:
        if unit.earthing == "TT" and electrode.ohm is not None:
            should = f"{electrode.ohm:.3g} Ω"
            kind = "three-point"
            found.append(TestCell(kind, "Electrode", should, read.get((electrode.id, kind), "")))
    amps = solved.study.available_a
    if amps:
        found.append(
            TestCell("pfc", "Prospective current", f"up to {amps:,.0f} A",
                     read.get((first, "pfc"), ""))
        )  # fmt: skip
    return tuple(found)
