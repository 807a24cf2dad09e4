"""One solved state of a network, and the pairs of nodes that it is seen from (method 3)."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..network.build import State
from ..network.solver import EARTH, Network, Solution
from ..network.wiring import Wiring

OPEN_OHM = 1e9


@dataclass(frozen=True)
class Port:
    """A pair of nodes seen from outside: open volts, Z_th, and node volts per ampere drawn."""

    a: str
    b: str
    volts: complex
    ohm: complex
    column: np.ndarray


class Solved:
    """One state, its network and its solution, with the ports that were asked for."""

    def __init__(self, state: State, network: Network, site, wiring: Wiring):
        self.state, self.network, self.wiring = state, network, wiring
        self.hz = float(site.frequency_hz)
        #: The bonds that belong: one neutral-to-ground connection at the service.
        self.service_bonds = {f"{s.to}.bond" for s in site.services}
        self.solution: Solution = network.factor()
        self._ports: dict[tuple[str, str], Port] = {}
        self._flows: dict[tuple[str, str], np.ndarray] = {}

    def has(self, node: str) -> bool:
        """Whether the node is a part of the network."""
        return node in self.network.nodes

    def port(self, a: str, b: str) -> Port:
        """The port between two nodes; solved when first asked for."""
        found = self._ports.get((a, b))
        if found is None:
            s = self.solution
            column = s.column(a, b)
            ohm = s.at(a, column) - s.at(b, column)
            found = self._ports[a, b] = Port(a, b, s.at(a) - s.at(b), ohm, column)
        return found

    def volts(self, node: str, port: Port, amps: complex) -> complex:
        """Volts of a node while ``amps`` are drawn from ``port``."""
        return self.solution.at(node) - amps * self.solution.at(node, port.column)

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
            a, b, siemens = self._ends
            column = np.append(port.column, 0)  # the last row is earth
            found = self._flows[port.a, port.b] = (column[a] - column[b]) * siemens
        return found

    def earth_share(self, port: Port) -> float:
        """Amperes through the soil for each ampere drawn from ``port``: half of all that enters
        and leaves remote earth. What near electrodes carry together is what the rest leaves."""
        ends = [n for n, b in enumerate(self.network.branches.values()) if EARTH in (b.a, b.b)]
        flows = self.flows(port)[ends]
        return float(np.sum(np.abs(flows)) + abs(np.sum(flows))) / 2

    def currents(self, volts: np.ndarray) -> np.ndarray:
        """Amperes of every branch at these node volts, in ``branch_ids``."""
        a, b, siemens = self._ends
        full = np.append(volts, 0)
        return np.abs((full[a] - full[b]) * siemens)

    def jointed(self, branch: str, ohm: complex) -> complex:
        """Ohms of a circuit's branch with all the joints that are on it."""
        on = self.wiring.on
        return complex(OPEN_OHM) if on.is_open(branch) else ohm + on.ohm(branch)

    @cached_property
    def branch_ids(self) -> list[str]:
        """The branches in the order of ``flows``."""
        return list(self.network.branches)

    @cached_property
    def _branch_index(self) -> dict[str, int]:
        return {name: index for index, name in enumerate(self.network.branches)}

    @cached_property
    def _ends(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        index = {**self.network.nodes, EARTH: len(self.network.nodes)}
        branches = self.network.branches.values()
        a = np.array([index[br.a] for br in branches], dtype=int)
        b = np.array([index[br.b] for br in branches], dtype=int)
        return a, b, np.array([1 / br.ohm for br in branches], dtype=complex)
