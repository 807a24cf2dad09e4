"""The solved states of a site that every fault of it shares. METHOD 4.

One set for each supply that is drawn. Each study runs with the utility's neutral earth as
entered, or at both ends where it is not known: 0.2 and 25 Ω, the worse kept.
"""

from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np

from .. import conductor, tables
from ..assume import Assumed
from ..conductor import Wire
from ..device import Breaker
from ..network.build import (
    State,
    build,
    egc_wire,
    is_meshed,
    line_wire,
    neutral_wire,
    return_branches,
    service_wire,
    shared_owners,
    wire_ohm,
)
from ..network.solver import EARTH, Network, Solution
from ..site import Supply
from .heat import Carrier, DeviceSet
from .sources import Sources, choose

OPEN_OHM = 1e9
LEAST_SHARE = 1e-3  # a device or conductor with less of a fault has no part in it

HOT_C, COLD_C, OUTDOOR_COLD_C = 75.0, 25.0, -20.0
LOWEST_VOLTS, HIGHEST_VOLTS, INTERRUPTING_VOLTS = 0.95, 1.0, 1.05


@dataclass(frozen=True)
class Port:
    """A pair of nodes seen from outside: open volts, Z_th, and node volts per ampere drawn."""

    a: str
    b: str
    volts: complex
    ohm: complex
    column: np.ndarray


