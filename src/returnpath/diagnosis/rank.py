"""Ranking: what each defect would read, the uncertainty that readings share, Bayes. method 14."""

import math
from collections import defaultdict
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ..readings import TypedReading, reading_kinds
from ..site import Panel
from ..study import SiteStudy
from .defects import OWN_SHARE, Defect, defects_of, name_of_defect, priors
from .doubt import shared_doubt
from .nets import Nets, nets_of
from .probes import MOST_OHM, Predictor, Probe, probe_of
from .propose import Proposal, propose

ERROR_SHARE, MODEL_SD, LIVE_SD = 0.6, 0.015, 0.05
MERGE_D2 = 4.0
MOST_LISTED = 8


@dataclass(frozen=True)
class Given:
    """A reading that is to be explained: its kind, place and value."""

    kind: str
    place: str
    value: float


@dataclass(frozen=True)
class Candidate:
    """One class of defects: words with its likeliest size, its share of belief, the classes that no
    reading taken so far tells from it."""

    key: str
    kind: str
    element: str
    words: str
    share: float
    size: float
    same: tuple[str, ...]


@dataclass(frozen=True)
class Diagnosis:
    """Candidates, the likeliest first; what to read next."""

    candidates: tuple[Candidate, ...]
    next_reading: Proposal | None
    unused: tuple[str, ...]


class Diagnoser:
    """A place made ready for readings: its networks and its catalogue, solved once."""

    def __init__(self, study: SiteStudy, nets: Nets | None = None):
        self.study = study
        self.nets = nets or nets_of(study)
        self.defects = defects_of(self.nets)
        self.predictor = Predictor(self.nets, self.defects)
        self._columns: dict[Probe, np.ndarray] = {}

    def column(self, probe: Probe) -> np.ndarray:
        """What every defect would read at a probe, kept."""
        if probe not in self._columns:
            self._columns[probe] = self.predictor.column(probe)
        return self._columns[probe]

    def diagnose(self, readings: list[Given], further: bool = True) -> Diagnosis:
        """Rank the defects that would explain the readings, and propose the next one."""
        used, unused = [], []
        for given in readings:
            probe = probe_of(self.nets, given.kind, given.place)
            if probe is None:
                unused.append(f"{given.kind} at {given.place}")
            else:
                used.append((probe, given.value))
        belief = _log_prior(self.study, self.defects, [p.place for p, _ in used])
        table = None
        if used:
            probes = [p for p, _ in used]
            table = np.column_stack([self.column(p) for p in probes])
            read = np.array([v for _, v in used])
            belief = belief + _log_likelihood(self.nets, self.defects, probes, table, read)
        share = np.exp(belief - belief.max())
        share /= share.sum()
        candidates = _by_class(self.study, self.defects, share, table)
        taken = {(p.kind, p.place) for p, _ in used}
        proposal = propose(self.nets, self.predictor, share, taken) if further else None
        return Diagnosis(candidates, proposal, tuple(unused))


def diagnose(
    study: SiteStudy, readings: list[Given], nets: Nets | None = None, further: bool = True
) -> Diagnosis:
    """The same for one set of readings of a place that is not kept ready."""
    return Diagnoser(study, nets).diagnose(readings, further)


def _log_prior(study: SiteStudy, defects: list[Defect], places: list[str]) -> np.ndarray:
    """The share of a kind over its classes, nine tenths on the loops of the places that were read;
    of a class over its sizes."""
    own = _own_loop(study, places)
    sizes: dict[str, int] = defaultdict(int)
    classes: dict[tuple[str, bool], set[str]] = defaultdict(set)
    for d in defects:
        sizes[d.key] += 1
        classes[d.kind, d.element in own].add(d.key)
    found = np.empty(len(defects))
    for n, d in enumerate(defects):
        here = d.element in own
        both = bool(classes[d.kind, True]) and bool(classes[d.kind, False])
        part = (OWN_SHARE if here else 1 - OWN_SHARE) if both else 1.0
        share = priors()[d.kind][0] * part / len(classes[d.kind, here]) / sizes[d.key]
        found[n] = math.log(share)
    return found


