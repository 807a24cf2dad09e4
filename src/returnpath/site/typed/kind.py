"""Which kind of thing a line is about: said by its words, then by what was read of wires."""

import re
from dataclasses import dataclass

from .line import MARK, Line

CIRCUIT, PANEL, ELECTRODE, METAL, BUILDING, SUPPLY, SERVICE, ARRAY = (
    "circuit", "panel", "electrode", "metal", "building", "supply", "service", "array",
)  # fmt: skip

_PANEL = (
    r"\bsub\s*-?\s*(?:panels?|boards?)\b|\bdistribution\s+boards?\b|\bconsumer\s+units?\b|\bsub\s*-?\s*mains?\b|\bpanel\s*boards?\b|\bload\s+cent(?:er|re)s?\b"
    r"|(?<!main )\bbreaker\s+(?:panel|box)\b|\bfuse\s*box\b|\bmlo\b|\bmain\s+lugs?(?:\s+only)?\b"
    r"|(?<!solar )(?<!control )(?<!pv )(?<!alarm )(?<!security )(?<!data )(?<!media )(?<!network )(?<!fire )(?<!heating )(?<!lighting )(?<!service )(?<!main )(?<!from the )\bpanels?\b"
    r"|\bsub\b(?=\s*(?:$|from\b|in\b|at\b|for\b|fed\b|off\b|to\b|,|\d|-\s))|\bfeeders?\b|\bsub\s*-?\s*feed\b|^\s*feed\b|\bfeed\s+to\b(?=\s+(?:the\s+)?[a-z])"
)
_ELECTRODES = (
    ("concrete", r"\bfoundation\s+(?:electrode|earth)\b|\bufer\s+(?:ground|electrode)\b(?!\s*#?\d)|\bufer\b|\bconcrete[\s-]*encased(?:\s+electrode)?\b|\bfoot(?:ing|er)\s+(?:steel|rebar)\b"
     r"|\brebar\s+(?:ground|electrode)\b(?!\s*#?\d)|\brebar\b|\bfooting\b"),
    ("water", r"\bwater\s*-?\s*pipe\s+electrode\b|\b(?:metal\s+|copper\s+)?water\s*-?\s*(?:pipe|line|service)\b(?=.*\bin\s+(?:direct\s+)?(?:contact\s+with\s+)?(?:the\s+)?(?:earth|soil|ground)\b)"),
    ("ring", r"\bground(?:ing)?\s+ring\b|\bring\s+(?:ground|electrode)\b|^\s*ring\b"),
    ("plate", r"\bground(?:ing)?\s+plates?\b|\bplates?\s+electrodes?\b|(?<!name)(?<!name )\bplates?\b(?=\s|$)"),
    ("rod", r"\b(?:ground(?:ing)?|earth|gnd|grd|grnd|copper\s*-?\s*clad|galvanized)\s*-?\s*rods?\b(?:\s+electrodes?)?|\bearth\s+spikes?\b|\brods?\b"),
)  # fmt: skip
_METALS = (
    ("gas", r"(?<=bonding )gas\b|(?<=bonding to )gas\b|\bgas\s*-?\s*(?:bond|bonding|pipe|line|piping|tube|tubing|pipes|lines)\b|\bcsst\b|^\s*gas\b"),
    ("water", r"\bcwp\b|\bhot\s+(?:and|&)\s+cold\s+water(?:\s+pipes?)?\b|(?<=bonding )water\b|(?<=bonding to )water\b|\b(?:cold\s+)?water\s*-?\s*(?:bond|bonding|pipe|line|main|piping|pipes|lines|supply|service)\b|\bcold\s+water\s*(?=ground(?:ing)?\b|clamp\b|#)|^\s*(?:copper\s+)?water\b(?!\s*heater)"),
    ("structure", r"\b(?:steel\s+)?i-?\s*beams?\b|\b(?:steel|metal|building)\s+(?:frame|structure|beam|framing|building\s+frame)\b"
     r"|\bstructural\s+(?:steel|metal)\b|^\s*(?:structure|frame)\b"),
    ("other", r"\boil\s+(?:lines?|pipes?|supply|piping)\b|(?<=bonding )oil\b|(?<=bonding to )oil\b|\bwell\s+casing\b|^\s*(?:metal\s+|steel\s+)?(?:well\s+casing|septic\s+tank|metal\s+siding)\b"),
    ("pool", r"\b(?:swimming\s+)?pool\b(?:\s+(?:shell|steel|water))?|\b(?:spa|hot\s+tub)\b"),
)  # fmt: skip


