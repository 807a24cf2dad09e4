"""Labels of an array, counted from its run: every 10 ft, each turn, both sides of a penetration,
each box and disconnect. The fire code and the local office may ask for more."""

import math
from collections.abc import Iterable
from dataclasses import dataclass

from .. import tables
from ..site import Array

EVERY_FT = 10.0


@dataclass(frozen=True)
class Label:
    """One label's words, where it goes, letters in inches, and its section."""

    key: str
    at: str
    text: str
    height_in: float
    section: str


@dataclass(frozen=True)
class LabelCount:
    """How many of one label, and how they were counted."""

    label: Label
    count: int
    how: str


def _row(key: str, edition: int, **figures: str) -> Label | None:
    for r in tables.rows("array_labels"):
        if r["key"] == key and int(r["from"]) <= edition <= int(r["to"]):
            section = f"{tables.section(r['section'], edition)} ({edition})"
            text = r["text"].format(**figures)
            return Label(key, r["at"], text, float(r["height_in"]), section)
    return None


def labels_of(array: Array, edition: int, volts_ac: float = 240.0) -> tuple[LabelCount, ...]:
    """Every label of an array and how many; of what nobody said, none is counted."""
    volts = f"{array.voc_v:g}" if array.voc_v else "–"
    figures = {"volts": volts, "amps": f"{array.ac_a:g}" if array.ac_a else "–",
               "ac_volts": f"{volts_ac:g}"}  # fmt: skip
    length, turns, through = array.length_ft or 0.0, array.turns or 0, array.penetrations or 0
    along = math.ceil(length / EVERY_FT)
    counted = (
        ("run", along + turns + 2 * through,
         f"{along} along {length:g} ft, {turns} at turns, {2 * through} at penetrations"),
        ("box", 0 if array.boxes is None or array.inverter == "micro" else 1, "its junction box"),
        ("disconnect", 1 if array.dc_disconnect == "yes" else 0, "the d.c. disconnect"),
        ("ac", 1 if array.ac_disconnect == "yes" else 0, "the a.c. disconnect"),
        ("backfeed", 1 if array.tap != "line side" else 0, "its breaker in the panel"),
        ("shutdown", 1 if array.rapid_shutdown == "yes" else 0, "at the service"),
    )  # fmt: skip
    found = []
    for key, count, how in counted:
        label = _row(key, edition, **figures)
        if label is not None and count:
            found.append(LabelCount(label, count, how))
    return tuple(found)


def cut_list(counts: Iterable[LabelCount]) -> tuple[tuple[str, int], ...]:
    """Text and how many of it, the most first: what to cut or order."""
    total: dict[str, int] = {}
    for one in counts:
        total[one.label.text] = total.get(one.label.text, 0) + one.count
    return tuple(sorted(total.items(), key=lambda kv: -kv[1]))
