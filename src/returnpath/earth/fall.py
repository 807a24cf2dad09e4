"""The three-point test of an electrode with its curve, the clamp method, where the probes go.

    electrode        potential probe          current probe
        o---- p = 0.618·D ----o-------------------o  D

A small electrode in even soil reads R(p) = R + k·(1/(D−p) − 1/p − 1/D): the bracket is nothing at
61.8 % of D. Two figures fit the whole curve by linear least squares. method 7.
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from .. import working
from ..errors import BadInput, number_in
from ..working import Step, Working, figures
from .soil import AGREE_WITHIN, PROBE_FACTOR, PROBE_SHARES, probe_distances_ft

TRUE_SHARE = 0.618
LEAST_FOR_CURVE = 4
MOST_POINTS = 40
NEAR_SHARE = 0.02  # how far from 52, 62, 72 % a reading may be and count as that one


@dataclass(frozen=True)
class FallPoint:
    """One reading: the potential probe's distance as a share of the current probe's, and Ω."""

    share: float
    ohm: float


@dataclass(frozen=True)
class FallTest:
    """A three-point test.

    ``ohm`` what the electrode has, None where the current probe is too near; ``read_at_618`` the
    reading near 61.8 %; ``spread`` of 52, 62 and 72 % from the middle; ``fitted`` Ω of the curve,
    ``misfit`` its root mean square share; ``curve`` (share, Ω) to draw.
    """

    points: tuple[FallPoint, ...]
    far_ft: float
    ohm: float | None
    read_at_618: float
    spread: float
    fitted: float | None
    misfit: float
    curve: tuple[tuple[float, float], ...]

    @property
    def agrees(self) -> bool:
        """Whether 52, 62 and 72 % agree within 5 %: the current probe is far enough."""
        return self.spread <= AGREE_WITHIN


def three_point_test(points: Sequence[FallPoint], far_ft: float) -> FallTest:
    """Judge readings with the current probe ``far_ft`` out.

    BadInput without readings near 52, 62 and 72 %.
    """
    number_in(far_ft, "Distance of the current probe", 2, 5000, "ft")
    if len(points) > MOST_POINTS:
        raise BadInput(f"At most {MOST_POINTS} readings.")
    found = sorted(points, key=lambda p: p.share)
    for point in found:
        number_in(point.share, "Share of the distance", 0.02, 0.98)
        number_in(point.ohm, "Reading", 0, 1e6, "Ω", above_low=True)
    three = [p for share in PROBE_SHARES if (p := _near(found, share)) is not None]
    if len(three) < len(PROBE_SHARES):
        raise BadInput("The three-point test needs readings at 52, 62 and 72 % of the distance.")
    middle = three[1].ohm
    spread = max(abs(p.ohm - middle) for p in three) / middle
    fitted, misfit, curve = _fit(found, far_ft)
    ohm = middle if spread <= AGREE_WITHIN else None
    return FallTest(tuple(found), far_ft, ohm, middle, spread, fitted, misfit, curve)


def _near(points: Sequence[FallPoint], share: float) -> FallPoint | None:
    close = [p for p in points if abs(p.share - share) <= NEAR_SHARE]
    return min(close, key=lambda p: abs(p.share - share), default=None)


def bracket(share: float, far: float) -> float:
    """1/(D−p) − 1/p − 1/D at p = share·D."""
    return (1 / (1 - share) - 1 / share - 1) / far


def _fit(
    points: Sequence[FallPoint], far_ft: float
) -> tuple[float | None, float, tuple[tuple[float, float], ...]]:
    """(R, misfit, curve) of the two-figure curve; (None, 0, readings) with too few."""
    if len(points) < LEAST_FOR_CURVE:
        return None, 0.0, tuple((p.share, p.ohm) for p in points)
    rows = np.array([[1.0, bracket(p.share, far_ft)] for p in points])
    read = np.array([p.ohm for p in points])
    weight = 1 / read  # shares of the reading, not ohms: near the probes it runs away
    (ohm, k), *_ = np.linalg.lstsq(rows * weight[:, None], np.ones(len(points)), rcond=None)
    misfit = float(np.sqrt(np.mean((rows @ (ohm, k) / read - 1) ** 2)))
    drawn = np.linspace(0.08, 0.92, 43)
    curve = tuple((float(s), float(ohm + k * bracket(s, far_ft))) for s in drawn)
    return float(ohm), misfit, curve


def three_point_working(points: Sequence[FallPoint], far_ft: float) -> Working:
    """The same with its steps; the value is None where the current probe is too near."""
    found = three_point_test(points, far_ft)

    def recipe() -> Iterator[Step]:
        yield working.given(
            f"current probe {far_ft:g} ft out; "
            + ", ".join(f"{p.share:.0%}: {figures(p.ohm)} Ω" for p in found.points)
        )
        yield working.rule(
            f"the readings at 52, 62 and 72 % differ by {figures(found.spread * 100)} % of the"
            " middle one;"
            + (" they agree within 5 %" if found.agrees else " move the current probe farther out"),
            "electrode_test",
            2023,
        )
        if found.fitted is not None:
            yield working.formula(
                f"R + k·(1/(D−p) − 1/p − 1/D) through all of them: R = {figures(found.fitted)} Ω,"
                f" misses by {found.misfit:.1%}",
                "method 7",
            )
        if not found.agrees:
            yield working.note(f"try {2 * far_ft:g} ft; a curve that never lies flat has no 61.8 %")

    return Working("Three-point test", found.ohm, "Ω", recipe)


def read_fall(text: str) -> tuple[FallPoint, ...]:
    """Readings as lines or CSV: ``percent, ohm``. BadInput names what was not understood."""
    found = []
    for line in text.replace(";", "\n").splitlines():
        cells = line.replace(",", " ").replace("%", " ").replace("Ω", " ").split()
        if not cells or cells[0].startswith("#") or cells[0].lower() == "percent":
            continue
        try:
            percent, ohm = (float(c) for c in cells if c.lower() not in ("ohm", "ohms"))
        except ValueError:
            raise BadInput(f"“{line.strip()}” was not understood; write 62 24.5.") from None
        found.append(FallPoint(number_in(percent, "Percent of the distance", 2, 98) / 100, ohm))
    return tuple(found)


class ClampSays(StrEnum):
    """What a clamp on an electrode's conductor reads of."""

    ELECTRODE = "the electrode and the way back"
    NO_LOOP = "no loop"
    METAL = "a loop through metal"


