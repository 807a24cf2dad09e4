"""One line as a part of the place: its kind first, then its facts, read back before it is kept.

    20A 12/2 NM 85ft kitchen counter
    sub panel garage 60A 6/3 110ft
    two ground rods 6 ft apart
    water pipe metal bonded 4
    detached garage
    generator 8kVA

References to parts that the same line makes are symbolic (``@1`` is the first thing it adds)
until their ids are given (``edits.resolved``).
"""

import re
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from ... import sizing, tables
from ...conductor import methods
from ...errors import BadInput
from ...vocabulary import FactPath
from ..earthing import Electrode, Metal
from ..edits import Add, Edit, Set, apply_all
from ..fields import field_info, parse_text, show_value
from ..installation import Installation, name_of
from ..serves import load_kind_in
from .electric import complete_run, read_all
from .kind import ARRAY, BUILDING, BUILDINGS, CIRCUIT, ELECTRODE, METAL, PANEL, SERVICE, SUPPLY
from .kind import LineKind, kind_of, metal_words
from .line import Line
from .name import take_name
from .places import building_in, fed_from, panel_of_building

_FEEDER = ("breaker.rating_a", "breaker.interrupting_ka", "poles", "method", "length_ft",
           "line_size", "line_material", "neutral", "neutral_size", "egc", "egc_size",
           "raceway_size", "year", "sets", "route")  # fmt: skip
_CIRCUIT = (*(k for k in _FEEDER if k not in ("neutral_size", "sets")), "gfci", "afci", "space", "tandem", "load_va", "nameplate_mca_a",
            "nameplate_max_a", "load_kind", "outlets")  # fmt: skip
KIND_WORDS = {
    CIRCUIT: "A circuit", PANEL: "A sub-panel", ELECTRODE: "An electrode", METAL: "Other metal",
    BUILDING: "A building", SUPPLY: "A source", SERVICE: "The service run", ARRAY: "An array",
}  # fmt: skip


@dataclass
class PlaceReading:
    """What was read: ``kind`` first, in words too; the ``edits`` it makes; ``facts`` by the job
    file's keys, ``assumed`` those of custom; ``unused`` the words that are neither, ``doubts`` the
    other kinds it could be; ``problems`` what cannot be."""

    kind: str = ""
    count: int = 1
    title: str = ""
    facts: dict[str, Any] = field(default_factory=dict)
    assumed: list[str] = field(default_factory=list)
    edits: list[Edit] = field(default_factory=list)
    words: list[str] = field(default_factory=list)
    assumed_words: list[str] = field(default_factory=list)
    unused: list[str] = field(default_factory=list)
    doubts: list[str] = field(default_factory=list)
    problems: list[str] = field(default_factory=list)

    @property
    def is_complete(self) -> bool:
        """Whether it makes something and nothing was left over."""
        return bool(self.edits) and not self.problems and not self.unused

    @property
    def kept_words(self) -> str:
        """The read-back for the history."""
        return ", ".join([self.title, *self.words])


def read_place(
    site: Installation, line: str, panel: str = "", as_kind: str = "", unused: str = ""
) -> PlaceReading:
    """Read one line for ``site``; circuits and electrodes go to ``panel``. Never raises.

    ``as_kind`` one of the kinds it could be, chosen by the person; ``unused`` what to do with words
    that mean nothing here: "name" adds them to the name, "drop" leaves them out.
    """
    panel = panel or site.panel.id
    if not line.strip():
        return PlaceReading()
    typed = Line(line)
    read_all(typed)
    kind = kind_of(typed)
    if as_kind in KIND_WORDS and as_kind != kind.name:
        others = tuple(k for k in (kind.name, *kind.doubts) if k != as_kind)
        kind = LineKind(as_kind, kind.word if as_kind == kind.name else None, kind.of, others)
    made = PlaceReading(kind=kind.name, doubts=list(kind.doubts))
    try:
        _MAKERS[kind.name](_Making(site, typed, kind, panel, made, unused))
    except BadInput as error:
        made.problems.append(error.sentence)
    if kind.name in _USES:
        _only(typed, _USES[kind.name])
    made.problems = [*typed.problems, *made.problems]
    made.facts = {k: v for k, v in made.facts.items() if v is not None}
    made.assumed = sorted(typed.assumed & made.facts.keys())
    made.unused = [w for w in made.unused if w]
    if len(line) > 300:
        made.problems.append("A line is at most 300 characters.")
    if made.edits and not made.problems:
        try:
            apply_all(site, made.edits)
        except BadInput as error:
            made.problems.append(error.sentence)
    if made.unused and not made.problems:
        made.problems += _reasons(made.unused)
    return made


