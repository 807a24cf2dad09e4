"""Several circuits in one line, and those that share a neutral."""

import re
from dataclasses import dataclass
from typing import Any

from ..edits import Add
from ..installation import name_of
from .line import Line
from .making import Making

_MULTIWIRE = (
    r"\bm\.?w\.?b\.?c\b\.?|\bmulti\s*-?\s*wire\b(?:\s+branch)?|"
    r"\bshar(?:ing|es?|ed)\s+(?:an?\s+|one\s+)?(?=[#\d])"
)
_SHARES = r"\b(?:sharing|shared?s?)\s+(?:its\s+|the\s+|an?\s+|one\s+)?neutrals?\b"
_TIE = r"(?:handle\s*-?\s*)?(?:ties?|tied)\b(?:\s+(?:handles?|together))?"
_NOT_TIED = rf"\b(?:no|not|without|w/o|un)\s*-?\s*(?:an?\s+)?{_TIE}"
_TIED = rf"\b(?:with\s+|w/\s*)?(?:an?\s+)?{_TIE}"
_AMPS = r"(?=(?:15|20|25|30|35|40|45|50|60|70|80|90|100)\s*-?\s*(?:a\b|amp))"
_COUNTS = (
    rf"\b([2-9])\s*x\s*{_AMPS}",
    rf"\(\s*([2-9])\s*\)\s*{_AMPS}",
    r"(?<![\w./#-])([2-9])\s+(?=(?:[a-z]+\s+){0,3}circuits\b)",
    r"(?<![\w./#-])([2-9])\s+(?=(?:\d+\s*-?\s*(?:a|amps?)\s+)(?:[a-z]+\s+){0,3}circuits\b)",
)


@dataclass
class Pair:
    """How many circuits a line makes; ``multiwire`` where they share a neutral; ``of`` the circuit
    that is here already and shares its own; ``tied`` whether they open together."""

    count: int = 1
    multiwire: bool = False
    of: str | None = None
    tied: str | None = None

    @classmethod
    def read(cls, m: Making) -> "Pair":
        """What the line says of it; taken from the line."""
        line = m.line
        count = _count(line)
        of = _partner(m)
        multiwire = line.take_all(_MULTIWIRE)
        if multiwire and line.facts.get("poles") == 2 and count == 1:
            line.suppose("neutral", "yes")  # one two-pole breaker: one circuit of two legs
            return cls()
        if of is None and line.take_all(_SHARES):
            if count == 2:
                multiwire = True
            else:
                line.problems.append(
                    "With which circuit does it share its neutral? Write “shares its neutral with”"
                    " and the name, or “multiwire” for both in this line."
                )
        if multiwire and count > 2:
            line.problems.append("A multiwire circuit here is a pair: a line for each pair.")
        tied = None
        if multiwire or of:
            tied = "no" if line.take_all(_NOT_TIED) else "yes" if line.take_all(_TIED) else None
        return cls(2 if multiwire else count, multiwire, of, tied)

    def before(self, line: Line) -> None:
        """What a pair means for the facts of each half, before custom adds its own."""
        if not (self.multiwire or self.of):
            return
        if "wires 2" in line.marks:
            line.problems.append("Two circuits that share a neutral need three insulated wires.")
        line.give("poles", 1, "multiwire")
        line.suppose("neutral", "yes")

    def make(self, m: Making, facts: dict[str, Any]) -> None:
        """The edits, each circuit of its own name, and what they are in words."""
        name = facts.get("name", "")
        if self.tied is not None:
            facts = facts | {"common_opening": self.tied}
            m.made.facts["common_opening"] = self.tied
            m.made.words.append("opened together" if self.tied == "yes" else "not tied")
        if self.of is not None:
            facts = facts | {"shares_with": self.of}
            m.made.facts["shares_with"] = self.of
            m.made.words.append(f"shares the neutral of {name_of(m.site.elements()[self.of])}")
        m.made.count = self.count
        if self.count > 1:
            what = " that share a neutral" if self.multiwire else ""
            m.made.title = f"{self.count} circuits{what}" + (f": {name}" if name else "")
        for number in range(self.count):
            own = facts | ({"name": f"{name[:76]} {number + 1}"} if name and self.count > 1 else {})
            if self.multiwire and number:
                own = own | {"shares_with": "@1"}
            if number:
                own = {k: v for k, v in own.items() if k != "space"}
            m.made.edits.append(Add(to="circuits", facts=own))


def _count(line: Line) -> int:
    """“two 20A”, “2 x 40A”, “three lighting circuits”, “two 15s”; a bare figure in front may be
    the number of its space, and is no count."""
    if match := line.first(r"\b([2-9])\s+(?:(15|20|30)\s*'?s)\b"):
        line.take(match, breaker__rating_a=float(match[2]))
        return int(match[1])
    for pattern in _COUNTS:
        if match := line.first(pattern):
            line.take(match)
            line.take_all(r"\bcircuits\b")
            return int(match[1])
    spoken = line.first(rf"^\s*([2-9])\s+{_AMPS}")
    if spoken is not None and line.is_number_word(spoken.start(1)):
        line.take(spoken)
        line.take_all(r"\bcircuits?\b")
        return int(spoken[1])
    return 1


def _partner(m: Making) -> str | None:
    """The circuit named behind “shares its neutral with”, by its name or id."""
    named = sorted(
        ((word.lower(), c.id) for c in m.site.circuits for word in {name_of(c), c.id}),
        key=lambda n: -len(n[0]),
    )
    lead = rf"{_SHARES}\s+(?:with|of)\s+(?:the\s+)?"
    for word, id in named:
        if match := m.line.first(rf"{lead}{re.escape(word)}(?:\s+circuit)?\b"):
            m.line.take(match)
            return id
    if match := m.line.first(rf"{lead}([\w'’ -]+)"):
        m.line.take(match)
        m.line.problems.append(f"There is no circuit called “{match[1].strip()}” here.")
    return None
