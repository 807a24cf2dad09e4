"""The fault study of each circuit: line to case at its end, and what follows. METHOD 4 to 8."""

import math
from dataclasses import dataclass, field

from .. import conductor
from ..assume import Assumed, Assumption, assume
from ..conductor import Wire
from ..device import Breaker, ground_fault_interrupter_slow_s
from ..network.build import egc_wire, line_wire, return_branches, service_wire
from ..network.solver import Fault
from ..site import Circuit, Device, Installation
from ..working import Working
from . import longest, workings
from .heat import (
    NO_CURRENT_A,
    RECOMPUTE_HOT_ABOVE,
    Carrier,
    DeviceSet,
    HeatUse,
    heat_used,
)
from .legs import Leg, legs_of, rests_on
from .states import HOT_C, LOWEST_VOLTS, Solved, States
from .verdict import Criterion, Verdict, criteria, judge_set


@dataclass(frozen=True)
class LoopStudy:
    """What a line-to-case fault at the end of one circuit does.

    Amperes, ohms, seconds, volts, feet. ``lacks`` names the facts without which there is no
    answer; the figures are then None. ``highest_a`` and ``lowest_a`` are through the branch
    breaker. ``math.inf`` seconds: may never open.
    """

    circuit: Circuit
    verdict: Verdict
    lacks: tuple[str, ...] = ()
    lowest_a: float | None = None
    highest_a: float | None = None
    loop_ohm: float | None = None
    fast_s: float | None = None
    slow_s: float | None = None
    slow_s_unproved: float | None = None
    heat: tuple[HeatUse, ...] = ()
    heat_unproved: tuple[HeatUse, ...] = ()
    heat_hot: float | None = None
    touch_earth_v: float | None = None
    touch_bar_v: float | None = None
    touch_bar_highest_v: float | None = None
    longest_run_ft: float | None = None
    longest_run_unproved_ft: float | None = None
    gfci_slow_s: float | None = None
    line_to_neutral_a: tuple[float, float] | None = None
    line_to_line_a: tuple[float, float] | None = None
    criteria: dict[str, Criterion] = field(default_factory=dict)
    deciding: Criterion | None = None
    legs: tuple[Leg, ...] = ()
    currents: dict[str, float] = field(default_factory=dict)
    rests_on: tuple[Assumption, ...] = ()
    workings: dict[str, Working] = field(default_factory=dict)
    device: Breaker | None = None

    @property
    def multiple(self) -> float | None:
        """Lowest current over the breaker's rating."""
        return None if self.lowest_a is None else self.lowest_a / self.device.rating_a

    @property
    def worst_heat(self) -> HeatUse | None:
        """The conductor that is used most, on the curve in force."""
        return max(self.heat, key=_by_use, default=None)

    @property
    def worst_heat_unproved(self) -> HeatUse | None:
        """The conductor that is used most if the magnetic trip began at 20 × only."""
        return max(self.heat_unproved, key=_by_use, default=None)


@dataclass(frozen=True)
class SiteStudy:
    """A site's studies: loops by circuit id, and what the panel may have to interrupt."""

    assumed: Assumed
    loops: dict[str, LoopStudy]
    available_a: float | None
    why_not: str = ""


def _by_use(use: HeatUse) -> tuple[float, float]:
    """Most used first; where nothing opens, the one that reaches its limit soonest."""
    return use.fraction, -use.limit_s


def breaker_of(device: Device) -> Breaker | None:
    """The core's breaker for a described one; None while its rating is not known.

    A maker's figure given for one end alone is not a band: the assumed one stands.
    """
    if device.rating_a is None:
        return None
    if device.magnetic == "none":
        return Breaker(device.rating_a, magnetic=False)
    if device.lo is None or device.hi is None:
        return Breaker(device.rating_a)
    return Breaker(device.rating_a, device.lo, device.hi)


