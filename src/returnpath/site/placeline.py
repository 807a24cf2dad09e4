"""One typed line for any part of a place: panels, electrodes, pipes, buildings, sources.

    panel Studio from Main 60A 6/3 NM 40ft      a sub-panel and its feeder
    rod 8ft wire 6                              a ground rod, its conductor 6 AWG
    rod 8ft wire 6, 6ft from the last
    2 rods 8ft wire 6 8ft apart at Studio       “at” names the panel
    water pipe metal bonded 4
    shed Tool shed                              a building
    generator 8kVA

A line that begins with none of these words is a circuit as on its sheath (``quickline``).
"""

import re
from dataclasses import dataclass, field
from typing import Any

from ..errors import BadInput
from .circuits import Circuit
from .earthing import Electrode, Metal
from .edits import Add, Edit, Set
from .fields import FieldInfo, field_info, parse_text
from .installation import Installation, name_of
from .power import Building
from .quickline import read_circuit

_ELECTRODES = {
    "rod": "rod", "rods": "rod", "plate": "plate", "ring": "ring", "footing": "concrete",
    "ufer": "concrete",
}  # fmt: skip
_METALS = {"water": "water", "gas": "gas", "frame": "structure", "structure": "structure",
           "pool": "pool", "spa": "pool"}  # fmt: skip
_BUILDINGS = {"building": None, "house": "dwelling", "shed": "dwelling accessory",
              "garage": "dwelling accessory", "barn": "farm"}  # fmt: skip
_FEEDER_FACTS = ("breaker", "poles", "method", "length_ft", "line_size", "line_material",
                 "neutral", "egc", "egc_size", "raceway_size")  # fmt: skip
_SIZE = r"#?(\d{1,4}(?:/0)?)"


@dataclass
class PlaceReading:
    """What was read: the edits it makes, in words; what was not understood."""

    edits: list[Edit] = field(default_factory=list)
    words: list[str] = field(default_factory=list)
    problems: list[str] = field(default_factory=list)

    @property
    def is_complete(self) -> bool:
        """Whether it makes something and nothing was left over."""
        return bool(self.edits) and not self.problems


def read_place(site: Installation, line: str, panel: str = "") -> PlaceReading:
    """Read one line for ``site``; circuits and electrodes go to ``panel``. Never raises."""
    words = line[:300].split()
    first = words[0].lower().strip(",:;") if words else ""
    panel = panel or site.panel.id
    try:
        if first in ("panel", "sub-panel", "subpanel"):
            return _panel(site, words[1:], panel)
        count, kind = _counted(words)
        if kind:
            return _electrodes(site, kind, count, words[2 if count > 1 else 1 :], panel)
        if first in _METALS:
            return _metal(site, _METALS[first], words[1:], panel)
        if first in _BUILDINGS:
            return _building(first, words[1:])
        if first == "generator":
            return _generator(site, words[1:])
    except BadInput as error:
        return PlaceReading(problems=[error.sentence])
    reading = read_circuit(line)
    made = PlaceReading(words=reading.words, problems=list(reading.problems))
    if reading.facts and not reading.problems:
        made.edits = [Add(to="circuits", facts={"panel": panel, **reading.facts})]
        made.words += _where(site, panel)
    return made


def _where(site: Installation, panel: str) -> list[str]:
    """Which panel it goes to, where there is more than one."""
    if len(site.panels) < 2:
        return []
    return [f"at {name_of(next(p for p in site.panels if p.id == panel))}"]


