"""The neutral bond of a panel: “bond screw in”, “neutrals isolated”, “no bond strap”."""

import re
from dataclasses import dataclass

from ... import tables
from .line import Line

_PART = r"(?:(?:main|green|neutral)\s+)*(?:bond(?:ing)?\s+)?"
_WIRE = rf"(?:{_PART}(?:screw|strap)|(?:main\s+)?(?:neutral\s+)?bond(?:ing)?\s+(?:jumper|link)|mbj)"
_IS = r"\s+(?:is\s+|are\s+|was\s+)?"
_EARTHS = r"neutrals?\s*(?:and|&|/|to)\s*(?:the\s+)?(?:grounds?|earths?|egcs?)(?:\s+bars?)?"
_SIZED = (
    r"\b(?:main\s+bond(?:ing)?\s+jumper|mbj)\s*(?:is\s+|of\s+)?(?:an?\s+)?#?\s*((?:[1-4]/0)|[1-8])(?![\d/])"
    r"\s*(?:awg)?\s*(?:cu|copper)?(?:\s*wire)?\b"
)
_IN = (
    rf"\b{_WIRE}{_IS}(?:not\s+removed|in(?:\s+place|stalled)?|present|fitted|there|made)\b",
    rf"\bwith\s+(?:an?\s+|the\s+|its\s+)?{_WIRE}\b",
    rf"\b(?:neutral\s+)?bond{_IS}in\b",
    rf"\bbonded\s+neutrals?\b|\bneutrals?{_IS}bonded\b",
    rf"\b{_EARTHS}{_IS}(?:bonded|joined|together|tied|linked|on\s+(?:the\s+)?(?:same|one)\s+bar)"
    r"(?:\s+together)?(?:\s+(?:here|there|in\s+it))?\b",
)
_OUT = (
    rf"\b{_WIRE}{_IS}(?:out|not\s+in(?:stalled)?|not\s+there|removed|missing|absent|left\s+out|taken\s+out|pulled)\b",
    rf"\b(?:no|without(?:\s+an?)?|without\s+the)\s+{_WIRE}\b",
    rf"\b(?:neutral\s+)?bond{_IS}(?:out|removed)\b",
    r"\b(?:floating|floated|isolated|insulated|separate|separated|unbonded)\s+neutrals?(?:\s*(?:and|&)\s*(?:grounds?|earths?))?(?:\s+bars?)?\b",
    rf"\bneutrals?(?:\s+bars?)?{_IS}(?:not\s+bonded|floating|floated|isolated|insulated|separated?|unbonded|kept\s+apart)\b",
    rf"\b{_EARTHS}{_IS}(?:separated?|apart|isolated|kept\s+apart|kept\s+separate|on\s+(?:separate|their\s+own|two)\s+bars)\b",
)
#: A generator's or an inverter's bond is its own.
OF_A_SOURCE = r"\b(?:generators?|genset|inverters?|batter(?:y|ies)|ess|transfer)\b"
#: Whose it is, in a line that says no more.
ITS_PANEL = r"\b(?:the|at|in|of|main|service|panel|here|there)\b"


@dataclass(frozen=True)
class SaidBond:
    """``bond`` “in” or “out”; ``kind`` screw or strap, where that was said."""

    bond: str
    kind: str = ""
    size: str = ""

    @property
    def facts(self) -> dict[str, str]:
        """By the panel's keys."""
        kind = {"bond_kind": self.kind} if self.kind else {}
        return {"bond": self.bond} | kind | ({"bond_size": self.size} if self.size else {})

    @property
    def words(self) -> str:
        """As read back."""
        size = f" of {tables.size_name(self.size)}" if self.size else ""
        return f"its neutral bond {self.bond}" + (f", a {self.kind}{size}" if self.kind else "")


def bond_in(line: Line) -> SaidBond | None:
    """What a line says of a panel's neutral bond, taken from it; both at once is a problem."""
    if sized := line.first(_SIZED):
        line.take(sized)
        return SaidBond("in", "wire", sized[1])
    found = {}
    for bond, patterns in (("out", _OUT), ("in", _IN)):
        for pattern in patterns:
            if match := line.first(pattern):
                line.take(match)
                found[bond] = match[0]
    if not found:
        return None
    if len(found) > 1:
        line.problems.append(f"“{found['in']}” or “{found['out']}”? Write one of them.")
        return None
    ((bond, said),) = found.items()
    kind = re.search(r"screw|strap", said) if bond == "in" else None
    return SaidBond(bond, kind[0] if kind else "")


def is_of_a_bond(line: Line) -> bool:
    """Whether the whole line says a bond, and perhaps whose panel's."""
    for pattern in (_SIZED, *_OUT, *_IN):
        if match := line.first(pattern):
            rest = f"{line.low[: match.start()]} {line.low[match.end() :]}"
            return not re.sub(ITS_PANEL + r"|[,;.]", " ", rest).strip()
    return False
