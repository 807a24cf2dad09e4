"""Refuses only what cannot exist; what is merely wrong is saved and found.

Says it in the trade's words, with the path of the fact.
"""

from functools import cache

from annotated_types import MaxLen
from pydantic import BaseModel, ValidationError

from .. import tables
from ..conductor import Wire, method, raceway_row
from ..device import Breaker
from ..errors import BadInput
from ..vocabulary import BranchId, FactPath, fact_in
from .base import Element
from .branches import branches_of
from .circuits import Array
from .fields import FieldInfo, check_value, fields_of
from .installation import LISTS, Installation, name_of

#: What a list of a job is called where it is full.
FULL = {"supplies": "sources", "services": "service runs", "sources": "remarks on where facts are"
        " from"}  # fmt: skip


@cache
def _longest(model: type[BaseModel]) -> tuple[tuple[str, int], ...]:
    """(list, the most it holds) of a model, as its file is read with."""
    return tuple(
        (name, limit.max_length)
        for name, field in model.model_fields.items()
        for limit in field.metadata
        if isinstance(limit, MaxLen)
    )


def _check_lengths(site: Installation) -> None:
    """A change may not make what its own file would be refused for."""
    for part in (site, site.practice):
        for name, most in _longest(type(part)):
            held = getattr(part, name)
            if held is not None and len(held) > most:
                raise BadInput(f"A job holds at most {most} {FULL.get(name, name)}.")


def check_site(site: Installation, before: Installation | None = None) -> None:
    """BadInput for the first fact that cannot exist, or that no study could use and the site
    ``before`` the change did not hold. What an older file holds that is of no use is read as it
    was, and never stands in the way of another change."""
    _check_lengths(site)
    for name, words in (
        ("supplies", "a supply"),
        ("services", "a service run"),
        ("panels", "a panel"),
        ("electrodes", "its electrodes"),
    ):
        if not getattr(site, name):
            raise BadInput(f"A job keeps {words}: change it instead of removing it.")
    ids = _ids(site)
    for element in site.elements().values():
        _check_facts(site, element, ids)
    _check_ends(site, ids)
    for run in (*site.circuits, *site.feeders):
        _check_wires(run)
        _check_device(f"{run.id}.breaker", run.breaker)
    for panel in site.panels:
        _check_device(f"{panel.id}.main", panel.main)
    for supply in site.supplies:
        _check_device(f"{supply.id}.breaker", supply.breaker)
    for service in site.services:
        for name in ("line_size", "neutral_size"):
            size = getattr(service, name)
            _check_made(size, service.line_material, "triplex", f"{service.id}.{name}")
    for electrode in site.electrodes:
        path = f"{electrode.id}.gec_size"
        _check_made(electrode.gec_size, electrode.gec_material, "SE", path)
    _check_joints(site)
    if before is not None:
        held = _of_no_use(before)
        for path, words in _of_no_use(site).items():
            if path not in held:
                raise BadInput(words, path)


def _of_no_use(site: Installation) -> dict[str, str]:
    """Figures that no study could use: {path: why}. They are refused beside their field, never
    ignored."""
    found = {
        f"{supply.id}.limit": "A current limit is an inverter's or a generator's: leave this empty."
        for supply in site.supplies
        if supply.limit is not None and supply.kind == "utility"
    }
    devices = [(f"{p.id}.main", p.main) for p in site.panels]
    devices += [(f"{r.id}.breaker", r.breaker) for r in site.circuits]
    devices += [(f"{r.id}.breaker", r.breaker) for r in site.feeders]
    devices += [(f"{u.id}.breaker", u.breaker) for u in site.supplies]
    for path, device in devices:
        if device.kind == "none" and device.rating_a is not None:
            found[f"{path}.kind"] = (
                f"“None here” and {device.rating_a:g} A cannot both be: empty the rating first."
            )
        if device.kind != "gG" and device.magnetic != "none":
            continue
        why = "A fuse" if device.kind == "gG" else "This one"
        for end in ("lo", "hi", "magnetic_nominal"):
            if getattr(device, end) is not None:
                found[f"{path}.{end}"] = f"{why} has no magnetic trip: leave this empty."
    return found


def _ids(site: Installation) -> dict[str, set[str]]:
    """The ids of every list; BadInput for one used twice or never given."""
    found: dict[str, set[str]] = {}
    seen: set[str] = set()
    for name in LISTS:
        found[name] = set()
        for element in getattr(site, name):
            if element.id in seen or int(element.id.lstrip("abcdefghijklmnopqrstuvwxyz") or 0) > (
                site.last_id
            ):
                raise BadInput(f"The id {element.id} is used twice or was never given.", element.id)
            seen.add(element.id)
            found[name].add(element.id)
    return found


#: Elements whose facts were found to be in their ranges: they never change, and an edit leaves
#: all but one of them as they were.
_in_range: dict[int, Element] = {}
MOST_KEPT = 20_000


def _check_facts(site: Installation, element: Element, ids: dict[str, set[str]]) -> None:
    """Values in their ranges, references that lead somewhere."""
    if _in_range.get(id(element)) is not element:
        _check_ranges(element)
        if len(_in_range) >= MOST_KEPT:
            _in_range.clear()
        _in_range[id(element)] = element
    for info in _references(type(element)):
        value = getattr(element, info.path)
        if value is not None and value not in ids[info.to]:
            path = f"{element.id}.{info.path}"
            raise BadInput(f"There is no “{value}” among the {info.to} of this job.", path)


@cache
def _references(model: type[Element]) -> tuple[FieldInfo, ...]:
    return tuple(info for info in fields_of(model) if info.kind == "ref")