@dataclass
class _Making:
    """What the makers share."""

    site: Installation
    line: Line
    kind: LineKind
    panel: str
    made: PlaceReading
    accept: str

    def name(self) -> str:
        """The name that is left, with the words that mean nothing as the person decided."""
        if self.kind.word is not None:
            self.line.take(self.kind.word)
        name, unused = take_name(self.line)
        if unused and self.accept == "name":
            return f"{name} {' '.join(unused)}".strip()[:80]
        self.made.unused = [] if self.accept == "drop" else unused
        return name

    def left_is_unused(self) -> None:
        """Where the thing has no name: all that is left was not used."""
        if self.kind.word is not None:
            self.line.take(self.kind.word)
        _, left = take_name(self.line, may_have_any=False)
        self.made.unused = [] if self.accept in ("drop", "name") else left

    def told(self, fact: str, words: str) -> None:
        """One fact in words, as read or as assumed."""
        (self.made.assumed_words if fact in self.line.assumed else self.made.words).append(words)


def nested(flat: dict[str, Any]) -> dict[str, Any]:
    """``{"breaker.rating_a": 20}`` as the job file has it."""
    found: dict[str, Any] = {}
    for key, value in flat.items():
        group, *leaf = FactPath.of("c1", key).names
        if leaf:
            found.setdefault(group, {})[leaf[0]] = value
        else:
            found[key] = value
    return found


def _only(line: Line, keys) -> dict[str, Any]:
    """The line's facts that an element has; any other figure it gives is not silently lost."""
    for key in line.facts.keys() - set(keys) - {"proved_ohm", "main.rating_a"}:
        if key not in line.assumed:
            value = line.facts[key]
            shown = f"{value:g}" if isinstance(value, float) else value
            line.problems.append(f"{_LABELS.get(key, key)} ({shown}) does not belong to it.")
    return {k: line.facts[k] for k in keys if k in line.facts}


#: What the kinds that are no run make of an electrical fact; any other is refused.
_USES = {
    ELECTRODE: ("length_ft", "diameter_in", "line_size", "line_material", "gec_size", "egc_size",
                "spacing_ft", "depth_in", "egc"),
    METAL: ("line_size", "line_material", "egc_size", "egc", "length_ft"),
    BUILDING: ("year",),
    SUPPLY: ("load_va", "breaker.rating_a", "line_size", "line_material", "length_ft", "egc",
             "egc_size"),
    SERVICE: ("length_ft", "line_size", "line_material", "neutral_size", "neutral", "sets",
              "breaker.rating_a", "poles", "route"),
    ARRAY: ("length_ft", "line_size", "line_material", "egc_size", "egc", "load_va"),
}  # fmt: skip


_LABELS = {"spacing_ft": "A distance apart", "neutral_size": "A neutral of its own size",
           "sets": "Parallel sets", "gfci": "GFCI", "afci": "AFCI", "space": "A space",
           "length_ft": "A length", "load_va": "A load", "line_size": "A wire size",
           "breaker.rating_a": "A breaker", "poles": "Poles", "year": "A year",
           "method": "A wiring method", "raceway_size": "A trade size", "neutral": "A neutral",
           "nameplate_mca_a": "MCA", "nameplate_max_a": "MOCP", "tandem": "A tandem breaker",
           "line_material": "A metal", "breaker.interrupting_ka": "An interrupting rating",
           "outlets": "Receptacles", "afci": "AFCI", "egc": "A ground", "depth_in": "A depth", "egc": "A ground", "egc_size": "A ground wire"}  # fmt: skip


