"""Bonding: pipes, gas, structure, the intersystem termination, pools."""

from ... import sizing, tables
from ...site import Set
from ..registry import Evidence, check

name = tables.size_name
POOL_SIZE = sizing.pool_grid().value


@check(
    "water-bond-missing",
    "fix",
    looks="Metal water pipe is not bonded, or is cut off from its bond by a plastic repair.",
    why="A fault to the pipe makes every tap live.",
    topic="water_bond",
    needs=(
        "metals.bond_material",
        "metals.bonded",
        "metals.kind",
        "metals.material",
        "metals.past_repair",
        "metals:water",
        "services.line_material",
        "services.line_size",
        "services.sets",
    ),
)
def water_bond_missing(s: Evidence):
    for pipe in s.filled.metals:
        if pipe.kind != "water" or pipe.material in ("plastic", "none"):
            continue
        path = f"{pipe.id}.bonded"
        if pipe.past_repair == "yes":
            yield s.found(
                pipe,
                "A plastic repair cuts the metal pipe off from its bond.",
                "Bond the metal that a hand can reach; no jumper beyond the metal.",
                fix=(Set(path=f"{pipe.id}.past_repair", value="no"),),
                parts=("pipe clamp", "bonding wire"),
            )
        elif pipe.bonded is None:
            yield s.ask(pipe, path, "Is the metal water pipe bonded to the service?")
        elif pipe.bonded == "no":
            yield s.found(
                pipe,
                "The metal water pipe is not bonded.",
                "Bond it to the service within 5 ft of where it enters.",
                fix=(
                    Set(path=f"{pipe.id}.panel", value=s.at_service),
                    Set(path=path, value="yes"),
                    Set(path=f"{pipe.id}.bond_size", value=_water_size(s, pipe).value),
                ),
                parts=("pipe clamp", f"{name(_water_size(s, pipe).value)} copper"),
            )


def _water_size(s: Evidence, pipe):
    """By the service conductors, in the edition in force."""
    run = s.filled.service
    metal = pipe.bond_material or "copper"
    return sizing.water_bond(run.line_size, run.line_material, run.sets, metal, s.edition)


@check(
    "water-bond-small",
    "fix",
    looks="The bond of the water pipe is smaller than its table.",
    why="The pipe can carry the service's fault current.",
    topic="water_bond",
    needs=(
        "metals.bond_material",
        "metals.bond_size",
        "metals.bonded",
        "metals.kind",
        "services.line_material",
        "services.line_size",
        "services.sets",
    ),
)
def water_bond_small(s: Evidence):
    run = s.filled.service
    if run.line_size is None or tables.is_metric(run.line_size):
        return
    for pipe in s.filled.metals:
        if pipe.kind != "water" or pipe.bonded != "yes" or pipe.bond_size is None:
            continue
        needed = _water_size(s, pipe)
        if tables.area(pipe.bond_size) < tables.area(needed.value):
            yield s.found(
                pipe,
                f"Bonded by {name(pipe.bond_size)}; {name(needed.value)} is needed.",
                f"Run {name(needed.value)}.",
                fix=(Set(path=f"{pipe.id}.bond_size", value=needed.value),),
                parts=(f"{name(needed.value)} copper",),
                working=needed,
            )


@check(
    "gas-bond-check",
    "check",
    looks="Gas pipe whose bond nobody has seen, or is smaller than its circuit asks for.",
    why="It is bonded by the circuit that may make it live; corrugated tube asks for more.",
    topic="gas_bond",
    needs=(
        "circuits.breaker.rating_a",
        "metals.bond_material",
        "metals.bond_size",
        "metals.bonded",
        "metals.corrugated",
        "metals.kind",
        "metals.live_by",
        "metals.material",
        "metals:gas",
    ),
)
def gas_bond_check(s: Evidence):
    for pipe in s.filled.metals:
        if pipe.kind != "gas" or pipe.material in ("plastic", "none"):
            continue
        needed = _gas_size(s, pipe)
        if pipe.bonded == "yes":
            yield from _gas_small(s, pipe, needed)
            continue
        if pipe.bonded is None and needed is None:
            question = "Which circuit could make the gas pipe live: whose appliance burns gas?"
            yield s.ask(pipe, f"{pipe.id}.live_by", question)
            continue
        fix = (
            Set(path=f"{pipe.id}.panel", value=s.at_service),
            Set(path=f"{pipe.id}.bonded", value="yes"),
        )
        do = "Look for the appliance's ground wire, and for the manufacturer's bonding clamp."
        parts = ()
        if needed is not None:
            fix = (*fix, Set(path=f"{pipe.id}.bond_size", value=needed.value))
            do = f"The appliance's ground wire may serve; else bond it by {name(needed.value)}."
            parts = (f"{name(needed.value)} copper", "pipe clamp")
        yield s.found(
            pipe,
            "The gas pipe is not bonded."
            if pipe.bonded == "no"
            else "No bond of the gas pipe is known.",
            do,
            fix=fix,
            parts=parts,
            asks=f"{pipe.id}.bonded" if pipe.bonded is None else "",
            working=needed,
        )


