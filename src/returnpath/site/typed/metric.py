"""What a line of the metric rule set says: devices by their type, sizes in mm², rings, armour.

    B32 2.5/1.5 ring kitchen 48m
    C20 4mm SWA 35m shed
    32A RCBO EV 6mm 20m

A line speaks metric where its place does, or where it says what only the metric set has.
"""

import re

from ...vocabulary.sizes import METRIC
from ..installation import Installation
from ..speech import rule_set_of
from .line import MARK, Line

_SIZES = "120|95|70|50|35|25|16|10|6(?:\\.0)?|4(?:\\.0)?|2\\.5|1\\.5|1(?:\\.0)?"
_RATINGS = "125|100|80|63|50|45|40|32|25|20|16|13|10|6|4|3|2"
_MM = r"(?:mm2|mm²|mm\^2|sq\.?\s*mm|mm)\b"
_TYPE = rf"(?<![\w.])(?:mcb\s+|rcbo\s+)?(?:type\s+)?([bcd])\s?-?\s?({_RATINGS})\s*(?:a|amps?)?\b(?![./]|\s*mm)"
#: What only the metric set says.
TOKENS = (
    rf"(?<![\w.])(?:{_SIZES})\s*{_MM}|\bswa\b|\brcbo\b|(?<![\w.])\d(?:\.\d)?/\d\.\d(?![\d/])"
    r"|(?<![\w.])\d\.\d/\d(?![\d./])|\bgg\b|\btn-?c?-?s\b|\brcd\b|\bttn?\s+(?:supply|earth)|\bze\s*[=:]?\s*\d"
    rf"|\bconsumer\s+units?\b|\bmcb\b|\btwin\s*(?:and|&|\+)\s*earth\b|\bt\s*&\s*e\b|^\s*[bcd](?:{_RATINGS})\b"
)
#: Cables that the metric set names; what is no cable stays “conduit” of one kind or the other.
_METHODS = (
    (r"\b(?:flat\s+)?twin(?:\s*(?:and|&|\+)\s*(?:earth|cpc))?(?:\s+cable)?\b|\bt\s*[&+/]\s*e\b", "twin"),
    (r"\bswa\b(?:\s+cable)?|\bsteel[\s-]*wire[\s-]*armou?red(?:\s+cable)?\b|\barmou?red(?:\s+cable)?\b", "SWA"),
    (r"\b(?:singles\s+in\s+)?(?:steel|metal|galv(?:anised)?)\s+conduit\b", "steel conduit"),
    (r"\b(?:singles\s+in\s+)?(?:plastic|pvc)\s+conduit\b|\bsingles\s+in\s+conduit\b", "singles in conduit"),
    (r"\b(?:singles\s+in\s+)?(?:pvc\s+|steel\s+)?trunking\b", "trunking"),
    (r"\b(?:round|multi[\s-]*core|nym|flex)(?:\s+cable)?\b", "multicore"),
)  # fmt: skip
RCBO_MA = 30.0


def speaks_metric(line: Line, site: Installation) -> bool:
    """Whether a line is read in the metric set's words."""
    own = site.supply.system
    if own is not None:
        return rule_set_of(site) == "metric"
    return re.search(TOKENS, line.low) is not None


