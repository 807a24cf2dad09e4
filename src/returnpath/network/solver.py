"""A general nodal solver: complex branches, coupled ports, rank-one faults.

Build a Network, ``factor()`` it once, then ask the Solution for as many faults as there are
places. Every node has 1 nS to earth (method 3), so floating metal gets a voltage instead
of a singular matrix. SciPy is imported at the first solve.

    Z_th of a fault between p and q:  solve Y·x = e_p − e_q;  Z_th = x_p − x_q
    bolted fault:  I = (V_p − V_q) / Z_th;   V' = V − I·x
"""

import cmath
from dataclasses import dataclass, field
from functools import cached_property, lru_cache
from typing import NamedTuple

import numpy as np

from ..errors import BadInput

EARTH = "0"
LEAK_S = 1e-9
#: A closed bond, screw or bar is this many ohms; an open one is absent.
CLOSED_OHM = 1e-6
#: A network of so many nodes is solved for all of them at once.
SMALL = 128


class Branch(NamedTuple):
    """An impedance ``ohm`` from node ``a`` to node ``b``; its current is counted from a to b."""

    id: str
    a: str
    b: str
    ohm: complex


@dataclass(frozen=True)
class Coupled:
    """Ports that share their impedance: transformer halves, phases, electrodes near each other.

    ``ports`` (positive node, negative node); v_k = ``volts``_k − Σ_j ``ohms``_kj·i_j, where i_k
    leaves the positive node into the network. Volts are all 0 for electrodes.
    """

    id: str
    ports: tuple[tuple[str, str], ...]
    volts: tuple[complex, ...]
    ohms: tuple[tuple[complex, ...], ...]

    @cached_property
    def admittance(self) -> np.ndarray:
        """Siemens, one row a port."""
        return _inverse(self.ohms)


@lru_cache(maxsize=64)
def _inverse(ohms: tuple[tuple[complex, ...], ...]) -> np.ndarray:
    """Of the same ports, once: every state of a place has the same rods in the same soil."""
    return np.linalg.inv(np.array(ohms, dtype=complex))


def coupled(id_: str, ports, volts, common: complex, own: complex) -> Coupled:
    """Ports with one ``common`` impedance and each its ``own``, ohms."""
    size = len(ports)
    ohms = tuple(tuple(common + (own if i == j else 0) for j in range(size)) for i in range(size))
    volts = tuple(complex(v) for v in volts)
    return Coupled(id_, tuple(ports), volts, ohms)


