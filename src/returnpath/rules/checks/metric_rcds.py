"""Metric rule set: additional protection by 30 mA, the type of a device, arcs and surges."""

from collections.abc import Iterator

from ...site import Circuit, Set
from ...site.serves import places_of
from ..finding import PRACTICE
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
SOCKETS_SINCE, LIGHTS_SINCE, ARC_ADVICE_SINCE, SURGE_SINCE = 2005, 2017, 2017, 2015
BATH = ("bathroom", "tub")
POOLS = ("pool pump", "pool light", "spa")
SLEEP = ("bedroom",)
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


@metric_check(
    "vehicle-rcd",
    "fix",
    looks="A vehicle charger without its own 30 mA RCD that smooth d.c. does not blind.",
    why="A charger's fault can be smooth d.c.: it blinds a type A or AC device for everything.",
    topic="vehicle",
    needs=("circuits.dc_detection", "circuits.places", "circuits.rcd_ma", "circuits.rcd_type"),
)
def vehicle_rcd(s: Evidence) -> Iterator[Yielded]:
    for circuit in s.filled.circuits:
        if VEHICLE not in places_of(circuit):
            continue
        own = circuit.rcd_ma
        if own is None and is_rcd_unknown(s, circuit):
            yield s.ask(circuit, f"{circuit.id}.rcd_ma", RCD_QUESTION)
        elif own is None or own > ADDITIONAL_MA:
            yield s.found(
                circuit,
                "A charger without its own 30 mA RCD.",
                "Its own RCD of 30 mA, type B, or type A with 6 mA d.c. detection in the charger.",
                fix=(*rcd_fix(circuit), Set(path=f"{circuit.id}.rcd_type", value="B")),
                parts=("RCBO, 30 mA, type B",),
            )
        elif circuit.rcd_type is None:
            yield s.ask(circuit, f"{circuit.id}.rcd_type", "Which type is the charger's RCD?")
        elif circuit.rcd_type != "B":
            path = f"{circuit.id}.dc_detection"
            if circuit.rcd_type != "AC" and circuit.dc_detection is None:
                yield s.ask(circuit, path, "Does the charger itself detect 6 mA d.c.?")
            elif circuit.rcd_type == "AC" or circuit.dc_detection == "no":
                yield s.found(
                    circuit,
                    f"Type {circuit.rcd_type}"
                    f"{', and no 6 mA d.c. detection' if circuit.rcd_type != 'AC' else ''}.",
                    "Type B, or type A with 6 mA d.c. detection in the charger.",
                    fix=(Set(path=f"{circuit.id}.rcd_type", value="B"),),
                    parts=("RCD, 30 mA, type B",),
                )


@metric_check(
    "rcd-type-ac",
    "check",
    looks="A type AC device, which sees plain a.c. only.",
    why="Most loads of today rectify: a pulsing fault passes it by.",
    topic="rcd_type",
    needs=(
        "circuits.places",
        "circuits.rcd_ma",
        "circuits.rcd_type",
        "feeders.rcd_ma",
        "feeders.rcd_type",
        "panels.rcd_ma",
        "panels.rcd_type",
    ),
)
def rcd_type_ac(s: Evidence) -> Iterator[Yielded]:
    for element in (*s.filled.panels, *s.filled.feeders, *s.filled.circuits):
        if element.rcd_ma is None or element.rcd_type != "AC":
            continue
        if isinstance(element, Circuit) and VEHICLE in places_of(element):
            continue
        yield s.found(
            element,
            f"{element.rcd_ma:g} mA, type AC.",
            "Type A where electronics hang on it; type F or B where the manufacturer asks for it.",
            fix=(Set(path=f"{element.id}.rcd_type", value="A"),),
            parts=("RCD, type A",),
        )


@metric_check(
    "solar-rcd-type",
    "check",
    looks="A string inverter without a transformer behind an RCD that is not type B.",
    why="A d.c. fault passes the inverter and blinds other types.",
    topic="solar",
    needs=(
        "arrays.circuit",
        "arrays.inverter",
        "circuits.rcd_delayed",
        "circuits.rcd_ma",
        "circuits.rcd_type",
        "panels.rcd_ma",
    ),
)
def solar_rcd_type(s: Evidence) -> Iterator[Yielded]:
    by_id = {c.id: c for c in s.filled.circuits}
    for array in s.filled.arrays:
        circuit = by_id.get(array.circuit or "")
        if circuit is None or array.inverter != "string":
            continue
        wrong = [r for r in rcds_ahead(s, circuit) if r.type != "B"]
        if not wrong:
            continue
        yield s.found(
            array,
            f"No transformer, and {wrong[0].ma:g} mA"
            f"{' type ' + wrong[0].type if wrong[0].type else ' of a type not said'} ahead of it.",
            "Type B, unless the manufacturer says in writing that no d.c. fault can pass.",
            fix=tuple(Set(path=f"{r.element}.rcd_type", value="B") for r in wrong),
        )


@metric_check(
    "arc-detection-advised",
    "note",
    looks="A bedroom circuit of a new dwelling without arc detection.",
    why="A loose joint glows for hours; the standard advises detection where people sleep.",
    topic="arcs",
    kind=PRACTICE,
    needs=(
        "buildings.permit",
        "buildings.wired_year",
        "circuits.afci",
        "circuits.places",
        "circuits.year",
    ),
)
def arc_detection_advised(s: Evidence) -> Iterator[Yielded]:
    for circuit in s.filled.circuits:
        year = year_of(s, circuit)
        if circuit.afci != "no" or year is None or year < ARC_ADVICE_SINCE:
            continue
        if set(SLEEP) & set(places_of(circuit)):
            yield s.found(
                circuit,
                "Where people sleep, without arc detection.",
                "Consider an arc fault detection device.",
                fix=(Set(path=f"{circuit.id}.afci", value="yes"),),
            )


@metric_check(
    "surge-protection-missing",
    "check",
    looks="A board at the origin of a new installation without a surge protective device.",
    why="A stroke on the line a mile off ends electronics and may start a fire.",
    topic="surge",
    needs=("buildings.wired_year", "panels.surge_protector"),
)
def surge_protection_missing(s: Evidence) -> Iterator[Yielded]:
    panel = s.panels[s.at_service]
    years = [b.wired_year for b in s.filled.buildings if b.id == panel.building and b.wired_year]
    if panel.surge_protector == "no" and years and max(years) >= SURGE_SINCE:
        yield s.found(
            panel,
            f"Wired in {max(years)}, no surge protective device at the origin.",
            "Fit one, its leads under half a metre together.",
            fix=(Set(path=f"{panel.id}.surge_protector", value="yes"),),
            parts=("surge protective device, type 2",),
        )