def read_metric(line: Line) -> None:
    """The facts that the other readers do not know, before them."""
    line.marks.add(MARK)
    _origin(line)
    _old_devices(line)
    line.take_all(
        r"\b(?:6\s*ma\s+)?d\.?c\.?\s+(?:detection|sensing|detector)\b(?:\s+(?:of\s+)?6\s*ma\b)?"
        r"|\brdc-?dd\b",
        dc_detection="yes",
    )
    _residual(line)
    _devices(line)
    _pairs(line)
    _armour(line)
    for pattern, name in _METHODS:
        for match in list(line.find(pattern)):
            line.take(match, method=name)
    _singles(line)
    line.take_all(r"\bfinal\s+(?=ring\b)")
    _ring(line)
    _poles(line)
    line.take_all(_MAIN_BONDING, "ground")
    line.take_all(r"\bradial(?:\s+(?:final\s+)?circuit)?\b|\bmcb\b|\bfinal\s+circuit\b")
    line.take_all(r"\b(?:with\s+)?afdd\b", afci="yes")
    line.take_all(
        r"\b(?:with\s+)?open[\s-]+pen\s+(?:device|detection|protection)\b", open_pen="device"
    )
    if re.search(r"\bev\b|\bcharg|\bcar\b", line.low):
        line.take_all(
            r"\b(?:on\s+its\s+|its\s+)?own\s+(?:rod|electrode)\b", open_pen="own electrode"
        )
    line.take_all(
        r"\bno\s+(?:cpc|earth|pe)\b|\bwithout\s+(?:an?\s+)?(?:cpc|earth|pe)\b", "no ground"
    )


#: “main bonding to water 10mm”: what is bonded follows, and is the part that is meant.
_MAIN_BONDING = (
    r"\bmain\s+(?:protective\s+|equipotential\s+)?bonding\b(?:\s+conductors?)?(?:\s+(?:to|of|for))?"
    r"(?=\s+(?:the\s+)?(?:incoming\s+)?(?:water|gas|oil|structural)\b)"
)
_NO_TABLE = (
    r"\bre-?wir(?:e)?able(?:\s+fuse)?\b|\bsemi[\s-]*enclosed(?:\s+fuse)?\b|\bbs\s*-?\s*(?:3036|1361|3871)\b"
    r"|\bmcb\s+type\s*[1-4]\b|\btype\s*[1-4]\s+mcb\b"
)


def no_table(device: str) -> str:
    """What is said of a device that cannot be judged."""
    return (
        f"“{device}” has no table here: leave the device out, its time is then not known, or write"
        " the one that takes its place: B32."
    )


def _old_devices(line: Line) -> None:
    """Fuses and breakers that no table at hand has are never taken for others; a fused spur's own
    fuse is not its circuit's device."""
    for match in list(line.find(_NO_TABLE)):
        line.take(match)
        line.problems.append(no_table(match[0].strip()))
    spur = r"\b\d{1,2}\s*a(?:mps?)?\s+(?=(?:switched\s+)?(?:fused\b|s?fcu\b))"
    if len(re.findall(rf"\b\d{{1,3}}\s*a(?:mps?)?\b|{_TYPE}", line.low)) > 1:
        line.take_all(spur)


def _origin(line: Line) -> None:
    """``Ze 0.35``, ``pfc 1.4kA``: what is measured at the origin; its earthing system stays, it
    says what the line is about."""
    for match in list(line.find(r"\bze\s*[=:]?\s*(\d+(?:\.\d+)?)\s*(?:ohms?|Ω)?")):
        line.take(match, ze_ohm=float(match[1]))
    words = r"pfc|psc|ipf|pscc|fault(?:\s+current)?"
    for match in list(line.find(rf"\b(?:{words})\s*[=:]?\s*(\d+(?:\.\d+)?)\s*(ka|a)\b")):
        line.take(match, fault_a=float(match[1]) * (1000 if match[2] == "ka" else 1))
    if "ze_ohm" in line.facts and (told := line.first(r"\b(\d+(?:\.\d+)?)\s*ka\b")):
        line.take(told, fault_a=float(told[1]) * 1000)  # “Ze 0.28 1.6kA”


