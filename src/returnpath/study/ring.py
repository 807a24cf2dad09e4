"""Zs along a ring final circuit: the loop at every point of it, not only where it is most.

What lies outside the ring is the solved loop less the ring's own ohms where it was judged; each
point then gets the ohms of its own place (``site/rings.py``). A spur is left out: the judged loop
has the longest. method 15.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from .. import working
from ..network.build import egc_wire, line_wire, return_branches, run_ohm, wire_ohm
from ..site.rings import is_ring, ring_points
from ..working import Working, figures
from .faults import FaultStudy
from .port import FaultKind


@dataclass(frozen=True, slots=True)
class RingPoint:
    """A point of a ring: how far along it, 0 to 1, and the loop there in the hot state, Ω."""

    at: float
    ohm: float


def zs_along(fault: FaultStudy, count: int = 8) -> tuple[RingPoint, ...]:
    """The line-to-case loop at ``count`` + 1 points along a ring, from one end to the other.
    Empty of what is no ring, is not solved, or has another way home than its own wire."""
    circuit, basis = fault.circuit, fault.basis
    if circuit is None or basis is None or fault.kind is not FaultKind.CASE or not fault.lowest_a:
        return ()
    seen, egc = basis.low, egc_wire(circuit)
    if not is_ring(circuit) or egc is None or [part for part, _ in seen.home] != ["egc"]:
        return ()
    celsius, hz, feet = seen.solved.state.temperature_c, seen.solved.hz, circuit.length_ft or 0.0
    r1, r2 = (wire_ohm(wire, feet, celsius, hz) for wire in (line_wire(circuit), egc))
    outside = (
        seen.ohm - run_ohm(circuit, celsius, hz) - return_branches(circuit, celsius, hz)["egc"]
    )
    return tuple(
        RingPoint(p.at, abs(outside + r1 * p.line + r2 * p.egc))
        for p in ring_points(circuit, count)
    )


def along_working(fault: FaultStudy, metres: float) -> Working | None:
    """The points as a working: metres along a ring of ``metres`` and Ω; None where there are
    none."""
    points = zs_along(fault)
    if not points:
        return None

    def recipe() -> Iterator[working.Step]:
        yield working.note("along the ring a conductor has r·x·(1 − x), a broken one r·x; no spur")
        for point in points:
            yield working.formula(
                f"{point.at * metres:.3g} m along: {figures(point.ohm)} Ω", "method 15"
            )

    most = max(p.ohm for p in points)
    return Working("Zs along the ring", most, "Ω", recipe)
