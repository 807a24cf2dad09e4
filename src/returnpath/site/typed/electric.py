"""What a line says of breaker, wire, cable, ground wire, method, length: the sheath and more."""

import re

from .devices import read_amps_of_no_breaker, read_breakers, read_plates
from .figures import STANDARD, SZ, UNIT, checked
from .line import MARK as METRIC_MARK
from .line import Line, is_size, size_of
from .wiring import CONDUIT, read_methods

#: A panel has at least so many; “2 spaces” is what a breaker takes.
FEWEST_SPACES = 6
_G = r"(?:ground(?:s|ing)?|gnds?|grds?|grnds?|egc|earth)"
_NOT_G = r"(?!\s*(?:-\s*)?(?:rod|ring|plate|bar|floor|level|storey|story|fault|flr)s?\b)"
NO_GROUND = (
    rf"\b(?:no|without|w/o|wo|minus|lacks|lacking)[\s-]*(?:an?\s+|any\s+|the\s+)?(?:equipment\s+)?"
    rf"{_G}\b{_NOT_G}(?:[\s-]+(?:wire|conductor))?"
    r"|\bun-?grounded\b|\bnot\s+grounded\b|\bw/o\s*g\b|\bno\s+g\b"
    rf"|\b{_G}(?:\s+wire)?\s+(?:is\s+)?(?:missing|absent|none)\b"
    r"|\b2\s*-?\s*(?:wire|conductor)\b(?!\s*(?:with|w/|plus|\+))"
)
WITH_GROUND = (
    rf"(?:\bwith\b|\bw/|\bplus\b|\band\b|\+|&)\s*(?:an?\s+)?(?:equipment\s+)?{_G}\b{_NOT_G}"
    r"(?:\s+wire|\s+conductor)?"
    rf"|\bw/?\s?g(?:nd|rd|round)?\b|\bgrounded\b|\b{_G}\s+wire\b(?!\s*(?:#|\d))"
)
_JOIN = r"(?:(?:\bwith\b|\bw/|\bplus\b|\band\b|\+|&)\s*(?:\ba\s+)?(?:1\s+)?)?"
TRADE = r"(?:[123]\s*-?\s*)?[13]/[248]|[1234]"


def read_all(line: Line) -> None:
    """Every electrical fact, in an order in which no figure is taken for another."""
    _ohms_and_volts(line)
    _years(line)
    _spaces(line)
    _lengths(line)
    _ground(line)
    _conductor_sets(line)
    _trade_size(line)
    _cables(line)
    read_amps_of_no_breaker(line)
    read_breakers(line)
    read_plates(line)
    _wires(line)
    read_methods(line)
    _metals(line)
    _protection(line)


def _ohms_and_volts(line: Line) -> None:
    for match in line.find(r"\b(\d+(?:\.\d+)?)\s*(?:ohms?|ω)(?![a-z])"):
        line.take(match, proved_ohm=float(match[1]))
    for match in list(
        line.find(r"\b(120\s*/\s*240|240|230|120|115|110|220|208)\s*-?\s*(?:v\b|volts?\b|vac\b)")
    ):
        line.take(match)
        line.marks.add("240" if match[1] in ("240", "230", "220", "208") else "volts")
        if match[1] in ("120", "115", "110"):
            line.marks.add("120")


def _years(line: Line) -> None:
    pattern = (
        r"\b(?:from\s+|in\s+|circa\s+|ca?\.\s*|since\s+|wired\s+(?:in\s+)?|installed\s+(?:in\s+)?"
        r"|run\s+in\s+|built\s+(?:in\s+)?|of\s+)?(?:the\s+)?((?:19|20)\d\d)(?:'?s)?\b"
        r"(?!\s*(?:w\b|va\b|watts?\b|sq|ft|a\b|amp|kcmil|mcm))(?:\s+(?:wiring|work|cable))?"
    )
    for match in line.find(pattern):
        line.take(match, year=int(match[1]))


