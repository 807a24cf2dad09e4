"""Loads against what feeds them: device and wire, what lasts for hours, motors, inverters."""

from collections.abc import Iterator

from ... import sizing, tables
from ...errors import BadInput
from ...site import Circuit, Set
from ...sizing.motors import full_load_a, largest_motor_device, motor_wire_a
from ...working import figures
from ..carrying import (
    CONTINUOUS,
    LASTING,
    cable_column,
    carries_a,
    continuous_kind,
    load_amps,
    motor_volts,
    next_standard,
    smallest_carrying,
    smallest_for,
    terminals_of,
)
from ..registry import Evidence, Yielded, check, rule_authority
from .wires import AROUND

FAMILY = "conductors"
name = tables.size_name
#: One appliance with no marked device: 150 % of its current, the next rating up, from 13.3 A.
APPLIANCE_SHARE, APPLIANCE_FROM_A = 1.5, 13.3
CHARGER_SHARE = 0.8  # of its breaker: what a charger may draw
ROUNDING_A = 0.05

CIRCUIT_FACTS = (
    *AROUND,
    "circuits.breaker.rating_a",
    "circuits.continuous",
    "circuits.line_material",
    "circuits.line_size",
    "circuits.load_kind",
    "circuits.load_terminals_c",
    "circuits.load_va",
    "circuits.managed",
    "circuits.method",
    "circuits.poles",
    "circuits.year",
    "panels.terminals_c",
    "supplies.system",
)


def _sized(s: Evidence) -> Iterator[tuple[Circuit, float, float]]:
    """(circuit, its device, what its wire carries at its terminals, A) of what is known."""
    for circuit in s.filled.circuits:
        rating, size = s.rating_of(circuit), circuit.line_size
        if rating is None or size is None or tables.is_metric(size):
            continue
        if not s.known(f"{circuit.id}.line_size"):
            size = None
        column = min(cable_column(s, circuit), terminals_of(s, circuit))
        yield circuit, rating, carries_a(s, circuit, column) if size else float("inf")


def _larger(s: Evidence, circuit: Circuit, amps: float) -> tuple[str, tuple[Set, ...]]:
    """(the wire that carries so much, the edit)."""
    column = min(cable_column(s, circuit), terminals_of(s, circuit))
    needed = smallest_carrying(s, circuit, amps, column)
    if needed is None:
        return "larger wire", ()
    return f"{name(needed)} wire", (Set(path=f"{circuit.id}.line_size", value=needed),)


@check(
    "continuous-load-over",
    "fix",
    looks="A load that lasts for hours on a breaker or a wire with less than 125 % of it.",
    why="Breakers and terminals run hot under a load that lasts for hours.",
    topic="continuous",
    needs=CIRCUIT_FACTS,
)
def continuous_load_over(s: Evidence) -> Iterator[Yielded]:
    for circuit, rating, carries in _sized(s):
        kind, amps = continuous_kind(circuit), load_amps(s, circuit)
        if kind is None:
            continue
        if amps is None:
            yield from _unknown_charger(s, circuit, rating, carries, kind)
            continue
        needed = amps * CONTINUOUS
        what = f"{figures(amps)} A for hours{f' ({kind})' if kind != LASTING else ''}"
        if needed > rating + ROUNDING_A:
            yield s.found(
                circuit,
                f"{what} on {rating:g} A; {figures(needed)} A is needed.",
                "A larger breaker and wire, or set the equipment lower.",
            )
        elif needed > carries + ROUNDING_A:
            wire, fix = _larger(s, circuit, needed)
            yield s.found(
                circuit,
                f"{what} on {name(circuit.line_size)} {circuit.method or ''} that carries"
                f" {figures(carries)} A; {figures(needed)} A is needed.",
                f"Run {wire}, or set the equipment lower.",
                fix=fix,
                parts=(wire,),
            )


