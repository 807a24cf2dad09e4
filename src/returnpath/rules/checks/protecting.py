"""The chain: every conductor has a device that protects it, every bar one it is made for."""

from collections.abc import Iterator

from ... import sizing, tables
from ...site import Circuit, Feeder, Service, Set, name_of
from ...site.chain import Protection, conductors, opens
from ...vocabulary import FactPath
from ...working import some_of
from ..registry import Evidence, Yielded, check
from .wires import GROSS

FAMILY = "protecting"
name = tables.size_name


@check(
    "device-not-typed",
    "check",
    looks="A conductor whose protecting device nobody has typed: it is not judged until then.",
    why="What protects a wire decides its size, its EGC and how soon a fault is cleared.",
    topic="unprotected",
    needs=(
        "circuits.breaker.rating_a",
        "feeders.breaker.rating_a",
        "panels.main.rating_a",
        "services.egc_size",
        "supplies.breaker.rating_a",
        "supplies.kind",
        "supplies.system",
    ),
)
def device_not_typed(s: Evidence) -> Iterator[Yielded]:
    asked: set[str] = set()
    for run in conductors(s.filled):
        found = s.protected[run.id]
        path = found.at
        assumed = found.device is not None and not s.known(f"{found.at}.rating_a")
        if found.how is not Protection.NOT_TYPED:
            # A main that stands in for one nobody read protects what somebody described.
            described = isinstance(run, Service) and s.known(f"{run.id}.line_size")
            if not (assumed and described and found.how is Protection.LOAD_END):
                continue
            path = FactPath.of(found.at, "rating_a")
        if path in asked or (isinstance(run, Service) and _is_asked_elsewhere(s, run, path)):
            continue
        asked.add(path)
        bound = found.bound_a
        most = f" Ahead of it is {bound:g} A: no more is known." if bound else ""
        yield s.ask(
            run if path.element == run.id else s.elements[path.element],
            path,
            f"Which device protects {name_of(run)}, of how many amperes?{'' if assumed else most}",
        )


def _is_asked_elsewhere(s: Evidence, run: Service, path: str) -> bool:
    """Whether something else asks the same: the check of a generator's cord, or in the metric rule
    set the open question of the cut-out's fuse."""
    supply = s.elements[run.supply]
    if s.is_metric:
        return supply.kind in (None, "utility") and path.startswith(f"{supply.id}.")
    return supply.kind in ("generator", "inverter") and run.egc_size is not None


@check(
    "conductor-unprotected",
    "danger",
    looks="A feeder or circuit that no device of the place protects.",
    why="Nothing opens when it is overloaded or faulted: it burns until the utility's fuse does.",
    topic="unprotected",
    needs=(
        "circuits.breaker.kind",
        "circuits.breaker.rating_a",
        "circuits.line_material",
        "circuits.line_size",
        "feeders.line_material",
        "feeders.line_size",
        "feeders.breaker.kind",
        "feeders.breaker.rating_a",
        "panels.main.kind",
        "panels.main.rating_a",
        "panels.kind",
        "supplies.kind",
        "supplies.system",
    ),
)
def conductor_unprotected(s: Evidence) -> Iterator[Yielded]:
    for run in conductors(s.filled):
        if s.protected[run.id].how is not Protection.UTILITY or _has_own_check(s, run):
            continue
        if isinstance(run, Service) or (isinstance(run, Feeder) and run.source in s.ahead):
            yield s.found(
                run,
                "Its lugs have no device, and what leaves them none either.",
                "A disconnect with its device where it ends.",
                level="fix",
                parts=("service disconnect",),
            )
            continue
        needed = sizing.standard_for(run.line_size, run.line_material) if run.line_size else None
        device = f"a {needed:g} A device" if needed else "a device for its wire"
        yield s.found(
            run,
            "It has no device of its own, and none ahead of it is this place's.",
            f"Give it {device} where it is supplied.",
            fix=(
                Set(path=f"{run.id}.breaker.kind", value="inverse-time"),
                Set(path=f"{run.id}.breaker.rating_a", value=needed),
            )
            if needed
            else (),
            parts=(device,),
        )


