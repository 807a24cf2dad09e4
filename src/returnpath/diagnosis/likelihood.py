"""How well each defect explains the readings, whose doubts are shared. method 14.

Twice: once for all with the doubts that the place as described has, once for the likeliest with
their own. A reading may be a slip (a wrong place, a wrong digit): each reading in turn is also left
out, at the price of how rare slips are.
"""

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise, product
from typing import Protocol

import numpy as np

from ..readings import reading_kinds
from .defects import Defect
from .doubt import Unknowns
from .probes import MOST_OHM, Probe
from .shift import Shift

ERROR_SHARE, MODEL_SD, LIVE_SD = 0.6, 0.015, 0.05
UNDESCRIBED_SD = 0.4  # of a current where no branch is described: its loads' doubt is not known
OVER_RANGE = 0.8  # of a meter's range: with its error it may show the end of it
SLIP = 0.02  # of readings are slips: anywhere over four decades
SLIPS_IN_ALL = 0.1  # a long list has hardly more: whoever walks a house reads with care
SLIP_SPREAD = math.log(1e4)
#: What a defect makes of a reading as found hangs on the loads as much as the reading does.
MOST_GROWN = 100.0
REFINED, REFINE_WITHIN = 90, 14.0
FLOATING_OHM = 1000.0
TURNS, MOST_TURNED = ("ng", "clamp", "clamp-bond"), 3
#: On a case that floats these may mean nothing: ghost volts, V.
ON_A_CASE = {"ng": 40.0, "lg": 40.0, "step-ng": 5.0}


class HasError(Protocol):
    """A reading with its value and, where it is known, its instrument's error."""

    @property
    def value(self) -> float:
        """As read."""

    @property
    def error(self) -> tuple[float, float] | None:
        """(share, absolute) of the instrument."""


@dataclass(frozen=True)
class Weighed:
    """``log`` the likelihood of each defect, ``slip`` (defects, readings) the part of it in which
    that reading is a slip, ``chi2`` the misfit, ``one_by_one`` each reading alone."""

    log: np.ndarray
    slip: np.ndarray
    chi2: np.ndarray
    one_by_one: np.ndarray

    def misfit(self, belief: np.ndarray) -> float:
        """Of what explains best."""
        return float(self.chi2[np.argmax(belief + self.log)])

    def slips(self, belief: np.ndarray) -> list[int]:
        """The readings that are likelier slips than not, under what is believed."""
        share = np.exp(belief - belief.max())
        share /= share.sum()
        found = share @ self.slip
        return [n for n in range(self.slip.shape[1]) if found[n] > 0.5]

    def either(self, other: "Weighed") -> "Weighed":
        """Where a reading means one or the other."""
        log = np.logaddexp(self.log, other.log)
        share = np.exp(other.log - log)[:, None]
        slip = self.slip * (1 - share) + other.slip * share
        return Weighed(log, slip, np.minimum(self.chi2, other.chi2),
                       np.logaddexp(self.one_by_one, other.one_by_one))  # fmt: skip

    def and_also(self, more: "Weighed") -> "Weighed":
        """Those of another catalogue after these."""
        return Weighed(*(np.concatenate([a, b]) for a, b in (
            (self.log, more.log), (self.slip, more.slip), (self.chi2, more.chi2),
            (self.one_by_one, more.one_by_one))))  # fmt: skip


@dataclass(frozen=True)
class Spread:
    """Of each defect: Σ⁻¹ of its readings, ln|Σ|, Σ's diagonal."""

    precision: np.ndarray
    log_det: np.ndarray
    variance: np.ndarray

    @classmethod
    def of(cls, sigma: np.ndarray) -> "Spread":
        """``sigma`` (defects, readings, readings)."""
        variance = np.einsum("dnn->dn", sigma).copy()
        return cls(np.linalg.inv(sigma), np.linalg.slogdet(sigma)[1], variance)