#: The electrode conductor itself: what it goes to makes it a line of its own.
GEC_WORDS = r"\bgecs?\b(?!\s*#?\d)|\bgecs?\b|\bgrounding\s+electrode\s+conductors?\b"


def metal_words(of: str) -> str:
    """The words that say which metal, for what of them is left beside the first."""
    return next(p for k, p in _METALS if k == of)


_SUPPLY = (
    r"\b(?:standby\s+|portable\s+|backup\s+|inverter\s+)?(?:generators?|gen|genset)\b|\b(?:hybrid\s+|battery\s+)?inverter\b|\b(?:battery|batteries|ess|energy\s+storage)\b(?!\s+(?:charger|room|backup))|\btransformer\b|\bxfmr\b"
    r"|\butility\b(?!\s+(?:room|transformer|xfmr)\b)(?=.*?\d\s*(?:kva\b|%))"
)
#: The distributor's network, by its earthing system or its measured loop.
EARTHING = r"\b(?:tn-?c-?s|tn-?s|pme|tt|it)\b(?=\s*(?:$|[,;]|supply|system|earth|ze|main|\d))"
_SERVICE = (
    r"\bservice\s*-?\s*(?:drop|lateral|entrance|conductors?|run|feed|wires?)\b(?:\s+conductors?)?"
    r"|\b(?:overhead|underground)\s+(?:service|drop|lateral)\b|(?<!water )(?<!gas )\bservice\b|\btriplex\b|\blateral\b|\bdrop\b"
    r"|(?<!from )(?<!from the )(?<!off )(?<!off the )(?<!of the )(?<!at )(?<!at the )"
    r"\b(?:main|service)\s+(?:service\s+)?(?:breaker\s+)?panel\b"
)
_ARRAY = r"\b(?:solar|pv|photovoltaic)\b(?:\s*-?\s*(?:array|panels?|modules?|system))?|\b(?:roof\s+)?array\b"
BUILDINGS = {
    "building": None, "house": "dwelling", "cottage": "dwelling", "guest house": "dwelling accessory",
    "guesthouse": "dwelling accessory", "shed": "dwelling accessory",
    "detached garage": "dwelling accessory", "detached workshop": "dwelling accessory",
    "detached shed": "dwelling accessory", "detached building": "dwelling accessory", "garage": "dwelling accessory",
    "workshop": "dwelling accessory", "boathouse": "dwelling accessory",
    "detached shop": "dwelling accessory", "detached studio": "dwelling accessory",
    "detached office": "dwelling accessory", "detached barn": "farm",
    "garden room": "dwelling accessory", "garden office": "dwelling accessory",
    "summerhouse": "dwelling accessory", "caravan pitch": "caravan", "caravan": "caravan",
    "outbuilding": "dwelling accessory", "greenhouse": "dwelling accessory",
    "pole barn": "farm", "barn": "farm", "stable": "farm", "silo": "farm",
}  # fmt: skip
#: What may as well be a part of the house, or the house itself.
_MAY_BE_ATTACHED = {"building", "house", "cottage", "garage", "workshop", "greenhouse"}
#: Buildings by a panel's name alone, where its feeder runs outdoors; “studio” is as often a room.
_OUTDOORS = r"\b(shop|studio|cabin|bunk\s*house|pool\s*house|pump\s*house|well\s*house|office)\b"
_BUILDING = r"\b(" + "|".join(sorted(BUILDINGS, key=len, reverse=True)) + r")\b"

_SMALL = ("to", "the", "at", "in", "for", "with", "from", "main", "panel", "feed", "feeds", "run")
_FEEDS = (
    r"\bto\s+(?:the\s+|an?\s+)?(?:" + "|".join(sorted(BUILDINGS, key=len, reverse=True)) + r")\b"
)
LARGE_A = 100  # from which on there is hardly a branch circuit in a dwelling
LEAST_DOUBTED_A = 40  # at a building, on two poles: a circuit or a feeder
LEAST_FEEDER_A = 60  # to a building, with a neutral: what else has so large a one?
_STANDS_APART = r"^\s*building\b|\bdetached\b|\baway\b"


#: In the metric set: a board with its own run and device; what brings the supply in.
_BOARD = r"\bboard\b(?!\s+(?:heater|heating))|\bcu\b"
_TAILS = r"\b(?:meter\s+)?tails?\b|\bsupply\s+cable\b"


