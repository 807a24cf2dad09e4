"""The chain as a ladder: from the source to one part, a rung a conductor or a device.

    source ─ service conductors ─ main ─ bars ─ feeder's device ─ feeder ─ bars ─ breaker ─ wire

Each rung says what it carries, what it must carry, what protects it and how it comes by that; the
weakest is named. Its marks are the findings': nothing is judged here a second time.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from .. import sizing, tables
from ..errors import BadInput
from ..site import Circuit, Feeder, Panel, Service, Supply, name_of
from ..site.chain import Chain, Protected, Protection, opens
from ..vocabulary import FactPath, Level
from ..working import figures
from .carrying import (
    CONTINUOUS,
    USUAL_C,
    allowed_of,
    cable_column,
    carries_a,
    continuous_kind,
    fits_dwelling_rule,
    load_amps,
    next_standard,
    sets_of,
    terminals_of,
)
from .finding import LEVELS, Finding
from .registry import Evidence

#: What a ladder leads to.
Part = Circuit | Panel | Feeder | Service | Supply


class RungKind(StrEnum):
    """What a rung is."""

    SOURCE = "source"
    CONDUCTOR = "conductor"
    DEVICE = "device"
    BARS = "bars"


class Footing(StrEnum):
    """How a rung stands, best first."""

    HOLDS = "holds"
    UNREAD = "not read"
    ASSUMED = "assumed"
    ASKED = "not known"
    CHECK = "look"
    SHORT = "too small"


#: Findings that are about a rung of the chain, by what the rung is.
ABOUT = {
    RungKind.SOURCE: ("source-interlock-missing", "generator-bond", "derived-bond"),
    RungKind.CONDUCTOR: (
        "service-conductor-small", "wire-breaker-mismatch", "tap-unprotected",
        "dwelling-83-misused", "terminal-temperature", "parallel-sets-small",
        "continuous-load-over", "load-over-circuit", "motor-circuit", "inverter-circuit-small",
        "derived-secondary-unprotected", "conductor-unprotected", "device-not-typed",
        "device-over-capacity",
    ),
    RungKind.DEVICE: (
        "interrupting-rating-low", "breaker-damaged", "appliance-breaker-over",
        "nameplate-breaker-over", "service-rating-small", "switch-as-protection",
        "breaker-not-listed-for-panel", "high-leg-slash-breaker",
    ),
    RungKind.BARS: ("bars-under-device", "backfeed-over-bars", "feeders-in-parallel"),
}  # fmt: skip


@dataclass(frozen=True)
class Rung:
    """One rung. ``carries_a`` its ampacity or rating, ``allowed_a`` the largest device that may
    protect it, ``must_a`` what it must carry, A, each None where nobody knows; ``must`` and
    ``protection`` in words; ``path`` the fact that says its size or rating; ``level`` of the
    gravest finding about it, ``found`` its words."""

    kind: RungKind
    element: str
    name: str
    what: str
    path: str
    mark: Footing
    carries_a: float | None = None
    allowed_a: float | None = None
    must_a: float | None = None
    must: str = ""
    protection: str = ""
    how: Protection | None = None
    level: Level | None = None
    found: str = ""

    @property
    def used(self) -> float:
        """What it must carry over what it may; 0 where one of them is not known."""
        most = self.allowed_a or self.carries_a
        return self.must_a / most if self.must_a and most else 0.0


#: Marks that the eye should find; of what holds, the fullest.
TELLING = (Footing.ASSUMED, Footing.ASKED, Footing.CHECK, Footing.SHORT)


@dataclass(frozen=True)
class Ladder:
    """The rungs from a source to ``part``; ``weakest`` the one that the eye should find."""

    part: str
    part_name: str
    rungs: tuple[Rung, ...]

    @property
    def weakest(self) -> Rung | None:
        """The worst mark, the graver finding, the fuller; None where nothing is known of any."""
        telling = [r for r in self.rungs if r.mark in TELLING and r.kind is not RungKind.SOURCE]
        among = telling or [r for r in self.rungs if r.used]
        marks = list(Footing)
        return max(among, key=lambda r: (marks.index(r.mark), _grave(r), r.used), default=None)


def _grave(rung: Rung) -> int:
    return -LEVELS.index(rung.level) if rung.level is not None else -len(LEVELS)


def ladder(solved: Evidence, found: Iterable[Finding], part: str) -> Ladder:
    """The ladder to an element by its id, or by its name. BadInput where it has none."""
    element = _part(solved, part)
    return Ladder(element.id, name_of(element), tuple(_Maker(solved, found).rungs(element)))


def _part(solved: Evidence, part: str) -> Part:
    """The element that is meant."""
    wanted = part.strip().casefold()
    kinds = (Circuit, Panel, Feeder, Service, Supply)
    for element in solved.elements.values():
        if isinstance(element, kinds) and wanted in (element.id, name_of(element).casefold()):
            return element
    raise BadInput(f"“{part[:60]}” is no circuit, panel, feeder, service run or source here.")


class _Maker:
    """Makes the rungs of one place."""

    def __init__(self, solved: Evidence, found: Iterable[Finding]):
        self.s = solved
        self.found: dict[str, list[Finding]] = {}
        for one in found:
            for finding in (one, *one.folded):
                self.found.setdefault(finding.place, []).append(finding)

    def rungs(self, element: Part) -> list[Rung]:
        """From the source down to an element."""
        panel, last = self._end(element)
        chain = self._chain(panel, element)
        if chain is None:
            return [*self._tail(element)]
        feeders, service = chain.up(panel)
        made: list[Rung] = []
        if service is not None:
            made += [self._source(chain.supply), self._service(service)]
            if isinstance(element, Supply | Service):
                return made[:1] if isinstance(element, Supply) else made
            made += self._enclosure(chain, self.s.panels[service.to])
        for feeder in reversed(feeders):
            made += self._feeder(feeder)
            if feeder.id == last:
                return made
            made += self._enclosure(chain, self.s.panels[feeder.to])
        return made + self._tail(element)

    def _end(self, element: Part) -> tuple[str, str]:
        """(the panel that a way to an element goes through last, the feeder it ends with)."""
        if isinstance(element, Circuit):
            return element.panel, ""
        if isinstance(element, Feeder):
            return element.to, element.id
        if isinstance(element, Service):
            return element.to, ""
        if isinstance(element, Supply):
            runs = [r.to for r in self.s.filled.services if r.supply == element.id]
            return (runs[0] if runs else ""), ""
        return element.id, ""

    def _chain(self, panel: str, element: Part) -> Chain | None:
        own = element.id if isinstance(element, Supply) else getattr(element, "supply", None)
        for chain in self.s.chains:
            if (own is None or chain.supply.id == own) and panel and chain.reaches(panel):
                return chain
        return None

    def _tail(self, element: Part) -> list[Rung]:
        """A circuit's own device and wire."""
        if not isinstance(element, Circuit):
            return []
        found = [self._device(element, "breaker", name_of(element))]
        return [*found, self._wire(element)]

    def _source(self, supply: Supply) -> Rung:
        kva = f"{supply.kva:g} kVA" if supply.kva else ""
        ohms = "its own ohms" if supply.r1_ohm is not None else ""
        kind = {"utility": "utility", None: "utility"}.get(supply.kind, supply.kind or "")
        path = FactPath.of(supply.id, "kva")
        what = ", ".join(filter(None, (kind, kva, ohms, str(supply.system or ""))))
        return self._made(RungKind.SOURCE, supply, path, what, None)

    def _service(self, run: Service) -> Rung:
        path = FactPath.of(run.id, "line_size")
        carries = None
        if run.line_size and not tables.is_metric(run.line_size):
            metal = run.line_material or "copper"
            carries = sizing.ampacity(run.line_size, metal, USUAL_C) * sets_of(run)
        found = self.s.protected[run.id]
        return self._made(
            RungKind.CONDUCTOR, run, path, _wire_words(run), carries, found.rating_a,
            _end_words(found), found, allowed=self._allowed_service(run, carries),
        )  # fmt: skip

    def _allowed_service(self, run: Service, carries: float | None) -> float | None:
        """The largest main its conductors may have, the dwelling rule heard."""
        if carries is None:
            return None
        found = self.s.protected[run.id]
        rating = found.rating_a
        if rating and found.count == 1 and fits_dwelling_rule(self.s, run, rating, carries):
            return max(rating, next_standard(carries))
        return next_standard(carries)

    def _enclosure(self, chain: Chain, panel: Panel) -> list[Rung]:
        """Its main, where it has one, and its bars."""
        made = []
        if opens(panel.main):
            made.append(self._device(panel, "main", name_of(panel)))
        if panel.kind == "meter" and panel.bus_a is None:
            return made
        ahead = chain.at_bars(panel.id)
        path = FactPath.of(panel.id, "bus_a")
        what = "bars"
        made.append(
            self._made(RungKind.BARS, panel, path, what, panel.bus_a, ahead.rating_a,
                       "the device ahead", ahead)
        )  # fmt: skip
        return made

    def _feeder(self, feeder: Feeder) -> list[Rung]:
        made = []
        if opens(feeder.breaker):
            made.append(self._device(feeder, "breaker", name_of(feeder)))
        return [*made, self._wire(feeder)]

    def _device(self, element: Part, part: str, name: str) -> Rung:
        device = getattr(element, part)
        path = FactPath.of(element.id, f"{part}.rating_a")
        known = device.rating_a is not None
        kind = {"switch": "switch", "none": "none here", "gG": "fuse"}.get(device.kind or "", "")
        word = kind or ("main" if part == "main" else "breaker")
        what = f"{device.rating_a:g} A {word}" if known else f"{word}, not read"
        return self._made(RungKind.DEVICE, element, path, what, device.rating_a, name=name)

    def _wire(self, run: Circuit | Feeder) -> Rung:
        """A feeder's or circuit's wire: what it carries at its terminals, its device, its load."""
        path = FactPath.of(run.id, "line_size")
        found = self.s.protected[run.id]
        carries = None
        allowed = None
        if run.line_size and tables.is_metric(run.line_size):
            carries = metric_capacity(run)
        elif run.line_size:
            column = min(cable_column(self.s, run), terminals_of(self.s, run))
            carries = carries_a(self.s, run, column) or None
            allowed = allowed_of(self.s, run, column) or None
        must, words = found.rating_a, "its device"
        if isinstance(run, Circuit) and (amps := load_amps(self.s, run)) is not None:
            lasting = continuous_kind(run) is not None
            must = amps * (CONTINUOUS if lasting else 1.0)
            words = f"load {figures(amps)} A{' for hours' if lasting else ''}"
        return self._made(
            RungKind.CONDUCTOR, run, path, _wire_words(run), carries, must, words, found,
            allowed=allowed if words == "its device" else None,
        )  # fmt: skip

    def _made(
        self, kind: RungKind, element: Part, path: FactPath, what: str, carries: float | None,
        must: float | None = None, words: str = "", protected: Protected | None = None,
        name: str = "", allowed: float | None = None,
    ) -> Rung:  # fmt: skip
        worst = self._worst(element.id, kind)
        return Rung(
            kind, element.id, name or name_of(element), what, path,
            self._mark(kind, path, carries, worst, protected), carries, allowed, must,
            words if must else "", _protection(self.s, protected),
            protected.how if protected is not None else None,
            worst.level if worst else None, worst.found if worst else "",
        )  # fmt: skip

    def _worst(self, element: str, kind: RungKind) -> Finding | None:
        about = [f for f in self.found.get(element, ()) if f.id in ABOUT[kind]]
        return min(about, key=lambda f: LEVELS.index(f.level), default=None)

    def _mark(
        self, kind: RungKind, path: FactPath, carries: float | None, worst: Finding | None,
        protected: Protected | None,
    ) -> Footing:  # fmt: skip
        if worst is not None and worst.level in (Level.DANGER, Level.FIX):
            return Footing.SHORT
        if protected is not None and protected.how is Protection.NOT_TYPED:
            return Footing.ASKED
        if worst is not None and worst.level is Level.CHECK:
            return Footing.CHECK
        if kind is RungKind.BARS and carries is None:
            return Footing.UNREAD
        if kind is not RungKind.SOURCE and carries is None:
            return Footing.ASKED
        return Footing.HOLDS if self.s.known(path) else Footing.ASSUMED


