"""Buildings, sources, the service run, arrays."""

import re
from typing import Any

from ... import sizing, tables
from ...sizing.metric import smallest_metric_line
from ..edits import Add, Edit, Set
from ..fields import field_info, show_value
from ..installation import name_of
from .bond import ITS_PANEL
from .kind import BUILDINGS, LineKind
from .line import MARK
from .making import Making, nested


def building(m: Making) -> None:
    word = m.kind.of or (m.kind.word[0] if m.kind.word else "")
    name = m.name() or (word or "building").capitalize()
    there = [b for b in m.site.buildings if (b.name or "").lower() == name.lower()]
    if len(there) == 1 and "year" in m.line.facts:
        year = m.line.facts["year"]
        m.made.title, m.made.words = f"The building: {name}", [f"wired in {year}"]
        m.made.facts = {"wired_year": year}
        m.made.edits = [Set(path=f"{there[0].id}.wired_year", value=year)]
        return
    if there and not m.line.facts:
        m.made.title, m.made.words = f"The building: {name}", ["is here already"]
        m.made.edits = [Set(path=f"{there[0].id}.name", value=there[0].name)]
        return
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


def supply(m: Making) -> None:
    line, site = m.line, m.site
    if m.kind.of == "network":
        _network(m)
        return
    word = m.kind.word[0] if m.kind.word else "generator"
    kind = "generator" if re.search(r"\bgen", word) else "inverter"
    if re.search(r"transformer|xfmr|utility", word):
        _transformer(m)
        return
    stored = re.search(r"batter|\bess\b|storage", word)
    name = "Battery" if stored and "inverter" not in word else kind.capitalize()
    facts: dict[str, Any] = {"kind": kind, "name": name}
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
    line.take_all(r"\bcord\b")
    metric = MARK in line.marks
    least, volts = (32.0, 230) if metric else (30.0, 240)  # without its breaker: by its power
    sized_for = rating or max(least, facts.get("kva", 0.0) * 1000 / volts)
    cord = line.facts.get("line_size") or (_metric_cord if metric else _cord)(sized_for)
    run = {"supply": "@1", "to": site.panel.id, "line_size": cord, "line_material": "copper",
           "neutral_size": cord, "length_ft": line.facts.get("length_ft", 25.0)}  # fmt: skip
    assumed = [k for k in ("line_size", "length_ft") if k not in line.facts]
    if kind == "generator" and line.facts.get("egc") != "none":
        run["egc_size"] = cord if metric else sizing.smallest_egc(sized_for).value
        assumed.append("egc_size")
    m.left_is_unused()
    m.made.title = f"A source: {kind}"
    m.made.words = said
    m.made.assumed_words = [
        f"cord {run['length_ft']:g} ft of {tables.size_name(run['line_size'])}: change it where it"
        " differs"
    ]
    m.made.facts = {**facts, **{k: v for k, v in run.items() if k not in ("supply", "to")}}
    line.assumed |= (set(assumed) | {"line_material", "neutral_size"}) - line.facts.keys()
    m.made.edits = [Add(to="supplies", facts=nested(facts)), Add(to="services", facts=run)]


def _cord(rating: float) -> str:
    """The least cord for a generator's breaker."""
    return str(sizing.smallest_line(rating, "copper", 60).value)


def _metric_cord(rating: float) -> str:
    """Likewise in mm², four cores loaded at most."""
    return str(smallest_metric_line(rating, loaded=3).value)


_SYSTEMS = {"tncs": "TN-C-S", "tns": "TN-S", "pme": "TN-C-S", "tt": "TT", "it": "IT"}


def _network(m: Making) -> None:
    """The distributor's supply: its earthing system, Ze, the fault current told, its fuse."""
    line, unit = m.line, m.site.supply
    facts: dict[str, Any] = {}
    for match in list(line.find(r"\b(tn-?c-?s|tn-?s|pme|tt|it)\b")):
        line.take(match)
        facts["earthing"] = _SYSTEMS[match[1].replace("-", "")]
    facts |= {k: line.facts[k] for k in ("ze_ohm", "fault_a") if k in line.facts}
    if (ohm := line.facts.get("proved_ohm")) is not None:
        # Of a TN supply the one figure told is its Ze; of TT it is the electrode's.
        if facts.get("earthing") in ("TN-S", "TN-C-S") and "ze_ohm" not in facts:
            facts["ze_ohm"] = ohm
        else:
            m.made.problems.append("The electrode’s ohms are a line of its own: earth rod 18 ohm.")
    if rating := line.facts.get("breaker.rating_a"):
        facts |= {"breaker.rating_a": rating, "breaker.kind": line.facts.get("breaker.kind")}
    line.take_all(r"\b(?:supply|system|earthing|earth|distributor'?s?|network|cut-?out)\b")
    m.kind = LineKind(m.kind.name, None, m.kind.of, m.kind.doubts)
    m.left_is_unused()
    m.made.title = "The distributor's supply"
    m.made.facts = facts
    for key, value in facts.items():
        if value is not None:
            m.made.words.append(show_value(field_info(unit, key), value))
    m.made.edits = [Set(path=f"{unit.id}.{k}", value=v) for k, v in facts.items() if v is not None]


