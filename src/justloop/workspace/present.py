"""What the workspace shows, as plain values for its templates: no sums here."""

import math
from dataclasses import dataclass
from functools import lru_cache
from urllib.parse import urlencode

from django.urls import reverse
from django.utils.safestring import mark_safe

from returnpath.rules import deciding_question, next_step
from returnpath.site import Circuit, Practice
from returnpath.site.edits import name_of
from returnpath.study import FaultStudy, Verdict
from returnpath.working import Working, figures

from ..drawing.chart import chart_scene
from ..drawing.map import MapView, map_scene
from ..drawing.marks import verdict_svg
from ..drawing.strip import strip_scene
from .fields import Typed, bench_fields, one_field
from .solved import SolvedSite

STAGE = "service"
_SHORT = {
    Verdict.AT_ONCE: "Opens at once",
    Verdict.AT_ONCE_IF_ASSUMED: "Opens at once",
    Verdict.SLOW: "Slow",
    Verdict.MAY_NEVER_OPEN: "May never open",
    Verdict.NOT_KNOWN: "Not known yet",
}
CRITERION_WORDS = {
    "instantaneous": "Magnetic trip reached",
    "five times": "Five times the rating",
    "timed": "Within the time limit",
    "one ohm": "One ohm home",
}


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


@lru_cache(maxsize=1024)
def _path(pk: int) -> str:
    return reverse("workspace", args=[pk, STAGE])


def address(job, at: str = "", loop: str = "", opened: str = "") -> str:
    """The workspace's address with a selection."""
    query = {k: v for k, v in (("at", at), ("loop", loop), ("open", opened)) if v}
    path = _path(job.pk)
    return f"{path}?{urlencode(query)}" if query else path


def workspace(job, revision, solved: SolvedSite, at="", loop_id="", opened="", typed=None) -> dict:
    """Everything the workspace's templates need."""
    typed = typed or Typed()
    site = solved.site
    elements = site.elements()
    loops = solved.study.loops
    if at not in elements:
        at = next(iter(loops), site.panel.id)
    if at in loops:
        loop_id = at
    elif loop_id not in loops:
        loop_id = next(iter(loops), "")
    loop = loops.get(loop_id)
    shown, more = bench_fields(solved, at, typed)
    element = elements[at]
    context = {
        "job": job,
        "revision": revision,
        "site": site,
        "at": at,
        "loop_id": loop_id,
        "opened": opened,
        "element_name": name_of(element),
        "is_circuit": isinstance(element, Circuit),
        "is_practice": isinstance(element, Practice),
        "fields": shown,
        "more_fields": more,
        "more_open": any(f.error or f.mine for f in more),
        "loop": loop,
        "map": _map(job, solved, loop, loop_id, at),
        "next": _next(job, solved, at, loop_id),
        "circuits": _circuits(job, solved, loop_id),
        "places": _places(job, solved, at, loop_id),
        "sizes": _sizes(job, solved, at, loop_id, opened),
        "findings": _findings(job, solved, at, loop_id),
        "practice_words": _practice_words(site),
        "line_error": typed.errors.get("line", ""),
        "line_text": typed.text.get("line", ""),
        "here": address(job, at, loop_id),
        "clear_open": address(job, at, loop_id),
    }
    if loop is not None:
        context |= _loop_context(job, solved, loop, at, loop_id, opened, typed)
    return context


def _map(job, solved, loop, loop_id, at) -> str:
    href = {e: address(job, e, loop_id) for e in solved.site.elements()}
    view = MapView(solved.study, loop, href, others=max(len(solved.study.loops) - 1, 0))
    return mark_safe(map_scene(view).svg())  # noqa: S308 - Scene escapes every text


def _next(job, solved, at, loop_id) -> dict:
    step = next_step(solved.site, solved.study, solved.findings, at=loop_id or at)
    place = step.place if step.place in solved.site.elements() else ""
    href = address(job, place, loop_id) if place and place != at and not step.question else ""
    return {"text": step.text, "href": href, "question": step.question}