def metric_capacity(run: Circuit | Feeder) -> float | None:
    """What a metric run carries by its method of installation, A; None where no table has it."""
    from .checks.metric_protective import capacity_of

    return capacity_of(run)


def _end_words(found: Protected) -> str:
    return "the disconnect at its end" if found.count == 1 else f"{found.count} disconnects"


def _wire_words(run: Circuit | Feeder | Service) -> str:
    """``"2 × 4/0 AWG aluminum, 60 ft"``."""
    if run.line_size is None:
        return "wire not known"
    sets = sets_of(run)
    size = f"{f'{sets} × ' if sets > 1 else ''}{tables.size_name(run.line_size)}"
    feet = f", {run.length_ft:g} ft" if run.length_ft else ""
    return f"{size} {tables.metal_name(run.line_material or 'copper')}{feet}"


def _protection(s: Evidence, found: Protected | None) -> str:
    """What protects it, in words: typed, assumed, inherited or to be asked."""
    if found is None:
        return ""
    if found.how is Protection.NOT_TYPED:
        bound = f"; ahead of it {found.bound_a:g} A" if found.bound_a else ""
        return f"not typed{bound}"
    if found.how is Protection.UTILITY:
        return "the utility’s alone"
    assumed = "" if s.known(f"{found.at}.rating_a") else ", assumed"
    place = name_of(s.elements[found.at.element])
    if found.count > 1:
        return f"{found.count} disconnects, {found.rating_a:g} A together, at its end"
    words = {
        Protection.OWN: f"its own {found.rating_a:g} A",
        Protection.AHEAD: f"nearest ahead: {found.rating_a:g} A, {place}",
        Protection.LOAD_END: f"at its load end: {found.rating_a:g} A, {place}",
    }
    return f"{words[found.how]}{assumed}"
