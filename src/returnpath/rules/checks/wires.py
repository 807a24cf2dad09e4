"""Conductors: the wire against the device that protects it, where it runs."""

from collections.abc import Iterator

from ... import tables
from ...errors import BadInput
from ...site import Circuit, Feeder, Set
from ...site.chain import OF_ONE_DEVICE, Protection
from ...sizing.motors import largest_motor_device, motor_wire_a
from ...working import figures
from ..carrying import (
    COOL_C,
    USUAL_C,
    Run,
    allowed_of,
    ampacity_of,
    base_column,
    cable_column,
    carries_a,
    carries_whole_dwelling,
    fits_dwelling_rule,
    is_corrected,
    motor_volts,
    smallest_for,
    terminals_of,
)
from ..finding import Authority
from ..registry import Evidence, Yielded, check, rule_authority

FAMILY = "conductors"
name = tables.size_name
metal_name = tables.metal_name
MOTOR_LIKE = ("motor", "cooling")


def protected_runs(s: Evidence) -> Iterator[Run]:
    """Circuits and feeders whose line and device are known, in AWG: their own, or the one device of
    the enclosure that they leave. Taps and service conductors have checks of their own."""
    for run in s.runs:
        size = run.line_size
        if size is None or tables.is_metric(size) or not s.known(f"{run.id}.line_size"):
            continue
        found = s.protected[run.id]
        if found.rating_a is None or not s.known(f"{found.at}.rating_a"):
            continue
        if found.how is Protection.OWN or (found.how is Protection.AHEAD and not _is_tap(s, run)):
            yield run


def _is_tap(s: Evidence, run: Run) -> bool:
    """Whether a feeder leaves the bars of a panel with no device of its own."""
    return isinstance(run, Feeder) and s.panels[run.source].kind not in OF_ONE_DEVICE


#: So far over what its wire may have that a fire can start from what is there.
GROSS = 1.5


def _is_excused(s: Evidence, run: Run) -> bool:
    """A motor's or cooling unit's nameplate, or a motor's horsepower, that allows the larger device
    (240.4(G))."""
    if not isinstance(run, Circuit):
        return False
    rating, carries = s.rating_of(run) or 0.0, carries_a(s, run, s.column(run))
    mca, most = run.nameplate_mca_a, run.nameplate_max_a
    if run.load_kind in MOTOR_LIKE and mca is not None and most is not None:
        return rating <= most and mca <= carries
    if run.motor_hp is None or run.load_kind == "cooling":
        return False
    try:
        volts = motor_volts(s, run)
        largest = largest_motor_device(run.motor_hp, volts).number
        return rating <= largest and motor_wire_a(run.motor_hp, volts).number <= carries
    except BadInput:
        return False


def _waits_for_nameplate(run: Run) -> bool:
    """A motor or cooling unit whose nameplate nobody has read may be right as it is."""
    if not isinstance(run, Circuit) or run.load_kind not in MOTOR_LIKE:
        return False
    return run.nameplate_max_a is None and run.motor_hp is None


def _by_dwelling_rule(s: Evidence, run: Run) -> bool:
    """Whether the line of a feeder is as small as only the dwelling rule allows."""
    if not isinstance(run, Feeder):
        return False
    rating = s.rating_of(run) or 0.0
    return fits_dwelling_rule(s, run, rating, carries_a(s, run, cable_column(s, run)))


def is_overfused(s: Evidence, run: Run) -> bool:
    """Whether a run's device is larger than its wires may have, all exceptions heard."""
    if (s.rating_of(run) or 0.0) <= allowed_of(s, run, cable_column(s, run)):
        return False
    return not (_is_excused(s, run) or _waits_for_nameplate(run) or _by_dwelling_rule(s, run))


