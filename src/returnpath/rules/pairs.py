"""A bad and a good example of every finding, as edits of one clean place of its rule set
(pairs.json, pairs_metric.json)."""

import json
from functools import cache
from importlib import resources
from typing import Any

from ..site import Edit, Installation, apply, loads, parse_edit
from ..words import RuleSet

FILES = {RuleSet.US: "pairs.json", RuleSet.METRIC: "pairs_metric.json"}


@cache
def _data(rule_set: RuleSet) -> dict[str, Any]:
    text = resources.files(__package__).joinpath(FILES[rule_set]).read_text("utf-8")
    return json.loads(text)


def rule_set_of(id: str) -> RuleSet:
    """The rule set whose place a finding's pair is made of; the United States' for no id."""
    return RuleSet.METRIC if id in _data(RuleSet.METRIC)["pairs"] else RuleSet.US


@cache
def base(id: str = "") -> Installation:
    """The clean place that the examples of a finding start from: nothing is found in it."""
    return loads(json.dumps(_data(rule_set_of(id))["base"]))


def pair(id: str) -> tuple[list[Edit], list[Edit], tuple[str, ...]]:
    """(edits that make it, edits of a good example, other findings that come along)."""
    row = _data(rule_set_of(id))["pairs"][id]
    bad, good = ([parse_edit(e) for e in row[k]] for k in ("bad", "good"))
    return bad, good, tuple(row.get("also", ()))


def ids() -> set[str]:
    """The findings that have a pair."""
    return {id for rule_set in FILES for id in _data(rule_set)["pairs"]}


def edited(edits: list[Edit], id: str = "") -> Installation:
    """The clean place of a finding's rule set with ``edits``."""
    site = base(id)
    for edit in edits:
        site = apply(site, edit)
    return site
