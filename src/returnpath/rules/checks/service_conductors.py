"""Service conductors: against the disconnect at their end, several, or the reckoned load."""

from collections.abc import Iterator

from ... import sizing, tables
from ...site import Feeder, Service, Set
from ...site.chain import Protected, Protection
from ...working import figures
from ..carrying import (
    DWELLING_SHARE,
    USUAL_C,
    carries_a,
    carries_whole_dwelling,
    fits_dwelling_rule,
    next_standard,
    sets_of,
    unit_of,
)
from ..registry import Evidence, Yielded, check, rule_authority
from .wires import GROSS, WIRE_AND_DEVICE

FAMILY = "service"
name = tables.size_name
metal_name = tables.metal_name
#: From so many disconnects on a main ahead of them is needed (230.71).
MOST_DISCONNECTS = 6


def supply_side(s: Evidence) -> Iterator[tuple[Service | Feeder, Protected]]:
    """The conductors ahead of the service disconnects, and a source's own run to its first
    enclosure where that protects it, whose sizes somebody gave."""
    for run in s.outer_runs:
        size = run.line_size
        if size is None or tables.is_metric(size) or not s.known(f"{run.id}.line_size"):
            continue
        found = s.protected[run.id]
        is_end = found.how is Protection.LOAD_END
        is_own = isinstance(run, Service) and found.how is Protection.OWN
        if is_end or is_own:
            yield run, found


def _carries(s: Evidence, run: Service | Feeder) -> float:
    """Amperes of all its sets at 75 °C terminals, the service's usual ones."""
    if isinstance(run, Feeder):
        return carries_a(s, run, USUAL_C)
    metal = run.line_material or "copper"
    return sizing.ampacity(str(run.line_size), metal, USUAL_C) * sets_of(run)


def units_behind(s: Evidence, run: Service | Feeder) -> int:
    """How many dwelling units a supply-side conductor serves, as far as anybody said."""
    chain = next((c for c in s.chains if c.reaches(run.to)), None)
    if chain is None:
        return 1
    below = [s.panels[p] for p in chain.below(run.to)]
    units = {unit_of(s, p) for p in below} - {None}
    permits = {b.id: b.permit for b in s.filled.buildings}
    homes = {p.building for p in below if permits.get(p.building or "") == "dwelling"}
    return max(len(units), len(homes), 1)


@check(
    "service-conductor-small",
    "fix",
    looks="Service conductors, or a source's own, carry less than the disconnect at their end lets"
    " through.",
    why="No device ahead limits their load: they overheat in the wall before the main opens.",
    topic="service_conductors",
    needs=(
        *WIRE_AND_DEVICE,
        "buildings.floor_area_sqft",
        "buildings.permit",
        "circuits.load_va",
        "panels.main.rating_a",
        "panels.marked",
        "panels.unit",
        "services.length_ft",
        "services.line_material",
        "services.line_size",
        "services.owner",
        "services.sets",
        "services.year",
        "supplies.kind",
    ),
)
def service_conductor_small(s: Evidence) -> Iterator[Yielded]:
    for run, found in supply_side(s):
        rating, carries = found.rating_a, _carries(s, run)
        if rating is None or not s.known(f"{found.at}.rating_a"):
            continue
        utility = _is_utility(s, run)
        up = utility or found.how is Protection.OWN  # a secondary to its panel is not rounded up
        enough = next_standard(carries) >= rating if up else carries >= rating
        if enough:
            continue
        units = units_behind(s, run)
        if found.count == 1 and utility and fits_dwelling_rule(s, run, rating, carries):
            if units > 1:
                yield _several_units(s, run, rating, carries, units)
            continue
        if found.count > 1:
            yield from _against_load(s, run, found, carries)
            continue
        yield _too_small(s, run, found, carries, utility and units == 1)


def _is_utility(s: Evidence, run: Service | Feeder) -> bool:
    if isinstance(run, Feeder):
        return True
    return s.elements[run.supply].kind in (None, "utility")


def _wires(run: Service | Feeder) -> str:
    sets = sets_of(run)
    wire = f"{name(run.line_size)} {metal_name(run.line_material)}"
    return f"{sets} × {wire}" if sets > 1 else wire


def _needed(s: Evidence, run: Service | Feeder, rating: float, dwelling: bool) -> str | None:
    """The smallest size that serves, by the dwelling rule where it holds."""
    metal, sets = run.line_material or "copper", sets_of(run)
    for size in tables.sizes(metal):
        if sets > 1 and tables.area(size) < tables.area(sizing.LEAST_PARALLEL):
            continue
        carries = sizing.ampacity(size, metal, USUAL_C) * sets
        larger = run.model_copy(update={"line_size": size})
        if next_standard(carries) >= rating or (
            dwelling and fits_dwelling_rule(s, larger, rating, carries)
        ):
            return size
    return None


