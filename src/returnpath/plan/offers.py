"""Which procedures fit a place: what its findings ask for first, what else could be done after."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from ..rules import Evidence, Finding
from ..site import name_of
from ..site.arrangement import Arrangement, arrangement_at
from ..site.rings import is_ring
from ..site.serves import places_of
from ..vocabulary import GRAVE
from ..words import RuleSet
from .form import forms

#: A finding and the procedure that mends it.
CURES = {
    "bond-downstream": "bond-cure",
    "neutral-on-ground-bar": "bond-cure",
    "service-too-small": "service-change",
    "load-over-service": "service-change",
    "range-three-wire": "range-dryer",
    "strap-wrong": "range-dryer",
    "ring-broken": "ring-fault",
    "tt-electrode-high": "tt-electrode",
    "vehicle-open-pen": "vehicle-charger",
    "vehicle-rcd": "vehicle-charger",
}


@dataclass(frozen=True)
class Offer:
    """A procedure for one part of the place; ``why`` it is offered, ``asked`` whether a finding
    asks for it."""

    key: str
    subject: str
    name: str
    why: str
    asked: bool


def offers(s: Evidence, found: Iterable[Finding] = ()) -> tuple[Offer, ...]:
    """Those that findings ask for, gravest first; then those that fit what is there."""
    made: dict[tuple[str, str], Offer] = {}
    rules = (RuleSet.METRIC if s.is_metric else RuleSet.US).value
    for finding in found:
        for one in (finding, *finding.folded):
            key = CURES.get(one.id)
            if key and one.level in GRAVE:
                made.setdefault((key, one.place), Offer(key, one.place, one.place_name,
                                                        one.found, True))  # fmt: skip
    for offer in _fitting_metric(s) if s.is_metric else _fitting(s):
        made.setdefault((offer.key, offer.subject), offer)
    there = s.filled.elements()
    own = {k for k, f in forms().items() if f.rules in (rules, "both")}
    listed = (o for o in made.values() if o.key in own)
    return tuple(o for o in listed if o.subject in there and _fits(s, o))


def _fits(s: Evidence, offer: Offer) -> bool:
    if offer.key in ("bond-cure", "sub-panel"):
        return offer.subject in s.feeder_to
    if offer.key == "tt-electrode":
        return offer.subject in {e.id for e in s.filled.electrodes}
    return True


def _fitting_metric(s: Evidence) -> Iterator[Offer]:
    """What fits a place of the metric rule set."""
    board = s.filled.panel
    for panel in s.filled.panels:
        yield Offer("verification", panel.id, name_of(panel), "dead tests, then live", False)
    yield Offer("board-change", board.id, name_of(board), "a new board", False)
    for feeder in s.filled.feeders:
        if feeder.to in s.panels and s.other_building(feeder):
            yield Offer("outbuilding-earth", feeder.id, name_of(feeder), "another building", False)
    for circuit in s.filled.circuits:
        if is_ring(circuit):
            yield Offer("ring-fault", circuit.id, name_of(circuit), "a ring", False)
        if "EV" in places_of(circuit):
            yield Offer("vehicle-charger", circuit.id, name_of(circuit), "a charger", False)
    for electrode in s.filled.electrodes:
        if arrangement_at(s.filled, electrode.panel) is Arrangement.TT:
            yield Offer("tt-electrode", electrode.id, name_of(electrode), "the place is TT", False)
    for supply in s.filled.supplies:
        if supply.kind == "generator":
            yield Offer("generator", supply.id, name_of(supply), "a second source", False)
    yield Offer("fault-finding", board.id, name_of(board), "from symptom to joint", False)


def _fitting(s: Evidence) -> Iterator[Offer]:
    service = s.filled.panel
    rating = service.main.rating_a
    if rating and rating < 200:
        yield Offer("service-change", service.id, name_of(service), f"{rating:g} A today", False)
    for feeder in s.filled.feeders:
        if feeder.to not in s.panels:
            continue
        if s.other_building(feeder):
            yield Offer("outbuilding", feeder.id, name_of(feeder), "fed from another building",
                        False)  # fmt: skip
        else:
            panel = s.panels[feeder.to]
            yield Offer("sub-panel", panel.id, name_of(panel), "fed in the same building", False)
    for array in s.filled.arrays:
        yield Offer("array-grounding", array.id, name_of(array), "before modules hide it", False)
    for circuit in s.filled.circuits:
        if circuit.load_kind in ("range", "dryer"):
            yield Offer("range-dryer", circuit.id, name_of(circuit), "a cord and a strap", False)
        elif circuit.egc == "none":
            yield Offer("two-wire-receptacle", circuit.id, name_of(circuit), "no equipment ground",
                        False)  # fmt: skip
    for metal in s.filled.metals:
        if metal.kind == "pool":
            yield Offer("pool", metal.id, name_of(metal), "bonding before the pour", False)
    for supply in s.filled.supplies:
        if supply.kind == "generator":
            yield Offer("generator", supply.id, name_of(supply), "a second source", False)
    for panel in s.filled.panels:
        yield Offer("panel-cut-in", panel.id, name_of(panel), "new cables into it", False)
    yield Offer("fault-finding", service.id, name_of(service), "from symptom to joint", False)
    if not (rating and rating < 200):
        yield Offer("service-change", service.id, name_of(service), "another service", False)
