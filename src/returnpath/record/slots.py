"""What must be seen before it is buried or closed: slots that a place makes by itself."""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache

from .. import tables
from ..rules.checks.outbuilding import cover_needed
from ..site import Element, Feeder, Installation, name_of
from ..site.plan import names_on_plan


@dataclass(frozen=True)
class Slot:
    """One thing to be seen: ``key`` is its kind and its place, ``what`` the picture shows, ``why``,
    ``when`` in the work."""

    key: str
    place: str
    name: str
    what: str
    why: str
    when: str


@cache
def _kinds() -> dict[str, dict[str, str]]:
    return {row["key"]: row for row in tables.rows("evidence_slots")}


def slots_of(site: Installation) -> tuple[Slot, ...]:
    """Every slot of a place, in the order of the work: earth first, labels last."""
    names = {e.id: name_of(e) for e in site.elements().values()} | names_on_plan(site)
    made = []
    for kind, element in _each(site):
        row = _kinds()[kind]
        of = names.get(element.id, name_of(element))
        name = row["name"] if row["name"].lower() in of.lower() else f"{of}: {row['name']}"
        made.append(Slot(f"{kind}:{element.id}", element.id, name[:1].upper() + name[1:],
                         row["what"], row["why"], row["when"]))  # fmt: skip
    return tuple(made)


def _each(site: Installation) -> Iterator[tuple[str, Element]]:
    for electrode in site.electrodes:
        if electrode.kind in ("rod", "plate", "concrete", "ring", "water"):
            yield electrode.kind, electrode
    for metal in site.metals:
        if metal.kind == "pool":
            yield "pool", metal
        elif metal.kind == "water" and metal.bonded == "yes":
            yield "water", metal
    for feeder in site.feeders:
        if _is_buried(site, feeder):
            yield "trench", feeder
    for panel in site.panels:
        yield "bond", panel
    for array in site.arrays:
        yield "washers", array
        yield "labels", array


def _is_buried(site: Installation, feeder: Feeder) -> bool:
    """Whether a run lies in the ground: its cover is known, or it goes to another building by a
    method that is buried."""
    if feeder.cover_in is not None:
        return True
    at = {p.id: p.building for p in site.panels}
    apart = at.get(feeder.source) != at.get(feeder.to)
    return apart and feeder.method is not None and cover_needed(feeder.method) is not None