@dataclass(frozen=True)
class LineKind:
    """``name`` of the kind; ``word`` the match that says it; ``of`` the electrode's, metal's or
    building's own; ``doubts`` the other kinds it could be, the likelier first."""

    name: str
    word: re.Match[str] | None = None
    of: str = ""
    doubts: tuple[str, ...] = ()


def kind_of(line: Line) -> LineKind:
    """The likeliest kind, and the others that it could be."""
    wired = bool(line.facts.keys() & {"breaker.rating_a", "poles"}) or any(
        m.startswith("wires ") for m in line.marks
    )
    electric = wired or bool(line.facts.keys() & {"line_size", "method", "raceway_size"})
    if wired:  # how far it is, no panel of its own
        line.take_all(r"\bfrom\s+(?:the\s+)?panel\b(?=\s*(?:$|[,;]))")
    if array := line.first(_ARRAY):
        # “PV backfeed 40A 8/3” is the circuit that an array feeds in by.
        if wired:
            return LineKind(CIRCUIT, None, doubts=(ARRAY,))
        return LineKind(ARRAY, array)
    if line.first(r"\bmicro\s*-?\s*inverters?\b"):
        return LineKind(CIRCUIT, None, doubts=(ARRAY,)) if wired else LineKind(ARRAY, None)
    bonded = _bond_to_a_panel(line)
    if bonded is not None:
        return bonded
    panel = line.first(_PANEL) or (
        line.first(r"\bpanel\b") if "main.rating_a" in line.facts else None
    )
    if panel and _is_the_main(line, panel):
        return LineKind(SERVICE, panel, doubts=(PANEL,))
    if panel is None and MARK in line.marks and electric:
        panel = line.first(_BOARD) if wired else None
        if tails := None if wired else line.first(_TAILS):
            return LineKind(SERVICE, tails)
    if panel:
        return LineKind(PANEL, panel)
    if (supply := line.first(_SUPPLY)) and not _is_a_load(line, supply):
        cabled = any(m.startswith("wires ") for m in line.marks) or (
            MARK in line.marks and line.facts.keys() >= {"breaker.rating_a", "line_size", "method"}
        )
        return LineKind(CIRCUIT, None, doubts=(SUPPLY,)) if cabled else LineKind(SUPPLY, supply)
    own = line.first(EARTHING) if MARK in line.marks else None
    if own is not None or "ze_ohm" in line.facts:
        return LineKind(SUPPLY, own, "network")
    if service := line.first(_SERVICE):
        return LineKind(SERVICE, service)
    if (
        line.facts.get("method") == "SE"
        and "breaker.rating_a" not in line.facts
        and not _named(line)
    ):
        return LineKind(SERVICE, None, doubts=(CIRCUIT,))
    if "main.rating_a" in line.facts and not electric and not _named(line):
        return LineKind(SERVICE, None)
    if not wired:
        for of, pattern in _ELECTRODES:
            if found := line.first(pattern):
                if re.search(r"(?i)\bfrom\s+the\s+panel\b", line.text):
                    line.problems.append(
                        "How far it is from the panel is not kept: write its own length, 8 ft."
                    )
                return LineKind(ELECTRODE, found, of)
        if line.first(GEC_WORDS) and (found := line.first(metal_words("water"))):
            return LineKind(ELECTRODE, found, "water")
        for of, pattern in _METALS:
            found = line.first(pattern)
            if found and not _is_a_load(line, found):
                only = not electric and of == "pool"
                return LineKind(METAL, found, of, (CIRCUIT,) if only else ())
    # “building barn 120 ft away”: its feet are of no circuit, and its maker says so.
    is_run = electric or (
        "length_ft" in line.facts and not re.search(_STANDS_APART, line.text.lower())
    )
    if not is_run and (found := line.first(_BUILDING)):
        doubts = () if found[1] in ("building", "house", "cottage") else (CIRCUIT,)
        if line.facts.keys() & {"gfci", "afci", "space", "load_va"}:
            return LineKind(CIRCUIT, None, doubts=(BUILDING,))
        if _is_a_load(line, found):
            return LineKind(CIRCUIT, None, doubts=(BUILDING,))
        return LineKind(BUILDING, found, found[1], doubts)
    if feeds := line.first(_FEEDS):
        rating = line.facts.get("breaker.rating_a") or 0
        if rating >= LEAST_FEEDER_A and line.facts.get("poles") != 1 and "wires 3" in line.marks:
            line.take_all(r"\bto\s+(?:the\s+|an?\s+)?(?=" + _BUILDING + ")")
            if not _is_a_load(line, feeds):
                return LineKind(PANEL, None, doubts=(CIRCUIT,))
    rating = line.facts.get("breaker.rating_a") or 0
    large = rating >= LARGE_A or (rating >= LEAST_FEEDER_A and "conductor sets" in line.marks)
    if large and _names_only_a_building(line):
        return LineKind(PANEL, None, doubts=(CIRCUIT,))
    doubts = ()
    if line.first(_BUILDING) and rating >= LEAST_DOUBTED_A and line.facts.get("poles") != 1:
        two_pole = line.facts.get("poles") == 2 or "wires 3" in line.marks
        alone = line.facts.get("line_size") and _names_only_a_building(line)
        doubts = (PANEL,) if two_pole or (alone and "wires 2" not in line.marks) else ()
    return LineKind(CIRCUIT, None, doubts=doubts)


