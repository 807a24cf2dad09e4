"""One typed line: its text, what of it has been read, and the facts read from it.

Every reader looks for its pattern in what nobody has read yet and takes it; what is left at the
end is the name, or is shown as not used. No word is dropped unseen.
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

from ... import tables
from ...errors import BadInput

MOST = 300
#: What marks a line that speaks the metric set's words.
MARK = "metric"
_NUMBERS = {
    "one": "1", "two": "2", "three": "3", "four": "4", "five": "5", "six": "6", "seven": "7",
    "eight": "8", "nine": "9", "ten": "10", "twelve": "12", "fifteen": "15", "twenty": "20",
    "thirty": "30", "forty": "40", "fifty": "50", "sixty": "60", "seventy": "70", "eighty": "80",
    "ninety": "90", "hundred": "100",
}  # fmt: skip
_TENS = ("twenty", "thirty", "forty", "fifty", "sixty", "seventy", "eighty", "ninety")
_ONES = ("one", "two", "three", "four", "five", "six", "seven", "eight", "nine")
_WORDS = (
    r"(?i)\b(?:(?:one|two|three|four)\s+hundred|(?:" + "|".join(_TENS) + r")[ -](?:" + "|".join(_ONES) + r")|"
    + "|".join(_NUMBERS) + r")\b"
)  # fmt: skip
#: Trade sizes as they are spoken.
_TRADE_WORDS = (
    (r"\b(?:one\s+)?inch\s+and\s+a\s+quarter\b|\bone\s+and\s+a\s+quarter\s+inch\b", "1-1/4 in"),
    (r"\b(?:one\s+)?inch\s+and\s+a\s+half\b|\bone\s+and\s+a\s+half\s+inch\b", "1-1/2 in"),
    (r"\bthree[\s-]+quarters?\b(?=[\s-]*(?:in\b|inch|emt|pvc|rigid|imc|conduit|flex|pipe))", "3/4"),
    (r"\bhalf\b(?=[\s-]*(?:in\b|inch|emt|pvc|rigid|imc|conduit|flex))", "1/2"),
)  # fmt: skip
#: “twelve two”, “ten-three with ground”; no count of poles, rods or feet.
_GAUGES = {"fourteen": "14", "twelve": "12", "ten": "10", "eight": "8", "six": "6"}
_SPOKEN_CABLE = (
    r"\b(fourteen|twelve|ten|eight|six)[\s-]+(two|three)\b"
    r"(?![\s-]*(?:poles?|pair|rods?|circuits?|feet|foot|ft|inch|inches|spaces?|strings?|hundred|quarter|amp|a\b|\d|'|\"))"
)
_PLAIN = {"’": "'", "′": "'", "“": '"', "”": '"', "″": '"', "–": "-", "—": "-", "×": "x", "½": "½"}


def _lowered(text: str) -> str:
    """The line in small letters, typographic marks and number words plain, the same length."""
    plain = "".join(_PLAIN.get(c, c) for c in text)
    low = "".join(c.lower() if len(c.lower()) == 1 else c for c in plain)
    low = re.sub(
        r"\b(" + "|".join(_TENS) + r")[ -](" + "|".join(_ONES) + r")\b",
        lambda m: str(int(_NUMBERS[m[1]]) + int(_NUMBERS[m[2]])).ljust(len(m[0])),
        low,
    )
    low = re.sub(
        r"\b(one|two|three|four)\s+hundred\b(?!\s+(?:and\s+)?(?:" + "|".join(_TENS) + r"))",
        lambda m: f"{_NUMBERS[m[1]]}00".ljust(len(m[0])),
        low,
    )
    low = re.sub(_SPOKEN_CABLE, lambda m: f"{_GAUGES[m[1]]}/{_NUMBERS[m[2]]}".ljust(len(m[0])), low)
    for words, figure in _TRADE_WORDS:
        for match in re.finditer(words, low):
            low = low[: match.start()] + figure.ljust(len(match[0])) + low[match.end() :]
    return re.sub(
        r"\b(" + "|".join(_NUMBERS) + r")\b",
        lambda m: _NUMBERS[m[1]].ljust(len(m[1])),
        low,
    )


@dataclass
class Line:
    """``facts`` by the job file's keys (``breaker.rating_a``); ``assumed`` those read from custom;
    ``said`` what was read, in words; ``problems`` what cannot be, a sentence each."""

    text: str
    facts: dict[str, Any] = field(default_factory=dict)
    assumed: set[str] = field(default_factory=set)
    problems: list[str] = field(default_factory=list)
    marks: set[str] = field(default_factory=set)
    bond: Any = None  # what it says of a panel's neutral bond
    load_a: float | None = None  # what the load draws, of no breaker

    def __post_init__(self):
        self.text = "".join(c if c.isprintable() else " " for c in self.text[:MOST])
        self.low = _lowered(self.text)
        self.number_words = [(m.start(), m.end()) for words in (_WORDS, _SPOKEN_CABLE)
                             for m in re.finditer(words, self.text.lower())]  # fmt: skip
        self.read = [False] * len(self.text)

    def find(self, pattern: str) -> Iterator[re.Match[str]]:
        """Matches of a pattern in what nobody has read yet."""
        compiled, at = re.compile(pattern), 0
        while at <= len(self.low) and (match := compiled.search(self.low, at)):
            whole = not any(self.read[match.start() : match.end()])
            if match[0].strip() and whole and not self._cuts_a_figure(match):
                yield match
                at = max(match.end(), at + 1)
            else:
                at = match.start() + 1

    def _cuts_a_figure(self, match: re.Match[str]) -> bool:
        """Whether it begins or ends in the middle of a number: 10 is not in 1001."""
        return any(
            self.low[at - 1 : at].isdigit() and self.low[at : at + 1].isdigit()
            for at in (match.start(), match.end())
        )

    def first(self, pattern: str) -> re.Match[str] | None:
        """The first of them."""
        return next(self.find(pattern), None)

    def take(self, match: re.Match[str], **facts: Any) -> None:
        """Mark what a pattern read, with the facts it gives (``__`` for the dot)."""
        self.mark(match.start(), match.end())
        for name, value in facts.items():
            self.give(name.replace("__", "."), value, match[0].strip())

    def mark(self, start: int, end: int) -> None:
        """Mark a stretch as read; a number written as a word goes whole."""
        for a, b in self.number_words:
            if a < end and start < b:
                start, end = min(a, start), max(b, end)
        for n in range(start, end):
            self.read[n] = True

    def give(self, key: str, value: Any, word: str) -> None:
        """A fact that the line says. One said twice and otherwise is nobody's to choose."""
        if key in self.facts and key not in self.assumed and self.facts[key] != value:
            self.problems.append(
                f"“{word}” says otherwise than what stands before it: write one of them."
            )
            return
        self.facts[key] = value
        self.assumed.discard(key)

    def suppose(self, key: str, value: Any) -> None:
        """A fact that custom gives, where the line does not say it."""
        if key not in self.facts:
            self.facts[key] = value
            self.assumed.add(key)

    def take_all(self, pattern: str, mark: str = "", **facts: Any) -> bool:
        """Take every match of a pattern with the same facts; whether there was one."""
        found = False
        for match in list(self.find(pattern)):
            self.take(match, **facts)
            found = True
        if found and mark:
            self.marks.add(mark)
        return found

    def is_number_word(self, start: int) -> bool:
        """Whether a number is written as a word there."""
        return any(a == start for a, _ in self.number_words)

    def left(self) -> list[tuple[int, str]]:
        """(where, word) of what nobody has read."""
        shown = "".join(" " if r else c for c, r in zip(self.text, self.read, strict=True))
        return [(m.start(), m[0]) for m in re.finditer(r"\S+", shown)]


def size_of(text: str, words: str, line: Line) -> str | None:
    """A conductor size that is made; None with a sentence where it is not."""
    try:
        return str(tables.known_size(text.strip()))
    except BadInput as error:
        line.problems.append(f"“{words.strip()}”: {error.sentence}")
        return None


def is_size(text: str) -> bool:
    """Whether ``text`` is an AWG or kcmil size."""
    return text in tables.conductors()
