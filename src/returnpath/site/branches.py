"""The branches that a site as described has: what a joint can be on.

One answer for the validation, the bench and the network. A conductor whose presence nobody has
said yet may be there; one that is said not to be is not.
"""

from collections.abc import Iterator

from ..vocabulary import BranchId, System
from .base import Element
from .circuits import Array, Circuit
from .earthing import Electrode, Metal
from .installation import Installation
from .power import Feeder, Panel, Service, Supply
from .roof import name_of_joint, roof_joints


def lines_of(site: Installation) -> int:
    """Line conductors of the place: 1, 2 or 3."""
    return (site.supply.system or System.SPLIT).lines


def branches_of(site: Installation) -> dict[BranchId, str]:
    """Every branch a joint can be on, with the trade's word for it, in the order of the work."""
    lines = lines_of(site)
    found: dict[BranchId, str] = {}
    for element in site.elements().values():
        for part, words in branch_parts(element, lines):
            found[BranchId.of(element.id, part)] = words
    return found


def branch_parts(element: Element, lines: int) -> Iterator[tuple[str, str]]:
    """(part, words) of the branches of one element; ``lines`` of the place."""
    if isinstance(element, Supply):
        yield from _supply(element)
    elif isinstance(element, Service):
        yield from _lines(lines)
        yield "neutral", "neutral"
        if element.egc_size is not None:
            yield "egc", "supply-side bonding jumper"
    elif isinstance(element, Panel):
        yield from _panel(element, lines)
    elif isinstance(element, Circuit | Feeder):
        yield from _run(element, lines)
    elif isinstance(element, Electrode):
        if element.joined != "no":
            yield "gec", "electrode conductor"
    elif isinstance(element, Metal):
        yield from _metal(element)
    elif isinstance(element, Array):
        if element.frames != "none":
            yield "egc", "array EGC"
        if element.electrode is not None:
            yield "gec", "electrode conductor"
        for joint in roof_joints(element):
            yield joint.part, name_of_joint(joint.part)


def _lines(count: int) -> Iterator[tuple[str, str]]:
    for n in range(1, count + 1):
        yield f"line{n}", f"line {n}"


def _supply(supply: Supply) -> Iterator[tuple[str, str]]:
    is_utility = supply.kind in (None, "utility")
    if is_utility or supply.bond != "out":
        yield "bond", "neutral bond"
    if supply.fed_by is not None:
        yield "primary", "its case to the EGC of its primary"
    if is_utility or supply.earth_ohm is not None:
        yield "earth", "neutral earth"


def _panel(panel: Panel, lines: int) -> Iterator[tuple[str, str]]:
    for part, words in _lines(lines):
        yield part.replace("line", "main"), f"main, {words}"
    if strap_is_possible(panel):
        yield "strap", "ground bar to enclosure"
    if panel.grounds_on_neutral == "yes":
        yield "tie", "EGCs to neutral bar"
    if panel.bond != "out":
        yield "bond", "neutral bond"


def strap_is_possible(panel: Panel) -> bool:
    """Whether the EGCs may meet the case at this panel."""
    if panel.ground_bar == "none":
        return panel.grounds_on_neutral == "no"
    return panel.ground_bar != "isolated"


def _run(run: Circuit | Feeder, lines: int) -> Iterator[tuple[str, str]]:
    usual = 1 if isinstance(run, Circuit) else lines
    yield from _lines(min(run.poles or usual, lines))
    if run.neutral != "no":
        yield "neutral", "neutral"
    if run.egc in (None, "wire", "both"):
        yield "egc", "EGC"
    if run.egc in (None, "raceway", "both"):
        yield "raceway", "raceway"
    if not isinstance(run, Circuit):
        return
    if run.egc == "none" and run.relied_on is not None and run.return_ohm is not None:
        yield "raceway", "what is relied on as the return"
    if run.neutral_on_frame:
        yield "bond", "neutral to ground at the receptacle"
    for metal in run.joined_to:
        yield f"to_{metal}", "joint to other metal"


def _metal(metal: Metal) -> Iterator[tuple[str, str]]:
    if metal.material in ("plastic", "none"):
        return
    if metal.bonded != "no":
        yield "bond", "bond"
    if metal.shared_main == "yes":
        yield "main", "shared main"
    if metal.also_joins is not None:
        yield "join", "way to the other building"