def _circuit(m: _Making) -> None:
    line = m.line
    source = fed_from(m.site, line)
    home = building_in(m.site, line)
    name = m.name()
    if "proved_ohm" in line.facts:
        line.problems.append("Ohms are entered at the circuit, as its measured return.")
    if kind := load_kind_in(name) if name else None:
        if kind in ("range", "dryer", "water heater", "cooling") and "120" not in line.marks:
            line.suppose("poles", 2)
    complete_run(line)
    if "underground" in line.marks:
        line.facts["route"] = "underground"
    if line.facts.get("neutral_size") == line.facts.get("line_size"):
        line.facts.pop("neutral_size", None)
    facts = _only(line, _CIRCUIT)
    if not facts and not name:
        return
    if name:
        facts["name"] = name
    if home:
        facts["building"] = home
    m.made.facts = facts
    m.made.title = f"A circuit: {name}" if name else "A circuit"
    _run_words(m, facts)
    where = source or m.panel
    if len(m.site.panels) > 1:
        m.made.words.append(f"at {name_of(next(p for p in m.site.panels if p.id == where))}")
    m.made.edits = [Add(to="circuits", facts={"panel": where, **nested(facts)})]


def _panel(m: _Making) -> None:
    line, site = m.line, m.site
    source = fed_from(site, line) or m.panel
    home = building_in(site, line)
    name = m.name() or "Sub-panel"
    complete_run(line, feeder=True)
    if "underground" in line.marks:
        line.facts["route"] = "underground"
    facts = _only(line, _FEEDER)
    if facts.get("neutral") == "yes" and "neutral_size" not in facts and facts.get("line_size"):
        line.suppose("neutral_size", facts["line_size"])
        facts["neutral_size"] = facts["line_size"]
    if home is None:
        named = [b.id for b in site.buildings if name_of(b).lower() == name.lower()]
        home = named[0] if named else next(p.building for p in site.panels if p.id == source)
    main = {k: v for k, v in line.facts.items() if k == "main.rating_a"}
    panel = {"name": name, "kind": "sub", "building": home, **main}
    fed = name_of(next(p for p in site.panels if p.id == source))
    m.made.title = f"A sub-panel: {name}, fed from {fed}"
    if home:
        m.made.words.append(f"in {name_of(site.elements()[home])}")
    if main:
        m.made.words.append(f"main breaker {main['main.rating_a']:g} A")
    _run_words(m, facts)
    if not facts:
        m.made.words.append("feeder not said")
    m.made.facts = {**facts, **panel, "source": source}
    m.made.edits = [
        Add(to="panels", facts=nested({k: v for k, v in panel.items() if v is not None})),
        Add(
            to="feeders",
            facts={"name": f"{name[:70]} feeder", "source": source, "to": "@1", **nested(facts)},
        ),
    ]


def _run_words(m: _Making, facts: dict[str, Any]) -> None:
    """A run's facts in the trade's words, what is assumed apart."""
    said = []
    if rating := facts.get("breaker.rating_a"):
        said.append(("breaker.rating_a", f"{rating:g} A breaker"))
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


def _ground_words(facts: dict[str, Any]) -> tuple[str, str]:
    egc, size = facts.get("egc"), facts.get("egc_size")
    wire = f"{tables.size_name(size)} EGC" if size else "an EGC, size not said"
    return "egc", {
        "wire": wire,
        "both": f"{wire} in the raceway",
        "raceway": "the raceway is the fault path",
        "none": "no ground",
        None: "ground not said",
    }[egc]


def _count(m: _Making) -> int:
    """The figure in front of the kind's word: ``two rods``."""
    start = m.kind.word.start() if m.kind.word else 0
    after = re.match(r"\s*(?:x\s*([2-9])|\(\s*([2-9])\s*\))(?=\s|$|,)", m.line.low[m.kind.word.end() :]) if m.kind.word else None
    if after:
        m.line.mark(m.kind.word.end(), m.kind.word.end() + after.end())
        return int(after[1] or after[2])
    if m.line.take_all(r"\b(?:a\s+)?(?:pair|couple)\s+of\b"):
        return 2
    match = re.search(r"\(?\b([2-9])\s*\)?\s*(?:x\s*|each\s+|new\s+|driven\s+)?(?:\d+\s*(?:ft|'|foot)\s+)?$", m.line.low[:start])
    if match and not m.line.read[match.start(1)]:
        m.line.mark(match.start(1), match.end(1))
        return int(match[1])
    return 1


