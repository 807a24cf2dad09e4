"""Metric rule set: is a fault disconnected in the time the standard gives, and by what."""

import itertools
from collections.abc import Iterator
from typing import Any

from ... import sizing
from ...site import Set
from ...site.arrangement import Arrangement
from ...study import Verdict
from ...study.port import FaultKind
from ...working import figures, show_ohms
from ..finding import PRACTICE
from ..metric import (
    FittedRcd,
    arrangement,
    loops,
    metric_check,
    rcd_fix,
    rcds_ahead,
)
from ..registry import Evidence, Yielded

FAMILY = "disconnection"
SELECTIVE_RATIO = 3.0


def _allowed(s: Evidence, study: Any) -> tuple[float, float]:
    """(allowed Zs, Ω, hot; seconds) of a loop's own device."""
    seconds = study.basis.time_limit().seconds
    return sizing.allowed_zs(study.device, seconds, study.basis.spine.volts).value, seconds


@metric_check(
    "disconnects-late",
    "fix",
    looks="A fault is disconnected, but later than the standard allows.",
    why="The metal stays live for longer than a hand may hold it.",
    topic="ads",
    needs=("circuits.breaker.kind", "circuits.feeds", "circuits.length_ft", "study"),
)
def disconnects_late(s: Evidence) -> Iterator[Yielded]:
    for study, element in loops(s):
        if study.verdict is not Verdict.SLOW:
            continue
        allowed, seconds = _allowed(s, study)
        known = study.circuit is None or not study.device.is_assumed
        fix: tuple[Set, ...] = ()
        circuit = study.circuit
        # With its case on its own neutral an RCD sees nothing: it is no cure then.
        if circuit is not None and circuit.rcd_ma is None and not circuit.neutral_on_frame:
            fix = rcd_fix(circuit)
        yield s.found(
            element,
            f"Zs {show_ohms(study.loop_ohm)}, {figures(allowed)} Ω allowed: up to"
            f" {figures(study.slow_s)} s, {seconds:g} s is the limit.",
            "A larger protective conductor, a shorter run, a device of a lower type, or an RCD.",
            fix=fix,
            level=None if known else "check",
            working=study.workings.get("opens"),
        )


@metric_check(
    "rests-on-rcd",
    "check",
    looks="In a TN place the over-current device is too slow: the RCD alone disconnects.",
    why="If the RCD is stuck, nothing opens in time; and a loop this poor has a reason.",
    topic="tn",
    needs=("circuits.rcd_ma", "study"),
)
def rests_on_rcd(s: Evidence) -> Iterator[Yielded]:
    for study, element in loops(s):
        tn = arrangement(s, study.basis.place.panel) in (Arrangement.TN_S, Arrangement.TN_C_S)
        if not study.by_rcd or not tn:
            continue
        allowed, _ = _allowed(s, study)
        yield s.found(
            element,
            f"Zs {show_ohms(study.loop_ohm)}; its {study.device.name} asks {figures(allowed)} Ω:"
            " only the RCD disconnects in time.",
            "Test the RCD; find why the loop is poor, or size it so that both disconnect.",
            working=study.workings.get("loop_ohm"),
        )


@metric_check(
    "rcd-not-selective",
    "fix",
    looks="Two RCDs in series that may both open for one fault.",
    why="A fault in one socket then darkens the whole place, the stairs with it.",
    topic="rcd_selective",
    needs=(
        "circuits.rcd_delayed",
        "circuits.rcd_ma",
        "circuits.rcd_type",
        "feeders.rcd_delayed",
        "feeders.rcd_ma",
        "feeders.rcd_type",
        "panels.rcd_delayed",
        "panels.rcd_ma",
    ),
)
def rcd_not_selective(s: Evidence) -> Iterator[Yielded]:
    nearer: dict[str, float] = {}  # an RCD ahead of others → the largest of those behind it, mA
    ahead_of: dict[str, FittedRcd] = {}
    for circuit in s.filled.circuits:
        for near, far in itertools.pairwise(rcds_ahead(s, circuit)):
            nearer[far.element] = max(nearer.get(far.element, 0.0), near.ma)
            ahead_of[far.element] = far
    for element, ma in nearer.items():
        far, needed = ahead_of[element], _next_rcd(ma)
        if far.delayed and far.ma >= SELECTIVE_RATIO * ma:
            continue
        fix: tuple[Set, ...] = ()
        if needed is not None:
            fix = (Set(path=f"{element}.rcd_ma", value=needed),
                   Set(path=f"{element}.rcd_delayed", value="yes"))  # fmt: skip
        yield s.found(
            s.elements[element],
            f"{far.ma:g} mA{' delayed' if far.delayed else ', not delayed'}, ahead of"
            f" {ma:g} mA: either may open.",
            f"A delayed one (type S) of at least {SELECTIVE_RATIO * ma:g} mA here"
            f"{'.' if fix else ', or a smaller one behind it.'}",
            fix=fix,
            parts=("RCD, type S",),
        )