def _names_only_a_building(line: Line) -> bool:
    """“barn 100A 2-2-2-4”: no load is named, and so large a one feeds a panel."""
    found = line.first(_BUILDING)
    large = (line.facts.get("breaker.rating_a") or 0) >= LARGE_A
    if found is None or (found[1] in ("building", "house", "cottage") and not large):
        return False
    words = [w for at, w in line.left() if not found.start() <= at < found.end()]
    return not any(re.search(r"[a-z]{2}", w.lower()) for w in words if w.lower() not in _SMALL)


def is_of_building(name: str, building: str) -> bool:
    """Whether a panel's name is that of a building that is here: “garage” of “detached garage”, but
    no pump shed of a tool shed."""
    if not re.search(_BUILDING, name.lower()):
        return False
    own, there = ({*text.lower().split()} - {"detached"} for text in (name, building))
    return bool(own) and (own <= there or there <= own)


def stands_apart(name: str, outdoors: bool) -> str:
    """The building that a panel's name says, where that is one of its own: “shed”; “garage” where
    its feeder runs ``outdoors``."""
    found = re.search(_BUILDING, name.lower())
    word = found[1] if found else ""
    if found is None and re.search(r"\b(?:mobile|manufactured)\s*home\b|\btrailer\b", name.lower()):
        return "guest house"
    if outdoors and found is None and re.search(_OUTDOORS, name.lower()):
        return "outbuilding"
    if not word or word in ("building", "house", "cottage"):
        return ""
    return word if outdoors or word not in _MAY_BE_ATTACHED else ""


def _bond_to_a_panel(line: Line) -> LineKind | None:
    """“gas bonded to panel #6”: the panel is only where its bond goes."""
    if not line.first(r"\bbond(?:ed|ing)?\b|\bjumper\b"):
        return None
    for of, pattern in (*_METALS, ("gas", r"^\s*gas\b"), ("water", r"^\s*water\b")):
        found = line.first(pattern)
        if found and not _is_a_load(line, found):
            line.take_all(r"\bto\s+(?:the\s+)?(?:main\s+)?(?:service\s+)?panel\b")
            return LineKind(METAL, found, of)
    return None


def _is_the_main(line: Line, panel: re.Match[str]) -> bool:
    """“200 A main breaker panel”: a panel with a main and no name is the service's own."""
    if "main.rating_a" not in line.facts or "breaker.rating_a" in line.facts:
        return False
    inside = range(panel.start(), panel.end())
    said = re.search(
        r"\bmain\s+breaker\s+(?:service\s+)?panel\b(\s+(?:in|at|on)\s)?", line.text.lower()
    )
    if said and said[1]:  # where it stands is no name of its own
        return True
    return not any(at not in inside and re.search(r"[A-Za-z]{2}", w) for at, w in line.left())


def _named(line: Line) -> bool:
    return any(re.search(r"[A-Za-z]{3}", word) for _, word in line.left())


_LOADS = (
    r"^\s*-?\s*(?:pump|light|lights|heater|heat|inlet|charger|receptacles?|outlets?|plugs?|opener|"
    r"freezer|fridge|door|softener|closet|fan|panel|circuit|equipment|furnace|dryer|range|stove|"
    r"oven|cooktop|fireplace|valve|log|house)\b"
)


def _is_a_load(line: Line, match: re.Match[str]) -> bool:
    """Whether the word only says what a load is: “pool pump”, “garage lights”."""
    return bool(re.match(_LOADS, line.low[match.end() :]))
