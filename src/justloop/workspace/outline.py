"""The place as an outline in walking order: sources, buildings with their panels and circuits,
electrodes, pipes, arrays; with what is known, assumed and to look at on each line."""

from collections import Counter
from dataclasses import dataclass, field, replace
from functools import lru_cache

from django.template.loader import get_template
from django.utils.safestring import mark_safe

from returnpath.site import name_of
from returnpath.site.lengths import run_length

from ..address import Address
from ..drawing.marks import verdict_svg
from ..solved import SolvedSite
from .fields import count_known, fact_href
from .lists import grave_at, levels_by_place

MOST_TO_FIND_OUT = 3


@dataclass(frozen=True)
class FindOut:
    """A question of those that matter most, and where it is answered."""

    text: str
    level: str
    place: str
    more: int
    href: str


@dataclass
class OutlineLine:
    """One element: its name, what is known of it, the worst found there, and what it holds."""

    id: str
    name: str
    href: str
    level: str
    known: int
    assumed: int
    missing: int
    is_current: bool
    note: str = ""
    mark: str = ""
    is_open: bool = False
    inside: list["OutlineLine"] = field(default_factory=list)

    @property
    def itself(self) -> "OutlineLine":
        """The line without what it holds: the first inside its own fold."""
        return replace(self, inside=[], level="")

    @property
    def html(self) -> str:
        """Its own line, without what it holds."""
        own = (self.name, self.href, self.level, self.known, self.assumed, self.missing)
        return _line_html(*own, self.is_current, self.note, self.mark, self.count)

    @property
    def count(self) -> int:
        """How many lines it holds."""
        return len(self.inside)


@lru_cache(maxsize=4096)
def _line_html(*facts) -> str:
    """One line as it stands in the outline. Between two changes nearly all of them are the same."""
    names = ("name", "href", "level", "known", "assumed", "missing", "is_current", "note", "mark")
    line = dict(zip((*names, "count"), facts, strict=True))
    return get_template("workspace/outline_line.html").render({"l": line})


@dataclass
class Group:
    """A heading of the outline with its lines."""

    title: str
    lines: list[OutlineLine]


class Outline:
    """Makes the lines; the counts of the whole site are taken once."""

    def __init__(self, solved: SolvedSite, found, address: Address):
        self.solved, self.address = solved, address
        self.levels = levels_by_place(found)
        self.assumed = Counter(a.path.element for a in solved.study.assumed.assumptions)
        self.missing = Counter(p.element for f in solved.open_facts for p, _ in f.places)

    def line(self, element, note: str = "", mark: str = "") -> OutlineLine:
        """One element's line."""
        return OutlineLine(
            element.id,
            name_of(element),
            self.address.to(at=element.id, tab="facts"),
            grave_at(self.levels, element.id),
            count_known(element),
            self.assumed[element.id],
            self.missing[element.id],
            element.id == self.address.at,
            note,
            mark,
        )

    def groups(self) -> list[Group]:
        """The whole outline."""
        site = self.solved.site
        groups = [Group("Where it comes from", [*map(self.line, site.supplies),
                                                *map(self.line, site.services)])]  # fmt: skip
        homes: dict[str, list[OutlineLine]] = {}
        for panel in site.panels:
            homes.setdefault(panel.building or "", []).append(self._panel(panel))
        if lines := homes.get(""):
            groups.append(Group("Panels", lines))
        for building in site.buildings:
            own = [self.line(building), *homes.get(building.id, [])]
            groups.append(Group(name_of(building), own))
        for title, elements in (
            ("Earth", site.electrodes), ("Pipes and metal", site.metals), ("Arrays", site.arrays),
        ):  # fmt: skip
            if elements:
                groups.append(Group(title, [self.line(e, _note(e)) for e in elements]))
        return groups

    def _panel(self, panel) -> OutlineLine:
        site, study = self.solved.site, self.solved.study
        line = self.line(panel)
        line.inside = [self.line(f, "feeder") for f in site.feeders if f.to == panel.id]
        for circuit in site.circuits:
            if circuit.panel == panel.id:
                rating = circuit.breaker.rating_a
                loop = study.loops.get(circuit.id)
                mark = mark_safe(verdict_svg(loop.verdict, 20)) if loop else ""  # noqa: S308 - no input in it
                line.inside.append(self.line(circuit, f"{rating:g} A" if rating else "? A", mark))
        current = {self.address.at, self.address.loop}
        line.is_open = line.is_current or bool(current & {c.id for c in line.inside})
        return line

    def to_find_out(self) -> list[FindOut]:
        """What matters most to find out: the gravest questions, with where to answer them."""
        rows = []
        for one in self.solved.open_facts[:MOST_TO_FIND_OUT]:
            path = one.places[0][0] if one.places else None
            rows.append(
                FindOut(
                    text=one.question,
                    level=one.level,
                    place=one.places[0][1] if one.places else "",
                    more=max(len(one.places) - 1, 0),
                    href=fact_href(self.solved.site, self.address, path) if path else "",
                )
            )
        return rows


def _note(element) -> str:
    feet = getattr(element, "length_ft", None)
    return run_length(element) if feet else ""
