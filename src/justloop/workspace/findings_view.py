"""Findings as the screen shows them: at a place, elsewhere, set aside, and the whole fix list."""

from returnpath.rules import LEVELS, FindingRow, grouped
from returnpath.rules.not_looked import in_words
from returnpath.site import Installation, describe
from returnpath.vocabulary import GRAVE

from .address import Address
from .solved import SolvedSite, standing

MOST_CHANGES = 3


def changes_of(site: Installation, finding) -> str:
    """What *Do it* would change in the description, in words."""
    said = [describe(site, edit) for edit in finding.fix[:MOST_CHANGES]]
    more = len(finding.fix) - len(said)
    return "; ".join(said) + (f"; and {more} more" if more else "")


def shown(
    finding, address: Address, trying: bool = False, site: Installation | None = None
) -> dict:
    """One finding with what can be done about it."""
    asks = f"aside:{finding.key}"
    is_asked = address.open == asks
    return {
        "aside_open": is_asked,
        "aside_href": address.to(open="" if is_asked else asks),
        "key": finding.key,
        "id": finding.id,
        "level": finding.level,
        "place": finding.place_name,
        "place_id": finding.place,
        "found": finding.found,
        "why": finding.why,
        "do": finding.do,
        "authority": str(finding.authority),
        "parts": ", ".join(finding.parts),
        "folded": [{"place": f.place_name, "found": f.found} for f in finding.folded],
        "href": address.to(at=finding.place),
        "can_fix": bool(finding.fix) and not trying,
        "changes": changes_of(site, finding) if site and finding.fix and not trying else "",
        "working": finding.working,
        "anchor": "f-" + finding.key.replace(":", "-"),
    }


def at_place(solved: SolvedSite, found, address: Address, trying: bool) -> dict:
    """Findings of the chosen place and loop in full, those elsewhere in one line each."""
    here, elsewhere, to_check = [], [], 0
    for f in found:
        if f.place in (address.at, address.loop):
            here.append(shown(f, address, trying, solved.site))
        elif f.level in GRAVE:
            elsewhere.append(
                {
                    "level": f.level,
                    "place": f.place_name,
                    "found": f.found,
                    "href": address.to(at=f.place),
                }
            )
        else:
            to_check += 1
    return {"here": here, "elsewhere": elsewhere, "to_check": to_check}


def fix_list(solved: SolvedSite, aside: dict, address: Address, trying: bool) -> dict:
    """Every finding by place, worst place first; what was set aside after them; the parts."""
    found = standing(solved, aside)
    groups: dict[str, dict] = {}
    to_look = [f for f in found if f.level not in GRAVE]
    for finding in found:
        if finding.level not in GRAVE:
            continue
        if finding.place not in groups:
            groups[finding.place] = {
                "place": finding.place_name,
                "where": _where(solved.site, finding.place),
                "href": address.to(at=finding.place),
                "items": [],
            }
        groups[finding.place]["items"].append(shown(finding, address, trying, solved.site))
    counts = {level: sum(f.level == level for f in found) for level in LEVELS}
    by_key = {f.key: f for f in solved.findings}
    return {
        "groups": list(groups.values()),
        "rows": [_row(row, address, trying, solved.site) for row in grouped(to_look)],
        "not_looked": in_words(solved.site),
        "counts": [(level, n) for level, n in counts.items() if n],
        "aside": [
            {"key": key, **about, "still": key in by_key,
             "found": by_key[key].found if key in by_key else "It is no longer found."}
            for key, about in aside.items()
        ],
        "parts": _parts(found),
    }  # fmt: skip


def _row(row: FindingRow, address: Address, trying: bool, site: Installation) -> dict:
    """One row for many places, opened on demand."""
    first = row.first
    return {
        "level": first.level,
        "count": len(row.findings),
        "places": row.places,
        "do": row.title,
        "found": first.found,
        "anchor": f"row-{first.id}-{first.place}",
        "items": [shown(f, address, trying, site) for f in row.findings],
    }


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
