"""How usual each defect is, before anything is read. method 14."""

from collections import defaultdict
from dataclasses import dataclass

import numpy as np

from ..site import Circuit, Installation, Panel
from ..site.arrangement import feeders_up
from ..site.rings import is_ring
from ..vocabulary import NodeId
from .defects import LINES, OWN_SHARE, Defect, priors
from .nets import Nets

BEGAN = 0.5  # of what is asked about is where somebody began to read
MOST_PROPOSED = 4  # more places were walked in turn: none of them is what it is about
TWO_BREAKS = 0.1  # a ring's protective conductor is lost only where both of its legs are
#: Neutral and ground that meet behind a residual-current device trip it with the first load: where
#: one is described and the circuit runs, this is rarer.
NEUTRAL_ON_GROUND, NOT_TRIPPED = ("outlet-bond", "exchanged", "bond-in"), 0.05


def log_prior(nets: Nets, defects: list[Defect], places: list[str]) -> np.ndarray:
    """The share of a kind over its classes, nine tenths on the loops of the places that were read;
    of a class over its sizes."""
    site = nets.study.assumed.site
    classes: dict[str, dict[str, str]] = defaultdict(dict)
    sizes: dict[str, int] = defaultdict(int)
    for d in defects:
        classes[d.kind][d.key] = d.element
        sizes[d.key] += 1
    loops = [(w, own_loop(nets, place)) for place, w in _weights(places or [""]).items()]
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


def _by_place(classes: dict[str, str], loops: "list[tuple[float, OwnLoop]]") -> dict[str, float]:
    """The part of a kind that falls on each of its classes (key → element)."""
    on = [(w, [k for k, element in classes.items() if element in loop.elements
               and k not in loop.other_lines]) for w, loop in loops]  # fmt: skip
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


@dataclass(frozen=True)
class OwnLoop:
    """The elements on the way from a place to the source; ``other_lines`` the lines of these that
    its current does not take (classes: “f7:line2”): those of the other leg."""

    elements: set[str]
    other_lines: set[str]


def own_loop(nets: Nets, place: str) -> OwnLoop:
    """What a loop at a place goes through."""
    site = nets.study.assumed.site
    element = site.elements().get(place)
    found = OwnLoop({s.id for s in site.services} | {site.panel.id, place}, set())
    here = getattr(element, "panel", None) or (place if isinstance(element, Panel) else "")
    legs = _line_ends(nets, place, is_far=False) if isinstance(element, Circuit) else set()
    while here:
        found.elements.add(here)
        feeder = next((f for f in site.feeders if f.to == here), None)
        up = feeder or next((s for s in site.services if s.to == here), None)
        if up is not None and legs:
            far = {part: _line_ends(nets, up.id, True, part) for part in LINES}
            ours = [part for part in LINES if far[part] & legs]
            found.other_lines.update(f"{up.id}:{part}" for part in LINES if far[part] - legs)
            legs = {leg for part in ours for leg in _line_ends(nets, up.id, False, part)}
        if feeder is None:
            break
        found.elements.add(feeder.id)
        here = feeder.source
    return found


def _line_ends(nets: Nets, run: str, is_far: bool, part: str = "") -> set[str]:
    """The numbers of the legs that a run's lines begin at, or end at."""
    there = nets.loops.network.branches
    some = [there[b] for p in ([part] if part else LINES) if (b := f"{run}.{p}") in there]
    return {NodeId(b.b if is_far else b.a).part[-1] for b in some}
