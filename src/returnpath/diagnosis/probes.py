"""How a reading is taken of the solved networks: two points, what drives it. method 14."""

import math
from dataclasses import dataclass

from ..conductor import METRIC_PER_K, METRIC_REFERENCE_C
from ..site import Circuit, Electrode, Element, Feeder, Panel
from ..site.rings import is_ring, ring_ends
from ..vocabulary import BranchId, NodeId
from .nets import COOL_C, Net, Nets

#: What a reading of a ring's ends is of.
RING_PARTS = {"ring-line": "line1", "ring-neutral": "neutral", "ring-egc": "egc"}
MOST_OHM = 2000.0  # a meter's range: past it a loop is open
STEP_VA = 1500.0  # the known heater that a step switches on


@dataclass(frozen=True)
class Probe:
    """A reading of one net: between ``a`` and ``b``. ``drive`` the two points a current is sent
    through (the same for a loop, the heater's for a step), none for what is found as it runs.
    ``branch`` what a clamp is round, ``heater_ohm`` the load that is switched, ``amps`` whether
    volts over the ohms are shown. ``ends_ohm`` of the conductor ``branch`` of a ring, end to end
    at its board: both ends are off, so no network is read."""

    kind: str
    place: str
    net: str
    a: int
    b: int
    drive: tuple[int, int] | None = None
    branch: str = ""
    heater_ohm: float = 0.0
    amps: bool = False
    ends_ohm: float = 0.0

    @property
    def live(self) -> bool:
        """Whether it is read as found, with whatever loads run."""
        return self.drive is None


def probe_of(nets: Nets, kind: str, place: str) -> Probe | None:
    """The probe of a reading; None where it cannot be taken of the networks."""
    element = nets.elements.get(place)
    if element is None:
        return None
    if kind.startswith("step-"):
        return _step(nets, kind, place, element)
    if kind == "r2":
        return _home(nets, place, element)
    if kind in ("clamp", "clamp-bond", "clamp-line"):
        return _clamp(nets, kind, place, element)
    if kind in RING_PARTS:
        return _end_to_end(nets, kind, place, element)
    found = {
        "loop": ("loops", "L1", "case"), "loop2": ("loops", "L2", "case"),
        "ze": ("loops", "L1", "case"),
        "loop-ln": ("loops", "L1", "N"), "pfc": ("loops", "L1", "N"),
        "r1r2": ("dead", "L1", "case"), "ng": ("loaded", "N", "case"),
        "ln": ("loaded", "L1", "N"), "lg": ("loaded", "L1", "case"),
    }.get(kind)  # fmt: skip
    if found is None:
        return None
    name, one, other = found
    return _probe(nets, name, kind, place, (f"{place}.{one}", f"{place}.{other}"))


def net_of(nets: Nets, probe: Probe) -> Net:
    """The network that a probe reads."""
    return {"loops": nets.loops, "loaded": nets.loaded, "dead": nets.dead}[probe.net]


def _probe(nets: Nets, name: str, kind: str, place: str, ends: tuple[str, str]) -> Probe | None:
    net = {"loops": nets.loops, "loaded": nets.loaded, "dead": nets.dead}[name]
    if not net.has(*ends):
        return None
    a, b = net.index[ends[0]], net.index[ends[1]]
    drive = None if name == "loaded" else (a, b)
    return Probe(kind, place, name, a, b, drive, amps=kind == "pfc")


def _home(nets: Nets, place: str, element: Element) -> Probe | None:
    """The EGC from its far end to the bar it begins at."""
    if isinstance(element, Circuit):
        far, near = f"{place}.case", f"{element.panel}.ground"
    elif isinstance(element, Feeder):
        far, near = f"{element.to}.ground", f"{element.source}.ground"
    else:
        return None
    return _probe(nets, "dead", "r2", place, (far, near))


def _end_to_end(nets: Nets, kind: str, place: str, element: Element) -> Probe | None:
    """r1, rn or r2 of a ring, at the temperature of the other dead readings."""
    ends = ring_ends(element) if isinstance(element, Circuit) and is_ring(element) else None
    part, branch = RING_PARTS[kind], BranchId.of(place, RING_PARTS[kind])
    if ends is None or not isinstance(element, Circuit) or branch not in nets.dead.network.branches:
        return None
    ohm = {"line1": ends.r1, "neutral": ends.rn, "egc": ends.r2}[part]
    if math.isinf(ohm):
        return None
    a, b = nets.dead.ends(branch)
    warm = 1 + METRIC_PER_K * (COOL_C - METRIC_REFERENCE_C)
    return Probe(kind, place, "dead", a, b, (a, b), branch, ends_ohm=ohm * warm)


def _part(element: Element) -> str:
    if isinstance(element, Circuit | Feeder):
        return "egc"
    return "gec" if isinstance(element, Electrode) else "bond"


def _clamp(nets: Nets, kind: str, place: str, element: Element) -> Probe | None:
    """Round what is on metal: an EGC, an electrode's conductor, a pipe's bond; round a panel's own
    neutral bond; round a hot."""
    branch = BranchId.of(place, "line1" if kind == "clamp-line" else _part(element))
    net, at_panel = nets.loaded, isinstance(element, Panel)
    if at_panel is not (kind == "clamp-bond"):
        return None
    bars = f"{place}.N", f"{place}.ground"
    if branch in net.network.branches:
        return Probe(kind, place, "loaded", *net.ends(branch), branch=branch)
    if at_panel and net.has(*bars):  # a bond that is described as out, and may be in
        return Probe(kind, place, "loaded", net.index[bars[0]], net.index[bars[1]], branch=branch)
    return None


def _step(nets: Nets, kind: str, place: str, element: Element) -> Probe | None:
    """A heater of known watts switched on between the hot and the neutral of a place: what changes.
    A clamp on a feeder, a pipe or a GEC is read while the heater runs on the first panel there."""
    net = nets.loops
    at = place if isinstance(element, Circuit | Panel) else _near(nets, element)
    drive = f"{at}.L1", f"{at}.N"
    if not net.has(*drive):
        return None
    ohm = nets.study.states[0].volts ** 2 / STEP_VA
    load = net.index[drive[0]], net.index[drive[1]]
    if kind == "step-clamp":
        branch = BranchId.of(place, _part(element))
        if isinstance(element, Panel) or branch not in net.network.branches:
            return None
        return Probe(kind, place, "loops", *net.ends(branch), load, branch, ohm)
    if not isinstance(element, Circuit | Panel):
        return None
    ends = {
        "step-ng": (f"{place}.N", f"{place}.case"), "step-drop": drive,
        "step-leg": _other_leg(nets, place, element),
    }[kind]  # fmt: skip
    if not net.has(*ends):
        return None
    return Probe(kind, place, "loops", net.index[ends[0]], net.index[ends[1]], load,
                 heater_ohm=ohm)  # fmt: skip


def _near(nets: Nets, element: Element) -> str:
    if isinstance(element, Feeder):
        return element.to
    found = getattr(element, "panel", None)
    return found if isinstance(found, str) else nets.study.assumed.site.panel.id


def _other_leg(nets: Nets, place: str, element: Element) -> tuple[str, str]:
    """The leg that the heater is not on, to the neutral, at the panel."""
    panel = element.panel if isinstance(element, Circuit) else place
    branch = nets.loops.network.branches.get(BranchId.of(place, "line1"))
    own = NodeId(branch.a).part if branch is not None and isinstance(element, Circuit) else "L1"
    other = "L1" if own != "L1" else "L2"
    return f"{panel}.{other}", f"{panel}.N"