def _electrode(m: _Making) -> None:
    line, site, kind = m.line, m.site, m.kind.of or "rod"
    panel = fed_from(site, line) or panel_of_building(site, line) or m.panel
    _rod_size(line)
    count = _count(m)
    _lead(line)
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
    choices = Electrode.model_fields["kind"].json_schema_extra["choices"]
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
    edits, near = _electrode_edits(site, facts, panel, count, spacing, "from the last" in line.marks)
    if spacing is not None:
        m.made.words.append(f"{spacing:g} ft {'apart' if count > 1 else 'from the last one'}")
        if count == 1 and near is None:
            m.made.problems.append("There is no other rod to be that far from.")
    if len(site.panels) > 1:
        m.made.words.append(f"at {name_of(next(p for p in site.panels if p.id == panel))}")
    m.made.facts = {**facts, "panel": panel} | ({"spacing_ft": spacing} if spacing is not None else {})
    m.made.edits = edits


def _rod_size(line: Line) -> None:
    """``5/8 x 8``, ``5/8"``: a rod's diameter and length."""
    if match := line.first(r"\b([1357]/[248])\s*(?:\"|in(?:ch)?\b\.?)?\s*(?:x|by)\s*(\d{1,2})\s*(?:ft\b|'|foot\b|feet\b)?"):
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


def _electrode_edits(site, facts, panel: str, count: int, spacing, from_last: bool):
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


def _metal(m: _Making) -> None:
    line, kind = m.line, m.kind.of or "water"
    panel = fed_from(m.site, line) or panel_of_building(m.site, line) or m.panel
    csst = bool(re.search(r"\bcsst\b", line.low))
    if m.kind.word is not None:
        line.take(m.kind.word)
    line.take_all(metal_words(kind))
    choices = Metal.model_fields["kind"].json_schema_extra["choices"]
    facts: dict[str, Any] = {"kind": kind, "name": choices[kind].capitalize()}
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
    metal_said = line.facts.get("line_material") or ("x" if re.search(r"steel|metal|copper|galvan", word) else None)
    if metal_said and "material" not in facts:
        facts["material"] = "metal"
        said.append("metal")
    size = None
    not_bonded = r"\b(?:not|isn't|never|un)\s*-?\s*(?:bonded|grounded|connected)\b|\bno\s+bond\b"
    if line.take_all(not_bonded):
        facts["bonded"] = "no"
        said.append("not bonded")
    elif match := (
        line.first(r"\b(?:bonded|bond)\b(?:\s+(?:with|by|w/))?\s*(?:a\s+)?#?((?:[1-4]/0|\d{1,2}))\b(?:\s*awg)?")
        or line.first(r"\b(?:bonded|bond)\b()")
    ):
        line.take(match)
        size = match[1] or None
        facts |= {"bonded": "yes", "panel": panel}
        said.append("bonded")
    size = size or line.facts.get("line_size") or line.facts.get("egc_size")
    if size:
        facts["bond_size"] = parse_text(field_info(Metal(id="m1"), "bond_size"), size)
        said.append(f"bonding wire {tables.size_name(facts['bond_size'])}")
    if line.take_all(r"\bshared(?:\s+(?:main|with\s+(?:the\s+)?neighbou?rs))?\b"):
        facts["shared_main"] = "yes"
        said.append("shared with neighbors")
    line.take_all(r"\bpipe\b|\btube\b|\bpiping\b|\btubing\b")
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


def _building(m: _Making) -> None:
    word = m.kind.of or (m.kind.word[0] if m.kind.word else "")
    name = m.name() or (word or "building").capitalize()
    facts: dict[str, Any] = {"name": name}
    if permit := BUILDINGS.get(word):
        facts["permit"] = permit
        m.line.assumed.add("permit")
        m.made.assumed_words.append(permit)
    if "year" in m.line.facts:
        facts["wired_year"] = m.line.facts["year"]
        m.made.words.append(f"wired in {facts['wired_year']}")
    m.made.title = f"A building: {name}"
    m.made.facts = facts
    m.made.edits = [Add(to="buildings", facts=facts)]


