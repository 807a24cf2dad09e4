"""Metric rule set: additional protection by 30 mA."""

from collections.abc import Iterator

from ...site import Circuit, Set
from ...site.serves import places_of
from ..metric import (
    ADDITIONAL_MA,
    MOST_SOCKET_A,
    RCD_QUESTION,
    feeds_sockets,
    has_additional,
    is_outdoors,
    is_rcd_unknown,
    lights,
    metric_check,
    rcd_fix,
    rcds_ahead,
)
from ..registry import Evidence, Yielded
from .old_work import year_of

FAMILY = "additional protection"
SOCKETS_SINCE, LIGHTS_SINCE = 2005, 2017
BATH = ("bathroom", "tub")
POOLS = ("pool pump", "pool light", "spa")
VEHICLE = "EV"


def _in_building(s: Evidence, circuit: Circuit, *permits: str) -> bool:
    """Whether a circuit's board is in a building of one of these permit classes."""
    building = circuit.building or s.panels[circuit.panel].building
    return any(b.id == building and b.permit in permits for b in s.filled.buildings)


def _first_low(text: str) -> str:
    return text[:1].lower() + text[1:]


def _missing(s: Evidence, circuit: Circuit, what: str, year: int | None, since: int) -> Yielded:
    if is_rcd_unknown(s, circuit):
        return s.ask(circuit, f"{circuit.id}.rcd_ma", f"{what}: {_first_low(RCD_QUESTION)}")
    old = year is not None and year < since
    largest = min((r.ma for r in rcds_ahead(s, circuit)), default=None)
    has = f"its RCD is {largest:g} mA" if largest is not None else "no RCD"
    do = "An RCBO or RCD of 30 mA without delay."
    if old:
        return s.found(
            circuit,
            f"{what}, {has}: existing ({year}), may remain.",
            f"{do} It costs little.",
            level="note",
        )
    return s.found(
        circuit,
        f"{what}, {has}; 30 mA is asked for.",
        do,
        fix=rcd_fix(circuit),
        parts=("RCBO, 30 mA, type A",),
    )


@metric_check(
    "socket-without-30ma",
    "fix",
    looks="A socket-outlet circuit up to 32 A without a 30 mA RCD.",
    why="A damaged flex in a hand draws far less than any breaker sees.",
    topic="additional",
    needs=(
        "circuits.breaker.rating_a",
        "circuits.feeds",
        "circuits.gfci",
        "circuits.places",
        "circuits.rcd_delayed",
        "circuits.rcd_ma",
        "circuits.rcd_type",
        "circuits.wet",
        "circuits.year",
        "feeders.rcd_delayed",
        "feeders.rcd_ma",
        "feeders.rcd_type",
        "panels.rcd_ma",
        "practice.socket_rcd",
    ),
)
def socket_without_30ma(s: Evidence) -> Iterator[Yielded]:
    for circuit in s.filled.circuits:
        rating = circuit.breaker.rating_a or 0.0
        if not feeds_sockets(circuit) or rating > MOST_SOCKET_A or has_additional(s, circuit):
            continue
        if _special(circuit) or (s.practice.socket_rcd == "outdoors" and not is_outdoors(circuit)):
            continue
        yield _missing(s, circuit, "Socket-outlets", year_of(s, circuit), SOCKETS_SINCE)


def _special(circuit: Circuit) -> bool:
    """Whether a place of its own section asks for it: told once, there."""
    places = places_of(circuit)
    return bool({*BATH, *POOLS, VEHICLE} & set(places)) or is_outdoors(circuit)


@metric_check(
    "outdoors-without-30ma",
    "fix",
    looks="A circuit that feeds equipment outdoors without a 30 mA RCD.",
    why="On wet ground a body is a good path.",
    topic="additional",
    needs=(
        "buildings.permit",
        "buildings.wired_year",
        "circuits.breaker.rating_a",
        "circuits.gfci",
        "circuits.places",
        "circuits.rcd_delayed",
        "circuits.rcd_ma",
        "circuits.rcd_type",
        "circuits.wet",
        "circuits.year",
        "panels.rcd_ma",
    ),
)
def outdoors_without_30ma(s: Evidence) -> Iterator[Yielded]:
    for circuit in s.filled.circuits:
        if not is_outdoors(circuit) or has_additional(s, circuit):
            continue
        if {*BATH, *POOLS, VEHICLE} & set(places_of(circuit)):
            continue
        rating = circuit.breaker.rating_a or 0.0
        if rating <= MOST_SOCKET_A:
            yield _missing(s, circuit, "Outdoors", year_of(s, circuit), SOCKETS_SINCE)


@metric_check(
    "bathroom-without-30ma",
    "fix",
    looks="A circuit of a room with a bath or shower without a 30 mA RCD.",
    why="Skin is wet there, and its resistance is half.",
    topic="bathroom",
    needs=(
        "buildings.permit",
        "buildings.wired_year",
        "circuits.gfci",
        "circuits.places",
        "circuits.rcd_delayed",
        "circuits.rcd_ma",
        "circuits.rcd_type",
        "circuits.year",
        "panels.rcd_ma",
    ),
)
def bathroom_without_30ma(s: Evidence) -> Iterator[Yielded]:
    for circuit in s.filled.circuits:
        if set(BATH) & set(places_of(circuit)) and not has_additional(s, circuit):
            yield _missing(s, circuit, "Bathroom", year_of(s, circuit), SOCKETS_SINCE)


