"""Which electrodes share soil, and their mutual matrix: by the plan, or by typed distances."""

from functools import lru_cache
from itertools import accumulate

from .. import earth, tables
from ..site import Electrode
from ..site.plan import known_spot
from ..vocabulary.units import FOOT_M, INCH_M


def near_groups(electrodes: tuple[Electrode, ...]) -> dict[str, list[Electrode]]:
    """electrode → those it shares soil with (two or more): rods by their distances, any kind by
    its place on the plan."""
    shapes = shapes_on_plan(electrodes)
    placed = [e for e in electrodes if e.id in shapes and e.joined != "no"]
    if len(placed) > 1:
        groups = {e.id: placed for e in placed}
        return groups | _by_distance(tuple(e for e in electrodes if e.id not in groups))
    return _by_distance(electrodes)


def shapes_on_plan(electrodes: tuple[Electrode, ...]) -> dict[str, earth.Shape]:
    """The electrodes that are placed on the plan, or stand at a known distance from one that is,
    as they lie in the ground."""
    at = {e.id: spot for e in electrodes if (spot := known_spot(e)) is not None}
    if not at:
        return {}
    for _ in electrodes:
        for e in electrodes:
            if e.id not in at and e.near in at and e.spacing_ft is not None:
                x, y = at[e.near]
                at[e.id] = (x, y - e.spacing_ft)  # any side: the distance is what counts
    found = {e.id: _shape(e, at[e.id]) for e in electrodes if e.id in at}
    return {id_: shape for id_, shape in found.items() if shape is not None}


def _shape(electrode: Electrode, at: tuple[float, float]) -> earth.Shape | None:
    """An electrode at a spot of the plan, metres; None where its kind or length is not known."""
    length = electrode.length_ft
    if electrode.kind == "rod":
        length = length or tables.assumed_number("rod length ft")
    if electrode.ohm is None or electrode.kind in (None, "several"):
        return None
    if length is None and electrode.kind != "plate":
        return None
    depth = (electrode.depth_in or 30.0) * INCH_M
    return earth.Shape(
        electrode.kind, at[0] * FOOT_M, at[1] * FOOT_M, electrode.ohm, (length or 1.0) * FOOT_M,
        depth, electrode.runs or "east",
    )  # fmt: skip


def _by_distance(electrodes: tuple[Electrode, ...]) -> dict[str, list[Electrode]]:
    """electrode → the rods it shares soil with (two or more), by their distances."""
    by_id = {e.id: e for e in electrodes}
    groups: dict[str, list[Electrode]] = {}
    for electrode in electrodes:
        other = by_id.get(electrode.near or "")
        usable = [e for e in (electrode, other) if e and e.kind == "rod" and e.ohm is not None]
        if (
            other is None
            or len(usable) < 2
            or electrode.spacing_ft is None
            or "no" in (e.joined for e in usable)
        ):
            continue
        here, there = groups.get(electrode.id, [electrode]), groups.get(other.id, [other])
        if electrode is other or here is there:
            continue
        group = [*there, *here]
        for one in group:
            groups[one.id] = group
    return groups


#: What a rod is to its group: its ohms, its feet, the feet to the rod it is next to, and which
#: of the group that is.
Rod = tuple[float, float, float | None, int | None]


@lru_cache(maxsize=64)
def row_ohms(soil_ohm_m: float, rods: tuple[Rod, ...]) -> tuple[tuple[complex, ...], ...]:
    """The mutual matrix of rods that share soil, Ω; every state of a place asks for the same."""
    along = list(accumulate(rod[2] or 6.0 for rod in rods))  # feet along the row of rods
    rows = []
    for i, (own, length, spacing, near) in enumerate(rods):
        row = []
        for j, (other, other_length, other_spacing, other_near) in enumerate(rods):
            if i == j:
                row.append(complex(own))
                continue
            if near == j and spacing:
                distance = spacing
            elif other_near == i and other_spacing:
                distance = other_spacing
            else:
                distance = abs(along[i] - along[j])
            metres = min(max(distance * FOOT_M, 2 * INCH_M), 1000.0)
            # Of unequal rods their mean length: what one does to the other it does back.
            mean = (length + other_length) / 2 * FOOT_M
            mutual = earth.mutual_rods(soil_ohm_m, mean, metres)
            row.append(complex(min(mutual, 0.98 * min(own, other))))
        rows.append(tuple(row))
    return tuple(rows)