AROUND = (
    "around.above_roof_in",
    "around.ambient_f",
    "around.cable_90",
    "around.carrying",
    "around.neutral_counts",
    "around.nm_together",
)
WIRE_AND_DEVICE = (
    *AROUND,
    "circuits.breaker.rating_a",
    "circuits.line_material",
    "circuits.line_size",
    "circuits.load_kind",
    "circuits.method",
    "circuits.motor_hp",
    "circuits.nameplate_max_a",
    "circuits.nameplate_mca_a",
    "circuits.poles",
    "circuits.year",
    "feeders.breaker.rating_a",
    "feeders.line_material",
    "feeders.line_size",
    "feeders.method",
    "feeders.sets",
    "feeders.year",
    "panels.kind",
    "panels.terminals_c",
    "supplies.system",
)


@check(
    "wire-breaker-mismatch",
    "fix",
    looks="A breaker is larger than its wire may have, where it runs.",
    why="The wire can overheat before the breaker opens.",
    topic="device_ampacity",
    needs=WIRE_AND_DEVICE,
)
def wire_breaker_mismatch(s: Evidence) -> Iterator[Yielded]:
    for run in protected_runs(s):
        if not is_overfused(s, run):
            yield from _on_older_cable(s, run)
            continue
        column = cable_column(s, run)
        rating, allowed = s.rating_of(run) or 0.0, allowed_of(s, run, column)
        mca = run.nameplate_mca_a if isinstance(run, Circuit) else None
        plate = f", {mca:g} A minimum by its nameplate" if mca else ""
        needed = smallest_for(s, run, rating, column)
        cable = ""
        if column == COOL_C and rating <= allowed_of(s, run, USUAL_C) and not is_corrected(run):
            cable = f" {run.method} cable is used in the 60 °C column."
        at = "" if s.protected[run.id].how is Protection.OWN else " device ahead of it"
        do, fix, parts = _smaller_or_larger(s, run, allowed, needed)
        yield s.found(
            run,
            f"{_wires(run)} on {'the ' if at else ''}{rating:g} A{at}{plate};"
            f" at most {_most(allowed)} is permitted{_there(s, run, column)}.{cable}",
            do,
            fix=fix,
            parts=parts,
            level="danger" if rating >= GROSS * allowed else None,
            authority=_ampacity_authority(s, run, cable),
            working=ampacity_of(s, run, column) if is_corrected(run) and allowed else None,
        )


def _wires(run: Run) -> str:
    sets = getattr(run, "sets", None) or 1
    return (
        f"{f'{sets} × ' if sets > 1 else ''}{name(run.line_size)} {metal_name(run.line_material)}"
    )


def _most(allowed: float) -> str:
    return f"{allowed:g} A" if allowed else "no device"


def _there(s: Evidence, run: Run, column: int) -> str:
    """Why it carries less there: heat and company."""
    if not is_corrected(run):
        return ""
    return f" where it runs ({figures(carries_a(s, run, column))} A: heat, company)"


def _smaller_or_larger(
    s: Evidence, run: Run, allowed: float, needed: str | None
) -> tuple[str, tuple[Set, ...], tuple[str, ...]]:
    """(what to do, the edits, the parts): a smaller device of its own; behind another's device the
    wire for that device."""
    wire = f"{name(needed)} wire" if needed else ""
    larger = (Set(path=f"{run.id}.line_size", value=needed),) if needed else ()
    if s.protected[run.id].how is Protection.OWN and allowed:
        return (
            f"Install a {allowed:g} A breaker{f', or {wire}' if wire else ''}.",
            (Set(path=f"{run.id}.breaker.rating_a", value=allowed),),
            (f"{allowed:g} A breaker",),
        )
    words = f"Run {wire}" if wire else "Run it cooler or with less company"
    if allowed:
        words += f", or give it a device of {allowed:g} A at its start"
    return f"{words}.", larger, (f"{run.length_ft:g} ft of {wire}",) if wire else ()


