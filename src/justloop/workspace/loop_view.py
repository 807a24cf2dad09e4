"""The chosen loop in figures: verdict, rows with their workings, legs, criteria."""

import math
from dataclasses import dataclass, replace

from django.utils.safestring import mark_safe

from returnpath.device import Breaker
from returnpath.fuse import CLEARS_FROM, Fuse
from returnpath.rules import deciding_question
from returnpath.site import name_of
from returnpath.study import FaultStudy, Verdict
from returnpath.study.ring import along_working, zs_along
from returnpath.vocabulary import BranchId, FactPath
from returnpath.vocabulary.units import FOOT_M
from returnpath.words import words
from returnpath.working import Working, figures

from ..address import Address
from ..drawing.chart import chart_scene
from ..drawing.marks import verdict_svg
from ..drawing.strip import strip_scene
from ..solved import SolvedSite
from .fields import Typed, fact_href, one_field

#: The verdict as the head of a card.
SHORT = words("verdict")
CRITERION_WORDS = words("criterion")


@dataclass(frozen=True)
class RestsOn:
    """An assumption that the answer rests on."""

    label: str
    words: str
    why: str
    href: str


@dataclass(frozen=True)
class CriterionRow:
    """A clearing criterion, whether it is met, whether it decides."""

    words: str
    met: bool
    figures: str
    remark: str
    decides: bool


@dataclass(frozen=True)
class LegRow:
    """A leg of the loop, with its ohms and amperes."""

    id: str
    label: str
    way: str
    ohm: str
    share: str
    amps: list[tuple[str, str, str]]


@dataclass(frozen=True)
class ParallelRow:
    """Another way that carries a part of the fault."""

    words: str
    amps: str
    share: str
    id: str


@dataclass
class Row:
    """A figure of the bench: label, figure, what it means, and its working."""

    key: str
    label: str
    figure: str
    note: str = ""
    bad: bool = False
    working: Working | None = None
    href: str = ""
    is_open: bool = False


def loop_context(solved: SolvedSite, loop: FaultStudy, address: Address, typed: Typed) -> dict:
    """Everything the templates show of one loop."""
    known = loop.lowest_a is not None
    device = loop.device
    context = {
        "verdict": str(loop.verdict),
        "verdict_short": SHORT[loop.verdict],
        "verdict_mark": mark_safe(verdict_svg(loop.verdict, 52)),  # noqa: S308 - no input in it
        "verdict_note": verdict_note(loop),
        "loop_rating": f"{device.rating_a:g} A" if device else "",
        "is_metal_loop": bool(loop.basis and loop.basis.place.node),
        "is_danger": loop.verdict is Verdict.MAY_NEVER_OPEN,
        "rows": rows_of(solved, loop) if known else [],
        "lacks": [_lack(solved, path) for path in loop.lacks],
        "bond_field": _main_bond(solved, typed),
        "criteria": _criteria(loop),
        "rests_on": [
            RestsOn(
                label=a.label,
                words=a.words,
                why=a.why,
                href=fact_href(solved.site, address, a.path),
            )
            for a in loop.rests_on
        ],
        "question": loop.circuit and deciding_question(solved.study.assumed, loop),
        "is_known": known,
    }
    if known:
        # no person's text reaches these drawings unescaped
        if device is not None:
            context["chart"] = mark_safe(chart_scene(loop).svg())  # noqa: S308
        context["legs"] = legs_of(loop)
        context["parallel"] = parallel_of(solved, loop)
        context["has_way_home"] = math.isfinite(loop.loop_ohm)
        if context["has_way_home"]:
            context["strip"] = mark_safe(strip_scene(loop).svg())  # noqa: S308
            context["loop_ohm"] = figures(loop.loop_ohm)
    for row in context["rows"]:
        row.is_open = row.key == address.open
        row.href = address.to(open="" if row.is_open else row.key)
    return context


def _main_bond(solved: SolvedSite, typed: Typed):
    """The service's bond: on every loop's card, since every way home hangs on it."""
    panel = solved.site.panel
    field = one_field(solved, f"{panel.id}.bond", typed)
    return replace(field, label=f"main bond at {panel.name}" if panel.name else "main bond")


def _lack(solved: SolvedSite, path: FactPath) -> str:
    element = solved.site.elements()[path.element]
    if path.leaf == "kva" and solved.study.why_not:
        return solved.study.why_not
    return f"{name_of(element)}: {one_field(solved, path, Typed()).label} is not known"


