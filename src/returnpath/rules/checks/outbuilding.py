"""Outbuilding: one supply, electrodes, how its run is laid, where it is switched off."""

from collections.abc import Iterator

from ...conductor import methods
from ...site import Circuit, Feeder, Set
from ...working import count_of
from ..registry import Evidence, Yielded, check
from .electrodes import two_rods


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
                f"{count} supplies: {_of_which(feeders, circuits)}.",
                "One feeder to a panel there, and the circuits from it.",
                parts=("panel", "feeder"),
            )


def _of_which(feeders: list[Feeder], circuits: list[Circuit]) -> str:
    """What the supplies are, in words: only what there is."""
    counted = ((len(feeders), "feeder"), (len(circuits), "circuit"))
    return ", ".join(count_of(n, word) for n, word in counted if n)


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
