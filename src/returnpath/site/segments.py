"""A run of several methods one after another: each segment has its own wire, path and length.

Typed as ``12/2 NM 40ft; #12 EMT 1/2 25ft``: a segment each, from the panel outwards.
"""

import re
from typing import Any

from .. import tables
from ..conductor import methods
from ..errors import BadInput
from .base import Segment

MOST = 12


def read_segments(text: str) -> tuple[Segment, ...] | None:
    """The segments of a typed text; None where it is empty. BadInput names the part."""
    from .typed import read_circuit

    parts = [p.strip() for p in re.split(r"[;\n]|\bthen\b", text) if p.strip()]
    if not parts:
        return None
    if len(parts) > MOST:
        raise BadInput(f"At most {MOST} segments.")
    found = []
    for part in parts:
        reading = read_circuit(part)
        if reading.problems:
            raise BadInput(f"“{part[:40]}”: {' '.join(reading.problems)}")
        facts = {k: v for k, v in reading.facts.items() if k in Segment.model_fields}
        extra = set(reading.facts) - set(facts) - {"neutral", "poles"}
        if extra:
            raise BadInput(f"“{part[:40]}”: a segment is a wire, its method and its length.")
        if "line_size" not in facts or "length_ft" not in facts:
            raise BadInput(
                f"“{part[:40]}”: each segment says its wire and its length: 12/2 NM 40ft."
            )
        found.append(Segment(**facts))
    return checked(tuple(found))


def checked(segments: Any) -> tuple[Segment, ...]:
    """Segments whose sizes are made and whose returns can be."""
    found = tuple(s if isinstance(s, Segment) else Segment.model_validate(s) for s in segments)
    for one in found:
        tables.known_size(one.line_size)
        if one.egc in ("raceway", "both") and not methods()[one.method].steel_return:
            raise BadInput(f"{methods()[one.method].label} has no steel to carry the fault back.")
        if one.egc in ("wire", "both") and one.egc_size is None:
            raise BadInput("A segment with an EGC says its size.")
    return found


def show_segments(segments: tuple[Segment, ...]) -> str:
    """As they would be typed."""
    shown = []
    for one in segments:
        words = [f"#{one.line_size}", one.method]
        if one.raceway_size and methods()[one.method].steel_return:
            words.append(one.raceway_size)
        words.append(f"{one.length_ft:g}ft")
        words.append({"none": "no ground", "raceway": ""}.get(one.egc) or
                     (f"ground {one.egc_size}" if one.egc_size else ""))  # fmt: skip
        shown.append(" ".join(w for w in words if w))
    return "; ".join(shown)


def thinnest(sizes: list[str]) -> str:
    """The smallest of some sizes."""
    return min(sizes, key=tables.area)


def derived(segments: tuple[Segment, ...]) -> dict[str, Any]:
    """What a run of segments is as a whole: its length, its thinnest wires, its fault path.

    With a path in every segment it has one; that of the first decides where it lands.
    """
    wires = [s.egc_size for s in segments if s.egc in ("wire", "both") and s.egc_size]
    ways = [s.egc for s in segments]
    if "none" in ways:
        egc = "none"
    elif all(w == "raceway" for w in ways):
        egc = "raceway"
    else:
        egc = "wire"
    cool = [s.method for s in segments if methods()[s.method].rated_c == 60]
    steel = [s for s in segments if s.egc == "raceway" and s.raceway_size]
    return {
        "length_ft": sum(s.length_ft for s in segments),
        "line_size": thinnest([s.line_size for s in segments]),
        "method": (cool or [segments[0].method])[0] if egc != "raceway" else segments[0].method,
        "egc": egc,
        "egc_size": thinnest(wires) if wires and egc == "wire" else None,
        "raceway_size": steel[0].raceway_size if egc == "raceway" and steel else None,
    }
