"""Which question a line is, and its answer. The same functions as ``loop size``, ``time`` and
``electrode`` answer; a circuit is solved on an assumed service."""

import re
from collections.abc import Callable
from dataclasses import dataclass, field

from .. import earth, sizing, tables
from ..conductor import Wire, impedance_per_kft
from ..device import Breaker
from ..errors import BadInput
from ..study import study
from ..study.drop import BRANCH_ADVICE, run_drop
from ..study.verdict import verdict_of
from ..working import Working, figures, formula, given, note
from . import metric
from .carry import CARRY_KINDS, OPENING
from .shape import Quick, Supposed
from .words import Words

EDITION = 2023
HOT_C, HZ = 75.0, 60.0
EXAMPLES = (
    "egc 100A", "gec 2x4/0 al rod", "jumper 4/0 al", "water bond 200A", "20A 12/2 85ft",
    "20A 160 amps", "2 rods 6ft 100 ohm-m", "drop 16A 12 110ft", "legs 12 and 4 ohm neutral lost",
    "wire for 50A NM",
)  # fmt: skip


@dataclass
class _Asked:
    """A question while it is answered."""

    words: Words
    assumed: list[Supposed] = field(default_factory=list)

    def metal(self, usual: str = "copper") -> str:
        """The metal said, else the usual, as an assumption with its other."""
        said = self.words.metal()
        if said:
            return said
        words = {"copper": ("copper", "aluminum", "al"), "aluminium": ("aluminum", "copper", "cu")}
        name, other, short = words[usual]
        self.assumed.append(Supposed(name, f"{self.words.text} {short}", other))
        return usual

    def edition(self) -> int:
        """The edition said, else 2023."""
        said = self.words.edition()
        if said:
            return said
        self.assumed.append(Supposed(f"rules of {EDITION}", f"{self.words.text} 2017", "2017"))
        return EDITION

    def service(self) -> tuple[int, str, str]:
        """(sets, size, metal) of service conductors: said, or of a rating by the dwelling table."""
        if (rating := self.words.amps()) is not None:
            metal = self.metal("aluminium")
            size = sizing.service_line(rating, metal).value
            self.assumed.append(
                Supposed(f"{rating:g} A on {size} by the dwelling table",
                        self.words.text.replace(f"{rating:g}a", f"{size} "), "its own size")
            )  # fmt: skip
            return 1, str(size), metal
        sized = self.words.sized()
        if sized is None:
            raise BadInput("Say the service conductors: 4/0 al, 2x4/0 al, or 200A.")
        return *sized, self.metal()


def answer(question: str) -> Quick:
    """The answer to one line; never raises."""
    text = " ".join(question.split())
    if not text:
        return Quick("")
    try:
        if metric.speaks(text):
            return metric.answer(text)
        for pattern, reader in CARRY_KINDS:  # their figures stand beside their own words
            if re.search(pattern, Words(text).left):
                asked = _Asked(Words(text))
                asked.words.has(OPENING)
                return reader(asked, text)
        for pattern, reader in _KINDS:
            words = Words(text)
            if words.has(pattern):
                return reader(_Asked(words), text)
        if (times := _times(text)) is not None:
            return times
        return _circuit(text)
    except BadInput as error:
        return Quick(text, problem=error.sentence)


def _of(asked: _Asked, text: str, made: Working, says: str = "", title: str = "") -> Quick:
    """The answer that a working gives; a size is named as the trade does."""
    asked.words.done()
    if isinstance(made.value, float):
        shown = f"{figures(made.value)} {made.unit}".strip()
    else:
        shown = tables.size_name(made.value)
    steps, assumed = tuple(made.steps()), tuple(asked.assumed)
    return Quick(text, title or made.title, shown, says, steps=steps, assumed=assumed)


def _egc(asked: _Asked, text: str) -> Quick:
    rating = asked.words.amps()
    if rating is None:
        raise BadInput("Say the breaker: egc 100A.")
    return _of(asked, text, sizing.smallest_egc(rating, material=asked.metal(),
                                                edition=asked.edition()))  # fmt: skip


def _gec(asked: _Asked, text: str) -> Quick:
    electrode = asked.words.electrode()
    sets, line, metal = asked.service()
    made = sizing.smallest_gec(line, metal, sets, electrode=electrode, edition=asked.edition())
    return _of(asked, text, made)


def _jumper(asked: _Asked, text: str) -> Quick:
    sets, line, metal = asked.service()
    return _of(asked, text, sizing.main_bonding_jumper(line, metal, sets, edition=asked.edition()))


def _supply_jumper(asked: _Asked, text: str) -> Quick:
    sets, line, metal = asked.service()
    return _of(asked, text, sizing.supply_side_jumper(line, metal, sets, edition=asked.edition()))


