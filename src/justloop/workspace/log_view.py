"""The Log stage: what is read next in walking order, what was read against its prediction."""

from dataclasses import dataclass
from itertools import groupby

from django.urls import reverse
from django.utils.safestring import mark_safe

from returnpath.readings import (
    JudgedReading,
    TypedReading,
    asked_of,
    expected_loop,
    judge_reading,
    read_readings,
    reading_kinds,
)
from returnpath.rules import Finding
from returnpath.site import name_of

from ..accounts.guests import of_the_firm
from ..address import Address
from ..drawing.band import band_scene
from ..log.instruments import KINDS as INSTRUMENT_KINDS
from ..log.instruments import OF_READING, InstrumentRow
from ..log.instruments import rows as instrument_rows
from ..log.models import Instrument, LoggedReading, Photo
from ..log.views import FACTS, names_of
from ..planning.lacks import judged_now, newest_of, record_lacks
from ..solved import SolvedSite
from .log_cover import CoverView, cover_view
from .log_order import in_order, is_metric, line_of
from .log_why import WhyView, why_view

MOST_SHOWN, MOST_LISTED = 60, 8
EXAMPLES = ("studio outlets loop 0.66", "n-g 1.9 V with heater on", "clamp gec 0.4")
METRIC_EXAMPLES = (
    "kitchen sockets r1 0.36",
    "upstairs sockets zs 0.66",
    "ze 0.3",
    "boiler rcd 28 ms",
)
TABS = {"": "Readings", "cover": "Before cover", "instruments": "Instruments"}
#: A reading's address opens it: ``open=reading-12``.
OPENED = "reading-"


@dataclass(frozen=True)
class ReadLine:
    """A typed line read back, with what it would mean."""

    words: str
    says: str
    meaning: str
    fits: bool | None
    problem: str


@dataclass(frozen=True)
class LogTab:
    """A tab of the stage."""

    label: str
    href: str
    current: bool
    count: int


@dataclass(frozen=True)
class WalkRow:
    """A place of the walk: its band, the last reading there."""

    id: str
    name: str
    href: str
    fill: str
    label: str
    band: str
    last: str
    fits: bool | None
    is_next: bool


@dataclass(frozen=True)
class WalkGroup:
    """The places of one panel; open where one is read next."""

    name: str
    rows: tuple[WalkRow, ...]
    left: int
    is_open: bool


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
    band: str
    href: str
    current: bool
    tool: str
    overdue: bool
    error: str
    celsius: float | None
    no_trip: bool
    remark: str
    photos: tuple[Photo, ...] = ()


@dataclass(frozen=True)
class LogPageModel:
    """The Log stage."""

    tabs: tuple[LogTab, ...]
    show: str
    typed: str
    back: tuple[ReadLine, ...]
    ask: str
    ask_name: str
    ask_label: str
    then: str
    walk: tuple[WalkGroup, ...]
    rows: tuple[LogRow, ...]
    older: tuple[LogRow, ...]
    chosen: LogRow | None
    close: str
    off: int
    missing: int
    why: WhyView | None
    why_href: str
    lacks: tuple[Finding, ...]
    cover: CoverView | None
    tools: tuple[Instrument, ...]
    tool_now: int | None
    instruments: tuple[InstrumentRow, ...]
    instrument_kinds: tuple[tuple[str, str], ...]
    kept_paths: str
    examples: tuple[str, ...]


def whole_log(job, solved: SolvedSite) -> tuple[tuple[LogRow, ...], tuple[Finding, ...]]:
    """Every reading that was kept, as paper has it, and what the record lacks."""
    site, names, address = solved.site, names_of(solved.site), Address(job.pk, "readings")
    kept = list(job.readings.select_related("who", "tool").prefetch_related("photos"))
    judged = {r.pk: judged_now(solved.study, r, names) for r in kept}
    rows = tuple(_row(r, judged[r.pk], names, site, address) for r in kept)
    return rows, record_lacks(job, solved, [judged[r.pk] for r in newest_of(site, kept)])