def _too_small(
    s: Evidence, run: Service | Feeder, found: Protected, carries: float, dwelling: bool
) -> Yielded:
    rating = found.rating_a or 0.0
    end = found.how is Protection.LOAD_END
    needed = _needed(s, run, rating, dwelling)
    wire = f"{name(needed)} {metal_name(run.line_material)}" if needed else "larger conductors"
    theirs = isinstance(run, Service) and run.owner == "utility"
    whose = " If this run is the utility's own, its size is theirs: say so." if (
        isinstance(run, Service) and run.owner is None and _is_utility(s, run)
    ) else ""  # fmt: skip
    asked = rating * DWELLING_SHARE if dwelling else rating
    level = "danger" if asked >= GROSS * (carries if dwelling else next_standard(carries)) else None
    return s.found(
        run,
        f"{_wires(run)} carries {figures(carries)} A; the"
        f" {'main at its end' if end else 'device of its source'} is {rating:g} A"
        f"{', and the dwelling rule asks for 83 % of it' if dwelling else ''}.",
        "The utility's own run: ask them what it is made for."
        if theirs
        else f"Run {wire}, or a {'main' if end else 'device'} for what is there.{whose}",
        level="note" if theirs else level,
        fix=(Set(path=f"{run.id}.line_size", value=needed),) if needed and not theirs else (),
        parts=(f"{run.length_ft:g} ft of {wire}",),
    )


def _several_units(
    s: Evidence, run: Service | Feeder, rating: float, carries: float, units: int
) -> Yielded:
    """The 83 % is for one unit's load: of more than one, by the year, which few know."""
    year = f" (run in {run.year})" if run.year else ""
    return s.found(
        run,
        f"{_wires(run)} carries {figures(carries)} A behind {rating:g} A{year}:"
        f" {100 * DWELLING_SHARE:.0f} % is for one dwelling unit, and {units} hang on it.",
        "Ask the office which edition it was run under; reckon the load of all units.",
        level="check",
        authority=rule_authority("service_units", s.edition),
    )


def _against_load(
    s: Evidence, run: Service | Feeder, found: Protected, carries: float
) -> Iterator[Yielded]:
    """Several disconnects may add up to more than the conductors, where the load does not
    (230.90(A) exception 3)."""
    rating = found.rating_a or 0.0
    if found.count > MOST_DISCONNECTS:
        return  # too-many-service-disconnects has it
    load = s.dwelling
    if load is None:
        homes = [b for b in s.filled.buildings if b.permit in (None, "dwelling")]
        asks = f"{homes[0].id}.floor_area_sqft" if homes else ""
        yield s.found(
            run,
            f"{found.count} disconnects, together {rating:g} A, on {_wires(run)} of"
            f" {figures(carries)} A: permitted only where the reckoned load is no more than that.",
            "Reckon the load: enter the floor area and the nameplates.",
            level="check",
            asks=asks,
        )
    elif load.amps > carries:
        needed = _needed(s, run, load.amps, False)
        wire = f"{name(needed)} {metal_name(run.line_material)}" if needed else "larger conductors"
        yield s.found(
            run,
            f"{_wires(run)} carries {figures(carries)} A; the reckoned load is"
            f" {figures(load.amps)} A behind {found.count} disconnects.",
            f"Run {wire}.",
            fix=(Set(path=f"{run.id}.line_size", value=needed),) if needed else (),
            parts=(f"{run.length_ft:g} ft of {wire}",),
        )


@check(
    "service-rating-small",
    "fix",
    looks="The service disconnect of a one-family dwelling is under 100 A, or under its load.",
    why="It trips by its ordinary load, or is replaced by a larger one on the same wires.",
    topic="service_rating",
    needs=(
        "buildings.floor_area_sqft",
        "buildings.permit",
        "buildings.wired_year",
        "circuits.breaker.rating_a",
        "circuits.load_va",
        "panels.main.rating_a",
    ),
)
def service_rating_small(s: Evidence) -> Iterator[Yielded]:
    if len(s.services) != 1:
        return
    panel = s.panels[s.at_service]
    rating = panel.main.rating_a
    home = next((b for b in s.filled.buildings if b.id == panel.building), None)
    if rating is None or not s.known(f"{panel.id}.main.rating_a") or home is None:
        return
    if home.permit != "dwelling":
        return
    load = s.dwelling
    if load is not None and load.amps > rating:
        yield s.found(
            panel,
            f"The reckoned load is {figures(load.amps)} A on a main of {rating:g} A.",
            "A larger service, or less load: what is planned does not fit.",
            level="check",
        )
    elif rating < LEAST_SERVICE_A and home.wired_year is not None:
        old = home.wired_year < LEAST_SERVICE_SINCE
        yield s.found(
            panel,
            f"A main of {rating:g} A; 100 A is the least of a one-family dwelling.",
            "Existing, may remain; a new service is 100 A at least."
            if old
            else "A service of 100 A at least.",
            level="note" if old else None,
        )


LEAST_SERVICE_A, LEAST_SERVICE_SINCE = 100.0, 1993


@check(
    "feeder-under-load",
    "check",
    looks="The reckoned load of a dwelling unit is more than its feeder's device.",
    why="Each unit has its own load on its own feeder; a small one trips all winter.",
    topic="load_device",
    needs=(
        *WIRE_AND_DEVICE,
        "buildings.floor_area_sqft",
        "buildings.permit",
        "circuits.load_va",
        "panels.unit",
    ),
)
def feeder_under_load(s: Evidence) -> Iterator[Yielded]:
    for feeder in s.filled.feeders:
        rating, load = s.rating_of(feeder), s.unit_loads.get(feeder.id)
        if rating is None or load is None or feeder.source in s.ahead:
            continue
        if load.amps > rating and carries_whole_dwelling(s, feeder):
            yield s.found(
                feeder,
                f"The reckoned load behind it is {figures(load.amps)} A, its device {rating:g} A.",
                "A larger feeder with its device, or less load.",
            )
