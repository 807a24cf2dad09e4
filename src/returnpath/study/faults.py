"""The fault study: line to case at every exposed metal part, and what follows. METHOD 4 to 8."""

import math
from dataclasses import dataclass
from functools import cached_property

from ..assume import Assumption
from ..device import Breaker, ground_fault_interrupter_slow_s, residual_device_slow_s
from ..site import Circuit
from ..working import Working
from . import legs as unrolled
from . import longest, workings
from .context import Context, lowest_of, own_carriers, settled
from .heat import (
    HeatUse,
    worst_letthrough,
)
from .places import Place, Seen, seen_from
from .shock import body_ma, c1_ma
from .spine import KEEP_FIGURES, LOWEST_VOLTS, Spine
from .states import States
from .verdict import Criterion, Verdict, judge_set

CASE, NEUTRAL, LINE = "line-to-case", "line-to-neutral", "line-to-line"


@dataclass(frozen=True)
class FaultStudy:
    """What one kind of fault at one place does, with one supply driving it.

    Amperes, ohms, seconds, volts, feet. ``lacks`` names the facts without which there is no
    answer; the figures are then None. ``math.inf`` seconds: may never open. What is looked at
    seldom (legs, heat of every conductor, workings) is computed when asked for.
    """

    place: str
    place_name: str
    kind: str
    state: str
    verdict: Verdict
    circuit: Circuit | None = None
    lacks: tuple[str, ...] = ()
    device_at: str = ""
    device: Breaker | None = None
    lowest_a: float | None = None
    highest_a: float | None = None
    loop_ohm: float | None = None
    fast_s: float | None = None
    slow_s: float | None = None
    slow_s_unproved: float | None = None
    heat_used: float | None = None
    heat_used_unproved: float | None = None
    touch_earth_v: float | None = None
    touch_bar_v: float | None = None
    touch_bar_highest_v: float | None = None
    touch_reach_v: dict[str, float] | None = None
    longest_run_ft: float | None = None
    longest_run_unproved_ft: float | None = None
    second_line_s: float | None = None
    context: Context | None = None

    @property
    def multiple(self) -> float | None:
        """Lowest current over the device's rating."""
        if self.lowest_a is None or self.device is None:
            return None
        return self.lowest_a / self.device.rating_a

    @cached_property
    def heat(self) -> tuple[HeatUse, ...]:
        """Every conductor's use on the curve in force."""
        return self.context.heat(self, unproved=False) if self.context else ()

    @cached_property
    def heat_unproved(self) -> tuple[HeatUse, ...]:
        """Every conductor's use if the magnetic trip only began at 20 ×."""
        return self.context.heat(self, unproved=True) if self.context else ()

    @property
    def worst_heat(self) -> HeatUse | None:
        """The conductor that is used most, on the curve in force."""
        return max(self.heat, key=_by_use, default=None)

    @property
    def worst_heat_unproved(self) -> HeatUse | None:
        """The conductor that is used most if the magnetic trip only began at 20 ×."""
        return max(self.heat_unproved, key=_by_use, default=None)

    @cached_property
    def heat_hot(self) -> float | None:
        """Worst use again with this circuit's wires at their limit, where a quarter is used."""
        return self.context.heat_hot(self) if self.context else None

    @property
    def is_wet(self) -> bool:
        """Whether its place is said to be wet."""
        return self.circuit is not None and self.circuit.wet == "yes"

    @property
    def body_ma(self) -> float | None:
        """Milliamperes through a person from the case to earth; METHOD 8."""
        return None if self.touch_earth_v is None else body_ma(self.touch_earth_v, self.is_wet)

    @property
    def body_limit_ma(self) -> float | None:
        """Curve c1 at the slow clearing time, mA."""
        return None if self.slow_s is None else c1_ma(self.slow_s)

    @cached_property
    def criteria(self) -> dict[str, Criterion]:
        """The clearing criteria side by side, by name."""
        return self.context.criteria(self) if self.context and self.device else {}

    @property
    def deciding(self) -> Criterion | None:
        """The criterion that local practice chooses."""
        return self.criteria.get(self.context.site.practice.clearing) if self.context else None

    @cached_property
    def legs(self) -> tuple["unrolled.Leg", ...]:
        """The dominant loop, leg by leg."""
        return unrolled.legs_of(self) if self.context else ()

    @cached_property
    def currents(self) -> dict[str, float]:
        """Amperes of every branch that carries a part, at the lowest current, by branch id."""
        return self.context.currents(self) if self.context else {}

    @cached_property
    def rests_on(self) -> tuple[Assumption, ...]:
        """The assumptions the answer rests on, most effect first."""
        return unrolled.rests_on(self) if self.context else ()

    @cached_property
    def workings(self) -> dict[str, Working]:
        """The working of each figure, by its name."""
        return workings.of_fault(self) if self.context and self.lowest_a is not None else {}


