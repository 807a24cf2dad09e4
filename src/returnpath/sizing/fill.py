"""What fits: wires in a raceway, wires and devices in a box.

Sources: chapter 9 tables 1, 4 and 5 (``tables/raceway_area.csv``, ``wire_area.csv``), 314.16
(``tables/box_volume.csv``). Rows that are not sure say so.
"""

import re
from dataclasses import dataclass
from functools import cache

from .. import tables, working
from ..errors import BadInput, number_in
from ..working import Working, figures

NIPPLE_FT = 2.0  # to 24 in: filled to 60 %
INSULATIONS = ("thhn", "thwn", "thw", "xhhw")
_COLUMN = {"thhn": "thhn_thwn_thwn2_in2", "thwn": "thhn_thwn_thwn2_in2",
           "thw": "thw_thhw_thw2_in2", "xhhw": "xhhw_xhhw2_in2"}  # fmt: skip
#: A steel raceway of our wiring methods, as the table names it.
TYPES = {"EMT": "EMT", "IMC": "IMC", "RMC": "RMC", "PVC": "PVC-40", "FMC": "FMC", "LFMC": "LFMC",
         "ENT": "ENT", "PVC-40": "PVC-40", "PVC-80": "PVC-80"}  # fmt: skip


@cache
def _wire_areas() -> dict[tuple[str, str], float]:
    found = {}
    for row in tables.rows("wire_area"):
        for kind in INSULATIONS:
            if row[_COLUMN[kind]]:
                found[row["size"], kind] = float(row[_COLUMN[kind]])
    return found


@dataclass(frozen=True)
class Bunch:
    """So many wires of one size; ``ground`` of EGCs, bare or not."""

    count: int
    size: str
    ground: bool = False


_BUNCH = re.compile(
    r"(?i)(?<![\d/])(\d{1,3})\s*(?:x\s*)?(?:#\s*)?([1-4]/0|\d{1,3})(?:\s*(?:awg|kcmil))?"
    r"(?:\s*(thhn|thwn(?:-2)?|xhhw(?:-2)?|thw))?(\s+(?:bare\s+)?(?:grounds?|egcs?|bare))?"
)


def read_wires(text: str) -> tuple[Bunch, ...]:
    """``"3 #6, 1 #10 ground"`` as bunches; BadInput where a word is left over."""
    found = [
        Bunch(int(m[1]), str(tables.known_size(m[2])), bool(m[4])) for m in _BUNCH.finditer(text)
    ]
    left = re.sub(
        r"(?i)\b(?:and|with|in|of|wires?|conductors?)\b|[,;+]", " ", _BUNCH.sub(" ", text)
    )
    if not found or left.strip():
        raise BadInput(
            f"Write how many of which size: 3 #6, 1 #10 ground (“{left.strip() or text}” was not"
            " understood)."
        )
    return tuple(found)


def raceway_fill(
    method: str, trade_size: str, wires: str, insulation: str = "thhn", feet: float | None = None
) -> Working:
    """Fill of a raceway, %, against what chapter 9 allows; the steps say the limit.

    ``wires`` as typed; a nipple of 24 in or less may be filled to 60 %.
    """
    kind = TYPES.get(method)
    row = next((r for r in tables.rows("raceway_area")
                if r["type"] == kind and r["trade_size_in"] == trade_size), None)  # fmt: skip
    if row is None:
        raise BadInput(f"There is no {trade_size} in {method} in the table of raceways.")
    bunches = read_wires(wires)
    number = sum(b.count for b in bunches)
    total = 0.0
    steps = []
    for bunch in bunches:
        each = _wire_areas().get((bunch.size, insulation))
        if each is None:
            raise BadInput(f"{tables.size_name(bunch.size)} has no area in the table.")
        total += bunch.count * each
        steps.append(
            working.table(
                f"{bunch.count} × {tables.size_name(bunch.size)} {insulation.upper()}:"
                f" {bunch.count} × {each:g} = {bunch.count * each:.4f} in²",
                "chapter 9 table 5",
            )
        )
    whole, limit = float(row["internal_area_in2"]), fill_limit(number, feet)
    sure = "" if row["sure"] == "yes" else " (unconfirmed)"
    steps += [
        working.table(f"{trade_size} in {method}: {whole:g} in² inside{sure}", "chapter 9 table 4"),
        working.formula(f"{total:.4f} / {whole:g} = {figures(100 * total / whole)} %"),
        working.note(f"{number} wires: at most {limit:g} %"),
    ]
    return working.of(f"Fill of {trade_size} in {method}", 100 * total / whole, "%", *steps)