def _panel(site: Installation, words: list[str], source: str) -> PlaceReading:
    """``Studio from Main 60A 6/3 NM 40ft``: the panel, then the feeder that reaches it."""
    name, rest = _up_to_figure(words)
    where = ""
    if "from" in [w.lower() for w in name]:
        cut = [w.lower() for w in name].index("from")
        name, where = name[:cut], " ".join(name[cut + 1 :])
    building = ""
    if "in" in [w.lower() for w in name]:
        cut = [w.lower() for w in name].index("in")
        name, building = name[:cut], " ".join(name[cut + 1 :])
    title = " ".join(name)[:80] or "Sub-panel"
    if where:
        source = _panel_named(site, where)
    home = next(p.building for p in site.panels if p.id == source)
    if building:
        home = _named(site.buildings, building, "building")
    made = PlaceReading()
    reading = read_circuit(" ".join(rest))
    made.problems = list(reading.problems)
    facts: dict[str, Any] = {k: v for k, v in reading.facts.items() if k in _FEEDER_FACTS}
    facts.setdefault("poles", 2)
    size = facts.get("line_size")
    if facts.get("neutral") == "yes" and size:
        facts["neutral_size"] = size
    new = f"p{site.last_id + 1}"
    made.edits = [
        Add(to="panels", facts={"name": title, "kind": "sub", "building": home}),
        Add(to="feeders", facts={"name": f"{title} feeder", "source": source, "to": new, **facts}),
    ]
    fed = name_of(next(p for p in site.panels if p.id == source))
    made.words = [
        f"sub-panel “{title}”",
        f"fed from {fed}",
        *([f"in {name_of(site.elements()[home])}"] if home else []),
        *(reading.words or ["feeder not said"]),
    ]
    return made


def _up_to_figure(words: list[str]) -> tuple[list[str], list[str]]:
    """(the words before the first that has a breaker, a size or a length; the rest)."""
    for n, word in enumerate(words):
        if re.match(
            r"(?i)^(\d+p)?\d+(\.\d+)?a(mps?)?(/\d)?$|^#?\d{1,4}(/0)?[/-][234]|^#\d|^\d+ft$", word
        ):
            return words[:n], words[n:]
    return words, []


def _panel_named(site: Installation, text: str) -> str:
    """The id of the panel that is called ``text``; “main” is the service's, whatever its name."""
    try:
        return _named(site.panels, text, "panel")
    except BadInput:
        if text.strip().lower() in ("main", "the main", "main panel", "the main panel", "service"):
            return site.panel.id
        raise


def _named(elements, text: str, kind: str) -> str:
    """The id of the element that is called ``text``."""
    wanted = text.strip().lower()
    for element in elements:
        if name_of(element).lower() == wanted:
            return element.id
    for element in elements:
        if wanted and name_of(element).lower().startswith(wanted):
            return element.id
    known = ", ".join(name_of(e) for e in elements) or "none yet"
    raise BadInput(f"There is no {kind} called “{text}”; there are: {known}.")


def _counted(words: list[str]) -> tuple[int, str]:
    """``2 rods``, ``two rods`` or ``rod``: how many, and the kind; "" where it is no electrode."""
    low = [w.lower().strip(",:;") for w in words[:2]]
    if low and low[0] in _ELECTRODES:
        return 1, _ELECTRODES[low[0]]
    numbers = {"two": 2, "three": 3, "four": 4, "2": 2, "3": 3, "4": 4}
    if len(low) == 2 and low[0] in numbers and low[1] in ("rods", "plates"):
        return numbers[low[0]], low[1].removesuffix("s")
    return 0, ""


def _electrodes(
    site: Installation, kind: str, count: int, words: list[str], panel: str
) -> PlaceReading:
    """One or more electrodes, ``at`` a panel that may be named; each next to the one before."""
    low = [w.lower() for w in words]
    if "at" in low:
        cut = low.index("at")
        panel = _panel_named(site, " ".join(words[cut + 1 :]))
        words = words[:cut]
    apart, feet = None, None
    if count > 1 and kind == "rod":
        apart = re.search(r"(?i)(\d+(?:\.\d+)?\s*(?:ft|m))\s+apart\b", " ".join(words))
    if apart:
        words = " ".join(words).replace(apart[0], " ").split()
        feet = parse_text(field_info(Electrode(id="e1"), "spacing_ft"), apart[1])
    made = _electrode(site, kind, words, panel)
    facts: dict[str, Any] = made.edits[0].facts
    last, given = f"e{site.last_id + 1}", site.last_id + 1
    if (blank := _not_described(site, panel)) is not None:
        made.edits = [Set(path=f"{blank}.{k}", value=v) for k, v in facts.items() if k != "panel"]
        last, given = blank, site.last_id
    for _ in range(1, count):
        more = {**facts}
        if kind == "rod":
            more |= {"near": last, "spacing_ft": feet}
        made.edits.append(Add(to="electrodes", facts=more))
        given += 1
        last = f"e{given}"
    if count > 1:
        made.words.insert(0, f"{count} of them")
    if feet is not None:
        made.words.append(f"{feet:g} ft apart")
    return made


