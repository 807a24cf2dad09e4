"""Outbuilding: one supply, electrodes, four wires or the five conditions of three."""

from collections.abc import Iterator
from dataclasses import dataclass

from ... import sizing, tables
from ...conductor import methods
from ...site import Set
from ...working import figures, show_amps
from ..registry import Evidence, Yielded, check
from .electrodes import two_rods
from .neutral import neutral_amps
from .return_path import apart, fourth_wire

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
    needs=("circuits.shares_with", "panels.grouped"),
)
def more_than_one_supply(s: Evidence):
    for building, feeders, circuits in fed_from_outside(s):
        count = len(feeders) + _supplies(circuits)
        if _several_feeders_allowed(s, feeders, circuits):
            panel = s.panels[feeders[0].to]
            if panel.grouped is None:
                yield s.ask(
                    panel,
                    f"{panel.id}.grouped",
                    f"{count} feeders from one panel: are their disconnects grouped in one place?",
                )
            elif panel.grouped == "no":
                yield s.found(
                    building,
                    f"{count} feeders from one panel, and their disconnects are not grouped.",
                    "Group the disconnects, each marked with what it serves.",
                    fix=(Set(path=f"{panel.id}.grouped", value="yes"),),
                )
            continue
        if count > 1:
            yield s.found(
                building,
                f"{count} supplies: {len(feeders)} feeders, {len(circuits)} circuits.",
                "One feeder to a panel there, and the circuits from it.",
                parts=("panel", "feeder"),
            )


SEVERAL_SINCE, MOST_FEEDERS = 2020, 6


def _several_feeders_allowed(s: Evidence, feeders, circuits) -> bool:
    """Up to six feeders of one panelboard, each to a single disconnect (225.30(B), 2020)."""
    return (
        s.edition >= SEVERAL_SINCE
        and not circuits
        and 1 < len(feeders) <= MOST_FEEDERS
        and len({f.source for f in feeders}) == 1
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
    looks="A building on one branch circuit with an EGC needs no electrode.",
    why="The circuit's EGC does all that is needed there.",
    topic="building_electrode",
    needs=("circuits.egc", "circuits.shares_with"),
)
def electrode_not_required(s: Evidence):
    for building, feeders, circuits in fed_from_outside(s):
        grounded = all(c.egc in ("wire", "raceway", "both") for c in circuits)
        if not feeders and _supplies(circuits) == 1 and grounded:
            yield s.found(
                building, "One branch circuit with an EGC: no electrode is needed.",
                "Leave it so; a panel here would change it.",
            )  # fmt: skip


def _three_wire(s: Evidence):
    """Feeders to another building without an EGC."""
    for feeder in s.filled.feeders:
        if feeder.egc == "none" and s.other_building(feeder):
            yield feeder


@check(
    "three-wire-new",
    "fix",
    looks="A feeder to another building, run since four wires are asked for, has three.",
    why="The neutral's current shares every metal way between the buildings.",
    topic="building_feed",
    needs=(
        "feeders.breaker.rating_a",
        "feeders.egc",
        "feeders.length_ft",
        "feeders.line_material",
        "feeders.line_size",
        "feeders.method",
        "feeders.sets",
        "feeders.year",
        "panels.ground_bar",
        "panels.grounds_on_neutral",
        "panels.terminals_c",
    ),
)
def three_wire_new(s: Evidence):
    for feeder in _three_wire(s):
        if feeder.year is None:
            yield s.ask(feeder, f"{feeder.id}.year", "When was this three-wire feeder run?")
        elif feeder.year >= FOUR_WIRES_SINCE:
            panel = s.panels[feeder.to]
            edits, wire = fourth_wire(s, feeder)
            yield s.found(
                feeder,
                f"Run in {feeder.year} with three wires; four have been asked for since 2008.",
                f"Run {wire} with it and prove it; then take the bond out over there.",
                fix=(*edits, Set(path=f"{panel.id}.bond", value="out"), *apart(s, panel)),
                parts=(f"{feeder.length_ft:g} ft of {wire}",),
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
        "feeders.line_size",
        "feeders.metal_paths",
        "feeders.method",
        "feeders.neutral_size",
        "feeders.sets",
        "feeders.year",
        "metals.also_joins",
        "panels.bond",
        "panels.ground_bar",
        "panels.grounds_on_neutral",
        "panels.terminals_c",
    ),
)
def three_wire_existing(s: Evidence):
    for feeder in _three_wire(s):
        if feeder.year is None or feeder.year >= FOUR_WIRES_SINCE:
            continue
        told = _conditions(s, feeder)
        broken = [c for c in told if c.holds is False]
        if not broken:
            for one in told:
                if one.holds is None:
                    yield s.ask(feeder, one.asks, f"Three wires of {feeder.year}: {one.words}?")
        listed = "; ".join(f"{n}. {c.words}: {c.answer}" for n, c in enumerate(told, 1))
        edits, wire = fourth_wire(s, feeder)
        panel = s.panels[feeder.to]
        if broken:
            unbonded = panel.bond == "out"
            yield s.found(
                feeder,
                f"Three wires since {feeder.year}; they may not stay. {listed}.",
                f"In this order: run an EGC ({wire}) and prove it, then take the bond out over"
                " there." if not unbonded
                else f"Run an EGC ({wire}) with it; until then bond the neutral over there.",
                level="danger" if unbonded else None,
                fix=(*edits, Set(path=f"{feeder.to}.bond", value="out"), *apart(s, panel)),
                parts=(f"{feeder.length_ft:g} ft of {wire}",),
            )  # fmt: skip
        elif all(c.holds for c in told):
            yield s.found(
                feeder,
                f"Three wires since {feeder.year}: existing, may remain. {listed}.",
                "Any change of it ends that. One bar for neutrals and grounds is right there.",
                level="note",
            )


