"""The Panels stage: a panel's face, its legs, what evens them out, where a breaker could go; its
other tabs are the dwelling's load and the protection by place."""

from dataclasses import dataclass

from django.utils.safestring import mark_safe

from returnpath.panels import (
    Face,
    even_out,
    face_of,
    fits,
    legs_after,
    legs_of_panel,
    rooms,
    swaps,
)
from returnpath.site import name_of
from returnpath.site.spaces import METRIC_NUMBERING
from returnpath.site.speech import rule_set_of
from returnpath.words import RuleSet
from returnpath.working import figures

from ..address import Address
from ..drawing.face import face_scene
from ..solved import SolvedSite
from . import panel_load, panel_protection, panel_zs
from .fields import fact_href
from .lists import grave_at, levels_by_place
from .panel_load import LoadView, load_view
from .panel_protection import ProtectionView, protection_view
from .panel_zs import ZsView, zs_view

LEG_PX = 165  # the longest bar
MOST_NAMED = 6  # free spaces that are offered for a breaker not yet placed

#: The stage's tabs, by what the address shows.
PARTS = {
    RuleSet.US: {"": "Face", panel_load.TAB: "Load", panel_protection.TAB: "Protection"},
    RuleSet.METRIC: {"": "Face", panel_zs.TAB: "Zs"},
}


@dataclass(frozen=True)
class NamedLink:
    """A name that leads somewhere, or is where one stands."""

    name: str
    href: str
    current: bool = False


@dataclass(frozen=True)
class FaceRow:
    """A breaker in the list that stands in for the face in a narrow window."""

    numbers: str
    legs: str
    name: str
    rating: str
    href: str
    level: str
    current: bool


@dataclass(frozen=True)
class LegBar:
    """One leg's bar: its name, its length in pixels, its amperes."""

    name: str
    width: int
    amps: str


@dataclass(frozen=True)
class LegsView:
    """The legs with everything on."""

    bars: tuple[LegBar, ...]
    neutral: str
    school: str
    unknown: int


@dataclass(frozen=True)
class MoveRow:
    """One breaker of the moves that even the legs out."""

    name: str
    from_space: int
    to: int


@dataclass(frozen=True)
class EvenView:
    """The moves that even the legs out; ``key`` is what is posted."""

    moves: tuple[MoveRow, ...]
    before: str
    after: str
    key: str
    is_proven: bool


@dataclass(frozen=True)
class SpaceChoice:
    """A space that a breaker could go to, and its leg."""

    to: int
    leg: int


@dataclass(frozen=True)
class SwapChoice:
    """A breaker to change places with; ``key`` is what is posted."""

    words: str
    key: str


@dataclass(frozen=True)
class MoveView:
    """Where the chosen breaker could stand instead, with what that does to the legs."""

    id: str
    name: str
    before: str
    after: str
    neutral: str
    other: int
    is_pinned: bool
    spaces: tuple[SpaceChoice, ...]
    swaps: tuple[SwapChoice, ...]


@dataclass(frozen=True)
class PanelPage:
    """What the stage shows of the chosen panel; ``part`` the tab, a key of ``PARTS``."""

    panel: str
    part: str
    parts: tuple[NamedLink, ...]
    panels: tuple[NamedLink, ...]
    face: str
    rows: tuple[FaceRow, ...]
    free: tuple[int, ...]
    pairs: tuple[str, ...]
    spaces: int
    is_counted: bool
    count_href: str
    numbering_href: str
    in_one_column: bool
    taken_twice: tuple[int, ...]
    unplaced: tuple[NamedLink, ...]
    fed_by: tuple[NamedLink, ...]
    legs: LegsView
    even: EvenView | None
    move: MoveView | None
    load: LoadView | None
    protection: ProtectionView | None
    zs: ZsView | None