@dataclass
class Network:
    """Nodes, branches and sources, gathered before the solve."""

    branches: dict[str, Branch] = field(default_factory=dict)
    couplings: dict[str, Coupled] = field(default_factory=dict)
    nodes: dict[str, int] = field(default_factory=dict)

    def _node(self, name: str) -> None:
        if name != EARTH:
            self.nodes.setdefault(name, len(self.nodes))

    def node(self, name: str) -> None:
        """Make sure that ``name`` is there, joined to anything or not."""
        self._node(name)

    def branch(self, branch_id: str, a: str, b: str, ohm: complex = CLOSED_OHM) -> None:
        """Add an impedance. Anything under 1 µΩ is taken as 1 µΩ."""
        branches, nodes = self.branches, self.nodes
        if branch_id in branches or branch_id in self.couplings:
            raise BadInput(f"There are two branches “{branch_id}”.")
        if not cmath.isfinite(ohm):
            raise BadInput(f"The impedance of “{branch_id}” is not a number.")
        ohm = complex(ohm)
        if abs(ohm) < CLOSED_OHM:
            ohm = complex(CLOSED_OHM)
        if a not in nodes and a != EARTH:
            nodes[a] = len(nodes)
        if b not in nodes and b != EARTH:
            nodes[b] = len(nodes)
        branches[branch_id] = Branch(branch_id, a, b, ohm)

    def couple(self, coupling: Coupled) -> None:
        """Add coupled ports with their driving voltages."""
        if coupling.id in self.branches or coupling.id in self.couplings:
            raise BadInput(f"There are two branches “{coupling.id}”.")
        for positive, negative in coupling.ports:
            self._node(positive)
            self._node(negative)
        self.couplings[coupling.id] = coupling

    def factor(self) -> "Solution":
        """Assemble and factor once."""
        return Solution(self)

    @cached_property
    def ends(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Of every branch, in order: the index of its a, of its b, and its siemens. Remote earth
        is the index after the last node."""
        earth = len(self.nodes)
        index = {**self.nodes, EARTH: earth}
        branches = self.branches.values()
        count = len(self.branches)
        a = np.fromiter((index[br.a] for br in branches), dtype=int, count=count)
        b = np.fromiter((index[br.b] for br in branches), dtype=int, count=count)
        ohms = np.fromiter((br.ohm for br in branches), dtype=complex, count=count)
        return a, b, 1 / ohms

    def with_ohm(self, branch_id: str, ohm: complex) -> "Network":
        """The same network with one branch's impedance changed."""
        branches = dict(self.branches)
        old = branches[branch_id]
        branches[branch_id] = Branch(old.id, old.a, old.b, complex(ohm))
        made = Network(branches, self.couplings, self.nodes)
        a, b, siemens = self.ends
        siemens = siemens.copy()
        siemens[list(branches).index(branch_id)] = 1 / complex(ohm)
        made.__dict__["ends"] = (a, b, siemens)
        return made

    def assemble(self) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
        """(rows, columns, values) of the admittance matrix, and the injected currents."""
        size = len(self.nodes)
        a, b, siemens = self.ends
        at_a, at_b = a < size, b < size
        both = at_a & at_b
        every = np.arange(size)
        rows = [every, a[at_a], b[at_b], a[both], b[both]]
        columns = [every, a[at_a], b[at_b], b[both], a[both]]
        values = [
            np.full(size, LEAK_S, dtype=complex),
            siemens[at_a],
            siemens[at_b],
            -siemens[both],
            -siemens[both],
        ]
        injected = np.zeros(size, dtype=complex)
        for coupling in self.couplings.values():
            i, j, y = self._stamped(coupling, injected)
            rows.append(i)
            columns.append(j)
            values.append(y)
        return np.concatenate(rows), np.concatenate(columns), np.concatenate(values), injected

    def _stamped(self, coupling: Coupled, injected: np.ndarray):
        """(rows, columns, values) of coupled ports; what drives them is added to ``injected``."""
        index = {**self.nodes, EARTH: -1}
        y = coupling.admittance
        ends = np.array([(index[p], index[n]) for p, n in coupling.ports])
        drives = y @ np.array(coupling.volts)
        for column, sign in ((0, 1), (1, -1)):
            here = ends[:, column] >= 0
            np.add.at(injected, ends[here, column], sign * drives[here])
        # Of ports k and j: (their positive nodes, their negative, and once each across).
        ks, js = ends[:, None, [0, 1, 0, 1]], ends[None, :, [0, 1, 1, 0]]
        rows, columns = (x.ravel() for x in np.broadcast_arrays(ks, js))
        values = (y[:, :, None] * np.array([1, 1, -1, -1])).ravel()
        kept = (rows >= 0) & (columns >= 0)
        return rows[kept], columns[kept], values[kept]


@dataclass(frozen=True, slots=True)
class Fault:
    """A bolted fault between two nodes: amperes (complex, from a to b), Z_th, node voltages."""

    a: str
    b: str
    amps: complex
    open_volts: complex
    thevenin_ohm: complex
    volts: np.ndarray


class Solution:
    """A factored network and its voltages before any fault."""

    def __init__(self, network: Network):
        from scipy.sparse import csc_matrix  # imported at the first solve: it is slow to load
        from scipy.sparse.linalg import splu

        self.network = network
        rows, columns, values, injected = network.assemble()
        size = len(network.nodes)
        self.injected = injected
        matrix = csc_matrix((values, (rows, columns)), shape=(size, size))
        self._lu = splu(matrix)
        self.before = self._lu.solve(injected)
        self._units: dict[str, np.ndarray] = {}
        self._all: np.ndarray | None = None
        if not np.all(np.isfinite(self.before)):
            raise BadInput("This network has a part that no equation fixes; check what is open.")

    def unit(self, node: str) -> np.ndarray:
        """Node volts when 1 A is put in at ``node`` and taken out at remote earth. A small network
        is solved for all its nodes at once, when first asked."""
        found = self._units.get(node)
        if found is None:
            if node not in self.network.nodes:
                raise BadInput(f"There is nothing called “{node}” in this place.")
            index, every = self.network.nodes[node], self.every
            if every is not None:
                found = every[:, index]
            else:
                rhs = np.zeros(len(self.before), dtype=complex)
                rhs[index] = 1
                found = self._lu.solve(rhs)
            self._units[node] = found
        return found

    @property
    def every(self) -> np.ndarray | None:
        """The units of all nodes, a column each; None for a network too large to solve at once."""
        size = len(self.before)
        if self._all is None and size <= SMALL:
            self._all = self._lu.solve(np.eye(size, dtype=complex))
        return self._all

    def column(self, a: str, b: str) -> np.ndarray:
        """Node volts when 1 A is put in at ``a`` and taken out at ``b``."""
        if b == EARTH:
            return self.unit(a)
        if a == EARTH:
            return -self.unit(b)
        return self.unit(a) - self.unit(b)

    def at(self, node: str, volts: np.ndarray | None = None) -> complex:
        """Volts of ``node`` against remote earth."""
        volts = self.before if volts is None else volts
        return 0j if node == EARTH else complex(volts[self.network.nodes[node]])

    def fault(self, a: str, b: str) -> Fault:
        """A bolted fault from ``a`` to ``b``: a rank-one change, no new factoring."""
        column = self.column(a, b)
        thevenin = self.at(a, column) - self.at(b, column)
        open_volts = self.at(a) - self.at(b)
        amps = open_volts / thevenin
        return Fault(a, b, amps, open_volts, thevenin, self.before - amps * column)

    def current(self, branch_id: str, volts: np.ndarray | None = None) -> complex:
        """Amperes in a branch, from its a to its b."""
        branch = self.network.branches[branch_id]
        return (self.at(branch.a, volts) - self.at(branch.b, volts)) / branch.ohm

    def port_currents(self, coupling_id: str, volts: np.ndarray | None = None) -> np.ndarray:
        """Amperes leaving the positive node of each port into the network."""
        coupling = self.network.couplings[coupling_id]
        terminal = np.array([self.at(p, volts) - self.at(n, volts) for p, n in coupling.ports])
        return coupling.admittance @ (np.array(coupling.volts) - terminal)

    def opened(self, branch_id: str) -> np.ndarray:
        """Node volts with one branch taken out: a rank-one change, no new factoring."""
        branch = self.network.branches[branch_id]
        column = self.column(branch.a, branch.b)
        across = self.at(branch.a) - self.at(branch.b)
        seen = self.at(branch.a, column) - self.at(branch.b, column)
        # Y' = Y − y·d·dᵀ: V' = V + x·(y·dᵀV)/(1 − y·dᵀx)
        return self.before + column * (across / (branch.ohm - seen))

    def with_branch(self, a: str, b: str, ohm: complex) -> tuple[np.ndarray, complex]:
        """(node volts, amperes from a to b) with one more branch: a rank-one change."""
        column = self.column(a, b)
        seen = self.at(a, column) - self.at(b, column)
        amps = (self.at(a) - self.at(b)) / (seen + ohm)
        return self.before - amps * column, amps

    def imbalance(self, volts: np.ndarray | None = None, fault: Fault | None = None) -> float:
        """The largest sum of currents at any node, A: zero but for rounding."""
        volts = self.before if volts is None else volts
        sums = dict.fromkeys(self.network.nodes, 0j)
        sums[EARTH] = 0j
        for branch in self.network.branches.values():
            amps = self.current(branch.id, volts)
            sums[branch.a] -= amps
            sums[branch.b] += amps
        for coupling in self.network.couplings.values():
            for (positive, negative), amps in zip(
                coupling.ports, self.port_currents(coupling.id, volts), strict=True
            ):
                sums[positive] += amps
                sums[negative] -= amps
        for node in self.network.nodes:
            sums[node] -= self.at(node, volts) * LEAK_S
        if fault is not None:
            sums[fault.a] -= fault.amps
            sums[fault.b] += fault.amps
        return max(abs(amps) for node, amps in sums.items() if node != EARTH)


class Nudged(Solution):
    """The solution of a network that differs from a solved one in one branch to remote earth: a
    rank-one change of all it knows, Z' = Z − k·d·dᵀ, no new factoring."""

    def __init__(self, base: Solution, branch_id: str, ohm: complex):
        self.network = base.network.with_ohm(branch_id, ohm)
        self.injected, self._base = base.injected, base
        branch = base.network.branches[branch_id]
        change = 1 / ohm - 1 / branch.ohm
        self._d = base.unit(branch.a)
        self._index = base.network.nodes[branch.a]
        self._k = change / (1 + change * self._d[self._index])
        self.before = base.before - self._d * (self._k * base.before[self._index])
        self._units = {}
        self._all = None

    def unit(self, node: str) -> np.ndarray:
        """Node volts when 1 A is put in at ``node`` and taken out at remote earth."""
        found = self._units.get(node)
        if found is None:
            plain, every = self._base.unit(node), self.every
            if every is not None:
                found = every[:, self.network.nodes[node]]
            else:
                found = plain - self._d * (self._k * plain[self._index])
            self._units[node] = found
        return found

    @property
    def every(self) -> np.ndarray | None:
        """The units of all nodes, a column each, where the base has them."""
        base = self._base.every
        if self._all is None and base is not None:
            self._all = base - np.outer(self._d, self._k * base[self._index])
        return self._all
