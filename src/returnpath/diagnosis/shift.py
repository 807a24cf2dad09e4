"""A catalogue of small changes laid on one solved network, all at once. method 14.

reading' = s'Zd - (s'ZD)·W·(D'Zd),  W = (1 + ΔS)^-1 Δ,  S = D'ZD
"""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from .defects import BranchChange, Defect
from .nets import Net
from .probes import MOST_OHM, Probe


@dataclass(frozen=True, eq=False)
class _Batch:
    """The defects with the same number of changed branches: indices, the branches' ends, W."""

    at: np.ndarray
    a: np.ndarray
    b: np.ndarray
    w: np.ndarray


class Shift:
    """Every defect's changes of one network, ready to be read."""

    def __init__(self, net: Net, defects: Sequence[Defect]):
        self.net, self.defects = net, defects
        by_count: dict[int, list[tuple[int, list[tuple[int, int, complex]]]]] = defaultdict(list)
        self.changed: dict[str, list[tuple[int, complex]]] = defaultdict(list)
        for n, d in enumerate(defects):
            made = self._siemens(n, d.changes)
            if made:
                by_count[len(made)].append((n, made))
        self.batches = [self._batch(rows) for rows in by_count.values()]

    def _siemens(self, n: int, changes: tuple[BranchChange, ...]) -> list[tuple[int, int, complex]]:
        """(one end, the other, the change of siemens) of each branch that is there."""
        index, found = self.net.index, []
        for change in changes:
            branch = self.net.network.branches.get(change.branch)
            if branch is not None:
                new = branch.ohm * change.factor + change.series_ohm
                self.changed[change.branch].append((n, 1 / new))
                found.append((index[branch.a], index[branch.b], 1 / new - 1 / branch.ohm))
            elif change.a in index and change.b in index:
                found.append((index[change.a], index[change.b], 1 / complex(change.ohm)))
                if change.branch:
                    self.changed[change.branch].append((n, 1 / complex(change.ohm)))
        return found

    def _batch(self, rows: list[tuple[int, list[tuple[int, int, complex]]]]) -> _Batch:
        at = np.array([n for n, _ in rows])
        a = np.array([[m[0] for m in made] for _, made in rows])
        b = np.array([[m[1] for m in made] for _, made in rows])
        dy = np.array([[m[2] for m in made] for _, made in rows])
        z = self.net.z
        s = (z[a[:, :, None], a[:, None, :]] - z[a[:, :, None], b[:, None, :]]
             - z[b[:, :, None], a[:, None, :]] + z[b[:, :, None], b[:, None, :]])  # fmt: skip
        if a.shape[1] == 1:
            w = (dy / (1 + dy * s[:, :, 0]))[:, :, None]
        else:
            eye = np.eye(a.shape[1])
            diagonal = dy[:, :, None] * eye
            w = np.linalg.solve(eye + dy[:, :, None] * s, diagonal)
        return _Batch(at, a, b, w)

    def transfer(self, sense: np.ndarray, drive: np.ndarray, base: np.ndarray) -> np.ndarray:
        """(defects, probes): ``base`` less what each change takes. ``sense`` and ``drive`` are the
        volts of every node, (nodes, probes)."""
        found = np.repeat(base[None, :].astype(complex), len(self.defects), axis=0)
        for g in self.batches:
            s = sense[g.a] - sense[g.b]  # (n, m, probes)
            d = drive[g.a] - drive[g.b]
            if g.a.shape[1] == 1:
                found[g.at] -= s[:, 0] * g.w[:, 0] * d[:, 0]
            else:
                found[g.at] -= np.einsum("nip,nij,njp->np", s, g.w, d)
        return found

    @cached_property
    def _place(self) -> dict[int, tuple[_Batch, int]]:
        return {int(n): (g, row) for g in self.batches for row, n in enumerate(g.at)}

    @cached_property
    def ends(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Every branch's two nodes and siemens; remote earth is the last node."""
        a, b, y = self.net.network.ends
        last = len(self.net.network.nodes)
        return np.minimum(a, last), np.minimum(b, last), y

    @cached_property
    def order(self) -> dict[str, int]:
        """Each branch's place among them."""
        return {name: n for n, name in enumerate(self.net.network.branches)}

    def moved(self, volts: np.ndarray, ones: Sequence[int]) -> np.ndarray:
        """(defects ``ones``, nodes): the volts (nodes,) as each defect moves them."""
        found = np.repeat(volts[None, :].astype(complex), len(ones), axis=0)
        z = self.net.z
        by_batch: dict[int, list[tuple[int, int]]] = defaultdict(list)
        for n, one in enumerate(ones):
            if int(one) in self._place:
                batch, row = self._place[int(one)]
                by_batch[self.batches.index(batch)].append((n, row))
        for which, rows in by_batch.items():
            g = self.batches[which]
            which_ones, row_of = (np.array([r[i] for r in rows]) for i in (0, 1))
            a, b = g.a[row_of], g.b[row_of]
            push = np.einsum("kij,kj->ki", g.w[row_of], volts[a] - volts[b])
            found[which_ones] -= np.einsum("nki,ki->kn", z[:, a] - z[:, b], push)
        return found

    def siemens_each(self, ones: Sequence[int]) -> np.ndarray:
        """(defects ``ones``, branches): siemens as each defect has them."""
        y = self.ends[2]
        found = np.repeat(y[None, :], len(ones), axis=0)
        for row, one in enumerate(ones):
            for change in self.defects[one].changes:
                at = self.order.get(change.branch)
                if at is not None:
                    found[row, at] = 1 / (change.factor / found[row, at] + change.series_ohm)
        return found

    def siemens(self, branch: str) -> np.ndarray:
        """Of a branch under every defect; of one that is not there none."""
        there = self.net.network.branches.get(branch)
        found = np.full(len(self.defects), 1 / there.ohm if there else 0.0, dtype=complex)
        for n, siemens in self.changed.get(branch, ()):
            found[n] = siemens
        return found

    def columns(self, probes: Sequence[Probe]) -> np.ndarray:
        """(defects, probes): what a meter shows under each defect; the probes are of this network
        and of one kind."""
        if not probes:
            return np.zeros((len(self.defects), 0))
        if probes[0].ends_ohm:
            return np.column_stack([self._end_to_end(p) for p in probes])
        z, v = self.net.z, self.net.v
        one = np.array([p.a for p in probes])
        other = np.array([p.b for p in probes])
        sense = z[:, one] - z[:, other]
        if probes[0].drive is None:
            value = self.transfer(sense, np.repeat(v[:, None], len(probes), 1), v[one] - v[other])
        else:
            value = self._driven(probes, sense, one, other)
        for n, p in enumerate(probes):
            if p.branch:
                value[:, n] *= self.siemens(p.branch)
            self._swapped(p, value[:, n])
        if probes[0].drive is None or probes[0].heater_ohm:
            size: np.ndarray = np.abs(value)
            return size
        if probes[0].amps:
            volts = np.array([abs(v[p.a] - v[p.b]) for p in probes])
            size = volts[None, :] / np.maximum(np.abs(value), 1e-6)
            return size
        shown: np.ndarray = np.clip(value.real, 0.0, MOST_OHM)
        return shown

    def _end_to_end(self, probe: Probe) -> np.ndarray:
        """A ring's conductor from end to end: its own ohms as each defect has them."""
        found = np.full(len(self.defects), probe.ends_ohm)
        for n, d in enumerate(self.defects):
            for change in d.changes:
                if change.branch == probe.branch:
                    found[n] = found[n] * change.factor + change.series_ohm
                    if d.kind == "ring-open":
                        found[n] = MOST_OHM
        most: np.ndarray = np.minimum(found, MOST_OHM)
        return most

    def _driven(self, probes: Sequence[Probe], sense: np.ndarray, one: np.ndarray,
                other: np.ndarray) -> np.ndarray:  # fmt: skip
        z, v = self.net.z, self.net.v
        if not probes[0].heater_ohm:
            at = np.arange(len(probes))
            return self.transfer(sense, sense, sense[one, at] - sense[other, at])
        a, b = (np.array([(p.drive or (0, 0))[i] for p in probes]) for i in (0, 1))
        drive = z[:, a] - z[:, b]
        at = np.arange(len(probes))
        across = self.transfer(sense, drive, drive[one, at] - drive[other, at])
        own = self.transfer(drive, drive, drive[a, at] - drive[b, at])
        ohm = np.array([p.heater_ohm for p in probes])
        amps = np.abs(v[a] - v[b])[None, :] / np.abs(own + ohm[None, :])
        found: np.ndarray = across * amps
        return found

    def _swapped(self, probe: Probe, column: np.ndarray) -> None:
        """A receptacle wired hot for neutral: its points are each other's. A loop meter refuses."""
        z, v = self.net.z, self.net.v
        for n, d in enumerate(self.defects):
            if not d.swapped or not {f"{d.element}.L1", f"{d.element}.N"} <= set(self.net.index):
                continue
            hot, neutral = self.net.index[f"{d.element}.L1"], self.net.index[f"{d.element}.N"]
            turn = {hot: neutral, neutral: hot}
            a, b = turn.get(probe.a, probe.a), turn.get(probe.b, probe.b)
            if (a, b) == (probe.a, probe.b):
                continue
            if probe.live:
                column[n] = v[a] - v[b]
            elif not probe.heater_ohm and probe.net == "loops" and probe.kind != "loop-ln":
                column[n] = MOST_OHM
            elif not probe.heater_ohm:
                column[n] = z[a, a] - z[a, b] - z[b, a] + z[b, b]
            elif probe.kind == "step-ng":  # the hot wire's drop stands where the neutral's was
                e = z[:, hot] - z[:, neutral]
                amps = abs(v[hot] - v[neutral]) / abs(e[hot] - e[neutral] + probe.heater_ohm)
                column[n] = (e[a] - e[b]) * amps