def log_page(job, solved: SolvedSite, address: Address, user) -> LogPageModel:
    """The walk, the box, the list; or what is seen before cover; or the instruments."""
    site, study = solved.site, solved.study
    names = names_of(site)
    kept = list(job.readings.select_related("who", "tool").prefetch_related("photos")[:MOST_SHOWN])
    # What is old is not listed, but where nothing newer was read it still counts.
    whole = list(job.readings.select_related("tool"))
    newest = newest_of(site, whole)
    judged = {r.pk: judged_now(study, r, names) for r in {*kept, *newest}}
    explained = sorted(newest, key=lambda r: (r.at, r.pk))[-MOST_SHOWN:]
    last = {r.place: r for r in newest if r.kind == "loop"}
    circuits = [c for p in site.panels for c in site.circuits if c.panel == p.id]
    open_ones = _open_ones(solved, circuits, set(last))
    chosen = address.at if address.at in {c.id for c in circuits} else ""
    line, order = f"{names[chosen]} loop" if chosen else "", open_ones
    if is_metric(solved):
        read = {(r.place, r.kind) for r in newest}
        order = in_order(solved, circuits, read)
        line = line_of(solved, site.circuit(chosen), read) if chosen else ""
    after = [i for i in order if i != chosen]
    ask = _asked(site, address.q, line, names)
    typed = "" if ask.line else address.q
    rows = tuple(_row(r, judged[r.pk], names, site, address) for r in kept)
    opened = any(r.current for r in rows)
    lacks = record_lacks(job, solved, [judged[r.pk] for r in newest])
    tools = tuple(of_the_firm(Instrument.objects.filter(put_away=False), user))
    show = address.show if address.show in TABS else ""
    return LogPageModel(
        tabs=_tabs(address, show, lacks),
        show=show,
        typed=typed,
        back=tuple(_back(study, r) for r in read_readings(site, typed)) if typed else (),
        ask=ask.line,
        ask_name=ask.name,
        ask_label=ask.label,
        then=next(iter(after), ""),
        walk=_walk(solved, address, circuits, last, judged, "" if opened else chosen),
        rows=rows[:MOST_LISTED],
        older=rows[MOST_LISTED:],
        chosen=next((r for r in rows if r.current), None),
        close=address.to(open=""),
        off=sum(j is not None and j.fits is False for j in judged.values()),
        missing=len(open_ones),
        why=why_view(solved, explained, whole, address, names) if address.show == "why" else None,
        why_href=address.to(show="why", q="") if kept else "",
        lacks=lacks,
        cover=cover_view(job, site) if show == "cover" else None,
        tools=tools,
        tool_now=_tool_now(kept, tools),
        instruments=tuple(instrument_rows(user)) if show == "instruments" else (),
        instrument_kinds=tuple(INSTRUMENT_KINDS.items()) if show == "instruments" else (),
        kept_paths=_kept_paths(job),
        examples=METRIC_EXAMPLES if is_metric(solved) else EXAMPLES,
    )


@dataclass(frozen=True)
class _ToRead:
    """A reading that only lacks its number: the line it completes, the place's name, the label of
    its box."""

    line: str = ""
    name: str = ""
    label: str = "Choose a place of the walk"


def _asked(site, typed: str, otherwise: str, names: dict[str, str]) -> _ToRead:
    line = " ".join(typed.split()) or otherwise
    kind, place = asked_of(site, line) if "\n" not in typed.strip() else ("", "")
    read = read_readings(site, line)
    if not kind or not place or (read and not read[0].problem):
        return _ToRead()
    if typed and "is missing" not in read[0].problem and kind != "lamps":
        return _ToRead()  # something else is wrong with it: it stays as it was typed
    name = names[place]
    return _ToRead(line, name, _label(name, kind))


def _label(name: str, kind: str) -> str:
    found = reading_kinds()[kind]
    return f"{name}: {found.label}, {'what they show' if kind == 'lamps' else found.unit}"


def _tabs(address: Address, show: str, lacks) -> tuple[LogTab, ...]:
    unseen = sum(f.id == "evidence-before-cover" for f in lacks)
    return tuple(
        LogTab(label, address.to(show=key, q="", open=""), key == show,
               unseen if key == "cover" else 0)
        for key, label in TABS.items()
    )  # fmt: skip


def _kept_paths(job) -> str:
    """The pages of a job that are kept on a phone."""
    log = reverse("workspace", args=[job.pk, "readings"])
    works = job.works.filter(ended=None).values_list("pk", flat=True)[:10]
    return " ".join((log, f"{log}?show=cover", reverse("test-sheet", args=[job.pk]),
                     reverse("find-circuits", args=[job.pk]),
                     *(reverse("work", args=[job.pk, pk]) for pk in works)))  # fmt: skip


def _tool_now(kept: list[LoggedReading], tools) -> int | None:
    """The instrument last used, while it is still on the list."""
    last = next((r.tool_id for r in kept if r.tool_id), None)
    return last if last in {t.pk for t in tools} else None


