"""What a lock at a device keeps dead, what switching a part on would make live, and what is live
still: read off the place as it is drawn (docs/decisions/0044).

    u1 utility ─[s1]─ service ── p1 ─[f2]─ feeder ── p2 ─[c7]─ circuit ─[a1]─ array
                                  ╰───[c3]─ circuit ~~ c4, which shares its neutral

A point is the part whose device is opened: a circuit's or a feeder's breaker, a service's main or
meter, a source's or an array's own. Two questions look alike and are not: ``zone`` follows the runs
downstream of a point, whatever feeds them; ``reach`` goes every way that is not locked open,
because an array feeds back. (What is reachable with a point less what is reachable without it is
*empty* where there is a second way in: it would allow everything.)
"""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property

from .circuits import Array, Circuit
from .earthing import Metal
from .installation import Installation, name_of
from .power import Panel, Supply

#: Sources that are fed from the place: power goes through them.
FED = "transformer"


@dataclass(frozen=True, slots=True)
class _Way:
    """A live connection between two parts, from the source's side to the load's; ``point`` is the
    part whose device opens it, "" where nothing does."""

    upper: str
    lower: str
    point: str = ""


class LivePaths:
    """The live connections of a place. Parts are told by their ids."""

    def __init__(self, site: Installation):
        self.site = site
        self.elements = site.elements()

    @cached_property
    def sources(self) -> frozenset[str]:
        """What makes volts by itself: supplies but transformers that are fed here, and arrays."""
        fed = {u.id for u in self.site.supplies if _is_fed(u, self.elements)}
        every = {u.id for u in self.site.supplies} | {a.id for a in self.site.arrays}
        return frozenset(every - fed)

    @cached_property
    def _ways(self) -> tuple[_Way, ...]:
        return tuple(self._made())

    def _made(self) -> Iterator[_Way]:
        site, there = self.site, self.elements
        panels = [p.id for p in site.panels]
        utility = {u.id for u in site.supplies if u.kind in (None, "utility")}
        placed = set()
        for run in site.services:
            if run.supply not in there or run.to not in there:
                continue
            placed.add(run.supply)
            yield _Way(run.supply, run.id, run.id if run.supply in utility else run.supply)
            yield _Way(run.id, run.to)
        for supply in site.supplies:
            if _is_fed(supply, there):
                yield _Way(str(supply.fed_by), supply.id)
            if supply.id not in placed:
                yield from (_Way(supply.id, panel, supply.id) for panel in panels)
        for feeder in site.feeders:
            if feeder.source in there:
                yield _Way(feeder.source, feeder.id, feeder.id)
            if feeder.to in there:
                yield _Way(feeder.id, feeder.to)
        for circuit in site.circuits:
            if circuit.panel in there:
                yield _Way(circuit.panel, circuit.id, circuit.id)
        for array in site.arrays:
            if array.circuit in there:
                yield _Way(str(array.circuit), array.id, array.id)
            else:  # nobody said where it feeds in: it may be anywhere
                yield from (_Way(panel, array.id, array.id) for panel in panels)

    @cached_property
    def _below(self) -> dict[str, list[_Way]]:
        return _by(self._ways, "upper")

    @cached_property
    def _above(self) -> dict[str, list[_Way]]:
        return _by(self._ways, "lower")

    @cached_property
    def _partners(self) -> dict[str, set[str]]:
        """circuit → those that share its neutral: their current comes home in it."""
        found: dict[str, set[str]] = {}
        for circuit in self.site.circuits:
            other = circuit.shares_with
            if other is not None and isinstance(self.elements.get(other), Circuit):
                found.setdefault(circuit.id, set()).add(other)
                found.setdefault(other, set()).add(circuit.id)
        for first in list(found):  # a pair of a pair shares the same conductor
            for second in list(found[first]):
                found[first] |= found[second] - {first}
        return found

    def _tied(self, circuit: str) -> set[str]:
        """The circuits that one handle opens with this one."""
        group = {circuit} | self._partners.get(circuit, set())
        said = {getattr(self.elements.get(one), "common_opening", None) for one in group}
        return group if "yes" in said and "no" not in said else {circuit}

    def opened(self, points: Iterable[str]) -> frozenset[str]:
        """The points that are open where these are locked: a panel's are those that feed it, a
        tied pair's are both."""
        found: set[str] = set()
        for point in points:
            element = self.elements.get(point)
            if isinstance(element, Panel | Metal):
                found |= set(self.points_of(point))
            elif isinstance(element, Circuit):
                found |= self._tied(point)
            else:
                found.add(point)
        return frozenset(found)

    def zone(self, point: str) -> frozenset[str]:
        """Everything behind a point along the runs, with what shares a neutral with it."""
        element = self.elements.get(point)
        if isinstance(element, Metal):
            at = [c for c in self.site.circuits if point in (*c.reach, *c.joined_to)]
            return frozenset({point}).union(*(self.zone(c.id) for c in at))
        if point in self.sources and not self._is_utility(point):
            return frozenset({point})
        return self._whole(point)

    def behind(self, part: str) -> frozenset[str]:
        """What is fed by way of a part, a source's panels too."""
        element = self.elements.get(part)
        if isinstance(element, Metal):
            return self.zone(part)
        return self._whole(part)

    def _whole(self, part: str) -> frozenset[str]:
        below = self._closure(part)
        return frozenset(below.union(*(self._own_run(one) for one in below)))

    def closes(self, part: str) -> frozenset[str]:
        """The points that are closed to give a part volts: its own device, or those that feed it;
        never a source's."""
        if isinstance(self.elements.get(part), Circuit):
            return frozenset(self._tied(part))
        own = {part} | self._own_run(part)
        fed = {w.point for w in self._ways if w.lower in own and w.point not in ("", *self.sources)}
        return frozenset({part} | fed)

    def _is_utility(self, id: str) -> bool:
        element = self.elements.get(id)
        return isinstance(element, Supply) and element.kind in (None, "utility")

    def _closure(self, part: str) -> set[str]:
        found: set[str] = set()
        waiting = [part]
        while waiting:
            here = waiting.pop()
            if here in found:
                continue
            found.add(here)
            waiting += self._partners.get(here, ())
            waiting += [w.lower for w in self._below.get(here, ()) if w.lower not in self.sources]
        return found

    def _own_run(self, part: str) -> set[str]:
        """The conductors that arrive at a panel, as far as the device that opens them."""
        found: set[str] = set()
        waiting = [part]
        while waiting:
            for way in self._above.get(waiting.pop(), ()):
                if not way.point and way.upper not in found:
                    found.add(way.upper)
                    waiting.append(way.upper)
        return found

    def points_of(self, part: str) -> tuple[str, ...]:
        """The points that must be open for a part to be dead: its own device first, then every
        other way in, and the sources behind it."""
        dead = self.zone(part)
        found = [part] if any(w.point == part for w in self._ways) else []
        for way in self._ways:
            crosses = (way.upper in dead) != (way.lower in dead)
            if crosses and way.point and self._feeds(way, dead):
                found.append(way.point)
        return tuple(dict.fromkeys(found))

    def _feeds(self, way: _Way, dead: frozenset[str]) -> bool:
        """Whether power can come over a way into what is to be dead."""
        return way.lower in dead or way.lower in self.sources

    def reach(self, part: str, opened: Iterable[str] = ()) -> frozenset[str]:
        """What has volts once ``part`` has: every way but over what is open, through no source."""
        shut = set(opened)
        start = self.zone(part) if isinstance(self.elements.get(part), Metal) else {part}
        found: set[str] = set()
        waiting = list(start)
        while waiting:
            here = waiting.pop()
            if here in found:
                continue
            found.add(here)
            if here in self.sources and here != part:
                continue
            ways = (*self._below.get(here, ()), *self._above.get(here, ()))
            waiting += [
                w.lower if w.upper == here else w.upper for w in ways if w.point not in shut
            ]
        return frozenset(found)

    def still_live(self, part: str, opened: Iterable[str] = ()) -> tuple[str, ...]:
        """The sources that a part is not isolated from."""
        shut = set(opened)
        live: set[str] = set()
        for one in self.zone(part) - self.sources | {part}:
            live |= self.reach(one, shut) & self.sources
        return tuple(sorted(live - {part}))

    def names(self, ids: Iterable[str]) -> tuple[str, ...]:
        """The names of parts, in the order of the place; what nobody asks for by name is left out:
        the runs."""
        wanted = set(ids)
        kinds = (Panel, Circuit, Array, Supply)
        return tuple(
            name_of(e) for id, e in self.elements.items() if id in wanted and isinstance(e, kinds)
        )


