"""Circuits, and sub-panels with their feeders."""

import re
from typing import Any

from ... import tables
from ...conductor import methods
from ..edits import Add, Edit
from ..installation import name_of
from ..serves import load_kind_in
from .custom import TWO_POLE_FROM_A, complete_run
from .kind import BUILDINGS, GEC_WORDS, is_of_building, stands_apart
from .line import MARK
from .making import OWN_BUILDING, Making, nested, only
from .metric import no_table
from .pairs import Pair
from .places import building_in, fed_from

#: Run between buildings, not inside of one.
OUTDOORS = ("UF", "SWA", "triplex", "lateral", "MHF")
_FEEDER = ("breaker.rating_a", "breaker.interrupting_ka", "poles", "method", "length_ft",
           "line_size", "line_material", "neutral", "neutral_size", "egc", "egc_size",
           "raceway_size", "year", "sets", "route", "breaker.kind", "rcd_ma",
           "rcd_type", "rcd_delayed", "breaker.magnetic")  # fmt: skip
_CIRCUIT = (*(k for k in _FEEDER if k not in ("neutral_size", "sets")), "gfci", "afci", "space", "tandem", "load_va", "nameplate_mca_a",
            "nameplate_max_a", "load_kind", "outlets", "relied_on", "flex_ft", "ring", "spur_ft",
            "dc_detection", "open_pen")  # fmt: skip

UNNAMED = "Sub-panel"
_OF_A_BOND = r"\b(?:bond(?:ed|ing)?|screws?|straps?|jumpers?|neutrals?)\b"
#: What is said of a part, and makes none.
_NO_CIRCUIT = (
    r"\b(?:joints?|splices?|loose|corroded|broken|burnt|burned|open\s+(?:neutral|ground)|jumpers?|"
    r"clamps?|bond(?:ed|ing)?|missing)\b"
)


def circuit(m: Making) -> None:
    line = m.line
    source = fed_from(m.site, line)
    home = building_in(m.site, line)
    bare = line.take_all(r"\bbare\s+neutral\b|\bneutral\s+bare\b")
    pair = Pair.read(m)
    name = m.name(_of_a_load(line.low))
    if "proved_ohm" in line.facts:
        line.problems.append("Ohms are entered at the circuit, as its measured return.")
    kind = load_kind_in(name) if name else None
    two_line = "120" not in line.marks and MARK not in line.marks
    if kind in ("range", "dryer", "water heater", "cooling") and two_line:
        line.suppose("poles", 2)
    if kind in ("range", "dryer") and "conductors 3" in line.marks and "ground" not in line.marks:
        line.marks.add("three-wire appliance")
    if (
        kind in ("range", "dryer")
        and bare
        and "ground" not in line.marks
        and MARK not in line.marks
    ):
        line.marks.add("three-wire appliance")  # SE cable: its bare wire is the neutral
    pair.before(line)
    _fuse(m)
    complete_run(line)
    if line.load_a is not None and "load_va" not in line.facts:  # its watts say it better
        large = (line.facts.get("breaker.rating_a") or 0) >= TWO_POLE_FROM_A
        two_line = line.facts.get("poles") == 2 or (large and "poles" not in line.facts)
        volts = 230 if MARK in line.marks else 240 if two_line else 120
        line.give("load_va", line.load_a * volts, "load")
    if "underground" in line.marks:
        line.facts["route"] = "underground"
    if line.facts.get("neutral_size") == line.facts.get("line_size"):
        line.facts.pop("neutral_size", None)
    facts = only(line, _CIRCUIT)
    if not facts and not name:
        return
    if _is_two_lines(line.low):
        line.problems.append("Two breakers with their cables: write a line for each circuit.")
    if not facts.keys() & {"breaker.rating_a", "line_size", "method"} and (
        fault := re.search(_NO_CIRCUIT, line.low)
    ):
        line.problems.append(
            f"“{fault[0]}” is of a part that is here already: select that part and enter it there."
        )
    if (
        MARK not in line.marks
        and not facts.keys() & {"breaker.rating_a", "method"}
        and not any(w.startswith("wires ") for w in line.marks)
        and re.search(r"\bbond(?:ed|ing)?\b", line.low)
    ):
        line.problems.append("What is bonded? Write water pipe bonded #4, gas bonded #6, or select"
                             " the part and enter its bond there.")  # fmt: skip
    if re.search(GEC_WORDS, line.low):
        line.problems.append("Where does that electrode conductor go? Write rod #6 or ufer #4.")
    if name:
        facts["name"] = name
    if home is None and MARK in line.marks and name:
        # “C20 4mm SWA 35m shed”, and there is a shed: it goes there.
        same = [b.id for b in m.site.buildings if (b.name or "").lower() == name.lower()]
        home = same[0] if same else None
    if home:
        facts["building"] = home
    if bare:
        facts |= {"neutral": "yes", "neutral_bare": "yes"}
        line.assumed.discard("neutral")
        m.made.words.append("its neutral bare")
    m.made.facts = facts
    m.made.title = f"A circuit: {name}" if name else "A circuit"
    _run_words(m, facts)
    where = source or m.panel
    if len(m.site.panels) > 1:
        m.made.words.append(f"at {name_of(next(p for p in m.site.panels if p.id == where))}")
    pair.make(m, {"panel": where, **nested(facts)})


