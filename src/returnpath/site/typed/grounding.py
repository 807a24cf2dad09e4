"""Electrodes, and other metal."""

import re
from typing import Any

from ... import tables
from ..earthing import Electrode, Metal
from ..edits import Add, Edit, Set
from ..fields import field_info, parse_text
from ..installation import Installation, name_of
from .kind import metal_words
from .line import Line
from .making import Making
from .places import fed_from, panel_of_building


def _count(m: Making) -> int:
    """The figure in front of the kind's word: ``two rods``."""
    start = m.kind.word.start() if m.kind.word else 0
    after = (
        re.match(r"\s*(?:x\s*([2-9])|\(\s*([2-9])\s*\))(?=\s|$|,)", m.line.low[m.kind.word.end() :])
        if m.kind.word
        else None
    )
    if after:
        m.line.mark(m.kind.word.end(), m.kind.word.end() + after.end())
        return int(after[1] or after[2])
    if m.line.take_all(r"\b(?:a\s+)?(?:pair|couple)\s+of\b"):
        return 2
    m.line.take_all(
        r"\b(?:single|1)\s+(?=(?:new\s+|driven\s+)?(?:ground|earth|gnd|copper|rod|plate|\d))"
    )
    match = re.search(
        r"\(?\b([2-9])\s*\)?\s*(?:x\s*|each\s+|new\s+|driven\s+)?"
        r"(?:[1357]/[248]\s*(?:\"|in\w*\.?)?\s*(?:x|by)\s*\d+\s+)?(?:\d+\s*(?:ft|'|foot)\s+)?$",
        m.line.low[:start],
    )
    if match and not m.line.read[match.start(1)]:
        m.line.mark(match.start(1), match.end(1))
        return int(match[1])
    return 1


def electrode(m: Making) -> None:
    line, site, kind = m.line, m.site, m.kind.of or "rod"
    panel = fed_from(site, line) or panel_of_building(site, line) or m.panel
    if head := line.first(r"^\s*\(?([2-9])\)?\s*(?:-|x|pcs?\.?|pieces)\s"):
        line.take(head)
    _rod_size(line)
    line.take_all(
        r"\b(?:copper\s*-?\s*clad|galvani[sz]ed|galv|stainless(?:\s+steel)?|solid\s+copper|driven"
        r"|tested?(?:\s+at)?|measur(?:ed|es)(?:\s+at)?|reads?)\b"
    )
    line.take_all(r"\bgecs?\b(?!\s*#?\d)|\bgrounding\s+electrode\s+conductor\b")
    count = int(head[1]) if head else _count(m)
    if kind == "water":
        line.take_all(
            r"\bin\s+(?:direct\s+)?(?:contact\s+with\s+)?(?:the\s+)?(?:earth|soil|ground)\b"
        )
        line.take_all(r"\bin\s+(?:direct\s+)?contact\b")  # “with earth” is read already
    if kind == "concrete":
        line.take_all(
            r"\bufer\b|\brebar\b|\bfoot(?:ing|er)\b|\bin\s+(?:the\s+)?(?:slab|footing|concrete)\b"
        )
    _lead(line)
    line.take_all(r"\bgecs?\b")
    given = line.facts
    facts: dict[str, Any] = {"kind": kind}
    for key, to in (("length_ft", "length_ft"), ("diameter_in", "diameter_in"),
                    ("line_size", "gec_size"), ("line_material", "gec_material"),
                    ("proved_ohm", "proved_ohm"), ("gec_size", "gec_size"),
                    ("egc_size", "gec_size"), ("depth_in", "depth_in")):  # fmt: skip
        if key in given:
            facts[to] = given[key]
    if line.take_all(r"\bnot\s+(?:connected|joined|bonded)\b|\bunused\b"):
        facts["joined"] = "no"
    m.left_is_unused()
    choices = field_info(Electrode(id="e1"), "kind").choices
    what = choices[kind]
    m.made.count = count
    m.made.title = f"{count} electrodes: {what}s" if count > 1 else f"An electrode: {what}"
    if "length_ft" in facts:
        m.made.words.append(f"{facts['length_ft']:g} ft")
    if "diameter_in" in facts:
        m.made.words.append(f"{facts['diameter_in']:g} in")
    if "gec_size" in facts:
        m.made.words.append(f"conductor {tables.size_name(facts['gec_size'])}")
    if "proved_ohm" in facts:
        m.made.words.append(f"measured {facts['proved_ohm']:g} Ω")
    spacing = given.get("spacing_ft")
    edits, near = _electrode_edits(site, facts, panel, count, spacing)
    if spacing is not None:
        m.made.words.append(f"{spacing:g} ft {'apart' if count > 1 else 'from the last one'}")
        if count == 1 and near is None:
            m.made.problems.append("There is no other rod to be that far from.")
    if len(site.panels) > 1:
        m.made.words.append(f"at {name_of(next(p for p in site.panels if p.id == panel))}")
    m.made.facts = {**facts, "panel": panel} | (
        {"spacing_ft": spacing} if spacing is not None else {}
    )
    m.made.edits = edits


