"""Faults between conductors, and neutrals that are not whole: what no EGC has a part in."""

from collections.abc import Iterator

from ...site import Remove
from ...study import FaultKind, FaultStudy, Verdict
from ...vocabulary import BranchId, FactPath
from ...working import figures, some_of
from ..finding import PRACTICE
from ..registry import Evidence, Yielded, check

FAMILY = "neutral"
WORDS = {FaultKind.NEUTRAL: "Line to neutral", FaultKind.LINE: "Line to line"}


@check(
    "short-circuit-never-clears",
    "danger",
    looks="A fault from line to neutral, or between two lines, does not trip its breaker.",
    why="No ground-fault protection sees it; the wires heat until something burns.",
    topic="fault between conductors",
    kind=PRACTICE,
    needs=("circuits.breaker.rating_a", "circuits.length_ft", "circuits.line_size", "study"),
)
def short_circuit_never_clears(s: Evidence):
    weak: dict[str, list[FaultStudy]] = {}
    for fault in s.study.faults:
        device, never = fault.device, fault.verdict is Verdict.MAY_NEVER_OPEN
        if fault.kind is FaultKind.CASE or device is None or not s.study.is_worst(fault):
            continue
        if fault.verdict is Verdict.SLOW and fault.state == s.filled.supply.id:
            yield from _by_heat_alone(s, fault)
        if not never:
            continue
        element = s.elements[fault.place]
        guessed = [
            path
            for path in (FactPath.of(fault.place, f) for f in ("length_ft", "line_size"))
            if fault.circuit is not None and not s.known(path)
        ]
        what = WORDS[fault.kind]
        if fault.state != s.filled.supply.id:
            weak.setdefault(fault.state, []).append(fault)
            continue
        found = (
            f"{what}: {figures(fault.lowest_a)} A is {figures(fault.multiple)} × the {device.name}."
            if fault.lowest_a
            else f"{what}: no current flows; the path is open."
        )
        yield s.found(
            element,
            found,
            "Find what is open or loose; else a shorter run or larger wire.",
            level="check" if guessed else None,
            asks=guessed[0] if guessed else "",
            working=fault.workings.get("lowest_a"),
        )
    for supply, faults in weak.items():
        yield _on_another_source(s, supply, faults)


#: Longer than this a short between conductors is told, though its device opens at last, s.
LONG_S = 60.0


def _by_heat_alone(s: Evidence, fault: FaultStudy) -> Iterator[Yielded]:
    """A short that takes minutes, where the fault to metal at the same place does not say so."""
    case = s.study.loops.get(fault.place) or s.study.enclosures.get(fault.place)
    told = case is not None and case.verdict in (Verdict.SLOW, Verdict.MAY_NEVER_OPEN)
    if told or (fault.slow_s or 0.0) <= LONG_S or s.is_metric:
        return
    yield s.found(
        s.elements[fault.place],
        f"{WORDS[fault.kind]}: {figures(fault.lowest_a)} A is {figures(fault.multiple)} × the"
        f" {fault.device.name}: up to {figures(fault.slow_s)} s.",
        "Find what is loose; else a shorter run or larger wire.",
        level="check",
        working=fault.workings.get("lowest_a"),
    )


def _on_another_source(s: Evidence, at: str, faults: list[FaultStudy]) -> Yielded:
    """What the utility trips and a weaker source does not: its own breaker or its electronics end
    that, and are to be looked up."""
    supply = s.elements[at]
    own = supply.breaker.rating_a
    is_read = supply.kind == "inverter" or own is not None
    worst = min(faults, key=lambda f: f.multiple or 0.0)
    places = some_of(f.place_name for f in faults)
    return s.found(
        supply,
        f"On this source a fault between conductors may not trip ({places}); the worst"
        f" {figures(worst.lowest_a)} A, {figures(worst.multiple)} × its breaker.",
        "Look up how it ends a short circuit, and in what time."
        if is_read
        else "Read the rating of its own breaker.",
        level="check",
        asks="" if own is not None else FactPath.of(supply.id, "breaker.rating_a"),
        working=worst.workings.get("lowest_a"),
    )


@check(
    "service-neutral-open",
    "danger",
    looks="The neutral of a service or a feeder is recorded as open or loose.",
    why="The two legs then share their volts by what is switched on; a loose joint burns.",
    topic="what a lost neutral does",
    kind=PRACTICE,
    needs=("study",),
    root=True,
)
def service_neutral_open(s: Evidence):
    runs = {r.id: r.to for r in (*s.filled.services, *s.filled.feeders)}
    seen: set[BranchId] = set()
    for joint in s.filled.joints:
        branch = joint.on
        if branch.part != "neutral" or branch.element not in runs or branch in seen:
            continue
        seen.add(branch)
        run, panel = s.elements[branch.element], runs[branch.element]
        is_open = any(j.on == branch and j.open == "yes" for j in s.filled.joints)
        studies = s.study.lost_neutrals if is_open else s.study.loads.values()
        words = _legs(studies, branch if is_open else None, panel)
        if is_open:
            found = f"Its neutral is open: {words}."
        else:
            ohm = sum(j.ohm or 0.0 for j in s.filled.joints if j.on == branch)
            amps = s.load_amps(branch)
            found = (
                f"A joint of {figures(ohm)} Ω in its neutral: {figures(amps**2 * ohm)} W in it at"
                f" {figures(amps)} A; {words}."
            )
        mend = tuple(Remove(id=j.id) for j in s.filled.joints if j.on == branch)
        do = "Switch off what is sensitive; make the joint up new, dead."
        yield s.found(run, found, do, fix=mend)


def _legs(studies, branch: BranchId | None, panel: str) -> str:
    """The legs' volts of the worst supply, in words."""
    chosen = [f for f in studies if branch is None or f.lost == branch]
    legs = max((f.legs(panel) for f in chosen), key=_highest, default={})
    listed = ", ".join(f"{leg} {figures(volts)} V" for leg, volts in legs.items())
    return listed or "no load is on it"


def _highest(legs: dict[str, float]) -> float:
    return max(legs.values(), default=0.0)
