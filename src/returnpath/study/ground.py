"""The soil as a path: a line conductor put on one electrode alone. method 7 and 8.

    L1 ----> e.top                 its own conductor lifted: nothing but soil carries the current
               |  ~~ surface volts fall with distance ~~
             soil                  home by every other electrode and the utility's earth

The amperes come from the whole place's network; the volts at the surface from what each electrode
gives to the soil. What a breaker does with so little current is judged beside it.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from .. import earth, tables
from ..assume import Assumed
from ..network.soil import shapes_on_plan
from ..network.solver import EARTH, Network, Solution
from ..site import Circuit, Electrode, Feeder
from ..site.plan import plan_of
from ..vocabulary.units import FOOT_M
from .spine import HOT_C
from .states import States

STEP_M = 1.0  # a person's step
REACH_M = 1.0  # an arm's reach
PROFILE_FT = 20.0
LEAST_TRIP = 1.35  # of a rating, under which a breaker may never trip
MOST_RODS = 4


@dataclass(frozen=True)
class RodsAdded:
    """With so many rods of the same make, 6 ft apart: their ohms, and the amperes."""

    count: int
    ohm: float
    amps: float


@dataclass(frozen=True)
class GroundStudy:
    """One electrode alone, driven by a line conductor.

    ``amps`` into it, ``volts`` of it above remote earth, ``profile`` (feet along the line, volts at
    the surface), ``step_v`` and ``reach_v`` the most over one step and from the electrode to an
    arm's reach; ``breaker_a`` the least breaker of the place and ``trips`` whether even that one
    would; ``added`` the same with more rods; ``is_placed`` whether its spot is known.
    """

    electrode: str
    amps: float
    volts: float
    ohm: float
    rest_ohm: float
    profile: tuple[tuple[float, float], ...]
    step_v: float
    reach_v: float
    breaker_a: float | None
    trips: bool
    added: tuple[RodsAdded, ...]
    is_placed: bool
    soil_ohm_m: float
    is_soil_assumed: bool


def ground_study(assumed: Assumed, states: States, electrode_id: str) -> GroundStudy | None:
    """The study of one electrode; None where its ohms or shape are not known."""
    site = assumed.site
    electrode = next((e for e in site.electrodes if e.id == electrode_id), None)
    if electrode is None or electrode.ohm is None:
        return None
    shapes = _shapes(assumed)
    if electrode_id not in shapes:
        return None
    line = f"{site.panel.id}.L1"
    solution = _lifted(states, electrode)
    if line not in solution.network.nodes:
        return None
    top = f"{electrode_id}.top"
    fault = solution.fault(line, top)
    amps, volts = abs(fault.amps), abs(solution.at(top, fault.volts))
    soil = site.soil_ohm_m or tables.assumed_number("soil resistivity ohm-m")
    flows = _into_soil(solution, fault.volts, shapes, amps, electrode_id)
    profile, step_v, reach_v = _surface(shapes, flows, soil, electrode_id, volts)
    own = shapes[electrode_id].ohm
    rest = abs(fault.thevenin_ohm) - own  # under 0 where others near it help to carry
    runs: list[Circuit | Feeder] = [*site.circuits, *site.feeders]
    ratings = [r.breaker.rating_a for r in runs if r.breaker.rating_a]
    least = min(ratings, default=None)
    return GroundStudy(
        electrode=electrode_id,
        amps=amps,
        volts=volts,
        ohm=own,
        rest_ohm=max(rest, 0.0),
        profile=profile,
        step_v=step_v,
        reach_v=reach_v,
        breaker_a=least,
        trips=least is not None and amps >= LEAST_TRIP * least,
        added=_added(shapes[electrode_id], soil, abs(fault.open_volts), rest),
        is_placed=electrode_id in shapes_on_plan(site.electrodes),
        soil_ohm_m=soil,
        is_soil_assumed=site.soil_ohm_m is None,
    )


def _shapes(assumed: Assumed) -> dict[str, earth.Shape]:
    """Every electrode's shape: where it was placed, else where it is drawn."""
    site = assumed.site
    spots = plan_of(site).spots
    drawn = tuple(
        e.model_copy(update={"east_ft": spots[e.id].x, "north_ft": spots[e.id].y})
        for e in site.electrodes
    )
    return shapes_on_plan(drawn)