def _supply(m: _Making) -> None:
    line, site = m.line, m.site
    word = m.kind.word[0] if m.kind.word else "generator"
    kind = "inverter" if "inverter" in word else "generator"
    if "transformer" in word or "xfmr" in word:
        _transformer(m)
        return
    facts: dict[str, Any] = {"kind": kind, "name": kind.capitalize()}
    said = []
    if "load_va" in line.facts:
        facts["kva"] = line.facts["load_va"] / 1000
        said.append(f"{facts['kva']:g} kVA")
    if rating := line.facts.get("breaker.rating_a"):
        facts["breaker.rating_a"] = rating
        said.append(f"{rating:g} A breaker")
    for pattern, key, value, words in (
        (r"\bfloating\s+neutral\b|\bbond\s+out\b|\bunbonded\b", "bond", "out", "its bond out"),
        (r"\bbonded(?:\s+neutral)?\b|\bbond\s+in\b", "bond", "in", "its bond in"),
        (r"\b(?:switched\s+neutral|neutral\s+switched)\b|\b4\s*-?\s*pole\s+transfer\b", "neutral_switched", "yes", "neutral switched"),
        (r"\bno\s+(?:interlock|transfer\s+switch)\b", "interlock", "none", "nothing keeps it apart"),
        (r"\btransfer\s+switch\b|\bats\b", "interlock", "transfer switch", "a transfer switch"),
        (r"\binterlock(?:\s+kit)?\b", "interlock", "interlock", "an interlock"),
    ):  # fmt: skip
        if line.take_all(pattern) and key not in facts:
            facts[key] = value
            said.append(words)
    cord = line.facts.get("line_size") or _cord(rating)
    run = {"supply": "@1", "to": site.panel.id, "line_size": cord, "line_material": "copper",
           "neutral_size": cord, "length_ft": line.facts.get("length_ft", 25.0)}  # fmt: skip
    assumed = [k for k in ("line_size", "length_ft") if k not in line.facts]
    if kind == "generator" and line.facts.get("egc") != "none":
        run["egc_size"] = sizing.smallest_egc(rating or 30.0).value
        assumed.append("egc_size")
    m.left_is_unused()
    m.made.title = f"A source: {kind}"
    m.made.words = said
    m.made.assumed_words = [
        f"cord {run['length_ft']:g} ft of {tables.size_name(run['line_size'])}: change it where it"
        " differs"
    ]
    m.made.facts = {**facts, **{k: v for k, v in run.items() if k not in ("supply", "to")}}
    line.assumed |= set(assumed) | {"line_material", "neutral_size"}
    m.made.edits = [Add(to="supplies", facts=nested(facts)), Add(to="services", facts=run)]


def _cord(rating: float | None) -> str:
    """The least cord for a generator's breaker; 10 AWG where it is not said."""
    return sizing.smallest_line(rating or 30.0, "copper", 60).value


def _transformer(m: _Making) -> None:
    """The utility's own: what is on its plate."""
    line, site = m.line, m.site
    facts: dict[str, Any] = {"kind": "utility"}
    if "load_va" in line.facts:
        facts["kva"] = line.facts["load_va"] / 1000
        m.made.words.append(f"{facts['kva']:g} kVA")
    if match := line.first(r"\b(\d(?:\.\d+)?)\s*%(?:\s*(?:z|imp\w*))?"):
        line.take(match)
        facts["percent_z"] = float(match[1])
        m.made.words.append(f"{facts['percent_z']:g} % impedance")
    line.take_all(r"\b(?:utility|pole|pad|power\s+company|poco)(?:'s)?\b(?:\s*-?\s*mount(?:ed)?)?|\boutside\b")
    m.left_is_unused()
    m.made.title = "The utility's transformer"
    m.made.facts = facts
    m.made.edits = [
        Set(path=f"{site.supply.id}.{k}", value=v) for k, v in facts.items() if k != "kind"
    ]


