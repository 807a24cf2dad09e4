"""The metric houses: each typed line by line as an electrician would say it, then judged."""

from pathlib import Path
from typing import Any

import yaml

from returnpath.site import Add, Installation, Set, Supply, apply, name_of, read_place
from returnpath.site.edits import apply_all

FILE = Path(__file__).parents[1] / "houses_metric" / "houses.yaml"


def stories() -> dict[str, dict[str, Any]]:
    """Every house by its name."""
    return {s["name"]: s for s in yaml.safe_load(FILE.read_text("utf-8"))}


def built(story: dict[str, Any]) -> Installation:
    """The house as it stands. AssertionError for a line that is not read whole."""
    supply = {"system": "230", **story["supply"]}
    site = Installation(frequency_hz=50, supplies=(Supply(id="u1", **supply),))
    facts = {"name": "House", "permit": "dwelling", "wired_year": 2019}
    site = apply(site, Add(to="buildings", facts=facts))
    start = {
        "p1.name": "Board", "p1.building": site.buildings[0].id, "p1.main.rating_a": 100.0,
        "p1.main.kind": "switch", "p1.insulated": "yes", "p1.directory": "clear",
        "p1.surge_protector": "yes", "s1.line_size": "25mm2", "s1.neutral_size": "25mm2",
    }  # fmt: skip
    if "electrode" in story:
        start |= {"e1.kind": "rod", "e1.ohm": float(story["electrode"]), "e1.gec_size": "16mm2"}
    for path, value in start.items():
        site = apply(site, Set(path=path, value=value))
    for line in story["lines"]:
        site = _typed(site, line)
    for place, value in story.get("facts", {}).items():
        name, _, fact = place.rpartition(".")
        site = apply(site, Set(path=f"{_id(site, name)}.{fact}", value=_value(site, fact, value)))
    return site


def _typed(site: Installation, line: str) -> Installation:
    board, _, said = line.rpartition(": ")
    read = read_place(site, said, _id(site, board) if board else "")
    assert read.is_complete, (line, read.problems, read.unused)
    before = {p.id for p in site.panels}
    site = apply_all(site, read.edits)
    for panel in site.panels:  # a board of today: insulating, its directory clear
        if panel.id not in before:
            for fact, value in (("insulated", "yes"), ("directory", "clear"), ("bond", "out")):
                site = apply(site, Set(path=f"{panel.id}.{fact}", value=value))
    return site


def _id(site: Installation, name: str) -> str:
    found = [i for i, e in site.elements().items() if name_of(e).lower() == name.lower()]
    assert len(found) == 1, (name, found)
    return found[0]


def _value(site: Installation, fact: str, value: Any) -> Any:
    return _id(site, value) if fact == "building" else value
