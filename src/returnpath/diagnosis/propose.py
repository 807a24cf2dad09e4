"""The reading to take next: the one that lowers the doubt most for its cost. method 14."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..readings import reading_kinds
from ..site import Circuit, Electrode, Element, Feeder, Installation, Panel, name_of
from ..site.rings import is_ring
from .defects import Defect
from .doubt import Unknowns
from .nets import Nets
from .probes import RING_PARTS, Probe, probe_of
from .shift import Shift

COST = {
    "loop": 1.0, "loop2": 1.0, "loop-ln": 1.0, "ng": 1.0, "ln": 1.0, "lg": 1.0, "clamp": 1.5,
    "step-ng": 1.2, "step-drop": 1.2, "step-leg": 1.6, "step-clamp": 1.6, "r1r2": 1.6, "r2": 1.6,
    "ring-line": 1.6, "ring-neutral": 1.6, "ring-egc": 1.6,
}  # fmt: skip
AT_PANEL = 1.5  # a loop there: the cover comes off
#: What loads or lengths blur a reading by, in the first screen; the model's own doubt after it.
LIVE_VAGUE, DEAD_VAGUE = 0.35, 0.05
MODEL_SD, LIVE_SD, ERROR_SHARE = 0.015, 0.05, 0.6
WEIGHTY, SAMPLED, LEAST_LEFT, MOST_NEAR, BEST_OF_KIND = 60, 60, 1e-3, 24, 4
CERTAIN, LEAST_GAIN, MOST_SIGMA2 = 0.999, 0.01, 6.0


@dataclass(frozen=True)
class Proposal:
    """The reading that would tell most, its gain for its cost; ``answers`` what it would be under
    the likeliest candidates (their words, the value)."""

    kind: str
    place: str
    words: str
    gain: float
    answers: tuple[tuple[str, float], ...] = ()


@dataclass(frozen=True)
class Learnt:
    """What the readings so far say of the unknowns that they share: ``rows`` (readings, unknowns),
    ``own`` the variance of each reading alone, ``residual`` (defects, readings)."""

    rows: np.ndarray
    own: np.ndarray
    residual: np.ndarray

    def further(self, row: np.ndarray, some: np.ndarray) -> tuple[np.ndarray, float]:
        """(what the readings move the next one by under each of ``some`` defects, its variance)."""
        if not len(self.rows):
            return np.zeros(len(some)), float(row @ row)
        sigma = self.rows @ self.rows.T + np.diag(self.own)
        with_them = self.rows @ row
        gain = np.linalg.solve(sigma, with_them)
        # A misfit that no doubt explains is the defect's, not the unknowns': it moves nothing.
        wide = 2 * np.sqrt(np.diag(sigma))
        moved = np.clip(self.residual[some], -wide, wide) @ gain
        return moved, max(float(row @ row - gain @ with_them), 0.0)


def propose(
    nets: Nets,
    unknowns: Unknowns,
    defects: Sequence[Defect],
    share: np.ndarray,
    taken: set[tuple[str, str]],
    learnt: Learnt,
) -> Proposal | None:
    """The reading that would lower the doubt most for its cost, among those allowed: never by
    opening a neutral or an electrode conductor."""
    keys = [d.key for d in defects]
    if _largest_class(keys, share) > CERTAIN:
        return None
    weighty, weights = representatives(share)
    few = [defects[n] for n in weighty]
    classes = np.unique([d.key for d in few], return_inverse=True)[1]
    site = nets.study.assumed.site
    read = {place for _, place in taken}
    by_net = dict(zip(("loops", "loaded", "dead"), nets.each(), strict=True))
    shifts = {name: Shift(net, few) for name, net in by_net.items()}
    plain = {name: Shift(net, [NOTHING]) for name, net in by_net.items()}
    best: tuple[float, Probe] | None = None
    for kind, some in _open_probes(nets, site, few, taken).items():
        values = shifts[some[0].net].columns(some)
        sd = _blur(kind, values)
        mean = weights @ values
        screen = weights @ np.minimum(((values - mean) / sd) ** 2, MOST_SIGMA2)
        cost = np.array([COST[kind] * _dear(nets, kind, p) for p in some])
        chosen = list(np.argsort(-screen / cost)[:BEST_OF_KIND])
        chosen += [n for n, p in enumerate(some) if p.place in read and n not in chosen]
        for n in chosen:
            row = unknowns.rows(some[n], plain[some[n].net], [0])[0]
            moved, variance = learnt.further(row, weighty)
            own = _instrument(some[n], values[:, n])
            found = _gain(values[:, n] + moved, np.sqrt(own + variance), weights, classes)
            if best is None or found / cost[n] > best[0]:
                best = found / cost[n], some[n]
    if best is None or best[0] <= LEAST_GAIN:
        return None
    gain, probe = best
    words = f"{reading_kinds()[probe.kind].label} at {name_of(site.elements()[probe.place])}"
    return Proposal(probe.kind, probe.place, words, float(gain))


def representatives(share: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(the defects that stand for all, their weights, which sum to one): the likeliest, and of the
    many unlikely every so many, by weight, in the order of the catalogue.

    The likeliest alone hold little of the belief while it is spread, and a reading that would clear
    many places at once looked worth nothing.
    """
    order = np.argsort(-share)
    top, rest = order[:WEIGHTY], np.sort(order[WEIGHTY:])
    left = share[rest].sum()
    if left < LEAST_LEFT:
        return top, share[top] / share[top].sum()
    steps = (np.arange(SAMPLED) + 0.5) / SAMPLED * left
    drawn = np.minimum(np.searchsorted(np.cumsum(share[rest]), steps), len(rest) - 1)
    chosen, times = np.unique(rest[drawn], return_counts=True)
    weights = np.concatenate([share[top], times * left / SAMPLED])
    return np.concatenate([top, chosen]), weights / weights.sum()


