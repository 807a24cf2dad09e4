"""The Log stage: what is read next in walking order, what was read against its prediction."""

from dataclasses import dataclass
from itertools import groupby

from returnpath.diagnosis import Given
from returnpath.readings import (
    JudgedReading,
    TypedReading,
    expected_loop,
    judge_reading,
    read_readings,
    reading_kinds,
)
from returnpath.site import name_of

from ..address import Address
from ..log.models import LoggedReading
from ..log.views import FACTS, names_of
from ..solved import SolvedSite

MOST_SHOWN = 60
EXAMPLES = ("studio outlets loop 0.66", "n-g 1.9 V with heater on", "clamp gec 0.4")


@dataclass(frozen=True)
class ReadLine:
    """A typed line read back, with what it would mean."""

    words: str
    says: str
    meaning: str
    fits: bool | None
    problem: str


@dataclass(frozen=True)
class WalkRow:
    """A place of the walk: its band, the last reading there."""

    id: str
    name: str
    href: str
    band: str
    last: str
    fits: bool | None
    is_next: bool


@dataclass(frozen=True)
class WalkGroup:
    """The places of one panel."""

    name: str
    rows: tuple[WalkRow, ...]


@dataclass(frozen=True)
class LogRow:
    """A reading that was kept, judged by the site as it is now."""

    number: int
    place: str
    kind: str
    figure: str
    loaded: bool
    fits: bool | None
    says: str
    meaning: str
    cause: str
    at: object
    who: str
    simulated: bool
    can_use: bool


@dataclass(frozen=True)
class WhyRow:
    """A defect that would explain the readings."""

    share: str
    width: int
    words: str
    href: str
    same: bool


@dataclass(frozen=True)
class WhyView:
    """What would explain the readings, and what to read next."""

    rows: tuple[WhyRow, ...]
    next_words: str
    next_href: str
    tied: bool
    used: int


@dataclass(frozen=True)
class LogPageModel:
    """The Log stage."""

    typed: str
    back: tuple[ReadLine, ...]
    next_name: str
    then: str
    walk: tuple[WalkGroup, ...]
    rows: tuple[LogRow, ...]
    off: int
    missing: int
    why: "WhyView | None"
    why_href: str
    examples: tuple[str, ...]


def log_page(job, solved: SolvedSite, address: Address) -> LogPageModel:
    """The walk, the box, the list."""
    site, study = solved.site, solved.study
    names = names_of(site)
    kept = list(job.readings.select_related("who")[:MOST_SHOWN])
    judged = {r.pk: _judged(study, r, names) for r in kept}
    last: dict[str, LoggedReading] = {}
    for r in reversed(kept):
        if r.kind == "loop":
            last[r.place] = r
    circuits = [c for p in site.panels for c in site.circuits if c.panel == p.id]
    open_ones = _open_ones(solved, circuits, set(last))
    chosen = address.at if address.at in {c.id for c in circuits} else ""
    after = [i for i in open_ones if i != chosen]
    typed = address.q or (f"{names[chosen]} loop " if chosen else "")
    rows = [_walk_row(solved, address, c, last, judged, chosen) for c in circuits]
    panels = {p.id: p.name or "Panel" for p in site.panels}
    by_id = {c.id: c.panel for c in circuits}
    return LogPageModel(
        typed=typed,
        back=tuple(_back(study, r) for r in read_readings(site, address.q)) if address.q else (),
        next_name=names.get(chosen, ""),
        then=next(iter(after), ""),
        walk=tuple(
            WalkGroup(panels[panel], tuple(some))
            for panel, some in groupby(rows, key=lambda row: by_id[row.id])
        ),
        rows=tuple(_row(r, judged[r.pk], names, site) for r in kept),
        off=sum(j is not None and j.fits is False for j in judged.values()),
        missing=len(open_ones),
        why=_why(solved, kept, address) if address.show == "why" else None,
        why_href=address.to(show="why", q="") if kept else "",
        examples=EXAMPLES,
    )


def _open_ones(solved: SolvedSite, circuits, read: set[str]) -> list[str]:
    """The circuits of the walk whose loop can be read and has not been."""
    loops = solved.study.loops
    return [c.id for c in circuits if c.id not in read and expected_loop(loops[c.id])]


