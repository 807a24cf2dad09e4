"""What each defect would read: readings as probes of the three networks. method 14."""

from dataclasses import dataclass

import numpy as np

from ..site import Circuit, Feeder
from ..vocabulary import BranchId
from .defects import BranchChange, Defect
from .nets import Net, Nets

MOST_OHM = 2000.0  # a meter's range: past it a loop is open


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


class Predictor:
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
            made = _siemens(net, d.changes)
            if len(made) == 1:
                ((one, other, siemens),) = made
                at.append(n)
                ends.append((one, other))
                change.append(siemens)
            elif made:
                a, b = (np.array([m[i] for m in made], dtype=int) for i in (0, 1))
                dy = np.array([m[2] for m in made], dtype=complex)
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


def _siemens(net: Net, changes: tuple[BranchChange, ...]) -> list[tuple[int, int, complex]]:
    """(one end, the other, the change of siemens) of each branch that is there."""
    found = []
    for change in changes:
        if change.branch:
            branch = net.network.branches.get(change.branch)
            if branch is None:
                continue
            old = branch.ohm
            new = old * change.factor + change.series_ohm
            found.append((net.index[branch.a], net.index[branch.b], 1 / new - 1 / old))
        elif net.has(change.a, change.b):
            found.append((net.index[change.a], net.index[change.b], 1 / complex(change.ohm)))
    return found
