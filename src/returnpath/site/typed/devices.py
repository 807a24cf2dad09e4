"""What a line says of devices: breakers, fuses, plates, and the amperes that are no device's."""

import re

from .figures import STANDARD, UNIT, checked
from .line import Line

MOST_OF_GENERATOR = 1.6  # its breaker's amperes over those of its kilowatts at 240 V


def read_amps_of_no_breaker(line: Line) -> None:
    """A transfer switch's rating, and what a load draws."""
    _transfer_switch(line)
    drawn = r"(\d{1,3}(?:\.\d)?)\s*-?\s*(?:a|amps?)\b"
    before = line.first(rf"(?<![\w.]){drawn}\s+(?:continuous\s+)?load\b")
    after = line.first(rf"\bload\s*(?:of\s+|is\s+|:)?\s*{drawn}")
    # “60A load 48A”, “48A load 60A”: no load is larger than its breaker.
    both = [m for m in (before, after) if m is not None]
    if both:
        said = min(both, key=lambda m: float(m[1]))
        line.take(said)
        line.load_a = float(said[1])


def _transfer_switch(line: Line) -> None:
    """“generator 22kW 100A transfer switch” gives the generator's breaker; its figure is the
    switch's where that is said, where another is given, or where no such generator has one."""
    amps, switch = r"\b(\d{2,4})\s*-?\s*(?:a|amps?)\b", r"(?:transfer\s+switch|ats)\b"
    rated = r"service[\s-]*(?:rated|entrance)[\s-]+"
    kind = rf"(?:(?:{rated})|(?:automatic|auto|manual)[\s-]+)*"
    found = line.first(rf"{amps}[\s-]*{kind}(?={switch})") or line.first(
        rf"(?:(?<=transfer switch )|(?<=\bats )){amps}"
    )
    if found:
        kw = re.search(r"\b(\d{1,3}(?:\.\d+)?)\s*k(?:w|va)\b", line.low)
        too_large = kw and float(found[1]) > MOST_OF_GENERATOR * float(kw[1]) * 1000 / 240
        several = len(list(line.find(amps))) > 1
        if several or too_large or re.search(rated, found[0]):
            line.take(found)
    line.take_all(rf"\b{rated}(?:automatic\s+)?(?={switch})")


def read_breakers(line: Line) -> None:
    """“20A 2P”, “2P30”, “30/2”, “a 100 A main”: the rating, the poles, the breaking capacity."""
    pole = r"(?:\s*-?\s*p(?:oles?)?\b)"
    device = r"(?:\s*-?\s*(?:breaker|brkr|bkr|brk|cb|fuse)\b)?"
    for match in list(line.find(r"\b(\d{1,3}(?:\.\d)?)\s*k\s*a(?:ic)?\b")):
        ka = checked(line, "breaker.interrupting_ka", match[1], match[0])
        line.take(match, **({"breaker__interrupting_ka": ka} if ka is not None else {}))
    # a main, or the service's rating, is not the feeder's breaker
    for pattern in (
        r"\b(\d{2,3})\s*-?\s*(?:a|amps?)\s+main(?:\s+breaker)?\b",
        r"(?<!from )(?<!the )(?<!off )(?<!of )(?<!at )(?<!sub-)(?<!sub )\bmain\s+(?:breaker\s+)?(?:of\s+)?(\d{2,3})\s*-?\s*(?:a|amps?)\b",
    ):
        for match in line.find(pattern):
            rating = checked(line, "breaker.rating_a", match[1], match[0])
            line.take(match, **({"main__rating_a": rating} if rating else {}))
    for pattern in (
        rf"(?<![\w./-])(?:([123])\s*-?\s*p(?:oles?\b)?\s*[-/ ]?\s*)?(?<![\d.])(\d{{1,4}}(?:\.\d+)?)\s*-?\s*(?:a|amps?|amperes?)\b(?:\s*[-/,]?\s*([123]){pole}|\s*/\s*([123])(?!\d))?{device}",
        rf"(?<![\w./-])([123])p\s*-?\s*(\d{{2,3}})\b()(){device}",
        rf"(?<![\w./#-])()({STANDARD})\s*/\s*([123])p?()\b(?!\s*(?:\"|in\b)){device}",
        r"\bon\s+an?\s+()(\d{2,3})()()\b(?!\s*(?:ft|'|#|/|-))(?:\s+(?:breaker|brkr|bkr|cb))?",
        r"(?<![\w./#-])()(\d{2,3})()()\s+(?:breaker|brkr|bkr|cb|fuse)\b",
    ):
        for match in list(line.find(pattern)):
            rating = checked(line, "breaker.rating_a", match[2], match[0])
            poles = next((p for p in (match[1], match[3], match[4]) if p), None)
            facts = {"breaker__rating_a": rating} if rating is not None else {}
            if poles:
                facts["poles"] = int(poles)
            line.take(match, **facts)
            if "fuse" in match[0]:
                line.marks.add("fuse")
    for words, poles in (("single|one", 1), ("double|dbl|two", 2), ("triple|three", 3)):
        for match in line.find(
            rf"\b(?:{words})\s*-?\s*poles?\s+({STANDARD})\b(?!\s*(?:{UNIT}|/|-|#|awg|ga))"
        ):
            line.take(match, poles=poles, breaker__rating_a=float(match[1]))
    for match in line.find(
        rf"(?<![\w./-])([123])\s*-?\s*(?:p|pole)\s+({STANDARD})\b(?!\s*(?:{UNIT}|/|-|#))"
    ):
        line.take(match, poles=int(match[1]), breaker__rating_a=float(match[2]))
    for words, poles in (
        (r"\b(?:double|dbl|2)\s*-?\s*poles?\b|\bdp\b|\b2-?p\b", 2),
        (r"\b(?:single|1)\s*-?\s*poles?\b|\bsp\b|\b1-?p\b", 1),
        (r"\b(?:triple|3)\s*-?\s*poles?\b|\b3-?p\b", 3),
    ):
        line.take_all(words + r"(?:\s*-?\s*(?:breaker|brkr|bkr|cb)\b)?", poles=poles)
    line.take_all(r"\btandem\b(?:\s+breaker)?", tandem="yes")


def read_plates(line: Line) -> None:
    """An appliance's plate: MCA, MOCP, its watts."""
    for name, pattern in (
        ("nameplate_mca_a", r"\b(?:mca|nameplate)\s*[:=]?\s*(\d{1,3}(?:\.\d+)?)(?![\d.])\s*(?:a\b|amps?\b)?"),
        ("nameplate_max_a",
         r"\b(?:mocp|mop|max(?:imum)?(?:\s+(?:breaker|fuse|ocpd|device))?)\s*[:=]?\s*(\d{2,3})(?!\d)\s*(?:a\b|amps?\b)?(?:\s*(?:breaker|fuse|ocpd|hacr)\b)?"),
    ):  # fmt: skip
        for match in line.find(pattern):
            value = checked(line, name, match[1], match[0])
            line.take(match, **({name: value} if value is not None else {}))
    for match in list(line.find(r"\b(\d{1,5}(?:\.\d+)?)\s*(kva|kw|w|va|watts?)\b")):
        scale = 1000 if match[2].startswith("k") else 1
        line.take(match, load_va=float(match[1]) * scale)
