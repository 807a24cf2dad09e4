"""Which device protects each conductor: its own, the nearest ahead of it, or the one at its end.

    utility ── service ──▶ [main 200 A] ─┬─ [60 A] feeder ──▶ sub-panel ── [20 A] circuit
               its load end              └─ tap, none of its own ──▶ the 200 A main ahead of it

Read off the place as it is drawn, for one source at a time: never through a transformer, an
inverter or a generator (240.4(F)). Service conductors are protected at their load end (230.90), the
conductors of a source of the place's own by its device. A device that nobody typed protects nothing
yet: it is asked, and what is ahead of it only bounds it.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property

from ..vocabulary import FactPath
from .circuits import Circuit
from .installation import Installation
from .power import Device, Feeder, Panel, Service, Supply
from .service import ahead_of_service

#: Of a device that opens nothing by itself.
OPENS_NOTHING = ("switch", "none")
#: Enclosures of one device: what leaves their load side is behind it.
OF_ONE_DEVICE = ("meter", "disconnect", "emergency disconnect")


class Protection(StrEnum):
    """How a conductor comes by its protecting device."""

    OWN = "its own"
    AHEAD = "the nearest ahead of it"
    LOAD_END = "at its load end"
    UTILITY = "the utility’s alone"
    NOT_TYPED = "not typed"


@dataclass(frozen=True, slots=True)
class Protected:
    """``device`` that protects a conductor and where it is described; ``how`` it comes by it.

    Not typed: ``at`` is the device to ask for, ``device`` the nearest one ahead that is known,
    which only bounds it. ``sum_a`` of all devices at the load end, where there are several.
    ``through``: the feeders between the device and the conductor.
    """

    how: Protection
    at: FactPath
    device: Device | None = None
    sum_a: float | None = None
    count: int = 1
    through: tuple[str, ...] = ()

    @property
    def rating_a(self) -> float | None:
        """What protects it, A; None while nobody knows."""
        if self.how in (Protection.NOT_TYPED, Protection.UTILITY) or self.device is None:
            return None
        return self.sum_a if self.sum_a is not None else self.device.rating_a

    @property
    def bound_a(self) -> float | None:
        """The largest it can be: what is ahead of a device that is not typed, A."""
        return self.device.rating_a if self.device is not None else None


def is_typed(device: Device) -> bool:
    """Whether a device is described: its rating, or that there is none."""
    return device.rating_a is not None or device.kind in OPENS_NOTHING


def opens(device: Device) -> bool:
    """Whether it opens a fault by itself, of a rating that is known."""
    return device.rating_a is not None and device.kind not in OPENS_NOTHING


class Chain:
    """The place as a chain from one source to every load: who feeds whom, what protects what."""

    def __init__(self, site: Installation, supply: Supply):
        self.site, self.supply = site, supply

    @cached_property
    def panels(self) -> dict[str, Panel]:
        """The panels by id."""
        return {p.id: p for p in self.site.panels}

    @cached_property
    def roots(self) -> dict[str, Service]:
        """panel → the run of this source that reaches it."""
        return {r.to: r for r in self.site.services if r.supply == self.supply.id}

    @cached_property
    def feeds(self) -> dict[str, tuple[Feeder, ...]]:
        """panel → the feeders that feed it."""
        found: dict[str, tuple[Feeder, ...]] = {}
        for feeder in self.site.feeders:
            found[feeder.to] = (*found.get(feeder.to, ()), feeder)
        return found

    @cached_property
    def ahead(self) -> frozenset[str]:
        """The enclosures on the supply side of a service disconnect."""
        return ahead_of_service(self.site) if self.is_utility else frozenset()

    @property
    def is_utility(self) -> bool:
        """Whether the utility drives it."""
        return self.supply.kind in (None, "utility")

    def reaches(self, panel: str) -> bool:
        """Whether this source's lines come to a panel."""
        return self.up(panel)[1] is not None

    def up(self, panel: str) -> tuple[tuple[Feeder, ...], Service | None]:
        """(the feeders from a panel up, the run at their top; None: this source does not reach it).
        Where several feed one, the first."""
        found: list[Feeder] = []
        here = panel
        while here not in self.roots and here in self.feeds:
            feeder = self.feeds[here][0]
            if feeder in found:
                return tuple(found), None
            found.append(feeder)
            here = feeder.source
        return tuple(found), self.roots.get(here)

    def of(self, run: Circuit | Feeder | Service) -> Protected:
        """What protects a conductor."""
        if isinstance(run, Service):
            return self._of_service(run)
        own = FactPath.of(run.id, "breaker")
        if opens(run.breaker):
            return Protected(Protection.OWN, own, run.breaker)
        if isinstance(run, Feeder) and run.source in self.ahead:
            return self._at_load_end(run.to, run.id)
        panel = run.panel if isinstance(run, Circuit) else run.source
        nearest = self.at_bars(panel)
        one_device = self.panels[panel].kind in OF_ONE_DEVICE and isinstance(run, Feeder)
        if is_typed(run.breaker) or (one_device and opens(self.panels[panel].main)):
            return nearest
        return Protected(Protection.NOT_TYPED, FactPath.of(own, "rating_a"), nearest.device)

    def at_bars(self, panel: str) -> Protected:
        """What protects the line bars of a panel, and what leaves them without a device."""
        main = self.panels[panel].main
        if opens(main):
            return Protected(Protection.AHEAD, FactPath.of(panel, "main"), main)
        return self.at_lugs(panel)

    def at_lugs(self, panel: str) -> Protected:
        """What protects the lugs of a panel, ahead of its own main."""
        passed: list[str] = []
        here = panel
        while True:
            if here in self.roots:
                return self._of_root(self.roots[here], passed)
            if here not in self.feeds or self.feeds[here][0].id in passed:
                return Protected(Protection.UTILITY, FactPath.of(here, "main"))
            feeder = self.feeds[here][0]
            passed.append(feeder.id)
            at = FactPath.of(feeder.id, "breaker")
            through = tuple(passed)
            if opens(feeder.breaker):
                return Protected(Protection.AHEAD, at, feeder.breaker, through=through)
            source = self.panels[feeder.source]
            if source.id in self.ahead:
                return Protected(Protection.UTILITY, FactPath.of(source.id, "main"))
            known = is_typed(feeder.breaker) or source.kind in OF_ONE_DEVICE
            if not known:
                bound = self.at_bars(source.id).device
                return Protected(Protection.NOT_TYPED, FactPath.of(at, "rating_a"), bound)
            if opens(source.main):
                path = FactPath.of(source.id, "main")
                return Protected(Protection.AHEAD, path, source.main, through=through)
            here = source.id

    def _of_root(self, run: Service, passed: list[str]) -> Protected:
        """Ahead of the first enclosure of a source: the source's own device, or the utility's."""
        at = FactPath.of(self.supply.id, "breaker")
        if opens(self.supply.breaker):
            return Protected(Protection.AHEAD, at, self.supply.breaker, through=tuple(passed))
        return Protected(Protection.UTILITY, at)

    def _of_service(self, run: Service) -> Protected:
        """A service run: at its load end; of a source of the place's own: by its device, and where
        it has none by what is at its load end."""
        own = self.supply.breaker
        path = FactPath.of(self.supply.id, "breaker")
        if opens(own):
            return Protected(Protection.OWN, path, own)
        at_end = self.is_utility or self.supply.kind == "transformer"
        if not is_typed(own) and not (at_end and (self.is_utility or self._ends_in_main(run))):
            return Protected(Protection.NOT_TYPED, FactPath.of(path, "rating_a"))
        return self._at_load_end(run.to, run.id)

    def _ends_in_main(self, run: Service) -> bool:
        """Whether a secondary ends in a main: its device then."""
        return is_typed(self.panels[run.to].main)

    def _at_load_end(self, panel: str, run: str) -> Protected:
        """Service conductors by the disconnects they end at: one main, or several together. Lugs
        with no main: every device on their bars is one of the disconnects."""
        ends = self.disconnects(panel)
        known = [self.panels[p] for p in ends if opens(self.panels[p].main)]
        if known and len(known) == len(ends):
            mains = [p.main for p in known]
            total = sum(m.rating_a or 0.0 for m in mains)
            at = FactPath.of(known[0].id, "main")
            several = total if len(mains) > 1 else None
            return Protected(Protection.LOAD_END, at, mains[0], several, len(mains))
        if len(ends) == 1 and (devices := self._on_bars(ends[0])):
            total = sum(d.rating_a or 0.0 for d in devices)
            at = FactPath.of(ends[0], "main")
            largest = max(devices, key=lambda d: d.rating_a or 0.0)
            return Protected(Protection.LOAD_END, at, largest, total, len(devices))
        lacking = next((p for p in ends if not opens(self.panels[p].main)), panel)
        if self.panels[lacking].main.kind == "none":
            return Protected(Protection.UTILITY, FactPath.of(lacking, "main"))
        system = self.supply.system
        if self.panels[lacking].main.kind == "switch" or (system and system.is_metric):
            # The fuse is the distributor's, in the cut-out.
            return Protected(Protection.NOT_TYPED, FactPath.of(self.supply.id, "breaker.rating_a"))
        return Protected(Protection.NOT_TYPED, FactPath.of(lacking, "main.rating_a"))

    def disconnects(self, panel: str) -> tuple[str, ...]:
        """The first enclosures with a service disconnect from an enclosure on."""
        found: list[str] = []
        waiting = [panel]
        seen: set[str] = set()
        while waiting:
            here = waiting.pop(0)
            if here in seen:
                continue
            seen.add(here)
            following = [f.to for f in self.site.feeders if f.source == here]
            if here in self.ahead and following:
                waiting += following
            else:
                found.append(here)
        return tuple(found)

    def _on_bars(self, panel: str) -> list[Device]:
        """The devices on the bars of a panel that is said to have no main; empty where one of them
        is not typed, or where nobody said so."""
        if self.panels[panel].main.kind != "none":
            return []
        runs = [c for c in self.site.circuits if c.panel == panel]
        devices = [c.breaker for c in runs]
        devices += [f.breaker for f in self.site.feeders if f.source == panel]
        # A two-circuit pair behind one handle is one disconnect; each is counted, on the safe side.
        return devices if devices and all(opens(d) for d in devices) else []

    def below(self, panel: str) -> frozenset[str]:
        """A panel and every panel fed from it."""
        found, waiting = {panel}, [panel]
        while waiting:
            here = waiting.pop()
            for feeder in self.site.feeders:
                if feeder.source == here and feeder.to not in found:
                    found.add(feeder.to)
                    waiting.append(feeder.to)
        return frozenset(found)