def _loop_context(job, solved, loop: FaultStudy, at, loop_id, opened, typed) -> dict:
    known = loop.lowest_a is not None
    context = {
        "verdict": str(loop.verdict),
        "verdict_short": _SHORT[loop.verdict],
        "verdict_mark": mark_safe(verdict_svg(loop.verdict, 52)),  # noqa: S308 - no input in it
        "verdict_note": _verdict_note(loop),
        "is_danger": loop.verdict is Verdict.MAY_NEVER_OPEN,
        "rows": _rows(solved, loop, known),
        "lacks": [_lack(solved, path) for path in loop.lacks],
        "bond_field": one_field(solved, f"{solved.site.panel.id}.bond", typed),
        "criteria": _criteria(loop),
        "rests_on": [
            {
                "label": a.label,
                "words": a.words,
                "why": a.why,
                "href": _fact_href(job, a.path, loop_id),
            }
            for a in loop.rests_on
        ],
        "question": deciding_question(solved.study.assumed, loop),
        "is_known": known,
    }
    if known:
        # no person's text reaches these drawings unescaped
        context["chart"] = mark_safe(chart_scene(loop).svg())  # noqa: S308
        context["legs"] = _legs(loop)
        context["has_way_home"] = math.isfinite(loop.loop_ohm)
        if context["has_way_home"]:
            context["strip"] = mark_safe(strip_scene(loop).svg())  # noqa: S308
            context["loop_ohm"] = figures(loop.loop_ohm)
    for row in context["rows"]:
        row.is_open = row.key == opened
        row.href = address(job, at, loop_id, "" if row.is_open else row.key)
    return context


def _fact_href(job, path: str, loop_id: str) -> str:
    return address(job, path.split(".")[0], loop_id) + "#f-" + path.replace(".", "-")


def _lack(solved: SolvedSite, path: str) -> str:
    element_id, _, _ = path.partition(".")
    element = solved.site.elements()[element_id]
    if path.endswith(".kva") and solved.study.why_not:
        return solved.study.why_not
    return f"{name_of(element)}: {one_field(solved, path, Typed()).label} is not known"


def _verdict_note(loop: FaultStudy) -> str:
    """The line under the verdict: when, and what it rests on."""
    if loop.lowest_a is None:
        return "Something is missing that is never assumed."
    if loop.verdict is Verdict.MAY_NEVER_OPEN:
        volts = figures(loop.touch_earth_v)
        return f"{volts} V stays on the case for as long as the fault lasts."
    note = f"in {figures(loop.fast_s)} to {figures(loop.slow_s)} s"
    if loop.verdict is Verdict.AT_ONCE_IF_ASSUMED:
        note = f"if its curve is as assumed: {note}"
    return note


def _rows(solved: SolvedSite, loop: FaultStudy, known: bool) -> list[Row]:
    if not known:
        return []
    works = loop.workings
    m = figures(loop.multiple)
    heat = loop.worst_heat
    rows = [
        Row(
            "lowest_a",
            "Lowest current",
            f"{figures(loop.lowest_a, 4)} A",
            f"{m} × the breaker",
            working=works["lowest_a"],
        ),
        Row(
            "highest_a",
            "Highest current",
            f"{figures(loop.highest_a, 4)} A",
            f"{figures(loop.highest_a / loop.device.rating_a)} × the breaker",
            working=works["highest_a"],
        ),
        Row(
            "loop_ohm",
            "Round the loop",
            f"{figures(loop.loop_ohm)} Ω" if math.isfinite(loop.loop_ohm) else "open",
            "conductors hot, 75 °C",
            working=works["loop_ohm"],
        ),
        Row(
            "opens",
            "Breaker opens",
            "never" if math.isinf(loop.slow_s) else f"by {figures(loop.slow_s)} s",
            _opens_note(loop),
            bad=math.isinf(loop.slow_s),
            working=works["opens"],
        ),
        _heat_row(loop, heat),
        Row(
            "touch",
            "Case above the service bar",
            f"{figures(loop.touch_bar_v)} V",
            f"{figures(loop.touch_earth_v)} V to earth, {_how_long(loop)}",
            bad=math.isinf(loop.slow_s),
            working=works["touch"],
        ),
        _longest_row(solved, loop),
    ]
    if loop.second_line_s is not None:
        late = (
            "sees nothing"
            if math.isinf(loop.second_line_s)
            else f"by {figures(loop.second_line_s)} s"
        )
        rows.append(Row("gfci", "Second line: GFCI", late, "not counted above"))
    return rows