class Likelihood:
    """One set of readings against one catalogue."""

    def __init__(self, unknowns: Unknowns, shifts: Mapping[str, Shift], probes: Sequence[Probe],
                 given: Sequence[HasError]):  # fmt: skip
        self.unknowns, self.shifts = unknowns, shifts
        self.probes, self.given = probes, given
        self.read = np.array([g.value for g in given])

    def weigh(self, table: np.ndarray, belief: np.ndarray) -> Weighed:
        """``table`` (defects, readings): what each would read."""
        slope = _grid_slope(self._defects(), table)
        spread = self.own(table)
        j = self.null_rows
        null = np.maximum(np.abs(table[0]), 1e-6)
        most = np.where([p.live for p in self.probes], MOST_GROWN, 1.0)
        grown = np.clip(np.abs(table) / null, 0.2, most)
        shared = (j @ j.T)[None] * grown[:, :, None] * grown[:, None, :]
        first = self._weighed(table, shared, slope, spread, self.ghosts)
        both = belief + first.log
        order = np.argsort(-both)[:REFINED]
        ones = order[both[order] > both[order[0]] - REFINE_WITHIN]
        rows = np.stack([self.unknowns.rows(p, self.shifts[p.net], ones) for p in self.probes],
                        axis=1)  # fmt: skip
        rows[self.over_range & (table[ones] >= MOST_OHM)] = 0.0
        own = np.einsum("dnu,dmu->dnm", rows, rows)
        again = self._weighed(table[ones], own, slope[ones], spread[ones], self.ghosts[ones])
        for whole, part in ((first.log, again.log), (first.slip, again.slip),
                            (first.chi2, again.chi2)):  # fmt: skip
            whole[ones] = part
        return first

    def _defects(self) -> Sequence[Defect]:
        return next(iter(self.shifts.values())).defects

    @cached_property
    def null_rows(self) -> np.ndarray:
        """(readings, unknowns): under *nothing wrong*, which is first in the catalogue."""
        return np.stack([self.unknowns.rows(p, self.shifts[p.net], [0])[0] for p in self.probes])

    @cached_property
    def over_range(self) -> np.ndarray:
        """(readings,): the meter showed no figure. What would read so reads so for certain,
        however vague its ohms are."""
        return self.read >= OVER_RANGE * _most(self.probes)

    def residual(self, table: np.ndarray) -> np.ndarray:
        """(defects, readings): what was read less what each would read."""
        read = np.where(np.isfinite(self.read), np.minimum(self.read, _most(self.probes)), 0)
        found: np.ndarray = read - table
        return found

    def own(self, table: np.ndarray) -> np.ndarray:
        """(defects, readings): the variance of each reading alone."""
        kinds, found = reading_kinds(), np.empty(table.shape)
        for n, (probe, given) in enumerate(zip(self.probes, self.given, strict=True)):
            kind = kinds[probe.kind]
            share, least = given.error or (kind.error_share, kind.error_abs)
            shown = min(abs(given.value), MOST_OHM) if _ends(probe) else abs(given.value)
            own = ERROR_SHARE * (share * shown + least)
            sd = LIVE_SD if probe.live else MODEL_SD
            if probe.branch and not self._is_described(probe):
                sd = UNDESCRIBED_SD
            model = sd * np.abs(table[:, n])
            found[:, n] = own**2 + model**2
        return found

    def _is_described(self, probe: Probe) -> bool:
        return probe.branch in self.shifts[probe.net].net.network.branches

    @cached_property
    def ghosts(self) -> np.ndarray:
        """(defects, readings): the variance of the ghost volts on a case that floats."""
        count = len(self._defects())
        found = np.zeros((count, len(self.probes)))
        for n, probe in enumerate(self.probes):
            if probe.kind in ON_A_CASE:
                found[:, n] = ON_A_CASE[probe.kind] ** 2 * self._floats(probe)
        return found

    def _floats(self, probe: Probe) -> np.ndarray:
        """1 for the defects under which the case of a place hangs on nothing."""
        net = self.shifts["dead"].net
        case, neutral = f"{probe.place}.case", f"{probe.place}.N"
        if not net.has(case, neutral):
            return np.zeros(len(self._defects()))
        a, b = net.index[case], net.index[neutral]
        loop = Probe("r2", probe.place, "dead", a, b, (a, b))
        found: np.ndarray = (self.shifts["dead"].columns([loop])[:, 0] > FLOATING_OHM).astype(float)
        return found

    def _weighed(self, table: np.ndarray, shared: np.ndarray, slope: np.ndarray,
                 spread: np.ndarray, ghosts: np.ndarray) -> Weighed:  # fmt: skip
        sigma = shared + slope[:, :, None] * slope[:, None, :]
        at = np.arange(len(self.read))
        sigma[:, at, at] += spread
        r = self.residual(table)
        spread_of = Spread.of(sigma)
        found = self._with_slips(r, spread_of)
        for mirrored in self._mirrors(r, table):
            found = found.either(self._with_slips(mirrored, spread_of))
        floats = np.flatnonzero(ghosts.any(axis=1))
        if len(floats):  # a case that floats reads as computed, or anything
            loose = sigma[floats]
            loose[:, at, at] += ghosts[floats]
            ghost = self._with_slips(r[floats], Spread.of(loose))
            found.log[floats] = np.logaddexp(found.log[floats], ghost.log) - math.log(2)
            found.chi2[floats] = np.minimum(found.chi2[floats], ghost.chi2)
            found.slip[floats] = np.minimum(found.slip[floats], ghost.slip)
        return found

    def _mirrors(self, r: np.ndarray, table: np.ndarray) -> Iterator[np.ndarray]:
        """The residuals with readings as found taken for their negatives: a meter shows no sign,
        and loads that are otherwise shared between the legs turn it."""
        signed = [n for n, p in enumerate(self.probes) if p.kind in TURNS][:MOST_TURNED]
        for turned in product((False, True), repeat=len(signed)):
            if any(turned):
                some = [n for n, is_turned in zip(signed, turned, strict=True) if is_turned]
                mirrored = r.copy()
                mirrored[:, some] = -self.read[some] - table[:, some]
                yield mirrored

    def _with_slips(self, r: np.ndarray, spread: "Spread") -> Weighed:
        """Every reading right, or one of them a slip.

        What is left where a reading is taken out needs no solve of its own: with P = Σ⁻¹ and
        z = Pr the one taken out is Gaussian about the others with variance 1/Pₙₙ, off by zₙ/Pₙₙ.
        """
        z = (spread.precision @ r[:, :, None])[:, :, 0]
        chi2 = (r * z).sum(axis=1)
        whole = -0.5 * (chi2 + spread.log_det)
        one = np.einsum("dnn->dn", spread.precision)
        rest = whole[:, None] + 0.5 * (z**2 / one - np.log(one))
        # uniform over four decades, in the same units as the Gaussians (no 2π in either)
        scale = np.maximum(np.abs(self.read), 0.05) * SLIP_SPREAD
        share = min(SLIP, SLIPS_IN_ALL / len(self.read))
        parts = rest + np.log(share * math.sqrt(2 * math.pi) / scale)
        alone = -0.5 * (r**2 / spread.variance + np.log(spread.variance))
        top = np.maximum(whole, parts.max(axis=1))
        total = np.exp(whole - top) + np.exp(parts - top[:, None]).sum(axis=1)
        log = top + np.log(total)
        return Weighed(log, np.exp(parts - log[:, None]), chi2, alone)


def _most(probes: Sequence[Probe]) -> np.ndarray:
    """The end of each reading's range."""
    return np.array([MOST_OHM if _ends(p) else np.inf for p in probes])


def _ends(probe: Probe) -> bool:
    """Whether its meter has an end of range: an ohmmeter's."""
    return not (probe.live or probe.heater_ohm or probe.amps)


def _grid_slope(defects: Sequence[Defect], table: np.ndarray) -> np.ndarray:
    """How far a reading moves within a cell of a class's sizes: the step to the next over √12."""
    keys = [d.key for d in defects]
    same = np.array([a == b for a, b in pairwise(keys)], dtype=bool)[:, None]
    step = np.where(same, np.diff(table, axis=0), 0.0) / math.sqrt(12)
    found = np.zeros_like(table)
    found[:-1] = step
    back = np.zeros_like(table)
    back[1:] = -step
    return np.where(np.abs(back) > np.abs(found), back, found)