def _unknown_charger(
    s: Evidence, circuit: Circuit, rating: float, carries: float, kind: str
) -> Iterator[Yielded]:
    """A charger or inverter whose output nobody read, on a wire that the next rating up saved."""
    if kind not in ("vehicle charger", "inverter output") or carries >= rating:
        return
    most = carries / CONTINUOUS
    yield s.found(
        circuit,
        f"{name(circuit.line_size)} carries {figures(carries)} A behind {rating:g} A: right for"
        f" {figures(most)} A for hours; one set to {figures(CHARGER_SHARE * rating)} A is over it.",
        "Read its output, or what it is set to, and enter it.",
        level="check",
        asks=f"{circuit.id}.load_va",
    )


@check(
    "load-over-circuit",
    "fix",
    looks="A load that somebody gave is more than its breaker or its wire carries.",
    why="The breaker trips in use; or the wire is warm all day.",
    topic="load_device",
    needs=CIRCUIT_FACTS,
)
def load_over_circuit(s: Evidence) -> Iterator[Yielded]:
    for circuit, rating, carries in _sized(s):
        amps = load_amps(s, circuit)
        if amps is None or continuous_kind(circuit) or circuit.managed == "yes":
            continue
        if circuit.load_kind in ("motor", "cooling"):
            continue  # by its plate or its horsepower
        if amps > rating + ROUNDING_A:
            yield s.found(
                circuit,
                f"{figures(amps)} A of load on {rating:g} A.",
                "A larger breaker and wire, or less load on it.",
            )
        elif amps > carries + ROUNDING_A:
            wire, fix = _larger(s, circuit, amps)
            yield s.found(
                circuit,
                f"{figures(amps)} A of load on {name(circuit.line_size)} that carries"
                f" {figures(carries)} A.",
                f"Run {wire}.",
                fix=fix,
                parts=(wire,),
            )


@check(
    "appliance-breaker-over",
    "fix",
    looks="The breaker of one heating appliance is over 150 % of its current.",
    why="Its parts are made for no more; a fault in it burns before that breaker opens.",
    topic="appliance_device",
    needs=(
        "circuits.breaker.rating_a",
        "circuits.load_kind",
        "circuits.load_va",
        "circuits.nameplate_max_a",
        "circuits.poles",
        "supplies.system",
    ),
)
def appliance_breaker_over(s: Evidence) -> Iterator[Yielded]:
    for circuit in s.filled.circuits:
        rating, amps = s.rating_of(circuit), load_amps(s, circuit)
        if circuit.load_kind != "water heater" or rating is None or amps is None:
            continue
        if s.is_metric or circuit.nameplate_max_a is not None or amps <= APPLIANCE_FROM_A:
            continue
        most = next_standard(APPLIANCE_SHARE * amps)
        if rating > most:
            yield s.found(
                circuit,
                f"{rating:g} A ahead of one appliance of {figures(amps)} A; at most {most:g} A"
                " unless its plate says more.",
                f"Install a {most:g} A breaker.",
                fix=(Set(path=f"{circuit.id}.breaker.rating_a", value=most),),
                parts=(f"{most:g} A breaker",),
            )


@check(
    "motor-circuit",
    "fix",
    looks="A motor's wire is under 125 % of its table current or its plate's minimum, or its device"
    " over what the table allows.",
    why="A motor draws its full current for hours, and six times as much when it starts.",
    topic="motor_wire",
    needs=(
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
        "panels.terminals_c",
        "circuits.load_terminals_c",
        "supplies.system",
    ),
)
def motor_circuit(s: Evidence) -> Iterator[Yielded]:
    for circuit, rating, carries in _sized(s):
        yield from _under_its_plate(s, circuit, carries)
        if circuit.motor_hp is None or circuit.load_kind == "cooling":
            continue
        volts = motor_volts(s, circuit)
        try:
            amps = full_load_a(circuit.motor_hp, volts)
        except BadInput as error:
            yield s.found(circuit, error.sentence, "Read its nameplate and enter it.",
                          level="check", asks=f"{circuit.id}.nameplate_mca_a")  # fmt: skip
            continue
        least = motor_wire_a(circuit.motor_hp, volts)
        motor = f"{circuit.motor_hp:g} hp at {volts:g} V: {figures(amps)} A by the table"
        if carries + ROUNDING_A < least.number:
            wire, fix = _larger(s, circuit, least.number)
            yield s.found(
                circuit,
                f"{motor}; {name(circuit.line_size)} carries {figures(carries)} A,"
                f" {figures(least.number)} A is needed.",
                f"Run {wire}.",
                fix=fix,
                parts=(wire,),
                working=least,
            )
        most = largest_motor_device(circuit.motor_hp, volts)
        if circuit.nameplate_max_a is None and rating > most.number:
            yield s.found(
                circuit,
                f"{motor}; {rating:g} A ahead of it, at most {most.number:g} A.",
                f"Install a {most.number:g} A breaker.",
                fix=(Set(path=f"{circuit.id}.breaker.rating_a", value=most.number),),
                parts=(f"{most.number:g} A breaker",),
                working=most,
            )


