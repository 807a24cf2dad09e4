"""What the figures of one fault rest on, kept for those that are asked for later."""

import math
from typing import NamedTuple

from .. import conductor
from ..network.build import (
    egc_wire,
    line_wire,
    neutral_wire,
    return_branches,
    run_ohm,
    steel_i2t,
)
from ..site import Circuit, Installation
from ..vocabulary import FactPath
from .conductors import has_armour, steel_name
from .heat import (
    LEAST_SHARE,
    NO_CURRENT_A,
    RECOMPUTE_HOT_ABOVE,
    Carrier,
    HeatUse,
    use_of,
    worst_letthrough,
)
from .port import FaultKind, Place, Seen, home_parts, parallel
from .protection import DeviceSet
from .solved import OPEN_OHM
from .spine import LOWEST_VOLTS, Spine
from .states import States
from .verdict import TimeLimit, time_limit


def lowest_of(volts: float, ohm: float, arc_v: float) -> float:
    """(0.95·|V_oc| − V_arc) / |Z_th|, never under 0 (method 4), A."""
    return settled(max(LOWEST_VOLTS * volts - arc_v, 0.0) / ohm)


def settled(amps: float) -> float:
    """Nothing but the 1 nS leaks flows: no current."""
    return 0.0 if amps < NO_CURRENT_A else amps


class Basis(NamedTuple):
    """How a fault was seen in the weakest and the strongest state, what carries it, what opens.

    ``spine`` and ``place`` are what the figures were computed from; ``states`` is the whole site
    as it is now: its assumptions, its other circuits. ``devices`` None where nothing of this
    place's is ahead of the fault.
    """

    spine: Spine
    states: States | None
    place: Place
    kind: FaultKind
    low: Seen
    high: Seen
    devices: DeviceSet | None

    def of(self, states: States, place: Place) -> "Basis":
        """The same in the site as it is now."""
        kept = (self.kind, self.low, self.high, self.devices)
        return Basis(self.spine, states, place, *kept)

    @property
    def own(self) -> tuple[Carrier, ...]:
        """The conductors of a circuit that hangs on its panel, each with its share."""
        return own_carriers(self.place.circuit, self.kind, self.low)

    @property
    def site(self) -> Installation:
        """The whole site."""
        return self.states.site

    def carriers(self) -> tuple[Carrier, ...]:
        """Every conductor that carries a part of the fault, with its share: the circuit's own,
        then all that the solved network finds."""
        return (*self.own, *self.spine.carriers(self.low.solved, self.low.port))

    def worst_ratio(self) -> float:
        """The conductor that gets hottest for each A²s of the fault."""
        worst = self.spine.worst_ratio(self.low.solved, self.low.port)
        for carrier in self.own:
            worst = max(worst, carrier.ratio)
        return worst

    def time_limit(self) -> TimeLimit:
        """The disconnection time that holds here."""
        spine, place = self.spine, self.place
        return time_limit(spine.volts, place.circuit, spine.earthing(place.panel))

    def heat_s(self, unproved: bool):
        """What heat is judged by, as a function of the fault's current."""
        return lambda amps: self.devices.heat_s(amps, unproved)

    def through(self, low: float, high: float, unproved: bool) -> tuple[float, float]:
        """(the most the devices let through between two currents, A²s; the current it is at)."""
        devices = self.devices
        assert devices is not None
        if devices.certain_from(unproved) <= low and low >= NO_CURRENT_A:
            return devices.heat_s(low, unproved) * high**2, high  # instantaneous at every current
        return worst_letthrough(self.heat_s(unproved), low, high, devices.steps(unproved))

    def heat(self, lowest_a: float, highest_a: float, unproved: bool) -> tuple[HeatUse, ...]:
        """Every conductor's use."""
        if self.devices is None:
            return ()
        through, at = self.through(lowest_a, max(lowest_a, highest_a), unproved)
        slow = self.devices.heat_s(at, unproved)
        return tuple(use_of(c, through, at, slow) for c in self.carriers())

    def heat_hot(self, heat_used: float | None, highest_a: float) -> float | None:
        """Worst use with the circuit's wires at their insulation's limit."""
        circuit = self.place.circuit
        if heat_used is None or heat_used <= RECOMPUTE_HOT_ABOVE or math.isinf(heat_used):
            return None
        if circuit is None or not self.low.home:
            return None
        limit = conductor.insulation_limits()[circuit.insulation]
        ohm = abs(self.low.port.ohm + self._run_ohm(circuit, limit))
        low = lowest_of(abs(self.low.port.volts), ohm, float(self.site.practice.arc_v))
        through, _ = self.through(low, max(low, highest_a), False)
        return through * self.worst_ratio()

    def _run_ohm(self, circuit: Circuit, celsius: float) -> complex:
        """Line and return of a hanging circuit at a conductor temperature, joints included."""
        hz, solved = self.low.solved.hz, self.low.solved
        plain = run_ohm(circuit, celsius, hz)
        line = solved.jointed(f"{circuit.id}.line{self.low.pole}", plain)
        if self.kind is FaultKind.CASE:
            back = return_branches(circuit, celsius, hz)
            return line + parallel(z for _, z in home_parts(solved, circuit, back))
        ((part, _),) = self.low.home
        back_ohm = run_ohm(circuit, celsius, hz, neutral=self.kind is FaultKind.NEUTRAL)
        return line + solved.jointed(f"{circuit.id}.{part}", back_ohm)

    def currents(self, lowest_a: float) -> dict[str, float]:
        """Amperes by branch at the lowest current."""
        seen = self.low
        flows = seen.solved.flows(seen.port)
        found = {
            name: abs(flow) * lowest_a
            for name, flow in zip(seen.solved.branch_ids, flows.tolist(), strict=True)
            if abs(flow) > 1e-9
        }
        circuit = self.place.circuit
        if circuit is not None and not seen.solved.has(f"{circuit.id}.case"):
            found[f"{circuit.id}.line{seen.pole}"] = lowest_a
            for part, share in home_shares(seen).items():
                found[f"{circuit.id}.{part}"] = lowest_a * share
        return found

    def return_ohm(self) -> float:
        """What lies between the enclosure and its panel's ground bar, as solved, Ω: what brings a
        fault from the receptacle to the panel, whatever it is made of; for an enclosure, to the bar
        of the panel that feeds it, or to the source's neutral. ``math.inf`` where nothing does."""
        seen, circuit = self.low, self.place.circuit
        hangs = circuit is not None and not seen.solved.has(f"{circuit.id}.case")
        if hangs or self.kind is not FaultKind.CASE:
            return math.inf if abs(seen.home_ohm) >= OPEN_OHM else abs(seen.home_ohm)
        amps = seen.amps()
        if abs(amps) < NO_CURRENT_A:
            return math.inf
        return abs((seen.case_volts(amps) - seen.volts(self._return_bar(), amps)) / amps)

    def _return_bar(self) -> str:
        place = self.place
        if place.circuit is not None:
            return f"{place.panel}.ground"
        feeders, _ = self.spine.chain(place.panel)
        return f"{feeders[0].source}.ground" if feeders else f"{self.spine.supply.id}.N"

    def other_metal_share(self) -> float:
        """How much of the fault comes home by metal that is no conductor of its circuit: pipes
        and structure, whose own ohms nobody knows."""
        circuit = self.place.circuit
        if circuit is None:
            return 0.0
        seen = self.low
        joined = (f"{circuit.id}.to_{m}" for m in circuit.joined_to)
        return sum(seen.solved.share(b, seen.port) for b in joined)


