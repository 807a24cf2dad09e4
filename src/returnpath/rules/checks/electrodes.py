"""Electrodes: what counts, what must be used, what joins them, and their conductors."""

import math
from collections.abc import Iterator

from ... import sizing, tables
from ...site import Add, Electrode, Set
from ...site.plan import known_distance_ft, known_spot
from ...working import figures
from ..registry import Evidence, Yielded, check

name = tables.size_name
LEAST_SPACING_FT = 6.0
LEAST_ROD_FT = 8.0
LEAST_PIPE_FT, LEAST_STEEL_FT, LEAST_RING_FT = 10.0, 20.0, 20.0
LEAST_PLATE_SQFT, LEAST_DEPTH_IN = 2.0, 30.0
RING_SIZE = "2"
PROVED_OHM = 25.0
ENTRY_FT = 5.0
LEAST_HEIGHT_IN = 18.0
EXPOSED_SIZE = "6"
PRESENT_KINDS = ("concrete", "water", "ring")


def a_rod(panel: str, lands: str = "neutral bar") -> Add:
    """One more rod, far enough from the others."""
    facts = {"panel": panel, "kind": "rod", "length_ft": LEAST_ROD_FT, "gec_size": EXPOSED_SIZE}
    return Add(to="electrodes", facts=facts | {"lands": lands})


def two_rods(panel: str, lands: str = "neutral bar") -> tuple[Add, ...]:
    """Two rods that supplement each other."""
    return a_rod(panel, lands), a_rod(panel, lands)


def _of(s: Evidence, panel: str):
    return [e for e in s.filled.electrodes if e.panel == panel]


def _service_electrodes(s: Evidence):
    """Electrodes on the supply side: at the service disconnect or a meter ahead of it."""
    return [e for e in s.filled.electrodes if not s.is_downstream(e.panel)]


@check(
    "electrode-none",
    "fix",
    looks="No electrode is described at the service.",
    why="The house has nothing that holds it at earth's potential in a surge.",
    topic="electrodes_used",
    needs=("electrodes.kind",),
)
def electrode_none(s: Evidence):
    here = _service_electrodes(s)
    if any(e.kind is not None for e in here):
        return
    for electrode in here[:1]:
        yield s.ask(electrode, f"{electrode.id}.kind", "Which electrodes are there?")
    if not here:
        panel = s.panels[s.at_service]
        yield s.found(
            panel,
            "No electrode at the service.",
            "Drive two rods, 6 ft apart.",
            fix=two_rods(panel.id),
            parts=("two 8 ft ground rods", "two clamps"),
        )


@check(
    "electrode-present-unused",
    "fix",
    looks="An electrode that is there anyway is not connected to the others.",
    why="Footing steel and long pipe are worth more than any rod.",
    topic="electrodes_used",
    needs=("electrodes.joined", "electrodes.kind"),
)
def electrode_present_unused(s: Evidence):
    for electrode in s.filled.electrodes:
        if electrode.joined == "no" and electrode.kind in PRESENT_KINDS:
            yield s.found(
                electrode,
                f"The {sizing.electrode_kinds()[electrode.kind]} is there and not connected.",
                "Run an electrode conductor to it.",
                fix=(Set(path=f"{electrode.id}.joined", value="yes"),),
                parts=("electrode conductor", "clamp"),
            )


@check(
    "electrodes-not-joined",
    "fix",
    looks="A rod or plate stands apart from the other electrodes.",
    why="In a surge two electrodes apart are two earths with thousands of volts between them.",
    topic="electrodes_used",
    needs=("electrodes.joined", "electrodes.kind"),
)
def electrodes_not_joined(s: Evidence):
    for electrode in s.filled.electrodes:
        if electrode.joined == "no" and electrode.kind in ("rod", "plate"):
            yield s.found(
                electrode,
                "Stands apart from the electrode system.",
                "Bond it to the other electrodes.",
                fix=(Set(path=f"{electrode.id}.joined", value="yes"),),
                parts=("electrode conductor", "clamp"),
            )


def _counts(electrode) -> bool:
    """Whether an electrode is one that another may lean on."""
    if electrode.kind is None or electrode.joined == "no":
        return False
    if electrode.kind == "water":
        return electrode.length_ft is None or electrode.length_ft >= LEAST_PIPE_FT
    return True


