"""The catalogue: what could be otherwise than described, as changes of a few branches.

A class is what a person would mend: all sizes of one joint are one class.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cache
from itertools import combinations

import numpy as np

from .. import tables
from ..network.solver import Branch
from ..site import Circuit, Feeder, name_of
from ..site.rings import is_ring
from ..study import SiteStudy
from ..vocabulary import BranchId
from .nets import MADE_OHM, OPEN_OHM, Nets

LOOSE_OHM = tuple(float(v) for v in np.geomspace(0.05, 20, 12))
LOST_OHM = 1e4  # a neutral that is gone
PATH_OHM = tuple(float(v) for v in np.geomspace(0.005, 3, 8))
LINES = ("line1", "line2", "line3")
FEEDER_KINDS = {"egc": "feeder-egc", "neutral": "feeder-neutral"} | dict.fromkeys(
    LINES, "feeder-line"
)
LENGTH = (0.5, 0.6, 0.7, 0.8, 1.25, 1.4, 1.6, 2.0)
Branches = Mapping[str, Branch]
OWN_SHARE = 0.9  # of a kind's prior lies on the asked places' own loops


@cache
def priors() -> dict[str, tuple[float, str, bool]]:
    """kind → (share, words, whether its size is the ohms of a joint)."""
    return {
        r["kind"]: (float(r["percent"]) / 100, r["says"], r["loose"] == "yes")
        for r in tables.rows("defect_priors")
    }


@dataclass(frozen=True)
class BranchChange:
    """One branch that is otherwise: by name (series ohms, or a factor), or a new one between two
    nodes (by the name it would have, where it has one), ``like`` the branch whose wire it is (its
    length and heat are known no better)."""

    branch: str = ""
    series_ohm: float = 0.0
    factor: float = 1.0
    a: str = ""
    b: str = ""
    ohm: float = 0.0
    like: str = ""


@dataclass(frozen=True)
class Defect:
    """One size of one class: ``key`` of the class, ``kind``, the element, words, the changes;
    ``swapped`` a receptacle whose hot and neutral are each other's, ``both`` the two of a pair."""

    key: str
    kind: str
    element: str
    size: float
    changes: tuple[BranchChange, ...]
    swapped: bool = False
    both: tuple["Defect", ...] = ()

    def words(self, name: str) -> str:
        """“a loose joint in the EGC of Studio outlets, about 0.4 Ω”."""
        says, loose = priors()[self.kind][1:]
        if self.kind == "none":
            return says
        of = f"{name}: {says}"
        if self.kind == "ring-open":
            return f"{name}: the ring's {RING_WORDS[self.key.rpartition('-')[2]]} is open"
        if self.size >= LOST_OHM and loose:
            return f"{of}, open"
        if self.kind in ("length", "feeder-length"):
            return f"{name}: {says}, about {self.size:g} times"
        return f"{of}, about {self.size:.2g} Ω" if loose or "path" in self.kind else of


def defects_of(nets: Nets) -> list[Defect]:
    """Every size of every class of a place; *nothing wrong* first."""
    return [Defect("none", "none", "", 0.0, ()), *_each(nets, nets.study)]


def _each(nets: Nets, study: SiteStudy) -> Iterator[Defect]:
    site = study.assumed.site
    there = nets.loops.network.branches
    for run in site.feeders:
        for part in ("egc", "neutral", *LINES):
            yield from _loose(there, run.id, part, FEEDER_KINDS[part])
        yield from _open(there, run.id, "feeder-egc-open")
        yield from _length(there, run, "feeder-length")
    for service in site.services:
        yield from _loose(there, service.id, "neutral", "service-neutral")
        for part in LINES:
            yield from _loose(there, service.id, part, "service-line")
    for panel in site.panels:
        yield from _bond(nets, panel.id)
        if panel.id != site.panel.id:
            bars = f"{panel.id}.ground", f"{site.panel.id}.ground"
            yield from _path(nets, panel.id, "panel-path", bars)
    for circuit in site.circuits:
        if f"{circuit.id}.line1" in there:
            yield from _of_circuit(nets, circuit)
    for electrode in site.electrodes:
        branch = f"{electrode.id}.gec"
        if branch in there:
            yield Defect(f"{electrode.id}:electrode", "electrode", electrode.id, OPEN_OHM,
                         (BranchChange(branch, OPEN_OHM),))  # fmt: skip


def _of_circuit(nets: Nets, circuit: Circuit) -> Iterator[Defect]:
    there, here = nets.loops.network.branches, circuit.id
    for part in ("egc", "neutral", *LINES):
        yield from _loose(there, here, part, "line" if part in LINES else part)
    yield from _open(there, here, "egc-open")
    yield from _length(there, circuit, "length")
    if is_ring(circuit) and circuit.ring_open in (None, "none"):
        yield from _ring(there, here)
    ends = f"{here}.N", f"{here}.case"
    if circuit.neutral == "yes" and nets.loops.has(*ends):
        if circuit.outlet_bond != "yes":
            change = BranchChange(a=ends[0], b=ends[1], ohm=MADE_OHM)
            yield Defect(f"{here}:outlet-bond", "outlet-bond", here, MADE_OHM, (change,))
        if circuit.poles in (None, 1) and circuit.reversed != "yes":
            yield Defect(f"{here}:reversed", "reversed", here, 1.0, (), swapped=True)
        yield from _exchanged(there, here, circuit.panel)
    yield from _path(nets, here, "path", (ends[1], f"{nets.study.assumed.site.panel.id}.ground"))