def _residual(line: Line) -> None:
    """``RCBO``, ``30mA RCD type A``, ``100mA S``, ``no RCD``."""
    if line.take_all(r"\b(?:no|without(?:\s+an?)?)\s+(?:rcd|rcbo)\b"):
        line.give("gfci", "no", "no RCD")
        return
    ma = None
    for match in list(line.find(r"\b(\d{1,4})\s*ma\b(?:\s+(?:rcd|rcbo|rccb))?")):
        ma = float(match[1])
        line.take(match, rcd_ma=ma)
    is_rcbo = line.take_all(r"\brcbo\b(?=\s*(?:type\s*)?[bcd]\s?\d)|\brcbo\b")
    has = line.take_all(r"\b(?:on\s+(?:an?\s+|the\s+)?)?rc(?:d|cb)\b(?:\s+protected)?") or is_rcbo
    if ma is None and has:
        line.suppose("rcd_ma", RCBO_MA)
        ma = RCBO_MA
    if ma is None:
        return
    before = r"\btype\s+(ac|a|f)\b|(?<=rcbo )(ac|a|f)\b|(?<=rcd )(ac|a|f)\b"
    for match in list(line.find(rf"\b(ac|a|f)\s+type\b|{before}")):
        line.take(match, rcd_type=next(g for g in match.groups() if g).upper())
    typed = re.search(_TYPE, line.low)
    rated = rf"\s*(?:{_RATINGS})\s*(?:a|amps?)?\b(?![./]|\s*mm)"
    kinds = list(line.find(rf"\btype\s+b\b(?!{rated})"))
    # “C16 RCBO type B”: its curve is said, so the type is that of what sees the leak.
    if kinds and (typed or not is_rcbo):
        line.take(kinds[0], rcd_type="B")
    if line.take_all(
        r"\b(?:time[\s-]*)?delay(?:ed)?\b|\bselective\b|\bs[\s-]?type\b|\btype\s+s\b|(?<=ma )s\b"
    ):
        line.give("rcd_delayed", "yes", "delayed")


def _devices(line: Line) -> None:
    for match in list(line.find(_TYPE)):
        line.take(match, breaker__kind=match[1].upper(), breaker__rating_a=float(match[2]))
    for pattern in (
        rf"(?<![\w.])({_RATINGS})\s*(?:a|amps?)\s*(?:mcb\s+)?(?:type\s+|curve\s+)?([bcd])\b(?!\s*\d{{1,3}}(?![\d./]|\s*mm))(?:[\s-]*curve)?",
        rf"(?<![\w.])({_RATINGS})\s*(?:a|amps?)\s*()(?:gg|hrc|cartridge)\b(?:\s+fuse)?|(?<![\w.])({_RATINGS})\s*(?:a|amps?)\s*()fuse\b",
        rf"\b(?:gg|(?:hrc|cartridge)\s+fuse)\s*()({_RATINGS})\s*(?:a|amps?)?\b(?:\s+fuse)?",
    ):
        for match in list(line.find(pattern)):
            given = [g for g in match.groups() if g]
            rating = next(g for g in given if g.isdigit())
            kind = next((g.upper() for g in given if not g.isdigit()), "gG")
            line.take(match, breaker__kind=kind, breaker__rating_a=float(rating))
    for match in list(line.find(r"\btype\s+([bcd])\b(?:\s+mcb)?|\b([bcd])[\s-]*curve\b")):
        line.take(match, breaker__kind=(match[1] or match[2]).upper())
    for match in list(line.find(r"\b(\d{2,3})\s*(?:a|amps?)\s+(?:main\s+)?(?:switch|isolator)\b")):
        line.take(match, main__rating_a=float(match[1]))


def _size(text: str) -> str:
    return f"{float(text):g}{METRIC}"


