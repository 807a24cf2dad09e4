"""Metric rule set: who may be given the supply's earth: outbuildings, caravans, boats, chargers."""

import re
from collections.abc import Iterator

from ... import earth, tables
from ...site import Add, Building, Circuit, Edit, Feeder, Set
from ...site.arrangement import Arrangement
from ...site.serves import places_of
from ...working import figures, show_volts
from ..finding import PRACTICE
from ..metric import arrangement, is_outdoors, metric_check
from ..registry import Evidence, Yielded
from .metric_rcds import VEHICLE

FAMILY = "exported earth"
FORBIDDEN = ("caravan", "boat")
NAMES = {"caravan": "caravans and their pitches", "boat": "boats and their berths"}
#: Above this an open PEN is felt.
FELT_V = 50.0


def open_pen_volts(s: Evidence, panel: str) -> float | None:
    """Volts of a board's protective bar against remote earth with the supply's PEN open and every
    load on; None where nothing is known of it."""
    lost = next(iter(s.study.open_neutrals.values()), None)
    return None if lost is None else lost.volts.get(f"{panel}.ground")


def _own_electrode(s: Evidence, feeder: Feeder) -> tuple[Edit, ...]:
    """The edits that give the far end its own electrode and RCD in place of the supply's earth."""
    edits = [Set(path=f"{feeder.id}.egc", value="none"), Set(path=f"{feeder.to}.bond", value="out")]
    if not any(e.panel == feeder.to for e in s.filled.electrodes):
        rod = {"panel": feeder.to, "kind": "rod", "lands": "ground bar", "gec_size": "6mm2"}
        edits.append(Add(to="electrodes", facts=rod))
    if s.panels[feeder.to].rcd_ma is None:
        edits.append(Set(path=f"{feeder.to}.rcd_ma", value=30.0))
    return tuple(edits)


def _exported(s: Evidence) -> Iterator[tuple[Building, list[Feeder], list[Circuit]]]:
    """(building, its feeders and circuits that bring it the supply's earth under TN-C-S)."""
    for building in s.filled.buildings:
        feeders = [
            f
            for f in s.filled.feeders
            if s.panels[f.to].building == building.id
            and s.other_building(f)
            and f.egc not in (None, "none")
        ]
        circuits = [
            c
            for c in s.filled.circuits
            if c.building == building.id
            and s.panels[c.panel].building != building.id
            and c.egc not in (None, "none")
        ]
        feeders = [f for f in feeders if arrangement(s, f.source) is Arrangement.TN_C_S]
        circuits = [c for c in circuits if arrangement(s, c.panel) is Arrangement.TN_C_S]
        if feeders or circuits:
            yield building, feeders, circuits


@metric_check(
    "export-forbidden",
    "fix",
    looks="The earth of a TN-C-S supply is given to a caravan, a boat or a berth.",
    why="With the PEN lost, whoever steps from wet ground onto its metal meets mains voltage.",
    topic="caravan",
    root=True,
    needs=(
        "buildings.permit",
        "circuits.building",
        "circuits.egc",
        "feeders.egc",
        "panels.rcd_ma",
        "supplies.earthing",
    ),
)
def export_forbidden(s: Evidence) -> Iterator[Yielded]:
    for building, feeders, circuits in _exported(s):
        if building.permit not in FORBIDDEN:
            continue
        volts = open_pen_volts(s, s.at_service)
        tail = f" With the PEN open its metal is at {show_volts(volts)}." if volts else ""
        fix = tuple(e for f in feeders for e in _own_electrode(s, f))
        yield s.found(
            building,
            f"The supply's earth comes along: forbidden for {NAMES[building.permit]}.{tail}",
            "Its own electrode and a 30 mA RCD; the supply's protective conductor ends before it.",
            fix=fix if not circuits else (),
            parts=("earth rod", "clamp", "RCD, 30 mA"),
        )
    yield from _forbidden_by_name(s)


#: What is on wheels or water, by the name of what feeds it; a building for it is none.
_AFLOAT = re.compile(
    r"(?i)\b(caravan|motor\s?home|camper|boat|berth|pontoon|mooring)s?\b"
    r"(?!\s*(?:house|store|shed|garage|port))"
)


