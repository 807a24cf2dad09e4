"""Questions in the metric set's words: ``zs B32``, ``bonding 25mm2 TN-C-S``, a circuit as its cable
reads. A circuit is solved on a weak TN-C-S network, and says so."""

import re
from dataclasses import replace

from .. import sizing, tables
from ..device import Breaker
from ..errors import BadInput
from ..fuse import Fuse
from ..site.typed.metric import TOKENS
from ..words import RuleSet, spoken
from ..working import Working, figures
from .shape import Quick, Supposed

METRIC_EXAMPLES = (
    "zs B32", "zs gG 63 5s", "zs rcd 30mA", "B32 2.5/1.5 ring 48m", "C20 4mm SWA 35m",
    "bonding 25mm2 TN-C-S", "earthing conductor 16mm2", "cpc 25mm2",
)  # fmt: skip
_MM2 = r"(\d{1,3}(?:\.\d)?)\s*mm(?:2|²)?"
_USUAL_S = 0.4


def speaks(text: str) -> bool:
    """Whether a question is in the metric set's words."""
    return re.search(rf"{TOKENS}|^\s*zs\b|\bcpc\b|\bearthing conductor\b", text.lower()) is not None


def answer(text: str) -> Quick:
    """The answer; BadInput where it is no question known here."""
    low = text.lower()
    for read in (_zs, _bonding, _earthing, _protective):
        if (made := read(low)) is not None:
            value = made.value
            shown = f"{figures(value)} {made.unit}" if isinstance(value, float) else _named(value)
            return Quick(text, made.title, shown.strip(), steps=tuple(made.steps()))
    return _circuit(text)


def _named(value: object) -> str:
    return tables.size_name(str(value))


def _zs(low: str) -> Working | None:
    """``zs B32``, ``zs 32A type C``, ``zs gG 63 5s``, ``zs rcd 30mA``."""
    if not re.search(r"^\s*(?:allowed\s+)?zs\b", low):
        return None
    if match := re.search(r"(\d{1,4})\s*ma\b", low):
        return sizing.allowed_zs_rcd(float(match[1]))
    time = re.search(r"(\d+(?:\.\d+)?)\s*s\b", low)
    seconds = float(time[1]) if time else _USUAL_S
    rest = low.replace(time[0], " ") if time else low
    before = r"\b(gg|[bcd])\s*-?\s*(\d{1,3})\b"
    kind = re.search(rf"{before}|\b(\d{{1,3}})\s*a?\s*(?:type\s*)?(gg|[bcd])\b", rest)
    if kind is None:
        raise BadInput("Say the device: zs B32, zs gG 63 5s, zs rcd 30mA.")
    name, rating = (kind[1], kind[2]) if kind[1] else (kind[4], kind[3])
    number = float(rating)
    device = Fuse(number) if name == "gg" else Breaker(number, kind=name.upper())
    return sizing.allowed_zs(device, seconds)


def _size(low: str) -> str | None:
    match = re.search(_MM2, low)
    return str(tables.known_size(f"{float(match[1]):g}mm2")) if match else None


def _bonding(low: str) -> Working | None:
    if not re.search(r"\bbond(?:ing)?\b", low) or (size := _size(low)) is None:
        return None
    system = re.search(r"\b(tn-?c-?s|tn-?s|tt|it)\b", low)
    names = {"tncs": "TN-C-S", "tns": "TN-S", "tt": "TT", "it": "IT"}
    return sizing.main_bonding(names[system[1].replace("-", "")] if system else "TN-C-S", size)


def _earthing(low: str) -> Working | None:
    if not re.search(r"\bearthing conductor\b", low) or (size := _size(low)) is None:
        return None
    buried = "bare" if "bare" in low else "covered" if "buried" in low else "no"
    return sizing.earthing_conductor(size, buried)


def _protective(low: str) -> Working | None:
    if not re.search(r"\bcpc\b|\bprotective(?: conductor)?\b", low):
        return None
    size = _size(low)
    is_cable = re.search(r"\d\s*/\s*\d", low)
    return None if size is None or is_cable else sizing.protective_by_table(size)


def _circuit(text: str) -> Quick:
    from ..site import Installation, Supply, apply_all, read_place
    from ..study import study

    supply = Supply(id="u1", system="230", earthing="TN-C-S")
    site = Installation(frequency_hz=50, supplies=(supply,))
    read = read_place(site, text)
    if read.kind != "circuit" or read.is_asked or not read.is_complete:
        known = "; ".join(read.problems) or "That is no question known here."
        raise BadInput(f"{known} Ask like: {', '.join(METRIC_EXAMPLES[:5])}.")
    site = apply_all(site, read.edits)
    loop = study(site).loops[site.circuits[-1].id]
    assumed = [Supposed(_say(words), "", "") for words in read.assumed_words]
    assumed.append(Supposed("a weak TN-C-S network, Ze about 0.27 Ω: enter yours in a job", "", ""))
    found = Quick(text, "Line to its case", assumed=tuple(assumed), line=text)
    if loop.lowest_a is None or loop.device is None or loop.basis is None:
        lacks = ", ".join(_say(str(p.leaf)) for p in loop.lacks) or loop.remark
        return replace(found, title="Not known yet", figure="?", says=f"Say more: {lacks}.")
    seconds = loop.basis.time_limit().seconds
    allowed = sizing.allowed_zs(loop.device, seconds).value
    rows: tuple[tuple[str, str], ...] = (
        ("Zs, conductors hot", f"{figures(loop.loop_ohm)} Ω"),
        (f"Allowed within {seconds:g} s", f"{figures(float(str(allowed)))} Ω"),
        ("Lowest current", f"{figures(loop.lowest_a)} A"),
        ("Times its device", f"{figures(loop.multiple)} ×"),
    )
    if loop.longest_run_ft is not None:
        rows += (("Longest run", _say(f"{int(loop.longest_run_ft)} ft")),)
    steps = tuple(loop.workings["opens"].steps()) if "opens" in loop.workings else ()
    says = f"{_say(str(loop.verdict)).capitalize()}."
    return replace(found, figure=f"{figures(loop.loop_ohm)} Ω", says=says, rows=rows, steps=steps)


def _say(text: str) -> str:
    return spoken(text, RuleSet.METRIC)