def _service(m: _Making) -> None:
    """What is said of the run from the utility, and of the main."""
    line, site = m.line, m.site
    run, facts = site.service, {}
    word = m.kind.word[0] if m.kind.word else ""
    if "overhead" in line.marks or re.search(r"overhead|drop", word):
        facts["run"] = "overhead"
    elif "underground" in line.marks or re.search(r"underground|lateral", word):
        facts["run"] = "underground"
    line.take_all(r"\b(?:overhead|underground|drop|lateral|triplex|conductors?|feed)\b")
    if "run" not in facts and "triplex" in line.low:
        facts["run"] = "overhead"
    for key in ("length_ft", "line_size", "line_material", "neutral_size", "sets"):
        if key in line.facts:
            facts[key] = line.facts[key]
    rating = line.facts.get("breaker.rating_a") or line.facts.get("main.rating_a")
    m.left_is_unused()
    m.made.title = "The service run"
    for key, value in facts.items():
        m.made.words.append(show_value(field_info(run, key), value))
    edits: list[Edit] = [Set(path=f"{run.id}.{k}", value=v) for k, v in facts.items()]
    if rating:
        facts["main.rating_a"] = rating
        edits.append(Set(path=f"{site.panel.id}.main.rating_a", value=rating))
        m.made.words.append(f"{rating:g} A main")
    m.made.facts = facts
    m.made.edits = edits
    if not edits:
        m.made.problems.append("Say its size, length or rating: service 200A 4/0 al overhead 60ft.")


def _array(m: _Making) -> None:
    line = m.line
    facts: dict[str, Any] = {}
    said = []
    for pattern, names in (
        (r"\b(\d{1,2})\s*strings?\s*(?:of|x)\s*(\d{1,2})(?:\s*(?:modules?|panels?))?", ("strings", "modules")),
        (r"\b(\d{1,2})\s*strings?\b", ("strings",)),
        (r"\b(\d{1,2})\s*(?:modules?|panels?)\b", ("modules",)),
    ):  # fmt: skip
        if match := line.first(pattern):
            line.take(match)
            for name, text in zip(names, match.groups(), strict=False):
                facts[name] = int(text)
                said.append(f"{text} {name}")
            break
    for pattern, name, unit in (
        (r"\bisc\s*[:=]?\s*(\d+(?:\.\d+)?)\s*a?\b", "isc_a", "A"),
        (r"\bvoc\s*[:=]?\s*(\d+(?:\.\d+)?)\s*v?\b", "voc_v", "V"),
    ):
        if match := line.first(pattern):
            line.take(match)
            facts[name] = float(match[1])
            said.append(f"{name.split('_')[0]} {match[1]} {unit}")
    if line.take_all(r"\bmicro\s*-?\s*inverters?\b"):
        facts["inverter"] = "micro"
    elif line.take_all(r"\bstring\s+inverter\b|\binverter\b"):
        facts["inverter"] = "string"
    for key in ("length_ft", "line_size", "egc_size"):
        if key in line.facts:
            facts[key] = line.facts[key]
    if "load_va" in line.facts:
        m.made.unused.append(f"{line.facts['load_va'] / 1000:g} kW")
    left = list(m.made.unused)
    name = m.name() or "Array"
    m.made.unused = [*left, *m.made.unused] if m.accept not in ("drop", "name") else []
    facts["name"] = name
    m.made.title = f"An array: {name}"
    m.made.words = said
    m.made.facts = facts
    m.made.edits = [Add(to="arrays", facts=facts)]


_MAKERS: dict[str, Callable[[_Making], None]] = {
    CIRCUIT: _circuit,
    PANEL: _panel,
    ELECTRODE: _electrode,
    METAL: _metal,
    BUILDING: _building,
    SUPPLY: _supply,
    SERVICE: _service,
    ARRAY: _array,
}


def _reasons(unused: list[str]) -> list[str]:
    """Why each word was not used, a sentence each."""
    from .reasons import why_not

    return [why_not(word) for word in unused]
