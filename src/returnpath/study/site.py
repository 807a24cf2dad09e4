"""The whole study of a site: every place, every kind of fault, every supply that is drawn."""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

from ..assume import Assumed, assume
from ..errors import BadInput
from ..network.wiring import wiring_of
from ..site import Installation
from .array import ArrayStudy, study_arrays
from .drop import Drop, drops
from .faults import HTML_HEAD, FaultStudy
from .load import LoadStudy, SharedLost, load_study, open_neutrals, shared_neutral_lost
from .one_fault import kinds_at, study_fault
from .port import FaultKind, Place, circuit_places, enclosure_places, metal_places, ports_of
from .states import States
from .verdict import ORDER, Verdict


@dataclass(frozen=True, repr=False)
class SiteStudy:
    """A site's studies. ``cases``: line to enclosure everywhere, with every supply. What is seldom
    looked at (other faults, loads, lost neutrals, arrays) is computed when asked for: each of
    ``judged_at`` is the states and the place of its case.
    """

    assumed: Assumed
    states: tuple[States, ...]
    cases: tuple[FaultStudy, ...]
    judged_at: tuple[tuple[States, Place], ...] = ()

    @cached_property
    def faults(self) -> tuple[FaultStudy, ...]:
        """Every kind of fault at every place with every supply, place by place."""
        found: list[FaultStudy] = []
        for case, (states, place) in zip(self.cases, self.judged_at, strict=True):
            found.append(case)
            found += [study_fault(states, place, kind) for kind in kinds_at(place)]
        return tuple(found)

    @cached_property
    def loops(self) -> dict[str, FaultStudy]:
        """Line to enclosure at each circuit, its worst supply, by circuit id."""
        return {f.place: f for f in self.cases if f.circuit and self._worst_case[f.place] is f}

    @cached_property
    def enclosures(self) -> dict[str, FaultStudy]:
        """Line to enclosure at each panel's enclosure, its worst supply and side, by panel id."""
        return {f.place: f for f in self.cases if not f.circuit and self._worst_case[f.place] is f}

    @cached_property
    def metered(self) -> dict[str, FaultStudy]:
        """Line to enclosure as a meter reads it on an ordinary day, by the id of its circuit or
        panel: on the first supply that reaches it (a generator does not run while one reads)."""
        found: dict[str, FaultStudy] = {}
        for fault in self.cases:
            found.setdefault(fault.place, fault)
        return found

    @property
    def worst(self) -> FaultStudy | None:
        """The circuit that clears worst, line to enclosure; None where there is no circuit."""
        return max(self.loops.values(), key=_badness, default=None)

    def __repr__(self) -> str:
        site = self.assumed.site
        return (
            f"SiteStudy({len(site.panels)} panels, {len(site.circuits)} circuits,"
            f" {len(self.states)} supplies; worst: {self.worst!r})"
        )

    def _repr_html_(self) -> str:
        """The loops as a table, worst first: what a notebook shows."""
        rows = sorted(self.loops.values(), key=_badness, reverse=True)
        body = "".join(f"<tr>{row.html_cells()}</tr>" for row in rows)
        return f"<table><thead><tr>{HTML_HEAD}</tr></thead><tbody>{body}</tbody></table>"

    @cached_property
    def protected_enclosures(self) -> dict[str, FaultStudy]:
        """The same of the sides that some device of this place is ahead of, by panel id."""
        found: dict[str, FaultStudy] = {}
        for fault in self.cases:
            if fault.circuit or fault.device is None:
                continue
            kept = found.get(fault.place)
            if kept is None or _badness(fault) > _badness(kept):
                found[fault.place] = fault
        return found

    @cached_property
    def metals(self) -> dict[str, FaultStudy]:
        """A line of its panel against other metal (pipe, frame, electrode), by its id, with the
        first supply. The device judged is the panel's; a circuit's own breaker opens sooner."""
        if not self.states:
            return {}
        first = self.states[0]
        return {
            p.id: study_fault(first, p, FaultKind.CASE) for p in metal_places(self.assumed.site)
        }

    @cached_property
    def _worst_case(self) -> dict[str, FaultStudy]:
        found: dict[str, FaultStudy] = {}
        for fault in self.cases:
            if fault.place not in found or _badness(fault) > _badness(found[fault.place]):
                found[fault.place] = fault
        return found

    @cached_property
    def _worst(self) -> dict[tuple[str, str], FaultStudy]:
        found: dict[tuple[str, str], FaultStudy] = {}
        for fault in self.faults:
            key = (fault.place, fault.kind)
            if key not in found or _badness(fault) > _badness(found[key]):
                found[key] = fault
        return found

    def is_worst(self, fault: FaultStudy) -> bool:
        """Whether no other supply, and no other side of its main, does worse for the same fault."""
        return self._worst[fault.place, fault.kind] is fault

    def worst_fault(self, place: str, kind: FaultKind) -> FaultStudy | None:
        """The worst supply's fault of ``kind`` at ``place``."""
        return self._worst.get((place, kind))

    @cached_property
    def available(self) -> dict[str, float]:
        """The most a device in each panel may have to interrupt, A, over all supplies."""
        found: dict[str, float] = {}
        for states in self.states:
            for panel in self.assumed.site.panels:
                amps = states.spine.available_a(panel.id)
                if amps:
                    found[panel.id] = max(found.get(panel.id, 0.0), amps)
        return found

    @property
    def available_a(self) -> float | None:
        """The most at the service panel, A."""
        return self.available.get(self.assumed.site.panel.id)

    @property
    def why_not(self) -> str:
        """Why a lowest current is not known, "" where it is."""
        return next((s.sources.why_not for s in self.states if s.sources.why_not), "")

    @cached_property
    def loads(self) -> dict[str, LoadStudy]:
        """Every load on, by supply."""
        return {s.supply.id: load_study(s) for s in self.states}

    @cached_property
    def lost_neutrals(self) -> tuple[LoadStudy, ...]:
        """The neutral of every service run and every feeder lost, one at a time, with every load
        on: the services first."""
        return tuple(found for s in self.states for found in open_neutrals(s))

    @cached_property
    def open_neutrals(self) -> dict[str, LoadStudy]:
        """The service neutral lost with every load on, by supply."""
        found: dict[str, LoadStudy] = {}
        for lost in self.lost_neutrals:
            if lost.is_service:
                found.setdefault(lost.supply, lost)
        return found

    @cached_property
    def shared_neutrals(self) -> tuple[SharedLost, ...]:
        """Each shared neutral lost, with the first supply."""
        return shared_neutral_lost(self.states[0]) if self.states else ()

    @cached_property
    def drops(self) -> tuple[Drop, ...]:
        """The voltage drop in every circuit's own run, with the first supply."""
        return drops(self.states[0]) if self.states else ()

    @cached_property
    def arrays(self) -> tuple[ArrayStudy, ...]:
        """D.c. ground faults of the arrays."""
        return study_arrays(self.assumed, self.states[0]) if self.states else ()


