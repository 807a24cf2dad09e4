"""What the figures of one fault were computed from, kept for those asked for later."""

import math

from .. import conductor
from ..network.build import egc_wire, line_wire, return_branches, wire_ohm
from ..site import Circuit, Installation
from .heat import (
    NO_CURRENT_A,
    RECOMPUTE_HOT_ABOVE,
    Carrier,
    DeviceSet,
    HeatUse,
    use_of,
    worst_letthrough,
)
from .places import Place, Seen, parallel
from .spine import LOWEST_VOLTS, Spine
from .states import States
from .verdict import Criterion, criteria


def lowest_of(volts: float, ohm: float, arc_v: float) -> float:
    """(0.95·|V_oc| − V_arc) / |Z_th|, never under 0 (METHOD 4), A."""
    return settled(max(LOWEST_VOLTS * volts - arc_v, 0.0) / ohm)


def settled(amps: float) -> float:
    """Nothing but the 1 nS leaks flows: no current."""
    return 0.0 if amps < NO_CURRENT_A else amps


class Context:
    """What the figures of one fault were computed from, kept for those asked for later."""

    def __init__(
        self,
        spine: Spine,
        states: States | None,
        place: Place,
        low: Seen,
        high: Seen,
        leg: int,
        pole: int,
    ):
        self.spine, self.states, self.place, self.low, self.high = spine, states, place, low, high
        self.leg, self.pole = leg, pole
        self.devices: DeviceSet | None = None
        self.own: tuple[Carrier, ...] = ()

    def of(self, states: States, place: Place) -> "Context":
        """The same in the site as it is now: its assumptions, its other circuits."""
        now = Context(self.spine, states, place, self.low, self.high, self.leg, self.pole)
        now.devices, now.own = self.devices, self.own
        return now

    @property
    def site(self) -> Installation:
        """The whole site."""
        return self.states.site

    def carriers(self) -> tuple[Carrier, ...]:
        """Every conductor of the loop with its share: the circuit's own, then upstream."""
        return (*self.own, *self.spine.upstream(self.low.solved, self.low.port))

    def worst_ratio(self) -> float:
        """The conductor that gets hottest for each A²s of the fault."""
        upstream = self.spine.upstream_ratio(self.low.solved, self.low.port)
        return max([upstream, *(c.ratio for c in self.own)])

    def heat(self, fault, unproved: bool) -> tuple[HeatUse, ...]:
        """Every conductor's use."""
        if self.devices is None:
            return ()

        def slow(amps: float) -> float:
            return self.devices.slow_s(amps, unproved)

        steps = self.devices.steps(unproved)
        high = max(fault.lowest_a, fault.highest_a)
        through, at = worst_letthrough(slow, fault.lowest_a, high, steps)
        return tuple(use_of(c, through, at, slow(at)) for c in self.carriers())

    def heat_hot(self, fault) -> float | None:
        """Worst use with the circuit's wires at their insulation's limit."""
        used = fault.heat_used
        circuit = self.place.circuit
        if used is None or used <= RECOMPUTE_HOT_ABOVE or math.isinf(used) or circuit is None:
            return None
        if not self.low.home:
            return None
        limit = conductor.insulation_limits()[circuit.insulation]
        line, home = circuit_ohms(self.states, circuit, limit)
        seen = self.low
        ohm = abs(seen.port.ohm + line + home)
        low = lowest_of(abs(seen.port.volts), ohm, float(self.site.practice.arc_v))
        through, _ = worst_letthrough(
            self.devices.slow_s, low, max(low, fault.highest_a), self.devices.steps()
        )
        return through * self.worst_ratio()

    def criteria(self, fault) -> dict[str, Criterion]:
        """The clearing criteria of this fault."""
        seen = self.low
        home = seen.home_ohm if self.place.circuit else seen.port.ohm
        ohm = math.inf if abs(home) > 1e6 or fault.lowest_a == 0 else abs(home)
        final = self.place.circuit is not None
        earthing = self.states.supply.earthing
        return criteria(
            fault.device, fault.lowest_a, fault.slow_s, ohm, self.states.volts, final, earthing
        )

    def currents(self, fault) -> dict[str, float]:
        """Amperes by branch at the lowest current."""
        seen, amps = self.low, fault.lowest_a
        shares = seen.solved.shares(seen.port)
        found = {
            name: float(share) * amps
            for name, share in zip(seen.solved.branch_ids, shares, strict=True)
            if share > 1e-9
        }
        circuit = self.place.circuit
        if circuit is not None and circuit.id + f".line{self.pole}" not in found:
            found[f"{circuit.id}.line{self.pole}"] = amps
            for part, ohm in seen.home:
                share = abs(seen.home_ohm / ohm) if ohm else 1.0  # a run of no length
                found[f"{circuit.id}.{part}"] = amps * share
        return found


def circuit_ohms(states: States, circuit: Circuit, celsius: float) -> tuple[complex, complex]:
    """(line, return) of a circuit at a conductor temperature, ohms."""
    hz = float(states.site.frequency_hz)
    line = wire_ohm(line_wire(circuit), circuit.length_ft, celsius, hz)
    return line, parallel(return_branches(circuit, celsius, hz).values())


def own_carriers(circuit: Circuit | None, seen: Seen) -> tuple[Carrier, ...]:
    """A circuit's line and return conductors, each with its share."""
    if circuit is None:
        return ()
    at = circuit.id
    found = [
        Carrier(f"{at}.line_size", "line wire", conductor.withstand_i2t(line_wire(circuit)), 1.0)
    ]
    shares = {part: abs(seen.home_ohm / ohm) if ohm else 1.0 for part, ohm in seen.home}
    if not seen.home and circuit.egc in ("wire", "both", "raceway"):  # meshed: from the network
        for part in ("egc", "raceway"):
            shares[part] = seen.solved.share(f"{at}.{part}", seen.port)
    if (wire := egc_wire(circuit)) and "egc" in shares:
        i2t = conductor.withstand_i2t(wire)
        found.append(Carrier(f"{at}.egc_size", "ground wire", i2t, shares["egc"]))
    if circuit.egc in ("raceway", "both") and circuit.raceway_size and "raceway" in shares:
        kind = conductor.method(circuit.method).steel_return
        i2t = conductor.raceway_i2t(kind, circuit.raceway_size)
        found.append(Carrier(f"{at}.raceway_size", f"{kind} wall", i2t, shares["raceway"]))
    return tuple(found)
