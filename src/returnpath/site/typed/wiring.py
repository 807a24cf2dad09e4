"""How a run is wired, in a line: cable, raceway, flexible metal, armour, old wiring."""

import re

from .line import Line

CONDUIT = r"\b(?:flex(?:ible)?|fmc|lfmc|liquid\s*-?\s*tight|emt|imc|rmc|grc|pvc|rigid|conduit|thinwall|thin\s+wall|enclosed\s+in\s+pipe)\b"

#: (pattern, method) of wiring, the longest words first.
METHODS = (
    (
        r"\bmhf\b(?:\s+cable)?|\burd\b|\bquadr?u?plex\b|\bmobile[\s-]*home\s+(?:feeder\s+)?cable\b",
        "MHF",
    ),
    (r"\bknob\s*(?:and|&|n|-and-)\s*tube\b|\bk\s*&\s*t\b|\bk\s*and\s*t\b", "K&T"),
    (r"\b(?:old\s+)?bx\b(?:\s+cable)?|\bold\s+armou?red(?:\s+cable)?\b(?!\s+(?:with|w/))", "BX"),
    (
        r"(?<![a-z])n\s?m\s?-?b?\b(?:\s+cable)?|\bnon-?metallic(?:\s+sheathed)?(?:\s+cable)?\b",
        "NM",
    ),
    (r"(?<![a-z])uf-?b?\b(?:\s+cable)?", "UF"),
    (r"(?<![a-z])mc\b(?:\s+cable)?|\bmetal-?\s*clad(?:\s+cable)?\b", "MC"),
    (r"(?<![a-z])ser\b(?:\s+cable)?", "SER"),
    (r"(?<![a-z])seu?\b(?:\s+cable)?|\bservice\s+(?:entrance\s+)?cable\b", "SE"),
    (r"(?<![a-z])emt\b(?:\s+conduit)?|\bthin\s?wall\b(?:\s+conduit)?", "EMT"),
    (r"\bimc\b(?:\s+conduit)?", "IMC"),
    (r"\b(?:rmc|grc|rigid)\b(?:\s+(?:metal\s+)?conduit)?", "RMC"),
    (
        r"(?<![a-z])pvc\b(?:\s+(?:conduit|pipe))?(?:\s+sch(?:edule|ed|\.)?\s*-?\s*[48]0\b)?|\bplastic\s+conduit\b|\bgr[ae]y\s+pipe\b",
        "PVC",
    ),
)


#: What says that an armour has no strip, or has one; none had before 1959.
_NO_STRIP = (
    r"\b(?:no|without|w/o|lacks|lacking)\s+(?:an?\s+|the\s+|its\s+)?(?:bond(?:ing)?\s+)?strip\b"
)
_STRIP = r"\b(?:with|w/|has)\s*(?:an?\s+|the\s+|its\s+)?(?:bond(?:ing)?\s+)?strip\b"
STRIP_SINCE = 1959
#: Flexible metal: up to which trade size a liquid-tight one is of the smaller kind.
_LIQUID_TIGHT = (
    r"\b(?:lfmc|liquid\s*-?\s*tight(?:\s+(?:flexible|flex))?(?:\s+(?:metal\s+)?conduit)?)\b"
)
_FLEXIBLE = r"\b(?:fmc|flex(?:ible)?(?:\s+metal)?(?:\s+conduit)?)\b"
_SMALL_TRADE = ("3/8", "1/2")
_LARGE_TRADE = ("3/4", "1", "1-1/4")


def read_methods(line: Line) -> None:
    """The method; flexible metal and armour as what is relied on as the return."""
    _flexible(line)
    _armour(line)
    if line.first(r"\bmobile[\s-]*home\s+feeder\b"):  # its name as well: it stays to be read
        line.facts["method"] = "MHF"
    for pattern, name in METHODS:
        for match in list(line.find(pattern)):
            line.take(match, method=name)
    if cable := line.first(r"\bac\b(?:\s+cable|\s+armou?r)"):
        line.take(cable, method="AC")
    elif "method" not in line.facts and (alone := line.first(r"\bac\b")):
        start = line.low[: alone.start()].rstrip()
        follows = re.match(
            r"\s*(?:unit|condenser|compressor|disconnect|system)", line.low[alone.end() :]
        )
        sheath = re.search(r"\d/[234]$|\d-[234]$|#\d+$", start)
        if sheath and not follows and line.facts.get("poles") != 2:
            line.take(alone, method="AC")
    line.take_all(r"\bconduit\b", "conduit")
    if "raceway_size" in line.facts or re.search(r"\bin\s+(?:an?\s+)?pipe\b", line.low):
        line.take_all(r"\bpipe\b", "conduit")
    if line.take_all(
        r"\b(?:old\s+)?(?:cloth(?:[\s-]*covered)?|rag)(?:\s+(?:wire|wiring|cable))?\b"
    ):
        line.marks.add("old")
    line.take_all(
        r"\b(?:under\s?ground|(?:direct(?:ly)?[\s-]+)?buried|buried\s+direct|direct[\s-]+burial|(?:in\s+(?:a\s+)?)?trench(?:ed)?)\b",
        "underground",
    )
    line.take_all(r"\boverhead\b|\baerial\b", "overhead")


def _flexible(line: Line) -> None:
    """Flexible metal, and how much of it: it counts as a return only within its limits."""
    feet = line.facts.get("length_ft")
    wire = "ground" in line.marks or "egc_size" in line.facts  # it brings the fault home
    trade = line.facts.get("raceway_size")
    if line.take_all(_LIQUID_TIGHT):
        if wire:
            pass
        elif trade in _SMALL_TRADE:
            line.give("relied_on", "LFMC 3/8-1/2", "liquid-tight")
        elif trade in _LARGE_TRADE:
            line.give("relied_on", "LFMC 3/4-1-1/4", "liquid-tight")
        else:
            line.problems.append("Write the trade size of the liquid-tight conduit: 1/2, 3/4, 1.")
    elif line.take_all(_FLEXIBLE):
        if not wire:
            line.give("relied_on", "FMC", "flex")
    else:
        return
    line.marks.add("flexible")
    if feet is not None:
        line.suppose("flex_ft", feet)


def _armour(line: Line) -> None:
    if not line.take_all(r"\b(?:old\s+)?armou?r(?:ed)?(?:\s+cable)?\b"):
        if line.take_all(_NO_STRIP):
            line.give("method", "BX", "no strip")
        return
    if line.take_all(_NO_STRIP):
        line.give("method", "BX", "armor without a strip")
    elif line.take_all(_STRIP):
        line.give("method", "AC", "armor with its strip")
        line.give("relied_on", "AC cable armour", "armor with its strip")
    elif (line.facts.get("year") or STRIP_SINCE) < STRIP_SINCE:
        line.give("method", "BX", "armor of before 1959")
    else:
        line.give("method", "AC", "armor")
