"""A bad and a good example of every finding, as edits of one clean place (pairs.json)."""

import json
from functools import cache
from importlib import resources

from ..site import Edit, Installation, apply, loads, parse_edit


@cache
def _data() -> dict:
    return json.loads(resources.files(__package__).joinpath("pairs.json").read_text("utf-8"))


@cache
def base() -> Installation:
    """The clean place that every example starts from: nothing is found in it."""
    return loads(json.dumps(_data()["base"]))


def pair(id: str) -> tuple[list[Edit], list[Edit], tuple[str, ...]]:
    """(edits that make it, edits of a good example, other findings that come along)."""
    row = _data()["pairs"][id]
    bad, good = ([parse_edit(e) for e in row[k]] for k in ("bad", "good"))
    return bad, good, tuple(row.get("also", ()))


def ids() -> set[str]:
    """The findings that have a pair."""
    return set(_data()["pairs"])


def edited(edits: list[Edit]) -> Installation:
    """The clean place with ``edits``."""
    site = base()
    for edit in edits:
        site = apply(site, edit)
    return site
