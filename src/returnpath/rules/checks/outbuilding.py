"""Outbuilding: one supply, electrodes, four wires or the five conditions of three."""

from ... import sizing, tables
from ...site import Set
from ...working import figures
from ..registry import Evidence, check
from .electrodes import two_rods
from .neutral import neutral_amps

FOUR_WIRES_SINCE = 2008


def fed_from_outside(s: Evidence):
    """(building, [feeders from another building], [circuits from another building])."""
    for building in s.filled.buildings:
        own = {p.id for p in s.filled.panels if p.building == building.id}
        feeders = [f for f in s.filled.feeders if f.to in own and f.source not in own]
        circuits = [
            c for c in s.filled.circuits if c.building == building.id and c.panel not in own
        ]
        services = [r for r in s.filled.services if r.to in own]
        if not services and (feeders or circuits):
            yield building, feeders, circuits


def _supplies(circuits) -> int:
    """Circuits as supplies: a shared-neutral pair counts as one."""
    ids = {c.id for c in circuits}
    pairs = sum(1 for c in circuits if c.shares_with in ids)
    return len(circuits) - pairs


@check(
    "more-than-one-supply",
    "fix",
    looks="A building is fed by more than one feeder or branch circuit.",
    why="Whoever opens one supply believes the building dead.",
    topic="one_supply",
    needs=("circuits.shares_with",),
)
def more_than_one_supply(s: Evidence):
    for building, feeders, circuits in fed_from_outside(s):
        count = len(feeders) + _supplies(circuits)
        if count > 1:
            yield s.found(
                building,
                f"{count} supplies: {len(feeders)} feeders, {len(circuits)} circuits.",
                "One feeder to a panel there, and the circuits from it.",
                parts=("panel", "feeder"),
            )


@check(
    "electrode-required",
    "fix",
    looks="A building fed by a feeder has no electrode.",
    why="A surge on the line needs a way to earth at each building.",
    topic="building_electrode",
    needs=("circuits.egc", "electrodes.joined", "feeders.egc"),
)
def electrode_required(s: Evidence):
    for building, feeders, circuits in fed_from_outside(s):
        own = {p.id for p in s.filled.panels if p.building == building.id}
        needs = bool(feeders) or any(c.egc == "none" for c in circuits)
        if needs and not any(e.panel in own and e.joined != "no" for e in s.filled.electrodes):
            yield s.found(
                building,
                "No electrode here.",
                "Two rods, 6 ft apart, to the building's ground bar.",
                fix=two_rods(min(own), "ground bar") if own else (),
                parts=("two 8 ft ground rods", "two clamps", "6 AWG copper"),
            )


@check(
    "electrode-not-required",
    "note",
    looks="A building on one branch circuit with a ground wire needs no electrode.",
    why="The circuit's ground wire does all that is needed there.",
    topic="building_electrode",
    needs=("circuits.egc", "circuits.shares_with"),
)
def electrode_not_required(s: Evidence):
    for building, feeders, circuits in fed_from_outside(s):
        grounded = all(c.egc in ("wire", "raceway", "both") for c in circuits)
        if not feeders and _supplies(circuits) == 1 and grounded:
            yield s.found(
                building, "One branch circuit with a ground wire: no electrode is needed.",
                "Leave it so; a panel here would change it.",
            )  # fmt: skip


def _three_wire(s: Evidence):
    """Feeders to another building without a ground wire."""
    for feeder in s.filled.feeders:
        if feeder.egc == "none" and s.other_building(feeder):
            yield feeder


@check(
    "three-wire-new",
    "fix",
    looks="A feeder to another building, run since four wires are asked for, has three.",
    why="The neutral's current shares every metal way between the buildings.",
    topic="building_feed",
    needs=("feeders.breaker.rating_a", "feeders.egc", "feeders.length_ft", "feeders.year"),
)
def three_wire_new(s: Evidence):
    for feeder in _three_wire(s):
        if feeder.year is None:
            yield s.ask(feeder, f"{feeder.id}.year", "When was this three-wire feeder run?")
        elif feeder.year >= FOUR_WIRES_SINCE:
            size = sizing.smallest_egc(feeder.breaker.rating_a or 60, edition=s.edition).value
            panel = s.panels[feeder.to]
            yield s.found(
                feeder,
                f"Run in {feeder.year} with three wires; four have been asked for since 2008.",
                f"Run {tables.size_name(size)} with it, and take the bond out over there.",
                fix=(
                    Set(path=f"{feeder.id}.egc", value="wire"),
                    Set(path=f"{feeder.id}.egc_size", value=size),
                    Set(path=f"{panel.id}.bond", value="out"),
                ),
                parts=(f"{feeder.length_ft:g} ft of {tables.size_name(size)}",),
            )


