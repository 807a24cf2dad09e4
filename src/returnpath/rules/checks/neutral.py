"""Neutral: its size, what it shares, and what happens when it is lost."""

from collections.abc import Iterator

from ... import sizing, tables
from ...network.wiring import lines_at
from ...panels import MOST_SPACES, taken_spaces
from ...site import Circuit, Set
from ...site.spaces import leg_of_space
from ...working import Working, figures, show_amps
from ..finding import PRACTICE
from ..registry import Evidence, Yielded, check, rule_authority
from .old_work import year_of

name = tables.size_name
HEAVY = ("range", "dryer")  # counted at 70 %
HEAVY_SHARE = 0.7
EXPOSED_V = 132.0  # ten per cent over 120 V


def neutral_amps(s: Evidence, panel: str) -> float:
    """The most a panel's neutral carries: the larger leg of what is between line and neutral,
    70 % for ranges and dryers (method 9), A."""
    per_leg: dict[int, float] = {}
    below = {panel} | {p for p in s.panels if _is_under(s, p, panel)}
    for circuit in s.filled.circuits:
        if circuit.panel not in below or circuit.neutral != "yes" or not circuit.load_va:
            continue
        legs = s.legs[circuit.id]
        if len(legs) == 1:
            per_leg[legs[0]] = per_leg.get(legs[0], 0.0) + circuit.load_va / 120
        elif circuit.load_kind in HEAVY:
            for leg in legs:
                amps = HEAVY_SHARE * circuit.load_va / 240
                per_leg[leg] = per_leg.get(leg, 0.0) + amps
    return max(per_leg.values(), default=0.0)


def _is_under(s: Evidence, panel: str, top: str) -> bool:
    while panel in s.feeder_to:
        panel = s.feeder_to[panel].source
        if panel == top:
            return True
    return False


@check(
    "service-neutral-small",
    "fix",
    looks="The neutral brought to the service is under the least the table allows, or its load.",
    why="It is the return of every fault in the house.",
    topic="service_neutral",
    needs=(
        "buildings.floor_area_sqft",
        "buildings.permit",
        "circuits.load_va",
        "services.length_ft",
        "services.line_material",
        "services.line_size",
        "services.neutral_size",
        "services.sets",
    ),
)
def service_neutral_small(s: Evidence) -> Iterator[Yielded]:
    yield from _service_neutral_under_load(s)
    for run in s.filled.services:
        row = s.sizes.get(f"{run.id}.neutral_size")
        if row is not None and row.meets is False:
            yield s.found(
                run,
                f"Service neutral {name(row.installed)}; {name(row.needed)} is the least.",
                f"Run {name(row.needed)} {tables.metal_name(row.needed_material)}.",
                fix=(Set(path=row.path, value=row.needed),),
                parts=(
                    f"{run.length_ft:g} ft of {name(row.needed)}"
                    f" {tables.metal_name(row.needed_material)}",
                ),
                working=row.working,
            )


#: What service terminals are marked for.
SERVICE_C = 75


def _service_neutral_under_load(s: Evidence) -> Iterator[Yielded]:
    """The one service of a dwelling whose neutral carries less than its reckoned load."""
    found, runs = s.dwelling, s.filled.services  # as said: no load is assumed here
    if found is None or len(runs) != 1:
        return
    (run,) = runs
    size, metal, sets = run.neutral_size, run.line_material, run.sets or 1
    path = f"{run.id}.neutral_size"
    if size is None or not s.known(path) or tables.is_metric(size):
        return
    carries = sizing.ampacity(size, metal, SERVICE_C) * sets
    if carries >= found.neutral_a:
        return
    enough = (
        one for one in tables.sizes(metal)
        if sizing.ampacity(one, metal, SERVICE_C) * sets >= found.neutral_a
    )  # fmt: skip
    needed = next(enough, None)
    wire = f"{name(needed)} {tables.metal_name(metal)}" if needed else "a larger neutral"
    yield s.found(
        run,
        f"Service neutral {name(size)} carries {figures(carries)} A; the dwelling's load puts"
        f" {figures(found.neutral_a)} A on it.",
        f"Run {wire}.",
        fix=(Set(path=path, value=needed),) if needed else (),
        parts=(f"{run.length_ft:g} ft of {wire}",),
        working=Working("Load of the neutral", found.neutral_a, "A", lambda: found.neutral_steps),
        authority=rule_authority("service_neutral_load", s.edition),
    )