def _lone(s: Evidence):
    """(panel, electrode) where one rod or plate has no companion: a water pipe is none, it needs
    the rod as its own supplement (250.53(D)(2))."""
    groups: dict[str, list] = {}
    for electrode in s.filled.electrodes:
        downstream = s.is_downstream(electrode.panel)
        groups.setdefault(electrode.panel if downstream else "", []).append(electrode)
    for panel, all_here in groups.items():
        here = [e for e in all_here if _counts(e)]
        made = [e for e in here if e.kind in ("rod", "plate")]
        others = [e for e in here if e.kind not in ("rod", "plate", "water")]
        if len(made) == 1 and not others:
            yield panel, made[0]


def _with_pipe(s: Evidence, electrode) -> bool:
    return any(e.kind == "water" and _counts(e) for e in _of(s, electrode.panel))


#: Since then a second rod is the rule unless one proves 25 Ω; before, one stood until it was
#: measured over it (250.56).
SECOND_BY_DEFAULT = 2011


def _year_of(s: Evidence, electrode: Electrode) -> int | None:
    """When an electrode was set: as given, else when its building was wired."""
    if electrode.year is not None:
        return electrode.year
    home = s.panels[electrode.panel].building
    dwellings = [b.id for b in s.filled.buildings if b.permit == "dwelling"]
    if home is None and len(dwellings) == 1:
        home = dwellings[0]
    return next((b.wired_year for b in s.filled.buildings if b.id == home), None)


def _rod_of_its_time(s: Evidence, electrode: Electrode, year: int | None) -> Yielded:
    """One rod of before the second became the rule, or of no known year: measured, not mended."""
    beside = " beside the water pipe" if _with_pipe(s, electrode) else " alone"
    when = f"set in {year}" if year else "set nobody knows when"
    return s.found(
        electrode,
        f"One {electrode.kind}{beside}, {when}: {figures(electrode.ohm)} Ω by the soil assumed.",
        f"Measure it: up to 25 Ω it may stand alone; since {SECOND_BY_DEFAULT} a second one is"
        " asked for unless it does.",
        level="check",
        asks=f"{electrode.id}.{'proved_ohm' if year else 'year'}",
    )


@check(
    "rod-alone-unproved",
    "fix",
    looks="One rod or plate stands alone and nobody has proved it at 25 Ω.",
    why="One rod in dry soil is hardly an earth at all.",
    topic="one_rod",
    needs=(
        "buildings.permit",
        "buildings.wired_year",
        "electrodes.joined",
        "electrodes.kind",
        "electrodes.length_ft",
        "electrodes.lands",
        "electrodes.ohm",
        "electrodes.proved_ohm",
        "electrodes.year",
        "practice.electrode",
    ),
)
def rod_alone_unproved(s: Evidence):
    for _, electrode in _lone(s):
        if electrode.proved_ohm is not None:
            continue
        year = _year_of(s, electrode)
        if year is None or year < SECOND_BY_DEFAULT:
            yield _rod_of_its_time(s, electrode, year)
            continue
        first = "Add a second one, 6 ft away."
        if s.practice.electrode == "prove":
            first = "Measure it; 25 Ω or less may stand alone. Else add a second one."
        beside = " beside the water pipe" if _with_pipe(s, electrode) else " alone"
        yield s.found(
            electrode,
            f"One {electrode.kind}{beside}, {figures(electrode.ohm)} Ω by the soil assumed.",
            first,
            fix=(a_rod(electrode.panel, electrode.lands),),
            parts=("8 ft ground rod", "clamp"),
        )


@check(
    "rod-over-25",
    "fix",
    looks="The only rod or plate measures more than 25 Ω.",
    why="The rule lets one stand alone only when it proves itself.",
    topic="one_rod",
    needs=(
        "electrodes.joined",
        "electrodes.kind",
        "electrodes.length_ft",
        "electrodes.lands",
        "electrodes.proved_ohm",
    ),
)
def rod_over_25(s: Evidence):
    for _, electrode in _lone(s):
        if electrode.proved_ohm is not None and electrode.proved_ohm > PROVED_OHM:
            yield s.found(
                electrode,
                f"Measured at {figures(electrode.proved_ohm)} Ω and alone.",
                "Add a second electrode, 6 ft away.",
                fix=(a_rod(electrode.panel, electrode.lands),),
                parts=("8 ft ground rod", "clamp"),
            )


