"""The reading to take next: the one that lowers the doubt most for its cost. method 14."""

from dataclasses import dataclass

import numpy as np

from ..readings import reading_kinds
from ..site import Circuit, Element, Feeder, Installation, Panel, name_of
from .nets import Nets
from .probes import Predictor, probe_of

COST = {"loop": 1.0, "r1r2": 1.6, "r2": 1.6, "ng": 1.2, "clamp": 1.5}
#: What loads or lengths blur a reading by, in the choice of the next one.
LIVE_VAGUE, DEAD_VAGUE = 0.35, 0.06


@dataclass(frozen=True)
class Proposal:
    """The reading that would tell most, and its gain for its cost."""

    kind: str
    place: str
    words: str
    gain: float


def propose(
    nets: Nets, predictor: Predictor, share: np.ndarray, taken: set[tuple[str, str]]
) -> Proposal | None:
    """The reading that would lower the doubt most for its cost, among those allowed: never by
    opening a neutral or an electrode conductor."""
    if share.max() > 0.999:
        return None
    weighty = np.argsort(-share)[:60]
    site = nets.study.assumed.site
    best: Proposal | None = None
    places = dict.fromkeys(predictor.defects[n].element for n in weighty)
    circuits = [c.id for c in site.circuits]
    few = Predictor(predictor.nets, [predictor.defects[n] for n in weighty])
    weights = share[weighty] / share[weighty].sum()
    keys = [predictor.defects[n].key for n in weighty]
    classes = np.array([keys.index(k) for k in keys])
    # Places of what is believed, and their neighbours on the same panels; a long list adds nothing.
    near = [*places, *_neighbours(site, places, circuits)]
    for kind, cost in COST.items():
        for place in near:
            element = site.elements().get(place)
            if element is None or (kind, place) in taken or not _allowed(kind, element):
                continue
            probe = probe_of(nets, kind, place)
            if probe is None:
                continue
            gain = _gain(few.column(probe), weights, classes, kind) / cost
            if best is None or gain > best.gain:
                label = reading_kinds()[kind].label
                best = Proposal(kind, place, f"{label} at {name_of(element)}", gain)
    return best if best and best.gain > 0.01 else None


MOST_NEAR = 24


def _neighbours(site: Installation, places: dict[str, None], circuits: list[str]) -> list[str]:
    """Circuits of the panels of what is believed first, then others, and every panel."""
    panels = {c.panel for c in site.circuits if c.id in places} | set(places)
    here = [c.id for c in site.circuits if c.panel in panels]
    found = dict.fromkeys([*here[:MOST_NEAR], *circuits[:MOST_NEAR], *(p.id for p in site.panels)])
    return [i for i in found if i not in places]


def _gain(values: np.ndarray, weights: np.ndarray, classes: np.ndarray, kind: str) -> float:
    """The expected drop of the doubt between classes (natural units) from one more reading: what
    each defect would read, blurred by the meter and what is not known anyway."""
    error = reading_kinds()[kind]
    vague = LIVE_VAGUE if kind in ("ng", "clamp") else DEAD_VAGUE
    sd = error.error_share * np.abs(values) + error.error_abs + vague * np.abs(values) + 1e-3
    # Belief after the reading that defect k would give, for every k.
    d = (values[None, :] - values[:, None]) / np.hypot(sd[None, :], sd[:, None])
    after = weights[None, :] * np.exp(-0.5 * np.minimum(d**2, 60.0)) / sd[None, :]
    after /= after.sum(axis=1, keepdims=True)
    member = (classes[:, None] == np.unique(classes)[None, :]).astype(float)
    by_class, now = after @ member, weights @ member
    return float(_doubt(now[None])[0] - weights @ _doubt(by_class))


def _doubt(shares: np.ndarray) -> np.ndarray:
    safe = np.maximum(shares, 1e-12)
    found: np.ndarray = -(safe * np.log(safe)).sum(axis=1)
    return found


def _allowed(kind: str, element: Element) -> bool:
    if kind in ("loop", "ng"):
        return isinstance(element, Circuit | Panel)
    if kind in ("r1r2", "r2"):
        return isinstance(element, Circuit)
    return isinstance(element, Circuit | Feeder)