@dataclass(frozen=True)
class Condition:
    """One of the conditions of an old three-wire feeder; ``holds`` None: ask ``asks``."""

    words: str
    holds: bool | None
    answer: str
    asks: str = ""


def _conditions(s: Evidence, feeder) -> list[Condition]:
    """The five conditions of 250.32(B), exception, one by one."""
    panel = s.panels[feeder.to]
    bonded = None if panel.bond is None else panel.bond == "in"
    paths, by = _metal_paths(s, feeder)
    guard = feeder.ground_fault_protected
    return [
        Condition("it was permitted when it was run", True, f"{feeder.year}"),
        Condition(
            "the neutral is bonded over there",
            bonded,
            {None: "not known", True: "yes", False: "no"}[bonded],
            f"{panel.id}.bond",
        ),
        Condition(
            "no metal path joins the buildings",
            paths,
            {None: "not known", True: "none", False: by}[paths],
            f"{feeder.id}.metal_paths",
        ),
        Condition(
            "no ground-fault protection is upstream",
            None if guard is None else guard == "no",
            {None: "not known", "no": "none", "yes": "there is"}[guard],
            f"{feeder.id}.ground_fault_protected",
        ),
        _neutral_is_enough(s, feeder),
    ]


def _metal_paths(s: Evidence, feeder) -> tuple[bool | None, str]:
    """(whether no metal joins the buildings, what does)."""
    own = s.panels[feeder.to].building
    for metal in s.filled.metals:
        if metal.also_joins and s.panels[metal.also_joins].building == own:
            return False, f"{metal.name or 'metal'} joins them"
    if feeder.metal_paths is None:
        return None, ""
    return feeder.metal_paths == "no", "there is one"


def _neutral_is_enough(s: Evidence, feeder) -> Condition:
    words, path = "the neutral serves its load and as an EGC", f"{feeder.id}.neutral_size"
    rating, size, metal = feeder.breaker.rating_a, feeder.neutral_size, feeder.line_material
    if rating is None or size is None or not s.known(path) or tables.is_metric(size):
        return Condition(words, None, "not known", path)
    least = sizing.smallest_egc(rating, material=metal, edition=s.edition).value
    amps, carries = neutral_amps(s, feeder.to), sizing.ampacity(size, metal, s.column(feeder))
    if tables.area(size) < tables.area(least):
        need = f"{tables.size_name(size)}, under {tables.size_name(least)}"
        return Condition(words, False, need, path)
    if amps > carries:
        return Condition(words, False, f"{figures(amps)} A on {figures(carries)} A", path)
    return Condition(words, True, tables.size_name(size), path)