@metric_check(
    "bathroom-supplementary",
    "check",
    looks="A bathroom without 30 mA on its circuits: is there supplementary bonding?",
    why="Where nothing opens soon, all metal there must at least be at one voltage.",
    topic="supplementary",
    needs=(
        "buildings.supplementary",
        "circuits.gfci",
        "circuits.places",
        "circuits.rcd_delayed",
        "circuits.rcd_ma",
        "circuits.rcd_type",
        "panels.rcd_ma",
    ),
)
def bathroom_supplementary(s: Evidence) -> Iterator[Yielded]:
    for building in s.filled.buildings:
        bare = [
            c
            for c in s.filled.circuits
            if set(BATH) & set(places_of(c))
            and (c.building or s.panels[c.panel].building) == building.id
            and not has_additional(s, c)
            and not is_rcd_unknown(s, c)
        ]
        if not bare or building.supplementary == "yes":
            continue
        path = f"{building.id}.supplementary"
        if building.supplementary is None:
            yield s.ask(building, path, "Is all metal of the bathroom bonded together?")
        else:
            yield s.found(
                building,
                "No 30 mA RCD in the bathroom, and its metal is not bonded together.",
                "A 30 mA RCD on every circuit there, or supplementary bonding: R ≤ 50 V / Ia.",
                level="fix",
                fix=(Set(path=path, value="yes"),),
                parts=("4 mm² bonding conductor", "pipe clamps"),
            )


@metric_check(
    "lights-without-30ma",
    "check",
    looks="A lighting circuit of a dwelling without a 30 mA RCD.",
    why="Lamps are changed with the power on; the standard asks for it in dwellings since 2017.",
    topic="additional",
    needs=(
        "buildings.wired_year",
        "circuits.feeds",
        "circuits.gfci",
        "circuits.places",
        "circuits.rcd_delayed",
        "circuits.rcd_ma",
        "circuits.rcd_type",
        "circuits.wet",
        "circuits.year",
        "panels.rcd_ma",
    ),
)
def lights_without_30ma(s: Evidence) -> Iterator[Yielded]:
    for circuit in s.filled.circuits:
        if not lights(circuit) or has_additional(s, circuit) or is_outdoors(circuit):
            continue
        year = year_of(s, circuit)
        if set(BATH) & set(places_of(circuit)) or year is None or year < LIGHTS_SINCE:
            continue
        if is_rcd_unknown(s, circuit):
            yield s.ask(circuit, f"{circuit.id}.rcd_ma", RCD_QUESTION)
            continue
        yield s.found(
            circuit,
            f"Lights of a dwelling, run in {year}, without 30 mA.",
            "Ask whether it is asked for here; an RCBO of 30 mA.",
            fix=rcd_fix(circuit),
        )


@metric_check(
    "pool-without-30ma",
    "fix",
    looks="Equipment of a pool or spa without a 30 mA RCD.",
    why="A body in water has almost no resistance.",
    topic="pool",
    needs=(
        "circuits.gfci",
        "circuits.places",
        "circuits.rcd_delayed",
        "circuits.rcd_ma",
        "circuits.rcd_type",
        "panels.rcd_ma",
    ),
)
def pool_without_30ma(s: Evidence) -> Iterator[Yielded]:
    for circuit in s.filled.circuits:
        if set(POOLS) & set(places_of(circuit)) and not has_additional(s, circuit):
            yield _missing(s, circuit, "Pool or spa", None, SOCKETS_SINCE)


FARM_MOST_MA = 300.0


@metric_check(
    "farm-without-rcd",
    "fix",
    looks="A farm circuit without an RCD: 30 mA for socket-outlets, at most 300 mA for the rest.",
    why="Straw burns from a fault no breaker sees, and cattle die of a few volts.",
    topic="farm",
    needs=(
        "buildings.permit",
        "circuits.feeds",
        "circuits.gfci",
        "circuits.rcd_delayed",
        "circuits.rcd_ma",
        "circuits.rcd_type",
        "feeders.rcd_ma",
        "panels.rcd_ma",
    ),
)
def farm_without_rcd(s: Evidence) -> Iterator[Yielded]:
    for circuit in s.filled.circuits:
        if not _in_building(s, circuit, "farm"):
            continue
        ahead = rcds_ahead(s, circuit)
        if any(r.ma <= FARM_MOST_MA for r in ahead):
            continue
        if is_rcd_unknown(s, circuit):
            yield s.ask(circuit, f"{circuit.id}.rcd_ma", RCD_QUESTION)
            continue
        sockets = feeds_sockets(circuit)
        value = ADDITIONAL_MA if sockets else FARM_MOST_MA
        yield s.found(
            circuit,
            f"A farm's circuit, no RCD up to {FARM_MOST_MA:g} mA ahead.",
            f"An RCD of {value:g} mA.",
            fix=rcd_fix(circuit, value),
            parts=(f"RCD, {value:g} mA",),
        )