@check(
    "three-wire-existing",
    "fix",
    looks="An old three-wire feeder to another building breaks one of its five conditions.",
    why="It may stay only where nothing but the neutral joins the buildings.",
    topic="building_feed",
    needs=(
        "circuits.load_kind",
        "circuits.load_va",
        "circuits.neutral",
        "feeders.breaker.rating_a",
        "feeders.egc",
        "feeders.ground_fault_protected",
        "feeders.length_ft",
        "feeders.line_material",
        "feeders.neutral_size",
        "feeders.year",
        "metals.also_joins",
        "panels.bond",
        "panels.terminals_c",
    ),
)
def three_wire_existing(s: Evidence):
    for feeder in _three_wire(s):
        if feeder.year is None or feeder.year >= FOUR_WIRES_SINCE:
            continue
        broken, asked = _conditions(s, feeder)
        if asked:
            path, question = asked[0]
            yield s.ask(feeder, path, question)
        if broken:
            size = sizing.smallest_egc(feeder.breaker.rating_a or 60, edition=s.edition).value
            yield s.found(
                feeder,
                f"Three wires since {feeder.year}: {'; '.join(broken)}.",
                "Run a fourth wire and take the bond out over there.",
                fix=(
                    Set(path=f"{feeder.id}.egc", value="wire"),
                    Set(path=f"{feeder.id}.egc_size", value=size),
                    Set(path=f"{feeder.to}.bond", value="out"),
                ),
                parts=(f"{feeder.length_ft:g} ft of {tables.size_name(size)}",),
            )
        elif not asked:
            yield s.found(
                feeder,
                f"Three wires since {feeder.year}; its five conditions hold.",
                "It may stay; any change of it ends that.",
                level="note",
            )


def _conditions(s: Evidence, feeder) -> tuple[list[str], list[tuple[str, str]]]:
    """(what is broken, what must be asked) of the five conditions."""
    broken, asked = [], []
    own = s.panels[feeder.to].building
    for metal in s.filled.metals:
        if metal.also_joins and s.panels[metal.also_joins].building == own:
            broken.append(f"{metal.name or 'metal'} joins the buildings")
    if feeder.ground_fault_protected == "yes":
        broken.append("ground-fault protection is upstream")
    elif feeder.ground_fault_protected is None:
        asked.append(
            (f"{feeder.id}.ground_fault_protected", "Is there ground-fault protection upstream?")
        )
    if s.panels[feeder.to].bond == "out":
        broken.append("the neutral is not bonded at the far panel")
    rating, size = feeder.breaker.rating_a, feeder.neutral_size
    if rating is not None and size is not None and s.known(f"{feeder.id}.neutral_size"):
        least = sizing.smallest_egc(rating, material=feeder.line_material, edition=s.edition).value
        amps = neutral_amps(s, feeder.to)
        carries = sizing.ampacity(size, feeder.line_material, s.filled.panel.terminals_c)
        if tables.area(size) < tables.area(least):
            broken.append(f"its neutral {tables.size_name(size)} is under {least} as a ground wire")
        if amps > carries:
            broken.append(f"its neutral carries {figures(amps)} A on {figures(carries)} A")
    return broken, asked


@check(
    "bonded-with-egc",
    "danger",
    looks="Another building's panel joins neutral and ground although a ground wire comes along.",
    why="The load's current comes home on the ground wire and every metal way besides.",
    topic="building_feed",
    needs=("feeders.egc", "panels.bond", "study"),
)
def bonded_with_egc(s: Evidence):
    for feeder in s.filled.feeders:
        panel = s.panels[feeder.to]
        has_ground = feeder.egc in ("wire", "raceway", "both")
        if panel.bond == "in" and has_ground and s.other_building(feeder):
            amps = s.load_amps(f"{feeder.id}.egc") + s.load_amps(f"{feeder.id}.raceway")
            yield s.found(
                panel,
                f"Bonded although a ground wire comes along: {figures(amps)} A of load on it.",
                "Take the bond out and keep it with the papers.",
                fix=(Set(path=f"{panel.id}.bond", value="out"),),
            )


@check(
    "disconnect-missing",
    "fix",
    looks="A building that is fed from outside cannot be switched off there.",
    why="In a fire nobody walks to the other building.",
    topic="building_disconnect",
    needs=("buildings.disconnect", "panels.main.rating_a"),
)
def disconnect_missing(s: Evidence):
    for building, feeders, _ in fed_from_outside(s):
        own = [p for p in s.filled.panels if p.building == building.id]
        has_main = any(p.main.rating_a for p in own)
        if not feeders or has_main or building.disconnect == "yes":
            continue
        if building.disconnect is None:
            yield s.ask(building, f"{building.id}.disconnect", "Can the building be switched off"
                        " there?")  # fmt: skip
        else:
            yield s.found(
                building,
                "No disconnect at the building.",
                "A main breaker in its panel, or a switch at the door.",
                fix=(Set(path=f"{building.id}.disconnect", value="yes"),),
                parts=("disconnect",),
            )


@check(
    "method-not-for-class",
    "fix",
    looks="NM cable in a building whose permit class does not allow it.",
    why="Damp, dust and animals destroy it.",
    topic="method_class",
    needs=("buildings.permit", "circuits.method"),
)
def method_not_for_class(s: Evidence):
    classes = {b.id: b for b in s.filled.buildings}
    for circuit in s.filled.circuits:
        place = classes.get(circuit.building or s.panels[circuit.panel].building)
        if place is None or circuit.method != "NM" or not s.known(f"{circuit.id}.method"):
            continue
        if place.permit == "farm":
            yield s.found(
                circuit,
                f"NM cable in {place.name or 'a farm building'}, a farm building.",
                "Use a method for damp and corrosive places.",
                fix=(Set(path=f"{circuit.id}.method", value="UF"),),
            )
