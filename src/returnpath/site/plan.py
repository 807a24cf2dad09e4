"""The plan to scale: where buildings, panels, electrodes and pipes stand, in feet.

       north
         |     x east, y north of the plan's southwest corner; a building's place is its own
         o---- east         southwest corner

What nobody has placed stands where such things usually do, and is marked as assumed: it is drawn,
and no figure comes from it.
"""

import math
import re
from dataclasses import dataclass

from ..errors import BadInput, number_in
from .base import PLAN_FT, Element
from .building import Building
from .earthing import Electrode, Metal
from .edits import Set
from .installation import Installation, name_of
from .power import Panel

WIDE_FT, DEEP_FT = 30.0, 24.0  # a building nobody has measured
GAP_FT = 34.0  # between buildings nobody has placed
OUT_FT = 3.0  # from the wall to a rod nobody has placed
ROD_GAP_FT = 6.0
FEET_PER_STEP = 1.0
WAYS = {
    "north": (0, 1), "east": (1, 0), "south": (0, -1), "west": (-1, 0),
    "northeast": (0.7071, 0.7071), "southeast": (0.7071, -0.7071),
    "southwest": (-0.7071, -0.7071), "northwest": (-0.7071, 0.7071),
}  # fmt: skip
_PAIR = re.compile(r"(-?\d+(?:\.\d+)?)\s*(?:ft)?\s*[, ]\s*(-?\d+(?:\.\d+)?)\s*(?:ft)?")
SHORT_NAMES = {"rod": "rod", "water": "water pipe", "concrete": "footing steel",
               "ring": "ground ring", "plate": "plate"}  # fmt: skip
_SHORT = {"n": "north", "e": "east", "s": "south", "w": "west",
          "ne": "northeast", "se": "southeast", "sw": "southwest", "nw": "northwest"}  # fmt: skip


@dataclass(frozen=True)
class Spot:
    """Where something stands, feet; ``is_assumed`` where nobody said so."""

    x: float
    y: float
    is_assumed: bool = False


@dataclass(frozen=True)
class Footprint:
    """A building from above: its southwest corner and its size, feet."""

    x: float
    y: float
    wide: float
    deep: float
    is_assumed: bool = False


@dataclass(frozen=True)
class Plan:
    """Where everything stands: buildings as outlines, all else as spots, by id."""

    buildings: dict[str, Footprint]
    spots: dict[str, Spot]

    def distance_ft(self, one: str, other: str) -> float:
        """Feet between two things on the plan, as they are drawn."""
        a, b = self.spots[one], self.spots[other]
        return math.hypot(a.x - b.x, a.y - b.y)


def known_spot(element: Element) -> tuple[float, float] | None:
    """Where somebody placed an element; None where nobody did, or only half."""
    x, y = getattr(element, "east_ft", None), getattr(element, "north_ft", None)
    return None if x is None or y is None else (x, y)


def known_distance_ft(one: Element, other: Element) -> float | None:
    """Feet between two placed elements; None where one of them is not placed."""
    a, b = known_spot(one), known_spot(other)
    return None if a is None or b is None else math.hypot(a[0] - b[0], a[1] - b[1])


def plan_of(site: Installation) -> Plan:
    """Everything of a place that has a spot; assumed ones stand where such things usually do."""
    buildings = _buildings(site)
    spots: dict[str, Spot] = {}
    homes: dict[str, Footprint] = {}
    first = next(iter(buildings.values()), Footprint(10, 14, WIDE_FT, DEEP_FT, True))
    for n, panel in enumerate(site.panels):
        home = buildings.get(panel.building or "", first)
        homes[panel.id] = home
        spots[panel.id] = _spot(panel) or Spot(
            home.x + home.wide - 1.5, round(home.y + home.deep * 0.75 - 4 * (n % 4)), True
        )
    rods: dict[str, int] = {}
    for electrode in site.electrodes:
        home = homes.get(electrode.panel, first)
        known = _spot(electrode)
        if known is None:
            known = _usual(site, electrode, home, spots, rods)
        spots[electrode.id] = known
    for n, pipe in enumerate(site.metals):
        home = homes.get(pipe.panel or "", first)
        spots[pipe.id] = _spot(pipe) or Spot(home.x, round(home.y + 6 + 4 * n), True)
    return Plan(buildings, spots)


def _spot(element: Element) -> Spot | None:
    found = known_spot(element)
    return None if found is None else Spot(*found)


def _buildings(site: Installation) -> dict[str, Footprint]:
    found: dict[str, Footprint] = {}
    x = 10.0
    for building in site.buildings:
        at = known_spot(building)
        sized = building.width_ft is not None and building.deep_ft is not None
        wide, deep = building.width_ft or WIDE_FT, building.deep_ft or DEEP_FT
        east, north = at or (x, 14.0)
        found[building.id] = Footprint(east, north, wide, deep, at is None or not sized)
        x = max(x, east + wide + GAP_FT)
    return found


def _usual(
    site: Installation,
    electrode: Electrode,
    home: Footprint,
    spots: dict[str, Spot],
    rods: dict[str, int],
) -> Spot:
    """Where an electrode of its kind usually is."""
    if electrode.kind == "concrete":
        return Spot(home.x + 1, home.y + 0.5, True)
    if electrode.kind == "water":
        return Spot(home.x, home.y + 4, True)
    if electrode.kind == "ring":
        return Spot(home.x + home.wide / 2, home.y + home.deep / 2, True)
    near = spots.get(electrode.near or "")
    if near is not None:
        return Spot(near.x, near.y - (electrode.spacing_ft or ROD_GAP_FT), True)
    n = rods.setdefault(electrode.panel, 0)
    rods[electrode.panel] += 1
    return Spot(
        home.x + home.wide + OUT_FT, round(home.y + home.deep * 0.75 - ROD_GAP_FT * n), True
    )