def _spaces(line: Line) -> None:
    cable = r".*\d{2,3}\s*a(?:mps?)?\b.*\b\d{1,2}\s*[/-]\s*[234]\b"
    for match in line.find(
        r"^\s*(\d{1,2})\s*[/,&]\s*(\d{1,2})\b"
        rf"(?=\s*[:.)]?\s+\d{{2,3}}\s*a|\s*[:)]\s|(?!\s*hp\b)\s+[a-z]{cable})"
    ):
        if int(match[2]) - int(match[1]) == 2:  # one above the other: a two-pole breaker's
            line.take(match, space=int(match[1]))
            line.marks.add("pair of spaces")
    for match in line.find(r"(?<![\w.#])(\d{1,2})\s*-?\s*(?:spaces?|slots|positions)\b(?!\s*\d)"):
        if int(match[1]) >= FEWEST_SPACES:
            line.take(match, spaces=int(match[1]))
    more = r"(?:\s*(?:/|,|&|\+|-|and)\s*(\d{1,2}))?"
    for pattern in (
        rf"\b(?:spaces?|slots?|positions?|pos)\s*#?\s*(\d{{1,2}}){more}\b",
        rf"\b(?:circuit|ckt|cct|cir)s?\.?\s*#?\s*(?!(?:14|12|10|8|6)\s*[/-]\s*[2-4]\b)(\d{{1,2}}){more}\b\s*[:.)]?(?!\s*(?:{UNIT}|a\b|amp|-?\s*wires?\b))",
        r"^\s*#?\s*(\d{1,2})()\s*[:.)](?=\s)",
        r"^\s*#\s*(\d{1,2})()(?=\s+\d{2,3}\s*a(?:mps?)?\b.*\b\d{1,2}\s*[/-]\s*[234]\b)",
    ):
        for match in line.find(pattern):
            space = checked(line, "space", match[1], match[0])
            line.take(match, **({"space": space} if space is not None else {}))
            if match[2] and abs(int(match[2]) - int(match[1])) == 2:
                line.marks.add("pair of spaces")


def _lengths(line: Line) -> None:
    for match in line.find(
        r"\b(\d{1,3}(?:\.\d+)?)\s*(\"|in\b\.?|inch(?:es)?\b|ft\b|feet\b|')\s*(?:deep|down)\b"
    ):
        feet = match[2] in ("ft", "feet", "'")
        line.take(match, depth_in=float(match[1]) * (12 if feet else 1))
    number = r"(\d{1,4}(?:[.,]\d+)?)"
    for match in line.find(rf"\b{number}\s*-?\s*({UNIT})\s*apart|\bapart\s+{number}\s*({UNIT})"
                           rf"|\bspaced\s+(?:at\s+|by\s+)?{number}\s*({UNIT})"):  # fmt: skip
        figure, unit = next(
            (a, b) for a, b in zip(match.groups()[::2], match.groups()[1::2], strict=True) if a
        )
        value = checked(line, "length_ft", f"{figure} {unit.strip('.')}", match[0])
        line.take(match, **({"spacing_ft": value} if value is not None else {}))
        line.marks.add("apart")
    pattern = (
        rf"\b{number}\s*-?\s*({UNIT})\s*(?:away\s+)?from\s+(?:the\s+)?(?:last|other|first|previous)"
        r"(?:\s+(?:one|rod))?"
    )
    for match in line.find(pattern):
        value = checked(line, "length_ft", f"{match[1]} {match[2].strip('.')}", match[0])
        line.take(match, **({"spacing_ft": value} if value is not None else {}))
        line.marks.add("from the last")
    if re.search(r"\brods?\b", line.low) and (
        match := line.first(rf"\b{number}\s*-?\s*({UNIT})\s*away\b(?!\s+from)")
    ):
        value = checked(line, "length_ft", f"{match[1]} {match[2].strip('.')}", match[0])
        line.take(match, **({"spacing_ft": value} if value is not None else {}))
        line.marks.add("from the last")
    pattern = (
        rf"(?:\b(?:about|approx\.?|approximately|around|roughly)\s+|~\s*)?(?<![\d./-]){number}\s*-?\s*({UNIT})"
        r"(?:\s*(?:long|run|away|one\s+way|1\s+way|of\b))?"
    )
    for match in list(line.find(pattern)):
        value = checked(line, "length_ft", f"{match[1]} {match[2].strip('.')}", match[0])
        line.take(match, **({"length_ft": value} if value is not None else {}))


