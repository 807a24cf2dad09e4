"""``chain JOB.json PART``: the chain from the source to a part, rung by rung."""

from typing import Any

from ..face import judge
from ..rules import Evidence, Ladder, Rung, ladder
from ..site.speech import names_in, rule_set_of
from ..study import study
from ..words import spoken
from ..working import figures
from . import envelope
from .check import read_job


def add_to(calls: Any) -> None:
    """The call."""
    call = calls.add_parser("chain", help="the chain from the source to a part, rung by rung")
    call.add_argument("job", help="job file (docs/job-format.md)")
    call.add_argument("part", help="a circuit, panel or feeder, by its id or its name")
    call.add_argument("--json", action="store_true")
    call.set_defaults(run=_chain)


def _chain(chosen: Any) -> int:
    site = read_job(chosen.job)
    done = study(site)
    found = ladder(Evidence(site, done), judge(site, done), chosen.part)
    if chosen.json:
        envelope.show(envelope.of(as_dict(found), "chain"))
    else:
        print(spoken(as_text(found), rule_set_of(site), names_in(site)))
    weakest = found.weakest
    return int(weakest is not None and weakest.level == "danger")


def as_dict(found: Ladder) -> dict[str, Any]:
    """The ladder as plain data."""
    weakest = found.weakest
    return {
        "part": found.part,
        "name": found.part_name,
        "rungs": [_rung(r, r is weakest) for r in found.rungs],
        "weakest": weakest.element if weakest else None,
    }


def _rung(rung: Rung, is_weakest: bool) -> dict[str, Any]:
    return {
        "kind": rung.kind,
        "element": rung.element,
        "name": rung.name,
        "what": rung.what,
        "path": rung.path,
        "carries_a": rung.carries_a,
        "allowed_a": rung.allowed_a,
        "must_a": rung.must_a,
        "must": rung.must,
        "protection": rung.protection,
        "how": rung.how,
        "mark": rung.mark,
        "level": rung.level,
        "found": rung.found,
        "weakest": is_weakest,
    }


def as_text(found: Ladder) -> str:
    """The ladder as lines, the weakest rung marked."""
    weakest = found.weakest
    lines = [f"From the source to {found.part_name}:"]
    for rung in found.rungs:
        here = "→" if rung is weakest else " "
        carries = f"{figures(rung.carries_a)} A" if rung.carries_a is not None else "—"
        must = f"must carry {figures(rung.must_a)} A ({rung.must})" if rung.must_a else ""
        may = f"up to {figures(rung.allowed_a)} A may protect it" if rung.allowed_a else ""
        told = "; ".join(filter(None, (must, may, rung.protection)))
        lines.append(f"{here} {rung.mark:<9} {carries:>7}  {rung.name}: {rung.what}")
        if told:
            lines.append(f"{'':22}{told}")
        if rung.found:
            lines.append(f"{'':22}{rung.level}: {rung.found}")
    return "\n".join(lines)
