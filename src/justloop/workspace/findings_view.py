"""Findings as the screen shows them: at a place, elsewhere, set aside, and the whole fix list."""

from dataclasses import dataclass

from returnpath.rules import LEVELS, FindingRow, grouped
from returnpath.rules.not_looked import in_words
from returnpath.site import Installation, describe
from returnpath.vocabulary import GRAVE
from returnpath.working import Working

from ..address import Address
from ..solved import SolvedSite, standing

MOST_CHANGES = 3
MOST_FIRST = 8  # rows of the fix list that stand open
MOST_WHOLE = 4  # findings of one row shown with all that can be done about them


@dataclass(frozen=True)
class ShownFinding:
    """A finding with what can be done about it."""

    aside_open: bool
    aside_href: str
    key: str
    id: str
    level: str
    place: str
    place_id: str
    found: str
    why: str
    do: str
    authority: str
    parts: str
    folded: list["FoldedFinding"]
    href: str
    can_fix: bool
    changes: str
    working: Working | None
    anchor: str


@dataclass(frozen=True)
class FoldedFinding:
    """A finding that goes when another is mended."""

    place: str
    found: str


@dataclass(frozen=True)
class ElsewhereFinding:
    """A finding at another place, in one line."""

    level: str
    place: str
    found: str
    href: str


@dataclass(frozen=True)
class FindingsAtPlace:
    """The findings of a place in full, the others in a line each."""

    here: list[ShownFinding]
    elsewhere: list[ElsewhereFinding]
    to_check: int


@dataclass(frozen=True)
class SetAside:
    """A finding that somebody set aside: ``about`` its reason, who and when; whether it is still
    found."""

    key: str
    found: str
    still: bool
    about: dict[str, str]


@dataclass(frozen=True)
class FixList:
    """Every finding by place, what is to be checked, set aside, and the parts."""

    groups: list["FixGroup"]
    rows: list["FixRow"]
    not_looked: str
    counts: list[tuple[str, int]]
    aside: list["SetAside"]
    parts: list[tuple[str, int]]

    @property
    def first(self) -> list[tuple["FixGroup", ShownFinding]]:
        """What is mended first: every danger and the first fixes, each with its place."""
        return self._all[: max(MOST_FIRST, self._dangers)]

    @property
    def rest(self) -> list[tuple["FixGroup", ShownFinding]]:
        """The fixes after those."""
        return self._all[max(MOST_FIRST, self._dangers) :]

    @property
    def _all(self) -> list[tuple["FixGroup", ShownFinding]]:
        every = [(group, one) for group in self.groups for one in group.items]
        return sorted(every, key=lambda pair: LEVELS.index(pair[1].level))

    @property
    def _dangers(self) -> int:
        return sum(one.level == "danger" for _, one in self._all)


@dataclass(frozen=True)
class FixGroup:
    """The findings of one place."""

    place: str
    where: str
    href: str
    items: list[ShownFinding]


@dataclass(frozen=True)
class FixRow:
    """Findings of one kind at many places: the first few whole, the others a link to theirs."""

    level: str
    count: int
    places: str
    do: str
    found: str
    anchor: str
    items: list[ShownFinding]
    others: list[ElsewhereFinding]


def changes_of(site: Installation, finding) -> str:
    """What *Do it* would change in the description, in words."""
    said = [describe(site, edit) for edit in finding.fix[:MOST_CHANGES]]
    more = len(finding.fix) - len(said)
    return "; ".join(said) + (f"; and {more} more" if more else "")


