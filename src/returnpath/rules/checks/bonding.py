"""Bonding: pipes, gas, structure, the intersystem termination, pools."""

from ... import sizing, tables
from ...site import Metal, Set
from ...working import Working
from ..finding import MAKER, Authority
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
        "feeders.breaker.rating_a",
        "feeders.line_material",
        "feeders.line_size",
        "feeders.sets",
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
                    Set(path=f"{pipe.id}.panel", value=pipe.panel or s.at_service),
                    Set(path=path, value="yes"),
                    *_sized(s, pipe),
                ),
                parts=("pipe clamp", *_copper(s, pipe)),
            )


def _copper(s: Evidence, pipe) -> tuple[str, ...]:
    needed = water_bond_needed(s, pipe)
    return (f"{name(needed.value)} copper",) if needed else ()


def _sized(s: Evidence, pipe) -> tuple[Set, ...]:
    """The edit that gives its bond the least size, where the tables have one."""
    needed = water_bond_needed(s, pipe)
    return (Set(path=f"{pipe.id}.bond_size", value=needed.value),) if needed else ()


#: Another building's bonds: the electrode table by its feeder before, the EGC table since.
BUILDING_BOND_SINCE = 2014


def _building_feeder(s: Evidence, metal):
    """The feeder of the other building that a metal is bonded in; None in the service's own."""
    panel = metal.panel
    while panel in s.feeder_to:
        feeder = s.feeder_to[panel]
        if s.other_building(feeder):
            return feeder
        panel = feeder.source
    return None


def water_bond_needed(s: Evidence, pipe: Metal) -> Working | None:
    """By the service conductors; in another building by its feeder. None where not known."""
    metal = pipe.bond_material or "copper"
    feeder = _building_feeder(s, pipe)
    if feeder is not None:
        return _by_feeder(s, feeder, metal)
    run = s.filled.service
    if run.line_size is None or tables.is_metric(run.line_size):
        return None
    return sizing.water_bond(run.line_size, run.line_material, run.sets, metal, s.edition)


def _by_feeder(s: Evidence, feeder, metal: str):
    """The bond of pipe or structure in a building that a feeder serves (250.104(A)(3), (C))."""
    size, rating = feeder.line_size, feeder.breaker.rating_a
    if size is None or tables.is_metric(size) or rating is None:
        return None
    if s.edition < BUILDING_BOND_SINCE:
        return sizing.building_gec(size, feeder.line_material, feeder.sets, edition=s.edition)
    return sizing.smallest_egc(rating, material=metal, edition=s.edition)