def _is_fed(supply: Supply, there: Mapping[str, object]) -> bool:
    return supply.kind == FED and supply.fed_by in there


def _by(ways: Iterable[_Way], side: str) -> dict[str, list[_Way]]:
    found: dict[str, list[_Way]] = {}
    for way in ways:
        found.setdefault(getattr(way, side), []).append(way)
    return found


def device_name(site: Installation, point: str) -> str:
    """What is opened at a point, in words: “the breaker of Dryer in Panel”."""
    elements = site.elements()
    element = elements.get(point)
    if element is None:
        return "a part that is gone"
    name = name_of(element)
    kind = type(element).__name__
    if kind in ("Circuit", "Feeder"):
        panel = elements.get(element.panel if kind == "Circuit" else element.source)  # type: ignore[attr-defined]
        return f"the breaker of {name}" + (f" in {name_of(panel)}" if panel is not None else "")
    if kind == "Service":
        return "the service’s main or meter"
    if kind == "Panel":
        return f"the breaker of {name}"
    if kind in ("Array", "Supply"):
        return f"the disconnect of {name}"
    return name


@dataclass(frozen=True, slots=True)
class Held:
    """A lock as the rule asks for it: its point, whose it is, the zone it was put on for."""

    point: str
    person: str
    zone: frozenset[str] = frozenset()


@dataclass(frozen=True, slots=True)
class Refusal:
    """Why a part is not switched on: whose lock, at which point, what of its zone has volts."""

    lock: Held
    touches: tuple[str, ...]
    is_point: bool


def why_not_on(site: Installation, part: str, locks: Iterable[Held]) -> Refusal | None:
    """The first lock that forbids switching a part on: it is locked itself, or what it reaches
    with the locked points open touches a zone. None where nothing does."""
    every = tuple(locks)
    if not every:
        return None
    paths = LivePaths(site)
    closes = paths.closes(part)
    for lock in every:
        if closes & ({lock.point} | paths.opened([lock.point])):
            return Refusal(lock, (part,), True)
    shut = paths.opened(lock.point for lock in every)
    live = paths.reach(part, shut)
    for lock in every:
        zone = lock.zone | (paths.zone(lock.point) if lock.point in paths.elements else frozenset())
        if touched := live & zone:
            return Refusal(lock, tuple(sorted(touched)), False)
    return None
