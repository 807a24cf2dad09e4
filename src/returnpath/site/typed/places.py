"""Where a line's thing hangs: “from Main”, “at barn”, “in the garage”."""

import re
from collections.abc import Iterable

from ..base import Element
from ..installation import Installation, name_of
from .line import Line

_MAIN = r"(?:the\s+)?(?:main(?:\s+(?:service\s+)?panel|\s+service)?|service\s+panel|service)"
_STOP = r"(?=\s*(?:[,;]|$)|\s+(?:\d|#|with\b|w/|on\b|by\b|from\b|at\b|in\b|to\b|using\b|nm\b|uf\b|emt\b|pvc\b|ser\b|mc\b))"


def _names(elements: Iterable[Element]) -> list[tuple[str, str]]:
    """(name in small letters, id), the longest first."""
    named = [(name_of(e).lower(), e.id) for e in elements]
    return sorted(named, key=lambda n: -len(n[0]))


def fed_from(site: Installation, line: Line, may_be_in: bool = True) -> str | None:
    """The panel that a line names as its source, or (``may_be_in``) its place; taken from the line.
    A “from” that leads nowhere is a problem, never ignored."""
    place = "at|on|in|to" if may_be_in else "at|on"
    lead = rf"\b(?:(?:fed\s+|feed\s+|supplied\s+)?(?:from|off(?:\s+of)?|out\s+of|by)|{place})\s+(?:the\s+)?"
    for name, id in _names(site.panels):
        pattern = rf"{lead}{re.escape(name)}(?:\s+panel)?\b"
        if match := line.first(pattern):
            if match[0].startswith(("on ", "to ")) and name in ("panel",):
                continue
            line.take(match)
            return id
    if match := line.first(
        rf"\b(?:(?:fed\s+|supplied\s+)?(?:from|off(?:\s+of)?|out\s+of)|at)\s+{_MAIN}\b"
    ):
        line.take(match)
        return site.panel.id
    for name, id in _names(site.panels):  # a first part of a name that is nobody else's
        first = name.split()[0]
        alone = sum(n.split()[0] == first for n, _ in _names(site.panels)) == 1
        if (
            alone
            and len(first) > 2
            and (
                match := line.first(
                    rf"\b(?:fed\s+)?(?:from|off(?:\s+of)?)\s+(?:the\s+)?{re.escape(first)}(?:\s+panel)?\b"
                )
            )
        ):
            line.take(match)
            return id
    pattern = (
        rf"\b(?:fed\s+|supplied\s+)?(?:from|off(?:\s+of)?)\s+(?:the\s+)?([a-z][\w'’ -]*?){_STOP}"
    )
    if match := line.first(pattern):
        said = line.text[match.start(1) : match.end(1)].strip()
        known = ", ".join(name_of(p) for p in site.panels)
        line.take(match)
        if len(site.panels) == 1 and said.lower() in ("panel", "main panel", "service panel"):
            return site.panel.id
        line.problems.append(f"There is no panel called “{said}”; there are: {known}.")
    return None


def building_in(site: Installation, line: Line) -> str | None:
    """The building that a line names with “in” or “at”."""
    for name, id in _names(site.buildings):
        if match := line.first(rf"\b(?:in|at|inside)\s+(?:the\s+)?{re.escape(name)}\b"):
            line.take(match)
            return id
    return None


def panel_of_building(site: Installation, line: Line) -> str | None:
    """The panel in the building that “at barn” names, where it has one."""
    homes = {p.building: p.id for p in reversed(site.panels) if p.building}
    for name, id in _names(site.buildings):
        if id in homes and (match := line.first(rf"\b(?:at|in)\s+(?:the\s+)?{re.escape(name)}\b")):
            line.take(match)
            return homes[id]
    return None