def _check_ranges(element: Element) -> None:
    for info in fields_of(type(element)):
        value = fact_in(element, info.path)
        if value is None:
            continue
        try:
            check_value(info, value)
        except BadInput as error:
            path = FactPath.of(element.id, info.path)
            raise BadInput(f"{name_of(element)}: {error.sentence}", path) from None


def _check_ends(site: Installation, ids: dict[str, set[str]]) -> None:
    """Runs lead from and to something that is there, and no panel feeds itself."""

    def known(value: str, name: str, path: str) -> None:
        if value not in ids[name]:
            word = {"panels": "panel", "supplies": "supply"}[name]
            raise BadInput(f"There is no {word} “{value}” in this job.", path)

    for service in site.services:
        known(service.supply, "supplies", f"{service.id}.supply")
        known(service.to, "panels", f"{service.id}.to")
    for element in (*site.circuits, *site.electrodes):
        known(element.panel, "panels", f"{element.id}.panel")
    feeds: dict[str, set[str]] = {}
    for feeder in site.feeders:
        known(feeder.source, "panels", f"{feeder.id}.source")
        known(feeder.to, "panels", f"{feeder.id}.to")
        feeds.setdefault(feeder.source, set()).add(feeder.to)
    for circuit in site.circuits:
        for name in ("reach", "joined_to"):
            for other in getattr(circuit, name):
                if other not in ids["metals"]:
                    raise BadInput(
                        f"There is no metal “{other}” in this job.", f"{circuit.id}.{name}"
                    )
    for feeder in site.feeders:
        if feeder.source in _reached(feeds, feeder.to):
            raise BadInput("A feeder cannot feed the panel it comes from.", f"{feeder.id}.to")


def _reached(feeds: dict[str, set[str]], start: str) -> set[str]:
    """Every panel downstream of ``start``, itself included."""
    found, waiting = set(), [start]
    while waiting:
        here = waiting.pop()
        if here not in found:
            found.add(here)
            waiting += feeds.get(here, ())
    return found


def _check_joints(site: Installation) -> None:
    """Every joint is on a branch that is there, and says how bad it is: ohms, or open."""
    if not site.joints:
        return
    branches, elements = branches_of(site), site.elements()
    for joint in site.joints:
        if joint.on not in branches:
            raise BadInput(_no_branch(joint, branches, elements), f"{joint.id}.on")
        if joint.ohm is None and joint.open != "yes" and joint.hardware is None:
            raise BadInput("A joint needs its ohms, or to be open.", f"{joint.id}.ohm")
        if joint.hardware is not None and not is_of_array(joint.on, elements):
            words = "What is wrong with it is told of an array's joints only."
            raise BadInput(words, f"{joint.id}.hardware")


def is_of_array(branch: BranchId, elements: dict[str, Element]) -> bool:
    """Whether a branch is one of an array's."""
    return isinstance(elements.get(branch.element), Array)


def _no_branch(joint, branches, elements) -> str:
    element = elements.get(joint.on.element)
    if element is None:
        return "A joint is on a branch such as s1.neutral: an element of this job and its part."
    parts = [branch.part for branch in branches if branch.element == element.id]
    listed = ", ".join(parts) or "none"
    return f"{name_of(element)} has no branch “{joint.on.part}”; it has {listed}."


def _check_made(size, material, method_name, path) -> None:
    if size is None or material is None:
        return
    try:
        Wire(size, material, method_name)
    except BadInput as error:
        raise error.at(path) from None


def _check_wires(run) -> None:
    """Sizes that are made, and a steel return only where there is steel."""
    if run.method is not None:
        method(run.method)
    if run.line_size in tables.GROUND_ONLY:
        words = f"{tables.size_name(run.line_size)} is only ever an EGC."
        raise BadInput(words, f"{run.id}.line_size")
    for which in ("line", "egc"):
        size = getattr(run, f"{which}_size")
        material = getattr(run, f"{which}_material")
        _check_made(size, material, "NM", f"{run.id}.{which}_size")
    steel = method(run.method).steel_return if run.method else "EMT"
    if run.egc in ("raceway", "both") and not steel:
        label = method(run.method).label
        raise BadInput(
            f"{label[:1].upper() + label[1:]} has no steel raceway to carry the fault home;"
            " choose EMT, IMC or rigid metal conduit as the wiring method first.",
            f"{run.id}.egc",
        )
    if run.raceway_size is not None and steel:
        try:
            raceway_row(steel, run.raceway_size)
        except BadInput as error:
            raise error.at(f"{run.id}.raceway_size") from None


def _check_device(path: str, device) -> None:
    if device.kind in ("B", "C", "D"):
        for end in ("lo", "hi", "magnetic_nominal"):
            if getattr(device, end) is not None:
                words = f"A type {device.kind} breaker's magnetic band is its type's"
                raise BadInput(f"{words}: leave this empty.", f"{path}.{end}")
    if device.lo is not None and device.hi is not None and device.lo > device.hi:
        raise BadInput("The magnetic trip cannot end before it begins.", f"{path}.hi")
    if device.kind in ("B", "C", "D") and device.rating_a is not None:
        try:
            Breaker(device.rating_a, kind=device.kind)
        except BadInput as error:
            raise error.at(f"{path}.rating_a") from None


def sentence_of(error: ValidationError) -> str:
    """The first complaint of pydantic, with its path and in plain words."""
    first = error.errors()[0]
    path = ".".join(str(p) for p in first["loc"])
    if first["type"] == "extra_forbidden":
        return f"“{path}” is not a key of the job file."
    if first["type"] == "missing":
        return f"“{path}” is missing."
    return f"{path}: {first['msg'][:1].lower() + first['msg'][1:]}."
