"""What is to be bought: from findings and the sizes they ask for; wire a run at a time."""

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cache

from .. import tables
from ..rules import Evidence, Finding
from ..site import Edit, Set
from ..tables import metal_name, size_name
from .cuts import Piece

SLACK_SHARE = 0.1  # of a run, besides what is lost at its two ends (part_kinds.csv)
COUNTS = {"a": 1, "an": 1, "one": 1, "two": 2, "three": 3, "four": 4}


@cache
def wire_colours(rule_set: str) -> dict[str, str]:
    """Role → the colours of its insulation; from 4 AWG on it may be marked at its ends instead."""
    return {r["role"]: r[rule_set] for r in tables.rows("wire_colours")}


@dataclass(frozen=True)
class PartLine:
    """One line: how many, or how many feet (with slack); ``of`` the places; ``pieces`` the runs it
    is cut in; ``length_known`` False where nobody gave a length."""

    kind: str
    what: str
    count: int
    feet: float
    of: tuple[str, ...]
    findings: tuple[str, ...]
    note: str = ""
    pieces: tuple[Piece, ...] = ()
    length_known: bool = True

    @property
    def key(self) -> str:
        """What a price list knows it by."""
        return self.what.lower()


@dataclass(frozen=True)
class PartTotal:
    """The money of a list in one column; ``open`` what has no price or no length."""

    money: float
    open: tuple[str, ...]


@cache
def part_kinds() -> dict[str, tuple[str, str, float]]:
    """kind → (pattern of its words, label, what a run loses at its ends, ft); in walking order."""
    return {
        r["key"]: (r["words"], r["label"], float(r["slack_ft"])) for r in tables.rows("part_kinds")
    }


def parts_of(s: Evidence, found: Iterable[Finding], slack: float = SLACK_SHARE
             ) -> tuple[PartLine, ...]:  # fmt: skip
    """The list of some findings, alike lines together, in the order of the kinds."""
    lines: list[PartLine] = []
    for finding in found:
        wires = _wires(s, finding, slack)
        lines += wires
        for text in finding.parts:
            line = _line(s, finding, text, slack)
            if not (wires and line.kind == "wire"):
                lines.append(line)
    return _together(lines)


_WIRE_FACT = re.compile(r"(line|neutral|egc|gec|bond)_size$")


def _wires(s: Evidence, finding: Finding, slack: float) -> list[PartLine]:
    """The conductors that a fix changes: by size, metal and the length of their run."""
    found = []
    sizes = {e.path: e for e in finding.fix if isinstance(e, Set)}
    for path, edit in sizes.items():
        match = _WIRE_FACT.search(str(path))
        if match is None or not edit.value:
            continue
        role = match[1]
        element = s.filled.elements().get(path.element)
        fact = f"{'line' if role == 'neutral' else role}_material"
        material = _material(finding.fix, path.element, role) or getattr(element, fact, None)
        feet = _feet(element, role)
        found.append(_wire(str(edit.value), material or "copper", role, feet, slack, finding))
    return found


def _material(fix: Sequence[Edit], element: str, role: str) -> str | None:
    wanted = f"{element}.{'line' if role == 'neutral' else role}_material"
    return next((str(e.value) for e in fix if isinstance(e, Set) and str(e.path) == wanted), None)


def _feet(element: object, role: str) -> float | None:
    length = getattr(element, "gec_length_ft" if role == "gec" else "length_ft", None)
    return float(length) if isinstance(length, int | float) else None


def _wire(size: str, material: str, role: str, feet: float | None, slack: float,
          finding: Finding) -> PartLine:  # fmt: skip
    whole = _with_slack(feet, slack)
    what = f"{size_name(size)} {metal_name(material)}"
    colours = wire_colours("metric" if tables.is_metric(size) else "us")
    pieces = (Piece(whole, finding.place_name),) if whole else ()
    return PartLine("wire", f"{what}, {colours[role]}", 0, whole, (finding.place_name,),
                    (finding.key,), pieces=pieces, length_known=feet is not None)  # fmt: skip


