"""Ranking: what each defect would read, the uncertainty that readings share, Bayes. method 14."""

import math
from collections import defaultdict
from dataclasses import dataclass

import numpy as np

from ..readings import TypedReading, reading_kinds
from ..site import Circuit, Element, Feeder, Installation, Panel, name_of
from ..study import SiteStudy
from ..vocabulary import BranchId
from .defects import OWN_SHARE, BranchChange, Defect, defects_of, name_of_defect, priors
from .nets import Net, Nets, nets_of

#: What is not known anyway, as shares (one standard deviation).
LENGTH_SD, WARM_SD, SOURCE_SD, SERVICE_SD = 0.058, 0.047, 0.22, 0.08
SOIL_SD, LOAD_SD, LOADS_SD = 0.6, 0.3, 0.3
ERROR_SHARE, MODEL_SD, LIVE_SD = 0.6, 0.015, 0.05
COST = {"loop": 1.0, "r1r2": 1.6, "r2": 1.6, "ng": 1.2, "clamp": 1.5}
MERGE_D2 = 4.0
MOST_OHM = 2000.0  # a meter's range: past it a loop is open
MOST_LISTED = 8
#: What loads or lengths blur a reading by, in the choice of the next one.
LIVE_VAGUE, DEAD_VAGUE = 0.35, 0.06


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
class Proposal:
    """The reading that would tell most, and its cost."""

    kind: str
    place: str
    words: str
    gain: float


@dataclass(frozen=True)
class Diagnosis:
    """Candidates, the likeliest first; what to read next."""

    candidates: tuple[Candidate, ...]
    next_reading: Proposal | None
    unused: tuple[str, ...]


@dataclass(frozen=True)
class Probe:
    """How a reading is taken of the solved networks: ``net``, two nodes, and how."""

    kind: str
    place: str
    net: str
    a: int
    b: int
    branch: str = ""


def probe_of(nets: Nets, kind: str, place: str) -> Probe | None:
    """The probe of a reading; None where it cannot be taken of the networks."""
    if kind == "loop":
        ends = (f"{place}.L1", f"{place}.case")
        return _probe(nets.loops, "loops", kind, place, ends)
    if kind == "r1r2":
        return _probe(nets.dead, "dead", kind, place, (f"{place}.L1", f"{place}.case"))
    if kind == "r2":
        element = nets.study.assumed.site.elements()[place]
        home = element.panel if isinstance(element, Circuit) else getattr(element, "source", "")
        far = (
            f"{place}.case"
            if isinstance(element, Circuit)
            else f"{getattr(element, 'to', '')}.ground"
        )
        return _probe(nets.dead, "dead", kind, place, (far, f"{home}.ground"))
    if kind == "ng":
        return _probe(nets.loaded, "loaded", kind, place, (f"{place}.N", f"{place}.case"))
    if kind == "clamp":
        element = nets.study.assumed.site.elements()[place]
        part = "egc" if isinstance(element, Circuit | Feeder) else "gec"
        branch = BranchId.of(place, part)
        if branch not in nets.loaded.network.branches:
            return None
        a, b = nets.loaded.ends(branch)
        return Probe(kind, place, "loaded", a, b, branch)
    return None


def _probe(net: Net, name: str, kind: str, place: str, ends: tuple[str, str]) -> Probe | None:
    if not net.has(*ends):
        return None
    return Probe(kind, place, name, net.index[ends[0]], net.index[ends[1]])