def _not_described(site: Installation, panel: str) -> str | None:
    """The electrode that a new job begins with, while nothing is said of it: it is filled."""
    return next((e.id for e in site.electrodes if e == Electrode(id=e.id, panel=panel)), None)


def _electrode(site: Installation, kind: str, words: list[str], panel: str) -> PlaceReading:
    facts: dict[str, Any] = {"kind": kind, "panel": panel}
    said = [Electrode.model_fields["kind"].json_schema_extra["choices"][kind]]
    text = " ".join(w for w in words if w.lower() not in ("steel", "electrode")).replace(",", " ")
    blank = Electrode(id="e1")
    if match := re.search(r"(?i)(\d+(?:\.\d+)?)\s*(ft|m)\s+(?:from|away)\b.*$", text):
        others = [e for e in site.electrodes if e.kind == "rod"]
        if others:
            facts["near"] = others[-1].id
            facts["spacing_ft"] = parse_text(field_info(blank, "spacing_ft"), match[1] + match[2])
            said.append(f"{facts['spacing_ft']:g} ft from the last one")
        text = text[: match.start()]
    if match := re.search(r"(?i)(\d+(?:\.\d+)?)\s*(ft|m)\b", text):
        facts["length_ft"] = parse_text(field_info(blank, "length_ft"), match[1] + match[2])
        said.append(f"{facts['length_ft']:g} ft")
        text = text.replace(match[0], " ")
    if match := re.search(rf"(?i)(?:wire|gec)?\s*{_SIZE}(?:\s*awg)?\s*$", text):
        facts["gec_size"] = parse_text(field_info(blank, "gec_size"), match[1])
        said.append(f"conductor {facts['gec_size']} AWG")
        text = text[: match.start()]
    left = text.strip()
    problems = [f"“{left}” was not understood; write rod 8ft wire 6."] if left else []
    return PlaceReading([Add(to="electrodes", facts=facts)], said + _where(site, panel), problems)


def _metal(site: Installation, kind: str, words: list[str], panel: str) -> PlaceReading:
    words = [w for w in words if w.lower() not in ("pipe", "tube")]
    choices = Metal.model_fields["kind"].json_schema_extra["choices"]
    facts: dict[str, Any] = {"kind": kind, "name": choices[kind].capitalize()}
    said, left = [choices[kind]], []
    for n, word in enumerate(words):
        low = word.lower().strip(",")
        if low in ("metal", "copper", "steel", "iron", "plastic", "mixed", "none"):
            facts["material"] = low if low in ("plastic", "mixed", "none") else "metal"
            said.append(facts["material"])
        elif low == "bonded":
            unbonded = n > 0 and words[n - 1].lower() == "not"
            facts["bonded"] = "no" if unbonded else "yes"
            facts["panel"] = panel
            said.append("not bonded" if unbonded else "bonded")
        elif low == "corrugated":
            facts["corrugated"] = "yes"
            said.append("corrugated tube")
        elif re.fullmatch(_SIZE, low) and facts.get("bonded") == "yes":
            info: FieldInfo = field_info(Metal(id="m1"), "bond_size")
            facts["bond_size"] = parse_text(info, low)
            said.append(f"bonding wire {facts['bond_size']} AWG")
        elif low not in ("not", "awg", "with", "wire"):
            left.append(word)
    problems = []
    if left:
        problems = [f"“{' '.join(left)}” was not understood; write water pipe metal bonded 4."]
    return PlaceReading([Add(to="metals", facts=facts)], said, problems)


