"""Metric rule set: devices and their conductors, cables in their place, old colours."""

from collections.abc import Iterator
from typing import Any

from ... import sizing, tables
from ...assume_metric import loaded_of, reference_method
from ...errors import BadInput
from ...site import Circuit, Feeder, Set
from ...site.rings import is_ring
from ...working import count_of, figures
from ..finding import PRACTICE
from ..metric import lights, metric_check, runs
from ..registry import Evidence, Yielded
from .metric_protective import capacity_of, mm2
from .old_work import year_of

FAMILY = "devices and conductors"
LEAST_COPPER_MM2, LEAST_ALUMINIUM_MM2 = 1.5, 10.0
NEW_COLOURS = 2004
INDOOR_CABLES = ("twin", "multicore")
SHALLOW_IN, DEEP_M = 19.6, 0.5


def _runs(s: Evidence) -> Iterator[Circuit | Feeder]:
    for run in runs(s):
        if run.line_size is not None and tables.is_metric(run.line_size):
            yield run


@metric_check(
    "device-over-capacity",
    "fix",
    looks="A device larger than the current-carrying capacity of its conductors.",
    why="Overloaded for hours the insulation ages, and a fire starts where nobody looks.",
    topic="overload",
    needs=(
        "circuits.breaker.rating_a",
        "circuits.insulation",
        "circuits.line_material",
        "circuits.line_size",
        "circuits.method",
        "circuits.poles",
        "circuits.ring",
        "circuits.route",
        "feeders.breaker.rating_a",
        "feeders.insulation",
        "feeders.line_material",
        "feeders.line_size",
        "feeders.method",
        "feeders.poles",
        "feeders.route",
        "feeders.sets",
    ),
)
def device_over_capacity(s: Evidence) -> Iterator[Yielded]:
    for run in _runs(s):
        rating, capacity = run.breaker.rating_a, capacity_of(run)
        if rating is None or capacity is None or not s.known(f"{run.id}.line_size"):
            continue
        sets = getattr(run, "sets", None) or 1
        if is_ring(run) or run.line_material == "aluminium" or rating <= capacity * sets + 1e-9:
            continue
        method = reference_method(run, run.method)
        fix, parts = _larger(run, rating, method)
        yield s.found(
            run,
            f"{rating:g} A on {tables.size_name(run.line_size)}: it carries {capacity * sets:g} A"
            f" (method {method}).",
            "A smaller device, or larger conductors.",
            fix=fix,
            parts=parts,
        )


def _larger(run: Circuit | Feeder, rating: float, method: str) -> tuple[Any, Any]:
    try:
        loaded, kind = loaded_of(run.poles), run.insulation or "thermoplastic"
        size = str(sizing.smallest_metric_line(rating, kind, loaded, method).value)
    except BadInput:
        return (), ()
    name = tables.size_name(size)
    return (Set(path=f"{run.id}.line_size", value=size),), (f"{name} cable",)


@metric_check(
    "device-type-unknown",
    "check",
    looks="A miniature breaker whose type (B, C, D) nobody has read.",
    why="Type D needs four times the current of type B: it decides whether it disconnects.",
    topic="ads",
    needs=(
        "circuits.breaker.kind",
        "circuits.breaker.lo",
        "circuits.breaker.magnetic_nominal",
        "circuits.breaker.rating_a",
    ),
)
def device_type_unknown(s: Evidence) -> Iterator[Yielded]:
    for run in (*s.site.circuits, *s.site.feeders):
        device = run.breaker
        told = device.lo or device.hi or device.magnetic_nominal
        if device.rating_a is not None and device.kind is None and not told:
            path = f"{run.id}.breaker.kind"
            question = "Which is it: a breaker of type B, C or D, or a gG fuse?"
            yield s.ask(run, path, question)


@metric_check(
    "switch-as-protection",
    "danger",
    looks="A circuit whose only device is a switch.",
    why="It opens when a hand opens it: neither an overload nor a fault does.",
    topic="overload",
    needs=("circuits.breaker.kind",),
)
def switch_as_protection(s: Evidence) -> Iterator[Yielded]:
    for run in runs(s):
        if run.breaker.kind == "switch":
            yield s.found(
                run,
                "Only a switch ahead of it.",
                "Put an over-current device ahead of it.",
                fix=(Set(path=f"{run.id}.breaker.kind", value="B"),),
                parts=("miniature breaker",),
            )


