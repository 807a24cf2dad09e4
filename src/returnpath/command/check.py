"""``check JOB.json``: every study of a job file, as text or as JSON.

The JSON is described by ``docs/check.schema.json``.
"""

import math

from .. import ENGINE_VERSION
from ..face import judge, read, text_of
from ..rules import (
    Finding,
    FindingRow,
    deciding_questions,
    grouped,
    next_step,
    not_looked,
    size_rows,
    summary,
)
from ..rules.not_looked import in_words
from ..site import Installation, Set, apply, loads_practice
from ..site.speech import names_in, rule_set_of
from ..study import FaultKind, FaultStudy, SiteStudy, study
from ..study.ring import zs_along
from ..words import spoken
from ..working import figures
from . import envelope


def add_to(calls) -> None:
    """The call."""
    call = calls.add_parser("check", help="study a job file")
    call.add_argument("job", help="job file (docs/job-format.md)")
    call.add_argument("--practice", help="practice file: local schools and requirements")
    call.add_argument("--edition", type=int, help="edition of the rules instead of the job's")
    call.add_argument("--json", action="store_true")
    call.set_defaults(run=_check)


def read_job(path: str, practice: str | None = None, edition: int | None = None) -> Installation:
    """The site in a job file, or in a demo file that holds one under “job”.

    ``practice`` a practice file, ``edition`` an edition, in place of the job's own.
    """
    site = read(path)
    if practice is not None:
        site = site.model_copy(update={"practice": loads_practice(text_of(practice))})
    if edition is not None:
        site = apply(site, Set(path="practice.edition", value=edition))
    return site


def _check(chosen) -> int:
    site = read_job(chosen.job, chosen.practice, chosen.edition)
    done = study(site)
    found = judge(site, done)
    if chosen.json:
        body = as_dict(done) | judged(site, done, found)
        envelope.show(envelope.of(body, "study", assumptions=body["assumptions"]))
    else:
        print(spoken(as_text(done, found), rule_set_of(site), names_in(site)))
    return int(any(f.level == "danger" for f in found))


def judged(site: Installation, done: SiteStudy, found) -> dict:
    """The judgement as plain data: summary, next step, findings, questions, sizes."""
    step = next_step(site, done, found)
    return {
        "summary": summary(done, found),
        "next": {"text": step.text, "place": step.place},
        "findings": [finding_dict(f) for f in found],
        "not_looked_at": [{"id": id, "why": why} for id, why in not_looked().items()],
        "questions": [
            {"text": a.text, "path": a.path, "settles": a.settles} for a in deciding_questions(done)
        ],
        "sizes": [
            {
                "path": row.path,
                "label": row.label,
                "needed": row.needed,
                "installed": row.installed,
                "meets": row.meets,
                "margin": plain(row.margin),
            }
            for row in size_rows(site, done)
        ],
        "requirements": [r.model_dump() for r in site.practice.requirements],
    }


def finding_dict(finding: Finding) -> dict:
    """One finding as plain data, with its working and what is folded under it."""
    return {
        "id": finding.id,
        "level": finding.level,
        "place": finding.place,
        "place_name": finding.place_name,
        "found": finding.found,
        "why": finding.why,
        "do": finding.do,
        "authority": {
            "kind": finding.authority.kind,
            "where": finding.authority.where,
            "check_locally": finding.authority.doubtful,
        },
        "fix": [e.model_dump(mode="json", exclude_none=True) for e in finding.fix],
        "parts": list(finding.parts),
        "asks": finding.asks,
        "working": [
            {"kind": s.kind, "text": s.text, "source": s.source}
            for s in (finding.working.steps() if finding.working else ())
        ],
        "folded": [finding_dict(f) for f in finding.folded],
    }


def plain(value: float | None) -> float | None:
    """A number JSON can hold: no infinity, six figures are plenty."""
    if value is None or not math.isfinite(value):
        return None
    return float(f"{value:.6g}")


