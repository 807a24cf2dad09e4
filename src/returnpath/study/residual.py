"""The residual-current devices in a fault's path, each with the part of the fault it sees.

A device sees the sum of the currents through it, read from the solved network: a case that is tied
to the neutral behind it hides its fault. In the metric rule set they count as fault protection
(method 15); in the United States' they are a second line, never merged in (method 5).
"""

from collections.abc import Iterator
from typing import Any

from ..site import Circuit, Feeder, Panel
from ..vocabulary import FactPath
from .port import FaultKind, Place, Seen, Side
from .protection import Residual, residual_share

LEAST_SHARE = 1e-3


def residuals_of(spine: Any, place: Place, kind: FaultKind, seen: Seen) -> tuple[Residual, ...]:
    """Those between the source and a fault that see a part of it."""
    found = [(at, share) for at, share in _ahead(spine, place, kind, seen) if share > LEAST_SHARE]
    return tuple(
        Residual(
            FactPath.of(at.id, "rcd_ma"),
            at.rcd_ma,
            at.rcd_delayed == "yes",
            min(share, 1.0),
            at.rcd_type or "",
        )
        for at, share in found
    )


def _ahead(spine: Any, place: Place, kind: FaultKind, seen: Seen) -> Iterator[tuple[Any, float]]:
    """(circuit, feeder or panel that has one, the part of the fault it sees)."""
    circuit = place.circuit
    if circuit is not None and circuit.rcd_ma is not None:
        yield circuit, _of_circuit(circuit, kind, seen)
    feeders, _ = spine.chain(place.panel)
    panels = {p.id: p for p in spine.site.panels}
    for id_ in (place.panel, *(f.source for f in feeders)):
        if panels[id_].rcd_ma is not None:
            yield panels[id_], _of_panel(spine, panels[id_], place, kind, seen)
    for feeder in feeders:
        if feeder.rcd_ma is not None:
            yield feeder, _of_feeder(feeder, seen)


def _of_circuit(circuit: Circuit, kind: FaultKind, seen: Seen) -> float:
    if seen.solved.has(f"{circuit.id}.case"):
        return residual_share(circuit, seen)
    return 1.0 if kind is FaultKind.CASE else 0.0


def _lines(element: str, part: str, seen: Seen) -> complex:
    return sum(seen.solved.flow(f"{element}.{part}{n}", seen.port) for n in (1, 2, 3))


def _of_feeder(feeder: Feeder, seen: Seen) -> float:
    # Lines are counted away from the panel, the neutral towards it.
    back = seen.solved.flow(f"{feeder.id}.neutral", seen.port)
    return abs(_lines(feeder.id, "line", seen) - back)


def _of_panel(spine: Any, panel: Panel, place: Place, kind: FaultKind, seen: Seen) -> float:
    """Its main's lines less what comes back to its neutral bar from its load side."""
    site, solved = spine.site, seen.solved
    back: complex = 0j
    for feeder in site.feeders:
        if feeder.source == panel.id:
            back += solved.flow(f"{feeder.id}.neutral", seen.port)
    for circuit in site.circuits:
        if circuit.panel == panel.id and solved.has(f"{circuit.id}.case"):
            back += solved.flow(f"{circuit.id}.neutral", seen.port)
    if place.panel == panel.id and place.side is Side.LINE:
        return abs(_lines(panel.id, "main", seen) - back)  # it shorts the supply ahead of its main
    circuit = place.circuit
    hangs = circuit is not None and not solved.has(f"{circuit.id}.case")
    if kind is FaultKind.NEUTRAL and place.panel == panel.id and (hangs or circuit is None):
        back += 1.0
    return abs(_lines(panel.id, "main", seen) - back)