RCD_RATINGS = (10.0, 30.0, 100.0, 300.0, 500.0)


def _next_rcd(ma: float) -> float | None:
    """The least rating made that is selective to ``ma``; None beyond the largest."""
    return next((r for r in RCD_RATINGS if r >= SELECTIVE_RATIO * ma), None)


@metric_check(
    "delayed-rcd-alone",
    "check",
    looks="A final circuit whose only RCD is a delayed one, and whose other devices are too slow.",
    why="A delayed device is made to wait for another that is not there.",
    topic="a device without delay on every final circuit",
    kind=PRACTICE,
    needs=("circuits.rcd_delayed", "circuits.rcd_ma", "panels.rcd_delayed", "study"),
)
def delayed_rcd_alone(s: Evidence) -> Iterator[Yielded]:
    for circuit in s.filled.circuits:
        study, ahead = s.study.loops.get(circuit.id), rcds_ahead(s, circuit)
        if study is None or not ahead or not all(r.delayed for r in ahead):
            continue
        if study.lowest_a is None or not study.by_rcd:
            continue
        yield s.found(
            circuit,
            f"Only {ahead[0].ma:g} mA, delayed, disconnects: up to {figures(study.slow_s)} s.",
            "An RCD without delay on the circuit; keep the delayed one ahead.",
            fix=rcd_fix(circuit),
            parts=("RCBO, 30 mA",),
        )


@metric_check(
    "earthing-system-unknown",
    "check",
    looks="Nobody has said how the protective earth comes home.",
    why="TN or TT decides which device protects, and how soon it must open.",
    topic="ads",
    needs=("supplies.earthing",),
)
def earthing_system_unknown(s: Evidence) -> Iterator[Yielded]:
    unit = s.site.supply
    if unit.earthing is None:
        yield s.ask(
            unit,
            f"{unit.id}.earthing",
            "Which earthing system: the distributor's terminal on the neutral (TN-C-S), its own"
            " sheath or conductor (TN-S), an electrode of yours (TT), or IT?",
        )


@metric_check(
    "ze-unmeasured",
    "check",
    looks="The loop of the supply is assumed: nobody has measured Ze.",
    why="Every Zs of the place begins with it.",
    topic="verification",
    needs=(
        "supplies.earthing",
        "supplies.kva",
        "supplies.r1_ohm",
        "supplies.ze_ohm",
    ),
)
def ze_unmeasured(s: Evidence) -> Iterator[Yielded]:
    unit = s.site.supply
    known = (unit.ze_ohm, unit.r1_ohm, unit.kva)
    if unit.earthing in ("TN-S", "TN-C-S") and all(k is None for k in known):
        yield s.ask(
            unit,
            f"{unit.id}.ze_ohm",
            "What is Ze at the origin? Locked off and proved dead, its earth lifted; put it back"
            " before anything else.",
        )


@metric_check(
    "it-without-monitor",
    "fix",
    looks="An IT place without insulation monitoring.",
    why="Nothing tells of the first fault; the second one then finds two metals live.",
    topic="it",
    needs=("supplies.earthing", "supplies.insulation_monitor"),
)
def it_without_monitor(s: Evidence) -> Iterator[Yielded]:
    unit = s.filled.supply
    if unit.earthing != "IT":
        return
    path = f"{unit.id}.insulation_monitor"
    if unit.insulation_monitor is None:
        yield s.ask(unit, path, "Is there insulation monitoring that tells of the first fault?")
    elif unit.insulation_monitor == "no":
        yield s.found(
            unit,
            "IT, and nothing tells of a first fault.",
            "Fit an insulation monitoring device.",
            fix=(Set(path=path, value="yes"),),
            parts=("insulation monitoring device",),
        )


@metric_check(
    "it-second-fault",
    "check",
    looks="In an IT place a second fault is judged between a line and the neutral, at half.",
    why="Two faults on different metals meet through the protective conductors.",
    topic="it",
    needs=("supplies.earthing", "study"),
)
def it_second_fault(s: Evidence) -> Iterator[Yielded]:
    if s.filled.supply.earthing != "IT":
        return
    for circuit in s.filled.circuits:
        study = s.study.worst_fault(circuit.id, FaultKind.NEUTRAL)
        if study is None or study.lowest_a is None or study.device is None:
            continue
        amps = study.lowest_a / 2  # the loop of both faults is at least twice as long
        seconds = study.basis.time_limit().seconds
        if study.device.slow_s(amps) <= seconds:
            continue
        yield s.found(
            circuit,
            f"A second fault like this one: {figures(amps)} A, up to"
            f" {figures(study.device.slow_s(amps))} s; {seconds:g} s is the limit.",
            "An RCD, supplementary bonding, or a larger conductor.",
        )
