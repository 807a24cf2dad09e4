"""The solved states of a site that every fault of it shares. METHOD 4.

Each study runs with the utility's neutral earth as entered, or at both ends where it is not
known: 0.2 and 25 Ω, the worse kept.
"""

from dataclasses import dataclass
from functools import cached_property

from .. import tables
from ..assume import Assumed
from ..network.build import State, build
from ..network.solver import Network, Solution
from .sources import Sources, choose

HOT_C, COLD_C, OUTDOOR_COLD_C = 75.0, 25.0, -20.0
LOWEST_VOLTS, HIGHEST_VOLTS, INTERRUPTING_VOLTS = 0.95, 1.0, 1.05


@dataclass(frozen=True, slots=True)
class Solved:
    """One state, its network and its solution."""

    state: State
    network: Network
    solution: Solution


class States:
    """The states of a site whose gaps are filled, each factored once when first asked for."""

    def __init__(self, assumed: Assumed):
        self.assumed = assumed
        self.site = assumed.site
        self.sources: Sources = choose(assumed)

    @property
    def volts(self) -> float:
        """Line to neutral, V."""
        return self.sources.highest.volts

    def utility_earths(self) -> tuple[float, ...]:
        """Ohms of the utility's neutral to earth: as entered, else both ends."""
        entered = self.site.supply.earth_ohm
        if entered is not None:
            return (entered,)
        text = tables.assumption_texts()["utility neutral earth ohm"][0]
        return tuple(float(w) for w in text.replace(":", "").split() if w[0].isdigit())

    def _solve(self, source, celsius: float, outdoor: float, factor: float) -> tuple[Solved, ...]:
        found = []
        for ohm in self.utility_earths():
            state = State(source, celsius, outdoor, self.volts * factor, ohm)
            network = build(self.site, state)
            found.append(Solved(state, network, network.factor()))
        return tuple(found)

    @cached_property
    def hot(self) -> tuple[Solved, ...]:
        """Conductors at 75 °C, full voltage: the lowest study's source, before 0.95 and arc."""
        if self.sources.lowest is None:
            return ()
        return self._solve(self.sources.lowest, HOT_C, HOT_C, 1.0)

    @cached_property
    def cold(self) -> tuple[Solved, ...]:
        """Conductors at 25 °C, full voltage: the highest study."""
        return self._solve(self.sources.highest, COLD_C, COLD_C, HIGHEST_VOLTS)

    @cached_property
    def available_a(self) -> float:
        """Interrupting check: the highest current at the panel's line bars, A."""
        source = self.sources.interrupting
        panel = self.site.panel.id
        worst = 0.0
        for solved in self._solve(source, OUTDOOR_COLD_C, OUTDOOR_COLD_C, INTERRUPTING_VOLTS):
            for other in (f"{panel}.N", f"{panel}.L2"):
                worst = max(worst, abs(solved.solution.fault(f"{panel}.L1", other).amps))
        return worst