def verdict_note(loop: FaultStudy) -> str:
    """The line under the verdict: when, and what it rests on."""
    if loop.lowest_a is None:
        return loop.remark or "Something is missing that is never assumed."
    if loop.device is None:
        return loop.remark
    if loop.verdict is Verdict.MAY_NEVER_OPEN:
        volts = figures(loop.touch_earth_v)
        return f"{volts} V stays on it for as long as the fault lasts."
    note = f"in {figures(loop.fast_s)} to {figures(loop.slow_s)} s"
    if math.isinf(loop.fast_s):  # its over-current device alone opens nothing
        note = f"by {figures(loop.slow_s)} s"
    if loop.verdict is Verdict.AT_ONCE_IF_ASSUMED:
        note = f"if its curve is as assumed: {note}"
    return note


def rows_of(solved: SolvedSite, loop: FaultStudy) -> list[Row]:
    """The figures, each with its working."""
    works = loop.workings
    rows = [
        Row("lowest_a", "Lowest current", f"{figures(loop.lowest_a, 4)} A", "",
            working=works.get("lowest_a")),
        Row("highest_a", "Highest current", f"{figures(loop.highest_a, 4)} A", "",
            working=works.get("highest_a")),
        Row("loop_ohm", "Round the loop",
            f"{figures(loop.loop_ohm)} Ω" if math.isfinite(loop.loop_ohm) else "open",
            "conductors hot, 75 °C", working=works.get("loop_ohm")),
    ]  # fmt: skip
    rows += _ring_row(loop)
    if loop.device is not None:
        rating = loop.device.rating_a
        rows[0].note = f"{figures(loop.multiple)} × the breaker"
        rows[1].note = f"{figures(loop.highest_a / rating)} × the breaker"
        rows.append(
            Row("opens", "RCD opens" if loop.by_rcd else "Breaker opens",
                "never" if math.isinf(loop.slow_s) else f"by {figures(loop.slow_s)} s",
                _opens_note(loop), bad=math.isinf(loop.slow_s), working=works.get("opens"))
        )  # fmt: skip
        if loop.worst_heat is not None:
            rows.append(_heat_row(loop, loop.worst_heat))
    never = loop.slow_s is not None and math.isinf(loop.slow_s)
    long = f", {_how_long(loop)}" if loop.slow_s is not None else ""
    rows.append(
        Row("touch", "Enclosure above the service bar", f"{figures(loop.touch_bar_v)} V",
            f"{figures(loop.touch_earth_v)} V to earth{long}", bad=never,
            working=works.get("touch"))
    )  # fmt: skip
    if loop.circuit is not None:
        rows.append(_longest_row(solved, loop))
    if loop.second_line_s is not None:
        late = (
            "sees nothing"
            if math.isinf(loop.second_line_s)
            else f"by {figures(loop.second_line_s)} s"
        )
        if loop.basis is not None and loop.basis.spine.is_metric:
            rows.append(Row("gfci", "Its own RCD", late, "fault protection: counted above"))
        else:
            rows.append(Row("gfci", "Second line: GFCI", late, "not counted above"))
    return rows


def _ring_row(loop: FaultStudy) -> list[Row]:
    """What a meter finds socket by socket: the least and the most along a ring."""
    points = [p.ohm for p in zs_along(loop)]
    if not points:
        return []
    low, high = figures(min(points)), figures(max(points))
    metres = (loop.circuit.length_ft or 0.0) * FOOT_M
    row = Row("ring", "Along the ring", f"{low} to {high} Ω", "end to middle, without its spurs",
              working=along_working(loop, metres))  # fmt: skip
    if loop.circuit.ring_open not in (None, "none"):
        row.note, row.bad = f"its {loop.circuit.ring_open} is broken", True
    return [row]


def _how_long(loop: FaultStudy) -> str:
    if math.isinf(loop.slow_s):
        return "does not clear"
    return f"for at most {figures(loop.slow_s)} s"


def _opens_note(loop: FaultStudy) -> str:
    if math.isinf(loop.slow_s):
        return _least_words(loop.device)
    if loop.by_rcd:
        alone = loop.basis.devices.over_current_s(loop.lowest_a, True)
        never = "may not" if math.isinf(alone) else f"by {figures(alone)} s"
        return f"its over-current device alone {never}"
    if loop.device.is_assumed and loop.slow_s_unproved > loop.slow_s:
        return f"assumed curve; by {figures(loop.slow_s_unproved)} s if it starts at 20 ×"
    return f"no sooner than {figures(loop.fast_s)} s"


def _least_words(device: Breaker) -> str:
    least = CLEARS_FROM if isinstance(device, Fuse) else device.thermal()[0]
    return f"less than {least:g} × its rating may not trip it"


