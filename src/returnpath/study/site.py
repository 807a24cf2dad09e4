"""The whole study of a site: every place, every kind of fault, every supply that is drawn."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property, partial

from ..assume import Assumed, assume
from ..network.wiring import lines_of, wiring_of
from ..site import Installation
from .array import ArrayStudy, study_arrays
from .drop import Drop, drops
from .faults import FaultStudy, study_case
from .load import LoadStudy, load_study, open_neutral, shared_neutral_lost
from .other import study_other
from .places import metal_places, places
from .states import States
from .verdict import ORDER


@dataclass(frozen=True)
class SiteStudy:
    """A site's studies. ``cases``: line to case at every place, with every supply. What is seldom
    looked at (other faults, loads, lost neutrals, arrays) is computed when asked for: each of
    ``others`` gives the other kinds of fault at its case's place.
    """

    assumed: Assumed
    states: tuple[States, ...]
    cases: tuple[FaultStudy, ...]
    others: tuple[Callable[[], list[FaultStudy]], ...] = ()

    @cached_property
    def faults(self) -> tuple[FaultStudy, ...]:
        """Every kind of fault at every place with every supply, place by place."""
        found: list[FaultStudy] = []
        for case, more in zip(self.cases, self.others, strict=True):
            found += [case, *more()]
        return tuple(found)

    @cached_property
    def loops(self) -> dict[str, FaultStudy]:
        """Line to case at each circuit, its worst supply, by circuit id."""
        return {f.place: f for f in self.cases if f.circuit and self._worst_case[f.place] is f}

    @cached_property
    def enclosures(self) -> dict[str, FaultStudy]:
        """Line to case at each panel's enclosure, its worst supply, by panel id."""
        return {f.place: f for f in self.cases if not f.circuit and self._worst_case[f.place] is f}

    @cached_property
    def metals(self) -> dict[str, FaultStudy]:
        """A line of its panel against other metal (pipe, frame, electrode), by its id, with the
        first supply. The device judged is the panel's; a circuit's own breaker opens sooner."""
        states = self.states[0] if self.states else None
        if states is None:
            return {}
        legs = panel_legs(states)
        return {
            p.id: study_case(states, p, legs[p.panel][:1])
            for p in metal_places(self.assumed.site)
            if legs.get(p.panel)
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
        """Whether no other supply does worse for the same fault."""
        return self._worst[fault.place, fault.kind] is fault

    def other(self, place: str, kind: str) -> FaultStudy | None:
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
    def open_neutrals(self) -> dict[str, LoadStudy]:
        """The service neutral lost with every load on, by supply."""
        found = {s.supply.id: open_neutral(s) for s in self.states}
        return {k: v for k, v in found.items() if v is not None}

    @cached_property
    def shared_neutrals(self) -> tuple[LoadStudy, ...]:
        """Each shared neutral lost, with the first supply."""
        return shared_neutral_lost(self.states[0])

    @cached_property
    def drops(self) -> tuple[Drop, ...]:
        """The voltage drop in every circuit's own run, with the first supply."""
        return drops(self.states[0])

    @cached_property
    def arrays(self) -> tuple[ArrayStudy, ...]:
        """D.c. ground faults of the arrays."""
        return study_arrays(self.assumed, self.states[0])


def _badness(fault: FaultStudy) -> tuple[float, float]:
    """Worse verdicts first, then the lower current."""
    rank = ORDER.index(fault.verdict)
    if fault.lacks:
        rank = len(ORDER)
    return rank, -(fault.lowest_a or 0.0)


def panel_legs(states: States) -> dict[str, tuple[int, ...]]:
    """panel → the lines it has with this supply: fewer behind a two-pole feeder, none if dead."""
    lines = lines_of(states.site)
    found: dict[str, tuple[int, ...]] = {}
    for panel in states.site.panels:
        feeders, service = states.chain(panel.id)
        if service is None or service.line_size is None:
            continue
        least = min([lines, *(f.poles or lines for f in feeders)])
        found[panel.id] = tuple(range(1, least + 1))
    return found


def study(site: Installation) -> SiteStudy:
    """Study every place of a site, gaps filled by ``assume``."""
    assumed = assume(site)
    wiring = wiring_of(assumed.site)
    circuit_legs = wiring.legs
    cases: list[FaultStudy] = []
    others: list[Callable[[], list[FaultStudy]]] = []
    all_states = []
    supplied = {s.supply for s in site.services}
    for supply in assumed.site.supplies:
        if supply.id not in supplied:
            continue
        states = States(assumed, supply, wiring)
        all_states.append(states)
        legs = panel_legs(states)
        for place in places(states, legs):
            own = circuit_legs[place.circuit.id] if place.circuit else legs.get(place.panel, ())
            there = legs.get(place.panel)
            if there is None:
                if states.site.service.line_size is None and place.circuit:
                    cases.append(study_case(states, place, own))  # says what is lacking
                    others.append(list)
                continue
            own = tuple(leg for leg in own if leg in there) or there[:1]
            cases.append(study_case(states, place, own))
            others.append(partial(study_other, states, place, own))
    return SiteStudy(assumed, tuple(all_states), tuple(cases), tuple(others))