def _how_long(loop: FaultStudy) -> str:
    if math.isinf(loop.slow_s):
        return "for ever"
    return f"for at most {figures(loop.slow_s)} s"


def _opens_note(loop: FaultStudy) -> str:
    if math.isinf(loop.slow_s):
        return "less than 1.35 × its rating may never open it"
    if loop.device.is_assumed and loop.slow_s_unproved > loop.slow_s:
        return f"assumed curve; by {figures(loop.slow_s_unproved)} s if it starts at 20 ×"
    return f"no sooner than {figures(loop.fast_s)} s"


def _heat_row(loop: FaultStudy, heat) -> Row:
    if heat.fraction == 0:
        figure, note, bad = "none", "no current flows", False
    elif math.isinf(heat.fraction):
        figure, bad = "no end", True
        note = f"{heat.carrier.label}: limit in {figures(heat.limit_s)} s, nothing opens"
    else:
        figure, bad = f"{figures(heat.fraction * 100)} %", heat.fraction > 1
        note = f"of the {heat.carrier.label}’s limit"
    return Row("heat", "Heat used, worst wire", figure, note, bad, loop.workings["heat"])


def _longest_row(solved: SolvedSite, loop: FaultStudy) -> Row:
    run = loop.longest_run_ft
    length = loop.circuit.length_ft
    path = f"{loop.circuit.id}.length_ft"
    assumed = " assumed" if solved.study.assumed.find(path) else ""
    figure = "none" if run is None else f"{math.floor(run)} ft"
    return Row(
        "longest_run_ft",
        "Longest run that still clears",
        figure,
        f"now {length:g} ft{assumed}",
        bad=run is None or length > run,
        working=loop.workings["longest_run_ft"],
    )


def _criteria(loop: FaultStudy) -> list[dict]:
    found = []
    for name, criterion in loop.criteria.items():
        found.append(
            {
                "words": CRITERION_WORDS[name],
                "met": criterion.met,
                "figures": criterion.figures,
                "remark": criterion.remark,
                "decides": loop.deciding is criterion,
            }
        )
    return found


def _legs(loop: FaultStudy) -> list[dict]:
    """The loop as an ordered list: what the map shows, for readers and phones."""
    closed = bool(loop.lowest_a)
    found = []
    for leg in loop.legs:
        amps = [
            (words, figures(loop.currents.get(branch, 0.0)))
            for branch, words, _ in leg.branches
            if loop.currents.get(branch, 0.0) >= 0.001 or len(leg.branches) == 1
        ]
        found.append(
            {
                "id": leg.id,
                "label": leg.label,
                "way": leg.way,
                "ohm": f"{_ohms(leg.ohm)} Ω" if closed else "–",
                "share": f"{leg.share * 100:.0f} %" if closed else "",
                "amps": amps,
            }
        )
    return found


def _ohms(ohm: float) -> str:
    """A made joint's microhms are no ohms to an electrician."""
    return "0" if abs(ohm) < 0.0005 else figures(ohm)