def _fuse(m: Making) -> None:
    """A plug or cartridge fuse: no table is at hand, so it is judged by heat alone; in the metric
    set the old ones (5, 15, 30 A) are asked about."""
    facts = m.line.facts
    if "fuse" not in m.line.marks or "breaker.rating_a" not in facts:
        return
    if MARK in m.line.marks:
        if "breaker.kind" not in facts:
            m.line.problems.append(no_table(f"{facts['breaker.rating_a']:g} A fuse"))
    else:
        m.line.suppose("breaker.magnetic", "none")
        m.made.assumed_words.append("a fuse: judged as a breaker that opens by heat alone")


def _of_a_load(low: str) -> frozenset[str]:
    """Words that else mean a part of the place, in what is plainly a load: “generator inlet”."""
    words = {"generator": r"\binlet\b",
             "panel": r"\b(?:alarm|security|data|media|network|fire|heating|lighting)\s+panel\b"}  # fmt: skip
    return frozenset(word for word, sign in words.items() if re.search(sign, low))


def _is_two_lines(low: str) -> bool:
    """“dishwasher 15A 14/2 + disposal 15A 14/2”: alike, so that no figure contradicts another."""
    breakers = re.findall(r"(?<![\d./])\d{2,3}\s*-?\s*a(?:mps?)?\b", low)
    return len(breakers) > 1 and len(re.findall(r"\b(?:14|12|10|8|6)\s*[-/]\s*[23]\b", low)) > 1


def panel(m: Making) -> None:
    line, site = m.line, m.site
    source = fed_from(site, line, may_be_in=False) or m.panel
    home = building_in(site, line)
    line.take_all(r"\b(?:mlo|new)\b(?=\s+(?:sub|panel|load))|(?<=mlo )(?:sub\s*-?\s*)?panel\b")
    if m.kind.word is not None and "feeder" not in m.kind.word[0]:
        line.take_all(r"\bmobile[\s-]*home\s+feeder\b")  # its cable, where it has another name
    if line.take_all(r"\btriplex\b"):
        line.give("method", "triplex", "triplex")
    elif "conductors 3" in line.marks and "ground" not in line.marks:
        line.suppose("egc", "none")  # a three-wire feed: two hots and a neutral
    elif line.facts.get("method") == "SE" and "ground" not in line.marks:
        line.suppose("egc", "none")  # its bare wire is the neutral
    name = m.name(frozenset({"panel"})) or UNNAMED
    if name.isdigit():
        name = f"Panel {name}"
    _fuse(m)
    complete_run(line, feeder=True)
    spaces = line.facts.pop("spaces", None)
    if "underground" in line.marks:
        line.facts["route"] = "underground"
    facts = only(line, _FEEDER)
    if facts.get("neutral") == "yes" and "neutral_size" not in facts and facts.get("line_size"):
        line.suppose("neutral_size", facts["line_size"])
        facts["neutral_size"] = facts["line_size"]
    of_source = next(p.building for p in site.panels if p.id == source)
    plain = re.sub(r"(?i)\s*\b(?:sub-?)?(?:board|panel)$", "", name)
    if home is None:
        said = (name.lower(), plain.lower())
        named = [b.id for b in site.buildings if name_of(b).lower() in said]
        if not named:
            like = [b.id for b in site.buildings if is_of_building(plain, name_of(b))]
            named = like if len(like) == 1 else []
        home = named[0] if named else of_source
    outdoors = facts.get("method") in OUTDOORS or facts.get("route") == "underground"
    apart = stands_apart(name, outdoors) if home == of_source else ""
    main = {k: v for k, v in line.facts.items() if k == "main.rating_a"}
    if spaces is not None:
        main["spaces"] = spaces
    if line.bond:
        main |= line.bond.facts
    panel = {"name": name, "kind": "sub", "building": home, **main}
    fed = name_of(next(p for p in site.panels if p.id == source))
    m.made.title = f"A sub-panel: {name}, fed from {fed}"
    if home and not apart:
        m.made.words.append(f"in {name_of(site.elements()[home])}")
    if "main.rating_a" in main:
        m.made.words.append(f"main breaker {main['main.rating_a']:g} A")
    if "spaces" in main:
        m.made.words.append(f"{main['spaces']} spaces")
    if line.bond:
        m.made.words.append(line.bond.words)
    _run_words(m, facts)
    if not facts:
        m.made.words.append("feeder not said")
    of_a_bond = (line.bond and name == UNNAMED) or re.search(_OF_A_BOND, name.lower())
    if of_a_bond and facts.keys() <= line.assumed:  # no feeder: it is of a panel that is here
        line.problems.append("Whose bond? Select that panel and enter it there.")
    m.made.facts = {**facts, **panel, "source": source}
    building: list[Edit] = []
    if apart:
        own = {"name": plain or apart.capitalize(), "permit": BUILDINGS[apart]}
        building, panel["building"] = [Add(to="buildings", facts=own)], "@1"
        m.made.assumed_words.append(OWN_BUILDING)
    m.made.edits = [
        *building,
        Add(to="panels", facts=nested({k: v for k, v in panel.items() if v is not None})),
        Add(
            to="feeders",
            facts={
                "name": f"{name[:70]} {'cable' if MARK in line.marks else 'feeder'}",
                "source": source,
                "to": f"@{len(building) + 1}",
                **nested(facts),
            },
        ),
    ]