@check(
    "rods-too-near",
    "fix",
    looks="Two rods stand nearer than 6 ft (or than local practice asks).",
    why="They share the same soil: the second is worth little.",
    topic="electrode_install",
    needs=(
        "electrodes.east_ft",
        "electrodes.kind",
        "electrodes.length_ft",
        "electrodes.near",
        "electrodes.north_ft",
        "electrodes.spacing_ft",
        "practice.rod_spacing",
    ),
)
def rods_too_near(s: Evidence) -> Iterator[Yielded]:
    for rod in s.filled.electrodes:
        found = _nearest(s, rod)
        if found is None:
            continue
        feet, other = found
        length = rod.length_ft or LEAST_ROD_FT
        least = 2 * length if s.practice.rod_spacing == "twice" else LEAST_SPACING_FT
        if feet < least:
            yield s.found(
                rod,
                f"{feet:.3g} ft from the other; {least:g} ft is the least.",
                f"Drive it again {least:g} ft away.",
                fix=_moved(s, rod, other, least),
            )


def _nearest(s: Evidence, rod: Electrode) -> tuple[float, Electrode | None] | None:
    """(feet, the other where both are on the plan) of the nearest rod before it, or of the one it
    is typed to be next to; the plan counts where both are placed, as the network has it."""
    found: list[tuple[float, Electrode | None]] = []
    by_plan = set()
    for other in s.filled.electrodes:
        feet = known_distance_ft(rod, other)
        if other.id == rod.id or feet is None:
            continue
        by_plan.add(other.id)
        if rod.kind == other.kind == "rod" and _is_before(s, other, rod):
            found.append((feet, other))
    if rod.near is not None and rod.spacing_ft is not None and rod.near not in by_plan:
        found.append((rod.spacing_ft, None))
    return min(found, key=lambda one: one[0], default=None)


def _is_before(s: Evidence, one: Electrode, other: Electrode) -> bool:
    ids = [e.id for e in s.filled.electrodes]
    return ids.index(one.id) < ids.index(other.id)


def _moved(s: Evidence, rod: Electrode, other: Electrode | None, least: float) -> tuple[Set, ...]:
    """The edits that drive it again: on the plan straight away from the other, to a whole foot."""
    here, there = known_spot(rod), known_spot(other) if other is not None else None
    if here is None or there is None:
        return (Set(path=f"{rod.id}.spacing_ft", value=least),)
    east, north = here[0] - there[0], here[1] - there[1]
    length = math.hypot(east, north)
    if length < 0.1:
        east, north, length = 0.0, -1.0, 1.0
    for feet in (least, least + 1, least + 2):
        x, y = (round(t + d / length * feet) for t, d in zip(there, (east, north), strict=True))
        if math.hypot(x - there[0], y - there[1]) >= least:
            break
    edits = [
        Set(path=f"{rod.id}.east_ft", value=float(x)),
        Set(path=f"{rod.id}.north_ft", value=float(y)),
    ]
    if other is not None and rod.near == other.id:
        apart = math.hypot(x - there[0], y - there[1])
        edits.append(Set(path=f"{rod.id}.spacing_ft", value=round(apart, 1)))
    return tuple(edits)


@check(
    "rod-short",
    "fix",
    looks="A rod has less than 8 ft in the soil.",
    why="The depth reaches the moist soil that carries the current.",
    topic="electrode_install",
    needs=("electrodes.kind", "electrodes.length_ft"),
)
def rod_short(s: Evidence):
    for rod in s.filled.electrodes:
        if rod.kind == "rod" and rod.length_ft is not None and rod.length_ft < LEAST_ROD_FT:
            yield s.found(
                rod,
                f"{rod.length_ft:g} ft in the soil; 8 ft is the least.",
                "Drive a full rod.",
                fix=(Set(path=f"{rod.id}.length_ft", value=LEAST_ROD_FT),),
                parts=("8 ft ground rod", "clamp"),
            )


@check(
    "water-pipe-alone",
    "fix",
    looks="A water pipe is the only electrode.",
    why="The next repair in plastic takes it away without anybody noticing.",
    topic="water_supplement",
    needs=("electrodes.joined", "electrodes.kind", "electrodes.lands", "electrodes.length_ft"),
)
def water_pipe_alone(s: Evidence):
    here = [e for e in _service_electrodes(s) if e.kind is not None and e.joined != "no"]
    here = [e for e in here if _counts(e)]
    if here and all(e.kind == "water" for e in here):
        yield s.found(
            here[0],
            "The water pipe is the only electrode.",
            "Add another kind: two rods, or footing steel.",
            fix=two_rods(here[0].panel, here[0].lands),
            parts=("two 8 ft ground rods", "two clamps"),
        )