def first_open(job, solved: SolvedSite) -> str:
    """The place that is read next, in walking order; the first circuit where all are read."""
    site = solved.site
    circuits = [c for p in site.panels for c in site.circuits if c.panel == p.id]
    read = set(job.readings.filter(kind="loop").values_list("place", flat=True))
    found = _open_ones(solved, circuits, read) or [c.id for c in circuits]
    return next(iter(found), "")


KINDS = ("loop", "r2", "r1r2", "ng", "clamp")
SPOKEN = {"loop": "loop", "r2": "r2", "r1r2": "r1+r2", "ng": "n-g", "clamp": "clamp"}
LEAST_SHOWN = 0.01


def _why(solved: SolvedSite, kept: list[LoggedReading], address: Address) -> WhyView | None:
    """The defects that the newest reading of each kind and place would be explained by."""
    site = solved.site
    newest: dict[tuple[str, str], LoggedReading] = {}
    for r in reversed(kept):
        if r.kind in KINDS and r.place in site.elements():
            newest[r.kind, r.place] = r
    if not newest or not solved.study.states:
        return None
    given = [Given(kind, place, r.value) for (kind, place), r in newest.items()]
    found = solved.diagnoser.diagnose(given)
    proposal = found.next_reading
    names = names_of(site)
    shown = [c for c in found.candidates if c.share >= LEAST_SHOWN] or list(found.candidates[:1])
    first = found.candidates[0]
    return WhyView(
        rows=tuple(
            WhyRow(
                share="over 99%" if c.share > 0.99 else f"{c.share:.0%}",
                width=max(round(c.share * 120), 2),
                words=c.words[:1].upper() + c.words[1:],
                href=address.to(at=c.element, show="", stage="buildings") if c.element else "",
                same=c.key in first.same,
            )
            for c in shown
        ),
        next_words=proposal.words if proposal else "",
        next_href=address.to(
            at="", show="", q=f"{names[proposal.place]} {SPOKEN[proposal.kind]} "
        ) if proposal else "",
        tied=any(c.key in first.same for c in shown[1:]),
        used=len(given),
    )  # fmt: skip


def _judged(study, r: LoggedReading, names: dict[str, str]) -> JudgedReading | None:
    """A kept reading judged by the site as it is now; None where its place is gone or it is of no
    place."""
    if r.place not in study.assumed.site.elements() or r.kind not in reading_kinds():
        return None
    typed = TypedReading(r.remark, r.kind, r.place, names[r.place], r.value, r.loaded)
    return judge_reading(study, typed)


def _walk_row(solved: SolvedSite, address: Address, circuit, last, judged, chosen: str) -> WalkRow:
    expected = expected_loop(solved.study.loops[circuit.id])
    read = last.get(circuit.id)
    found = judged.get(read.pk) if read else None
    return WalkRow(
        id=circuit.id,
        name=name_of(circuit),
        href=address.to(at=circuit.id, q=""),
        band=expected.words() if expected else "no reading expected",
        last=f"{read.value:g} Ω" if read else "",
        fits=found.fits if found else None,
        is_next=circuit.id == chosen,
    )


def _back(study, read: TypedReading) -> ReadLine:
    if read.problem:
        return ReadLine("", "", "", None, read.problem)
    found = judge_reading(study, read)
    return ReadLine(read.words(), found.says, found.meaning, found.fits, "")


def _row(r: LoggedReading, found: JudgedReading | None, names, site) -> LogRow:
    there = r.place in site.elements()
    place = "the soil" if r.place == "soil" else names.get(r.place, "a part that is gone")
    return LogRow(
        number=r.pk,
        place=place[:1].upper() + place[1:],
        kind=r.kind_words,
        figure=f"{r.value:g} {r.unit}",
        loaded=r.loaded,
        fits=found.fits if found else None,
        says=found.says if found else "",
        meaning=found.meaning if found else "",
        cause=found.cause if found and found.fits is False else "",
        at=r.at,
        who=r.who.get_username() if r.who else "",
        simulated=r.simulated,
        can_use=there and r.kind in FACTS,
    )
