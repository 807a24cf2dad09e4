"""``check JOB.json``: every study of a job file, as text or as JSON.

The JSON is described by ``docs/check.schema.json``.
"""

import json
import math
from pathlib import Path

from .. import ENGINE_VERSION
from ..errors import BadInput
from ..site import Installation, loads
from ..site.jobfile import MAX_BYTES
from ..study import FaultStudy, SiteStudy, Verdict, study
from ..working import figures


def add_to(calls) -> None:
    """The call."""
    call = calls.add_parser("check", help="study a job file")
    call.add_argument("job", help="job file (docs/job-format.md)")
    call.add_argument("--json", action="store_true")
    call.set_defaults(run=_check)


def read_job(path: str) -> Installation:
    """The site in a job file, or in a demo file that holds one under “job”."""
    file = Path(path)
    try:
        if file.stat().st_size > 2 * MAX_BYTES:
            raise BadInput("A job file is at most 2 MB.")
        text = file.read_text("utf-8")
    except (OSError, UnicodeDecodeError):
        raise BadInput(f"“{path}” cannot be read as a text file.") from None
    try:
        data = json.loads(text)
    except ValueError:
        data = None
    if isinstance(data, dict) and set(data) == {"name", "place", "job"}:
        text = json.dumps(data["job"])
    return loads(text)


def _check(chosen) -> int:
    site = read_job(chosen.job)
    done = study(site)
    if chosen.json:
        print(json.dumps(as_dict(done), ensure_ascii=False, indent=1, allow_nan=False))
    else:
        print(as_text(done))
    return exit_code(done)


def exit_code(done: SiteStudy) -> int:
    """1 where a line-to-case fault may never open."""
    never = (f.verdict is Verdict.MAY_NEVER_OPEN for f in done.faults if f.kind == "line-to-case")
    return int(any(never))


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
        "faults": [fault_dict(done, f) for f in done.faults],
        "load": {supply: _load(found) for supply, found in done.loads.items()},
        "open_neutral": {supply: _load(found) for supply, found in done.open_neutrals.items()},
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


def fault_dict(done: SiteStudy, fault: FaultStudy) -> dict:
    """One fault as plain data."""
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
        "kind": fault.kind,
        "state": fault.state,
        "worst": done.is_worst(fault),
        "verdict": str(fault.verdict),
        "lacks": list(fault.lacks),
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
        "rests_on": [a.path for a in fault.rests_on] if fault.kind == "line-to-case" else [],
    }


def _load(found) -> dict:
    return {
        "currents": {branch: plain(amps) for branch, amps in found.currents.items()},
        "volts": {node: plain(volts) for node, volts in found.volts.items()},
        "stray": [{"branch": s.branch, "amps": plain(s.amps)} for s in found.strays],
        "lost": found.lost,
    }


def as_text(done: SiteStudy) -> str:
    """The studies as lines to read."""
    site = done.assumed.site
    lines = [f"Rules of {site.practice.edition}, judged by “{site.practice.clearing}”."]
    if done.why_not:
        lines.append(done.why_not)
    lines.append("")
    lines.append("Line to case, worst supply:")
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


def _fault_line(done: SiteStudy, fault: FaultStudy) -> str:
    name = f"{fault.place_name} ({fault.place})"
    if fault.lacks:
        return f"{name:<28} {fault.verdict}: {', '.join(fault.lacks)} missing"
    opens = "never" if fault.slow_s is None or math.isinf(fault.slow_s) else (
        f"{figures(fault.fast_s)} to {figures(fault.slow_s)} s"
    )  # fmt: skip
    state = f" on {fault.state}" if len(done.states) > 1 else ""
    return (
        f"{name:<28} {fault.verdict}{state}: {figures(fault.lowest_a)} to"
        f" {figures(fault.highest_a)} A, opens {opens}, case"
        f" {figures(fault.touch_earth_v)} V to earth"
    )