def _by_use(use: HeatUse) -> tuple[float, float]:
    """Most used first; where nothing opens, the one that reaches its limit soonest."""
    return use.fraction, -use.limit_s


def lacks_of(states: States, place: Place) -> tuple[str, ...]:
    """The facts that are never assumed, or that no table could fill."""
    site, missing = states.site, []
    circuit = place.circuit
    if circuit is not None:
        if circuit.breaker.rating_a is None:
            missing.append(f"{circuit.id}.breaker.rating_a")
        elif circuit.line_size is None:
            missing.append(f"{circuit.id}.line_size")
        if circuit.egc is None:
            missing.append(f"{circuit.id}.egc")
        elif circuit.egc in ("wire", "both") and circuit.egc_size is None:
            missing.append(f"{circuit.id}.egc_size")
    missing += states.spine.upstream_lacks(place.panel)
    if states.sources.lowest is None:
        fact = "kva" if states.supply.kva is not None else "r1_ohm"
        missing.append(f"{states.supply.id}.{fact}")
    if any(s.line_size is None for s in site.services if s.supply == states.supply.id):
        missing.append(f"{site.service.id}.line_size")
    return tuple(missing)


def study_case(states: States, place: Place, legs: tuple[int, ...]) -> FaultStudy:
    """Line to case at ``place``; ``legs`` the panel lines of its poles."""
    base = {
        "place": place.id,
        "place_name": place.name,
        "kind": CASE,
        "state": states.supply.id,
        "circuit": place.circuit,
    }
    if lacks := lacks_of(states, place):
        return FaultStudy(verdict=Verdict.NOT_KNOWN, lacks=lacks, **base)
    spine = states.spine
    # Circuits are compared by all that is known or assumed of them, not by name.
    key = (place.id, place.node, place.circuit, legs)
    found = spine.figures.get(key)
    if found is None:
        if len(spine.figures) >= KEEP_FIGURES:
            spine.figures.clear()
        found = spine.figures[key] = _study(spine, place, legs)
    seen, figures = found
    return FaultStudy(**base, context=seen.of(states, place), **figures)


def _study(spine: Spine, place: Place, legs: tuple[int, ...]) -> tuple[Context, dict]:
    """(what the figures were computed from, the figures): of the spine and the place alone."""
    arc = float(spine.site.practice.arc_v)
    hot = [
        (seen_from(s, place, leg, pole), leg, pole)
        for s in spine.hot
        for pole, leg in enumerate(legs, 1)
    ]
    cold = [seen_from(s, place, leg, pole) for s in spine.cold for pole, leg in enumerate(legs, 1)]
    low_seen, leg, pole = min(
        hot, key=lambda h: lowest_of(abs(h[0].port.volts), abs(h[0].ohm), arc)
    )
    high_seen = max(cold, key=lambda s: abs(s.amps()))
    context = Context(spine, None, place, low_seen, high_seen, leg, pole)
    context.own = own_carriers(place.circuit, low_seen)
    return context, _figures(context, place, hot, arc)