class _Predictor:
    """What each defect would read at each probe."""

    def __init__(self, nets: Nets, defects: list[Defect]):
        self.nets, self.defects = nets, defects
        self.by_net = {"loops": nets.loops, "loaded": nets.loaded, "dead": nets.dead}
        self._made: dict[str, _Changes] = {}

    def changes(self, name: str) -> "_Changes":
        """Of every defect in one network: (a indices, b indices, change of siemens)."""
        if name not in self._made:
            self._made[name] = _Changes(self.by_net[name], self.defects)
        return self._made[name]

    def column(self, probe: Probe) -> np.ndarray:
        """The reading under every defect."""
        net = self.by_net[probe.net]
        loaded = probe.net == "loaded"
        e = net.z[:, probe.a] - net.z[:, probe.b]  # Z·e; Z is symmetric
        base = (net.v[probe.a] - net.v[probe.b]) if loaded else (e[probe.a] - e[probe.b])
        drive = net.v if loaded else e
        changes = self.changes(probe.net)
        found = np.full(len(self.defects), base, dtype=complex)
        at, a, b, dy, s = changes.single
        found[at] -= (e[a] - e[b]) * (drive[a] - drive[b]) * dy / (1 + dy * s)
        for n, a, b, dy, s in changes.several:
            m = np.linalg.solve(np.eye(len(a)) + dy[:, None] * s, dy * (drive[a] - drive[b]))
            found[n] -= (e[a] - e[b]) @ m
        if probe.branch:
            found *= changes.siemens_of(probe.branch)
        return _shown(probe, found)


class _Changes:
    """The changes of every defect in one network: those of one branch together, the others each."""

    def __init__(self, net: Net, defects: list[Defect]):
        self.net, self.defects = net, defects
        at, ends, change = [], [], []
        self.several = []
        for n, d in enumerate(defects):
            a, b, dy = _siemens(net, d.changes)
            if len(a) == 1:
                at.append(n)
                ends.append((a[0], b[0]))
                change.append(dy[0])
            elif len(a):
                s = net.z[a][:, a] - net.z[a][:, b] - net.z[b][:, a] + net.z[b][:, b]
                self.several.append((n, a, b, dy, s))
        pairs = np.array(ends, dtype=int).reshape(-1, 2)
        a, b = pairs[:, 0], pairs[:, 1]
        s = net.z[a, a] - net.z[a, b] - net.z[b, a] + net.z[b, b]
        self.single = (np.array(at, dtype=int), a, b, np.array(change, dtype=complex), s)

    def siemens_of(self, branch: str) -> np.ndarray:
        """Of a branch that is clamped, under every defect."""
        old = self.net.network.branches[branch].ohm
        found = np.full(len(self.defects), 1 / old, dtype=complex)
        for n, d in enumerate(self.defects):
            for change in d.changes:
                if change.branch == branch:
                    found[n] = 1 / (old * change.factor + change.series_ohm)
        return found


def _shown(probe: Probe, value: np.ndarray) -> np.ndarray:
    """What the instrument shows: the real part of a loop, the size of volts and amperes; past its
    range the end of it."""
    if probe.net == "loaded":
        size: np.ndarray = np.abs(value)
        return size
    shown: np.ndarray = np.minimum(value.real, MOST_OHM)
    return shown