def _water(asked: _Asked, text: str) -> Quick:
    sets, line, metal = asked.service()
    made = sizing.water_bond(line, metal, sets, edition=asked.edition())
    return _of(asked, text, made)


def _gas(asked: _Asked, text: str) -> Quick:
    csst = bool(asked.words.has(r"\bcsst\b"))
    made = sizing.gas_bond(asked.words.amps(), csst, edition=asked.edition())
    return _of(asked, text, made, title="Bond of the gas pipe")


def _pool(asked: _Asked, text: str) -> Quick:
    return _of(asked, text, sizing.pool_grid(asked.edition()))


def _wire(asked: _Asked, text: str) -> Quick:
    rating = asked.words.amps()
    if rating is None:
        raise BadInput("Say the breaker: wire for 50A NM.")
    cable = asked.words.has(r"\b(nm-?b?|uf-?b?|mc|ser|se|emt|pvc|thhn)\b")
    said = asked.words.has(r"\b(60|75)\s*(?:°|deg(?:rees)?|c)\s*c?\b")
    column = int(said[1]) if said else 75
    if cable and cable[1].startswith(("nm", "uf")):
        column = 60
    elif not said:
        asked.assumed.append(Supposed("75 °C terminals", f"{asked.words.text} 60c", "60 °C"))
    metal = asked.metal()
    made = sizing.smallest_line(rating, metal, column, asked.edition())
    return _of(asked, text, made)


def _rods(asked: _Asked, text: str) -> Quick:
    words = asked.words
    count = words.has(r"(?<![\d.])(\d{1,2})(?=\s+(?:$|\d|\s))")
    soil = words.number(r"ohm\s*-?\s*m(?:eters?|etres?)?|Ω\s*-?\s*m")
    if soil is None:
        soil = 100.0
        asked.assumed.append(Supposed("soil of 100 Ω·m", f"{words.text} 500 ohm-m", "500 Ω·m: dry"))
    long = words.has(r"(?<![\d.])(\d+(?:\.\d+)?)\s*(?:ft|')\s*(?:rods?|long)")
    feet = float(long[1]) if long else 8.0
    if long is None:
        asked.assumed.append(Supposed("8 ft rods", f"{words.text} 10ft long", "10 ft"))
    number = int(count[1]) if count else 1
    spacing = words.feet()
    if number > 1 and spacing is None:
        spacing = feet
        asked.assumed.append(
            Supposed(f"{feet:g} ft apart", f"{words.text} 16ft apart", "16 ft apart")
        )
    words.has(r"\bapart\b")
    made = earth.rods_working(feet, 0.625, soil, number, spacing)
    return _of(asked, text, made, "To remote earth. No breaker opens on it: it clears no fault.")


def _drop(asked: _Asked, text: str) -> Quick:
    words = asked.words
    amps, feet = words.amps(), words.feet()
    volts = words.number(r"volts?|v")
    sized = words.sized()
    if amps is None or feet is None or sized is None:
        raise BadInput("Say amperes, wire and feet: drop 16A 12 110ft.")
    if volts is None:
        volts = 120.0
        asked.assumed.append(Supposed("120 V", f"{words.text} 240v", "240 V"))
    metal, size = asked.metal(), sized[1]
    ohm = impedance_per_kft(Wire(size, metal, "PVC"), HOT_C, HZ) * feet / 1000
    lost = run_drop(amps, ohm, 1.0)
    share = lost / volts
    words.done()
    steps = (
        given(f"{size} AWG {tables.metal_name(metal)} at {HOT_C:g} °C:"
              f" {figures(abs(ohm) / feet * 1000)} Ω a thousand feet"),
        formula(f"V = 2 × {amps:g} A × {figures(ohm.real)} Ω = {figures(lost)} V", "method 9"),
        note("one-way length, twice: out and home; advice, no limit of the rules: 3 % in a branch"),
    )  # fmt: skip
    verdict = "within" if share <= BRANCH_ADVICE else "over"
    return Quick(text, "Voltage drop", f"{share * 100:.1f} %",
                 f"{figures(lost)} V of {volts:g} V; {verdict} the 3 % that is advice.",
                 steps=steps, assumed=tuple(asked.assumed))  # fmt: skip