def as_dict(done: SiteStudy) -> dict:
    """The whole study as plain data."""
    site = done.assumed.site
    return {
        "engine": ENGINE_VERSION,
        "edition": site.practice.edition,
        "clearing": site.practice.clearing,
        "states": [s.supply.id for s in done.states],
        "assumptions": [
            {"path": a.path, "value": a.value, "words": a.words, "why": a.why}
            for a in done.assumed.assumptions
        ],
        "not_known": done.why_not,
        "available_a": {panel: plain(amps) for panel, amps in done.available.items()},
        "faults": [fault_dict(f, done.is_worst(f)) for f in done.faults],
        "metals": [fault_dict(f, True) for f in done.metals.values()],
        "load": {supply: _load(found) for supply, found in done.loads.items()},
        "open_neutral": {supply: _load(found) for supply, found in done.open_neutrals.items()},
        "lost_neutrals": [{"supply": f.supply} | _load(f) for f in done.lost_neutrals],
        "shared_neutral_lost": [
            {"branch": lost.lost, "volts": {c: plain(v) for c, v in lost.across.items()}}
            for lost in done.shared_neutrals
        ],
        "voltage_drop": [
            {
                "circuit": d.circuit,
                "amps": plain(d.amps),
                "volts": plain(d.volts),
                "share": plain(d.share),
            }
            for d in done.drops
        ],
        "arrays": [
            {
                "array": a.array,
                "fault_a": plain(a.fault_a),
                "frame_v": plain(a.frame_v),
                "egc_ohm": plain(a.egc_ohm),
                "body_a": plain(a.body_a),
                "device_opens": a.device_opens,
                "cleared_by": a.cleared_by,
            }
            for a in done.arrays
        ],
    }


def fault_dict(fault: FaultStudy, worst: bool) -> dict:
    """One fault as plain data; ``worst``: no other supply does worse."""
    device = None
    if fault.device is not None:
        device = {
            "at": fault.device_at,
            "rating_a": fault.device.rating_a,
            "multiple": plain(fault.multiple),
        }
    return {
        "place": fault.place,
        "place_name": fault.place_name,
        "kind": fault.kind.value,
        "side": fault.side.value,
        "state": fault.state,
        "worst": worst,
        "verdict": str(fault.verdict),
        "lacks": list(fault.lacks),
        "remark": fault.remark,
        "highest_a": plain(fault.highest_a),
        "lowest_a": plain(fault.lowest_a),
        "loop_ohm": plain(fault.loop_ohm),
        "device": device,
        "fast_s": plain(fault.fast_s),
        "slow_s": plain(fault.slow_s),
        "slow_s_unproved": plain(fault.slow_s_unproved),
        "heat_used": plain(fault.heat_used),
        "heat_used_unproved": plain(fault.heat_used_unproved),
        "touch_v": {
            "remote_earth": plain(fault.touch_earth_v),
            "service_bar": plain(fault.touch_bar_v),
            "within_reach": {m: plain(v) for m, v in (fault.touch_reach_v or {}).items()},
        },
        "body": {"ma": plain(fault.body_ma), "c1_ma": plain(fault.body_limit_ma)},
        "second_line_s": plain(fault.second_line_s),
        "criterion_met": fault.deciding.met if fault.deciding else None,
        "longest_run_ft": plain(fault.longest_run_ft),
        "by_rcd": fault.by_rcd,
        "ring": [{"at": point.at, "ohm": plain(point.ohm)} for point in zs_along(fault)],
        "rests_on": [a.path for a in fault.rests_on] if fault.kind is FaultKind.CASE else [],
    }


def _load(found) -> dict:
    return {
        "currents": {branch: plain(amps) for branch, amps in found.currents.items()},
        "volts": {node: plain(volts) for node, volts in found.volts.items()},
        "stray": [{"branch": s.branch, "amps": plain(s.amps)} for s in found.strays],
        "lost": found.lost,
        "legs": {
            panel: {leg: plain(volts) for leg, volts in legs.items()}
            for panel, legs in found.panel_legs.items()
        },
    }