@check(
    "feeder-neutral-small",
    "fix",
    looks="A feeder's neutral is under its EGC's size, or under its load.",
    why="It carries the unbalanced load all day, and a line-to-neutral fault.",
    topic="feeder_neutral",
    needs=(
        "circuits.load_kind",
        "circuits.load_va",
        "circuits.neutral",
        "feeders.breaker.rating_a",
        "feeders.length_ft",
        "feeders.line_material",
        "feeders.method",
        "feeders.neutral",
        "feeders.neutral_size",
        "feeders.sets",
        "panels.terminals_c",
    ),
)
def feeder_neutral_small(s: Evidence) -> Iterator[Yielded]:
    for feeder in s.filled.feeders:
        path = f"{feeder.id}.neutral_size"
        size = feeder.neutral_size
        usable = size is not None and s.known(path) and not tables.is_metric(size)
        if feeder.neutral != "yes" or not usable or s.rating_of(feeder) is None:
            continue
        metal, sets = feeder.line_material, feeder.sets or 1
        least = sizing.smallest_egc(s.rating_of(feeder), material=metal, edition=s.edition)
        amps = neutral_amps(s, feeder.to)
        column = s.column(feeder)
        carries = sizing.ampacity(size, metal, column) * sets
        needed = least.value if sets == 1 else sizing.LEAST_PARALLEL
        for candidate in tables.sizes(metal):
            if sizing.ampacity(candidate, metal, column) * sets >= amps:
                needed = max(needed, candidate, key=tables.area)
                break
        if tables.area(size) >= tables.area(needed):
            continue
        why = f"{figures(amps)} A of load on {figures(carries)} A" if amps > carries else (
            f"under the {name(least.value)} {tables.metal_name(metal)} that its EGC needs"
        )  # fmt: skip
        yield s.found(
            feeder,
            f"Neutral {name(size)}: {why}; {name(needed)} is needed.",
            f"Run {name(needed)} {tables.metal_name(metal)}.",
            fix=(Set(path=path, value=needed),),
            parts=(f"{feeder.length_ft:g} ft of {name(needed)}",),
        )


#: Since then every multiwire branch circuit opens together; before, those of one yoke.
TIE_SINCE = 2008


def _pairs(s: Evidence) -> Iterator[tuple[Circuit, Circuit]]:
    """(first, second) of every shared-neutral pair."""
    from ...network.wiring import shared_owners

    by_id = {c.id: c for c in s.filled.circuits}
    for second, first in shared_owners(s.filled).items():
        yield by_id[first], by_id[second]


@check(
    "shared-neutral-no-common-opening",
    "fix",
    looks="The circuits of a multiwire branch circuit are not opened together.",
    why="Who works on one circuit meets the other's current on the neutral.",
    topic="shared_opening",
    needs=(
        "buildings.permit",
        "buildings.wired_year",
        "circuits.common_opening",
        "circuits.line_size",
        "circuits.neutral",
        "circuits.shares_with",
        "circuits.year",
        "circuits.yoke",
    ),
)
def shared_neutral_no_common_opening(s: Evidence) -> Iterator[Yielded]:
    for first, second in _pairs(s):
        answers = {first.common_opening, second.common_opening}
        if "yes" in answers:
            continue
        year = year_of(s, second) or year_of(s, first)
        old = s.edition < TIE_SINCE or (year is not None and year < TIE_SINCE)
        yokes = {first.yoke, second.yoke}
        if old and "no" in answers and "yes" not in yokes:
            if yokes == {None}:
                question = "Old pair without a tie: on one yoke, or a 240 V load on it?"
                yield s.ask(second, f"{second.id}.yoke", question)
            yield s.found(
                second,
                f"Circuit of a multiwire branch circuit with {first.name or first.id}; they open"
                " apart: existing, may remain where they share no yoke and feed no 240 V load.",
                "Both off before either is worked on; tie the handles when they are next touched.",
                level="note",
            )
        elif answers == {None}:
            question = "Do the pair's breakers open together (two-pole, or a handle tie)?"
            yield s.ask(second, f"{second.id}.common_opening", question)
        else:
            yield s.found(
                second,
                f"Circuit of a multiwire branch circuit with {first.name or first.id}; they open"
                " apart.",
                "A two-pole breaker, or a listed handle tie.",
                fix=(
                    Set(path=f"{first.id}.common_opening", value="yes"),
                    Set(path=f"{second.id}.common_opening", value="yes"),
                ),
                parts=("two-pole breaker or handle tie",),
            )


