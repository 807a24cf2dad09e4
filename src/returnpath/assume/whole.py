"""A whole site with its gaps filled."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from .. import assume_metric, tables
from ..site import Installation
from ..site.service import ahead_of_service, service_disconnects
from .electrodes import fill_electrode, fill_metal
from .filling import Assumption, Filling
from .origin import fill_panel, fill_service, fill_supply
from .runs import fill_array, fill_circuit, fill_feeder, fill_segments


@dataclass(frozen=True)
class Assumed:
    """A site with nothing absent that can be assumed, and what was."""

    site: Installation
    assumptions: tuple[Assumption, ...]

    @cached_property
    def by_path(self) -> dict[str, Assumption]:
        """The assumptions by the path of their fact."""
        return {a.path: a for a in self.assumptions}

    def find(self, path: str) -> Assumption | None:
        """The assumption made for ``path``, or None where the fact is known or still absent."""
        return self.by_path.get(path)


def assume(site: Installation) -> Assumed:
    """``site`` with its gaps filled, and the list of what was filled."""
    made: list[Assumption] = []
    edition = site.practice.edition
    filled: dict[str, tuple] = {}

    def each(name: str, fill: Callable[[Filling], None]) -> None:
        done = []
        for element in getattr(site, name):
            filling = Filling(element, made)
            fill(filling)
            done.append(filling.build())
        filled[name] = tuple(done)

    reached = {s.to for s in site.services}
    first = site.panel.id
    own: Any = site.supply.system
    metric_place = own is not None and own.is_metric
    earthing = site.supply.earthing if metric_place else None

    def panel(f: Any) -> None:
        if metric_place:
            assume_metric.panel(f, earthing, f.element.id == first)
            assume_metric.breaker(f, f.element, "main")
        fill_panel(f, f.element.id in reached, f.element.id == first and not metric_place)

    def supply_of(f: Any) -> None:
        if metric_place:
            f.fill("system", own, why="as the utility's")
            assume_metric.supply(f)
        fill_supply(f, ratings.get(fed.get(f.element.id)))

    def service(f: Any) -> None:
        if metric_place:
            assume_metric.service(f, units.get(f.element.supply))
        fill_service(f, ratings.get(f.element.to), edition, metric)

    def feeder(f: Any) -> None:
        if metric_place:
            fill_segments(f)
            assume_metric.feeder(f, own)
        fill_feeder(f, edition, buildings)

    def circuit(f: Any) -> None:
        if metric_place:
            fill_segments(f)
            assume_metric.circuit(f, own)
        fill_circuit(f, site, edition)

    each("panels", panel)
    ratings = {p.id: p.main.rating_a for p in filled["panels"]}
    fed = {s.supply: s.to for s in site.services}
    units = {s.id: s for s in site.supplies}
    each("supplies", supply_of)
    metric = {s.id for s in filled["supplies"] if s.system.is_metric}
    each("services", service)
    buildings = {p.id: p.building for p in site.panels}
    each("feeders", feeder)
    soil = site.soil_ohm_m or tables.assumed_number("soil resistivity ohm-m")
    is_tt = site.supply.earthing == "TT" or metric_place
    apart = _fed_panels(site)

    def electrode(f: Any) -> None:
        fill_electrode(f, soil, is_tt, f.element.panel in apart)

    each("electrodes", electrode)
    each("metals", fill_metal)
    each("circuits", circuit)
    each("arrays", fill_array)
    if metric_place:  # the disconnection time is the rule there, whatever a school says
        filled["practice"] = site.practice.model_copy(update={"clearing": "timed"})
    return Assumed(site.model_copy(update=filled), tuple(made))


def _fed_panels(site: Installation) -> set[str]:
    """The panels past the service disconnect whose neutral is not bonded: no electrode is taken to
    land on their neutral bar."""
    own = {*ahead_of_service(site), *service_disconnects(site)}
    panels = {p.id: p for p in site.panels}
    return {f.to for f in site.feeders if f.to not in own and panels[f.to].bond != "in"}