@check(
    "bonded-with-egc",
    "danger",
    looks="Another building's panel bonds neutral and ground although an EGC comes along.",
    why="The load's current comes home on the EGC and every metal way besides.",
    topic="building_feed",
    needs=(
        "feeders.egc",
        "panels.bond",
        "panels.ground_bar",
        "panels.grounds_on_neutral",
        "study",
    ),
)
def bonded_with_egc(s: Evidence):
    for feeder in s.filled.feeders:
        panel = s.panels[feeder.to]
        has_ground = feeder.egc in ("wire", "raceway", "both")
        if panel.bond == "in" and has_ground and s.other_building(feeder):
            amps = s.load_amps(f"{feeder.id}.egc") + s.load_amps(f"{feeder.id}.raceway")
            yield s.found(
                panel,
                f"Bonded although an EGC comes along: {show_amps(amps)} of load on it.",
                "Move the grounds to a bar on the enclosure, then take the bond out and leave it in"
                " the panel's pocket.",
                fix=(Set(path=f"{panel.id}.bond", value="out"), *apart(s, panel)),
            )


@check(
    "feeder-cover-shallow",
    "fix",
    looks="A feeder in the ground has less cover than its wiring method needs.",
    why="A spade finds it.",
    topic="cover",
    needs=("feeders.cover_in", "feeders.method"),
)
def feeder_cover_shallow(s: Evidence) -> Iterator[Yielded]:
    for feeder in s.filled.feeders:
        least = cover_needed(feeder.method)
        if feeder.cover_in is not None and least is not None and feeder.cover_in < least:
            yield s.found(
                feeder,
                f"Buried under {feeder.cover_in:g} in; {least:g} in is the least for it.",
                "Bury it deeper, or in rigid steel.",
                fix=(Set(path=f"{feeder.id}.cover_in", value=least),),
            )


def cover_needed(method: str | None) -> float | None:
    """The least cover of a run in the ground, in; None for what is not laid there."""
    return {"UF": 24.0, "USE": 24.0, "direct": 24.0, "PVC": 18.0, "RMC": 6.0, "IMC": 6.0}.get(
        method or ""
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
        has_main = feeders and any(p.main.rating_a for p in own)
        if has_main or building.disconnect == "yes":
            continue
        if building.disconnect is None:
            yield s.ask(building, f"{building.id}.disconnect", "Can the building be switched off"
                        " there?")  # fmt: skip
        else:
            yield s.found(
                building,
                "No disconnect at the building.",
                "A main breaker in its panel, or a switch at the door."
                if feeders
                else "A switch at the building that opens every hot: a snap switch serves.",
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


@check(
    "cable-in-wet-place",
    "fix",
    looks="NM cable underground, outdoors or in another wet place.",
    why="Water wicks through its paper and eats the EGC.",
    topic="wet_cable",
    needs=("circuits.method", "circuits.route", "feeders.method", "feeders.route"),
)
def cable_in_wet_place(s: Evidence):
    for run in (*s.filled.feeders, *s.filled.circuits):
        if run.method not in ("NM", "SER", "AC", "BX") or not s.known(f"{run.id}.method"):
            continue
        label = methods()[run.method].label
        wet = run.route == "underground" or (run.route == "wet" and run.method != "SER")
        if wet:
            where = "underground" if run.route == "underground" else "in a wet place"
            yield s.found(
                run,
                f"{label[:1].upper()}{label[1:]} {where}.",
                "Use UF cable, or conduit with wires for wet places.",
                fix=(Set(path=f"{run.id}.method", value="UF"),),
            )
        elif run.route is None and run.method == "NM" and _leaves_the_house(s, run):
            question = "Where does its NM cable run: underground or outdoors it may not."
            yield s.ask(run, f"{run.id}.route", question)


def _leaves_the_house(s: Evidence, run) -> bool:
    """Whether a run leads to another building."""
    if run in s.filled.feeders:
        return s.other_building(run)
    home = s.panels[run.panel].building
    return run.building is not None and home is not None and run.building != home


@check(
    "equipotential-plane-missing",
    "fix",
    looks="A farm building with livestock on concrete has no equipotential plane.",
    why="Cattle feel a volt between hoof and trough; people in wet boots feel more.",
    topic="equipotential_plane",
    needs=("buildings.equipotential", "buildings.permit"),
)
def equipotential_plane_missing(s: Evidence):
    for building in s.filled.buildings:
        if building.permit == "farm" and building.equipotential == "no":
            yield s.found(
                building,
                "No equipotential plane where livestock stands on concrete.",
                "Bond mesh in the floor, stalls and water pipes to the building's EGC by 8 AWG.",
                fix=(Set(path=f"{building.id}.equipotential", value="yes"),),
            )