def _has_own_check(s: Evidence, run: Circuit | Feeder | Service) -> bool:
    """A transformer's secondary, and in the metric rule set a switch in place of a device."""
    if isinstance(run, Service):
        return bool(s.elements[run.supply].kind == "transformer")
    return s.is_metric and run.breaker.kind == "switch"


@check(
    "bars-under-device",
    "fix",
    looks="The device ahead of a panel is larger than its bars are rated for.",
    why="The bars and their stabs overheat at a load that the device still carries.",
    topic="panel_bars",
    needs=(
        "feeders.breaker.kind",
        "feeders.breaker.rating_a",
        "panels.bus_a",
        "panels.main.kind",
        "panels.main.rating_a",
    ),
)
def bars_under_device(s: Evidence) -> Iterator[Yielded]:
    for panel in s.filled.panels:
        bars = panel.bus_a
        if bars is None:
            continue
        found = [c.at_bars(panel.id) for c in s.chains if c.reaches(panel.id)]
        known = [p for p in found if p.rating_a is not None and s.known(f"{p.at}.rating_a")]
        worst = max(known, key=lambda p: p.rating_a or 0.0, default=None)
        if worst is None or (worst.rating_a or 0.0) <= bars:
            continue
        rating = worst.rating_a or 0.0
        fits = max((r for r in tables.standard_ratings() if r <= bars), default=None)
        where = "its main" if worst.at.element == panel.id else _where(s, worst.at)
        fix = (Set(path=f"{worst.at}.rating_a", value=float(fits)),) if fits else ()
        yield s.found(
            panel,
            f"Bars of {bars:g} A behind {rating:g} A ({where}).",
            f"A {fits:g} A device ahead of it, or a panel with bars of {rating:g} A."
            if fits
            else f"A panel with bars of {rating:g} A.",
            level="danger" if rating >= GROSS * bars else None,
            fix=fix,
            parts=(f"{fits:g} A breaker",) if fits else ("panel",),
        )


def _where(s: Evidence, at: FactPath) -> str:
    """The device ahead, by what it stands in."""
    element = s.elements[at.element]
    return f"of {name_of(element)}"


@check(
    "parallel-sets-small",
    "fix",
    looks="Conductors in parallel that are smaller than 1/0 AWG.",
    why="Small ones share unevenly: one of them carries more than it may.",
    topic="parallel_sets",
    needs=("feeders.line_size", "feeders.sets", "services.line_size", "services.sets"),
)
def parallel_sets_small(s: Evidence) -> Iterator[Yielded]:
    for run in s.outer_runs:
        size = run.line_size
        if (run.sets or 1) < 2 or size is None or tables.is_metric(size):
            continue
        if not s.known(f"{run.id}.line_size"):
            continue
        if tables.area(size) < tables.area(sizing.LEAST_PARALLEL):
            yield s.found(
                run,
                f"{run.sets} sets of {name(size)} in parallel; 1/0 AWG is the least.",
                "One set of larger wire, or sets of 1/0 AWG and larger.",
                fix=(Set(path=f"{run.id}.line_size", value=sizing.LEAST_PARALLEL),),
            )


@check(
    "feeders-in-parallel",
    "fix",
    looks="Two feeders with devices of their own feed one panel at once.",
    why="One opens and the panel stays live by the other; each sees only its share of a fault.",
    topic="parallel_devices",
    needs=("feeders.breaker.rating_a", "study"),
)
def feeders_in_parallel(s: Evidence) -> Iterator[Yielded]:
    ends: dict[str, list[Feeder]] = {}
    for feeder in s.filled.feeders:
        ends.setdefault(feeder.to, []).append(feeder)
    for panel, feeders in ends.items():
        if len(feeders) < 2 or any(f.source in s.ahead for f in feeders):
            continue
        devices = some_of(f"{f.breaker.rating_a:g} A" for f in feeders if opens(f.breaker))
        yield s.found(
            s.panels[panel],
            f"{len(feeders)} feeders come to it"
            f"{f' ({devices})' if devices else ''}: each device sees its share of a fault alone.",
            "One feeder; or a transfer switch, where one of them is a standby.",
        )
