"""What is solved once: all that the faults of a place share (method 4).

Sources, services, panels, feeders, electrodes, other metal, joints, and the circuits that are
joined to other metal. Most changes are to a circuit that hangs on its panel by its line and its
return alone: the spine is then the same, and so is every fault of every other circuit. Spines are
kept by their content, so that only what can have changed is computed again. What is computed here
reads the spine's own site, never the whole one: nothing it does not hold can make it stale.
"""

import threading
from dataclasses import replace
from functools import cached_property
from itertools import combinations, pairwise
from typing import Any

import numpy as np

from .. import tables
from ..device import Breaker
from ..network.build import State, build
from ..network.solver import Nudged
from ..network.wiring import Wiring
from ..site import Feeder, Installation, Service, Supply
from ..site.arrangement import arrangement_at
from ..site.chain import Chain, Protection, opens
from ..site.service import is_ahead_of_service
from ..vocabulary import FactPath, NodeId
from .conductors import Conductor, conductors_of
from .heat import LEAST_SHARE, Carrier
from .port import Place, Seen, Side
from .protection import DeviceSet, Placed, breaker_of, placed_devices
from .solved import Port, Solved
from .sources import Sources

HOT_C, COLD_C, OUTDOOR_COLD_C = 75.0, 25.0, -20.0
LOWEST_VOLTS, HIGHEST_VOLTS, INTERRUPTING_VOLTS = 0.95, 1.0, 1.05

KEEP_SPINES = 8
KEEP_FIGURES = 4096