@check(
    "water-bond-small",
    "fix",
    looks="The bond of the water pipe is smaller than its table.",
    why="The pipe can carry the service's fault current.",
    topic="water_bond",
    needs=(
        "feeders.breaker.rating_a",
        "feeders.line_material",
        "feeders.line_size",
        "feeders.sets",
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
    for pipe in s.filled.metals:
        if pipe.kind != "water" or pipe.bonded != "yes" or pipe.bond_size is None:
            continue
        needed = water_bond_needed(s, pipe)
        if needed is None or tables.is_metric(pipe.bond_size):
            continue
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
    why="It is bonded by the circuit that may make it live; CSST asks for more.",
    topic="gas_bond",
    needs=(
        "circuits.egc",
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
        tube = pipe.corrugated in CSST
        needed = _gas_size(s, pipe)
        if pipe.bonded == "yes":
            yield from _gas_small(s, pipe, needed)
        elif tube and pipe.bonded == "no":
            yield _tube_unbonded(s, pipe, needed)
        elif pipe.bonded is None and needed is None:
            question = "Which circuit could make the gas pipe live: whose appliance burns gas?"
            yield s.ask(pipe, f"{pipe.id}.live_by", question)
        elif pipe.bonded is None:
            yield s.ask(pipe, f"{pipe.id}.bonded", "Is the gas piping bonded, and by what?")
        else:
            yield _pipe_unbonded(s, pipe, needed)


CSST = ("yes", "arc-resistant")


def _bond_edits(s: Evidence, pipe, needed) -> tuple[Set, ...]:
    size = (Set(path=f"{pipe.id}.bond_size", value=needed.value),) if needed else ()
    return (
        Set(path=f"{pipe.id}.panel", value=pipe.panel or s.at_service),
        Set(path=f"{pipe.id}.bonded", value="yes"),
        *size,
    )


def _tube_unbonded(s: Evidence, pipe, needed):
    """CSST: the appliance's EGC does not serve."""
    own = pipe.corrugated == "arc-resistant"
    do = "Bond it as its manufacturer says: listed arc-resistant kinds by their own instructions."
    if not own:
        do = (
            "Bond it directly by 6 AWG copper, clamped to rigid pipe or its brass fitting, to the"
            " electrode system (manufacturer and NFPA 54); the appliance's EGC does not serve."
        )
    return s.found(
        pipe,
        "CSST that is not bonded.",
        do,
        level="check" if own else "fix",
        fix=_bond_edits(s, pipe, needed),
        parts=("6 AWG copper", "clamp listed for gas pipe"),
        working=needed,
        authority=Authority(MAKER, "CSST instructions and NFPA 54"),
    )


def _pipe_unbonded(s: Evidence, pipe, needed):
    """Rigid pipe: the EGC of the appliance that burns gas may serve."""
    by = next((c for c in s.filled.circuits if c.id == pipe.live_by), None)
    serves = by is not None and by.egc in ("wire", "raceway", "both")
    size = f"; else bond it by {name(needed.value)}" if needed else ""
    return s.found(
        pipe,
        "The gas piping has no bond of its own.",
        f"The EGC of {by.name or 'that circuit'} serves where its appliance is connected to the"
        " pipe: look."
        if serves
        else f"The EGC of the appliance's circuit may serve{size}.",
        level="note" if serves else None,
        fix=() if serves else _bond_edits(s, pipe, needed),
        parts=() if serves or not needed else (f"{name(needed.value)} copper", "pipe clamp"),
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
            authority=Authority(MAKER, "CSST instructions and NFPA 54")
            if pipe.corrugated == "yes"
            else None,
        )


@check(
    "structure-bond-check",
    "check",
    looks="Metal structure whose bond nobody has seen.",
    why="A nail through a cable makes the whole frame live.",
    topic="structure_bond",
    needs=(
        "feeders.breaker.rating_a",
        "feeders.line_material",
        "feeders.line_size",
        "feeders.sets",
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
            known = frame.bonded == "no"
            yield s.found(
                frame,
                "The metal structure is not bonded."
                if known
                else "No bond of the metal structure is known.",
                f"Bond it to the service's electrode system{' by' + size if size else ''}.",
                fix=(
                    Set(path=f"{frame.id}.panel", value=frame.panel or s.at_service),
                    Set(path=f"{frame.id}.bonded", value="yes"),
                    *resize,
                ),
                parts=parts,
                level="fix" if known else None,
                asks=f"{frame.id}.bonded" if frame.bonded is None else "",
                working=needed,
            )


def _structure_size(s: Evidence, frame):
    """As the water pipe of its building; None where that is not known."""
    return water_bond_needed(s, frame)


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
            "Install one with three terminals; where nothing of the kind can be expected, say so"
            " (250.94, exceptions).",
            fix=(Set(path=f"{panel.id}.intersystem", value="yes"),),
            parts=("intersystem bonding termination",),
        )


@check(
    "pool-bonding-missing",
    "danger",
    looks="Metal of a pool or spa is not bonded, or by less than 8 AWG solid.",
    why="A wet person between two metals feels a few volts.",
    topic="pool_bond",
    needs=(
        "metals.bond_size",
        "metals.bonded",
        "metals.kind",
        "metals.material",
        "metals.perimeter_bonded",
        "metals.water_bonded",
        "metals:pool",
    ),
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
            yield s.found(pool, words, "Run 8 AWG solid copper.", fix=fix, parts=parts, level="fix")
        for fact, words in (("water_bonded", "water"), ("perimeter_bonded", "perimeter surface")):
            if getattr(pool, fact) == "no":
                yield s.found(
                    pool,
                    f"The {words} of the pool is not bonded.",
                    POOL_PARTS[fact],
                    level="fix",
                    fix=(Set(path=f"{pool.id}.{fact}", value="yes"),),
                    parts=("8 AWG solid copper",),
                )


POOL_PARTS = {
    "water_bonded": "A listed fitting of 9 sq in in contact with the water, bonded by 8 AWG.",
    "perimeter_bonded": "8 AWG solid copper or bonded steel, 3 ft around the pool.",
}
