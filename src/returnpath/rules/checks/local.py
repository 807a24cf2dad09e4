"""Local practice: what the schools of this place ask beyond the rules."""

from ... import sizing, tables
from ...site import Set
from ...study.drop import BRANCH_ADVICE
from ..finding import LOCAL
from ..registry import Evidence, check

name = tables.size_name


@check(
    "raceway-without-wire",
    "fix",
    looks="Metal conduit alone is the return, where local practice asks for a wire in it.",
    why="Fittings loosen with the years; a wire does not.",
    topic="metal conduit: wire always",
    kind=LOCAL,
    needs=(
        "circuits.breaker.rating_a",
        "circuits.egc",
        "circuits.length_ft",
        "feeders.breaker.rating_a",
        "feeders.egc",
        "feeders.length_ft",
        "practice.metal_conduit",
    ),
)
def raceway_without_wire(s: Evidence):
    if s.practice.metal_conduit != "wire":
        return
    for run in (*s.filled.circuits, *s.filled.feeders):
        rating = run.breaker.rating_a
        if run.egc != "raceway" or rating is None:
            continue
        size = sizing.smallest_egc(rating, edition=s.edition).value
        yield s.found(
            run,
            "The conduit alone brings the fault home.",
            f"Pull {name(size)} into it.",
            fix=(
                Set(path=f"{run.id}.egc", value="both"),
                Set(path=f"{run.id}.egc_size", value=size),
            ),
            parts=(f"{run.length_ft:g} ft of {name(size)}",),
        )


@check(
    "neutral-under-lines",
    "fix",
    looks="A feeder's or service's neutral is smaller than its lines, where local practice asks"
    " for the same.",
    why="Loads change; a full neutral never has to be worked out again.",
    topic="neutral: same as lines",
    kind=LOCAL,
    needs=(
        "feeders.line_size",
        "feeders.neutral_size",
        "practice.neutral",
        "services.length_ft",
        "services.line_size",
        "services.neutral_size",
    ),
)
def neutral_under_lines(s: Evidence):
    if s.practice.neutral != "same":
        return
    for run in (*s.filled.services, *s.filled.feeders):
        path = f"{run.id}.neutral_size"
        if run.neutral_size is None or run.line_size is None or not s.known(path):
            continue
        if tables.area(run.neutral_size) < tables.area(run.line_size):
            yield s.found(
                run,
                f"Neutral {name(run.neutral_size)} beside {name(run.line_size)} lines.",
                f"Run {name(run.line_size)}.",
                fix=(Set(path=path, value=run.line_size),),
                parts=(f"{run.length_ft:g} ft of {name(run.line_size)}",),
            )


@check(
    "shared-neutral-avoided",
    "note",
    looks="A shared-neutral circuit, where local practice avoids them.",
    why="A lost neutral doubles the volts on one side.",
    topic="shared-neutral circuits: avoid",
    kind=LOCAL,
    needs=("circuits.shares_with", "practice.shared_neutral"),
)
def shared_neutral_avoided(s: Evidence):
    if s.practice.shared_neutral != "avoid":
        return
    for circuit in s.filled.circuits:
        if circuit.shares_with:
            yield s.found(circuit, "Shares its neutral.", "Two cables with a neutral each.")


@check(
    "voltage-drop",
    "note",
    looks="A circuit loses more than 3 % of its volts at its load, conductors at 75 °C.",
    why="Motors heat and lamps dim; 3 % is advice, unless local practice makes it a limit.",
    topic="voltage drop",
    kind=LOCAL,
    needs=(
        "circuits.insulation",
        "circuits.length_ft",
        "circuits.line_material",
        "circuits.line_size",
        "circuits.load_va",
        "circuits.method",
        "circuits.poles",
        "circuits.power_factor",
        "circuits.solid",
        "circuits.space",
        "practice.voltage_drop",
        "study",
        "supplies.system",
    ),
)
def voltage_drop(s: Evidence):
    level = "fix" if s.practice.voltage_drop == "limit" else None
    by_id = {c.id: c for c in s.filled.circuits}
    for drop in s.study.drops:
        circuit = by_id[drop.circuit]
        if drop.share <= BRANCH_ADVICE or not s.known(f"{circuit.id}.load_va"):
            continue
        wanted = tables.area(circuit.line_size) * drop.share / BRANCH_ADVICE
        bigger = next((z for z in tables.sizes("copper") if tables.area(z) >= wanted), None)
        fix = ()
        if bigger and circuit.line_material == "copper":
            fix = (Set(path=f"{circuit.id}.line_size", value=bigger),)
        yield s.found(
            circuit,
            f"{drop.volts:.1f} V, {drop.share * 100:.1f} % at {drop.amps:.1f} A.",
            f"{name(bigger)} would keep 3 %." if bigger else "Shorten the run.",
            fix=fix,
            level=level,
        )
