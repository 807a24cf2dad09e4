"""Lists beside the map: circuits, the parts of a place, sizes needed and installed."""

from dataclasses import dataclass

from django.utils.safestring import mark_safe

from returnpath import tables
from returnpath.rules import LEVELS
from returnpath.site import name_of
from returnpath.site.branches import branches_of
from returnpath.site.validate import is_of_array
from returnpath.vocabulary import GRAVE, FactPath, Level
from returnpath.words import words
from returnpath.working import Working, figures

from ..address import Address
from ..drawing.marks import verdict_svg
from ..solved import SolvedSite
from .fields import fact_href

TITLES = words("list")


@dataclass(frozen=True)
class CircuitRow:
    """A circuit of the list: its breaker, verdict and lowest current."""

    id: str
    name: str
    breaker: str
    verdict: str
    mark: str
    lowest: str
    href: str
    current: bool
    level: str


@dataclass(frozen=True)
class PanelLink:
    """A panel of the list, with its number of circuits."""

    id: str
    name: str
    count: int
    href: str
    current: bool


@dataclass(frozen=True)
class PlaceLink:
    """A part of the service."""

    name: str
    href: str
    current: bool


@dataclass(frozen=True)
class PartGroup:
    """The parts of one kind."""

    title: str
    items: list["PartLink"]


@dataclass(frozen=True)
class PartLink:
    """One part, with the worst level at it."""

    name: str
    href: str
    current: bool
    level: str


@dataclass(frozen=True)
class SizeLine:
    """A size: what is needed, what is installed, whether it meets."""

    key: str
    label: str
    whose: str
    needed: str
    installed: str
    meets: bool | None
    margin: str
    working: Working | None
    href: str
    fact: str
    is_open: bool


def levels_by_place(found) -> dict[str, str]:
    """element → the worst level found at it."""
    worst: dict[str, str] = {}
    for f in found:
        worst[f.place] = min(worst.get(f.place, Level.NOTE), f.level, key=LEVELS.index)
    return worst


def grave_at(levels: dict[str, str], element: str) -> str:
    """The level at an element where it is one to mend, else nothing."""
    level = levels.get(element, "")
    return level if level in GRAVE else ""


def circuits(solved: SolvedSite, found, address: Address, panel: str) -> list[CircuitRow]:
    """The circuits of one panel, with their verdicts."""
    levels, rows = levels_by_place(found), []
    for circuit_id, study in solved.study.loops.items():
        circuit = study.circuit
        if circuit.panel != panel:
            continue
        rating = circuit.breaker.rating_a
        rows.append(
            CircuitRow(
                id=circuit_id,
                name=circuit.name or "Unnamed circuit",
                breaker=f"{rating:g} A" if rating else "? A",
                verdict=str(study.verdict),
                mark=mark_safe(verdict_svg(study.verdict, 22)),  # noqa: S308 - no input in it
                lowest=f"{figures(study.lowest_a)} A" if study.lowest_a is not None else "",
                href=address.to(at=circuit_id, loop=""),
                current=circuit_id == address.loop,
                level=levels.get(circuit_id, ""),
            )
        )
    return rows


def panels(solved: SolvedSite, address: Address, panel: str) -> list[PanelLink]:
    """The panels as links, each with its number of circuits."""
    site = solved.site
    count: dict[str, int] = {}
    for circuit in site.circuits:
        count[circuit.panel] = count.get(circuit.panel, 0) + 1
    return [
        PanelLink(
            id=p.id,
            name=p.name or "Panel",
            count=count.get(p.id, 0),
            href=address.to(at=p.id, loop=""),
            current=p.id == panel,
        )
        for p in site.panels
    ]


def places(solved: SolvedSite, address: Address) -> list[PlaceLink]:
    """The parts of the service in the order the current meets them, then local practice."""
    site = solved.site
    names = {
        site.supply.id: site.supply.name or "Supply",
        site.service.id: "Service run",
        site.panel.id: site.panel.name or "Panel",
        site.electrode.id: "Electrodes",
        site.practice.id: "Local practice",
    }
    return [
        PlaceLink(name=name, href=address.to(at=element), current=element == address.at)
        for element, name in names.items()
    ]