def study(site: Installation) -> SiteStudy:
    """Study every circuit of a site, gaps filled by ``assume``."""
    assumed = assume(site)
    states = States(assumed)
    if assumed.site.service.line_size is None:
        missing = (f"{site.service.id}.line_size",)
        loops = {c.id: _unknown(c, missing) for c in assumed.site.circuits}
        return SiteStudy(assumed, loops, None)
    loops = {c.id: _loop(states, c) for c in assumed.site.circuits}
    return SiteStudy(assumed, loops, states.available_a, states.sources.why_not)


def _unknown(circuit: Circuit, lacks: tuple[str, ...]) -> LoopStudy:
    return LoopStudy(circuit, Verdict.NOT_KNOWN, lacks)


def _lacks(states: States, circuit: Circuit) -> tuple[str, ...]:
    """The facts that are never assumed, or that no table could fill."""
    site = states.site
    missing = []
    if circuit.breaker.rating_a is None:
        missing.append(f"{circuit.id}.breaker.rating_a")
    elif circuit.line_size is None:
        missing.append(f"{circuit.id}.line_size")
    if circuit.egc is None:
        missing.append(f"{circuit.id}.egc")
    elif circuit.egc in ("wire", "both") and circuit.egc_size is None:
        missing.append(f"{circuit.id}.egc_size")
    if site.panel.bond is None:
        missing.append(f"{site.panel.id}.bond")
    if states.sources.lowest is None:
        missing.append(f"{site.supply.id}.kva")
    return tuple(missing)


def _loop(states: States, circuit: Circuit) -> LoopStudy:
    lacks = _lacks(states, circuit)
    if lacks:
        return _unknown(circuit, lacks)
    site, device = states.site, breaker_of(circuit.breaker)
    main = breaker_of(site.panel.main)
    ends = (f"{circuit.id}.L1", f"{circuit.id}.case")
    hot = [(s, s.solution.fault(*ends)) for s in states.hot]
    cold = [(s, s.solution.fault(*ends)) for s in states.cold]
    arc = float(site.practice.arc_v)
    low_solved, low_fault = min(hot, key=lambda pair: lowest_of(pair[1], arc))
    high_solved, high_fault = max(cold, key=lambda pair: abs(pair[1].amps))
    low, high = lowest_of(low_fault, arc), _settled(abs(high_fault.amps))
    share = _main_share(site, low_solved, low_fault)
    devices = DeviceSet(((device, 1.0), (main, share)))
    slow, slow_unproved = devices.slow_s(low), devices.slow_s(low, unproved=True)
    carriers = _carriers(site, circuit, low_solved, low_fault)
    heat = _heat(devices, carriers, low, high, unproved=False)
    heat_unproved = _heat(devices, carriers, low, high, unproved=True)
    return_ohm = _parallel(return_branches(circuit, HOT_C, site.frequency_hz))
    judged = criteria(device, low, slow, return_ohm, states.volts)
    run, run_unproved = _longest(states, circuit, devices, carriers, arc)
    touched = [(s, f) for s, f in hot]
    earth_v = max(abs(s.solution.at(ends[1], f.volts)) for s, f in touched)
    bar = f"{site.panel.id}.N"
    legs = legs_of(site, circuit, low_solved, low_fault)
    verdict = judge_set([(device, low), (main, low * share)])
    found = LoopStudy(
        circuit=circuit,
        verdict=verdict,
        lowest_a=low,
        highest_a=high,
        loop_ohm=abs(low_fault.thevenin_ohm) if low else math.inf,
        fast_s=devices.fast_s(high),
        slow_s=slow,
        slow_s_unproved=slow_unproved,
        heat=heat,
        heat_unproved=heat_unproved,
        heat_hot=_heat_hot(states, circuit, devices, heat, high, arc),
        touch_earth_v=earth_v,
        touch_bar_v=max(_between(s, f, ends[1], bar) for s, f in touched),
        touch_bar_highest_v=_between(high_solved, high_fault, ends[1], bar),
        longest_run_ft=run,
        longest_run_unproved_ft=run_unproved,
        gfci_slow_s=_second_line(circuit, low),
        line_to_neutral_a=_other(states, circuit, "N", arc),
        line_to_line_a=_other(states, circuit, "L2", arc),
        criteria=judged,
        deciding=judged[site.practice.clearing],
        legs=legs,
        currents=_currents(low_solved, low_fault, low),
        rests_on=rests_on(states.assumed, circuit, legs, verdict),
        device=device,
    )
    found.workings.update(workings.of_loop(found, states, low_fault, high_fault))
    return found