def _rod_size(line: Line) -> None:
    """``5/8 x 8``, ``5/8"``: a rod's diameter and length."""
    if match := line.first(
        r"\b([1357]/[248])\s*(?:\"|in(?:ch)?\b\.?)?\s*(?:x|by)\s*(\d{1,2})\s*(?:ft\b|'|foot\b|feet\b)?"
    ):
        line.take(match, length_ft=float(match[2]))
        line.facts["diameter_in"] = _fraction(match[1])
    elif match := line.first(r"\b([1357]/[248])\s*(?:\"|in(?:ch)?\b\.?)?(?:\s*(?:x|by)\b)?"):
        line.take(match)
        line.facts["diameter_in"] = _fraction(match[1])
    line.facts.pop("raceway_size", None)


def _fraction(text: str) -> float:
    a, b = text.split("/")
    return int(a) / int(b)


def _lead(line: Line) -> None:
    """The electrode conductor: ``wire 6``, ``gec #6``, or the last bare figure."""
    pattern = r"\b(?:wire|gec|conductor|lead)\s*(?:of\s+|is\s+|:)?#?((?:[1-4]/0|\d{1,3}))\b(?:\s*awg)?|#((?:[1-4]/0|\d{1,3}))\b"
    match = line.first(pattern) or line.first(r"(?<![\w./])((?:[1-4]/0|\d{1,2}))()\s*$")
    if match is None:
        return
    size = match[1] or match[2]
    if size in tables.conductors():
        line.take(match)
        line.facts["gec_size"] = size
    else:
        line.problems.append(f"“{match[0].strip()}” was not understood; write rod 8ft wire 6.")


def _electrode_edits(
    site: Installation, facts: dict[str, Any], panel: str, count: int, spacing: float | None
) -> tuple[list[Edit], str | None]:
    """(edits, the rod that the first stands next to)."""
    rods = [e.id for e in site.electrodes if e.kind == "rod" and e.panel == panel]
    rods = rods or [e.id for e in site.electrodes if e.kind == "rod"]
    near = rods[-1] if rods and spacing is not None and count == 1 else None
    first = {"panel": panel, **facts}
    if near:
        first |= {"near": near, "spacing_ft": spacing}
    edits: list[Edit] = [Add(to="electrodes", facts=first)]
    last, added = "@1", 1
    blank = next((e.id for e in site.electrodes if e == Electrode(id=e.id, panel=panel)), None)
    if blank is not None:
        edits = [Set(path=f"{blank}.{k}", value=v) for k, v in first.items() if k != "panel"]
        last, added = blank, 0
    for _ in range(1, count):
        more = {"panel": panel, **facts}
        if facts["kind"] == "rod":
            more |= {"near": last} | ({"spacing_ft": spacing} if spacing is not None else {})
        edits.append(Add(to="electrodes", facts=more))
        added += 1
        last = f"@{added}"
    return edits, near


