"""Prove: every circuit in one table, worst first; the questions that settle most on top."""

import math
from dataclasses import dataclass
from dataclasses import field as dc_field

from django.utils.safestring import mark_safe

from returnpath.readings import expected_loop
from returnpath.rules import curve_question, deciding_questions, is_proven
from returnpath.site import name_of
from returnpath.site.breaker_lines import devices_at
from returnpath.site.speech import rule_set_of
from returnpath.study import Verdict
from returnpath.vocabulary import FactPath
from returnpath.vocabulary.units import FOOT_M
from returnpath.words import RuleSet
from returnpath.working import LEAST_VOLTS, Working, figures

from ..accounts.guests import of_the_firm
from ..address import Address
from ..drawing.marks import verdict_svg
from ..firm.models import FirmLine
from ..solved import SolvedSite
from .fields import Field, Typed, one_field

ORDER = (
    Verdict.MAY_NEVER_OPEN,
    Verdict.NOT_KNOWN,
    Verdict.SLOW,
    Verdict.AT_ONCE_IF_ASSUMED,
    Verdict.AT_ONCE,
)
FILTERS = {"": "All", "open": "Not proven", "never": "May not trip", "slow": "Delayed"}
MOST_ROWS = 12  # so many are shown at once where the rest is proven
MOST_QUESTIONS = 6


@dataclass
class ProveRow:
    """A circuit or an enclosure in the table; figures that are not known are empty."""

    id: str
    name: str
    home: str
    verdict: str
    mark: str
    proven: bool
    href: str
    current: bool
    breaker: str
    ohm: str = ""
    amps: str = ""
    touch: str = ""
    multiple: str = ""
    band: str = ""
    heat: str = ""
    run: str = ""
    now: str = ""
    assumed: bool = False


@dataclass(frozen=True)
class AskRow:
    """A question: what it settles, and its answers, or the field that answers it."""

    text: str
    path: str
    settles: int
    answers: list[str] = dc_field(default_factory=list)
    field: Field | None = None


@dataclass(frozen=True)
class ProveFilter:
    """A filter of the table with its count."""

    words: str
    count: int
    href: str
    current: bool


@dataclass(frozen=True)
class ProveTable:
    """The table: its rows, filters, and how many are left to prove."""

    led: bool
    proven_rest: int
    all_href: str
    rows: list[ProveRow]
    filters: list[ProveFilter]
    left: int
    total: int
    q: str


@dataclass(frozen=True)
class SheetRow:
    """A circuit of the test sheet: what its loop should read, and what it read."""

    id: str
    name: str
    space: int | None
    breaker: str
    band: str
    suspect: str
    why: str
    working: Working | None
    assumed: bool
    gfci: bool
    read: str


@dataclass(frozen=True)
class SheetGroup:
    """The circuits of one panel."""

    name: str
    rows: list[SheetRow]


@dataclass(frozen=True)
class CurvePanel:
    """A panel whose breakers wait for a curve."""

    id: str
    name: str
    count: int
    lines: list[str]
    holds: str


def _badness(fault) -> tuple[int, float]:
    """Worst verdict first, then the lowest current for its breaker; last what only the utility's
    own protection is ahead of: nothing of this place's is to judge."""
    if fault.verdict is Verdict.NOT_KNOWN and fault.lowest_a is not None:
        return len(ORDER), 0.0
    return ORDER.index(fault.verdict), fault.multiple or 0.0


def worst_place(study) -> str:
    """The circuit or enclosure at the top of the table, "" where there is none."""
    rows = [*study.loops.values(), *study.enclosures.values()] if study.loops else []
    return min(rows, key=_badness).place if rows else ""


def table(solved: SolvedSite, address: Address) -> ProveTable:
    """The rows that the filter leaves, worst first, and the filters with their counts."""
    study = solved.study
    all_rows = [*study.loops.values(), *study.enclosures.values()]
    all_rows.sort(key=_badness)
    proven = {
        f.place: f.place not in solved.unproven if f.circuit else is_proven(study, f)
        for f in all_rows
    }
    picked = {
        "": lambda f: True,
        "open": lambda f: not proven[f.place],
        "never": lambda f: f.verdict is Verdict.MAY_NEVER_OPEN,
        "slow": lambda f: f.verdict is Verdict.SLOW,
        "all": lambda f: True,
    }
    keep = picked.get(address.show, picked[""])
    needle = address.q.strip().lower()
    panels = {p.id: p.name or "Panel" for p in solved.site.panels}
    rows = []
    for fault in all_rows:
        home = panels[fault.circuit.panel] if fault.circuit else "its enclosure"
        if not keep(fault) or (needle and needle not in f"{fault.place_name} {home}".lower()):
            continue
        rows.append(_row(solved, fault, home, proven[fault.place], address))
    proven_rest = 0
    if not address.show and not needle:
        shown = [r for n, r in enumerate(rows) if n < MOST_ROWS or not r.proven or r.current]
        if len(rows) - len(shown) > 2:
            proven_rest, rows = len(rows) - len(shown), shown
    filters = [
        ProveFilter(
            words=words,
            count=sum(picked[key](f) for f in all_rows),
            href=address.to(show=key or "all" if proven_rest or address.show else key),
            current=key == address.show or (not key and address.show == "all"),
        )
        for key, words in FILTERS.items()
    ]
    loops = list(study.loops.values())
    left = sum(not proven[f.place] for f in loops)
    led = any(row.current for row in rows)
    return ProveTable(
        led=led,
        proven_rest=proven_rest,
        all_href=address.to(show="all"),
        rows=rows,
        filters=filters,
        left=left,
        total=len(loops),
        q=address.q,
    )