@metric_check(
    "conductor-too-thin",
    "fix",
    looks="A line under 1.5 mm² copper, or under 10 mm² aluminium.",
    why="It breaks at its terminals.",
    topic="ampacity",
    needs=(
        "circuits.line_material",
        "circuits.line_size",
        "feeders.line_material",
        "feeders.line_size",
    ),
)
def conductor_too_thin(s: Evidence) -> Iterator[Yielded]:
    for run in _runs(s):
        aluminium = run.line_material == "aluminium"
        least = LEAST_ALUMINIUM_MM2 if aluminium else LEAST_COPPER_MM2
        if mm2(run.line_size) < least * 0.99 and s.known(f"{run.id}.line_size"):
            yield s.found(
                run,
                f"{tables.size_name(run.line_size)}; {least:g} mm² is the least for power.",
                f"Run {least:g} mm².",
                fix=(Set(path=f"{run.id}.line_size", value=f"{least:g}mm2"),),
            )


@metric_check(
    "cable-in-ground",
    "fix",
    looks="A cable for indoors is laid in the ground.",
    why="A spade goes through it, and its sheath takes in water.",
    topic="ground_depth",
    needs=("circuits.method", "circuits.route", "feeders.method", "feeders.route"),
)
def cable_in_ground(s: Evidence) -> Iterator[Yielded]:
    for run in runs(s):
        buried = run.route == "underground" and run.method in INDOOR_CABLES
        if buried and s.known(f"{run.id}.method"):
            yield s.found(
                run,
                "A cable without armour or duct in the ground.",
                "Armoured cable, or a duct.",
                fix=(Set(path=f"{run.id}.method", value="SWA"),),
                parts=("armoured cable", "glands"),
            )


@metric_check(
    "cable-shallow",
    "check",
    looks="A cable in the ground under less than half a metre.",
    why="A spade reaches it.",
    topic="ground_depth",
    needs=("feeders.cover_in", "feeders.route"),
)
def cable_shallow(s: Evidence) -> Iterator[Yielded]:
    for feeder in s.filled.feeders:
        if feeder.cover_in is None or feeder.route not in (None, "underground"):
            continue
        if feeder.cover_in < SHALLOW_IN:
            yield s.found(
                feeder,
                f"{feeder.cover_in * 25.4:.0f} mm of cover.",
                f"At least {DEEP_M:g} m, tiles or warning tape above it.",
                fix=(Set(path=f"{feeder.id}.cover_in", value=19.7),),
                parts=("warning tape",),
            )


@metric_check(
    "old-colours",
    "note",
    looks="Wiring from before the colours of today.",
    why="Its blue may be a line and its black a neutral.",
    topic="colours",
    kind=PRACTICE,
    needs=(
        "buildings.permit",
        "buildings.wired_year",
        "circuits.year",
    ),
)
def old_colours(s: Evidence) -> Iterator[Yielded]:
    old = []
    for circuit in s.filled.circuits:
        year = year_of(s, circuit)
        if year is not None and year < NEW_COLOURS:
            old.append((year, circuit))
    if old:
        panel = s.panels[s.at_service]
        now = {r["role"]: r["metric"] for r in tables.rows("wire_colours")}
        yield s.found(
            panel,
            f"{count_of(len(old), 'circuit')} from before {NEW_COLOURS}: black may be the neutral,"
            " blue or red a line.",
            f"Prove every conductor before it is touched; a notice at the board where both meet."
            f" Today: line {now['line']}; neutral {now['neutral']}; protective {now['egc']}.",
        )


@metric_check(
    "drop-over-advice",
    "note",
    looks="More than 3 % is lost to lights, more than 5 % to the rest.",
    why="Motors run hot and lamps dim.",
    topic="voltage_drop",
    kind=PRACTICE,
    needs=("circuits.length_ft", "circuits.line_size", "circuits.load_va", "study"),
)
def drop_over_advice(s: Evidence) -> Iterator[Yielded]:
    given = {c.id for c in s.site.circuits if c.load_va is not None}
    by_id = {c.id: c for c in s.filled.circuits}
    for drop in s.study.drops:
        circuit = by_id[drop.circuit]
        advice = 0.03 if lights(circuit) else 0.05
        if drop.circuit in given and drop.share > advice:
            yield s.found(
                circuit,
                f"{figures(drop.share * 100)} % at {figures(drop.amps)} A; {advice * 100:g} % is"
                " advised.",
                "A larger line, or a shorter run.",
            )
