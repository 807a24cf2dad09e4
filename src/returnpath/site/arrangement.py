"""The earthing arrangement that a board has, named by what is there. method 15.

A distribution circuit that brings no protective conductor ends the supply's arrangement: behind it
a board is TT by its own electrode, or takes its earth from the neutral where the two are joined.
"""

from enum import StrEnum

from .installation import Installation
from .power import Feeder


class Arrangement(StrEnum):
    """How a protective earth comes home."""

    TN_S = "TN-S"
    TN_C_S = "TN-C-S"
    TT = "TT"
    IT = "IT"


def feeders_up(site: Installation, panel: str) -> list[Feeder]:
    """The feeders from a board to the origin, the nearest first."""
    by_end, found, here = {f.to: f for f in site.feeders}, [], panel
    while here in by_end and by_end[here] not in found:
        found.append(by_end[here])
        here = by_end[here].source
    return found


def arrangement_at(site: Installation, panel: str) -> Arrangement | None:
    """The arrangement of a board; None while nobody has said what the supply's is."""
    panels = {p.id: p for p in site.panels}
    for feeder in feeders_up(site, panel):
        if feeder.egc != "none":
            continue
        return Arrangement.TN_C_S if panels[feeder.to].bond == "in" else Arrangement.TT
    given = site.supply.earthing
    return Arrangement(given) if given is not None else None


def island_of(site: Installation, panel: str) -> frozenset[str]:
    """The boards whose protective bars hang together with this one's."""
    joined: dict[str, set[str]] = {p.id: {p.id} for p in site.panels}
    for feeder in site.feeders:
        if feeder.egc != "none":
            whole = joined[feeder.source] | joined[feeder.to]
            for one in whole:
                joined[one] = whole
    return frozenset(joined[panel])


def electrode_ohm_at(site: Installation, panel: str) -> float | None:
    """R_A of a board: its island's electrodes side by side, their soil taken as their own; None
    where there is none."""
    island = island_of(site, panel)
    each = [
        e.ohm
        for e in site.electrodes
        if e.panel in island and e.ohm is not None and e.joined != "no"
    ]
    return 1 / sum(1 / ohm for ohm in each) if each else None