def _gas_size(s: Evidence, pipe):
    """The bond of gas pipe, by the circuit that may make it live; None where nobody said."""
    circuit = next((c for c in s.filled.circuits if c.id == pipe.live_by), None)
    corrugated = pipe.corrugated == "yes"
    if circuit is None or circuit.breaker.rating_a is None:
        return sizing.gas_bond(None, corrugated, edition=s.edition) if corrugated else None
    return sizing.gas_bond(
        circuit.breaker.rating_a, corrugated, pipe.bond_material or "copper", s.edition
    )


def _gas_small(s: Evidence, pipe, needed):
    if needed is None or pipe.bond_size is None or tables.is_metric(pipe.bond_size):
        return
    if tables.area(pipe.bond_size) < tables.area(needed.value):
        yield s.found(
            pipe,
            f"Bonded by {name(pipe.bond_size)}; {name(needed.value)} is needed.",
            f"Run {name(needed.value)}.",
            level="fix",
            fix=(Set(path=f"{pipe.id}.bond_size", value=needed.value),),
            parts=(f"{name(needed.value)} copper",),
            working=needed,
        )


@check(
    "structure-bond-check",
    "check",
    looks="Metal structure whose bond nobody has seen.",
    why="A nail through a cable makes the whole frame live.",
    topic="structure_bond",
    needs=(
        "metals.bond_material",
        "metals.bond_size",
        "metals.bonded",
        "metals.kind",
        "metals.material",
        "metals:structure",
        "services.line_material",
        "services.line_size",
        "services.sets",
    ),
)
def structure_bond_check(s: Evidence):
    for frame in s.filled.metals:
        if frame.kind != "structure" or frame.material in ("plastic", "none"):
            continue
        needed = _structure_size(s, frame)
        size = f" {name(needed.value)}" if needed else ""
        resize = (Set(path=f"{frame.id}.bond_size", value=needed.value),) if needed else ()
        parts = (f"{name(needed.value)} copper", "clamp") if needed else ()
        small = (
            needed is not None
            and frame.bond_size is not None
            and tables.area(frame.bond_size) < tables.area(needed.value)
        )
        if frame.bonded == "yes" and small:
            yield s.found(
                frame,
                f"Bonded by {name(frame.bond_size)}; {name(needed.value)} is needed.",
                f"Run{size}.",
                level="fix",
                fix=resize,
                parts=parts,
                working=needed,
            )
        elif frame.bonded != "yes":
            yield s.found(
                frame,
                "No bond of the metal structure is known.",
                f"Bond it to the service's electrode system{' by' + size if size else ''}.",
                fix=(
                    Set(path=f"{frame.id}.panel", value=frame.panel or s.at_service),
                    Set(path=f"{frame.id}.bonded", value="yes"),
                    *resize,
                ),
                parts=parts,
                asks=f"{frame.id}.bonded" if frame.bonded is None else "",
                working=needed,
            )


def _structure_size(s: Evidence, frame):
    """By the service conductors; None where they are not known, or metric."""
    run = s.filled.service
    if run.line_size is None or tables.is_metric(run.line_size):
        return None
    material = frame.bond_material or "copper"
    return sizing.structure_bond(run.line_size, run.line_material, run.sets, material, s.edition)


@check(
    "intersystem-termination-missing",
    "fix",
    looks="There is no place where telephone, cable and dish are bonded.",
    why="In a surge the set between two earths is the way through.",
    topic="intersystem",
    needs=("panels.intersystem",),
)
def intersystem_termination_missing(s: Evidence):
    panel = s.panels[s.at_service]
    if panel.intersystem == "no":
        yield s.found(
            panel,
            "No intersystem bonding termination at the service.",
            "Fit one with three terminals.",
            fix=(Set(path=f"{panel.id}.intersystem", value="yes"),),
            parts=("intersystem bonding termination",),
        )


@check(
    "pool-bonding-missing",
    "danger",
    looks="Metal of a pool or spa is not bonded, or by less than 8 AWG solid.",
    why="A wet person between two metals feels a few volts.",
    topic="pool_bond",
    needs=("metals.bond_size", "metals.bonded", "metals.kind", "metals.material", "metals:pool"),
)
def pool_bonding_missing(s: Evidence):
    for pool in s.filled.metals:
        if pool.kind != "pool" or pool.material in ("plastic", "none"):
            continue
        small = pool.bond_size is not None and tables.area(pool.bond_size) < tables.area(POOL_SIZE)
        fix = (
            Set(path=f"{pool.id}.panel", value=pool.panel or s.at_service),
            Set(path=f"{pool.id}.bonded", value="yes"),
            Set(path=f"{pool.id}.bond_size", value=POOL_SIZE),
        )
        parts = ("8 AWG solid copper", "listed connectors")
        if pool.bonded == "no":
            words = "Its metal is not bonded together."
            do = "Bond all of it with 8 AWG solid copper."
            yield s.found(pool, words, do, fix=fix, parts=parts)
        elif small:
            words = f"Bonded by {name(pool.bond_size)}; 8 AWG solid is needed."
            yield s.found(pool, words, "Run 8 AWG solid copper.", fix=fix, parts=parts)