def panel_context(solved: SolvedSite, found, address: Address) -> dict:
    """The page of the chosen panel, as ``at_panel``."""
    site = solved.site
    panel = _chosen(solved, address)
    face = face_of(site, panel)
    levels = levels_by_place(found)
    href = {e.id: address.to(at=e.id) for e in (*site.circuits, *site.feeders)}
    by_space = site.practice.balance == "space"
    parts = PARTS[rule_set_of(site)]
    part = address.show if address.show in parts else ""
    # Scene escapes every text it is given.
    verdicts = {id_: fault.verdict for id_, fault in solved.study.loops.items()}
    drawn = mark_safe(face_scene(face, href, levels, verdicts, address.at).svg())  # noqa: S308
    page = PanelPage(
        panel=panel,
        part=part,
        parts=tuple(
            NamedLink(words, address.to(show=key, q=""), key == part)
            for key, words in parts.items()
            if key != panel_load.TAB or panel == site.panel.id
        ),
        panels=tuple(
            NamedLink(p.name or "Panel", address.to(at=p.id, loop="", show="", q=""), p.id == panel)
            for p in site.panels
        ),
        face=drawn if part == "" else "",
        rows=_rows(face, href, levels, address.at),
        free=face.free,
        pairs=tuple(f"{n}–{face.spaces_from(n, 2)[-1]}" for n in rooms(face, 2) if face.lines > 1),
        spaces=len(face.spaces),
        is_counted=face.is_counted,
        count_href=fact_href(site, address, f"{panel}.spaces"),
        numbering_href=(
            fact_href(site, address, f"{panel}.numbering")
            if site.elements()[panel].numbering is None
            else ""
        ),
        in_one_column=face.panel.numbering == METRIC_NUMBERING,
        taken_twice=tuple(s.number for s in face.spaces if s.is_taken_twice),
        unplaced=tuple(NamedLink(u.name, href[u.id]) for u in face.unplaced),
        fed_by=tuple(NamedLink(name_of(f), href[f.id]) for f in site.feeders if f.to == panel),
        legs=_legs(face, by_space),
        even=_even(face, by_space),
        move=_move(face, address, by_space),
        load=(
            load_view(solved, panel, address)
            if part in ("", panel_load.TAB) and panel_load.TAB in parts
            else None
        ),
        zs=zs_view(solved, panel, address) if part == panel_zs.TAB else None,
        protection=(
            protection_view(solved, panel, address) if part == panel_protection.TAB else None
        ),
    )
    return {"at_panel": page}


def _rows(face: Face, href: dict, levels: dict, at: str) -> tuple[FaceRow, ...]:
    """The face as a list, for a narrow window."""
    return tuple(
        FaceRow(
            numbers="–".join(dict.fromkeys((str(u.spaces[0]), str(u.spaces[-1])))),
            legs=" ".join(f"L{face.leg_of(s)}" for s in u.spaces),
            name=u.name,
            rating=f"{u.rating_a:g} A" if u.rating_a else "? A",
            href=href[u.id],
            level=grave_at(levels, u.id),
            current=u.id == at,
        )
        for u in face.units
    )


def _chosen(solved: SolvedSite, address: Address) -> str:
    """The selected panel, else that of the selected circuit, else the first."""
    site = solved.site
    if address.at in {p.id for p in site.panels}:
        return address.at
    element = site.elements().get(address.at)
    home = getattr(element, "panel", None) or getattr(element, "source", None)
    return home if home in {p.id for p in site.panels} else site.panel.id


def _legs(face: Face, by_space: bool) -> LegsView:
    legs = legs_of_panel(face, by_space)
    most = max(legs.amps, default=0.0) or 1.0
    unit = "poles" if by_space else "A"
    bars = tuple(
        LegBar(f"L{n}{' high' if n == face.high_leg else ''}", round(LEG_PX * a / most),
               f"{figures(a)} {unit}")
        for n, a in enumerate(legs.amps, 1)
    )  # fmt: skip
    return LegsView(
        bars,
        f"{figures(legs.neutral)} {unit}" if legs.neutral > 1e-9 and face.lines > 1 else "",
        "each pole counts as one" if by_space else "by the loads that are known",
        legs.unknown,
    )


def _even(face: Face, by_space: bool) -> EvenView | None:
    found = even_out(face, by_space)
    if found is None or not found.moves:
        return None
    unit = "" if by_space else " A"
    return EvenView(
        moves=tuple(MoveRow(m.unit.name, m.unit.first, m.to) for m in found.moves),
        before=" / ".join(figures(a) for a in found.before.amps) + unit,
        after=" / ".join(figures(a) for a in found.after) + unit,
        key=",".join(f"{m.unit.id}:{m.to}" for m in found.moves),
        is_proven=found.is_proven,
    )


def _move(face: Face, address: Address, by_space: bool) -> MoveView | None:
    unit = next((u for u in (*face.units, *face.unplaced) if u.id == address.at), None)
    if unit is None:
        return None
    after, before = legs_after(face, unit, by_space), legs_of_panel(face, by_space)
    spaces = fits(face, unit)
    if not unit.spaces:
        spaces = spaces[:MOST_NAMED]
    return MoveView(
        id=unit.id,
        name=unit.name,
        before=" / ".join(figures(a) for a in before.amps),
        after=" / ".join(figures(a) for a in after.amps) if after else "",
        neutral=figures(after.neutral) if after else "",
        other=3 - face.leg_of(unit.first) if after else 0,
        is_pinned=unit.is_pinned,
        spaces=tuple(SpaceChoice(n, face.leg_of(n)) for n in spaces),
        swaps=tuple(
            SwapChoice(f"{u.first} {u.name}", f"{unit.id}:{u.first},{u.id}:{unit.first}")
            for u in swaps(face, unit)
        ),
    )
