"""Metric rule set: TT places, whose fault protection is the residual-current device and the
electrode it works against."""

import math
from collections.abc import Iterator
from typing import Any

from ... import sizing
from ...site import Set
from ...site.arrangement import Arrangement, electrode_ohm_at, island_of
from ...study import Verdict
from ...working import figures
from ..finding import PRACTICE
from ..metric import RCD_QUESTION, arrangement, is_rcd_unknown, metric_check, rcd_fix, rcds_ahead
from ..registry import Evidence, Yielded

FAMILY = "disconnection"
STABLE_OHM = 200.0
#: What every check of an electrode reads: which boards are TT, what stands ahead of them.
ELECTRODE = (
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
    """Boards behind a cable of a TT place that no RCD is told ahead of: a fault to its armour, to
    the board's enclosure or to the protective conductor in the cable makes all metal behind it
    live. Whether there is one may only not be told: to be looked at."""
    for feeder in s.filled.feeders:
        panel = s.panels[feeder.to]
        study = s.study.protected_enclosures.get(panel.id)
        if study is None or study.verdict in (Verdict.AT_ONCE, Verdict.NOT_KNOWN):
            continue
        if arrangement(s, feeder.source) is not Arrangement.TT or rcds_ahead(s, feeder):
            continue
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
    needs=(*ELECTRODE, "practice.touch_v"),
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
    needs=ELECTRODE,
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
    needs=(*ELECTRODE, "electrodes.kind", "electrodes.proved_ohm"),
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
    needs=ELECTRODE,
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
