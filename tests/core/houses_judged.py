"""The houses under tests/houses: a start, what was done to it, what must and must not be found.

``must``: [finding, place, level] that has to be there. ``also``: findings that come along with a
mistake. Nothing else of danger or fix may be told; a clean house has neither.
"""

import json
from pathlib import Path

from returnpath.site import Installation, apply, loads, parse_edit

HOUSES = Path(__file__).parents[1] / "houses"


def stories() -> dict[str, dict]:
    """Every house by its file's name."""
    return {p.stem: json.loads(p.read_text("utf-8")) for p in sorted(HOUSES.glob("*.json"))}


def built(story: dict) -> Installation:
    """The house as it stands."""
    site = loads((HOUSES / "starts" / f"{story['start']}.json").read_text("utf-8"))
    for edit in story["edits"]:
        site = apply(site, parse_edit(edit))
    return site
