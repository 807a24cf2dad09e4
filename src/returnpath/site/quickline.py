"""The sheath grammar: ``20A 12/2 NM 85ft kitchen counter`` read as a circuit.

A line is words in any order. What a word can be is listed in ``UNDERSTOOD``; anything without a
figure in it is the circuit's name; a word with a figure that fits nothing gets a sentence.
"""

import re
from dataclasses import dataclass, field
from typing import Any

from .. import tables
from ..conductor import methods
from ..errors import BadInput
from .circuits import Circuit
from .fields import field_info, parse_text

UNDERSTOOD = (
    ("20A", "the breaker; 2P20A or 20A/2 for two poles"),
    ("12/2", "the cable: size and insulated wires, ground wire included; or #12 for a wire"),
    ("NM", "how it is wired: NM UF MC AC SE EMT IMC RMC PVC"),
    ("EMT 1/2", "a steel raceway and its trade size; it is then the return"),
    ("85ft", "the one-way length; 26m is understood too"),
    ("ground 10", "a ground wire of another size; “no ground” where there is none"),
    ("Al", "aluminium; copper unless said"),
    ("GFCI", "ground-fault protection"),
    ("kitchen counter", "anything else is the name"),
)
_METHOD_WORDS = {name.lower(): name for name in methods() if " " not in name} | {
    "nmb": "NM",
    "nm-b": "NM",
    "uf-b": "UF",
    "ufb": "UF",
    "rigid": "RMC",
}
_GROUND = r"(?:equipment[ -])?(?:ground(?:s|ing)?|gnd|grd|egc|earth)(?:[ -](?:wire|conductor))?"
_NO_GROUND = re.compile(rf"(?i)^(?:(?:no|without|w/o|wo)[ -]?{_GROUND}|ungrounded)$")
_WITH_GROUND = re.compile(rf"(?i)^(?:with|w/)[ -]?{_GROUND}$")
_ABOUT_GROUND = re.compile(
    r"(?i)(?:^|[-/])(?:un)?(?:ground(?:s|ed|ing)?|gnd|grd|egc|earth(?:ed|ing)?)\W*$"
)
_NOT_A_WIRE = ("floor", "level", "storey", "story")
_SIZE = r"\d{1,4}(?:/0)?"
_BREAKER = re.compile(r"(?i)^(?:([12])p)?(\d+(?:\.\d+)?)a(?:mps?)?(?:/([12]))?$")
_POLES = re.compile(r"(?i)^([12])-?p(?:oles?)?$")
_CABLE = re.compile(rf"(?i)^(?:#)?({_SIZE})[/-]([234])(?:/?w/?g|g)?$")
_WIRE = re.compile(rf"^#({_SIZE})$")
_LENGTH = re.compile(r"(?i)^(\d+(?:[.,]\d+)?)(ft|feet|m|'|′)$")
_TRADE = re.compile(r"^(?:\d-)?\d/\d\"?$|^[12]\"?$")


@dataclass
class Reading:
    """What was read: ``facts`` of a Circuit, what it means in words, what was not understood."""

    facts: dict[str, Any] = field(default_factory=dict)
    words: list[str] = field(default_factory=list)
    problems: list[str] = field(default_factory=list)

    @property
    def is_complete(self) -> bool:
        """Whether nothing was left over and a breaker or a wire was read."""
        return not self.problems and bool(self.facts)


def read_circuit(line: str) -> Reading:
    """Read one line; never raises: what cannot be read is in ``problems``."""
    reading = Reading()
    words = _joined(line[:300].split())
    name: list[str] = []
    index = 0
    while index < len(words):
        try:
            used = _read_word(reading, words, index)
        except BadInput as error:
            reading.problems.append(error.sentence)
            used = 1
        if not used:
            _name_or_problem(reading, words[index], name)
            used = 1
        index += used
    if name:
        words_of_name = " ".join(name)[:80]
        reading.facts["name"] = words_of_name[:1].upper() + words_of_name[1:]
    _complete(reading)
    return reading


def _joined(words: list[str]) -> list[str]:
    """Put "20 A" and "85 ft" together, which people write apart."""
    joined: list[str] = []
    for word in words:
        unit = word.lower().strip(",;")
        is_unit = unit in ("a", "amp", "amps", "ft", "feet", "m")
        if is_unit and joined and re.fullmatch(r"\d+(?:[.,]\d+)?", joined[-1]):
            joined[-1] += {"amp": "A", "amps": "A"}.get(unit, unit)
        else:
            joined.append(word)
    return joined