#: What an open conductor of a ring reads at the middle over what the whole one does: half of its
#: length instead of a quarter; at the far end twice that.
RING_FACTORS = (2.0, 4.0)
RING_WORDS = {"line1": "line", "neutral": "neutral", "egc": "protective conductor"}


def _ring(there: Branches, circuit: str) -> Iterator[Defect]:
    """One conductor of a ring open: a radial of its whole length."""
    for part in RING_WORDS:
        branch = BranchId.of(circuit, part)
        for factor in RING_FACTORS if branch in there else ():
            change = (BranchChange(branch, factor=factor),)
            yield Defect(f"{circuit}:ring-{part}", "ring-open", circuit, factor, change)


def _path(nets: Nets, element: str, kind: str, ends: tuple[str, str]) -> Iterator[Defect]:
    for ohm in PATH_OHM if nets.loops.has(*ends) else ():
        yield Defect(f"{element}:path", kind, element, ohm,
                     (BranchChange(a=ends[0], b=ends[1], ohm=ohm),))  # fmt: skip


def _exchanged(there: Branches, circuit: str, panel: str) -> Iterator[Defect]:
    """The neutral wire on the ground bar and the EGC on the neutral bar."""
    neutral, egc = there.get(f"{circuit}.neutral"), there.get(f"{circuit}.egc")
    if neutral is None or egc is None:
        return
    bar, ground = f"{panel}.N", f"{panel}.ground"
    if {neutral.a, neutral.b} != {f"{circuit}.N", bar} or ground not in (egc.a, egc.b):
        return
    yield Defect(f"{circuit}:exchanged", "exchanged", circuit, 1.0, (
        BranchChange(neutral.id, OPEN_OHM), BranchChange(egc.id, OPEN_OHM),
        BranchChange(a=f"{circuit}.N", b=ground, ohm=abs(neutral.ohm), like=neutral.id),
        BranchChange(a=f"{circuit}.case", b=bar, ohm=abs(egc.ohm), like=egc.id),
    ))  # fmt: skip


def _loose(there: Branches, element: str, part: str, kind: str) -> Iterator[Defect]:
    branch = BranchId.of(element, part)
    if branch not in there:
        return
    sizes = (*LOOSE_OHM, LOST_OHM) if part == "neutral" else LOOSE_OHM
    for ohm in sizes:
        yield Defect(f"{element}:{part}", kind, element, ohm, (BranchChange(branch, ohm),))


def _open(there: Branches, element: str, kind: str) -> Iterator[Defect]:
    home = [BranchId.of(element, p) for p in ("egc", "raceway")]
    found = tuple(BranchChange(b, OPEN_OHM) for b in home if b in there)
    if found:
        yield Defect(f"{element}:open", kind, element, OPEN_OHM, found)


def _length(there: Branches, run: Circuit | Feeder, kind: str) -> Iterator[Defect]:
    parts = (*LINES, "neutral", "egc", "raceway")
    found = [b for p in parts if (b := BranchId.of(run.id, p)) in there]
    for factor in LENGTH if found else ():
        changes = tuple(BranchChange(b, factor=factor) for b in found)
        yield Defect(f"{run.id}:length", kind, run.id, factor, changes)


def _bond(nets: Nets, panel: str) -> Iterator[Defect]:
    branch, ends = BranchId.of(panel, "bond"), (f"{panel}.N", f"{panel}.ground")
    if branch in nets.loops.network.branches:
        for ohm in LOOSE_OHM:
            yield Defect(f"{panel}:bond", "bond-loose", panel, ohm, (BranchChange(branch, ohm),))
        yield Defect(
            f"{panel}:bond-out", "bond-out", panel, OPEN_OHM, (BranchChange(branch, OPEN_OHM),)
        )
    elif nets.loops.has(*ends):
        change = BranchChange(branch, a=ends[0], b=ends[1], ohm=MADE_OHM)
        yield Defect(f"{panel}:bond-in", "bond-in", panel, MADE_OHM, (change,))


def pairs_of(
    defects: list[Defect], chosen: list[int], log_prior: np.ndarray
) -> tuple[list[Defect], np.ndarray]:
    """Every two of the chosen that are of two classes, at once; the log of how usual."""
    found, prior = [], []
    for one, other in combinations(chosen, 2):
        a, b = defects[one], defects[other]
        if a.key == b.key or a.swapped or b.swapped:
            continue
        key = " + ".join(sorted((a.key, b.key)))
        found.append(Defect(key, f"{a.kind} + {b.kind}", a.element, a.size,
                            (*a.changes, *b.changes), both=(a, b)))  # fmt: skip
        prior.append(log_prior[one] + log_prior[other])
    return found, np.array(prior)


def name_of_defect(study: SiteStudy, defect: Defect) -> str:
    """The defect in words with its place."""
    if defect.both:
        return " and ".join(name_of_defect(study, d) for d in defect.both)
    element = study.assumed.site.elements().get(defect.element)
    return defect.words(name_of(element) if element is not None else "")
