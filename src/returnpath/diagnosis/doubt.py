"""What is not known anyway: shared by the readings, so correlated. method 14."""

from collections.abc import Sequence
from functools import cached_property

import numpy as np

from ..vocabulary import BranchId
from .nets import Net, Nets
from .probes import MOST_OHM, Probe, net_of
from .shift import Shift

#: As shares, one standard deviation.
LENGTH_SD, WARM_SD, SOURCE_SD, SERVICE_SD = 0.058, 0.047, 0.22, 0.08
SOIL_SD, LOAD_SD, LOADS_SD, VOLTS_SD = 0.6, 0.3, 0.3, 0.02


class Unknowns:
    """The unknowns of a place: a column each, and how far each branch's ohms hang on each."""

    def __init__(self, nets: Nets):
        self.nets = nets
        self.names: dict[str, int] = {}
        self._of: dict[int, np.ndarray] = {}

    @cached_property
    def count(self) -> int:
        """Columns."""
        for net in self.nets.each():
            for group, _ in _groups(net):
                self.names.setdefault(group, len(self.names))
        for also in ("source", "volts"):
            self.names.setdefault(also, len(self.names))
        return len(self.names)

    def weights(self, net: Net) -> np.ndarray:
        """(branches, unknowns): a standard deviation of each unknown as a share of each branch."""
        if id(net) not in self._of:
            made = np.zeros((len(net.network.branches), self.count))
            for n, branch in enumerate(net.network.branches):
                for group, sd in _unknowns(BranchId(branch)):
                    made[n, self.names[group]] = sd
            self._of[id(net)] = made
        return self._of[id(net)]

    def rows(self, probe: Probe, shift: Shift, ones: Sequence[int]) -> np.ndarray:
        """J: (defects ``ones``, unknowns): what a standard deviation of each unknown does to a
        reading under each of these defects."""
        net = net_of(self.nets, probe)
        if probe.ends_ohm:
            return self._end_to_end(probe, shift, ones)
        z, v = net.z, net.v
        a, b, _ = shift.ends
        sense0 = z[:, probe.a] - z[:, probe.b]
        send = v if probe.drive is None else z[:, probe.drive[0]] - z[:, probe.drive[1]]
        sense = shift.moved(sense0, ones)
        drive = sense if probe.drive == (probe.a, probe.b) else shift.moved(send, ones)
        own = shift.siemens_each(ones)
        value = drive[:, probe.a] - drive[:, probe.b]
        scale = _scale(probe, net, drive, shift, ones, value)
        # dm/d(ln z) of each branch: its current for the reading times its volts for the drive
        slope = (sense[:, a] - sense[:, b]) * own * (drive[:, a] - drive[:, b])
        weights = self.weights(net)
        found: np.ndarray = np.real(slope * scale[:, None]) @ weights
        for n, one in enumerate(ones):  # wires that a defect laid elsewhere
            for change in shift.defects[one].changes:
                if change.like:
                    p, q = net.index[change.a], net.index[change.b]
                    by = (sense[n, p] - sense[n, q]) * (drive[n, p] - drive[n, q]) / change.ohm
                    found[n] += np.real(by * scale[n]) * weights[shift.order[change.like]]
        if probe.live:
            found[:, self.names["volts"]] = VOLTS_SD * np.abs(value * scale)
        elif probe.net == "loops":
            part = SOURCE_SD * _source_part(net, sense, drive) * scale
            found[:, self.names["source"]] = np.real(part)
        return found

    def _end_to_end(self, probe: Probe, shift: Shift, ones: Sequence[int]) -> np.ndarray:
        """A ring's conductor alone: its length and its temperature."""
        value = shift.columns([probe])[:, 0][ones]
        found = np.zeros((len(ones), self.count))
        for group, sd in _unknowns(BranchId(probe.branch)):
            found[:, self.names[group]] = sd * np.where(value < MOST_OHM, value, 0.0)
        return found


def _scale(probe: Probe, net: Net, drive: np.ndarray, shift: Shift, ones: Sequence[int],
           value: np.ndarray) -> np.ndarray:  # fmt: skip
    """From the volts of the sensed points to what is shown: its turn, a clamp's siemens, the
    heater's amperes."""
    turn = np.ones(len(value), dtype=complex)
    if probe.live or probe.heater_ohm:
        size = np.maximum(np.abs(value), 1e-12)
        turn = np.conj(value) / size
    if probe.branch:
        turn = turn * np.abs(shift.siemens(probe.branch)[ones])
    if probe.heater_ohm and probe.drive:
        p, q = probe.drive
        amps = abs(net.v[p] - net.v[q]) / np.abs(drive[:, p] - drive[:, q] + probe.heater_ohm)
        turn = turn * amps
    if probe.amps:
        turn = -turn * abs(net.v[probe.a] - net.v[probe.b]) / np.maximum(np.abs(value) ** 2, 1e-9)
    return turn


def _groups(net: Net) -> list[tuple[str, float]]:
    return [pair for branch in net.network.branches for pair in _unknowns(BranchId(branch))]


def _unknowns(branch: BranchId) -> list[tuple[str, float]]:
    """(the unknown that a branch's ohms hang on, its standard deviation)."""
    element, part = branch.element, branch.part
    if part.startswith("load"):
        return [(f"load {element}", LOAD_SD), ("loads", LOADS_SD)]
    if part in ("soil", "earth"):
        return [("soil", SOIL_SD)]
    if part.startswith(("line", "neutral", "egc", "raceway")):
        sd = SERVICE_SD if element.startswith("s") else LENGTH_SD
        return [(f"length {element}", sd), ("warm", WARM_SD)]
    return []


def _source_part(net: Net, sense: np.ndarray, drive: np.ndarray) -> np.ndarray:
    """The source's share of a loop: what lies between its own terminals."""
    found = np.zeros(len(sense), dtype=complex)
    at = net.index
    for coupling in net.network.couplings.values():
        if not any(coupling.volts):
            continue
        one = np.array([at[p] for p, _ in coupling.ports])
        other = np.array([at[q] for _, q in coupling.ports])
        s, d = sense[:, one] - sense[:, other], drive[:, one] - drive[:, other]
        found += np.einsum("ki,ij,kj->k", s, coupling.admittance, d)
    return found
