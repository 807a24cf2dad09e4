"""What hangs on each joint of an array's bonding, what floats, and how high: a d.c. network of
frames, rails and lugs on top of the way from the roof to the service bar. method 9."""

from collections import defaultdict
from dataclasses import dataclass
from functools import cached_property

from ..network.solver import EARTH, Network
from ..network.wiring import Joints
from ..site import Array
from ..site.roof import ROOT, RoofJoint, frames_of, is_wired, joint_kinds, roof_joints
from ..vocabulary import BranchId
from .array import ArrayStudy
from .solved import OPEN_OHM

SHOWS_OHM = 0.1  # what a continuity reading from a frame to the bar must change by to be seen


@dataclass(frozen=True)
class JointStudy:
    """One joint: whether it is open or loose now, the frames that float if it opens, whether a
    reading from a frame to the bar would show it open, whether modules hide it."""

    joint: RoofJoint
    is_open: bool
    ohm: float
    hangs: tuple[str, ...]
    is_findable: bool
    is_hidden: bool


@dataclass(frozen=True)
class FrameStudy:
    """One frame: Ω to the bar (None: it floats), and the volts a fault in its module puts on it."""

    frame: str
    ohm: float | None
    volts: float


class RoofStudy:
    """An array's bonding as it is: every joint and every frame."""

    def __init__(self, array: Array, study: ArrayStudy, on: Joints):
        self.array, self.study = array, study
        self.on = on
        self.joints_there = roof_joints(array)
        self.root_ohm = study.egc_ohm

    def _is_open(self, joint: RoofJoint) -> bool:
        is_rail = joint.kind in ("splice", "jumper") and not is_wired(self.array)
        if is_rail and self.array.rails_listed == "no":
            return True  # a rail that is not listed for it is no bonding path; a wire is one
        return self.on.is_open(BranchId.of(self.array.id, joint.part))

    def _ohm(self, joint: RoofJoint) -> float:
        return joint_kinds()[joint.kind][0] + self.on.ohm(BranchId.of(self.array.id, joint.part))

    @cached_property
    def _closed(self) -> tuple[RoofJoint, ...]:
        return tuple(j for j in self.joints_there if not self._is_open(j))

    def _reached(self, without: str = "", also: str = "") -> set[str]:
        """The ends that reach the EGC, one joint taken out, or one that is open made good."""
        ways: dict[str, list[str]] = defaultdict(list)
        for joint in self.joints_there:
            if (self._is_open(joint) and joint.part != also) or joint.part == without:
                continue
            ways[joint.a].append(joint.b)
            ways[joint.b].append(joint.a)
        seen, todo = {ROOT}, [ROOT]
        while todo:
            for end in ways[todo.pop()]:
                if end not in seen:
                    seen.add(end)
                    todo.append(end)
        return seen

    @cached_property
    def joints(self) -> tuple[JointStudy, ...]:
        """Every joint, in the order of the roof."""
        whole = self._reached()
        found = []
        for joint in self.joints_there:
            is_open = self._is_open(joint)
            lost: set[str]
            if joint.kind == "frame":  # a leaf: only its own frame can hang on it
                lost = {joint.a} if joint.b in whole else set()
            elif is_open:
                lost = self._reached(also=joint.part) - whole
            else:
                lost = whole - self._reached(joint.part)
            hangs = tuple(f for f in frames_of(self.array) if f"f{f}" in lost)
            others = {e for e in lost if e in ("box", "disconnect", "inverter")}
            found.append(
                JointStudy(
                    joint,
                    is_open,
                    self._ohm(joint),
                    hangs or tuple(sorted(others)),
                    is_findable=bool(lost),
                    is_hidden=joint_kinds()[joint.kind][2],
                )
            )
        return tuple(found)

    @cached_property
    def frames(self) -> tuple[FrameStudy, ...]:
        """Every frame with a fault of its own module: solved as one network."""
        net = Network()
        for frame in frames_of(self.array):
            net.node(f"f{frame}")
        net.node(ROOT)
        for joint in self._closed:
            net.branch(joint.part, joint.a, joint.b, self._ohm(joint))
        if self.root_ohm is not None:
            net.branch("egc", ROOT, EARTH, max(self.root_ohm, 1e-6))
        solution = net.factor()
        most, voc = self.study.fault_most_a, self.array.voc_v or 0.0
        found = []
        for frame in frames_of(self.array):
            node = f"f{frame}"
            ohm = abs(solution.at(node, solution.unit(node)))
            if ohm > OPEN_OHM / 1000:
                found.append(FrameStudy(frame, None, voc))
            else:
                found.append(FrameStudy(frame, ohm, min(most * ohm, voc)))
        return tuple(found)

    @property
    def floating(self) -> tuple[str, ...]:
        """The frames without a way to the bar."""
        return tuple(f.frame for f in self.frames if f.ohm is None)

    @cached_property
    def to_photograph(self) -> tuple[JointStudy, ...]:
        """Joints that modules hide, or that no reading would find open."""
        return tuple(j for j in self.joints if j.is_hidden or not j.is_findable)


def whose_fault(roof: RoofStudy) -> tuple[str, ...]:
    """Open joints in words that tell one module's washer from a whole row's rail."""
    found = []
    for j in roof.joints:
        if not j.is_open or not j.hangs:
            continue
        rows = {f.partition("m")[0] for f in j.hangs}
        if len(j.hangs) == 1 and j.joint.kind == "frame":
            found.append("its own joint is open, no other's")
        elif len(rows) == 1:
            found.append(f"{len(j.hangs)} frames of row {min(rows)} behind one {j.joint.kind}")
        else:
            found.append(f"{len(j.hangs)} frames of {len(rows)} rows behind one {j.joint.kind}")
    return tuple(found)