class Spine:
    """What every fault of a place shares, with one supply driving it.

    ``site``: gaps filled; its circuits only those joined to other metal. ``figures``: of the
    faults that were computed on it, by place, kind, circuit and lines.
    """

    def __init__(self, site: Installation, supply: Supply, sources: Sources, wiring: Wiring):
        self.site, self.supply, self.sources, self.wiring = site, supply, sources, wiring
        self.figures: dict[tuple[object, ...], tuple[Any, dict[str, Any]]] = {}

    @property
    def volts(self) -> float:
        """Line to neutral, V."""
        return self.sources.highest.volts

    @cached_property
    def service_bar(self) -> NodeId:
        """The neutral bar at the service."""
        return NodeId.of(self.site.panel.id, "N")

    @property
    def is_metric(self) -> bool:
        """Whether the metric rule set judges it."""
        return self.supply.system is not None and self.supply.system.is_metric

    def earthing(self, panel: str) -> str | None:
        """The earthing arrangement a board has, by what is there."""
        if not self.is_metric:
            return self.supply.earthing
        found = self._earthing_kept.get(panel)
        if found is None:
            found = self._earthing_kept[panel] = arrangement_at(self.site, panel)
        return found

    @cached_property
    def _earthing_kept(self) -> dict[str, str | None]:
        return {}

    def utility_earths(self) -> tuple[float, ...]:
        """Ohms of the utility's neutral to earth: as entered, else both ends."""
        for supply in self.site.supplies:
            if supply.kind == "utility" and supply.earth_ohm is not None:
                return (supply.earth_ohm,)
        text = tables.assumption_texts()["utility neutral earth ohm"][0]
        return tuple(float(w) for w in text.replace(":", "").split() if w[0].isdecimal())

    def solve(self, source, celsius, outdoor, factor, circuits=None) -> tuple[Solved, ...]:
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
    def strong(self) -> Solved:
        """The interrupting check: −20 °C outdoors, 1.05 × voltage, the strongest source. One
        utility earth: no bolted fault between conductors flows through it."""
        source, cold = self.sources.interrupting, OUTDOOR_COLD_C
        solved = self.solve(source, cold, cold, INTERRUPTING_VOLTS, circuits=())[0]
        for panel in self.site.panels:
            lines = [NodeId.of(panel.id, "L", n) for n in (1, 2, 3)]
            ends = [(line, NodeId.of(panel.id, "N")) for line in lines]
            solved.fill((*ends, *combinations(lines, 2)))
        return solved

    def available_a(self, panel: str) -> float:
        """Interrupting check: the highest current at a panel's line bars, A: the largest of line
        to neutral, line to line and bolted three-phase."""
        solved, worst = self.strong, 0.0
        lines = [n for n in (1, 2, 3) if solved.has(NodeId.of(panel, "L", n))]
        neutral = NodeId.of(panel, "N")
        for index, n in enumerate(lines):
            others = [NodeId.of(panel, "L", m) for m in lines[index + 1 :]]
            for end in (neutral, *others):
                port = solved.port(NodeId.of(panel, "L", n), end)
                worst = max(worst, abs(port.volts / port.ohm))
        if len(lines) == 3:
            worst = max(worst, _bolted_three(solved, panel))
        limit = self.sources.interrupting.limit_a
        return worst if limit is None else min(worst, limit)

    @cached_property
    def _feeds(self) -> dict[str, Feeder]:
        """panel → the feeder that feeds it."""
        return {f.to: f for f in self.site.feeders if f.line_size is not None}

    @cached_property
    def _roots(self) -> dict[str, Service]:
        """panel → the service run of this supply that reaches it."""
        return {s.to: s for s in self.site.services if s.supply == self.supply.id}

    @cached_property
    def _chains(self) -> dict[str, tuple[list[Feeder], Service | None]]:
        return {}

    def chain(self, panel: str) -> tuple[list[Feeder], Service | None]:
        """(feeders from ``panel`` up, the service run at their top; None: this supply does not
        reach it)."""
        found = self._chains.get(panel)
        if found is None:
            found = self._chains[panel] = self._chain(panel)
        return found

    def _chain(self, panel: str) -> tuple[list[Feeder], Service | None]:
        feeders: list[Feeder] = []
        here = panel
        while here not in self._roots and here in self._feeds:
            feeders.append(self._feeds[here])
            here = self._feeds[here].source
        return feeders, self._roots.get(here)

    @cached_property
    def _lacks_kept(self) -> dict[str, list[FactPath]]:
        return {}

    def upstream_lacks(self, panel: str) -> list[FactPath]:
        """Facts upstream of a panel that are never assumed: returns, their sizes, bonds."""
        found = self._lacks_kept.get(panel)
        if found is None:
            found = self._lacks_kept[panel] = self._upstream_lacks(panel)
        return found

    def _upstream_lacks(self, panel: str) -> list[FactPath]:
        """The main bond counts whatever is known of a sub-panel; a sub-panel's own bond where its
        feeder brings no way home but the neutral.
        """
        feeders, _ = self.chain(panel)
        panels = {p.id: p for p in self.site.panels}
        missing = [FactPath.of(f.id, "egc") for f in feeders if f.egc is None]
        own_bond = self.supply.bond == "in" or self.supply.earthing in ("TN-S", "TT", "IT")
        # The main bond is at the first enclosure from the source that is no meter.
        down = [*(f.source for f in reversed(feeders)), panel]
        following = dict(pairwise(down))
        main = next(
            (p for p in down if not is_ahead_of_service(panels[p], panels.get(following.get(p)))),
            panel,
        )
        if not own_bond and panels[main].bond is None:
            asked = self.is_metric and self.supply.earthing is None
            path = FactPath.of(self.supply.id, "earthing") if asked else None
            missing.append(path or FactPath.of(main, "bond"))
        for feeder in feeders:
            on_neutral = feeder.egc == "none" and panels[feeder.to].bond is None
            if on_neutral and feeder.to != main:
                missing.append(FactPath.of(feeder.to, "bond"))
            if feeder.egc in ("wire", "both") and feeder.egc_size is None:
                missing.append(FactPath.of(feeder.id, "egc_size"))
        return missing

    def bar_lacks(self, panel: str) -> list[FactPath]:
        """Whether the case and the EGCs meet at a panel is not known where its grounds
        are on the neutral's bar, nobody said whether there is another, and no bond joins them."""
        at = next(p for p in self.site.panels if p.id == panel)
        if at.ground_bar is None and at.bond != "in":
            return [FactPath.of(panel, "ground_bar")]
        if at.ground_bar == "none" and at.grounds_on_neutral is None and at.bond != "in":
            return [FactPath.of(panel, "grounds_on_neutral")]
        return []

    def untyped_ahead(self, place: Place) -> list[FactPath]:
        """The device that nobody typed ahead of an enclosure or other metal: what is ahead of that
        one must not be taken for it."""
        main = next(p.main for p in self.site.panels if p.id == place.panel)
        if place.side is not Side.LINE and opens(main):
            return []
        found = self._chain_of.at_lugs(place.panel)
        return [found.at] if found.how is Protection.NOT_TYPED else []

    @cached_property
    def _chain_of(self) -> Chain:
        return Chain(self.site, self.supply)

    @cached_property
    def _devices(self) -> list[Placed]:
        return placed_devices(self.site, self.supply)

    def device_path(
        self, place: Place, seen: Seen
    ) -> tuple[object | None, FactPath, DeviceSet | None]:
        """(the device that is judged, where it is, the set in the fault's path); no device where
        nothing of this place's is ahead of the fault."""
        shares = self._device_shares(seen.solved, seen.port)
        circuit = place.circuit
        if circuit is not None:
            own = breaker_of(circuit.breaker)
            path = FactPath.of(circuit.id, "breaker")
            if own is None:  # a switch opens nothing: what is ahead of it has to
                ahead = DeviceSet(tuple(d for _, d in shares)) if shares else None
                device = shares[0][1][0] if shares else None
                return device, shares[0][0] if shares else path, ahead
            key = (id(seen.solved), seen.port.a, seen.port.b, id(own))
            kept = self._sets_kept.get(key)
            if kept is None:  # the same breaker behind the same port: one set for all of them
                made = DeviceSet(((own, 1.0), *(d for _, d in shares)))
                kept = self._sets_kept[key] = (own, made)
            return own, path, kept[1]
        if not shares:
            return None, FactPath(""), None
        feeders, _ = self.chain(place.panel)
        near = [FactPath.of(place.panel, "main"), *(FactPath.of(f.id, "breaker") for f in feeders)]
        shares = sorted(shares, key=lambda s: near.index(s[0]) if s[0] in near else len(near))
        where, (device, _) = shares[0]
        return device, where, DeviceSet(tuple(d for _, d in shares))

    def prepare(self, pairs: set[tuple[NodeId, NodeId]]) -> None:
        """See the hot and the cold states from all these ports at once: one by one each of them
        costs as much as fifty together."""
        pairs = pairs - self._prepared
        self._prepared |= pairs
        for solved in self.cold if pairs else ():
            solved.fill(pairs)
        for solved in self.hot if pairs else ():
            if ports := solved.fill(pairs):
                self._prepare_shares(solved, ports)

    def _prepare_shares(self, solved: Solved, ports: list[Port]) -> None:
        """``_device_shares`` and ``worst_ratio`` of several ports of a hot state: that is where
        the lowest currents are."""
        sizes = solved.all_sizes(ports)
        devices = sizes[self._places_of_devices(solved)].max(axis=1, initial=0.0).T.tolist()
        _, places, limits = self._conductors_of(solved)
        shares = sizes[places]
        shares[shares <= LEAST_SHARE] = 0
        ratios = (shares**2 / limits[:, None]).max(axis=0, initial=0.0).tolist()
        for port, by_device, ratio in zip(ports, devices, ratios, strict=True):
            self._shares_kept[id(solved), port.a, port.b] = self._carrying(by_device)
            self._shares_kept["ratio", id(solved), port.a, port.b] = ratio

    @cached_property
    def _prepared(self) -> set[tuple[NodeId, NodeId]]:
        return set()

    def _carrying(self, shares: list[float]) -> list[tuple[FactPath, tuple[Breaker, float]]]:
        """[(where, (breaker, its share of the fault))] of the devices that carry a part."""
        return [
            (placed.path, (placed.breaker, min(share, 1.0)))
            for placed, share in zip(self._devices, shares, strict=True)
            if share > LEAST_SHARE
        ]

    def _device_shares(self, solved: Solved, port: Port):
        """The same of a fault seen from a port."""
        key = (id(solved), port.a, port.b)
        found = self._shares_kept.get(key)
        if found is None:
            shares = solved.sizes(port)[self._places_of_devices(solved)].max(axis=1, initial=0.0)
            found = self._shares_kept[key] = self._carrying(shares.tolist())
        return found

    def _places_of_devices(self, solved: Solved) -> np.ndarray:
        """A row a device: where the branch of each of its lines is among the network's branches;
        past the last where there is none."""
        key = ("devices", *solved.branch_ids)  # of one temperature or another, the same branches
        found = self._shares_kept.get(key)
        if found is None:
            index = {name: n for n, name in enumerate(solved.branch_ids)}
            rows = [[index.get(b, len(index)) for b in d.branches()] for d in self._devices]
            found = np.array(rows, dtype=int).reshape(len(rows), 3)
            self._shares_kept[key] = found
        return found

    @cached_property
    def _shares_kept(self) -> dict[Any, Any]:
        return {}

    @cached_property
    def _sets_kept(self) -> dict[Any, Any]:
        return {}

    @cached_property
    def _conductors(self) -> list[Conductor]:
        return conductors_of(self.site)

    def _conductors_of(self, solved: Solved) -> tuple[list[Conductor], np.ndarray, np.ndarray]:
        """(the conductors in a network, their places in its branches, their limits)."""
        key = ("in", *solved.branch_ids)
        found = self._shares_kept.get(key)
        if found is None:
            index = {name: n for n, name in enumerate(solved.branch_ids)}
            there = [c for c in self._conductors if c.branch in index]
            places = np.array([index[c.branch] for c in there], dtype=int)
            found = there, places, np.array([c.i2t for c in there])
            self._shares_kept[key] = found
        return found

    def carriers(self, solved: Solved, port: Port) -> tuple[Carrier, ...]:
        """Every conductor of the network that carries a part of a fault, with its share."""
        there, places, _ = self._conductors_of(solved)
        shares = solved.sizes(port)[places]
        return tuple(
            Carrier(c.path, c.label, c.i2t, float(share))
            for c, share in zip(there, shares, strict=True)
            if share > LEAST_SHARE
        )

    def worst_ratio(self, solved: Solved, port: Port) -> float:
        """The worst of ``carriers`` for each A²s."""
        key = ("ratio", id(solved), port.a, port.b)
        found = self._shares_kept.get(key)
        if found is None:
            _, places, limits = self._conductors_of(solved)
            shares = solved.sizes(port)[places]  # a copy
            shares[shares <= LEAST_SHARE] = 0
            found = float((shares**2 / limits).max(initial=0.0))
            self._shares_kept[key] = found
        return found