class Solved:
    """One state, its network and its solution, with the ports that were asked for."""

    def __init__(self, state: State, network: Network, site, shared: dict):
        self.state, self.network, self.shared = state, network, shared
        self.joints = {j.on: j for j in site.joints}
        self.hz = float(site.frequency_hz)
        self.owners = shared_owners(site)
        #: The bonds that belong: one neutral-to-ground connection at the service.
        self.service_bonds = {f"{s.to}.bond" for s in site.services}
        self.solution: Solution = network.factor()
        self._ports: dict[tuple[str, str], Port] = {}
        self._shares: dict[tuple[str, str], np.ndarray] = {}

    def port(self, a: str, b: str) -> Port:
        """The port between two nodes; solved when first asked for."""
        found = self._ports.get((a, b))
        if found is None:
            s = self.solution
            column = s.column(a, b)
            ohm = s.at(a, column) - s.at(b, column)
            found = self._ports[a, b] = Port(a, b, s.at(a) - s.at(b), ohm, column)
        return found

    def volts(self, node: str, port: Port, amps: complex) -> complex:
        """Volts of a node while ``amps`` are drawn from ``port``."""
        return self.solution.at(node) - amps * self.solution.at(node, port.column)

    def share(self, branch_id: str, port: Port) -> float:
        """Amperes in a branch for each ampere drawn from ``port`` (loads off)."""
        index = self._branch_index.get(branch_id)
        return 0.0 if index is None else float(self.shares(port)[index])

    def shares(self, port: Port) -> np.ndarray:
        """Amperes of every branch for each ampere drawn from ``port``, in ``branch_ids``."""
        found = self._shares.get((port.a, port.b))
        if found is None:
            a, b, siemens = self._ends
            column = np.append(port.column, 0)  # the last row is earth
            found = self._shares[port.a, port.b] = np.abs((column[a] - column[b]) * siemens)
        return found

    def currents(self, volts: np.ndarray) -> np.ndarray:
        """Amperes of every branch at these node volts, in ``branch_ids``."""
        a, b, siemens = self._ends
        full = np.append(volts, 0)
        return np.abs((full[a] - full[b]) * siemens)

    def run_ohms(self, circuit) -> tuple[complex, dict[str, complex]]:
        """(a line's ohms, the ohms of each way home) of a circuit at this state's temperature."""
        key = (self.state.temperature_c, circuit.id)
        found = self.shared.get(key)
        if found is None:
            line = wire_ohm(line_wire(circuit), circuit.length_ft, key[0], self.hz)
            found = self.shared[key] = line, return_branches(circuit, key[0], self.hz)
        return found

    def jointed(self, branch: str, ohm: complex) -> complex:
        """Ohms of a circuit's branch with the joint that is on it."""
        joint = self.joints.get(branch)
        if joint is None:
            return ohm
        return complex(OPEN_OHM) if joint.open == "yes" else ohm + (joint.ohm or 0.0)

    @cached_property
    def branch_ids(self) -> list[str]:
        """The branches in the order of ``shares``."""
        return list(self.network.branches)

    @cached_property
    def _branch_index(self) -> dict[str, int]:
        return {name: index for index, name in enumerate(self.network.branches)}

    @cached_property
    def _ends(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        index = {**self.network.nodes, EARTH: len(self.network.nodes)}
        branches = self.network.branches.values()
        a = np.array([index[br.a] for br in branches], dtype=int)
        b = np.array([index[br.b] for br in branches], dtype=int)
        return a, b, np.array([1 / br.ohm for br in branches], dtype=complex)


class States:
    """The states of one supply of a site whose gaps are filled, solved when first asked for."""

    def __init__(self, assumed: Assumed, supply: Supply):
        self.assumed = assumed
        self.site = assumed.site
        self.supply = supply
        self.sources: Sources = choose(assumed, supply)
        self._ohms: dict = {}  # ohms of circuits by temperature, for every solved state

    @property
    def volts(self) -> float:
        """Line to neutral, V."""
        return self.sources.highest.volts

    @cached_property
    def meshed(self):
        """The circuits that are more than a line and a return hanging on their panel, and the
        partners that share a neutral with one."""
        ids = {c.id for c in self.site.circuits if is_meshed(c)}
        for second, first in shared_owners(self.site).items():
            if ids & {first, second}:
                ids |= {first, second}
        return tuple(c for c in self.site.circuits if c.id in ids)

    def utility_earths(self) -> tuple[float, ...]:
        """Ohms of the utility's neutral to earth: as entered, else both ends."""
        for supply in self.site.supplies:
            if supply.kind == "utility" and supply.earth_ohm is not None:
                return (supply.earth_ohm,)
        text = tables.assumption_texts()["utility neutral earth ohm"][0]
        return tuple(float(w) for w in text.replace(":", "").split() if w[0].isdecimal())

    def solve(self, source, celsius, outdoor, factor, loads=False, circuits=None):
        """One Solved for each utility earth."""
        found = []
        for ohm in self.utility_earths():
            state = State(self.supply.id, source, celsius, outdoor, factor, ohm, loads)
            found.append(Solved(state, build(self.assumed, state, circuits), self.site, self._ohms))
        return tuple(found)

    @cached_property
    def hot(self) -> tuple[Solved, ...]:
        """Conductors at 75 °C, full voltage: the lowest study's source, before 0.95 and arc."""
        if self.sources.lowest is None:
            return ()
        return self.solve(self.sources.lowest, HOT_C, HOT_C, 1.0, circuits=self.meshed)

    @cached_property
    def cold(self) -> tuple[Solved, ...]:
        """Conductors at 25 °C, full voltage: the highest study."""
        source = self.sources.highest
        return self.solve(source, COLD_C, COLD_C, HIGHEST_VOLTS, circuits=self.meshed)

    @cached_property
    def strong(self) -> tuple[Solved, ...]:
        """The interrupting check: −20 °C outdoors, 1.05 × voltage, the strongest source."""
        source, cold = self.sources.interrupting, OUTDOOR_COLD_C
        return self.solve(source, cold, cold, INTERRUPTING_VOLTS, circuits=())

    @cached_property
    def loaded(self) -> tuple[Solved, ...]:
        """Every load on, conductors at 75 °C, full voltage."""
        source = self.sources.lowest or self.sources.highest
        return self.solve(source, HOT_C, HOT_C, 1.0, loads=True)

    def available_a(self, panel: str) -> float:
        """Interrupting check: the highest current at a panel's line bars, A."""
        worst = 0.0
        for solved in self.strong:
            nodes = solved.network.nodes
            for other in (f"{panel}.N", f"{panel}.L2"):
                a = f"{panel}.L1"
                if a in nodes and other in nodes:
                    port = solved.port(a, other)
                    worst = max(worst, abs(port.volts / port.ohm))
        limit = self.sources.interrupting.limit_a
        return worst if limit is None else min(worst, limit)

    @cached_property
    def _feeds(self) -> dict[str, object]:
        """panel → the feeder that feeds it."""
        return {f.to: f for f in self.site.feeders if f.line_size is not None}

    @cached_property
    def _roots(self) -> dict[str, object]:
        """panel → the service run of this supply that reaches it."""
        return {s.to: s for s in self.site.services if s.supply == self.supply.id}

    def chain(self, panel: str) -> tuple[list, object | None]:
        """(feeders from ``panel`` up, the service run at their top; None: this supply does not
        reach it)."""
        feeders, here = [], panel
        while here not in self._roots and here in self._feeds:
            feeders.append(self._feeds[here])
            here = self._feeds[here].source
        return feeders, self._roots.get(here)

    def upstream_lacks(self, panel: str) -> list[str]:
        """Facts upstream of a panel that are never assumed: returns and bonds."""
        feeders, service = self.chain(panel)
        missing = [f"{f.id}.egc" for f in feeders if f.egc is None]
        panels = {p.id: p for p in self.site.panels}
        own_bond = self.supply.bond == "in"
        on_way = [panel, *(f.source for f in feeders)]
        if not own_bond and all(panels[p].bond is None for p in on_way):
            missing.append(f"{service.to if service else on_way[-1]}.bond")
        return missing

    @cached_property
    def _device_branches(self) -> list[tuple[str, str, Breaker]]:
        """(branch without its line number, where it is described, breaker) of every device."""
        found = []
        for panel in self.site.panels:
            if made := breaker_of(panel.main):
                found.append((f"{panel.id}.main", f"{panel.id}.main", made))
        for run in self.site.services:
            if run.supply == self.supply.id and (made := breaker_of(self.supply.breaker)):
                found.append((f"{run.id}.line", f"{self.supply.id}.breaker", made))
        for feeder in self.site.feeders:
            if made := breaker_of(feeder.breaker):
                found.append((f"{feeder.id}.line", f"{feeder.id}.breaker", made))
        return found

    def device_path(self, place, seen, leg: int):
        """(the device that is judged, where it is, the set in the fault's path)."""
        shares = self._device_shares(seen.solved, seen.port)
        circuit = place.circuit
        if circuit is not None:
            own = breaker_of(circuit.breaker)
            return own, f"{circuit.id}.breaker", DeviceSet(((own, 1.0), *(d for _, d in shares)))
        if not shares:
            return None, "", None
        feeders, _ = self.chain(place.panel)
        near = [f"{place.panel}.main", *(f"{f.id}.breaker" for f in feeders)]
        order = {
            where: (where not in near, near.index(where) if where in near else 0)
            for where, _ in shares
        }
        shares = sorted(shares, key=lambda s: order[s[0]])
        where, (device, _) = shares[0]
        return device, where, DeviceSet(tuple(d for _, d in shares))

    def _device_shares(self, solved: Solved, port: Port):
        """[(where, (breaker, its share of the fault))] of the devices that carry a part."""
        key = (id(solved), port.a, port.b)
        found = self._shares_kept.get(key)
        if found is None:
            found = []
            for branch, where, made in self._device_branches:
                share = max(solved.share(f"{branch}{n}", port) for n in (1, 2, 3))
                if share > LEAST_SHARE:
                    found.append((where, (made, min(share, 1.0))))
            self._shares_kept[key] = found
        return found

    @cached_property
    def _shares_kept(self) -> dict:
        return {}

    @cached_property
    def _conductors(self) -> list[tuple[str, str, str, float]]:
        """(branch, path, label, A²s it lives through) of every conductor upstream."""
        return upstream_conductors(self.site)

    def upstream(self, solved: Solved, port: Port) -> tuple[Carrier, ...]:
        """The conductors upstream of a port with their shares of its fault."""
        found = []
        for branch, path, label, i2t in self._conductors:
            share = solved.share(branch, port)
            if share > LEAST_SHARE:
                found.append(Carrier(path, label, i2t, share))
        return tuple(found)

    def upstream_ratio(self, solved: Solved, port: Port) -> float:
        """The worst of ``upstream`` for each A²s."""
        key = ("ratio", id(solved), port.a, port.b)
        found = self._shares_kept.get(key)
        if found is None:
            found = max((c.ratio for c in self.upstream(solved, port)), default=0.0)
            self._shares_kept[key] = found
        return found


def breaker_of(device) -> Breaker | None:
    """The core's breaker for a described one; None while its rating is not known.

    A maker's figure given for one end alone is not a band: the assumed one stands.
    """
    if device.rating_a is None:
        return None
    return _breaker(device.rating_a, device.kind, device.magnetic, device.lo, device.hi)


@lru_cache(maxsize=512)
def _breaker(rating_a, kind, magnetic, lo, hi) -> Breaker:
    """The one Breaker of these facts: a site has few kinds and many of each."""
    if kind in ("B", "C", "D"):
        return Breaker(rating_a, kind=kind)
    if magnetic == "none":
        return Breaker(rating_a, magnetic=False)
    if lo is None or hi is None:
        return Breaker(rating_a)
    return Breaker(rating_a, lo, hi)


def upstream_conductors(site) -> list[tuple[str, str, str, float]]:
    """(branch, path, label, A²s it lives through) of services, feeders and wire bonds."""
    limit = conductor.withstand_i2t
    found = []
    for run in site.services:
        if run.line_size is None:
            continue
        line, neutral = limit(service_wire(run)), limit(service_wire(run, True))
        for n in (1, 2, 3):
            found.append((f"{run.id}.line{n}", f"{run.id}.line_size", "service line", line))
        found.append((f"{run.id}.neutral", f"{run.id}.neutral_size", "service neutral", neutral))
    for feeder in site.feeders:
        if feeder.line_size is None:
            continue
        line = limit(line_wire(feeder))
        for n in (1, 2, 3):
            found.append((f"{feeder.id}.line{n}", f"{feeder.id}.line_size", "feeder line", line))
        if feeder.neutral == "yes":
            path = f"{feeder.id}.neutral_size"
            neutral = limit(neutral_wire(feeder))
            found.append((f"{feeder.id}.neutral", path, "feeder neutral", neutral))
        if (wire := egc_wire(feeder)) and feeder.egc_size:
            path = f"{feeder.id}.egc_size"
            found.append((f"{feeder.id}.egc", path, "feeder ground wire", limit(wire)))
        if feeder.egc in ("raceway", "both"):
            kind = conductor.method(feeder.method).steel_return
            wall = conductor.raceway_i2t(kind, feeder.raceway_size)
            path = f"{feeder.id}.raceway_size"
            found.append((f"{feeder.id}.raceway", path, f"feeder {kind} wall", wall))
    for panel in site.panels:
        if panel.bond == "in" and panel.bond_kind == "wire" and panel.bond_size:
            wire = Wire(panel.bond_size, "copper", "PVC")
            path = f"{panel.id}.bond_size"
            found.append((f"{panel.id}.bond", path, "bonding jumper", limit(wire)))
    return found