def home_shares(seen: Seen) -> dict[str, float]:
    """Part of a hanging circuit's return → its share of the fault."""
    return {part: abs(seen.home_ohm / ohm) if ohm else 1.0 for part, ohm in seen.home}


def own_carriers(circuit: Circuit | None, kind: FaultKind, seen: Seen) -> tuple[Carrier, ...]:
    """The conductors of a circuit that hangs on its panel, each with its share; none for one that
    is a part of the network, where the solve finds them."""
    if circuit is None or seen.solved.has(f"{circuit.id}.case"):
        return ()
    at, i2t = circuit.id, conductor.withstand_i2t(line_wire(circuit))
    found = [Carrier(FactPath.of(at, "line_size"), "line wire", i2t, 1.0)]
    if kind is FaultKind.NEUTRAL:
        i2t = conductor.withstand_i2t(neutral_wire(circuit))
        found.append(Carrier(FactPath.of(at, "line_size"), "neutral", i2t, 1.0))
    if kind is not FaultKind.CASE:
        return tuple(found)
    shares = home_shares(seen)
    if (wire := egc_wire(circuit)) and shares.get("egc", 0.0) > LEAST_SHARE:
        i2t = conductor.withstand_i2t(wire)
        found.append(Carrier(FactPath.of(at, "egc_size"), "EGC", i2t, shares["egc"]))
    armoured = has_armour(circuit)
    is_steel = circuit.egc in ("raceway", "both") and (circuit.raceway_size or armoured)
    if is_steel and shares.get("raceway", 0.0) > LEAST_SHARE:
        path = FactPath.of(at, "line_size" if armoured else "raceway_size")
        found.append(Carrier(path, steel_name(circuit), steel_i2t(circuit), shares["raceway"]))
    return tuple(found)