@check(
    "water-pipe-short",
    "fix",
    looks="A metal water pipe has less than 10 ft in the earth.",
    why="Less does not count as an electrode.",
    topic="electrode_kinds",
    needs=("electrodes.joined", "electrodes.kind", "electrodes.length_ft"),
)
def water_pipe_short(s: Evidence):
    for pipe in s.filled.electrodes:
        if pipe.kind != "water":
            continue
        if pipe.length_ft is None:
            yield s.ask(pipe, f"{pipe.id}.length_ft", "How much of the pipe in the earth is metal?")
        elif pipe.length_ft < LEAST_PIPE_FT:
            yield s.found(
                pipe,
                f"{pipe.length_ft:g} ft of metal in the earth; 10 ft counts.",
                "Bond it as pipe, and use another electrode.",
                level=None if _stands_on_it(s, pipe) else "note",
            )


def _stands_on_it(s: Evidence, pipe) -> bool:
    """Whether too short a pipe is counted on: nothing else makes an electrode system there."""
    others = [e for e in _of(s, pipe.panel) if e is not pipe and _counts(e)]
    return len(others) < 1


@check(
    "water-connection-far",
    "fix",
    looks="An electrode conductor lands on a water pipe more than 5 ft from where it enters.",
    why="A plumber's plastic coupling between takes the electrode away.",
    topic="water_entry",
    needs=("electrodes.entry_ft", "electrodes.kind"),
)
def water_connection_far(s: Evidence) -> Iterator[Yielded]:
    for pipe in s.filled.electrodes:
        if pipe.kind == "water" and pipe.entry_ft is not None and pipe.entry_ft > ENTRY_FT:
            yield s.found(
                pipe,
                f"Connected {pipe.entry_ft:g} ft from its entry; {ENTRY_FT:g} ft count.",
                "Land it within 5 ft of the entry.",
                fix=(Set(path=f"{pipe.id}.entry_ft", value=ENTRY_FT),),
                parts=("water pipe clamp", "electrode conductor"),
            )


@check(
    "ring-small",
    "fix",
    looks="A ground ring is short, thin or shallow.",
    why="Less does not count as an electrode.",
    topic="electrode_kinds",
    needs=("electrodes.depth_in", "electrodes.kind", "electrodes.length_ft"),
)
def ring_small(s: Evidence):
    for ring in s.filled.electrodes:
        if ring.kind != "ring":
            continue
        bad, fix = [], []
        if ring.length_ft is not None and ring.length_ft < LEAST_RING_FT:
            bad.append(f"{ring.length_ft:g} ft of 20")
            fix.append(Set(path=f"{ring.id}.length_ft", value=LEAST_RING_FT))
        if ring.depth_in is not None and ring.depth_in < LEAST_DEPTH_IN:
            bad.append(f"{ring.depth_in:g} in deep of 30")
            fix.append(Set(path=f"{ring.id}.depth_in", value=LEAST_DEPTH_IN))
        if bad:
            yield s.found(ring, f"The ring has {', '.join(bad)}.",
                          "20 ft of 2 AWG, 30 in deep.", fix=tuple(fix))  # fmt: skip


@check(
    "plate-small",
    "fix",
    looks="A plate electrode is under 2 sq ft or under 30 in deep.",
    why="Less does not count as an electrode.",
    topic="electrode_kinds",
    needs=("electrodes.area_sqft", "electrodes.depth_in", "electrodes.kind"),
)
def plate_small(s: Evidence):
    for plate in s.filled.electrodes:
        if plate.kind != "plate":
            continue
        bad, fix = [], []
        if plate.area_sqft is not None and plate.area_sqft < LEAST_PLATE_SQFT:
            bad.append(f"{plate.area_sqft:g} of 2 sq ft")
            fix.append(Set(path=f"{plate.id}.area_sqft", value=LEAST_PLATE_SQFT))
        if plate.depth_in is not None and plate.depth_in < LEAST_DEPTH_IN:
            bad.append(f"{plate.depth_in:g} in deep of 30")
            fix.append(Set(path=f"{plate.id}.depth_in", value=LEAST_DEPTH_IN))
        if bad:
            yield s.found(plate, f"The plate has {', '.join(bad)}.", "2 sq ft, 30 in deep.",
                          fix=tuple(fix))  # fmt: skip


@check(
    "concrete-encased-short",
    "fix",
    looks="Less than 20 ft of steel or wire in the footing.",
    why="Less does not count as an electrode.",
    topic="electrode_kinds",
    needs=("electrodes.kind", "electrodes.length_ft"),
)
def concrete_encased_short(s: Evidence):
    for steel in s.filled.electrodes:
        known = steel.kind == "concrete" and steel.length_ft is not None
        if known and steel.length_ft < LEAST_STEEL_FT:
            yield s.found(
                steel,
                f"{steel.length_ft:g} ft in the footing; 20 ft counts.",
                "Use another electrode besides it.",
            )
