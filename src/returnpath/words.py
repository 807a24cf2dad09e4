"""The trade's words, a column for each rule set (``tables/words.csv``): a change is one line.

What the United States' rules speak is asked for unless a rule set is named. Sentences are
written in its words; :func:`spoken` puts a whole sentence, a label or a page into another set's.
"""

import re
from collections.abc import Callable
from enum import StrEnum
from functools import cache, lru_cache

from . import tables
from .vocabulary.units import FOOT_M, INCH_M

#: What the metric rule set is called, where the other names its edition.
METRIC_RULES = "IEC 60364"


class RuleSet(StrEnum):
    """Whose words."""

    US = "us"
    METRIC = "metric"


@cache
def words(group: str, rule_set: RuleSet = RuleSet.US) -> dict[str, str]:
    """key → word, of one group of the table: verdict, criterion, branch, list, bar, bond."""
    return {r["key"]: r[rule_set] for r in tables.rows("words") if r["group"] == group}


@cache
def _terms(names: frozenset[str]) -> tuple[re.Pattern[str], dict[str, str]]:
    """The metric rule set's terms, longest first; a person's own names stand before all."""
    terms = words("term", RuleSet.METRIC)
    longest = sorted(terms, key=len, reverse=True)
    own = "|".join(re.escape(n) for n in sorted(names, key=len, reverse=True))
    said = "|".join(re.escape(t) for t in longest)
    kept = f"(?P<own>{own})|" if own else ""
    article = r"(?:(?<!\d )(?P<article>an?) )?"
    whole = rf"(?<![\w-])(?:{kept}{article}(?P<term>{said}))(?![\w-])"
    return re.compile(whole, re.IGNORECASE), terms


def spoken(text: str, rule_set: RuleSet, names: frozenset[str] = frozenset()) -> str:
    """A sentence in the words of a rule set: each term of the table's group *term* is replaced by
    the set's own, its capital kept. ``names`` are a person's words and stay as they are."""
    return text if rule_set is RuleSet.US else _speaker(names)(text)


@lru_cache(maxsize=16)
def _speaker(names: frozenset[str]) -> Callable[[str], str]:
    """The metric set's speaker beside a person's own ``names``. It keeps what it said: between two
    changes nearly every text of a page is the same."""
    pattern, terms = _terms(names)

    def instead(found: re.Match[str]) -> str:
        was = found["term"]
        if was is None:
            return found[0]
        said = terms.get(was) or terms[_key(was)]
        if was[0].isupper() and was[1:] == was[1:].lower():
            said = said[0].upper() + said[1:]
        if found["article"] is None:
            return said
        vowel = said.startswith(_SAID_WITH_AN) or said[0].lower() in "aeiou"
        return f"{found['article'][0]}{'n' if vowel else ''} {said}"

    @lru_cache(maxsize=16_384)
    def say(text: str) -> str:
        return pattern.sub(instead, _EDITION.sub(METRIC_RULES, _in_metres(text)))

    return say


_NUMBER = r"(?<![\w./])(\d[\d,]*(?:\.\d+)?)"
#: (a length or area in a sentence, the factor to the metric unit, that unit).
_UNITS = (
    (re.compile(rf"{_NUMBER}[\s-]?sq\s?ft\b"), FOOT_M**2, "m²"),
    (re.compile(rf"{_NUMBER}[\s-]?(?:ft|feet|foot)\b"), FOOT_M, "m"),
    (re.compile(rf"{_NUMBER} in(?= (?:deep|wide|high|of cover|apart)\b)"), INCH_M * 1000, "mm"),
)


_EDITION = re.compile(r"(?i)\b(?:the )?rules of (?:19|20)\d\d\b")


def _in_metres(text: str) -> str:
    """Feet and inches of a sentence in metres and millimetres, to three figures."""
    for pattern, factor, unit in _UNITS:

        def instead(found: re.Match[str], factor: float = factor, unit: str = unit) -> str:
            value = float(found[1].replace(",", "")) * factor
            shown = f"{value:,.0f}" if value >= 100 else f"{value:.3g}"
            return f"{shown} {unit}"

        text = pattern.sub(instead, text)
    return text


#: What begins with a vowel when it is said, though not when it is written.
_SAID_WITH_AN = ("RCD", "RCBO", "MCB")


@cache
def _key(was: str) -> str:
    return next(t for t in words("term", RuleSet.METRIC) if t.lower() == was.lower())