def _transformer(m: Making) -> None:
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
    line.take_all(
        r"\b(?:utility|pole|pad|power\s+company|poco)(?:'s)?\b(?:\s*-?\s*mount(?:ed)?)?|\boutside\b|\b(?:transformer|xfmr)\b"
    )
    if "length_ft" in line.facts:
        m.made.problems.append("How far it is away is the length of the service run: service 75ft.")
    m.left_is_unused()
    m.made.title = "The utility's transformer"
    m.made.facts = facts
    m.made.edits = [
        Set(path=f"{site.supply.id}.{k}", value=v) for k, v in facts.items() if k != "kind"
    ]


def service(m: Making) -> None:
    """What is said of the run from the utility, and of the main."""
    line, site = m.line, m.site
    run, facts = site.service, {}
    word = m.kind.word[0] if m.kind.word else ""
    if "overhead" in line.marks or re.search(r"overhead|drop", word):
        facts["run"] = "overhead"
    elif "underground" in line.marks or re.search(r"underground|lateral", word):
        facts["run"] = "underground"
    line.take_all(r"\b(?:overhead|underground|drop|lateral|triplex|conductors?|feed)\b")
    said = line.facts.get("method")
    if said in ("SE", "SER") or (said == "MHF" and re.search(r"(?i)\burd\b", line.text)):
        line.facts.pop("method")  # a service cable is what the run is
    elif said in ("PVC", "EMT", "IMC", "RMC"):
        line.facts.pop("method")
        line.facts.pop("raceway_size", None)
        m.made.words.append("its conduit is not kept" if said == "PVC" else
                            "its steel conduit is not kept: enter whether it is bonded")  # fmt: skip
    if "run" not in facts and "triplex" in line.low:
        facts["run"] = "overhead"
    for key in ("length_ft", "line_size", "line_material", "neutral_size", "sets"):
        if key in line.facts:
            facts[key] = line.facts[key]
    rating = line.facts.get("breaker.rating_a") or line.facts.get("main.rating_a")
    if line.bond:
        line.take_all(ITS_PANEL)
    m.left_is_unused()
    m.made.title = "The service run"
    for key, value in facts.items():
        m.made.words.append(show_value(field_info(run, key), value))
    edits: list[Edit] = [Set(path=f"{run.id}.{k}", value=v) for k, v in facts.items()]
    if rating:
        facts["main.rating_a"] = rating
        edits.append(Set(path=f"{site.panel.id}.main.rating_a", value=rating))
        m.made.words.append(f"{rating:g} A main")
    if spaces := line.facts.get("spaces"):
        facts["spaces"] = spaces
        edits.append(Set(path=f"{site.panel.id}.spaces", value=spaces))
        m.made.words.append(f"{spaces} spaces")
    if bond := line.bond:
        here = m.panel if not edits and "main" not in line.low else site.panel.id
        facts |= bond.facts
        edits += [Set(path=f"{here}.{k}", value=v) for k, v in bond.facts.items()]
        m.made.words.append(f"{name_of(site.elements()[here])}: {bond.words}")
        if len(edits) == len(bond.facts):
            m.made.title = "A neutral bond"
    m.made.facts = facts
    m.made.edits = edits
    if not edits:
        m.made.problems.append("Say its size, length or rating: service 200A 4/0 al overhead 60ft.")


def array(m: Making) -> None:
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
    for pattern, more in (
        (r"\b(\d{1,2})\s*rows?\s*(?:of|x|by)\s*(\d{1,2})\b", None),
        (r"\b(?:toothed\s+)?washers\b", {"bonding": "washers"}),
        (r"\b(?:wire\s+to\s+every\s+frame|lugs)\b", {"bonding": "lugs"}),
        (r"\b(?:listed\s+)?rails\b", {"rails": "bonded", "rails_listed": "yes"}),
    ):
        if match := line.first(pattern):
            line.take(match)
            size = {"rows": int(match[1]), "columns": int(match[2])} if more is None else {}
            facts |= size
            facts |= more or {}
            said.append(" ".join(match[0].split()))
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