def _badness(fault: FaultStudy) -> tuple[float, float]:
    """Worse verdicts first, then the lower current. A lack is worse than any verdict; a fault that
    nothing of this place's is ahead of has no verdict: where another side has one, that counts,
    and says so (``remark``)."""
    if fault.verdict is Verdict.NOT_KNOWN and fault.lowest_a is not None:
        return -1, 0.0
    return ORDER.index(fault.verdict), -(fault.lowest_a or 0.0)


#: What bounds the work: currents between n panels grow with n², rods in shared soil with n³.
MOST_STUDIED = {"panels": 200, "feeders": 300, "electrodes": 300}


def study(site: Installation) -> SiteStudy:
    """Study every place of a site, gaps filled by ``assume``. BadInput where it is too large."""
    for name, most in MOST_STUDIED.items():
        if len(getattr(site, name)) > most:
            raise BadInput(
                f"{len(getattr(site, name)):,} {name} are too many to study at once:"
                f" {most} are the most. Make two jobs of it."
            )
    assumed = assume(site)
    wiring = wiring_of(assumed.site)
    supplied = {s.supply for s in site.services}
    states = tuple(
        States(assumed, supply, wiring) for supply in assumed.site.supplies if supply.id in supplied
    )
    found = [
        *circuit_places(assumed.site, wiring.legs),
        *enclosure_places(assumed.site),
    ]
    ports = ports_of(found)
    for each in states:
        each.spine.prepare(ports)
    judged = tuple(_judged_at(states, found))
    cases = tuple(study_fault(s, place, FaultKind.CASE) for s, place in judged)
    return SiteStudy(assumed, states, cases, judged)


def _judged_at(states: tuple[States, ...], found: list[Place]) -> Iterator[tuple[States, Place]]:
    """Every place with every supply that reaches it; one that none reaches with the first."""
    for each in states:
        for place in found:
            if each.chain(place.panel)[1] is not None:
                yield each, place
    for place in found:
        if states and all(s.chain(place.panel)[1] is None for s in states):
            yield states[0], place
