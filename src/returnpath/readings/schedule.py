"""The tests of a metric place in their order: dead first, then live; what each should read.
method 15.

    dead   continuity (r1, rn, r2 of a ring; R1+R2) · insulation · polarity
    live   Zs · prospective current · RCD at one and at five times its rating
"""

import math
from dataclasses import dataclass

from .. import sizing
from ..site import Circuit, Practice
from ..site.rings import is_ring, ring_ends
from ..study import FaultStudy, SiteStudy
from ..working import figures
from .expected import expected_loop
from .predict import LEAST_INSULATION, predict
from .reading import TypedReading

#: kind of reading → the head of its column, dead tests before live ones.
DEAD = {
    "ring-line": "r1",
    "ring-neutral": "rn",
    "ring-egc": "r2",
    "r1r2": "R1+R2",
    "insulation": "Insulation",
    "lamps": "Polarity",
}
LIVE = {"loop": "Zs", "trip": "RCD × 1", "trip5": "RCD × 5"}


@dataclass(frozen=True)
class ScheduleRow:
    """One circuit: its device and RCD in words, and what each test should read, by its kind; an
    absent kind is not a test of it."""

    circuit: str
    name: str
    device: str
    rcd: str
    allowed: str
    expected: dict[str, str]


def schedule_rows(study: SiteStudy, panel: str) -> tuple[ScheduleRow, ...]:
    """The circuits of a board."""
    site = study.assumed.site
    return tuple(
        _row(study, circuit, study.loops.get(circuit.id))
        for circuit in site.circuits
        if circuit.panel == panel
    )


def _row(study: SiteStudy, circuit: Circuit, loop: FaultStudy | None) -> ScheduleRow:
    device, allowed = "not known", ""
    if loop is not None and loop.device is not None and loop.basis is not None:
        device = loop.device.name.removesuffix(" breaker")
        seconds = loop.basis.time_limit().seconds
        row = sizing.allowed_row(loop.device, seconds, loop.basis.spine.volts)
        by_fifths = site_practice(study).zs_measured == "four fifths"
        cold = row.four_fifths_ohm if by_fifths else row.cold_ohm
        allowed = f"{figures(cold)} Ω"
    rcd = ""
    if circuit.rcd_ma is not None:
        kind = f" {circuit.rcd_type}" if circuit.rcd_type else ""
        rcd = f"{circuit.rcd_ma:g} mA{kind}{' S' if circuit.rcd_delayed == 'yes' else ''}"
    name = circuit.name or "Unnamed circuit"
    return ScheduleRow(circuit.id, name, device, rcd, allowed, _expected(study, circuit))


def site_practice(study: SiteStudy) -> Practice:
    """The local practice of a studied place."""
    return study.assumed.site.practice


def _expected(study: SiteStudy, circuit: Circuit) -> dict[str, str]:
    found: dict[str, str] = {}
    if is_ring(circuit):
        ends = ring_ends(circuit)
        if ends is not None:
            for kind, ohm in zip(("ring-line", "ring-neutral", "ring-egc"),
                                 (ends.r1, ends.rn, ends.r2), strict=True):  # fmt: skip
                found[kind] = "open" if math.isinf(ohm) else f"{figures(ohm)} Ω"
    band = predict(study, TypedReading("", "r1r2", circuit.id))
    if band is not None:
        found["r1r2"] = f"{figures(band.low)}–{figures(band.high)} Ω"
    found["insulation"] = f"{LEAST_INSULATION:g} MΩ and more"
    found["lamps"] = "correct"
    metered = study.metered.get(circuit.id)
    expected = expected_loop(metered) if metered is not None else None
    if expected is not None:
        found["loop"] = expected.words()
    if circuit.rcd_ma is not None:
        also = site_practice(study).rcd_times == "also five"
        for kind in ("trip", "trip5") if also else ("trip",):
            limit = predict(study, TypedReading("", kind, circuit.id))
            if limit is not None:
                found[kind] = f"{limit.high:g} ms at most"
    return found