def _walk(solved, address, circuits, last, judged, chosen) -> tuple[WalkGroup, ...]:
    site = solved.site
    rows = [_walk_row(solved, address, c, last, judged, chosen) for c in circuits]
    panels = {p.id: p.name or "Panel" for p in site.panels}
    by_id = {c.id: c.panel for c in circuits}
    return tuple(
        _group(panels[panel], tuple(some))
        for panel, some in groupby(rows, key=lambda row: by_id[row.id])
    )


def _group(name: str, rows: tuple[WalkRow, ...]) -> WalkGroup:
    return WalkGroup(name, rows, sum(not r.last for r in rows), any(r.is_next for r in rows))


def _open_ones(solved: SolvedSite, circuits, read: set[str]) -> list[str]:
    """The circuits of the walk whose loop can be read and has not been."""
    loops = solved.study.metered
    return [c.id for c in circuits if c.id not in read and expected_loop(loops[c.id])]


def first_open(job, solved: SolvedSite) -> str:
    """The place that is read next, in walking order; the first circuit where all are read."""
    site = solved.site
    circuits = [c for p in site.panels for c in site.circuits if c.panel == p.id]
    if is_metric(solved):
        done = set(job.readings.values_list("place", "kind"))
        return next(iter(in_order(solved, circuits, done) or [c.id for c in circuits]), "")
    read = set(job.readings.filter(kind="loop").values_list("place", flat=True))
    found = _open_ones(solved, circuits, read) or [c.id for c in circuits]
    return next(iter(found), "")


def _walk_row(solved: SolvedSite, address: Address, circuit, last, judged, chosen: str) -> WalkRow:
    expected = expected_loop(solved.study.metered[circuit.id])
    read = last.get(circuit.id)
    found = judged.get(read.pk) if read else None
    return WalkRow(
        id=circuit.id,
        name=name_of(circuit),
        href=address.to(at=circuit.id, q="", open="", show=""),
        fill=f"{name_of(circuit)} loop",
        label=_label(name_of(circuit), "loop"),
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


def _row(r: LoggedReading, found: JudgedReading | None, names, site, address: Address) -> LogRow:
    there = r.place in site.elements()
    place = "the soil" if r.place == "soil" else names.get(r.place, "a part that is gone")
    key = f"{OPENED}{r.pk}"
    kind = OF_READING.get(r.kind, "")
    return LogRow(
        number=r.pk,
        place=place[:1].upper() + place[1:],
        kind=r.kind_words,
        figure=r.figure,
        loaded=r.loaded,
        fits=found.fits if found else None,
        says=found.says if found else "",
        meaning=found.meaning if found else "",
        cause=found.cause if found and found.fits is False else "",
        at=r.at,
        who=r.who.get_username() if r.who else "",
        simulated=r.simulated,
        can_use=there and r.kind in FACTS,
        band=_band(r, found),
        href=address.to(open=key),
        current=address.open == key,
        tool=r.instrument or (f"a {INSTRUMENT_KINDS[kind]}, none named" if kind else ""),
        overdue=r.overdue,
        error=_error(r),
        celsius=r.temperature_c,
        no_trip=r.no_trip,
        remark=r.remark,
        photos=tuple(r.photos.all()),
    )


def _error(r: LoggedReading) -> str:
    if r.kind not in reading_kinds():
        return ""
    kind = reading_kinds()[r.kind]
    share, least = r.error or (kind.error_share, kind.error_abs)
    return f"±({100 * share:g} % + {least:g} {kind.unit})"


def _band(r: LoggedReading, found: JudgedReading | None) -> str:
    """The reading against its band, drawn; nothing where nothing is predicted."""
    if found is None or found.prediction is None or r.kind == "lamps":
        return ""
    p = found.prediction
    words = f"{r.figure}: {found.says}"
    scene = band_scene(r.value, p.low, p.high, bool(found.fits), words)
    return mark_safe(scene.svg())  # noqa: S308 - Scene escapes every text


@dataclass(frozen=True)
class ReadBackPage:
    """Typed lines read back while they are typed."""

    back: tuple[ReadLine, ...]


def read_back(solved: SolvedSite, text: str) -> ReadBackPage:
    """What is typed so far; a line that only lacks its value is not yet wrong."""
    site = solved.site
    lines = [line for line in text.splitlines() if line.strip()]
    if lines and all(asked_of(site, lines[-1])) and not any(c.isdigit() for c in lines[-1][-6:]):
        lines = lines[:-1]
    read = read_readings(site, "\n".join(lines))
    return ReadBackPage(tuple(_back(solved.study, r) for r in read))