def _pairs(line: Line) -> None:
    """``2.5/1.5``, ``2.5/1.5mm²``, ``4mm``, ``4 mm2``."""
    pair = (
        rf"(?<![\w./])({_SIZES})\s*/\s*({_SIZES})(?![\w./])\s*(?:{_MM})?"
        rf"|(?<![\w./])({_SIZES})\s*(?:{_MM})?\s*/\s*({_SIZES})\s*{_MM}"
    )
    for match in list(line.find(pair)):
        lines, egc = (g for g in match.groups() if g)
        line.take(match, line_size=_size(lines), egc_size=_size(egc))
        line.marks |= {"ground", "cable"}
    for match in list(line.find(rf"(?<![\w./])({_SIZES})\s*{_MM}\s+(?:cpc|earth|pe|protective)\b")):
        line.take(match, egc_size=_size(match[1]))
        line.marks.add("ground")
    own = rf"\b(?:cpc|earth|pe)\s+({_SIZES})\s*{_MM}|(?<![\w./])({_SIZES})\s+cpc\b"
    for match in list(line.find(own)):
        line.take(match, egc_size=_size(match[1] or match[2]))
        line.marks.add("ground")
    cores = rf"(?<![\w./])([2345])\s*(?:c|core)?\s*[x×]\s*({_SIZES})\s*(?:{_MM})?|(?<![\w./])([2345])\s*g\s*({_SIZES})(?:\s*{_MM})?(?![\w.])"
    for match in list(line.find(cores)):
        count, size = (g for g in match.groups() if g)
        line.take(match, line_size=_size(size))
        line.marks.add(f"cores {count}")
        if "g" in match[0]:
            line.marks |= {"ground", "cable"}
    for match in list(line.find(rf"(?<![\w./])({_SIZES})\s*{_MM}")):
        line.take(match, line_size=_size(match[1]))
    # “2.5 twin”, “2.5 SWA”: a size said without its unit where a cable follows it.
    bare = (
        rf"(?<![\w./])({_SIZES})(?=\s+(?:flat\s+)?(?:twin|t\s*[&+/]\s*e|swa|armou?red|singles)\b)"
    )
    for match in [] if "line_size" in line.facts else list(line.find(bare)):
        line.take(match, line_size=_size(match[1]))
    for match in list(line.find(r"\b([2345])\s*-?\s*(?:c|cores?)\b")):
        line.take(match)
        line.marks.add(f"cores {match[1]}")


def _armour(line: Line) -> None:
    """What the armour is for, where the line says it."""
    if line.take_all(r"\barmour\s+(?:not\s+)?(?:as|is)\s+(?:the\s+)?(?:cpc|earth|pe)\b"):
        line.marks.add("armour alone")


_MAIN = r"\bmain\s+(?:switch|fuse|isolator)\b|\bcut-?out\b"
RCD_OF_SEVERAL_A = 63.0  # one so large protects a side of a board
_A_GROUP = re.compile(r"\b(?:side|group|bank)s?\b")
SHARED_RCD_ELSEWHERE = (
    "An RCD for several circuits is entered at its board or at its feeder; of one circuit with its"
    " breaker: B32 RCD 30mA."
)
_SHARED_RCD = r"\brcds?\b|\brccbs?\b|\bsplit\s+board\b"
#: What is a fact of another part, though it has a size or a rating: (words, where it is entered).
_ELSEWHERE = (
    (r"\bsupplementary\b", "Bonding of a room is entered at its building: supplementary bonding."),
    (r"\bbond(?:ed|ing)?\b", "Bonding is entered at its pipe or steel: gas bonded 10mm,"
     " structural steel bonded 16mm."),
    (r"\bearthing\b|\bearth\s+conductor\b|\bmain\s+earth\b", "An earthing conductor is entered at"
     " its electrode, or beside the supply cable where the supply brings the earth."),
    (r"\bspds?\b|\bsurge\b", "A surge protective device is entered at its board."),
    (_MAIN, "A main is entered at its board; the"
     " distributor’s fuse with its supply: TN-C-S supply 100A gG fuse."),
    (_SHARED_RCD, SHARED_RCD_ELSEWHERE),
)  # fmt: skip