def _own_loop(study: SiteStudy, places: list[str]) -> set[str]:
    site = study.assumed.site
    elements = site.elements()
    found = {s.id for s in site.services} | {site.panel.id}
    for place in places:
        element = elements.get(place)
        found.add(place)
        here = getattr(element, "panel", None) or (place if isinstance(element, Panel) else "")
        while here:
            found.add(here)
            feeder = next((f for f in site.feeders if f.to == here), None)
            if feeder is None:
                break
            found.add(feeder.id)
            here = feeder.source
    return found


def _log_likelihood(nets: Nets, defects: list[Defect], probes: list[Probe], table: np.ndarray,
                    read: np.ndarray) -> np.ndarray:  # fmt: skip
    j = shared_doubt(nets, probes)
    shared = j @ j.T
    kinds = reading_kinds()
    own = np.array([ERROR_SHARE * (kinds[p.kind].error_share * abs(v) + kinds[p.kind].error_abs)
                    for p, v in zip(probes, read, strict=True)])  # fmt: skip
    live = np.array([LIVE_SD if p.net == "loaded" else MODEL_SD for p in probes])
    slope = _grid_slope(defects, table)
    null = np.maximum(np.abs(table[0]), 1e-6)
    grown = np.clip(np.abs(table) / null, 0.2, 1.0)
    sigma = shared[None] * grown[:, :, None] * grown[:, None, :]
    sigma = sigma + slope[:, :, None] * slope[:, None, :]
    spread = own**2 + (live * np.abs(table)) ** 2
    sigma[:, np.arange(len(read)), np.arange(len(read))] += spread
    r = np.minimum(read, MOST_OHM) - table
    _, log_det = np.linalg.slogdet(sigma)
    solved = np.linalg.solve(sigma, r[:, :, None])[:, :, 0]
    found: np.ndarray = -0.5 * ((r * solved).sum(axis=1) + log_det)
    return found


def _grid_slope(defects: list[Defect], table: np.ndarray) -> np.ndarray:
    """How far a reading moves within a cell of a class's sizes: a third of the step to the next."""
    keys = [d.key for d in defects]
    same = np.array([a == b for a, b in pairwise(keys)])[:, None]
    step = np.where(same, np.diff(table, axis=0), 0.0) / math.sqrt(12)
    found = np.zeros_like(table)
    found[:-1] = step
    back = np.zeros_like(table)
    back[1:] = -step
    found = np.where(np.abs(back) > np.abs(found), back, found)
    return found


def _by_class(
    study: SiteStudy, defects: list[Defect], share: np.ndarray, table: np.ndarray | None
) -> tuple[Candidate, ...]:
    total: dict[str, float] = defaultdict(float)
    best: dict[str, int] = {}
    for n, d in enumerate(defects):
        total[d.key] += float(share[n])
        if d.key not in best or share[n] > share[best[d.key]]:
            best[d.key] = n
    order = sorted(total, key=lambda k: -total[k])[:MOST_LISTED]
    found = []
    for key in order:
        d = defects[best[key]]
        same = _same(table, best, key, order)
        found.append(Candidate(key, d.kind, d.element, name_of_defect(study, d), total[key],
                               d.size, same))  # fmt: skip
    return tuple(found)


def _same(
    table: np.ndarray | None, best: dict[str, int], key: str, order: list[str]
) -> tuple[str, ...]:
    """The classes whose likeliest sizes read the same, within what a meter tells."""
    if table is None:
        return ()
    here = table[best[key]]
    sd = 0.02 * np.abs(here) + 0.02
    return tuple(
        k for k in order
        if k != key and float((((table[best[k]] - here) / sd) ** 2).sum()) < MERGE_D2
    )  # fmt: skip


def given_of(reading: TypedReading) -> Given:
    """A typed reading as what is to be explained."""
    return Given(reading.kind, reading.place, reading.value)
