"""Where the service disconnect is: the first enclosure from the utility that is service equipment.

A meter is not; nor is a disconnect marked “not service equipment” (230.85): the neutral-to-ground
bond belongs past it, and it is bonded like a meter enclosure.
"""

from .installation import Installation
from .power import Panel

NOT_SERVICE = ("meter disconnect", "emergency disconnect")
SAID_IN_NAME = "not service equipment"


def is_ahead_of_service(panel: Panel, following: Panel | None) -> bool:
    """Whether an enclosure on the service is no service equipment.

    An emergency disconnect whose marking nobody has read is taken as its bonds are: ahead of the
    service where the next panel is bonded and it is not.
    """
    if panel.marked is not None:
        return panel.marked in NOT_SERVICE
    if panel.kind == "meter" or SAID_IN_NAME in (panel.name or "").lower():
        return True
    if panel.kind != "emergency disconnect" or following is None:
        return False
    return following.bond == "in"


def ways_in(site: Installation, start: str) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """(the enclosures ahead of the service disconnects, the service disconnects) from the panel
    that a service run reaches: a meter may feed several."""
    panels = {p.id: p for p in site.panels}
    following: dict[str, list[str]] = {}
    for feeder in site.feeders:
        following.setdefault(feeder.source, []).append(feeder.to)
    ahead: list[str] = []
    ends: list[str] = []
    waiting = [start]
    while waiting:
        here = waiting.pop(0)
        if here in ahead or here in ends or here not in panels:
            continue
        inner = [one for one in following.get(here, ()) if one not in ahead and one in panels]
        if inner and is_ahead_of_service(panels[here], panels[inner[0]]):
            ahead.append(here)
            waiting += inner
        else:
            ends.append(here)
    return tuple(ahead), tuple(ends)


def service_disconnects(site: Installation) -> tuple[str, ...]:
    """The service disconnects of the utility's runs, in order; a tap of the line side has its
    own."""
    kinds = {u.id: u.kind for u in site.supplies}
    utility = [r for r in site.services if kinds.get(r.supply) in (None, "utility")]
    runs = utility or list(site.services[:1])
    return tuple(dict.fromkeys(end for run in runs for end in ways_in(site, run.to)[1]))


def ahead_of_service(site: Installation) -> frozenset[str]:
    """Every enclosure on the supply side of a service disconnect."""
    return frozenset(one for run in site.services for one in ways_in(site, run.to)[0])