def fill_limit(wires: int, feet: float | None = None) -> float:
    """How full a raceway may be, %: one wire 53, two 31, more 40; a nipple to 24 in 60."""
    if feet is not None and feet <= NIPPLE_FT:
        return 60.0
    return {1: 53.0, 2: 31.0}.get(wires, 40.0)


@cache
def _box_rows(kind: str) -> dict[str, dict[str, str]]:
    return {r["what"]: r for r in tables.rows("box_volume") if r["kind"] == kind}


#: A few EGCs count as one; since 2020 the fifth and each more as a quarter.
EGCS_AS_ONE, QUARTER_SINCE = 4, 2020
_PARTS = {
    "device": re.compile(r"(?i)(\d{1,2})\s*(?:devices?|yokes?|receptacles?|switch(?:es)?)"),
    "clamps": re.compile(r"(?i)(?:internal\s+|cable\s+)?\bclamps?\b"),
    "fitting": re.compile(r"(?i)(\d{1,2})\s*(?:studs?|hickeys?|support fittings?)"),
}


def box_fill(holds: str, edition: int = 2023) -> Working:
    """The volume that the contents of a box need, cubic inches (314.16(B)).

    ``holds`` as typed: ``"4 #12, 2 #12 ground, 1 device, clamps"``: conductors that end or are
    spliced there or pass through, EGCs apart, devices by their yokes, internal clamps, studs.
    """
    left, counts = holds, {}
    for name, pattern in _PARTS.items():
        match = pattern.search(left)
        counts[name] = int(match[1]) if match and match.groups() else int(bool(match))
        left = pattern.sub(" ", left)
    bunches = read_wires(left)
    wires = [b for b in bunches if not b.ground]
    grounds = [b for b in bunches if b.ground]
    if not wires:
        raise BadInput("A box holds wires besides its grounds: 4 #12, 2 #12 ground, 1 device.")
    largest = max((b.size for b in wires), key=tables.area)
    steps, total = [], 0.0

    def add(words: str, number: float, size: str) -> None:
        nonlocal total
        each = volume_each(size)
        total += number * each
        steps.append(
            working.table(f"{words}: {number:g} × {each:g} = {number * each:.2f} in³", "314.16(B)")
        )

    for bunch in wires:
        add(f"{bunch.count} × {tables.size_name(bunch.size)}", bunch.count, bunch.size)
    if grounds:
        number = sum(b.count for b in grounds)
        beyond = max(number - EGCS_AS_ONE, 0) if edition >= QUARTER_SINCE else 0
        size = max((b.size for b in grounds), key=tables.area)
        add(f"{number} EGCs", 1 + beyond / 4, size)
    if counts["device"]:
        add(
            f"{working.count_of(counts['device'], 'device')}, two each",
            2 * counts["device"],
            largest,
        )
    if counts["clamps"]:
        add("internal clamps, together", 1, largest)
    if counts["fitting"]:
        add("support fittings", counts["fitting"], largest)
    steps.append(working.formula(f"together {total:.2f} in³"))
    return working.of("Volume the box needs", round(total, 2), "in³", *steps)


def volume_each(size: str) -> float:
    """Cubic inches of one allowance of a size; BadInput past 6 AWG (314.28)."""
    row = _box_rows("in3 per conductor").get(f"{size} AWG")
    if row is None:
        raise BadInput(f"{tables.size_name(size)} is sized by 314.28, not by this table.")
    return float(row["value"])


def box_volume(what: str) -> float | None:
    """The volume of a standard metal box, cubic inches; None where the table has none so named."""
    number_in(len(what), "The box's name", 1, 80)
    row = _box_rows("in3 of a box").get(what)
    return float(row["value"]) if row else None


def boxes() -> tuple[tuple[str, float], ...]:
    """The standard metal boxes with their volumes, cubic inches."""
    return tuple((what, float(r["value"])) for what, r in _box_rows("in3 of a box").items())