def as_text(done: SiteStudy, found: tuple[Finding, ...]) -> str:
    """The findings, worst first, then the studies, as lines to read."""
    site = done.assumed.site
    lines = [f"Rules of {site.practice.edition}, judged by “{site.practice.clearing}”."]
    lines += [
        f"Local requirement: {r.text} ({r.who}, {r.when})" for r in site.practice.requirements
    ]
    lines += ["", summary(done, found), ""]
    for row in grouped(found):
        lines += _row_lines(row)
    if not found:
        lines.append("Nothing was found.")
    lines += ["", f"Not looked at: {'; '.join(in_words(site))}."]
    lines.append("")
    if done.why_not:
        lines.append(done.why_not)
    lines.append("")
    lines.append("Line to enclosure, worst supply:")
    for fault in (*done.loops.values(), *done.enclosures.values()):
        lines.append(f"  {_fault_line(done, fault)}")
    for supply, found in done.loads.items():
        strays = found.strays[:8]
        if strays:
            lines += ["", f"Load current on metal ({supply}):"]
            lines += [f"  {s.branch:<18} {figures(s.amps)} A" for s in strays]
    for supply, found in done.open_neutrals.items():
        legs = ", ".join(
            f"{leg} {figures(volts)} V" for leg, volts in found.legs(site.panel.id).items()
        )
        lines += ["", f"Service neutral lost ({supply}): {legs}"]
    for lost in done.shared_neutrals:
        volts = ", ".join(f"{c} {figures(v)} V" for c, v in lost.across.items())
        lines.append(f"Shared neutral lost at {lost.lost}: {volts}")
    for array in done.arrays:
        lines.append(
            f"Array {array.array}: {figures(array.fault_a)} A d.c. into a ground fault, frames at"
            f" {figures(array.frame_v)} V; cleared by {array.cleared_by}"
        )
    count = len(done.assumed.assumptions)
    lines += ["", f"Rests on {count} assumptions (--json lists them). Estimates; the local office"
              " and a licensed person decide."]  # fmt: skip
    return "\n".join(lines)


def _row_lines(row: FindingRow) -> list[str]:
    """A finding, or one row for many places, as lines to read."""
    finding = row.first
    if row.is_group:
        count = len(row.findings)
        return [
            f"{finding.level.upper():<7}{finding.id} at {count} places: {row.places}",
            f"       {row.title} {finding.place_name}: {finding.found}",
            f"       {finding.authority}",
        ]
    more = f" ({len(finding.folded)} more go with it)" if finding.folded else ""
    return [
        f"{finding.level.upper():<7}{finding.id} at {finding.place_name}{more}",
        f"       {finding.found} {finding.do}",
        f"       {finding.authority}",
    ]


def _fault_line(done: SiteStudy, fault: FaultStudy) -> str:
    name = f"{fault.place_name} ({fault.place})"
    if fault.side:
        name = f"{name}, {fault.side}"
    if fault.lacks:
        return f"{name:<28} {fault.verdict}: {', '.join(fault.lacks)} missing"
    if fault.lowest_a is None:
        return f"{name:<28} {fault.verdict}: {fault.remark}"
    opens = "never" if fault.slow_s is None or math.isinf(fault.slow_s) else (
        f"{figures(fault.fast_s)} to {figures(fault.slow_s)} s"
    )  # fmt: skip
    state = f" on {fault.state}" if len(done.states) > 1 else ""
    return (
        f"{name:<28} {fault.verdict}{state}: {figures(fault.lowest_a)} to"
        f" {figures(fault.highest_a)} A, opens {opens}, enclosure"
        f" {figures(fault.touch_earth_v)} V to earth{'. ' if fault.remark else ''}{fault.remark}"
    )