def _under_its_plate(s: Evidence, circuit: Circuit, carries: float) -> Iterator[Yielded]:
    """The marked minimum circuit ampacity: its 125 % is in it already (440.4(B))."""
    least = circuit.nameplate_mca_a
    if least is None or carries + ROUNDING_A >= least:
        return
    wire, fix = _larger(s, circuit, least)
    yield s.found(
        circuit,
        f"Its nameplate asks a minimum circuit ampacity of {least:g} A;"
        f" {name(circuit.line_size)} carries {figures(carries)} A.",
        f"Run {wire}.",
        fix=fix,
        parts=(wire,),
        authority=rule_authority("nameplate", s.edition),
    )


@check(
    "inverter-circuit-small",
    "fix",
    looks="The breaker or the wire of an inverter's output is under 125 % of it.",
    why="It gives its full current for hours on a bright day.",
    topic="inverter_output",
    needs=(
        *AROUND,
        "arrays.ac_a",
        "arrays.circuit",
        "circuits.egc",
        "circuits.egc_size",
        "circuits.breaker.rating_a",
        "circuits.line_material",
        "circuits.line_size",
        "circuits.load_terminals_c",
        "circuits.method",
        "circuits.year",
        "panels.terminals_c",
    ),
)
def inverter_circuit_small(s: Evidence) -> Iterator[Yielded]:
    known = {c.id: (c, rating, carries) for c, rating, carries in _sized(s)}
    for array in s.filled.arrays:
        if array.circuit not in known or not array.ac_a:
            continue
        circuit, rating, carries = known[array.circuit]
        needed = CONTINUOUS * array.ac_a
        if needed <= min(rating, carries) + ROUNDING_A:
            continue
        fits = next_standard(needed)
        wire, fix = _larger(s, circuit, needed)
        over = needed > rating + ROUNDING_A
        edits = _for_device(s, circuit, fits, fix) if over else fix
        what = f"{rating:g} A" if over else f"wire that carries {figures(carries)} A"
        yield s.found(
            circuit,
            f"The inverter gives {figures(array.ac_a)} A for hours on {what}; {figures(needed)} A"
            " is needed.",
            f"A {fits:g} A breaker, and wire for it." if over else f"Run {wire}.",
            fix=edits,
            parts=(f"{fits:g} A breaker",) if over else (wire,),
        )


def _for_device(
    s: Evidence, circuit: Circuit, rating: float, larger: tuple[Set, ...]
) -> tuple[Set, ...]:
    """The edits of a larger device: itself, its wire, its EGC."""
    column = min(cable_column(s, circuit), terminals_of(s, circuit))
    size = smallest_for(s, circuit, rating, column)
    size = max((z for z in (size, *_sizes(larger)) if z), key=tables.area, default=None)
    edits = [Set(path=f"{circuit.id}.breaker.rating_a", value=rating)]
    if size and tables.area(size) > tables.area(str(circuit.line_size)):
        edits.append(Set(path=f"{circuit.id}.line_size", value=size))
    if circuit.egc in ("wire", "both"):
        least = str(sizing.smallest_egc(rating, edition=s.edition).value)
        if circuit.egc_size and tables.area(least) > tables.area(circuit.egc_size):
            edits.append(Set(path=f"{circuit.id}.egc_size", value=least))
    return tuple(edits)


def _sizes(edits: tuple[Set, ...]) -> tuple[str, ...]:
    """The sizes that edits set."""
    return tuple(str(e.model_dump()["value"]) for e in edits)