def heat_words(loop: FaultStudy) -> tuple[str, str, bool]:
    """(figure, note, bad) of the heat used by the worst wire."""
    heat = loop.worst_heat
    if heat is None:
        return "", "", False
    if heat.fraction == 0:
        return "none", "no current flows", False
    if math.isinf(heat.fraction):
        note = f"{heat.carrier.label}: limit in {figures(heat.limit_s)} s, nothing opens"
        return "no end", note, True
    figure = f"{figures(heat.fraction * 100)} %"
    return figure, f"of the {heat.carrier.label}’s limit", heat.fraction > 1


def _heat_row(loop: FaultStudy, heat) -> Row:
    figure, note, bad = heat_words(loop)
    return Row("heat", "Heat used, worst wire", figure, note, bad, loop.workings.get("heat"))


def _longest_row(solved: SolvedSite, loop: FaultStudy) -> Row:
    run = loop.longest_run_ft
    length = loop.circuit.length_ft
    path = f"{loop.circuit.id}.length_ft"
    assumed = " assumed" if solved.study.assumed.find(path) else ""
    joined = loop.circuit.neutral_on_frame or bool(loop.circuit.joined_to)
    figure = "none" if run is None else f"{math.floor(run)} ft"
    note = f"now {length:g} ft{assumed}"
    if run is None and joined:
        figure, note = "not one figure", "joined to other metal"
    if loop.by_rcd:
        figure, note = "the RCD’s", f"{note}; its breaker alone {figure}"
    return Row(
        "longest_run_ft",
        "Longest run that still clears",
        figure,
        note,
        bad=not joined and not loop.by_rcd and (run is None or length > run),
        working=loop.workings.get("longest_run_ft"),
    )


def _criteria(loop: FaultStudy) -> list[CriterionRow]:
    return [
        CriterionRow(
            words=CRITERION_WORDS[name],
            met=criterion.met,
            figures=criterion.figures,
            remark=criterion.remark,
            decides=loop.deciding is criterion,
        )
        for name, criterion in loop.criteria.items()
    ]


def legs_of(loop: FaultStudy) -> list[LegRow]:
    """The loop as an ordered list: what the map shows, for readers and phones."""
    closed = bool(loop.lowest_a)
    least = max(LEAST_SHARE * (loop.lowest_a or 0.0), 0.001)
    found = []
    for leg in loop.legs:
        amps = [
            (words, figures(loop.currents.get(branch, 0.0)), _share(loop, branch))
            for branch, words, _ in leg.branches
            if loop.currents.get(branch, 0.0) >= least or len(leg.branches) == 1
        ]
        found.append(
            LegRow(
                id=leg.id,
                label=leg.label,
                way=leg.way,
                ohm=f"{ohms(leg.ohm)} Ω" if closed else "–",
                share=f"{leg.share * 100:.0f} %" if closed else "",
                amps=amps,
            )
        )
    return found


def _share(loop: FaultStudy, branch: str) -> str:
    if not loop.lowest_a:
        return ""
    return f"{figures(100 * loop.currents.get(branch, 0.0) / loop.lowest_a)} %"


#: What a branch is, by the part of its name after the element.
PARTS = words("branch")
LEAST_SHARE = 0.001


def branch_words(solved: SolvedSite, branch: str) -> str:
    """A branch in the trade's words: “EGC, Studio feeder”."""
    branch = BranchId(branch)
    element = solved.site.elements().get(branch.element)
    what = PARTS.get(branch.part, branch.kind)
    return f"{what} {name_of(element)}" if element is not None else what


def parallel_of(solved: SolvedSite, loop: FaultStudy) -> list[ParallelRow]:
    """Other ways that carry a part of the fault: metal, neutrals, the soil."""
    if not loop.lowest_a:
        return []
    least = max(LEAST_SHARE * loop.lowest_a, 0.01)
    listed = {b for leg in loop.legs for b, _, _ in leg.branches}
    found = []
    for branch, amps in sorted(loop.currents.items(), key=lambda kv: -kv[1]):
        part = BranchId(branch).part
        if branch in listed or part not in PARTS or part == "earth":
            continue
        if amps < least:
            continue
        found.append(
            ParallelRow(
                words=branch_words(solved, branch),
                amps=figures(amps),
                share=f"{figures(100 * amps / loop.lowest_a)} %",
                id=BranchId(branch).element,
            )
        )
    return found[:8]


def ohms(ohm: float) -> str:
    """A made joint's microhms are no ohms to an electrician."""
    return "0" if abs(ohm) < 0.0005 else figures(ohm)
