"""One solved state of a network, and the pairs of nodes that it is seen from (method 3)."""

from collections.abc import Iterable
from functools import cached_property
from typing import NamedTuple

import numpy as np

from ..network.build import State
from ..network.solver import EARTH, Solution
from ..network.wiring import Wiring

OPEN_OHM = 1e9
EARTH_INDEX = -1  # of remote earth in a list of every node, where it is the last


class Port(NamedTuple):
    """A pair of nodes seen from outside: open volts, Z_th, and node volts per ampere drawn
    (``column``, and the same as a list with remote earth last: one is read from it in no time).
    ``size`` the absolute value of the open volts."""

    a: str
    b: str
    volts: complex
    ohm: complex
    column: np.ndarray
    each: list[complex]
    size: float


class Solved:
    """One state, its network and its solution, with the ports that were asked for."""

    def __init__(self, state: State, solution: Solution, site, wiring: Wiring):
        self.state, self.network, self.wiring = state, solution.network, wiring
        self.hz = float(site.frequency_hz)
        #: The bonds that belong: one neutral-to-ground connection at the service.
        self.service_bonds = {f"{s.to}.bond" for s in site.services}
        self.solution = solution
        self._ports: dict[tuple[str, str], Port] = {}
        self._flows: dict[tuple[str, str], np.ndarray] = {}
        self._sizes: dict[tuple[str, str], np.ndarray] = {}

    def has(self, node: str) -> bool:
        """Whether the node is a part of the network."""
        return node in self.network.nodes

    def port(self, a: str, b: str) -> Port:
        """The port between two nodes; solved when first asked for."""
        found = self._ports.get((a, b))
        if found is None:
            nodes, before = self.network.nodes, self._before
            column = self.solution.column(a, b)
            each = column.tolist()
            i, j = nodes.get(a, EARTH_INDEX), nodes.get(b, EARTH_INDEX)
            each.append(0j)  # remote earth, last
            ohm, volts = each[i] - each[j], before[i] - before[j]
            found = self._ports[a, b] = Port(a, b, volts, ohm, column, each, abs(volts))
        return found

    def fill(self, pairs: Iterable[tuple[str, str]]) -> list[Port]:
        """Make the ports of these pairs of nodes at once, where the network is small: those that
        were not there yet. They are what ``port`` finds one by one."""
        nodes, every = self.network.nodes, self.solution.every
        if every is None:
            return []
        new = [p for p in pairs if p not in self._ports and p[0] in nodes and p[1] in nodes]
        if not new:
            return []
        a, b = (np.array([nodes[pair[end]] for pair in new]) for end in (0, 1))
        columns = every[:, a] - every[:, b]
        here, before = np.arange(len(new)), self.solution.before
        ohms = (columns[a, here] - columns[b, here]).tolist()
        volts = (before[a] - before[b]).tolist()
        made = []
        for n, (pair, each) in enumerate(zip(new, columns.T.tolist(), strict=True)):
            each.append(0j)
            port = Port(*pair, volts[n], ohms[n], columns[:, n], each, abs(volts[n]))
            self._ports[pair] = port
            made.append(port)
        return made

    def all_sizes(self, ports: list[Port]) -> np.ndarray:
        """The ``sizes`` of several ports, a column each."""
        a, b, siemens = self.network.ends
        columns = np.column_stack([port.column for port in ports])
        full = np.vstack((columns, np.zeros(len(ports))))  # the last row is earth
        flows = (full[a] - full[b]) * siemens[:, None]
        return np.vstack((np.abs(flows), np.zeros(len(ports))))

    def volts(self, node: str, port: Port, amps: complex) -> complex:
        """Volts of a node while ``amps`` are drawn from ``port``."""
        index = self.network.nodes[node]
        return self._before[index] - amps * port.each[index]

    @cached_property
    def _before(self) -> list[complex]:
        return [*self.solution.before.tolist(), 0j]

    def flow(self, branch_id: str, port: Port) -> complex:
        """Amperes in a branch, from its a to its b, for each ampere drawn from ``port`` (loads
        off): a phasor, so that what returns beside what went can be taken from it."""
        index = self._branch_index.get(branch_id)
        return 0j if index is None else -complex(self.flows(port)[index])

    def share(self, branch_id: str, port: Port) -> float:
        """Amperes in a branch for each ampere drawn from ``port`` (loads off)."""
        return abs(self.flow(branch_id, port))

    def flows(self, port: Port) -> np.ndarray:
        """Amperes of every branch for each ampere put into ``port``, in ``branch_ids``."""
        found = self._flows.get((port.a, port.b))
        if found is None:
            a, b, siemens = self.network.ends
            column = np.array(port.each)  # the last row is earth
            found = self._flows[port.a, port.b] = (column[a] - column[b]) * siemens
        return found

    def sizes(self, port: Port) -> np.ndarray:
        """The absolute values of ``flows``, and 0 for a branch that is not there, last."""
        found = self._sizes.get((port.a, port.b))
        if found is None:
            flows = self.flows(port)
            found = np.zeros(len(flows) + 1)
            np.abs(flows, out=found[:-1])
            self._sizes[port.a, port.b] = found
        return found

    def earth_share(self, port: Port) -> float:
        """Amperes through the soil for each ampere drawn from ``port``: half of all that enters
        and leaves remote earth. What near electrodes carry together is what the rest leaves."""
        ends = [n for n, b in enumerate(self.network.branches.values()) if EARTH in (b.a, b.b)]
        flows = self.flows(port)[ends]
        return float(np.sum(np.abs(flows)) + abs(np.sum(flows))) / 2

    def currents(self, volts: np.ndarray) -> np.ndarray:
        """Amperes of every branch at these node volts, in ``branch_ids``."""
        a, b, siemens = self.network.ends
        full = np.append(volts, 0)
        return np.abs((full[a] - full[b]) * siemens)

    def jointed(self, branch: str, ohm: complex) -> complex:
        """Ohms of a circuit's branch with all the joints that are on it."""
        on = self.wiring.on
        if on.is_empty:
            return ohm
        return complex(OPEN_OHM) if on.is_open(branch) else ohm + on.ohm(branch)

    @cached_property
    def branch_ids(self) -> list[str]:
        """The branches in the order of ``flows``."""
        return list(self.network.branches)

    @cached_property
    def _branch_index(self) -> dict[str, int]:
        return {name: index for index, name in enumerate(self.network.branches)}