def place_edits(site: Installation, id_: str, x: float, y: float) -> tuple[Set, ...]:
    """The edits that put an element at a foot of the plan. A rod that is known by its distance
    from another keeps that distance true; the other is placed too where it was only assumed."""
    element = site.elements().get(id_)
    if not isinstance(element, Electrode | Metal | Panel | Building):
        raise BadInput("Only buildings, panels, electrodes and pipes stand on the plan.")
    x, y = (round(number_in(v, "Place", -PLAN_FT, PLAN_FT, "ft")) for v in (x, y))
    edits: list[Set] = [
        Set(path=f"{id_}.east_ft", value=float(x)),
        Set(path=f"{id_}.north_ft", value=float(y)),
    ]
    if not isinstance(element, Electrode):
        return tuple(edits)
    elements, plan = site.elements(), plan_of(site)
    if element.near in elements:
        other = elements[element.near]
        spot = plan.spots[element.near]
        if known_spot(other) is None:
            edits += _known_now(element.near, spot)
        edits.append(_spacing(id_, (x, y), (spot.x, spot.y)))
    for one in site.electrodes:
        if one.near == id_ and (at := known_spot(one)) is not None:
            edits.append(_spacing(one.id, at, (x, y)))
    return tuple(edits)


def _known_now(id_: str, spot: Spot) -> list[Set]:
    return [
        Set(path=f"{id_}.east_ft", value=float(round(spot.x))),
        Set(path=f"{id_}.north_ft", value=float(round(spot.y))),
    ]


def _spacing(id_: str, a: tuple[float, float], b: tuple[float, float]) -> Set:
    apart = max(math.hypot(a[0] - b[0], a[1] - b[1]), 0.1)
    return Set(path=f"{id_}.spacing_ft", value=round(min(apart, 500.0), 1))


def names_on_plan(site: Installation) -> dict[str, str]:
    """id → what it is called here: “rod 2” for the second rod nobody named."""
    found: dict[str, str] = {}
    counts: dict[str, int] = {}
    for element in (*site.buildings, *site.panels, *site.electrodes, *site.metals):
        if isinstance(element, Electrode) and not element.name:
            word = SHORT_NAMES.get(element.kind or "", "electrode")
            counts[word] = counts.get(word, 0) + 1
            several = sum(e.kind == element.kind and not e.name for e in site.electrodes) > 1
            found[element.id] = f"{word} {counts[word]}" if several else word
        else:
            found[element.id] = name_of(element)
    return found


def read_spot(site: Installation, id_: str, text: str) -> tuple[Set, ...]:
    """“8 ft from rod 1, north along the wall”, “3 ft east of the panel”, “12, 20”: where it stands.

    BadInput says what was not understood; nothing is guessed.
    """
    said = " ".join(text.lower().replace("feet", "ft").replace("foot", "ft").split())
    if match := re.fullmatch(
        r"(-?\d+(?:\.\d+)?)\s*(?:ft)?\s*[, ]\s*(-?\d+(?:\.\d+)?)\s*(?:ft)?", said
    ):
        return place_edits(site, id_, float(match[1]), float(match[2]))
    feet = re.search(r"(\d+(?:\.\d+)?)\s*(ft|'|m\b)", said)
    ways = re.findall(rf"\b({'|'.join([*WAYS, *_SHORT])})\b", said)
    other = _named(site, id_, said)
    if feet is None or len(set(ways)) != 1 or other is None:
        raise BadInput(f"“{text[:60]}” was not understood; write {_example(site, id_)}.")
    apart = float(feet[1]) * (3.28084 if feet[2] == "m" else 1.0)
    plan, way = plan_of(site), WAYS[_SHORT.get(ways[0], ways[0])]
    spot = plan.spots[other]
    edits: list[Set] = []
    element, elements = site.elements()[id_], site.elements()
    rods = isinstance(element, Electrode) and isinstance(elements[other], Electrode)
    if known_spot(elements[other]) is None:
        edits += _known_now(other, spot)
    x, y = round(spot.x) + way[0] * apart, round(spot.y) + way[1] * apart
    moved = list(place_edits(site, id_, x, y))
    if rods and other != id_:
        moved = [e for e in moved if e.path != f"{id_}.spacing_ft"]
        moved.append(Set(path=f"{id_}.near", value=other))
        moved.append(_spacing(id_, (x, y), (round(spot.x), round(spot.y))))
    paths = {e.path for e in moved}
    return (*(e for e in edits if e.path not in paths), *moved)


def _named(site: Installation, id_: str, said: str) -> str | None:
    """The one thing on the plan, other than itself, that the words name; the longest name wins."""
    names = {k: v.lower() for k, v in names_on_plan(site).items() if k != id_}
    spots = plan_of(site).spots
    found = [k for k, v in names.items() if k in spots and re.search(rf"\b{re.escape(v)}\b", said)]
    if not found and re.search(r"\bpanel\b", said):
        found = [site.panel.id] if site.panel.id != id_ else []
    if not found:
        return None
    longest = max(len(names[k]) for k in found)
    best = [k for k in found if len(names[k]) == longest]
    return best[0] if len(best) == 1 else None


def _example(site: Installation, id_: str) -> str:
    names = names_on_plan(site)
    rods = [e.id for e in site.electrodes if e.id != id_ and e.kind == "rod"]
    other = names[rods[0]] if rods else names[site.panel.id]
    return f"“8 ft north of {other}” or “12, 20” (feet east, feet north)"