def _bolted_three(solved: Solved, panel: str) -> float:
    """The largest line current with all three line bars bolted together, A."""
    ends = [(NodeId.of(panel, "L", a), NodeId.of(panel, "L", b)) for a, b in ((1, 2), (2, 3))]
    ports = [solved.port(*end) for end in ends]
    at = solved.solution.at
    ohms = np.array([[at(a, p.column) - at(b, p.column) for p in ports] for a, b in ends])
    first, second = np.linalg.solve(ohms, np.array([p.volts for p in ports]))
    return float(max(abs(first), abs(second - first), abs(second)))


def solved_each(site: Installation, state: State, circuits, wiring: Wiring, earths):
    """One Solved of ``state`` for each utility earth."""
    first = build(site, replace(state, earth_ohm=earths[0]), circuits, wiring).factor()
    utility = next((f"{u.id}.earth" for u in site.supplies if u.kind == "utility"), "")
    found = []
    for ohm in earths:
        own = replace(state, earth_ohm=ohm)
        solution = first
        if ohm != earths[0] and utility in first.network.branches:
            # Joints on it are in series with the earth itself.
            solution = Nudged(first, utility, ohm + wiring.on.ohm(utility))
        found.append(Solved(own, solution, site, wiring))
    return tuple(found)


_lock = threading.Lock()
_spines: list[Spine] = []  # the one used last is last


def spine_of(
    site: Installation, circuits, supply: Supply, sources: Sources, wiring: Wiring
) -> Spine:
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