def _figures(context: Context, place: Place, hot, arc: float) -> dict:
    """The figures of a line-to-case fault."""
    spine, low_seen, high_seen = context.spine, context.low, context.high
    limit = spine.sources.highest.limit_a
    low = _limited(lowest_of(abs(low_seen.port.volts), abs(low_seen.ohm), arc), limit)
    high = _limited(settled(abs(high_seen.amps())), limit)
    touch = _touch(context, place, [seen for seen, _, _ in hot], limit)
    ohm = abs(low_seen.ohm) if low else math.inf
    figures = {"lowest_a": low, "highest_a": high, "loop_ohm": ohm, **touch}
    device, at, devices = spine.device_path(place, low_seen, context.leg)
    if device is None:
        # Only the utility's fuse is ahead of a supply-side enclosure: not ours to judge.
        return {**figures, "verdict": Verdict.NOT_KNOWN}
    context.devices = devices
    slow, unproved = devices.slow_s(low), devices.slow_s(low, True)
    ratio, top = context.worst_ratio(), max(low, high)
    through, _ = worst_letthrough(devices.slow_s, low, top, devices.steps())
    late, _ = worst_letthrough(
        lambda a: devices.slow_s(a, True), low, top, devices.steps(unproved=True)
    )
    run, run_unproved = _longest(context, place, arc, limit, ratio)
    return {
        **figures,
        "verdict": judge_set([(d, low * share) for d, share in devices.devices]),
        "device": device,
        "device_at": at,
        "fast_s": devices.fast_s(high),
        "slow_s": slow,
        "slow_s_unproved": unproved,
        "heat_used": _use(through, ratio),
        "heat_used_unproved": _use(late, ratio),
        "longest_run_ft": run,
        "longest_run_unproved_ft": run_unproved,
        "second_line_s": _second_line(place.circuit, low),
    }


def _use(through: float, ratio: float) -> float:
    return through * ratio if ratio else 0.0


def _limited(amps: float, limit: float | None) -> float:
    return amps if limit is None else min(amps, limit)


def _touch(context: Context, place: Place, seen_all: list[Seen], limit: float | None) -> dict:
    """Steady, full voltage, 75 °C: against remote earth, the service bar, and what is in reach."""
    bar = f"{context.spine.site.panel.id}.N"
    reach = place.circuit.reach if place.circuit else ()
    earth = to_bar = 0.0
    within = dict.fromkeys(reach, 0.0)

    def volts(seen: Seen):
        amps = seen.amps()
        # A limited source's volts collapse with its current.
        scale = min(1.0, limit / abs(amps)) if limit and abs(amps) > 0 else 1.0
        case = seen.case_volts(amps)
        return amps, case, scale

    for seen in seen_all:
        amps, case, scale = volts(seen)
        earth = max(earth, abs(case) * scale)
        to_bar = max(to_bar, abs(case - seen.volts(bar, amps)) * scale)
        for metal in reach:
            gap = abs(case - seen.volts(f"{metal}.metal", amps)) * scale
            within[metal] = max(within[metal], gap)
    amps, case, scale = volts(context.high)
    return {
        "touch_earth_v": earth,
        "touch_bar_v": to_bar,
        "touch_bar_highest_v": abs(case - context.high.volts(bar, amps)) * scale,
        "touch_reach_v": within,
    }


def _second_line(circuit: Circuit | None, amps: float) -> float | None:
    """A GFCI or an RCD at this fault: a second line of defence, never merged in."""
    if circuit is None:
        return None
    if circuit.rcd_ma is not None:
        return residual_device_slow_s(amps, circuit.rcd_ma, circuit.rcd_delayed == "yes")
    return ground_fault_interrupter_slow_s(amps) if circuit.gfci == "yes" else None


def _longest(
    context: Context, place: Place, arc, limit, ratio
) -> tuple[float | None, float | None]:
    """Longest run on the curve in force, and if the magnetic trip only began at 20 ×."""
    circuit, devices = place.circuit, context.devices
    feet = circuit.length_ft or 0.0 if circuit is not None else 0.0
    if feet < longest.LEAST_FT or not context.low.home:
        return None, None
    device = devices.devices[0][0]
    search = longest.RunSearch(
        hot=context.spine.hot,
        cold=context.spine.cold,
        seen=lambda solved: seen_from(solved, place, context.leg, context.pole),
        length_ft=circuit.length_ft,
        arc_v=arc,
        lowest_volts=LOWEST_VOLTS,
        limit_a=limit,
        devices=devices,
        ratio=ratio,
    )
    practice = context.spine.site.practice.clearing
    volts, earthing = context.spine.volts, context.spine.supply.earthing
    run = search.run(practice, volts, earthing, unproved=False)
    if not device.is_assumed:
        return run, run
    return run, search.run(practice, volts, earthing, unproved=True)