@dataclass(frozen=True)
class ClampReading:
    """A clamp-on earth reading judged: ``says`` what it is of, ``most_ohm`` the electrode's at most
    (None where it says nothing of it), ``rest_ohm`` of the way back as computed, ``why``."""

    says: ClampSays
    most_ohm: float | None
    rest_ohm: float | None
    why: str


METAL_LOOP_OHM = 1.0  # under it nothing of soil is in the loop
OPEN_LOOP_OHM = 1500.0  # past what clamps read


def clamp_reading(ohm: float, rest_ohm: float | None, own_ohm: float | None = None) -> ClampReading:
    """What a clamp's ``ohm`` on one electrode's conductor means, where the rest of the earthing
    has ``rest_ohm`` (None: nothing else is earthed, so there is no loop to read)."""
    number_in(ohm, "Clamp reading", 0, 1e6, "Ω")
    if rest_ohm is None or ohm >= OPEN_LOOP_OHM:
        why = (
            "nothing else is earthed: the clamp has no loop, and what it shows is not the electrode"
            if rest_ohm is None
            else "no current comes round: its conductor is open, or nothing else is earthed"
        )
        return ClampReading(ClampSays.NO_LOOP, None, rest_ohm, why)
    least = METAL_LOOP_OHM if own_ohm is None else min(METAL_LOOP_OHM, own_ohm / 4)
    if ohm < least:
        why = "the current comes round through metal (a bond, a pipe), not through the soil"
        return ClampReading(ClampSays.METAL, None, rest_ohm, why)
    rest = figures(rest_ohm)
    why = f"it is the electrode and the way back together; the way back is about {rest} Ω"
    return ClampReading(ClampSays.ELECTRODE, ohm, rest_ohm, why)


@dataclass(frozen=True)
class ProbeLine:
    """Where the probes go: the compass word, the least clearance from anything buried, ft, and the
    feet of the current probe and of the potential probe at 52, 62 and 72 %."""

    towards: str
    clearance_ft: float
    far_ft: float
    near_ft: tuple[float, ...]


DIRECTIONS = {
    "north": 90, "northeast": 45, "east": 0, "southeast": -45,
    "south": -90, "southwest": -135, "west": 180, "northwest": 135,
}  # fmt: skip


def probe_line(
    at: tuple[float, float], largest_ft: float, others: Sequence[tuple[float, float]]
) -> ProbeLine:
    """The straight line of probes from ``at`` (feet of the plan) that keeps farthest from other
    metal at ``others``: pipes and electrodes beside it make it read low."""
    far, _ = probe_distances_ft(max(largest_ft, 0.5))
    best = max(DIRECTIONS, key=lambda word: _clearance(at, DIRECTIONS[word], far, others))
    clear = _clearance(at, DIRECTIONS[best], far, others)
    return ProbeLine(best, clear, far, tuple(share * far for share in PROBE_SHARES))


def _clearance(
    at: tuple[float, float], degrees: float, far: float, others: Sequence[tuple[float, float]]
) -> float:
    """Feet from the probes' line to the nearest of the others; the far half counts most."""
    dx, dy = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    least = far
    for x, y in others:
        east, north = x - at[0], y - at[1]
        along = min(max(east * dx + north * dy, far / PROBE_FACTOR), far)
        least = min(least, math.hypot(east - along * dx, north - along * dy))
    return least
