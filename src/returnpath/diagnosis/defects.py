"""The catalogue: what could be otherwise than described, as changes of a few branches.

A class is what a person would mend: all sizes of one joint are one class.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import cache

import numpy as np

from .. import tables
from ..network.solver import Branch
from ..site import Circuit, Feeder, name_of
from ..study import SiteStudy
from ..vocabulary import BranchId
from .nets import MADE_OHM, OPEN_OHM, Nets

LOOSE_OHM = tuple(float(v) for v in np.geomspace(0.05, 20, 12))
PATH_OHM = tuple(float(v) for v in np.geomspace(0.005, 3, 8))
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
    nodes."""

    branch: str = ""
    series_ohm: float = 0.0
    factor: float = 1.0
    a: str = ""
    b: str = ""
    ohm: float = 0.0


@dataclass(frozen=True)
class Defect:
    """One size of one class: ``key`` of the class, ``kind``, the element, words, the changes."""

    key: str
    kind: str
    element: str
    size: float
    changes: tuple[BranchChange, ...]

    def words(self, name: str) -> str:
        """“a loose joint in the EGC of Studio outlets, about 0.4 Ω”."""
        says, loose = priors()[self.kind][1:]
        if self.kind == "none":
            return says
        of = f"{name}: {says}"
        return f"{of}, about {self.size:.2g} Ω" if loose or self.kind == "path" else of


def defects_of(nets: Nets) -> list[Defect]:
    """Every size of every class of a place; *nothing wrong* first."""
    return [Defect("none", "none", "", 0.0, ()), *_each(nets, nets.study)]


def _each(nets: Nets, study: SiteStudy) -> Iterator[Defect]:
    site = study.assumed.site
    there = nets.loops.network.branches
    for run in site.feeders:
        for n, part in enumerate(("egc", "neutral", "line1", "line2")):
            kind = ("feeder-egc", "feeder-neutral", "feeder-line", "feeder-line")[n]
            yield from _loose(there, run.id, part, kind)
        yield from _open(there, run.id, "feeder-egc-open")
        yield from _length(there, run, "feeder-length")
    for service in site.services:
        yield from _loose(there, service.id, "neutral", "service-neutral")
        for part in ("line1", "line2"):
            yield from _loose(there, service.id, part, "service-line")
    for panel in site.panels:
        yield from _bond(nets, panel.id)
    for circuit in site.circuits:
        if f"{circuit.id}.line1" not in there:
            continue
        for part, kind in (("egc", "egc"), ("neutral", "neutral"), ("line1", "line"),
                           ("line2", "line")):  # fmt: skip
            yield from _loose(there, circuit.id, part, kind)
        yield from _open(there, circuit.id, "egc-open")
        yield from _length(there, circuit, "length")
        ends = f"{circuit.id}.N", f"{circuit.id}.case"
        if circuit.neutral == "yes" and nets.loops.has(*ends) and circuit.outlet_bond != "yes":
            change = BranchChange(a=ends[0], b=ends[1], ohm=MADE_OHM)
            key = f"{circuit.id}:outlet-bond"
            yield Defect(key, "outlet-bond", circuit.id, MADE_OHM, (change,))
        bar = f"{site.panel.id}.ground"
        for ohm in PATH_OHM if nets.loops.has(ends[1], bar) else ():
            yield Defect(f"{circuit.id}:path", "path", circuit.id, ohm,
                         (BranchChange(a=ends[1], b=bar, ohm=ohm),))  # fmt: skip
    for electrode in site.electrodes:
        branch = f"{electrode.id}.gec"
        if branch in there:
            yield Defect(f"{electrode.id}:electrode", "electrode", electrode.id, OPEN_OHM,
                         (BranchChange(branch, OPEN_OHM),))  # fmt: skip


def _loose(there: Branches, element: str, part: str, kind: str) -> Iterator[Defect]:
    branch = BranchId.of(element, part)
    if branch not in there:
        return
    for ohm in LOOSE_OHM:
        yield Defect(f"{element}:{part}", kind, element, ohm, (BranchChange(branch, ohm),))


def _open(there: Branches, element: str, kind: str) -> Iterator[Defect]:
    home = [BranchId.of(element, p) for p in ("egc", "raceway")]
    found = tuple(BranchChange(b, OPEN_OHM) for b in home if b in there)
    if found:
        yield Defect(f"{element}:open", kind, element, OPEN_OHM, found)


def _length(there: Branches, run: Circuit | Feeder, kind: str) -> Iterator[Defect]:
    parts = ("line1", "line2", "neutral", "egc", "raceway")
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
        change = BranchChange(a=ends[0], b=ends[1], ohm=MADE_OHM)
        yield Defect(f"{panel}:bond-in", "bond-in", panel, MADE_OHM, (change,))


def name_of_defect(study: SiteStudy, defect: Defect) -> str:
    """The defect in words with its place."""
    element = study.assumed.site.elements().get(defect.element)
    return defect.words(name_of(element) if element is not None else "")
