"""The trade's words, a column for each rule set (``tables/words.csv``): a change is one line.

What the United States' rules speak is asked for unless a rule set is named; the words of the
metric one are there for when a job can choose it.
"""

from enum import StrEnum
from functools import cache

from . import tables


class RuleSet(StrEnum):
    """Whose words."""

    US = "us"
    METRIC = "metric"


@cache
def words(group: str, rule_set: RuleSet = RuleSet.US) -> dict[str, str]:
    """key → word, of one group of the table: verdict, criterion, branch, list, bar, bond."""
    return {r["key"]: r[rule_set] for r in tables.rows("words") if r["group"] == group}