def _ground(line: Line) -> None:
    for match in line.find(
        rf"\b([23])\s*-?\s*(?:wires?|conductors?)\s*(?:with|w/|plus|\+|and|&)\s*(?:an?\s+)?{_G}\b"
    ):
        line.take(match)
        line.marks |= {f"wires {match[1]}", "ground"}
    hots = r"\b(?:two|2)\s+hots?\s*(?:,|and|&|\+|plus)?\s*(?:an?\s+|one\s+|1\s+|the\s+)?neutral\b"
    grounded = rf"{hots}\s*(?:,|and|&|\+|plus)*\s*(?:an?\s+|one\s+|1\s+|the\s+)?{_G}\b"
    if line.take_all(grounded):  # a size after it is of them all
        line.marks |= {"conductors 3", "ground"}
    elif line.take_all(hots):
        line.marks.add("conductors 3")
    if both := line.first(rf"#?(?<![\d/-])({SZ})\s*(?:awg)?\s*{_G}\s*#\s*({SZ})\b"):
        line.problems.append(
            f"Which is the ground's, {both[1]} or {both[2]}? Write the ground's size last."
        )
    if line.take_all(NO_GROUND):
        line.marks.add("no ground")
        line.give("egc", "none", "no ground")
    # “10 ground”, “ground 10”, “+ #10 gnd”
    for pattern in (
        rf"{_JOIN}\b{_G}{_NOT_G}(?:\s+(?:wire|conductor))?\s*(?:is|of|:|=)?\s*#?({SZ})\b(?:\s*(?:awg|gauge|gage|ga\b\.?))?(?!\s*(?:{UNIT}|v\b|a\b|/|#|in\b|inch))",
        rf"{_JOIN}#?(?<![\d/-])({SZ})\s*(?:awg|ga|gauge)?\s*(?:bare\s+|green\s+|cu\s+|copper\s+)?(?:{_G}|g)\b{_NOT_G}"
        r"(?:\s+(?:wire|conductor))?",
    ):
        for match in list(line.find(pattern)):
            if size := size_of(match[1], match[0], line):
                line.take(match, egc_size=size)
                line.marks.add("ground")


def _with_ground(line: Line) -> None:
    if line.take_all(WITH_GROUND + r"|\+\s*g\b"):
        line.marks.add("ground")


def _conductor_sets(line: Line) -> None:
    """2-2-2-4, 4/0 4/0 2/0: two lines, the neutral, the ground."""
    dashed = rf"(?<![\d/-])({SZ})-({SZ})-({SZ})(?:-({SZ}))?(?![\d/-])"
    # Apart only the large ones: “2 2 2 4” is as well something else.
    apart = (
        rf"(?<![\d/-])([1-4]/0)\s+([1-4]/0)\s+({SZ})(?:\s+({SZ})(?!\s*(?:{UNIT}|a\b)))?(?![\d/-])"
    )
    for match in [*line.find(dashed), *line.find(apart)]:
        one, two, neutral, ground = match.groups()
        if one != two or not all(is_size(z) for z in match.groups() if z):
            continue
        facts = {"line_size": one, "neutral_size": neutral, "neutral": "yes"}
        if ground:
            facts["egc_size"] = ground
            line.marks.add("ground")
        line.take(match, **facts)
        line.marks.add("conductor sets")


