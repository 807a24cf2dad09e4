"""Which procedures fit a place: what its findings ask for first, what else could be done after."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from ..rules import Evidence, Finding
from ..site import name_of
from ..vocabulary import GRAVE

#: A finding and the procedure that mends it.
CURES = {
    "bond-downstream": "bond-cure",
    "neutral-on-ground-bar": "bond-cure",
    "service-too-small": "service-change",
    "load-over-service": "service-change",
    "range-three-wire": "range-dryer",
    "strap-wrong": "range-dryer",
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
    for finding in found:
        for one in (finding, *finding.folded):
            key = CURES.get(one.id)
            if key and one.level in GRAVE:
                made.setdefault((key, one.place), Offer(key, one.place, one.place_name,
                                                        one.found, True))  # fmt: skip
    for offer in _fitting(s):
        made.setdefault((offer.key, offer.subject), offer)
    there = s.filled.elements()
    return tuple(o for o in made.values() if o.subject in there and _fits(s, o))


def _fits(s: Evidence, offer: Offer) -> bool:
    if offer.key in ("bond-cure", "sub-panel"):
        return offer.subject in s.feeder_to
    return True


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
