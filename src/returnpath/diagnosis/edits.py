"""A defect as edits of the site: what *Try* tries."""

from ..site import Add, Circuit, Edit, Feeder, Installation, Set
from ..vocabulary import BranchId
from .defects import LOST_OHM, RING_WORDS, BranchChange, Defect
from .nets import OPEN_OHM


def edits_of(site: Installation, defect: Defect) -> tuple[Edit, ...]:
    """Edits that make the place so; none where the site has no words for it (a path of unknown
    metal, exchanged wires)."""
    if defect.both:
        return tuple(e for one in defect.both for e in edits_of(site, one))
    element = site.elements().get(defect.element)
    simple = {
        "outlet-bond": ("outlet_bond", "yes"), "reversed": ("reversed", "yes"),
        "bond-in": ("bond", "in"), "bond-out": ("bond", "out"),
    }.get(defect.kind)  # fmt: skip
    if element is None or "path" in defect.kind or defect.kind in ("none", "exchanged"):
        return ()
    if simple:
        fact, value = simple
        return (Set(path=f"{defect.element}.{fact}", value=value),)
    if defect.kind == "ring-open":
        part = defect.key.rpartition("-")[2]
        return (Set(path=f"{defect.element}.ring_open", value=RING_WORDS[part]),)
    if defect.kind in ("length", "feeder-length"):
        feet = element.length_ft if isinstance(element, Circuit | Feeder) else None
        if feet is None:
            return ()
        return (Set(path=f"{defect.element}.length_ft", value=round(feet * defect.size, 1)),)
    return tuple(_joint(c) for c in defect.changes if c.branch)


def _joint(change: BranchChange) -> Add:
    opened = change.series_ohm >= min(OPEN_OHM, LOST_OHM)
    how: dict[str, object] = {"open": "yes"} if opened else {"ohm": round(change.series_ohm, 3)}
    return Add(to="joints", facts={"on": BranchId(change.branch), **how})