def _building(first: str, words: list[str]) -> PlaceReading:
    name = " ".join(words)[:80] or first.capitalize()
    facts: dict[str, Any] = {"name": name}
    said = [f"building “{name}”"]
    if permit := _BUILDINGS[first]:
        facts["permit"] = permit
        said.append(Building.model_fields["permit"].json_schema_extra["choices"][permit])
    return PlaceReading([Add(to="buildings", facts=facts)], said)


def _generator(site: Installation, words: list[str]) -> PlaceReading:
    text = " ".join(words)
    match = re.search(r"(?i)(\d+(?:\.\d+)?)\s*k(?:va|w)\b", text)
    facts: dict[str, Any] = {"kind": "generator", "name": "Generator"}
    said = ["generator"]
    if match:
        facts["kva"] = float(match[1])
        said.append(f"{facts['kva']:g} kVA")
    supply = f"u{site.last_id + 1}"
    run = {"supply": supply, "to": site.panel.id, "line_size": "10", "line_material": "copper",
           "neutral_size": "10", "length_ft": 25.0}  # fmt: skip
    left = (text[: match.start()] + text[match.end() :]).strip() if match else text.strip()
    problems = [f"“{left}” was not understood; write generator 8kVA."] if left else []
    edits = [Add(to="supplies", facts=facts), Add(to="services", facts=run)]
    said.append("cord 25 ft of 10 AWG: change it where it differs")
    return PlaceReading(edits, said, problems)


def read_lines(site: Installation, text: str, panel: str = "") -> PlaceReading:
    """A pasted list: a line each; BadInput sentences name their line. At most 300 lines."""
    from .edits import apply

    made = PlaceReading()
    lines = [line for line in text.splitlines() if line.strip()]
    if len(lines) > 300:
        made.problems.append("A pasted list has at most 300 lines.")
        return made
    for number, line in enumerate(lines, 1):
        reading = read_place(site, line, panel)
        if reading.problems or not reading.edits:
            why = " ".join(reading.problems) or "nothing was understood."
            made.problems.append(f"Line {number}, “{line.strip()[:60]}”: {why}")
            continue
        try:
            for edit in reading.edits:
                site = apply(site, edit)
        except BadInput as error:
            made.problems.append(f"Line {number}, “{line.strip()[:60]}”: {error.sentence}")
            continue
        made.edits += reading.edits
        made.words.append(", ".join(reading.words))
    return made


def duplicate(site: Installation, element_id: str) -> Edit:
    """One more of an element, with its facts; a circuit's or a panel's space stays free."""
    element = site.elements()[element_id]
    to = next(name for name in _lists() if element in getattr(site, name))
    facts = element.model_dump(mode="json", exclude_none=True, exclude={"id"})
    if facts.get("name"):
        facts["name"] = f"{facts['name'][:74]} copy"
    if isinstance(element, Circuit):
        for one in ("space", "shares_with", "shares_egc_with"):
            facts.pop(one, None)
    return Add(to=to, facts=facts)


def _lists() -> tuple[str, ...]:
    from .installation import LISTS

    return tuple(LISTS)


def removal(site: Installation, element_id: str) -> list[Edit]:
    """The edits that take an element out with what cannot stand without it, last first."""
    from .edits import Remove

    gone: list[str] = []

    def take(one: str) -> None:
        if one in gone:
            return
        for feeder in site.feeders:
            if feeder.source == one:
                take(feeder.to)
            if feeder.to == one and feeder.id not in gone:
                gone.append(feeder.id)
        gone.extend(
            e.id for e in (*site.circuits, *site.electrodes) if e.panel == one and e.id not in gone
        )
        gone.extend(s.id for s in site.services if s.supply == one and s.id not in gone)
        if one not in gone:
            gone.append(one)

    take(element_id)
    gone.extend(j.id for j in site.joints if j.on.element in gone and j.id not in gone)
    joints = [g for g in gone if g.startswith("j")]
    return [Remove(id=g) for g in (*joints, *(g for g in gone if g not in joints))]