def entered_elsewhere(line: Line) -> str:
    """Where a line without a breaker of its own is entered, if it is no circuit; else nothing."""
    text, facts = line.text.lower(), line.facts
    if MARK not in line.marks:
        return ""
    is_run = facts.keys() & {"line_size", "method", "breaker.kind", "length_ft"}
    of_several = facts.get("breaker.rating_a", 0) >= RCD_OF_SEVERAL_A or _A_GROUP.search(text)
    if not is_run and of_several and re.search(_SHARED_RCD, text):
        return SHARED_RCD_ELSEWHERE
    if "breaker.rating_a" in facts and ("line_size" in facts or not re.search(_MAIN, text)):
        return ""
    return next((why for words, why in _ELSEWHERE if re.search(words, text)), "")


def _singles(line: Line) -> None:
    if line.take_all(r"\bsingles\b"):
        line.suppose("method", "singles in conduit")


def _ring(line: Line) -> None:
    pattern = r"\bring(?:\s+(?:final|main))?(?:\s+circuit)?\b(?!\s+(?:electrode|earth))"
    if not re.search(r"\bearth\s+ring\b", line.low):
        line.take_all(pattern, ring="yes")
    for match in list(
        line.find(r"\bspur\s+(\d{1,3}(?:\.\d)?)\s*m\b|\b(\d{1,3}(?:\.\d)?)\s*m\s+spur\b")
    ):
        metres = float(match[1] or match[2])
        line.take(match, spur_ft=round(metres / 0.3048, 1))


def _poles(line: Line) -> None:
    for pattern, poles in (
        (r"\b(?:tp\s*(?:&|\+)?\s*n|tp|4\s*-?p(?:ole)?)\b|\b(?:3|three)\s*-?\s*ph(?:ase)?\b|\b400\s*v\b", 3),
        (r"\b(?:sp\s*(?:&|\+)?\s*n|1\s*-?p\s*\+\s*n|dp|2\s*-?p(?:ole)?|double\s*-?\s*pole)\b"
         r"|\bsingle\s*-?\s*phase\b|\b230\s*v\b", 1),
    ):  # fmt: skip
        line.take_all(pattern, poles=poles)


def complete_metric(line: Line, feeder: bool = False) -> None:
    """What custom adds: copper, the neutral, a protective conductor only where the line or its kind
    of cable says one. Armour is one; twin cable has one."""
    facts, marks = line.facts, line.marks
    if facts.get("line_size"):
        line.suppose("line_material", "copper")
    if "cable" in marks and "method" not in facts:
        line.suppose("method", "twin" if "cores" not in " ".join(marks) else "multicore")
    line.suppose("neutral", "yes")
    if facts.get("method") == "SWA":
        _swa(line)
    elif "no ground" in marks:
        line.give("egc", "none", "no earth")
    elif "ground" in marks or facts.get("egc_size"):
        steel = facts.get("method") == "steel conduit"
        line.give("egc", "both" if steel else "wire", "earth")
    elif facts.get("method") == "twin" or _spare_core(line):
        line.suppose("egc", "wire")
    elif facts.get("method") == "steel conduit":
        line.suppose("egc", "raceway")
    several = _cores(line)
    if facts.get("egc") == "wire" and several and facts.get("line_size"):
        line.suppose("egc_size", facts["line_size"])


def _cores(line: Line) -> int | None:
    return next((int(m.split()[1]) for m in line.marks if m.startswith("cores ")), None)


def _spare_core(line: Line) -> bool:
    """Whether a round cable has a core for the earth beside its lines and neutral."""
    cores, needed = _cores(line), 4 if line.facts.get("poles") == 3 else 2
    if cores is None or cores <= needed or line.facts.get("method") not in (None, "multicore"):
        return False
    line.suppose("method", "multicore")
    return True


def _swa(line: Line) -> None:
    """A core more than its lines and neutral need is its protective conductor beside the armour."""
    facts, cores = line.facts, _cores(line)
    needed = 4 if facts.get("poles") == 3 else 2
    spare = cores is not None and cores > needed and "armour alone" not in line.marks
    if facts.get("egc_size") or spare:
        line.give("egc", "both", "a core")
        line.suppose("egc_size", facts.get("line_size"))
    else:
        line.suppose("egc", "raceway")
