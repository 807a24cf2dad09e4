"""Metric rule set: the type of a residual-current device by what it feeds; arcs and surges."""

from collections.abc import Iterator

from ...site import Circuit, Set
from ...site.serves import places_of
from ..finding import PRACTICE
from ..metric import (
    ADDITIONAL_MA,
    RCD_QUESTION,
    is_rcd_unknown,
    metric_check,
    rcd_fix,
    rcds_ahead,
)
from ..registry import Evidence, Yielded
from .metric_rcds import VEHICLE
from .old_work import year_of

FAMILY = "additional protection"
ARC_ADVICE_SINCE, SURGE_SINCE = 2017, 2015
SLEEP = ("bedroom",)


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