def metal(m: Making) -> None:
    line, kind = m.line, m.kind.of or "water"
    panel = fed_from(m.site, line) or panel_of_building(m.site, line) or m.panel
    csst = bool(re.search(r"\bcsst\b", line.low))
    if m.kind.word is not None:
        line.take(m.kind.word)
    line.take_all(metal_words(kind))
    choices = field_info(Metal(id="m1"), "kind").choices
    said_as = m.kind.word[0].strip() if kind == "other" and m.kind.word else choices[kind]
    facts: dict[str, Any] = {"kind": kind, "name": said_as.capitalize()}
    said: list[str] = []
    if csst or line.take_all(r"\bcsst\b|\bcorrugated(?:\s+(?:stainless|tube|tubing))*\b"):
        facts |= {"corrugated": "yes", "material": "metal"}
        said.append("CSST")
    for words, value in (
        (r"\bthere\s+is\s+none\b|\bnone\b|\bno\s+pipe\b", "none"),
        (r"\b(?:plastic|pex|cpvc|poly)\b", "plastic"),
        (r"\bmixed\b", "mixed"),
        (r"\b(?:metal|steel|iron|galvanized|black\s+iron|brass)\b", "metal"),
    ):
        if line.take_all(words) and "material" not in facts:
            facts["material"] = value
            said.append(value)
    word = m.kind.word[0] if m.kind.word else ""
    metal_said = line.facts.get("line_material") or (
        "x" if re.search(r"steel|metal|copper|galvan", word) else None
    )
    if metal_said and "material" not in facts:
        facts["material"] = "metal"
        said.append("metal")
    size = None
    if line.take_all(
        r"\bbonded\s+(?:by|through|via)\s+(?:its\s+|the\s+)?(?:equipment(?:'s)?\s+)?(?:egc|ground(?:\s+wire)?)\b"
    ):
        facts["bonded"] = "no"
        said.append("no bond of its own: its equipment's EGC")
    not_bonded = r"\b(?:not|isn't|never|un)\s*-?\s*(?:bonded|grounded|connected)\b|\bno\s+bond\b"
    if line.take_all(not_bonded):
        facts["bonded"] = "no"
        said.append("not bonded")
    elif match := (
        line.first(
            r"\b(?:bonded|bond)\b(?:\s+(?:with|by|w/))?\s*(?:a\s+)?#?((?:[1-4]/0|\d{1,2}))\b(?:\s*awg)?"
        )
        or line.first(r"\b(?:bonded|bond)\b()")
    ):
        line.take(match)
        size = match[1] or None
        facts |= {"bonded": "yes", "panel": panel}
        said.append("bonded")
    said_sizes = (size, line.facts.get("line_size"), line.facts.get("egc_size"))
    given = list(dict.fromkeys(str(one) for one in said_sizes if one))
    if len(given) > 1:
        m.made.problems.append(
            f"Two sizes are given, {' and '.join(given)}: write that of its bonding wire alone."
        )
    size = given[0] if given else None
    if size:
        if facts.get("bonded") is None:  # a wire to it is its bond
            facts |= {"bonded": "yes", "panel": panel}
            said.append("bonded")
        facts["bond_size"] = parse_text(field_info(Metal(id="m1"), "bond_size"), size)
        said.append(f"bonding wire {tables.size_name(facts['bond_size'])}")
    if line.take_all(r"\bshared(?:\s+(?:main|with\s+(?:the\s+)?neighbou?rs))?\b"):
        facts["shared_main"] = "yes"
        said.append("shared with neighbors")
    line.take_all(r"\bpipe\b|\btube\b|\bpiping\b|\btubing\b|\bshell\b")
    line.take_all(rf"\b{kind}\b")
    if "ground" in line.marks and "bonded" not in facts:
        facts |= {"bonded": "yes", "panel": panel}
        said.append("bonded")
    for key in ("length_ft",):
        if key in line.facts:
            m.made.problems.append("How much of it lies in the earth is entered as an electrode: "
                                   "water pipe electrode 20ft.")  # fmt: skip
    m.left_is_unused()
    m.made.title = f"Other metal: {choices[kind]}"
    m.made.words = said
    m.made.facts = facts
    m.made.edits = [Add(to="metals", facts=facts)]
