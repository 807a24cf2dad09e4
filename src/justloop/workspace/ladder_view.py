"""The chain to the chosen part as a ladder: what the Service stage shows."""

from dataclasses import dataclass

from returnpath.errors import BadInput
from returnpath.rules import TELLING, Footing, Rung, RungKind, ladder
from returnpath.site import Circuit, Feeder, Panel, Service, Supply
from returnpath.vocabulary import FactPath
from returnpath.working import figures

from ..address import Address
from ..solved import SolvedSite
from .fields import fact_href

KINDS = (Circuit, Panel, Feeder, Service, Supply)
#: What each mark is called on screen and drawn as.
CLASSES = {
    Footing.HOLDS: "holds",
    Footing.UNREAD: "unread",
    Footing.ASSUMED: "assumed-rung",
    Footing.ASKED: "asked",
    Footing.CHECK: "look",
    Footing.SHORT: "short",
}


@dataclass
class LadderRow:
    """One rung on screen: where it leads, what it carries, what it must and by what it is
    protected (``told``), its mark; ``is_telling``: the one that the eye should find."""

    href: str
    name: str
    what: str
    carries: str
    told: str
    mark: str
    css: str
    found: str
    is_telling: bool
    is_current: bool


@dataclass
class LadderPage:
    """The ladder to one part; ``weakest`` in a sentence."""

    part: str
    rows: list[LadderRow]
    weakest: str


def ladder_page(solved: SolvedSite, found, address: Address, part: str) -> LadderPage | None:
    """The ladder to what is chosen, else to ``part``; None where neither is on the chain."""
    elements = solved.site.elements()
    chosen = address.at if isinstance(elements.get(address.at or ""), KINDS) else part
    if not chosen:
        return None
    evidence = solved.evidence
    try:
        made = ladder(evidence, found, chosen)
    except BadInput:
        return None
    weakest = made.weakest
    rows = [_row(solved, address, r, r is weakest) for r in made.rungs]
    return LadderPage(made.part_name, rows, _sentence(weakest, made.rungs))


def _row(solved: SolvedSite, address: Address, rung: Rung, is_weakest: bool) -> LadderRow:
    is_source = rung.kind is RungKind.SOURCE
    href = address.to(at=rung.element, tab="facts")
    if rung.mark in (Footing.UNREAD, Footing.ASKED):
        href = fact_href(solved.site, address, FactPath(rung.path))
    return LadderRow(
        href=href,
        name=rung.name,
        what=rung.what,
        carries="" if is_source or rung.carries_a is None else f"{figures(rung.carries_a)} A",
        told=_told(rung),
        mark="" if is_source and rung.mark is Footing.HOLDS else str(rung.mark),
        css=CLASSES[rung.mark],
        found=rung.found if rung.mark in (Footing.SHORT, Footing.CHECK) else "",
        is_telling=is_weakest and rung.mark in TELLING,
        is_current=rung.element == address.at,
    )


def _told(rung: Rung) -> str:
    """What it must carry, and by what it is protected, in few words."""
    if rung.kind is RungKind.DEVICE:
        return ""
    parts = []
    if rung.must_a:
        lasting = f" ({rung.must})" if rung.must.endswith("hours") else ""
        plain = rung.must.startswith("load") and not lasting
        may = rung.allowed_a if (rung.carries_a or rung.must_a) < rung.must_a else None
        if may:
            parts.append(f"behind {figures(rung.must_a)} A: up to {figures(may)} A may protect it")
        else:
            parts.append(rung.must if plain else f"must carry {figures(rung.must_a)} A{lasting}")
    if rung.protection and rung.kind is RungKind.CONDUCTOR:
        parts.append(rung.protection)
    return "; ".join(parts)


def _sentence(rung: Rung | None, rungs: tuple[Rung, ...]) -> str:
    """The one that the eye should find; never more than is known."""
    if rung is None:
        return ""
    if rung.mark is Footing.SHORT:
        return f"Too small: {rung.name}."
    if rung.mark in (Footing.ASKED, Footing.CHECK):
        return f"To find out first: {rung.name}."
    if rung.mark is Footing.ASSUMED:
        return f"Rests on an assumption: {rung.name}."
    unread = [r for r in rungs if r.mark is Footing.UNREAD]
    if unread:
        more = f" and {len(unread) - 1} more" if len(unread) > 1 else ""
        part = " bars" if unread[0].kind is RungKind.BARS else ""
        return f"Every rung that is known holds. Not read: {unread[0].name}{part}{more}."
    return f"Every rung holds; the fullest is {rung.name}."
