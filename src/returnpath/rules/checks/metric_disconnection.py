"""Metric rule set: is a fault disconnected in the time the standard gives, and by what."""

import itertools
import math
from collections.abc import Iterator
from typing import Any

from ... import sizing
from ...site import Set
from ...site.arrangement import Arrangement, electrode_ohm_at, island_of
from ...study import Verdict
from ...study.port import FaultKind
from ...working import figures, show_ohms
from ..finding import PRACTICE
from ..metric import (
    RCD_QUESTION,
    FittedRcd,
    arrangement,
    is_rcd_unknown,
    loops,
    metric_check,
    rcd_fix,
    rcds_ahead,
)
from ..registry import Evidence, Yielded

FAMILY = "disconnection"
STABLE_OHM = 200.0
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
    "tt-without-rcd",
    "danger",
    looks="A circuit of a TT place has no residual-current device ahead of it.",
    why="The earth brings a few amperes home: no fuse or breaker opens, the metal stays live.",
    topic="tt",
    root=True,
    needs=(
        "circuits.rcd_ma",
        "feeders.egc",
        "feeders.rcd_ma",
        "panels.insulated",
        "panels.rcd_ma",
        "supplies.earthing",
        "study",
    ),
)
def tt_without_rcd(s: Evidence) -> Iterator[Yielded]:
    for circuit in s.filled.circuits:
        study = s.study.loops.get(circuit.id)
        if arrangement(s, circuit.panel) is not Arrangement.TT or rcds_ahead(s, circuit):
            continue
        if is_rcd_unknown(s, circuit):
            yield s.ask(circuit, f"{circuit.id}.rcd_ma", RCD_QUESTION)
            continue
        if study is None or study.verdict in (Verdict.AT_ONCE, Verdict.NOT_KNOWN):
            continue
        yield s.found(
            circuit,
            f"TT, and no RCD: {figures(study.lowest_a)} A flow, its device needs"
            f" {figures(_needed(study))} A.",
            "Put a residual-current device ahead of it.",
            fix=rcd_fix(circuit),
            parts=("RCD or RCBO, 30 mA",),
        )
    yield from _tt_cables(s)


def _tt_cables(s: Evidence) -> Iterator[Yielded]:
    """Boards behind a cable of a TT place that no RCD is told ahead of: its armour and the board's
    enclosure are metal too. Whether there is one may only not be told: to be looked at."""
    for feeder in s.filled.feeders:
        panel = s.panels[feeder.to]
        study = s.study.protected_enclosures.get(panel.id)
        if study is None or study.verdict in (Verdict.AT_ONCE, Verdict.NOT_KNOWN):
            continue
        if arrangement(s, feeder.source) is not Arrangement.TT or rcds_ahead(s, feeder):
            continue
        if panel.insulated == "yes" and feeder.egc in (None, "none", "wire"):
            continue  # no metal there that a fault could be to
        yield s.found(
            panel,
            f"TT, and no RCD is told ahead of its cable: {figures(study.lowest_a)} A flow, the"
            f" device there needs {figures(_needed(study))} A.",
            "A delayed one (type S) of 100 mA where its cable begins.",
            fix=(
                Set(path=f"{feeder.id}.rcd_ma", value=100.0),
                Set(path=f"{feeder.id}.rcd_delayed", value="yes"),
            ),
            parts=("RCD 100 mA, type S",),
            level="check",
        )


def _needed(study: Any) -> float:
    if study.device is None:
        return math.inf
    return sizing.operating_a(study.device, study.basis.time_limit().seconds)


def _tt_boards(s: Evidence) -> Iterator[Any]:
    """(panel, R_A, the largest IΔn of the devices that protect its circuits) of TT boards, one for
    each island of boards."""
    seen: set[str] = set()
    for panel in s.filled.panels:
        if panel.id in seen or arrangement(s, panel.id) is not Arrangement.TT:
            continue
        island = island_of(s.filled, panel.id)
        seen |= island
        most = [
            min(r.ma for r in ahead)
            for c in s.filled.circuits
            if c.panel in island and (ahead := rcds_ahead(s, c))
        ]
        yield panel, electrode_ohm_at(s.filled, panel.id), max(most, default=None), island