def parts(solved: SolvedSite, found, address: Address) -> list[PartGroup]:
    """Every part of the place by kind, as links with the worst level at each."""
    levels, groups = levels_by_place(found), []
    for name, title in TITLES.items():
        elements = getattr(solved.site, name)
        if name == "joints":  # an array's stand on its own stage
            elements = [e for e in elements if not is_of_array(e.on, solved.site.elements())]
        if not elements:
            continue
        groups.append(
            PartGroup(
                title=title,
                items=[
                    PartLink(
                        name=_part_name(solved, name, e),
                        href=address.to(at=e.id),
                        current=e.id == address.at,
                        level=levels.get(e.id, ""),
                    )
                    for e in elements
                ],
            )
        )
    return groups


def _part_name(solved: SolvedSite, name: str, element) -> str:
    text = name_of(element)
    if name == "electrodes" and element.length_ft:
        text += f", {element.length_ft:g} ft"
    if name == "joints":
        of = solved.site.elements().get(element.on.element)
        branch = branches_of(solved.site).get(element.on, element.on.part)
        where = f"{branch} of {name_of(of)}" if of is not None else branch
        text = f"{'Open' if element.open == 'yes' else 'Loose'} joint: {where}"
    return text


def sizes(solved: SolvedSite, address: Address) -> list[SizeLine]:
    """Required against installed for the chosen loop, the selected part and the service."""
    site = solved.site
    wanted = [f"{address.loop}.line_size", f"{address.loop}.egc_size"]
    wanted += [p for p in solved.sizes if FactPath(p).element == address.at]
    loop = solved.study.loops.get(address.loop)
    if loop is not None:
        for feeder in site.feeders:
            if feeder.to == loop.circuit.panel:
                wanted += [f"{feeder.id}.line_size", f"{feeder.id}.egc_size"]
    wanted += [f"{site.electrode.id}.gec_size", f"{site.panel.id}.bond_size"]
    wanted += [f"{site.service.id}.neutral_size"]
    found = []
    for path in dict.fromkeys(wanted):
        row = solved.sizes.get(path)
        if row is None:
            continue
        key = "size-" + path.replace(".", "-")
        is_open = key == address.open
        element = site.elements()[FactPath(path).element]
        whose = "" if FactPath(path).element == address.loop else name_of(element)
        found.append(
            SizeLine(
                key=key,
                label=row.label,
                whose=whose,
                needed=f"{_size(row.needed)} {_metal(row.needed_material)}",
                installed=f"{_size(row.installed)} {_metal(row.installed_material)}"
                if row.installed
                else _not_installed(solved, path),
                meets=row.meets,
                margin=_margin(row),
                working=row.working,
                href=address.to(open="" if is_open else key),
                fact=fact_href(site, address, path),
                is_open=is_open,
            )
        )
    return found


def _metal(material: str) -> str:
    return "Cu" if material == "copper" else "Al"


def _margin(row) -> str:
    if row.margin is None:
        return ""
    if abs(row.margin) < 0.0005:
        return "exactly"
    return f"{abs(row.margin):.0%} {'over' if row.margin > 0 else 'short'}"


def _size(size: str) -> str:
    """A size as a table has room for it: AWG bare, square millimetres with their unit."""
    return tables.size_name(size) if tables.is_metric(size) else size


def _not_installed(solved: SolvedSite, path: str) -> str:
    inner = FactPath(path).fact
    element = solved.site.elements()[FactPath(path).element]
    if inner == "egc_size":
        if element.egc == "none":
            return "none"
        if element.egc == "raceway":
            return "raceway"
    if inner == "bond_size" and getattr(element, "bond_kind", None) in ("screw", "strap"):
        return element.bond_kind
    return "not said"