@check(
    "shared-neutral-same-leg",
    "danger",
    looks="Both circuits of a multiwire branch circuit are on the same leg.",
    why="Their currents add in the neutral instead of cancelling; it overheats unseen.",
    topic="neutral_system",
    needs=("circuits.shares_with", "circuits.space", "study"),
)
def shared_neutral_same_leg(s: Evidence) -> Iterator[Yielded]:
    for first, second in _pairs(s):
        if first.space is None or second.space is None:
            continue
        if s.legs[first.id] != s.legs[second.id] or len(s.legs[first.id]) > 1:
            continue
        amps = s.load_amps(f"{first.id}.neutral")
        both = (first.breaker.rating_a or 0) + (second.breaker.rating_a or 0)
        yield s.found(
            second,
            f"On the same leg as {first.name or first.id}: the neutral carries"
            f" {figures(amps)} A, up to {both:g} A, behind no breaker of its own.",
            "Move one of them to a space on the other leg.",
            fix=_to_another_leg(s, second),
        )


def _to_another_leg(s: Evidence, circuit) -> tuple[Set, ...]:
    """To the nearest free space on another line, where the panel has one."""
    taken, lines = taken_spaces(s.filled, circuit.panel), lines_at(s.filled)[circuit.panel]
    panel = s.panels[circuit.panel]
    mine = leg_of_space(panel, circuit.space, lines)
    free = [n for n in range(1, (panel.spaces or MOST_SPACES) + 1)
            if n not in taken and leg_of_space(panel, n, lines) != mine]  # fmt: skip
    nearest = min(free, key=lambda n: abs(n - circuit.space), default=None)
    return () if nearest is None else (Set(path=f"{circuit.id}.space", value=nearest),)


@check(
    "open-neutral-exposure",
    "note",
    looks="What each leg would see if the service neutral were lost.",
    why="The loads of the two legs then share 240 V by their ohms, not evenly.",
    topic="what a lost neutral does",
    kind=PRACTICE,
    needs=("circuits.load_va", "study"),
)
def open_neutral_exposure(s: Evidence) -> Iterator[Yielded]:
    for lost in s.study.open_neutrals.values():
        legs = lost.legs(s.at_service)
        if not legs or max(legs.values()) <= EXPOSED_V:
            continue
        run = s.filled.service
        words = ", ".join(f"{leg} {figures(v)} V" for leg, v in legs.items())
        given = any(c.load_va is not None for c in s.site.circuits)
        by = "" if given else " (loads assumed)"
        words = f"With the neutral lost{by}: {words}."
        yield s.found(run, words, "Keep its joints tight; look yearly.")
        return


@check(
    "lost-neutral-hidden-by-pipe",
    "check",
    looks="A metal water main shared with neighbors would carry a lost neutral's current.",
    why="Nothing in the house shows it; the plumber who parts the pipe meets it.",
    topic="a shared metal water main",
    kind=PRACTICE,
    needs=("metals.bonded", "metals.kind", "metals.material", "metals.shared_main", "study"),
)
def lost_neutral_hidden_by_pipe(s: Evidence) -> Iterator[Yielded]:
    for metal in s.filled.metals:
        if metal.kind == "water" and metal.shared_main is None and metal.bonded == "yes":
            if metal.material == "metal":
                question = "Is the metal water main shared with the neighbors?"
                yield s.ask(metal, f"{metal.id}.shared_main", question)
            continue
        if metal.shared_main != "yes":
            continue
        now = s.load_amps(f"{metal.id}.main")
        lost = max(
            (f.currents.get(f"{metal.id}.main", 0.0) for f in s.study.open_neutrals.values()),
            default=0.0,
        )
        yield s.found(
            metal,
            f"Carries {show_amps(now)} today; {show_amps(lost)} with the service neutral lost.",
            "Clamp the pipe; warn whoever opens it; a dielectric fitting at the main ends it.",
        )
