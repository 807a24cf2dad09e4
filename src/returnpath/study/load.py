"""Loads on: what each wire carries, what metal carries that should not, and lost neutrals."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import cached_property, lru_cache

import numpy as np

from ..errors import BadInput
from ..network.solver import EARTH
from ..vocabulary import BranchId, NodeId
from .shock import DRY_OHM, WET_OHM
from .solved import Solved
from .states import States

#: Parts of an element whose branches are metal that should carry no load current.
METAL_PARTS = ("egc", "raceway", "strap", "tie", "gec", "soil", "main", "join", "earth", "bond")
STRAY_A = 0.001
NOTHING = BranchId("")


@dataclass(frozen=True, slots=True)
class Stray:
    """Current on one metal path: branch id and amperes."""

    branch: str
    amps: float


@dataclass(frozen=True)
class LoadStudy:
    """A solved state with loads on. ``what`` names it; amperes by branch, volts by node.

    ``lost`` is the branch that was taken out, "" for a healthy site.
    """

    what: str
    supply: str
    solved: Solved
    volts_at: np.ndarray
    lost: BranchId = NOTHING
    extra: dict[str, float] = field(default_factory=dict)

    @cached_property
    def currents(self) -> dict[str, float]:
        """Amperes of every branch."""
        solved = self.solved
        found = dict(zip(solved.branch_ids, solved.currents(self.volts_at).tolist(), strict=True))
        if self.lost:
            found[self.lost] = 0.0
        return found | self.extra

    @cached_property
    def volts(self) -> dict[str, float]:
        """Volts of every node against remote earth."""
        nodes = self.solved.network.nodes
        return dict(zip(nodes, np.abs(self.volts_at).tolist(), strict=True))

    def between(self, a: str, b: str) -> float:
        """Volts between two nodes."""
        at = self.solved.solution.at
        return abs(at(a, self.volts_at) - at(b, self.volts_at))

    @property
    def is_service(self) -> bool:
        """Whether what was lost is a service run's."""
        return self.lost.element.startswith("s")

    @cached_property
    def strays(self) -> tuple[Stray, ...]:
        """Metal paths that carry load current, most first."""
        bonds = self.solved.service_bonds
        found = [
            Stray(name, amps)
            for name, amps in self.currents.items()
            if amps >= STRAY_A and _is_metal(name) and name not in bonds
        ]
        return tuple(sorted(found, key=lambda s: -s.amps))

    def legs(self, panel: str) -> dict[str, float]:
        """Volts of each line of a panel against its neutral bar."""
        nodes = self.solved.network.nodes
        return {
            f"L{n}": self.between(f"{panel}.L{n}", f"{panel}.N")
            for n in (1, 2, 3)
            if f"{panel}.L{n}" in nodes and f"{panel}.N" in nodes
        }

    @cached_property
    def panel_legs(self) -> dict[str, dict[str, float]]:
        """Volts of each line of every panel against its neutral bar, by panel id."""
        nodes = (NodeId(node) for node in self.solved.network.nodes)
        panels = dict.fromkeys(node.element for node in nodes if node.part == "ground")
        return {panel: self.legs(panel) for panel in panels}


@lru_cache(maxsize=8192)
def _is_metal(branch: str) -> bool:
    """Whether a branch is metal that should carry no load current."""
    return BranchId(branch).part in METAL_PARTS


def _worse(found: list[LoadStudy]) -> LoadStudy:
    """Of the utility earths tried, the one with the most stray current."""
    return max(found, key=lambda f: sum(s.amps for s in f.strays))


def load_study(states: States) -> LoadStudy:
    """Every load on, nothing lost."""
    return _worse(
        [LoadStudy("load", states.supply.id, s, s.solution.before) for s in states.loaded]
    )


def open_neutrals(states: States) -> Iterator[LoadStudy]:
    """The neutral of each service run of this supply, then of each feeder that it reaches, lost
    with every load on. A recorded open neutral is lost already."""
    site = states.site
    runs = [(s.id, s.to) for s in site.services if s.supply == states.supply.id]
    runs += [(f.id, f.to) for f in site.feeders if states.chain(f.to)[1] is not None]
    for run, panel in runs:
        lost = BranchId.of(run, "neutral")
        is_open = states.wiring.on.is_open(lost)
        if not is_open and lost not in states.loaded[0].network.branches:
            continue
        found = []
        for solved in states.loaded:
            solution = solved.solution
            volts = solution.before if is_open else solution.opened(lost)
            found.append(LoadStudy("open neutral", states.supply.id, solved, volts, lost))
        yield max(found, key=lambda f, p=panel: abs(f.solved.solution.at(f"{p}.N", f.volts_at)))


def shared_neutral_lost(states: States) -> tuple["SharedLost", ...]:
    """Each shared-neutral pair with its neutral lost at the panel."""
    found = []
    solved = states.loaded[0]
    for circuit, owner in states.wiring.owners.items():
        lost = BranchId.of(owner, "neutral")
        if lost not in solved.network.branches:
            continue
        volts = solved.solution.opened(lost)
        node = f"{owner}.N"
        at = solved.solution.at
        extra = {c: abs(at(f"{c}.L1", volts) - at(node, volts)) for c in (owner, circuit)}
        found.append(
            SharedLost("shared neutral lost", states.supply.id, solved, volts, lost, across=extra)
        )
    return tuple(found)


@dataclass(frozen=True)
class SharedLost(LoadStudy):
    """A shared neutral lost: ``across`` is what each circuit's load then sees, V by circuit."""

    across: dict[str, float] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Touch:
    """A person between two nodes: amperes through the body and volts across it."""

    amps: float
    volts: float


def person(
    states: States, touches: str, stands: str = EARTH, wet: bool = False, loads: bool = True
) -> Touch:
    """A hand on one node, feet (or the other hand) on another, with no fault.

    1,000 Ω, 500 Ω wet (method 8); nodes such as ``"c2.case"`` or ``"p1.N"``; remote earth is 0.
    """
    worst = Touch(0.0, 0.0)
    ohm = WET_OHM if wet else DRY_OHM
    solved_all = (
        states.loaded
        if loads
        else states.solve(states.sources.lowest or states.sources.highest, 75.0, 75.0, 1.0)
    )
    for solved in solved_all:
        for node in (touches, stands):
            if node != EARTH and node not in solved.network.nodes:
                raise BadInput(f"There is nothing called “{node}” to touch or stand on.")
        _, amps = solved.solution.with_branch(touches, stands, ohm)
        if abs(amps) > worst.amps:
            worst = Touch(abs(amps), abs(amps) * ohm)
    return worst
