"""The words of a quick question: what has been read of them, and what is left."""

import re

from .. import tables
from ..errors import BadInput

SIZE = r"(?:[1-4]/0|\d{1,4})"
ELECTRODES = {
    "rod": "rod", "rods": "rod", "pipe": "water", "water": "water", "ufer": "concrete",
    "concrete": "concrete", "rebar": "concrete", "ring": "ring", "plate": "plate",
}  # fmt: skip
NUMBERS = {"one": "1", "two": "2", "three": "3", "four": "4", "five": "5", "six": "6"}
#: Words that carry nothing here.
EMPTY = {
    "for", "a", "an", "the", "of", "and", "with", "on", "at", "to", "in", "is", "what", "size",
    "how", "soon", "wire", "conductor", "service", "breaker", "amp", "only",
}  # fmt: skip
MOST = 120


class Words:
    """A question in small letters; every reader takes what it has read."""

    def __init__(self, question: str):
        plain = question.lower().replace("×", "x").replace("’", "'").split()
        self.text = " ".join(NUMBERS.get(w, w) for w in plain)[:MOST]
        self.left = f" {self.text} "

    def has(self, pattern: str) -> re.Match[str] | None:
        """The first match in what is left; taken."""
        match = re.search(pattern, self.left)
        if match is not None:
            self.left = f"{self.left[: match.start()]} {self.left[match.end() :]}"
        return match

    def number(self, unit: str) -> float | None:
        """A figure with its unit."""
        match = self.has(rf"(?<![\d./-])(\d+(?:\.\d+)?)\s*-?\s*(?:{unit})(?![a-z])")
        return float(match[1]) if match else None

    def amps(self) -> float | None:
        """So many amperes."""
        return self.number(r"amperes?|amps?|a")

    def feet(self) -> float | None:
        """So many feet."""
        return self.number(r"feet|foot|ft|'")

    def metal(self) -> str | None:
        """Copper or aluminum, where it is said."""
        match = self.has(rf"\b({'|'.join(tables.METAL_WORDS)})\b")
        return tables.METAL_WORDS[match[1]] if match else None

    def electrode(self) -> str | None:
        """The kind of electrode, where it is said."""
        match = self.has(rf"\b({'|'.join(ELECTRODES)})\b")
        return ELECTRODES[match[1]] if match else None

    def sized(self) -> tuple[int, str] | None:
        """(sets, size): ``4/0``, ``#6``, ``2x4/0``."""
        unit = r"(?:\s*(?:awg|kcmil|mcm))?(?![\d./a-z])"
        match = self.has(rf"(?<![\d./])(?:(\d)\s*x\s*)?#?({SIZE}){unit}")
        if match is None:
            return None
        return int(match[1] or 1), str(tables.known_size(match[2]))

    def edition(self) -> int | None:
        """A year of the rules."""
        match = self.has(r"\b(20(?:05|08|11|14|17|20|23|26))\b")
        return int(match[1]) if match else None

    def done(self) -> None:
        """BadInput where a word was not used: none is dropped unseen."""
        unused = [w for w in re.findall(r"[^\s,;:?]+", self.left) if w not in EMPTY]
        if unused:
            raise BadInput(f"“{' '.join(unused)}” was not understood here.")