@metric_check(
    "tt-electrode-high",
    "fix",
    looks="R_A times the RCD's rating is over 50 V.",
    why="The metal can stay at a voltage that the RCD does not see as a fault.",
    topic="tt",
    needs=(
        "circuits.rcd_delayed",
        "circuits.rcd_ma",
        "circuits.rcd_type",
        "electrodes.joined",
        "electrodes.ohm",
        "feeders.egc",
        "feeders.rcd_delayed",
        "feeders.rcd_ma",
        "feeders.rcd_type",
        "panels.bond",
        "panels.rcd_ma",
        "practice.touch_v",
        "supplies.earthing",
    ),
)
def tt_electrode_high(s: Evidence) -> Iterator[Yielded]:
    for panel, ohm, ma, _ in _tt_boards(s):
        if ohm is None or ma is None or ohm * ma / 1000 <= s.practice.touch_v:
            continue
        most = sizing.electrode_limit(ma, s.practice.touch_v)
        yield s.found(
            panel,
            f"R_A {figures(ohm)} Ω × {ma:g} mA = {figures(ohm * ma / 1000)} V;"
            f" {s.practice.touch_v:g} V is the most, {figures(most.value)} Ω.",
            "A better electrode, or an RCD of a lower rating.",
            working=most,
        )


@metric_check(
    "tt-electrode-unstable",
    "check",
    looks="The electrode of a TT place is over 200 Ω.",
    why="So poor an electrode changes with the season: dry or frozen soil lifts it further.",
    topic="an electrode that stays what it is",
    kind=PRACTICE,
    needs=(
        "circuits.rcd_delayed",
        "circuits.rcd_ma",
        "circuits.rcd_type",
        "electrodes.joined",
        "electrodes.ohm",
        "feeders.egc",
        "feeders.rcd_delayed",
        "feeders.rcd_ma",
        "feeders.rcd_type",
        "panels.bond",
        "panels.rcd_ma",
        "supplies.earthing",
    ),
)
def tt_electrode_unstable(s: Evidence) -> Iterator[Yielded]:
    for panel, ohm, _, _ in _tt_boards(s):
        if ohm is not None and ohm > STABLE_OHM:
            yield s.found(
                panel,
                f"R_A {figures(ohm)} Ω; over {STABLE_OHM:g} Ω it may not be stable.",
                "Drive a deeper rod or a second one, and read it again.",
                parts=("earth rod", "clamp"),
            )


@metric_check(
    "tt-electrode-unmeasured",
    "check",
    looks="Nobody has measured the electrode of a TT place.",
    why="All fault protection of the place rests on that one figure.",
    topic="verification",
    needs=(
        "circuits.rcd_delayed",
        "circuits.rcd_ma",
        "circuits.rcd_type",
        "electrodes.joined",
        "electrodes.kind",
        "electrodes.ohm",
        "electrodes.proved_ohm",
        "feeders.egc",
        "feeders.rcd_delayed",
        "feeders.rcd_ma",
        "feeders.rcd_type",
        "panels.bond",
        "panels.rcd_ma",
        "supplies.earthing",
    ),
)
def tt_electrode_unmeasured(s: Evidence) -> Iterator[Yielded]:
    for _, _, _, island in _tt_boards(s):
        for electrode in s.site.electrodes:
            if electrode.panel in island and electrode.ohm is None and electrode.proved_ohm is None:
                yield s.ask(
                    electrode,
                    f"{electrode.id}.ohm",
                    "What does the electrode measure, its conductor lifted with the place dead?",
                )


@metric_check(
    "tt-electrode-none",
    "fix",
    looks="A TT board without an earth electrode.",
    why="Without one no fault current flows at all, and the RCD sees nothing.",
    topic="earth_electrode",
    root=True,
    needs=(
        "circuits.rcd_delayed",
        "circuits.rcd_ma",
        "circuits.rcd_type",
        "electrodes.joined",
        "electrodes.ohm",
        "feeders.egc",
        "feeders.rcd_delayed",
        "feeders.rcd_ma",
        "feeders.rcd_type",
        "panels.bond",
        "panels.rcd_ma",
        "supplies.earthing",
    ),
)
def tt_electrode_none(s: Evidence) -> Iterator[Yielded]:
    for panel, ohm, _, _ in _tt_boards(s):
        if ohm is None:
            yield s.found(
                panel,
                "No earth electrode is connected here.",
                "Drive a rod and bring its earthing conductor to the earthing terminal.",
                parts=("earth rod", "clamp", "earthing conductor"),
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