def _forbidden_by_name(s: Evidence) -> Iterator[Yielded]:
    """Circuits that bring the supply's earth to what their name says is a caravan or a boat, where
    nobody said that it is a place of its own."""
    told = {b.id for b in s.filled.buildings if b.permit in FORBIDDEN}
    for circuit in s.filled.circuits:
        found = _AFLOAT.search(circuit.name or "")
        own = circuit.building in told or s.panels[circuit.panel].building in told
        if found is None or own or circuit.egc in (None, "none"):
            continue
        if arrangement(s, circuit.panel) is Arrangement.TN_C_S:
            yield s.found(
                circuit,
                f"Its name says {found[1].lower()}: the supply's earth must not come along.",
                "Its own electrode and a 30 mA RCD; or say what it feeds.",
                level="check",
                parts=("earth rod", "clamp", "RCD, 30 mA"),
            )


@metric_check(
    "export-or-own-electrode",
    "check",
    looks="An outbuilding on the earth of a TN-C-S supply: export it, or an electrode of its own?",
    why="Exported, a lost PEN puts its voltage on metal that stands on true earth; its own"
    " electrode leaves all protection to the RCD.",
    topic="export or own electrode: the electrician's choice, with both computed",
    kind=PRACTICE,
    needs=("buildings.permit", "circuits.building", "feeders.egc", "supplies.earthing", "study"),
)
def export_or_own_electrode(s: Evidence) -> Iterator[Yielded]:
    for building, feeders, circuits in _exported(s):
        if building.permit in FORBIDDEN:
            continue
        first = feeders[0] if feeders else circuits[0]
        volts = open_pen_volts(s, getattr(first, "to", None) or first.panel)
        if s.filled.circuits and volts is not None and volts <= FELT_V:
            continue  # the loads that are known leave it under what is felt
        ohm = _ohm_of(s, building)
        own = _own_figures(s, building, ohm)
        loads = "as entered" if _given(s) else "assumed"
        at = "at what its loads make of it"
        if volts and s.filled.circuits:
            at = f"at {show_volts(volts)} (loads {loads})"
        yield s.found(
            building,
            f"Exported: with the PEN open its metal is {at}. {own}",
            "Choose, and write down why; try the other way before you do.",
            fix=_own_electrode(s, feeders[0]) if len(feeders) == 1 and not circuits else (),
        )


def _ohm_of(s: Evidence, building: Building) -> float | None:
    """Ohms of the building's own electrodes side by side; None where it has none."""
    own = {p.id for p in s.filled.panels if p.building == building.id}
    each = [e.ohm for e in s.filled.electrodes if e.panel in own and e.ohm and e.joined != "no"]
    return 1 / sum(1 / ohm for ohm in each) if each else None


def _given(s: Evidence) -> bool:
    return any(c.load_va is not None for c in s.site.circuits)


def _own_figures(s: Evidence, building: Building, ohm: float | None) -> str:
    """What its own electrode would do, in words."""
    soil = s.filled.soil_ohm_m or tables.assumed_number("soil resistivity ohm-m")
    rod = earth.rod(soil, 2.4, 0.008)
    used, said = (ohm, "as entered") if ohm is not None else (rod, f"a 2.4 m rod in {soil:g} Ω·m")
    volts = 0.03 * used
    return (
        f"Its own electrode ({figures(used)} Ω, {said}) with 30 mA: at most {show_volts(volts)} on"
        f" it unseen, {figures(230 / (used + 1))} A in a fault, only the RCD opens."
    )


@metric_check(
    "vehicle-open-pen",
    "fix",
    looks="A vehicle charger outdoors on a TN-C-S supply, with nothing for a lost PEN.",
    why="A car stands on wet ground with its body on the PEN; somebody in socks opens its door.",
    topic="vehicle",
    needs=(
        "circuits.egc",
        "circuits.open_pen",
        "circuits.places",
        "supplies.earthing",
    ),
)
def vehicle_open_pen(s: Evidence) -> Iterator[Yielded]:
    for circuit in s.filled.circuits:
        if VEHICLE not in places_of(circuit) or circuit.egc in (None, "none"):
            continue
        if arrangement(s, circuit.panel) is not Arrangement.TN_C_S or _indoors(circuit):
            continue
        path = f"{circuit.id}.open_pen"
        if circuit.open_pen is None:
            yield s.ask(circuit, path, "Outdoors: what opens the charger if the PEN is lost?")
        elif circuit.open_pen == "nothing":
            volts = open_pen_volts(s, circuit.panel)
            tail = f": the car's body would be at {show_volts(volts)}" if volts else ""
            yield s.found(
                circuit,
                f"Outdoors on TN-C-S, and nothing opens it if the PEN is lost{tail}.",
                "A charger or device that opens all poles and the earth, or its own electrode.",
                fix=(Set(path=path, value="device"),),
                parts=("open-PEN device",),
            )


