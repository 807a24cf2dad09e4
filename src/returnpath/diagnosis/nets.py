"""Three solved networks of a place as described: loops, loaded, dead. method 14.

    loops    conductors at 25 °C, the typical source, loads off
    loaded   every load on
    dead     d.c., no source; each line moved to its panel's ground bar: what continuity sees

Here a made joint is 0.2 mΩ and an open one 100 kΩ: less and more would lose the digits that a small
change of one branch needs.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..network.solver import EARTH, Branch, Network
from ..site import Element
from ..study import SiteStudy
from ..study.states import States
from ..vocabulary import BranchId, NodeId

COOL_C = 25.0
MADE_OHM = 2e-4
OPEN_OHM = 1e5


class Net:
    """One network solved densely: ``z`` volts of every node for one ampere into each, ``v`` volts
    as it stands. The last row and column are remote earth, zero."""

    def __init__(self, network: Network):
        self.network = network
        rows, columns, values, injected = network.assemble()
        size = len(network.nodes)
        y = np.zeros((size, size), dtype=complex)
        np.add.at(y, (rows, columns), values)
        inverse = np.linalg.inv(y)
        self.z = np.zeros((size + 1, size + 1), dtype=complex)
        self.z[:size, :size] = inverse
        self.v = np.zeros(size + 1, dtype=complex)
        self.v[:size] = inverse @ injected
        self.index = {**network.nodes, EARTH: size}

    def has(self, *names: str) -> bool:
        """Whether all these nodes are there."""
        return all(n in self.index for n in names)

    def ohm_of(self, branch: str) -> complex | None:
        """Of a branch as described; None where there is none."""
        found = self.network.branches.get(branch)
        return None if found is None else found.ohm

    def ends(self, branch: str) -> tuple[int, int]:
        """The indices of a branch's two nodes."""
        found = self.network.branches[branch]
        return self.index[found.a], self.index[found.b]


@dataclass(frozen=True)
class Nets:
    """The three of one place and supply."""

    loops: Net
    loaded: Net
    dead: Net
    study: SiteStudy

    @cached_property
    def elements(self) -> dict[str, Element]:
        """Every part of the place, by its id."""
        return self.study.assumed.site.elements()

    def each(self) -> tuple[Net, Net, Net]:
        """All three."""
        return self.loops, self.loaded, self.dead


def nets_of(study: SiteStudy) -> Nets:
    """The networks of a studied place, with its first supply."""
    states = study.states[0]
    return Nets(_live(states, False), _live(states, True), _dead(states), study)


def _live(states: States, loads: bool) -> Net:
    source = states.sources.highest
    solved = states.solve(source, COOL_C, COOL_C, 1.0, loads=loads)[0]
    return Net(_eased(solved.network))


def _eased(network: Network) -> Network:
    """The same with no branch under a made joint's ohms."""
    made = Network(nodes=dict(network.nodes), couplings=dict(network.couplings))
    for branch in network.branches.values():
        ohm = branch.ohm if abs(branch.ohm) >= MADE_OHM else complex(MADE_OHM)
        made.branches[branch.id] = Branch(branch.id, branch.a, branch.b, ohm)
    return made


def _dead(states: States) -> Net:
    """D.c. without a source: the lines of every run begin at the ground bar of its panel."""
    source = states.sources.highest
    solved = states.solve(source, COOL_C, COOL_C, 1.0)[0]
    made = Network(nodes=dict(solved.network.nodes))
    for branch in solved.network.branches.values():
        if BranchId(branch.id).element == states.supply.id:
            continue
        a = branch.a
        part = BranchId(branch.id)
        near = NodeId(branch.a)
        bar = NodeId.of(near.element, "ground")
        if part.kind == "line" and near.part.startswith("L") and bar in made.nodes:
            a = bar
        ohm = max(branch.ohm.real, MADE_OHM)
        made.branches[branch.id] = Branch(branch.id, a, branch.b, complex(ohm))
    return Net(made)
