"""What is not known anyway: shared by the readings, so correlated. method 14."""

from collections import defaultdict

import numpy as np

from ..vocabulary import BranchId
from .nets import Net, Nets
from .probes import Probe

#: As shares, one standard deviation.
LENGTH_SD, WARM_SD, SOURCE_SD, SERVICE_SD = 0.058, 0.047, 0.22, 0.08
SOIL_SD, LOAD_SD, LOADS_SD = 0.6, 0.3, 0.3


def shared_doubt(nets: Nets, probes: list[Probe]) -> np.ndarray:
    """J: (probes, unknowns): what a standard deviation of each unknown does to each reading."""
    columns: dict[str, np.ndarray] = defaultdict(lambda: np.zeros(len(probes)))
    for n, probe in enumerate(probes):
        net = {"loops": nets.loops, "loaded": nets.loaded, "dead": nets.dead}[probe.net]
        e = net.z[:, probe.a] - net.z[:, probe.b]
        loaded = probe.net == "loaded"
        value = (net.v[probe.a] - net.v[probe.b]) if loaded else e[probe.a] - e[probe.b]
        own = 1 / net.network.branches[probe.branch].ohm if probe.branch else 1.0
        turn = np.conj(value) / abs(value) if loaded and abs(value) > 1e-12 else 1.0
        a, b, y = net.network.ends
        last = len(net.network.nodes)
        a, b = np.minimum(a, last), np.minimum(b, last)
        drive = (net.v[a] - net.v[b]) if loaded else e[a] - e[b]
        # dm/d(ln z) of each branch: its current for the reading times its volts for the drive
        slope = np.real((e[a] - e[b]) * y * drive * turn * (own if loaded else 1.0))
        for (name, part), at in _branches(net).items():
            d = slope[at]
            group, sd, warm = _unknown(name, part)
            if group:
                columns[group][n] += sd * d
            if warm:
                columns["warm"][n] += WARM_SD * d
            if part.startswith("load"):
                columns["loads"][n] += LOADS_SD * d
        if not loaded and probe.net == "loops":
            columns["source"][n] += SOURCE_SD * _source_part(nets, e)
    return np.column_stack(list(columns.values())) if columns else np.zeros((len(probes), 1))


def _branches(net: Net) -> dict[tuple[str, str], int]:
    return {(BranchId(b).element, BranchId(b).part): n for n, b in enumerate(net.network.branches)}


def _unknown(element: str, part: str) -> tuple[str, float, bool]:
    """(the unknown a branch's ohms hang on, its standard deviation, whether heat moves it too)."""
    if part.startswith("load"):
        return f"load {element}", LOAD_SD, False
    if part in ("soil", "earth"):
        return "soil", SOIL_SD, False
    if part.startswith(("line", "neutral", "egc", "raceway")):
        sd = SERVICE_SD if element.startswith("s") else LENGTH_SD
        return f"length {element}", sd, True
    return "", 0.0, False


def _source_part(nets: Nets, e: np.ndarray) -> float:
    """The source's share of a loop: what lies between its own terminals."""
    found = 0.0
    for coupling in nets.loops.network.couplings.values():
        if not any(coupling.volts):
            continue
        y = coupling.admittance
        at = nets.loops.index
        across = np.array([e[at[p]] - e[at[q]] for p, q in coupling.ports])
        found += float(np.real(across @ y @ across))
    return found