NOTHING = Defect("none", "none", "", 0.0, ())


def _instrument(probe: Probe, values: np.ndarray) -> np.ndarray:
    """The variance of a reading alone: its meter and the model."""
    error = reading_kinds()[probe.kind]
    size = np.abs(values)
    meter = ERROR_SHARE * (error.error_share * size + error.error_abs)
    found: np.ndarray = meter**2 + ((LIVE_SD if probe.live else MODEL_SD) * size) ** 2 + 1e-6
    return found


def _largest_class(keys: Sequence[str], share: np.ndarray) -> float:
    top = keys[int(np.argmax(share))]
    return float(sum(s for k, s in zip(keys, share, strict=True) if k == top))


def _open_probes(
    nets: Nets, site: Installation, few: Sequence[Defect], taken: set[tuple[str, str]]
) -> dict[str, list[Probe]]:
    """By kind: places of what is believed, and their neighbours on the same panels; a long list
    adds nothing."""
    places = dict.fromkeys([*(place for _, place in taken), *(d.element for d in few)])
    circuits = [c.id for c in site.circuits]
    panels = {c.panel for c in site.circuits if c.id in places} | set(places)
    here = [c.id for c in site.circuits if c.panel in panels]
    near = dict.fromkeys([*places, *here[:MOST_NEAR], *circuits[:MOST_NEAR],
                          *(p.id for p in site.panels), *(f.id for f in site.feeders)])  # fmt: skip
    elements = site.elements()
    found: dict[str, list[Probe]] = {}
    for place in near:
        element = elements.get(place)
        for kind in COST if element is not None else ():
            if (kind, place) in taken or element is None or not may_be_read(kind, element):
                continue
            probe = probe_of(nets, kind, place)
            if probe is not None:
                found.setdefault(kind, []).append(probe)
    return found


def may_be_read(kind: str, element: Element) -> bool:
    """Whether a person may take this reading there with nothing opened."""
    if kind in RING_PARTS:
        return isinstance(element, Circuit) and is_ring(element)
    if kind in ("r1r2", "r2"):
        return isinstance(element, Circuit)
    if kind == "loop2":
        return isinstance(element, Circuit) and element.poles == 2
    if kind.endswith("clamp"):
        return isinstance(element, Circuit | Feeder | Electrode)
    return isinstance(element, Circuit | Panel)


def _dear(nets: Nets, kind: str, probe: Probe) -> float:
    at_panel = isinstance(nets.elements[probe.place], Panel)
    return AT_PANEL if at_panel and kind.startswith("loop") else 1.0


def _blur(kind: str, values: np.ndarray) -> np.ndarray:
    """What a meter and what is not known anyway blur a reading by."""
    error = reading_kinds()[kind]
    vague = LIVE_VAGUE if kind in ("ng", "clamp") else 0.03 if kind in ("ln", "lg") else DEAD_VAGUE
    size = np.abs(values)
    found: np.ndarray = error.error_share * size + error.error_abs + vague * size + 1e-3
    return found


def _gain(values: np.ndarray, sd: np.ndarray, weights: np.ndarray, classes: np.ndarray) -> float:
    """The expected drop of the doubt between classes (natural units) from one more reading: what
    each defect would read, blurred."""
    # Belief after the reading that defect k would give, for every k.
    d = (values[None, :] - values[:, None]) / np.hypot(sd[None, :], sd[:, None])
    after = weights[None, :] * np.exp(-0.5 * np.minimum(d**2, 60.0)) / sd[None, :]
    after /= after.sum(axis=1, keepdims=True)
    member = (classes[:, None] == np.arange(classes.max() + 1)[None, :]).astype(float)
    by_class, now = after @ member, weights @ member
    return float(_doubt(now[None])[0] - weights @ _doubt(by_class))


def _doubt(shares: np.ndarray) -> np.ndarray:
    safe = np.maximum(shares, 1e-12)
    found: np.ndarray = -(safe * np.log(safe)).sum(axis=1)
    return found