def _trade_size(line: Line) -> None:
    """``EMT 1/2``, ``1/2" EMT``, ``1-1/4 in PVC``."""
    trade = r"((?:[123]\s*-\s*|[123]\s+)?[13]/[248]|[1234])"
    before = rf"(?<![\d/#-]){trade}\s*(?:\"|''|-?\s*in(?:ch)?\b\.?)?\s*(?={CONDUIT}|pipe\b)"
    found = None
    for match in line.find(before):
        if "/" in match[1] or re.search(r"\"|''|in", match[0]):
            found = match
    if found is None:
        for match in line.find(
            rf"{CONDUIT}(?:\s+sch(?:edule|ed|\.)?\s*-?\s*[48]0)?\s*{trade}\s*(?:\"|''|-?\s*in(?:ch)?\b\.?)?(?![\d/#-]|\s*(?:{UNIT}|a\b|amp|p\b|pole))"
        ):
            start = match.start(1)
            found = re.compile(r".+").match(line.low, start, match.end())
            text = match[1]
            _give_trade(line, found, text)
            return
    if found is None:
        found = line.first(rf"(?<![\d/#-]){trade}\s*(?:\"|'')(?!\s*x)")
        if found is not None and not re.search(CONDUIT, line.low):
            return
    if found is not None:
        _give_trade(line, found, found[1])


def _give_trade(line: Line, match, text: str) -> None:
    size = re.sub(r"\s*-\s*|\s+", "-", text.strip())
    line.take(match, raceway_size=size)


def _cables(line: Line) -> None:
    pattern = (
        rf"#?(?<![\d/.-])({SZ})\s*(?:awg\s*)?(?:/|-)\s*([2345])(?![\d.]|/\s*\d|\s*(?:\"|in\b(?!\s+(?:an?\s|the\s|[\d#(]|[a-z]))|{UNIT}))"
        r"(?:\s*(?:/|-)?\s*(?:w/?\s?g(?:nd|rd|round)?\b|wg\b|g(?:nd|rd)?\b))?"
        r"|#?(?<![\d/.-])(14|12|10|8|6|4|2)(?:/|-)\s*([234])(?:w/?g|g)\b"
    )
    spoken = (
        r"(?<![\d/.#-])(14|12|10|8|6)\s+([23])\b(?=\s*(?:w/?g|nm|uf|mc|with\s+g|cable|wire))()()"
    )
    words = [
        m for m in line.find(r"\b(14|12|10|8|6)\s+([23])\b()()") if line.is_number_word(m.start())
    ]
    for match in [*line.find(pattern), *line.find(spoken), *words]:
        if any(line.read[match.start() : match.end()]):
            continue
        size, wires = match[1] or match[3], match[2] or match[4]
        if (size, wires) in (("1", "2"), ("3", "4"), ("1", "4"), ("5", "8")):
            continue  # a fraction of an inch
        if not is_size(size) and re.fullmatch(STANDARD, size):
            continue  # 20/2 is a breaker
        known = size_of(size, match[0], line)
        if known is None:
            line.take(match)
            continue
        if wires == "5":
            continue
        word = match[0]
        line.take(match, line_size=known)
        if (
            before := next((m for m in line.marks if m.startswith("wires ")), None)
        ) and before != f"wires {wires}":
            line.problems.append(
                f"“{word.strip()}” says otherwise than what stands before it: write one of them."
            )
        line.marks.add(f"wires {wires}")
        if re.search(r"w|g", word.replace("awg", "")):
            line.marks.add("ground")
    _with_ground(line)