def _row(solved: SolvedSite, fault, home: str, proven: bool, address: Address) -> ProveRow:
    row = ProveRow(
        id=fault.place,
        name=fault.place_name,
        home=home,
        verdict=str(fault.verdict),
        mark=mark_safe(verdict_svg(fault.verdict, 22)),  # noqa: S308 - no input in it
        proven=proven,
        href=address.to(at=fault.place, loop=fault.place, map="1"),
        current=fault.place == address.loop,
        breaker=f"{fault.device.rating_a:g} A" if fault.device else "",
    )
    if fault.lowest_a is None:
        return row
    row.ohm = figures(fault.loop_ohm) if math.isfinite(fault.loop_ohm) else "open"
    row.amps = figures(fault.lowest_a)
    small = fault.touch_earth_v is not None and fault.touch_earth_v < LEAST_VOLTS
    row.touch = f"under {LEAST_VOLTS:g}" if small else figures(fault.touch_earth_v)
    if fault.device is None:
        return row
    row.multiple = figures(fault.multiple)
    if math.isinf(fault.slow_s):
        row.band = "never"
    else:
        row.band = f"{figures(fault.fast_s)}–{figures(fault.slow_s)}"
    row.heat = _heat(fault.heat_used)
    if fault.circuit is not None and fault.longest_run_ft is not None:
        path = f"{fault.place}.length_ft"
        metric = rule_set_of(solved.site) is RuleSet.METRIC
        per = FOOT_M if metric else 1.0
        row.run = f"{math.floor(fault.longest_run_ft * per)}"
        row.now = f"{round(fault.circuit.length_ft * per, 1):g}"
        row.assumed = solved.study.assumed.find(path) is not None
    return row


def _heat(used: float) -> str:
    """The share of its limit that the worst wire uses."""
    if math.isinf(used):
        return "no end"
    return f"{figures(used * 100)} %" if used else "none"


def questions(solved: SolvedSite) -> list[AskRow]:
    """What to ask, the one that settles most circuits first, each answered with one tap."""
    study, found = solved.study, []
    if curve := curve_question(study):
        answers = [words for words, _ in curve.answers]
        found.append(AskRow(curve.text, "curve", len(curve.places), answers))
    for asked in deciding_questions(study):
        if asked.question is not None:
            answers = [words for words, _ in asked.question.answers]
            found.append(AskRow(asked.text, asked.path, asked.settles, answers))
        else:
            field = one_field(solved, asked.path, Typed())
            found.append(AskRow(asked.text, asked.path, asked.settles, field=field))
    found.sort(key=lambda q: -q.settles)
    return found


def test_sheet(solved: SolvedSite, read: dict[str, str]) -> list[SheetGroup]:
    """Panel by panel in walking order: what a loop meter should read, beside it what it read (place
    → the figure), or a blank."""
    groups = []
    for panel in solved.site.panels:
        rows = []
        for circuit_id, fault in solved.study.loops.items():
            if fault.circuit.panel != panel.id:
                continue
            expected = expected_loop(solved.study.metered[circuit_id])
            rows.append(
                SheetRow(
                    id=circuit_id,
                    name=fault.place_name,
                    space=fault.circuit.space,
                    breaker=f"{fault.circuit.breaker.rating_a:g} A"
                    if fault.circuit.breaker.rating_a
                    else "? A",
                    band=expected.words() if expected else "",
                    suspect=f"{figures(expected.suspect)} Ω" if expected else "",
                    why="" if expected else _no_reading(fault),
                    working=expected.working if expected else None,
                    assumed=any(a.path == f"{circuit_id}.length_ft" for a in fault.rests_on),
                    gfci=fault.circuit.gfci == "yes",
                    read=read.get(circuit_id, ""),
                )
            )
        if rows:
            groups.append(SheetGroup(name=panel.name or "Panel", rows=rows))
    return groups


def _no_reading(fault) -> str:
    if fault.lowest_a is None:
        return "not described yet"
    return "nothing brings a fault home: do not expect a reading"


def curve_panels(solved: SolvedSite, user) -> list[CurvePanel]:
    """Panels whose breakers' magnetic trip is assumed: which of the firm's lines do they hold?"""
    curve = curve_question(solved.study)
    if curve is None:
        return []
    waiting = {FactPath(p).element for p in curve.places}
    site, found = solved.site, []
    lines = [line.name for line in of_the_firm(FirmLine.objects.all(), user)[:6]]
    for panel in site.panels:
        ids = {FactPath(path).element for path, _ in devices_at(site, panel.id)}
        if count := len(ids & waiting):
            found.append(
                CurvePanel(id=panel.id, name=name_of(panel), count=count, lines=lines,
                 holds=panel.breaker_line or "")
            )  # fmt: skip
    return found
