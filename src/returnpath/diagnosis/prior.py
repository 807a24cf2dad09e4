"""How usual each defect is, before anything is read. method 14."""

from collections import defaultdict

import numpy as np

from ..site import Installation, Panel
from ..site.arrangement import feeders_up
from ..site.rings import is_ring
from ..study import SiteStudy
from .defects import OWN_SHARE, Defect, priors

BEGAN = 0.5  # of what is asked about is where somebody began to read
MOST_PROPOSED = 4  # more places were walked in turn: none of them is what it is about
TWO_BREAKS = 0.1  # a ring's protective conductor is lost only where both of its legs are
#: Neutral and ground that meet behind a residual-current device trip it with the first load: where
#: one is described and the circuit runs, this is rarer.
NEUTRAL_ON_GROUND, NOT_TRIPPED = ("outlet-bond", "exchanged", "bond-in"), 0.05


def log_prior(study: SiteStudy, defects: list[Defect], places: list[str]) -> np.ndarray:
    """The share of a kind over its classes, nine tenths on the loops of the places that were read;
    of a class over its sizes."""
    site = study.assumed.site
    classes: dict[str, dict[str, str]] = defaultdict(dict)
    sizes: dict[str, int] = defaultdict(int)
    for d in defects:
        classes[d.kind][d.key] = d.element
        sizes[d.key] += 1
    loops = [(weight, own_loop(study, place)) for place, weight in _weights(places or [""]).items()]
    share = {key: part * priors()[kind][0] / sizes[key]
             for kind, of_kind in classes.items()
             for key, part in _by_place(of_kind, loops).items()}  # fmt: skip
    rings, guarded = {c.id for c in site.circuits if is_ring(c)}, _guarded(site)
    found = np.array([share[d.key] for d in defects])
    for n, d in enumerate(defects):
        if d.kind == "egc-open" and d.element in rings:
            found[n] *= TWO_BREAKS
        if d.kind in NEUTRAL_ON_GROUND and d.element in guarded:
            found[n] *= NOT_TRIPPED
    log: np.ndarray = np.log(found)
    return log


def _weights(places: list[str]) -> dict[str, float]:
    """How much each place that was read is asked about: the first, where somebody began, half of it
    and its part of the rest: what was read because it was proposed makes no place likelier."""
    some = list(dict.fromkeys(places))
    began = BEGAN if len(some) <= MOST_PROPOSED else 0.0
    return {p: (1 - began) / len(some) + (began if n == 0 else 0.0) for n, p in enumerate(some)}


def _by_place(classes: dict[str, str], loops: list[tuple[float, set[str]]]) -> dict[str, float]:
    """The part of a kind that falls on each of its classes (key → element)."""
    on = [(w, [k for k, element in classes.items() if element in loop]) for w, loop in loops]
    on = [(w, keys) for w, keys in on if keys]
    whole = sum(w for w, _ in on)
    elsewhere = set(classes).difference(*(keys for _, keys in on))
    own = 0.0 if not on else OWN_SHARE if elsewhere else 1.0
    found = dict.fromkeys(elsewhere, (1 - own) / max(len(elsewhere), 1))
    for weight, keys in on:
        for key in keys:
            found[key] = found.get(key, 0.0) + own * weight / whole / len(keys)
    return found


def _guarded(site: Installation) -> set[str]:
    """The circuits and panels that stand behind a residual-current device."""
    panels = {p.id: p for p in site.panels}
    found: set[str] = set()
    for panel in site.panels:
        up = feeders_up(site, panel.id)
        if any(f.rcd_ma or panels[f.source].rcd_ma for f in up):
            found.add(panel.id)
    for circuit in site.circuits:
        panel = panels[circuit.panel]
        # A GFCI may be the receptacle: what is joined ahead of it does not trip it.
        if circuit.rcd_ma or panel.rcd_ma or panel.id in found:
            found.add(circuit.id)
    return found


def own_loop(study: SiteStudy, place: str) -> set[str]:
    """The elements on the way from a place to the source."""
    site = study.assumed.site
    element = site.elements().get(place)
    found = {s.id for s in site.services} | {site.panel.id, place}
    here = getattr(element, "panel", None) or (place if isinstance(element, Panel) else "")
    while here:
        found.add(here)
        feeder = next((f for f in site.feeders if f.to == here), None)
        if feeder is None:
            break
        found.add(feeder.id)
        here = feeder.source
    return found