def _wires(line: Line) -> None:
    awg = r"[\s-]*(?:awg|ga\.?|gauge|gage)\b"
    for pattern in (
        rf"#?(?<![\d/-])({SZ})\s*(?:awg|gauge|gage|ga)?\s*(?:bare\s+)?neutral\b",
        rf"\bneutral\s*(?:is|of|:)?\s*#?({SZ})\b(?:\s*awg)?(?!\s*(?:{UNIT}|a\b))",
    ):
        for match in list(line.find(pattern)):
            if is_size(match[1]):
                line.take(match, neutral_size=match[1], neutral="yes")
    line.take_all(
        r"\bno\s+neutral\b|\bwithout\s+(?:a\s+)?neutral\b|\bw/o\s+neutral\b", neutral="no"
    )
    line.take_all(r"\b(?:with|w/|plus|\+)\s*(?:a\s+)?neutral\b", neutral="yes")
    if line.take_all(r"\b4\s*-?\s*wires?\b"):  # three and the ground
        line.marks |= {"conductors 4", "ground"}
    if match := line.first(r"\b([2345])\s*(?:-\s*)?wires?\b"):
        line.take(match)
        line.marks.add(f"conductors {match[1]}")
    for match in list(
        line.find(rf"\b(\d)\s+sets?\s+(?:of\s+)?#?({SZ})(?:\s*(?:kcmil|mcm|awg))?\b")
    ):
        if is_size(match[2]):
            line.take(match, sets=int(match[1]), line_size=match[2])
    for match in list(
        line.find(
            rf"(?:\(\s*([2345])\s*\)|(?<![\w.])([2345])\s*x?)?\s*#\s*({SZ})(?:'?s)?\b(?:{awg})?"
        )
    ):
        known = line.facts.get("line_size")
        if known and known != match[3] and re.search(r"[a-z]\s*$", line.low[: match.start()]):
            continue  # “small appliance #1”: a number of its name
        if size := size_of(match[3], match[0], line):
            line.take(match, line_size=size)
            if count := match[1] or match[2]:
                line.marks.add(f"conductors {count}")
        else:
            line.take(match)
    for pattern in (
        rf"(?<![\w./-])({SZ}){awg}",
        r"(?<![\w./-])(\d{3,4})\s*(?:kcmil|mcm)\b",
        r"(?<![\w.-])([1-4]/0)(?![\d/])",
        rf"\b(?:no\.|number)\s*({SZ})\b",
        r"(?<![\w./-])(?<!x )(?<!by )(14|12|10|8|6|4|3|2|1)(?=\s+(?:cu|copper(?!\s*-?\s*clad)|al|alum|aluminum|thhn|thwn)\b)",
    ):
        for match in list(line.find(pattern)):
            if size := size_of(match[1], match[0], line):
                line.take(match, line_size=size)
    line.take_all(r"\b(?:thhn|thwn(?:-?2)?|xhhw|use-?2|stranded)\b(?:\s+(?:wire|conductors?)s?)?")
    if "line_size" in line.facts and (match := line.first(r"(?<![\w.])x\s*([2345])\b(?!\s*\d)")):
        line.take(match)
        line.marks.add(f"conductors {match[1]}")


_COPPER_BY_A_SIZE = "copper|" + "|".join(
    rf"(?<={size})cu" for size in (r"\d ", "mm ", "mm2 ", "mm² ", "awg ", "gauge ", "ga ", "bare ")
)


def _metals(line: Line) -> None:
    line.take_all(r"\bcopper\s*-?\s*clad\s+alumin(?:i)?um\b", line_material="aluminium")
    # “garage CU 40A 6mm”: there it is a consumer unit, unless it stands by a size.
    copper = _COPPER_BY_A_SIZE if METRIC_MARK in line.marks else "cu|copper"
    line.take_all(rf"\b(?:{copper})\b(?!\s*-?\s*clad\b)", line_material="copper")
    line.take_all(r"\b(?:al|alu|alum|alumin(?:i)?um)\b\.?", line_material="aluminium")


def _protection(line: Line) -> None:
    more = r"(?:[\s-]*(?:protected|protection|breaker|prot)\b)?"
    for fact, words in (
        ("gfci", r"(?:gfci|gfi|ground[\s-]*fault)"),
        ("afci", r"(?:c?afci|arc[\s-]*fault)"),
    ):
        line.take_all(rf"\b(?:no|without|w/o)\s+{words}\b{more}", **{fact: "no"})
        line.take_all(rf"\b(?:with\s+|w/\s*)?{words}\b{more}", **{fact: "yes"})
    line.take_all(r"\b2\s*-?\s*(?:slots?|prongs?)\b(?:\s+receptacles?)?", outlets="two-slot")
    line.take_all(r"\b3\s*-?\s*(?:slots?|prongs?)\b(?:\s+receptacles?)?", outlets="three-slot")
    line.take_all(r"\bdual[\s-]*function\b(?:\s+breaker)?", gfci="yes", afci="yes")