def shown(
    finding, address: Address, trying: bool = False, site: Installation | None = None
) -> ShownFinding:
    """One finding with what can be done about it."""
    asks = f"aside:{finding.key}"
    is_asked = address.open == asks
    return ShownFinding(
        aside_open=is_asked,
        aside_href=address.to(open="" if is_asked else asks),
        key=finding.key,
        id=finding.id,
        level=finding.level,
        place=finding.place_name,
        place_id=finding.place,
        found=finding.found,
        why=finding.why,
        do=finding.do,
        authority=str(finding.authority),
        parts=", ".join(finding.parts),
        folded=[FoldedFinding(place=f.place_name, found=f.found) for f in finding.folded],
        href=address.to(at=finding.place),
        can_fix=bool(finding.fix) and not trying,
        changes=changes_of(site, finding) if site and finding.fix and not trying else "",
        working=finding.working,
        anchor="f-" + finding.key.replace(":", "-"),
    )


def at_place(solved: SolvedSite, found, address: Address, trying: bool) -> FindingsAtPlace:
    """Findings of the chosen place and loop in full, those elsewhere in one line each."""
    here, elsewhere, to_check = [], [], 0
    for f in found:
        if f.place in (address.at, address.loop):
            here.append(shown(f, address, trying, solved.site))
        elif f.level in GRAVE:
            elsewhere.append(
                ElsewhereFinding(
                    level=f.level,
                    place=f.place_name,
                    found=f.found,
                    href=address.to(at=f.place),
                )
            )
        else:
            to_check += 1
    return FindingsAtPlace(here=here, elsewhere=elsewhere, to_check=to_check)


def fix_list(solved: SolvedSite, aside: dict, address: Address, trying: bool) -> FixList:
    """Every finding by place, worst place first; what was set aside after them; the parts."""
    found = standing(solved, aside)
    groups: dict[str, FixGroup] = {}
    to_look = [f for f in found if f.level not in GRAVE]
    for finding in found:
        if finding.level not in GRAVE:
            continue
        if finding.place not in groups:
            groups[finding.place] = FixGroup(
                place=finding.place_name,
                where=_where(solved.site, finding.place),
                href=address.to(at=finding.place),
                items=[],
            )
        groups[finding.place].items.append(shown(finding, address, trying, solved.site))
    counts = {level: sum(f.level == level for f in found) for level in LEVELS}
    by_key = {f.key: f for f in solved.findings}
    return FixList(
        groups=list(groups.values()),
        rows=[_row(row, address, trying, solved.site) for row in grouped(to_look)],
        not_looked=in_words(solved.site),
        counts=[(level, n) for level, n in counts.items() if n],
        aside=[
            SetAside(
                key=key, still=key in by_key, about=about,
                found=by_key[key].found if key in by_key else "It is no longer found.",
            )
            for key, about in aside.items()
        ],
        parts=_parts(found),
    )  # fmt: skip


def _row(row: FindingRow, address: Address, trying: bool, site: Installation) -> FixRow:
    """One row for many places, opened on demand."""
    first = row.first
    return FixRow(
        level=first.level,
        count=len(row.findings),
        places=row.places,
        do=row.title,
        found=first.found,
        anchor=f"row-{first.id}-{first.place}",
        items=[shown(f, address, trying, site) for f in row.findings[:MOST_WHOLE]],
        others=[
            ElsewhereFinding(f.level, f.place_name, f.found, address.to(at=f.place, tab="findings"))
            for f in row.findings[MOST_WHOLE:]
        ],
    )


def _where(site: Installation, place: str) -> str:
    """The panel or building that a place belongs to, in words."""
    element = site.elements().get(place)
    panels = {p.id: p for p in site.panels}
    panel = panels.get(getattr(element, "panel", None) or "")
    if panel is not None:
        return panel.name or "panel"
    buildings = {b.id: b.name for b in site.buildings}
    return buildings.get(getattr(element, "building", None) or "", "") or ""


def _parts(found) -> list[tuple[str, int]]:
    """What dangers and fixes take, counted."""
    counted: dict[str, int] = {}
    for finding in found:
        if finding.level in GRAVE:
            for part in finding.parts:
                counted[part] = counted.get(part, 0) + 1
    return sorted(counted.items())
