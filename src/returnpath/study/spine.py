"""The spine of a site: all that its faults share, solved once. METHOD 4.

Sources, services, panels, feeders, electrodes, other metal, joints, and the circuits that are
joined to other metal. Most changes are to a circuit that hangs on its panel by its line and its
return alone: the spine is then the same, and so is every fault of every other circuit. Spines are
kept by their content, so that only what can have changed is computed again. What is computed here
reads the spine's own site, never the whole one: nothing it does not hold can make it stale.
"""

import threading
from dataclasses import replace
from functools import cached_property, lru_cache

from .. import conductor, tables
from ..conductor import Wire
from ..device import Breaker
from ..network.build import (
    State,
    build,
    egc_wire,
    line_wire,
    neutral_wire,
    service_wire,
)
from ..network.wiring import Wiring
from ..site import Installation, Supply
from .heat import Carrier, DeviceSet
from .solved import Port, Solved
from .sources import Sources

LEAST_SHARE = 1e-3  # a device or conductor with less of a fault has no part in it

HOT_C, COLD_C, OUTDOOR_COLD_C = 75.0, 25.0, -20.0
LOWEST_VOLTS, HIGHEST_VOLTS, INTERRUPTING_VOLTS = 0.95, 1.0, 1.05

KEEP_SPINES = 8
KEEP_FIGURES = 4096


class Spine:
    """What every fault of a place shares, with one supply driving it.

    ``site``: gaps filled; its circuits only those joined to other metal. ``figures``: of the
    faults that were computed on it, by place, circuit and lines.
    """

    def __init__(self, site: Installation, supply: Supply, sources: Sources, wiring: Wiring):
        self.site, self.supply, self.sources, self.wiring = site, supply, sources, wiring
        self.figures: dict[tuple, tuple] = {}

    @property
    def volts(self) -> float:
        """Line to neutral, V."""
        return self.sources.highest.volts

    def utility_earths(self) -> tuple[float, ...]:
        """Ohms of the utility's neutral to earth: as entered, else both ends."""
        for supply in self.site.supplies:
            if supply.kind == "utility" and supply.earth_ohm is not None:
                return (supply.earth_ohm,)
        text = tables.assumption_texts()["utility neutral earth ohm"][0]
        return tuple(float(w) for w in text.replace(":", "").split() if w[0].isdecimal())

    def solve(self, source, celsius, outdoor, factor, circuits=None):
        """One Solved for each utility earth."""
        circuits = self.site.circuits if circuits is None else circuits
        state = State(self.supply.id, source, celsius, outdoor, factor)
        return solved_each(self.site, state, circuits, self.wiring, self.utility_earths())

    @cached_property
    def hot(self) -> tuple[Solved, ...]:
        """Conductors at 75 °C, full voltage: the lowest study's source, before 0.95 and arc."""
        if self.sources.lowest is None:
            return ()
        return self.solve(self.sources.lowest, HOT_C, HOT_C, 1.0)

    @cached_property
    def cold(self) -> tuple[Solved, ...]:
        """Conductors at 25 °C, full voltage: the highest study."""
        source = self.sources.highest
        return self.solve(source, COLD_C, COLD_C, HIGHEST_VOLTS)

    @cached_property
    def strong(self) -> tuple[Solved, ...]:
        """The interrupting check: −20 °C outdoors, 1.05 × voltage, the strongest source."""
        source, cold = self.sources.interrupting, OUTDOOR_COLD_C
        return self.solve(source, cold, cold, INTERRUPTING_VOLTS, circuits=())

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


def solved_each(site: Installation, state: State, circuits, wiring: Wiring, earths):
    """One Solved of ``state`` for each utility earth."""
    states = [replace(state, earth_ohm=ohm) for ohm in earths]
    return tuple(Solved(s, build(site, s, circuits, wiring), site) for s in states)


_lock = threading.Lock()
_spines: list[Spine] = []  # the one used last is last


def spine_of(site: Installation, circuits, supply: Supply, sources: Sources, wiring: Wiring):
    """The Spine of a filled site with those ``circuits`` alone: one that is kept, if it is equal
    in everything it is made of (the sources say which supply); else a new one."""
    own = site.model_copy(update={"circuits": tuple(circuits), "sources": {}, "last_id": 1})
    made = Spine(own, supply, sources, wiring.only(circuits))
    with _lock:
        for kept in reversed(_spines):
            same = (kept.sources, kept.wiring, kept.site) == (sources, made.wiring, own)
            if same:
                _spines.remove(kept)
                made = kept
                break
        _spines.append(made)
        del _spines[:-KEEP_SPINES]
        return made


def forget_spines() -> None:
    """Compute everything anew from here on: for benchmarks and tests."""
    with _lock:
        _spines.clear()


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