def _siemens(
    net: Net, changes: tuple[BranchChange, ...]
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    a, b, dy = [], [], []
    for change in changes:
        if change.branch:
            old = net.ohm_of(change.branch)
            if old is None:
                continue
            new = old * change.factor + change.series_ohm
            ends = net.ends(change.branch)
            dy.append(1 / new - 1 / old)
        elif net.has(change.a, change.b):
            ends = net.index[change.a], net.index[change.b]
            dy.append(1 / complex(change.ohm))
        else:
            continue
        a.append(ends[0])
        b.append(ends[1])
    return np.array(a, dtype=int), np.array(b, dtype=int), np.array(dy, dtype=complex)


def _shared(nets: Nets, probes: list[Probe]) -> np.ndarray:
    """J: (probes, unknowns): what a standard deviation of each unknown does to each reading."""
    columns: dict[str, np.ndarray] = defaultdict(lambda: np.zeros(len(probes)))
    for n, probe in enumerate(probes):
        net = {"loops": nets.loops, "loaded": nets.loaded, "dead": nets.dead}[probe.net]
        e = net.z[:, probe.a] - net.z[:, probe.b]
        loaded = probe.net == "loaded"
        value = (net.v[probe.a] - net.v[probe.b]) if loaded else e[probe.a] - e[probe.b]
        own = 1 / net.network.branches[probe.branch].ohm if probe.branch else 1.0
        turn = np.conj(value) / abs(value) if loaded and abs(value) > 1e-12 else 1.0
        a, b, y = net.network.ends
        last = len(net.network.nodes)
        a, b = np.minimum(a, last), np.minimum(b, last)
        drive = (net.v[a] - net.v[b]) if loaded else e[a] - e[b]
        # dm/d(ln z) of each branch: its current for the reading times its volts for the drive
        slope = np.real((e[a] - e[b]) * y * drive * turn * (own if loaded else 1.0))
        for (name, part), at in _branches(net).items():
            d = slope[at]
            group, sd, warm = _unknown(name, part)
            if group:
                columns[group][n] += sd * d
            if warm:
                columns["warm"][n] += WARM_SD * d
            if part.startswith("load"):
                columns["loads"][n] += LOADS_SD * d
        if not loaded and probe.net == "loops":
            columns["source"][n] += SOURCE_SD * _source_part(nets, e)
    return np.column_stack(list(columns.values())) if columns else np.zeros((len(probes), 1))


def _branches(net: Net) -> dict[tuple[str, str], int]:
    return {(BranchId(b).element, BranchId(b).part): n for n, b in enumerate(net.network.branches)}


def _unknown(element: str, part: str) -> tuple[str, float, bool]:
    """(the unknown a branch's ohms hang on, its standard deviation, whether heat moves it too)."""
    if part.startswith("load"):
        return f"load {element}", LOAD_SD, False
    if part in ("soil", "earth"):
        return "soil", SOIL_SD, False
    if part.startswith(("line", "neutral", "egc", "raceway")):
        sd = SERVICE_SD if element.startswith("s") else LENGTH_SD
        return f"length {element}", sd, True
    return "", 0.0, False


def _source_part(nets: Nets, e: np.ndarray) -> float:
    """The source's share of a loop: what lies between its own terminals."""
    found = 0.0
    for coupling in nets.loops.network.couplings.values():
        if not any(coupling.volts):
            continue
        y = coupling.admittance
        at = nets.loops.index
        across = np.array([e[at[p]] - e[at[q]] for p, q in coupling.ports])
        found += float(np.real(across @ y @ across))
    return found


class Diagnoser:
    """A place made ready for readings: its networks and its catalogue, solved once."""

    def __init__(self, study: SiteStudy, nets: Nets | None = None):
        self.study = study
        self.nets = nets or nets_of(study)
        self.defects = defects_of(self.nets)
        self.predictor = _Predictor(self.nets, self.defects)
        self._columns: dict[Probe, np.ndarray] = {}

    def column(self, probe: Probe) -> np.ndarray:
        """What every defect would read at a probe, kept."""
        if probe not in self._columns:
            self._columns[probe] = self.predictor.column(probe)
        return self._columns[probe]

    def diagnose(self, readings: list[Given], propose: bool = True) -> Diagnosis:
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
        proposal = _propose(self.nets, self.predictor, share, taken) if propose else None
        return Diagnosis(candidates, proposal, tuple(unused))


def diagnose(
    study: SiteStudy, readings: list[Given], nets: Nets | None = None, propose: bool = True
) -> Diagnosis:
    """The same for one set of readings of a place that is not kept ready."""
    return Diagnoser(study, nets).diagnose(readings, propose)


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
    j = _shared(nets, probes)
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
    found = np.zeros_like(table)
    for n in range(1, len(defects)):
        for other in (n - 1, n + 1):
            if other < len(defects) and defects[other].key == defects[n].key:
                step = (table[other] - table[n]) / math.sqrt(12)
                found[n] = np.where(np.abs(step) > np.abs(found[n]), step, found[n])
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


def _propose(
    nets: Nets, predictor: _Predictor, share: np.ndarray, taken: set[tuple[str, str]]
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
    few = _Predictor(predictor.nets, [predictor.defects[n] for n in weighty])
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
    labels = np.unique(classes)
    by_class = np.stack([after[:, classes == c].sum(axis=1) for c in labels], axis=1)
    now = np.array([weights[classes == c].sum() for c in labels])
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


def given_of(reading: TypedReading) -> Given:
    """A typed reading as what is to be explained."""
    return Given(reading.kind, reading.place, reading.value)