def _read_word(reading: Reading, words: list[str], index: int) -> int:
    """Read the word at ``index``: how many words were used, 0 if it means nothing here."""
    word = words[index].strip(",;")
    after = words[index + 1].strip(",;") if index + 1 < len(words) else ""
    small, used = word.lower(), 1
    said: dict[str, Any] = {}
    if match := _BREAKER.match(word):
        said["breaker"] = {"rating_a": _checked("breaker.rating_a", match[2])}
        if poles := match[1] or match[3]:
            said["poles"] = int(poles)
    elif match := _POLES.match(word):
        said["poles"] = int(match[1])
    elif match := _CABLE.match(word):
        said["line_size"] = _checked("line_size", match[1])
        said["_wires"] = int(match[2])
    elif match := _WIRE.match(word):
        said["line_size"] = _checked("line_size", match[1])
    elif match := _LENGTH.match(word):
        said["length_ft"] = _checked("length_ft", f"{match[1]} {match[2]}")
    elif small in _METHOD_WORDS:
        said["method"] = _METHOD_WORDS[small]
        if methods()[said["method"]].steel_return and _TRADE.match(after):
            said["raceway_size"] = _checked("raceway_size", after.strip('"'))
            used = 2
    elif small in ("cu", "copper", "al", "alum", "aluminum", "aluminium"):
        said["line_material"] = "copper" if small.startswith("c") else "aluminium"
    elif small in ("gfci", "gfi"):
        said["gfci"] = "yes"
    elif small == "ground" and re.fullmatch(rf"#?{_SIZE}", after):
        said["egc_size"], said["_ground"], used = _checked("egc_size", after), True, 2
    elif used := _phrase(_NO_GROUND, words, index):
        said["_ground"] = False
    elif used := _phrase(_WITH_GROUND, words, index):
        said["_ground"] = True
    elif _ABOUT_GROUND.search(word) and after.lower() not in _NOT_A_WIRE:
        raise BadInput(
            f"“{word}” was not understood: write “ground 12” for its ground wire, “no ground”"
            " where there is none; what is loose or cut is entered at the circuit."
        )
    else:
        return 0
    _take(reading.facts, said, " ".join(words[index : index + used]))
    return used


def _phrase(pattern: re.Pattern[str], words: list[str], index: int) -> int:
    """How many words from ``index`` on the pattern takes, the longest first; 0 for none."""
    for count in (4, 3, 2, 1):
        if pattern.match(" ".join(words[index : index + count]).strip(",;")):
            return count
    return 0


def _take(facts: dict[str, Any], said: dict[str, Any], word: str) -> None:
    """Add what a word says. A fact said twice and otherwise is nobody's to choose between."""
    for fact, value in said.items():
        if facts.get(fact, value) != value:
            raise BadInput(f"“{word}” says otherwise than the line before it: write one of them.")
    facts.update(said)


def _checked(path: str, text: str) -> Any:
    return parse_text(field_info(Circuit(id="c1"), path), text)


def _name_or_problem(reading: Reading, word: str, name: list[str]) -> None:
    if re.search(r"\d", word) and not (name and re.fullmatch(r"\d{1,2}", word)):
        reading.problems.append(_why_not(word))
    else:
        name.append(word)


def _why_not(word: str) -> str:
    if re.fullmatch(r"\d+(?:[.,]\d+)?", word):
        return f"“{word}” needs its unit: {word}A for a breaker, {word}ft for a length."
    if match := re.match(rf"(?i)^#?({_SIZE})[/-](\d+)", word):
        return (
            f"“{word}” was not understood: a cable is written {match[1]}/2 or {match[1]}/3,"
            " its size and its insulated wires."
        )
    if re.match(r"(?i)^\d+(?:[.,]\d+)?(f|me|\")", word):
        return f"“{word}” was not understood: a length is written 85ft or 26m."
    return f"“{word}” was not understood; see what can be written below the line."


def _complete(reading: Reading) -> None:
    """Draw what the sheath itself says: poles, neutral, ground wire; then say it in words."""
    facts = reading.facts
    wires, ground = facts.pop("_wires", None), facts.pop("_ground", None)
    if not facts:
        return
    if ground is False:
        facts["egc"] = "none"
    if wires is not None:
        # 12/2 on two poles has no neutral; 12/3 has one; a sheath holds its ground wire.
        two_poles = facts.get("poles") == 2
        facts["neutral"] = "no" if two_poles and wires == 2 else "yes"
        facts.setdefault("line_material", "copper")
        facts.setdefault("method", "NM")
        carries = methods()[facts["method"]].carries_ground
        if "egc" not in facts and carries:
            facts["egc"] = "wire"
    steel = facts.get("method") and methods()[facts["method"]].steel_return
    if steel and "egc" not in facts:
        facts["egc"] = "both" if ground else "raceway"
    elif ground:
        facts.setdefault("egc", "wire")
    if facts.get("egc") in ("wire", "both") and "line_size" in facts:
        _sheath_ground(reading, wires)
    reading.words = list(_in_words(facts))


def _sheath_ground(reading: Reading, wires: int | None) -> None:
    """A modern sheath's ground wire is its line's size up to 10 AWG, and 10 for 8 and 6."""
    facts = reading.facts
    if "egc_size" in facts or wires is None:
        return
    line = facts["line_size"]
    if line in ("14", "12", "10") and facts["line_material"] == "copper":
        facts["egc_size"] = line
    elif line in ("8", "6") and facts["line_material"] == "copper":
        facts["egc_size"] = "10"


def _in_words(facts: dict[str, Any]):
    if "breaker" in facts:
        poles = {2: ", two poles", 1: ", one pole"}.get(facts.get("poles"), "")
        yield f"{facts['breaker']['rating_a']:g} A breaker{poles}"
    if "line_size" in facts:
        metal = facts.get("line_material", "copper")
        yield f"{tables.size_name(facts['line_size'])} {metal} line"
    egc = facts.get("egc")
    if egc in ("wire", "both"):
        size = facts.get("egc_size")
        yield f"{tables.size_name(size)} ground wire" if size else "a ground wire, size not said"
    if egc in ("raceway", "both"):
        yield "the raceway as the return"
    if egc == "none":
        yield "no ground"
    if egc is None and "line_size" in facts:
        yield "return path not said"
    if "method" in facts:
        size = f" {facts['raceway_size']} in" if "raceway_size" in facts else ""
        yield methods()[facts["method"]].label + size
    if "length_ft" in facts:
        yield f"{facts['length_ft']:g} ft one way"
    if facts.get("gfci") == "yes":
        yield "ground-fault protection"
    if "name" in facts:
        yield f"named “{facts['name']}”"