def _circuits(job, solved: SolvedSite, loop_id: str) -> list[dict]:
    found = []
    for circuit_id, study in solved.study.loops.items():
        circuit = study.circuit
        rating = circuit.breaker.rating_a
        found.append(
            {
                "id": circuit_id,
                "name": circuit.name or "Unnamed circuit",
                "breaker": f"{rating:g} A" if rating else "? A",
                "verdict": str(study.verdict),
                "mark": mark_safe(verdict_svg(study.verdict, 22)),  # noqa: S308 - no input in it
                "lowest": f"{figures(study.lowest_a)} A" if study.lowest_a is not None else "",
                "href": address(job, circuit_id),
                "current": circuit_id == loop_id,
                "level": min(
                    (f.level for f in solved.findings if f.place == circuit_id),
                    key=("danger", "fix", "check", "note").index,
                    default="",
                ),
            }
        )
    return found


def _places(job, solved: SolvedSite, at: str, loop_id: str) -> list[dict]:
    """The parts of the service in the order the current meets them."""
    site = solved.site
    names = {
        site.supply.id: "Supply",
        site.service.id: "Service run",
        site.panel.id: site.panel.name or "Panel",
        site.electrode.id: "Electrodes",
        site.practice.id: "Local practice",
    }
    return [
        {"name": name, "href": address(job, element_id, loop_id), "current": element_id == at}
        for element_id, name in names.items()
    ]


def _sizes(job, solved: SolvedSite, at: str, loop_id: str, opened: str) -> list[dict]:
    """Required against installed for the chosen loop and the service."""
    wanted = [f"{loop_id}.line_size", f"{loop_id}.egc_size"]
    wanted += [f"{solved.site.electrode.id}.gec_size", f"{solved.site.panel.id}.bond_size"]
    found = []
    for path in wanted:
        row = solved.sizes.get(path)
        if row is None:
            continue
        key = "size-" + path.replace(".", "-")
        found.append(
            {
                "key": key,
                "label": row.label,
                "needed": f"{row.needed} {_metal(row.needed_material)}",
                "installed": f"{row.installed} {_metal(row.installed_material)}"
                if row.installed
                else _not_installed(solved, path),
                "meets": row.meets,
                "margin": _margin(row),
                "working": row.working,
                "href": address(job, at, loop_id, "" if key == opened else key),
                "fact": _fact_href(job, path, loop_id),
                "is_open": key == opened,
            }
        )
    return found


def _metal(material: str) -> str:
    return "Cu" if material == "copper" else "Al"


def _margin(row) -> str:
    if row.margin is None:
        return ""
    if abs(row.margin) < 0.0005:
        return "exactly"
    return f"{abs(row.margin):.0%} {'over' if row.margin > 0 else 'short'}"


def _not_installed(solved: SolvedSite, path: str) -> str:
    element_id, _, inner = path.partition(".")
    element = solved.site.elements()[element_id]
    if inner == "egc_size":
        if element.egc == "none":
            return "none"
        if element.egc == "raceway":
            return "raceway"
    if inner == "bond_size" and element.bond_kind in ("screw", "strap"):
        return element.bond_kind
    return "not said"


def _findings(job, solved: SolvedSite, at: str, loop_id: str) -> dict:
    """Findings of the chosen place and loop in full, those elsewhere in one line each."""
    here, elsewhere, to_check = [], [], 0
    for f in solved.findings:
        shown = {
            "level": f.level,
            "place": f.place_name,
            "found": f.found,
            "why": f.why,
            "do": f.do,
            "authority": str(f.authority),
            "parts": ", ".join(f.parts),
            "folded": len(f.folded),
            "href": address(job, f.place, loop_id),
        }
        if f.place in (at, loop_id):
            here.append(shown)
        elif f.level in ("danger", "fix"):
            elsewhere.append(shown)
        else:
            to_check += 1
    return {"here": here, "elsewhere": elsewhere, "to_check": to_check}


def _practice_words(site) -> str:
    practice = site.practice
    words = {
        "instantaneous": "opens at once",
        "five times": "five times",
        "timed": "timed",
        "one ohm": "one ohm",
    }
    arc = f", {practice.arc_v} V arc" if practice.arc_v else ""
    return f"rules of {practice.edition}, judged by “{words[practice.clearing]}”{arc}"
