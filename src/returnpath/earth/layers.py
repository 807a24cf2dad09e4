"""Soil in one or two layers, fitted to four-pin readings at several spacings. method 7.

    ------------- surface
      ρ1             depth h
    -------------
      ρ2             below, without end

Four pins a distance b apart see ρ1 while b is far under h, ρ2 far over it:
ρa(b) = ρ1·[1 + 4·Σ Kⁿ·(1/√(1+(2nh/b)²) − 1/√(4+(2nh/b)²))], K = (ρ2−ρ1)/(ρ2+ρ1).
"""

import csv
import io
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cache
from itertools import pairwise
from typing import Any

import numpy as np

from .. import tables, working
from ..errors import BadInput, number_in
from ..vocabulary.units import FOOT_M
from ..working import Step, Working, figures
from .electrodes import rod
from .soil import four_pins

MOST_TERMS = 400
LEAST_FOR_TWO = 4  # spacings under which two layers cannot be told from one
CLEARLY = 0.5  # of one layer's misfit, that two layers must get under
NOISE = 0.03  # a misfit that readings have anyway (root mean square of the logarithm)
UNSURE = 0.35  # of the depth's logarithm: past it the depth is not determined
MOST_READINGS = 60


@dataclass(frozen=True)
class Layers:
    """Soil: ``upper_ohm_m`` down to ``depth_m``, ``lower_ohm_m`` below; one layer has no depth."""

    upper_ohm_m: float
    lower_ohm_m: float | None = None
    depth_m: float | None = None

    @property
    def reflection(self) -> float:
        """K = (ρ2 − ρ1)/(ρ2 + ρ1); 0 for one layer."""
        if self.lower_ohm_m is None:
            return 0.0
        return (self.lower_ohm_m - self.upper_ohm_m) / (self.lower_ohm_m + self.upper_ohm_m)


@dataclass(frozen=True)
class PinReading:
    """One reading of four pins in a row: their spacing, m, and what the meter shows, Ω."""

    spacing_m: float
    ohm: float

    @property
    def apparent_ohm_m(self) -> float:
        """2πbR, Ω·m."""
        return four_pins(self.spacing_m, self.ohm)


@dataclass(frozen=True)
class SoilFit:
    """What readings say of the soil. ``misfit`` the root mean square of ln(read/fitted);
    ``is_depth_known`` False where a layer is seen and its depth is not determined by them;
    ``one`` the single layer that fits best."""

    layers: Layers
    misfit: float
    one: Layers
    one_misfit: float
    readings: tuple[PinReading, ...]
    is_depth_known: bool = True

    @property
    def is_two(self) -> bool:
        """Whether two layers fit clearly better than one."""
        return self.layers.lower_ohm_m is not None


@cache
def _terms(reflection: float) -> np.ndarray:
    """n = 1, 2, … as long as Kⁿ counts."""
    k = abs(reflection)
    if k < 1e-9:
        return np.empty(0)
    count = MOST_TERMS if k > 0.999 else min(MOST_TERMS, int(math.log(1e-9) / math.log(k)) + 2)
    return np.arange(1, count + 1, dtype=float)


def apparent(layers: Layers, spacing_m: float) -> float:
    """What four pins ``spacing_m`` apart read over these layers, Ω·m."""
    number_in(spacing_m, "Pin spacing", 0.05, 500, "m")
    if layers.lower_ohm_m is None or layers.depth_m is None:
        return layers.upper_ohm_m
    k, n = layers.reflection, np.arange(1, MOST_TERMS + 1, dtype=float)
    return float(layers.upper_ohm_m * (1 + 4 * _series(k, n, layers.depth_m / spacing_m)))


def _series(k: float, n: np.ndarray, deep: float | np.ndarray) -> float | np.ndarray:
    ratio = (2 * n * deep) ** 2
    return np.sum(k**n * (1 / np.sqrt(1 + ratio) - 1 / np.sqrt(4 + ratio)))


def _apparent_all(log_facts: np.ndarray, spacings: np.ndarray) -> np.ndarray:
    upper, lower, depth = np.exp(log_facts)
    k = (lower - upper) / (lower + upper)
    n = np.arange(1, 121, dtype=float)
    ratio = (2 * n[None, :] * depth / spacings[:, None]) ** 2
    terms = k**n * (1 / np.sqrt(1 + ratio) - 1 / np.sqrt(4 + ratio))
    found: np.ndarray = np.log(upper) + np.log(np.maximum(1 + 4 * terms.sum(axis=1), 1e-9))
    return found


