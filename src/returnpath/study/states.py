"""The solved states of one supply of a site (method 4).

One set for each supply that is drawn. Each study runs with the utility's neutral earth as
entered, or at both ends where it is not known: 0.2 and 25 Ω, the worse kept.
"""

from functools import cached_property
from typing import Any

from ..assume import Assumed
from ..network.build import State
from ..network.wiring import Wiring, wiring_of
from ..site import Circuit, Supply
from .solved import Solved
from .sources import Sources, choose
from .spine import HOT_C, Spine, solved_each, spine_of


class States:
    """The states of one supply of a site whose gaps are filled, solved when first asked for.

    What its faults share is its ``spine``'s; what every circuit has a part in (loads) is here.
    """

    def __init__(self, assumed: Assumed, supply: Supply, wiring: Wiring | None = None):
        self.assumed = assumed
        self.site = assumed.site
        self.supply = supply
        self.sources: Sources = choose(assumed, supply)
        self.wiring = wiring or wiring_of(assumed.site)
        self.spine: Spine = spine_of(self.site, self.meshed, supply, self.sources, self.wiring)

    @property
    def volts(self) -> float:
        """Line to neutral, V."""
        return self.spine.volts

    @cached_property
    def meshed(self) -> tuple[Circuit, ...]:
        """The circuits that are more than a line and a return hanging on their panel, and the
        partners that share a neutral with one."""
        ids = {c.id for c in self.site.circuits if self.wiring.is_meshed(c)}
        first = self.wiring.owners
        shared = {first.get(c, c) for c in ids}
        ids |= {c.id for c in self.site.circuits if first.get(c.id, c.id) in shared}
        return tuple(c for c in self.site.circuits if c.id in ids)

    def utility_earths(self) -> tuple[float, ...]:
        """Ohms of the utility's neutral to earth: as entered, else both ends."""
        return self.spine.utility_earths()

    def solve(
        self,
        source: Any,
        celsius: float,
        outdoor: float,
        factor: float,
        loads: bool = False,
        circuits: tuple[Circuit, ...] | None = None,
    ) -> tuple[Solved, ...]:
        """One Solved for each utility earth, with ``circuits`` (every one unless given)."""
        state = State(self.supply.id, source, celsius, outdoor, factor, loads=loads)
        return solved_each(self.site, state, circuits, self.wiring, self.utility_earths())

    @property
    def hot(self) -> tuple[Solved, ...]:
        """The spine at 75 °C."""
        return self.spine.hot

    @cached_property
    def loaded(self) -> tuple[Solved, ...]:
        """Every load on, conductors at 75 °C, full voltage."""
        source = self.sources.lowest or self.sources.highest
        return self.solve(source, HOT_C, HOT_C, 1.0, loads=True)

    def chain(self, panel: str) -> tuple[list, object | None]:
        """(feeders from ``panel`` up, the service run at their top)."""
        return self.spine.chain(panel)