def lowest_of(fault: Fault, arc_v: float) -> float:
    """(0.95·|V_oc| − V_arc) / |Z_th|, never under 0 (METHOD 4), A."""
    volts = LOWEST_VOLTS * abs(fault.open_volts) - arc_v
    return _settled(max(volts, 0.0) / abs(fault.thevenin_ohm))


def _settled(amps: float) -> float:
    """Nothing but the 1 nS leaks flows: no current."""
    return 0.0 if amps < NO_CURRENT_A else amps


def _between(solved: Solved, fault: Fault, a: str, b: str) -> float:
    return abs(solved.solution.at(a, fault.volts) - solved.solution.at(b, fault.volts))


def _main_share(site: Installation, solved: Solved, fault: Fault) -> float:
    through = abs(solved.solution.current(f"{site.panel.id}.main1", fault.volts))
    return min(through / abs(fault.amps), 1.0) if abs(fault.amps) > NO_CURRENT_A else 1.0


def _currents(solved: Solved, fault: Fault, lowest_a: float) -> dict[str, float]:
    """Amperes of every branch at the lowest current, by branch id."""
    scale = lowest_a / abs(fault.amps) if abs(fault.amps) > NO_CURRENT_A else 0.0
    return {
        name: abs(solved.solution.current(name, fault.volts)) * scale
        for name in solved.network.branches
    }


def _carriers(site, circuit: Circuit, solved: Solved, fault: Fault) -> tuple[Carrier, ...]:
    """Every conductor of the loop with its share of the fault's current."""
    run, at = site.service, circuit.id
    total = abs(fault.amps)

    def share(branch: str) -> float:
        if total < NO_CURRENT_A:
            return 0.0
        return abs(solved.solution.current(branch, fault.volts)) / total

    def wire(path: str, label: str, made: Wire, branch: str) -> Carrier:
        return Carrier(path, label, conductor.withstand_i2t(made), share(branch))

    found = [
        wire(f"{run.id}.line_size", "service line", service_wire(site), f"{run.id}.line1"),
        wire(f"{at}.line_size", "line wire", line_wire(circuit), f"{at}.line1"),
        wire(
            f"{run.id}.neutral_size",
            "service neutral",
            service_wire(site, True),
            f"{run.id}.neutral",
        ),
    ]
    if made := egc_wire(circuit):
        found.append(wire(f"{at}.egc_size", "ground wire", made, f"{at}.egc"))
    if f"{at}.raceway" in solved.network.branches:
        kind = conductor.method(circuit.method).steel_return
        i2t = conductor.raceway_i2t(kind, circuit.raceway_size)
        found.append(Carrier(f"{at}.raceway_size", f"{kind} wall", i2t, share(f"{at}.raceway")))
    panel = site.panel
    if panel.bond == "in" and panel.bond_kind == "wire" and panel.bond_size:
        made = Wire(panel.bond_size, "copper", "PVC")
        found.append(wire(f"{panel.id}.bond_size", "bonding jumper", made, f"{panel.id}.bond"))
    return tuple(found)


def _heat(devices, carriers, low, high, unproved) -> tuple[HeatUse, ...]:
    steps = list(devices.steps(unproved))
    return tuple(
        heat_used(c, lambda amps: devices.slow_s(amps, unproved), low, max(low, high), steps)
        for c in carriers
    )


def _parallel(branches: dict[str, complex]) -> float:
    if not branches:
        return math.inf
    if 0 in branches.values():  # a run of no length
        return 0.0
    return abs(1 / sum(1 / z for z in branches.values()))


def _second_line(circuit: Circuit, amps: float) -> float | None:
    """A class A interrupter at this fault: a second line of defence, never merged in."""
    return ground_fault_interrupter_slow_s(amps) if circuit.gfci == "yes" else None