def _on_older_cable(s: Evidence, run: Run) -> Iterator[Yielded]:
    """Where it is warm or crowded, cable whose wires may be of 60 °C: read its marking."""
    base, known = base_column(s, run)
    if known or base == COOL_C or not is_corrected(run):
        return
    try:
        cool = ampacity_of(s, run, cable_column(s, run), COOL_C).number
    except BadInput:
        cool = 0.0
    rating = s.rating_of(run) or 0.0
    ceiling = next((r for r in tables.standard_ratings() if r >= cool), cool)
    if rating > ceiling and not _is_excused(s, run):
        yield s.found(
            run,
            f"{_wires(run)} on {rating:g} A, warm or crowded: right where the cable is marked 90 °C"
            f" (NM-B); with 60 °C wires it carries {figures(cool)} A there.",
            "Read the marking on the sheath: NM-B, or the year it was run.",
            level="check",
            asks=f"{run.id}.around.cable_90",
        )


def _ampacity_authority(s: Evidence, run: Run, cable: str) -> Authority:
    """240.4(D) speaks of small conductors only; NM has its own section."""
    topic = "device_ampacity"
    if is_corrected(run):
        topic = "adjustment"
    elif cable:
        topic = "nm_rating"
    elif (run.line_size, run.line_material) in tables.small_conductor_ceilings():
        topic = "small_conductor"
    return rule_authority(topic, s.edition)


@check(
    "terminal-temperature",
    "fix",
    looks="The wire would serve at 75 °C, but a terminal at one of its ends is marked 60 °C.",
    why="The terminal, not the wire, is the part that overheats.",
    topic="terminals",
    needs=(*WIRE_AND_DEVICE, "circuits.load_terminals_c"),
)
def terminal_temperature(s: Evidence) -> Iterator[Yielded]:
    for run in protected_runs(s):
        if terminals_of(s, run) != COOL_C or _is_excused(s, run):
            continue
        if cable_column(s, run) == COOL_C:
            continue
        rating, cool = s.rating_of(run) or 0.0, allowed_of(s, run, COOL_C)
        if not cool < rating <= allowed_of(s, run, USUAL_C):
            continue
        needed = smallest_for(s, run, rating, COOL_C)
        own = s.protected[run.id].how is Protection.OWN
        larger = (Set(path=f"{run.id}.line_size", value=needed),) if needed else ()
        yield s.found(
            run,
            f"{name(run.line_size)} serves {rating:g} A at 75 °C only; at these 60 °C terminals"
            f" {cool:g} A.",
            f"A {cool:g} A breaker, {name(needed) if needed else 'larger'} wire, or 75 °C"
            " terminals.",
            fix=(Set(path=f"{run.id}.breaker.rating_a", value=float(cool)),) if own else larger,
        )


@check(
    "dwelling-83-misused",
    "fix",
    looks="A feeder is sized by the dwelling rule, but does not carry the whole of one dwelling.",
    why="The smaller size is for a load that never comes all at once.",
    topic="dwelling_service",
    needs=(
        *WIRE_AND_DEVICE,
        "buildings.permit",
        "feeders.length_ft",
        "panels.unit",
    ),
)
def dwelling_83_misused(s: Evidence) -> Iterator[Yielded]:
    for feeder in protected_runs(s):
        if not isinstance(feeder, Feeder) or not _by_dwelling_rule(s, feeder):
            continue
        rating = s.rating_of(feeder) or 0.0
        column = cable_column(s, feeder)
        if rating <= allowed_of(s, feeder, column) or carries_whole_dwelling(s, feeder):
            continue
        needed = smallest_for(s, feeder, rating, column)
        yield s.found(
            feeder,
            f"{name(feeder.line_size)} {metal_name(feeder.line_material)} on {rating:g} A by the"
            " dwelling rule; this feeder carries a part of a dwelling.",
            f"Run {name(needed)}." if needed else "Run larger wire.",
            fix=(Set(path=f"{feeder.id}.line_size", value=needed),) if needed else (),
            parts=(f"{feeder.length_ft:g} ft of {name(needed)}",) if needed else (),
        )