def _with_slack(feet: float | None, slack: float) -> float:
    return float(round(feet * (1 + slack) + part_kinds()["wire"][2])) if feet else 0.0


def _line(s: Evidence, finding: Finding, text: str, slack: float) -> PartLine:
    """A part as a finding names it: “two 8 ft ground rods”, “60 ft of 12 AWG copper”."""
    kind = _kind(text)
    if match := re.match(r"(\d+(?:\.\d+)?) ft of (.+)", text):
        whole = _with_slack(float(match[1]), slack)
        return PartLine(kind, match[2], 0, whole, (finding.place_name,), (finding.key,),
                        _note(s, finding, kind), (Piece(whole, finding.place_name),))  # fmt: skip
    count, what = 1, text
    if match := re.match(r"(\d+) ×? ?(.+)", text):
        is_size = re.match(r"(AWG|kcmil|A\b|ft\b|kA\b|mm)", match[2])
        count, what = (1, text) if is_size else (int(match[1]), match[2])
    elif (first := text.split(" ", 1))[0].lower() in COUNTS and len(first) == 2:
        count, what = COUNTS[first[0].lower()], _one(first[1])
    return PartLine(kind, what, count, 0.0, (finding.place_name,), (finding.key,),
                    _note(s, finding, kind), length_known=kind != "wire")  # fmt: skip


def _one(words: str) -> str:
    return words[:-1] if words.endswith("s") and not words.endswith("ss") else words


def _kind(text: str) -> str:
    if text.isupper() or re.match(r"\d+ × [A-Z ]{6}", text):
        return "label"
    low = text.lower()
    return next(k for k, (words, _, _) in part_kinds().items() if re.search(words, low))


def _note(s: Evidence, finding: Finding, kind: str) -> str:
    """What must not be bought wrong there: copper-only equipment, clamps for burial, the panel's
    line of breakers."""
    element = s.filled.elements().get(finding.place)
    if kind == "clamp" and getattr(element, "kind", "") in ("rod", "ring", "plate", "concrete"):
        return "listed for burial"
    if kind == "breaker":
        panel = s.panels.get(getattr(element, "panel", "") or finding.place)
        line = getattr(panel, "breaker_line", None)
        return f"of {line}" if line else "listed for the panel"
    return ""


def _together(lines: list[PartLine]) -> tuple[PartLine, ...]:
    order = list(part_kinds())
    found: dict[tuple[str, str, str], PartLine] = {}
    for line in lines:
        key = (line.kind, line.key, line.note)
        if key not in found:
            found[key] = line
            continue
        old = found[key]
        found[key] = replace(
            old, count=old.count + line.count, feet=old.feet + line.feet,
            of=tuple(dict.fromkeys((*old.of, *line.of))),
            findings=tuple(dict.fromkeys((*old.findings, *line.findings))),
            pieces=(*old.pieces, *line.pieces),
            length_known=old.length_known and line.length_known,
        )  # fmt: skip
    return tuple(sorted(found.values(), key=lambda p: (order.index(p.kind), p.key)))


def total_of(lines: Iterable[PartLine], prices: Mapping[str, float]) -> PartTotal:
    """The money of a list: a price a piece, of wire a foot."""
    money, open_ones = 0.0, []
    for line in lines:
        price = prices.get(line.key)
        if price is None or not line.length_known:
            open_ones.append(line.what)
            continue
        money += price * (line.feet if line.feet else line.count)
    return PartTotal(round(money, 2), tuple(open_ones))


def hours_of(lines: Iterable[PartLine]) -> float:
    """About how long fitting takes, by ``plan_hours.csv``."""
    per = {r["key"]: float(r["hours"]) for r in tables.rows("plan_hours")}
    found = 0.0
    for line in lines:
        if line.kind == "wire":
            found += per["wire-ft"] * line.feet
        else:
            found += per["rod" if line.kind == "rod" else "part"] * line.count
    return round(found, 1)