def _lifted(states: States, electrode: Electrode) -> Solution:
    """The place with one electrode's conductor lifted, no circuits, conductors hot."""
    source = states.sources.highest
    solved = states.solve(source, HOT_C, HOT_C, 1.0, circuits=())[0]
    lifted = Network()
    for name in solved.network.nodes:
        if name != EARTH:
            lifted.node(name)
    for branch in solved.network.branches.values():
        if branch.id != f"{electrode.id}.gec":
            lifted.branch(branch.id, branch.a, branch.b, branch.ohm)
    for coupling in solved.network.couplings.values():
        lifted.couple(coupling)
    lifted.node(f"{electrode.id}.top")
    return lifted.factor()


def _into_soil(
    solution: Solution, volts: np.ndarray, shapes: dict[str, earth.Shape], amps: float, driven: str
) -> dict[str, float]:
    """Amperes that each electrode gives to the soil: the driven one's, less what others take."""
    found = dict.fromkeys(shapes, 0.0)
    for id_ in shapes:
        if f"{id_}.soil" in solution.network.branches:
            found[id_] = -abs(solution.current(f"{id_}.soil", volts))
    for name, coupling in solution.network.couplings.items():
        for (positive, negative), flow in zip(
            coupling.ports, solution.port_currents(name, volts), strict=True
        ):
            id_ = positive.removesuffix(".top")
            if negative == EARTH and id_ in found:
                found[id_] = -abs(flow)
    found[driven] = amps
    return found


def _surface(
    shapes: dict[str, earth.Shape], flows: dict[str, float], soil: float, driven: str, most: float
) -> tuple[tuple[tuple[float, float], ...], float, float]:
    """(profile, step volts, reach volts) along the line through the driven electrode, away from
    the nearest other one."""
    at = shapes[driven]
    x, y = at.points()[:, :2].mean(axis=0)
    others = [s for id_, s in shapes.items() if id_ != driven]
    away = _away((x, y), others)
    along = np.linspace(-PROFILE_FT, PROFILE_FT, 161) * FOOT_M
    line = np.column_stack([x + along * away[0], y + along * away[1]])
    used = list(shapes)
    volts = earth.surface_volts([shapes[i] for i in used], [flows[i] for i in used], soil, line)
    volts = np.clip(volts, 0.0, most)
    gap = along[1] - along[0]
    step, reach = max(round(STEP_M / gap), 1), max(round(REACH_M / gap), 1)
    step_v = float(np.max(np.abs(volts[step:] - volts[:-step])))
    middle = len(along) // 2
    reach_v = float(most - min(volts[middle + reach], volts[middle - reach]))
    profile = tuple((float(a / FOOT_M), float(v)) for a, v in zip(along, volts, strict=True))
    return profile, step_v, reach_v


def _away(at: tuple[float, float], others: Sequence[earth.Shape]) -> tuple[float, float]:
    """The way across the line to the nearest other electrode: east where there is none."""
    nearest = min(others, key=lambda s: math.hypot(s.x - at[0], s.y - at[1]), default=None)
    if nearest is None:
        return 1.0, 0.0
    dx, dy = nearest.x - at[0], nearest.y - at[1]
    length = math.hypot(dx, dy)
    return (1.0, 0.0) if length < 1e-6 else (-dy / length, dx / length)


def _added(shape: earth.Shape, soil: float, volts: float, rest: float) -> tuple[RodsAdded, ...]:
    """The same with one, two, three, four of it in a row, 6 ft apart."""
    if shape.kind != "rod":
        return ()
    found = []
    for count in range(1, MOST_RODS + 1):
        row = [
            earth.Shape("rod", 6 * FOOT_M * n, 0.0, shape.ohm, shape.length) for n in range(count)
        ]
        ohm = earth.sum_of(row, soil)
        found.append(RodsAdded(count, ohm, volts / (max(ohm + rest, 0.01))))
    return tuple(found)