def fit(readings: Sequence[PinReading]) -> SoilFit:
    """One or two layers by least squares of the logarithms, from three starts.

    Two are taken where they fit clearly better; BadInput for readings that no soil gives.
    """
    if not readings:
        raise BadInput("Give at least one reading: spacing and ohms.")
    if len(readings) > MOST_READINGS:
        raise BadInput(f"At most {MOST_READINGS} readings at once.")
    seen = np.log([r.apparent_ohm_m for r in readings])
    one = Layers(float(np.exp(seen.mean())))
    one_misfit = float(np.sqrt(np.mean((seen - seen.mean()) ** 2)))
    spacings = np.array([r.spacing_m for r in readings])
    alone = SoilFit(one, one_misfit, one, one_misfit, tuple(readings))
    if len({round(s, 3) for s in spacings}) < LEAST_FOR_TWO or one_misfit <= NOISE:
        return alone
    best = _two_layers(seen, spacings)
    misfit = float(np.sqrt(np.mean(best.fun**2)))
    if misfit > CLEARLY * one_misfit:
        return alone
    upper, lower, depth = (float(v) for v in np.exp(best.x))
    known = _is_determined(best, misfit, len(readings))
    return SoilFit(Layers(upper, lower, depth), misfit, one, one_misfit, tuple(readings), known)