def _legs(asked: _Asked, text: str) -> Quick:
    words = asked.words
    words.has(r"\bneutral\b")
    words.has(r"\blost\b|\bopen\b|\bbroken\b")
    ohms = r"(?<![\d.])(\d+(?:\.\d+)?)(?:\s*(?:ohms?|Ω))?(?![\d.a-z])"
    found = [float(m[1]) for _ in range(2) if (m := words.has(ohms))]
    if len(found) != 2 or min(found) <= 0:
        raise BadInput("Say the ohms of both legs: legs 12 and 4 ohm neutral lost.")
    words.done()
    one, two = found
    across = [240 * z / (one + two) for z in found]
    steps = (
        given(f"240 V across {one:g} Ω and {two:g} Ω in series: the neutral no longer holds them"),
        formula(f"I = 240 / ({one:g} + {two:g}) = {figures(240 / (one + two))} A", "method 8"),
        formula(f"U = I × R = {figures(across[0])} V and {figures(across[1])} V", "method 8"),
    )
    return Quick(text, "With the neutral lost", f"{figures(max(across))} V",
                 f"{figures(across[0])} V on one leg, {figures(across[1])} V on the other; at rest"
                 " each has 120 V.", steps=steps)  # fmt: skip


def _times(text: str) -> Quick | None:
    """“20A 160 amps”: how soon; None where it is another question."""
    words = Words(text)
    rating, amps = words.amps(), words.amps()
    band = words.number("x")
    if rating is None or amps is None or amps <= rating or len(words.left.split()) > 1:
        return None
    words.done()
    device = Breaker(rating) if band is None else Breaker(rating, None, band)
    made = device.opens_working(amps)
    said = verdict_of(device, amps)
    other = f"{words.text} 10x"
    assumed = () if band else (Supposed("magnetic trip by 10 ×", other, "a known figure: 10x"),)
    value = made.value if isinstance(made.value, str) else f"{figures(made.value)} s"
    return Quick(text, made.title, value, str(said).capitalize() + ".",
                 steps=tuple(made.steps()), assumed=assumed)  # fmt: skip


def _circuit(text: str) -> Quick:
    """A circuit on an assumed service: lowest and highest current, trip, longest run."""
    from ..site import Installation, Set, apply_all, read_place

    site = apply_all(Installation(), [Set(path="p1.bond", value="in")])
    read = read_place(site, text)
    if read.kind != "circuit" or read.is_asked or not read.is_complete:
        known = "; ".join(read.problems) or "That is no question known here."
        raise BadInput(f"{known} Ask like: {', '.join(EXAMPLES[:5])}.")
    site = apply_all(site, read.edits)
    loop = study(site).loops[site.circuits[-1].id]
    assumed = [Supposed(words, "", "") for words in read.assumed_words]
    assumed.append(Supposed("a 25 kVA transformer, 200 A service of usual runs, bond in", "", ""))
    if loop.lowest_a is None or loop.device is None:
        lacks = ", ".join(str(p.leaf) for p in loop.lacks) or loop.remark
        return Quick(text, "Not known yet", "?", f"Say more: {lacks}.", assumed=tuple(assumed),
                     line=text)  # fmt: skip
    rows: tuple[tuple[str, str], ...] = (
        ("Lowest current", f"{figures(loop.lowest_a)} A"),
        ("Highest current", f"{figures(loop.highest_a)} A"),
        ("Times the breaker", f"{figures(loop.multiple)} ×"),
        ("Round the loop", f"{figures(loop.loop_ohm)} Ω"),
    )
    if loop.longest_run_ft is not None:
        rows += (("Longest run", f"{int(loop.longest_run_ft)} ft"),)
    steps = tuple(loop.workings["opens"].steps()) if "opens" in loop.workings else ()
    says, shown = f"{str(loop.verdict).capitalize()}.", f"{figures(loop.lowest_a)} A"
    return Quick(text, "Line to its case", shown, says, rows, steps, tuple(assumed), text)


_KINDS: tuple[tuple[str, Callable[[_Asked, str], Quick]], ...] = (
    (r"\begc\b|\bequipment ground(?:ing)?(?: conductor)?\b|\bground wire\b", _egc),
    (r"\bgecs?\b|\bgrounding electrode conductor\b|\belectrode conductor\b", _gec),
    (r"\bsupply(?:[- ]side)? (?:bonding )?jumper\b|\bssbj\b", _supply_jumper),
    (r"\b(?:main )?(?:bonding )?jumper\b|\bmbj\b", _jumper),
    (r"\bwater (?:pipe )?bond(?:ing)?\b|\bbond (?:of |for )?(?:the )?water\b", _water),
    (r"\bgas (?:pipe )?bond(?:ing)?\b|\bbond (?:of |for )?(?:the )?gas\b|\bcsst bond\b", _gas),
    (r"\bpool (?:bond(?:ing)?|grid)\b", _pool),
    (r"\bwire (?:for|size)\b|^ wire\b|\bwhat wire\b", _wire),
    (r"\brods?\b", _rods),
    (r"\b(?:voltage )?drop\b", _drop),
    (r"\blegs?\b", _legs),
)
