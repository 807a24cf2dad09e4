"""Electrodes of unlike kinds that share soil: what one does to the other. method 7.

Each electrode is a handful of points in the ground that share its current equally; the soil's
surface is a mirror. Two points r apart, mirror image r', do ρ/4π·(1/r + 1/r') to each other:

      surface ~~~~~~~~~~~~~~~~
                |     •—•—•—•   rod down, pipe or steel along
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ..errors import BadInput, number_in
from ..vocabulary.units import FOOT_M
from .electrodes import buried_wire, concrete_encased, mutual_rods, plate, ring, rod, together

POINTS = 16
LEAST_APART_M = 0.05
MOST_MUTUAL = 0.98  # of the lesser own resistance: two electrodes are never one
#: Where a compass word points, in feet of the plan: x east, y north.
COMPASS = {"north": (0.0, 1.0), "east": (1.0, 0.0), "south": (0.0, -1.0), "west": (-1.0, 0.0)}


@dataclass(frozen=True)
class Shape:
    """One electrode in the ground, metres: where it is, how it lies, its own ohms.

    ``kind`` rod, plate, water, concrete, ring; ``runs`` the compass word that a pipe or footing
    runs to from its position; ``length`` and ``depth`` of the metal.
    """

    kind: str
    x: float
    y: float
    ohm: float
    length: float
    depth: float = 0.75
    runs: str = "east"

    def points(self) -> np.ndarray:
        """Its points, (n, 3): metres east, north, down."""
        middle = (np.arange(POINTS) + 0.5) / POINTS
        if self.kind == "rod":
            down = middle * self.length
            return np.column_stack([np.full(POINTS, self.x), np.full(POINTS, self.y), down])
        if self.kind == "ring":
            around, radius = 2 * math.pi * middle, self.length / (2 * math.pi)
            x, y = self.x + radius * np.cos(around), self.y + radius * np.sin(around)
            return np.column_stack([x, y, np.full(POINTS, self.depth)])
        if self.kind == "plate":
            return np.array([[self.x, self.y, self.depth]])
        east, north = COMPASS[self.runs]
        along = middle * self.length
        flat = (self.x + east * along, self.y + north * along)
        return np.column_stack([*flat, np.full(POINTS, self.depth)])


def shape_of(
    kind: str, x: float, y: float, length_m: float, soil_ohm_m: float, runs: str = "east"
) -> Shape:
    """An electrode of usual make by its kind, place and length, m."""
    own = {
        "rod": lambda: rod(soil_ohm_m, length_m, 0.0079375),
        "plate": lambda: plate(soil_ohm_m, 2 * FOOT_M**2, 0.76),
        "water": lambda: buried_wire(soil_ohm_m, length_m, 0.0143, 0.75),
        "concrete": lambda: concrete_encased(soil_ohm_m, length_m, 0.00635),
        "ring": lambda: ring(soil_ohm_m, length_m / math.pi, 0.0074, 0.76),
    }
    if kind not in own:
        raise BadInput(f"“{kind}” is no electrode here; {', '.join(own)} are.")
    if runs not in COMPASS:
        raise BadInput(f"“{runs}” is no way to run; {', '.join(COMPASS)} are.")
    for value in (x, y):
        number_in(value, "Place", -1000, 1000, "m")
    return Shape(kind, x, y, own[kind](), length_m, runs=runs)


def mutual(one: Shape, other: Shape, soil_ohm_m: float) -> float:
    """What one ampere in ``one`` raises ``other`` by, Ω; the same the other way round."""
    if one.kind == other.kind == "rod":
        apart = math.hypot(one.x - other.x, one.y - other.y)
        mean = (one.length + other.length) / 2
        found = mutual_rods(soil_ohm_m, mean, min(max(apart, LEAST_APART_M), 1000.0))
    else:
        found = _by_points(one.points(), other.points(), soil_ohm_m)
    return min(found, MOST_MUTUAL * min(one.ohm, other.ohm))


def _by_points(one: np.ndarray, other: np.ndarray, soil_ohm_m: float) -> float:
    flat = (one[:, None, :2] - other[None, :, :2]) ** 2
    flat = flat.sum(axis=2)
    near = np.sqrt(np.maximum(flat + (one[:, None, 2] - other[None, :, 2]) ** 2, LEAST_APART_M**2))
    image = np.sqrt(np.maximum(flat + (one[:, None, 2] + other[None, :, 2]) ** 2, LEAST_APART_M**2))
    return float(soil_ohm_m / (4 * math.pi) * (1 / near + 1 / image).mean())


def matrix(shapes: Sequence[Shape], soil_ohm_m: float) -> np.ndarray:
    """The resistance matrix of electrodes in one soil, Ω: symmetric, and never one that would
    make current out of nothing."""
    return _matrix(tuple(shapes), soil_ohm_m).copy()


@lru_cache(maxsize=64)
def _matrix(shapes: tuple[Shape, ...], soil_ohm_m: float) -> np.ndarray:
    count = len(shapes)
    found = np.diag([s.ohm for s in shapes]).astype(float)
    for i in range(count):
        for j in range(i):
            found[i, j] = found[j, i] = mutual(shapes[i], shapes[j], soil_ohm_m)
    return sound(found)


def sound(found: np.ndarray) -> np.ndarray:
    """A matrix of own and mutual ohms whose currents cost energy: where typed figures contradict
    each other the mutual parts are taken smaller, until they do not."""
    own = np.diag(np.diag(found))
    share, apart = 1.0, found - own
    while np.linalg.eigvalsh(own + share * apart)[0] <= 1e-6 * own.max() and share > 1e-3:
        share *= 0.8
    made: np.ndarray = own + share * apart
    return made


def sum_of(shapes: Sequence[Shape], soil_ohm_m: float) -> float:
    """All of them joined, Ω; ``math.inf`` for none."""
    return together(matrix(shapes, soil_ohm_m)) if shapes else math.inf


def surface_volts(
    shapes: Sequence[Shape], amps: Sequence[float], soil_ohm_m: float, at: np.ndarray
) -> np.ndarray:
    """Volts of the surface at points ``at`` (n, 2) in metres, above remote earth, with these
    amperes into each electrode. Nowhere over what the electrode itself has."""
    total = np.zeros(len(at))
    for shape, amp in zip(shapes, amps, strict=True):
        points = shape.points()
        flat = ((at[:, None, :] - points[None, :, :2]) ** 2).sum(axis=2)
        r = np.sqrt(np.maximum(flat + points[None, :, 2] ** 2, LEAST_APART_M**2))
        total += soil_ohm_m * amp / (2 * math.pi) * (1 / r).mean(axis=1)
    return total