def _two_layers(seen: np.ndarray, spacings: np.ndarray) -> Any:
    from scipy.optimize import least_squares  # 40 ms to import: asked for where a fit is

    order = np.argsort(spacings)
    first, last = seen[order[0]], seen[order[-1]]
    low, high = math.log(spacings.min() / 10), math.log(spacings.max() * 3)
    bounds = ([math.log(0.5)] * 2 + [low], [math.log(1e5)] * 2 + [high])
    found = []
    for share in (0.3, 0.6, 1.2):
        start = np.array([first, last, math.log(spacings[order[len(order) // 2]] * share)])
        start = np.clip(start, np.array(bounds[0]) + 1e-6, np.array(bounds[1]) - 1e-6)
        found.append(
            least_squares(
                lambda x: _apparent_all(x, spacings) - seen, start, bounds=bounds, max_nfev=80
            )
        )
    return min(found, key=lambda f: f.cost)


def _is_determined(best: Any, misfit: float, count: int) -> bool:
    """Whether the depth is fixed by the readings, or could be twice or half as well."""
    jacobian, spare = best.jac, max(count - 3, 1)
    noise = max(misfit * math.sqrt(count / spare), 0.01)
    try:
        spread = np.linalg.inv(jacobian.T @ jacobian) * noise**2
    except np.linalg.LinAlgError:
        return False
    return bool(np.isfinite(spread[2, 2]) and math.sqrt(max(spread[2, 2], 0.0)) < UNSURE)


def rod_in(layers: Layers, length_m: float, radius_m: float) -> float:
    """A rod's ohms in layered soil: within the upper one by images, through it by the mean."""
    if layers.lower_ohm_m is None or layers.depth_m is None:
        return rod(layers.upper_ohm_m, length_m, radius_m)
    upper, lower, depth = layers.upper_ohm_m, layers.lower_ohm_m, layers.depth_m
    through = length_m / (depth / upper + max(length_m - depth, 0.0) / lower)
    if length_m >= depth:
        return rod(through, length_m, radius_m)
    own = rod(upper, length_m, radius_m)
    n, k = np.arange(1, MOST_TERMS + 1, dtype=float), layers.reflection
    images = k**n * np.log((2 * n * depth + length_m) / (2 * n * depth - length_m))
    return max(own + upper / (2 * math.pi * length_m) * float(images.sum()), 0.01)


@cache
def seasons() -> tuple[tuple[str, float, str], ...]:
    """(season of the reading, factor to the year's worst, words)."""
    return tuple((r["season"], float(r["factor"]), r["words"]) for r in tables.rows("seasons"))


ROD_FEET = (8.0, 10.0, 16.0)
ROD_RADIUS_M = 0.0079375  # 5/8 in


def rods_of(layers: Layers) -> tuple[tuple[float, float], ...]:
    """(feet, Ω) of the usual rods in these layers."""
    return tuple((ft, rod_in(layers, ft * FOOT_M, ROD_RADIUS_M)) for ft in ROD_FEET)


def soil_working(readings: Sequence[PinReading], season: str = "") -> Working:
    """The soil of readings, with what it makes of rods and of the season.

    The value is the resistivity that an 8 ft rod sees, Ω·m.
    """
    found = fit(readings)
    layers = found.layers
    eight = rod_in(layers, ROD_FEET[0] * FOOT_M, ROD_RADIUS_M)
    seen = eight / rod(1.0, ROD_FEET[0] * FOOT_M, ROD_RADIUS_M)

    def recipe() -> Iterator[Step]:
        for r in readings:
            yield working.given(
                f"pins {r.spacing_m / FOOT_M:.1f} ft apart read {figures(r.ohm)} Ω:"
                f" 2πbR = 2π·{r.spacing_m:.3f}·{figures(r.ohm)} = {figures(r.apparent_ohm_m)} Ω·m"
            )
        if found.is_two and layers.depth_m and layers.lower_ohm_m:
            yield working.formula(
                f"two layers: {figures(layers.upper_ohm_m)} Ω·m over {figures(layers.lower_ohm_m)}"
                f" Ω·m, at {layers.depth_m / FOOT_M:.1f} ft ({layers.depth_m:.2f} m);"
                f" they miss the readings by {found.misfit:.1%}, one layer by"
                f" {found.one_misfit:.0%}",
                "method 7",
            )
            if not found.is_depth_known:
                yield working.note("The readings do not fix the depth: take wider and closer ones.")
        else:
            yield working.formula(
                f"one layer: {figures(layers.upper_ohm_m)} Ω·m; it misses the readings by"
                f" {found.one_misfit:.0%}",
                "method 7",
            )
            if len({r.spacing_m for r in readings}) < LEAST_FOR_TWO:
                yield working.note("A second layer shows from four spacings on.")
        for feet, ohm in rods_of(layers):
            yield working.formula(f"a rod of {feet:g} ft: {figures(ohm)} Ω", "method 7")
            if layers.depth_m is not None and feet * FOOT_M > layers.depth_m:
                down = rod_in(layers, layers.depth_m * 0.999, ROD_RADIUS_M)
                yield working.note(
                    f"it goes through the boundary: an estimate; at most {figures(down)} Ω, what it"
                    " has down to there"
                )
        for name, factor, words in seasons():
            if name == season:
                yield working.assumption(
                    f"read in {name}: {words}; the year's worst is taken {factor:g} times as high,"
                    f" {figures(eight * factor)} Ω for the 8 ft rod"
                )
        yield working.formula(
            f"what an 8 ft rod sees: {figures(eight)}/{figures(eight / seen)} ="
            f" {figures(seen)} Ω·m",
            "method 7",
        )

    return Working("Soil resistivity", seen, "Ω·m", recipe)


def read_pins(text: str) -> tuple[PinReading, ...]:
    """Readings as lines or CSV: ``spacing ft, ohm``; “5 ft 12.1”, “1.5 m, 8”.

    BadInput names the line that was not understood.
    """
    found = []
    for row in csv.reader(io.StringIO(text.replace(";", "\n"))):
        cells = " ".join(row).replace("Ω", " ").replace("ohm", " ").split()
        if not cells or cells[0].startswith("#") or cells[0].lower().startswith("spacing"):
            continue
        found.append(_pin(cells, " ".join(row)))
    return tuple(found)


def _pin(cells: list[str], said: str) -> PinReading:
    words = [c.lower() for c in cells]
    scale = FOOT_M
    if any(w == "m" or (w.endswith("m") and w[:-1].replace(".", "").isdigit()) for w in words):
        scale = 1.0
    numbers = []
    for word in words:
        digits = word.removesuffix("ft").removesuffix("'").removesuffix("m").removesuffix("s")
        try:
            numbers.append(float(digits))
        except ValueError:
            if word not in ("ft", "feet", "foot", "m", "'", "s", ""):
                raise BadInput(f"“{said.strip()}” was not understood; write 5 ft 12.1.") from None
    if len(numbers) != 2:
        raise BadInput(f"“{said.strip()}”: a spacing and its ohms; write 5 ft 12.1.")
    spacing = number_in(numbers[0], "Pin spacing", 0.3, 500, "ft" if scale != 1 else "m") * scale
    return PinReading(spacing, number_in(numbers[1], "Reading", 0, 1e6, "Ω", above_low=True))


def steps_between(readings: Sequence[PinReading]) -> float:
    """The widest gap between spacings, as a ratio: over 3 the layers may hide in it."""
    spaced = sorted({r.spacing_m for r in readings})
    return max((b / a for a, b in pairwise(spaced)), default=1.0)
