"""One solved state of a network, and the pairs of nodes that it is seen from. METHOD 4."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..network.build import State
from ..network.solver import EARTH, Network, Solution

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

    def __init__(self, state: State, network: Network, site):
        self.state, self.network = state, network
        self.joints = {j.on: j for j in site.joints}
        self.hz = float(site.frequency_hz)
        #: The bonds that belong: one neutral-to-ground connection at the service.
        self.service_bonds = {f"{s.to}.bond" for s in site.services}
        self.solution: Solution = network.factor()
        self._ports: dict[tuple[str, str], Port] = {}
        self._shares: dict[tuple[str, str], np.ndarray] = {}

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

    def share(self, branch_id: str, port: Port) -> float:
        """Amperes in a branch for each ampere drawn from ``port`` (loads off)."""
        index = self._branch_index.get(branch_id)
        return 0.0 if index is None else float(self.shares(port)[index])

    def shares(self, port: Port) -> np.ndarray:
        """Amperes of every branch for each ampere drawn from ``port``, in ``branch_ids``."""
        found = self._shares.get((port.a, port.b))
        if found is None:
            a, b, siemens = self._ends
            column = np.append(port.column, 0)  # the last row is earth
            found = self._shares[port.a, port.b] = np.abs((column[a] - column[b]) * siemens)
        return found

    def currents(self, volts: np.ndarray) -> np.ndarray:
        """Amperes of every branch at these node volts, in ``branch_ids``."""
        a, b, siemens = self._ends
        full = np.append(volts, 0)
        return np.abs((full[a] - full[b]) * siemens)

    def jointed(self, branch: str, ohm: complex) -> complex:
        """Ohms of a circuit's branch with the joint that is on it."""
        joint = self.joints.get(branch)
        if joint is None:
            return ohm
        return complex(OPEN_OHM) if joint.open == "yes" else ohm + (joint.ohm or 0.0)

    @cached_property
    def branch_ids(self) -> list[str]:
        """The branches in the order of ``shares``."""
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
