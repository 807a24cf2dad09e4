"""Feeders to another building: four wires, or the five conditions of three."""

from dataclasses import dataclass

from ... import sizing, tables
from ...site import Set
from ...working import figures, show_amps
from ..registry import Evidence, check
from .neutral import neutral_amps
from .return_path import apart, fourth_wire

FAMILY = "outbuilding"
FOUR_WIRES_SINCE = 2008


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
                root=True,
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
                root=True,
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