def chains(site: Installation) -> tuple[Chain, ...]:
    """The chain of every source that is drawn, in their order."""
    supplied = {r.supply for r in site.services}
    return tuple(Chain(site, u) for u in site.supplies if u.id in supplied)


def conductors(site: Installation) -> Iterator[Circuit | Feeder | Service]:
    """Every run of the place that carries current, in the order of the work."""
    yield from site.services
    yield from site.feeders
    yield from site.circuits


def protections(site: Installation) -> dict[str, Protected]:
    """What protects every conductor of the place, by its id."""
    each = chains(site)
    return {run.id: _protection(each, run) for run in conductors(site)}


def protection_of(site: Installation, run: Circuit | Feeder | Service) -> Protected:
    """What protects one conductor."""
    if not isinstance(run, Service) and opens(run.breaker):
        return Protected(Protection.OWN, FactPath.of(run.id, "breaker"), run.breaker)
    return _protection(chains(site), run)


def _protection(each: tuple[Chain, ...], run: Circuit | Feeder | Service) -> Protected:
    """In the state where it is largest: of a run that several sources reach, the greatest of their
    devices; asked where any of them is not typed."""
    found: list[Protected] = []
    for chain in each:
        if isinstance(run, Service):
            if chain.supply.id == run.supply:
                found.append(chain.of(run))
        elif chain.reaches(run.panel if isinstance(run, Circuit) else run.source):
            found.append(chain.of(run))
    if not found:  # nothing feeds it: its own device, if it has one
        at = FactPath.of(run.id, "breaker")
        if not isinstance(run, Service) and opens(run.breaker):
            return Protected(Protection.OWN, at, run.breaker)
        return Protected(Protection.NOT_TYPED, FactPath.of(at, "rating_a"))
    asked = [p for p in found if p.how is Protection.NOT_TYPED]
    return asked[0] if asked else max(found, key=lambda p: p.rating_a or 0.0)