def _other(states: States, circuit: Circuit, end: str, arc: float) -> tuple[float, float] | None:
    """(lowest, highest) of a fault from line 1 to the neutral or to the other line."""
    a, b = f"{circuit.id}.L1", f"{circuit.id}.{end}"
    if b not in states.hot[0].network.nodes:
        return None
    lows = [lowest_of(s.solution.fault(a, b), arc) for s in states.hot]
    highs = [abs(s.solution.fault(a, b).amps) for s in states.cold]
    return min(lows), max(highs)


def _radial(solved: Solved, circuit: Circuit) -> tuple[float, complex]:
    """(open volts, ohms) between line and ground at the circuit's panel."""
    fault = solved.solution.fault(f"{circuit.panel}.L1", f"{circuit.panel}.ground")
    return abs(fault.open_volts), fault.thevenin_ohm


def _ohm_per_ft(site, circuit: Circuit, celsius: float) -> complex | None:
    """Line and return of a circuit, ohms a foot; None where nothing comes home."""
    one = circuit.model_copy(update={"length_ft": 1.0})
    parts = return_branches(one, celsius, site.frequency_hz)
    if not parts:
        return None
    home = 1 / sum(1 / z for z in parts.values())
    line = conductor.impedance(line_wire(circuit), 1.0, celsius, site.frequency_hz)
    return line + home


def _longest(states, circuit, devices, carriers, arc) -> tuple[float | None, float | None]:
    """Longest run on the curve in force, and if the magnetic trip began at 20 × only."""
    site, device = states.site, devices.devices[0][0]
    per_ft = _ohm_per_ft(site, circuit, HOT_C)
    if per_ft is None:
        return None, None
    cold_per_ft = _ohm_per_ft(site, circuit, states.cold[0].state.temperature_c)
    lows = [
        longest.amps_at(max(LOWEST_VOLTS * volts - arc, 0.0), ohm, per_ft)
        for volts, ohm in (_radial(s, circuit) for s in states.hot)
    ]
    highs = [
        longest.amps_at(volts, ohm, cold_per_ft)
        for volts, ohm in (_radial(s, circuit) for s in states.cold)
    ]
    return_per_ft = _parallel(
        return_branches(circuit.model_copy(update={"length_ft": 1.0}), HOT_C, site.frequency_hz)
    )

    def run(unproved: bool) -> float | None:
        judged = (
            Breaker(device.rating_a, device.band_lo, device.unproved_hi)
            if (unproved and device.is_assumed)
            else device
        )

        def clears(length: float) -> bool:
            low = min(at(length) for at in lows)
            met = criteria(
                judged, low, devices.slow_s(low, unproved), return_per_ft * length, states.volts
            )
            return met[site.practice.clearing].met

        def holds(length: float) -> bool:
            low, high = min(at(length) for at in lows), max(at(length) for at in highs)
            return all(h.fraction <= 1 for h in _heat(devices, carriers, low, high, unproved))

        return longest.longest_run_ft(clears, holds)

    on_curve = run(unproved=False)
    return on_curve, run(unproved=True) if device.is_assumed else on_curve


def _heat_hot(states, circuit, devices, heat, high, arc) -> float | None:
    """Worst use again with this circuit's wires at their limit, where a quarter is used."""
    worst = max(heat, key=_by_use)
    per_ft = _ohm_per_ft(states.site, circuit, conductor.insulation_limits()[circuit.insulation])
    if worst.fraction <= RECOMPUTE_HOT_ABOVE or math.isinf(worst.fraction) or per_ft is None:
        return None
    low = math.inf
    for solved in states.hot:
        volts, ohm = _radial(solved, circuit)
        at = longest.amps_at(max(LOWEST_VOLTS * volts - arc, 0.0), ohm, per_ft)
        low = min(low, at(circuit.length_ft))
    hot = _heat(devices, tuple(h.carrier for h in heat), low, high, unproved=False)
    return max(h.fraction for h in hot)