def _run_words(m: Making, facts: dict[str, Any]) -> None:
    """A run's facts in the trade's words, what is assumed apart."""
    said = []
    if rating := facts.get("breaker.rating_a"):
        kind = facts.get("breaker.kind")
        what = f"{rating:g} A breaker" if kind is None else _device(rating, kind)
        said.append(("breaker.rating_a", what))
    said += _metric_words(facts)
    if poles := facts.get("poles"):
        said.append(("poles", {1: "one pole", 2: "two poles", 3: "three poles"}[poles]))
    if size := facts.get("line_size"):
        sets = f"{facts['sets']} sets of " if facts.get("sets", 1) > 1 else ""
        said.append(("line_size", f"{sets}{tables.size_name(size)} hot"))
    if metal := facts.get("line_material"):
        said.append(("line_material", tables.metal_name(metal)))
    if "neutral" in facts:
        size = facts.get("neutral_size")
        words = f"neutral {tables.size_name(size)}" if size else "a neutral"
        said.append(("neutral", words if facts["neutral"] == "yes" else "no neutral"))
    if name := facts.get("method"):
        size = f" {facts['raceway_size']} in" if "raceway_size" in facts else ""
        said.append(("method", methods()[name].label + size))
    said.append(_ground_words(facts))
    if relied := facts.get("relied_on"):
        said.append(("relied_on", f"{relied} as its return"))
    if feet := facts.get("flex_ft"):
        said.append(("flex_ft", f"{feet:g} ft of it flexible"))
    if "length_ft" in facts:
        said.append(("length_ft", f"{facts['length_ft']:g} ft one way"))
    if slots := facts.get("outlets"):
        said.append(("outlets", f"{slots} receptacles"))
    for fact, words in (("gfci", "GFCI"), ("afci", "AFCI")):
        if fact in facts:
            said.append((fact, words if facts[fact] == "yes" else f"no {words}"))
    for fact, words in (
        ("space", "space {}"), ("tandem", "tandem breaker"), ("year", "run in {}"),
        ("load_va", "{:g} VA"), ("nameplate_mca_a", "MCA {:g} A"),
        ("nameplate_max_a", "MOCP {:g} A"), ("route", "{}"),
        ("breaker.interrupting_ka", "{:g} kA"),
    ):  # fmt: skip
        if fact in facts:
            said.append((fact, words.format(facts[fact])))
    for fact, words in said:
        m.told(fact, words)


def _device(rating: float, kind: str) -> str:
    return f"{rating:g} A fuse gG" if kind == "gG" else f"{rating:g} A type {kind}"


def _metric_words(facts: dict[str, Any]) -> list[tuple[str, str]]:
    """What only the metric rule set says of a run."""
    said = []
    if ma := facts.get("rcd_ma"):
        more = f" type {facts['rcd_type']}" if "rcd_type" in facts else ""
        delayed = ", delayed" if facts.get("rcd_delayed") == "yes" else ""
        said.append(("rcd_ma", f"RCD {ma:g} mA{more}{delayed}"))
    if facts.get("ring") == "yes":
        said.append(("ring", "a ring"))
    if facts.get("dc_detection") == "yes":
        said.append(("dc_detection", "6 mA d.c. detection"))
    if means := facts.get("open_pen"):
        said.append(("open_pen", f"if the PEN is lost: {means}"))
    if feet := facts.get("spur_ft"):
        said.append(("spur_ft", f"a spur of {feet:g} ft"))
    return said


def _ground_words(facts: dict[str, Any]) -> tuple[str, str]:
    egc, size = facts.get("egc"), facts.get("egc_size")
    wire = f"{tables.size_name(size)} EGC" if size else "an EGC, size not said"
    return "egc", {
        "wire": wire,
        "both": f"{wire} beside the armour"
        if facts.get("method") == "SWA"
        else f"{wire} in the raceway",
        "raceway": "the armour is the fault path"
        if facts.get("method") == "SWA"
        else "the raceway is the fault path",
        "none": "no ground",
        None: "ground not said",
    }[egc]
