"""What can be typed, by rule set (``tables/line_examples.csv``): each line is read in a test."""

from functools import cache

from ... import tables
from ...words import RuleSet


@cache
def line_examples(rule_set: RuleSet) -> tuple[tuple[str, tuple[str, ...]], ...]:
    """(what it makes, the lines that make one), in the order of the table."""
    found: dict[str, list[str]] = {}
    for row in tables.rows("line_examples"):
        if row["rules"] == rule_set:
            found.setdefault(row["what"], []).append(row["line"])
    return tuple((what, tuple(lines)) for what, lines in found.items())


def first_example(rule_set: RuleSet) -> str:
    """The line shown in an empty box."""
    return line_examples(rule_set)[0][1][0]