def _indoors(circuit: Circuit) -> bool:
    return "garage" in places_of(circuit) and not is_outdoors(circuit)


@metric_check(
    "open-pen-touch",
    "note",
    looks="What the metal of the place would be at if the PEN of the supply were lost.",
    why="The load's current then looks for earth through every bonded metal.",
    topic="what a lost PEN does",
    kind=PRACTICE,
    needs=("circuits.load_va", "supplies.earthing", "study"),
)
def open_pen_touch(s: Evidence) -> Iterator[Yielded]:
    if s.filled.supply.earthing != "TN-C-S":
        return
    volts = open_pen_volts(s, s.at_service)
    if volts is None or volts <= FELT_V:
        return
    said = "" if _given(s) else " (loads assumed)"
    yield s.found(
        s.filled.service,
        f"With the PEN lost{said}: {show_volts(volts)} on every bonded metal.",
        "Bond every service where it enters; an electrode or the foundation holds it lower.",
    )


@metric_check(
    "generator-electrode",
    "fix",
    looks="A generator that carries the place alone, without an electrode of its own.",
    why="With the distributor's earth gone there is no earth left.",
    topic="generator",
    needs=(
        "electrodes.joined",
        "electrodes.kind",
        "supplies.earthing",
        "supplies.kind",
    ),
)
def generator_electrode(s: Evidence) -> Iterator[Yielded]:
    islands = [u for u in s.filled.supplies if u.kind in ("generator", "inverter")]
    has = any(
        e.joined != "no" and e.kind is not None and s.known(f"{e.id}.kind")
        for e in s.filled.electrodes
    )
    for unit in islands:
        if has or s.filled.supply.earthing not in ("TN-C-S", "TN-S"):
            continue
        yield s.found(
            unit,
            "It can carry the place alone, and there is no electrode of the place's own.",
            "An earth electrode at the main earthing terminal.",
            fix=(
                Set(path=f"{s.filled.electrode.id}.kind", value="rod"),
                Set(path=f"{s.filled.electrode.id}.joined", value="yes"),
            ),
            parts=("earth rod", "clamp", "earthing conductor"),
        )


@metric_check(
    "island-neutral-earth",
    "danger",
    looks="A generator or inverter that runs alone with neutral and earth joined nowhere.",
    why="A fault then finds no way home, and neither RCD nor breaker sees it.",
    topic="generator",
    needs=("supplies.bond", "supplies.kind", "supplies.neutral_switched"),
)
def island_neutral_earth(s: Evidence) -> Iterator[Yielded]:
    for unit in s.filled.supplies:
        if unit.kind not in ("generator", "inverter") or unit.bond != "out":
            continue
        if unit.neutral_switched == "yes":
            yield s.found(
                unit,
                "Its neutral is switched from the distributor's, and joined to earth nowhere.",
                "Join its neutral to earth while it carries the place, and only then.",
                fix=(Set(path=f"{unit.id}.bond", value="in"),),
            )


@metric_check(
    "farm-equipotential",
    "fix",
    looks="A farm building with livestock on concrete has no equipotential plane.",
    why="A cow feels a volt between floor and trough.",
    topic="farm",
    needs=("buildings.equipotential", "buildings.permit"),
)
def farm_equipotential(s: Evidence) -> Iterator[Yielded]:
    for building in s.filled.buildings:
        if building.permit == "farm" and building.equipotential == "no":
            yield s.found(
                building,
                "No equipotential plane where animals stand.",
                "Bond mesh in the floor, stalls and pipes to the protective bar by 4 mm² copper.",
                fix=(Set(path=f"{building.id}.equipotential", value="yes"),),
                parts=("steel mesh", "4 mm² copper", "clamps"),
            )
