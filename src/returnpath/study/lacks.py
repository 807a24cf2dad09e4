"""The facts without which a fault has no answer: what is never assumed."""

from ..site import Circuit, Feeder, Panel
from ..site.chain import is_typed
from ..vocabulary import FactPath
from .port import FaultKind, Place
from .states import States


def lacks_of(states: States, place: Place, kind: FaultKind) -> tuple[FactPath, ...]:
    """The facts that are never assumed, or that no table could fill."""
    site, missing, circuit = states.site, [], place.circuit
    if circuit is not None:
        if not is_typed(circuit.breaker):
            missing.append(FactPath.of(circuit.id, "breaker.rating_a"))
        elif circuit.line_size is None:
            missing.append(FactPath.of(circuit.id, "line_size"))
    else:
        missing += states.spine.untyped_ahead(place)
    if kind is FaultKind.CASE:
        missing += _case_lacks(states, place)
        if states.spine.is_metric:
            missing += _unsaid_rcd(states, place)
    if states.sources.lowest is None:
        fact = "kva" if states.supply.kva is not None else "r1_ohm"
        missing.append(FactPath.of(states.supply.id, fact))
    for run in site.services:
        if run.supply == states.supply.id and run.line_size is None:
            missing.append(FactPath.of(run.id, "line_size"))
    return tuple(dict.fromkeys(missing))


def _unsaid_rcd(states: States, place: Place) -> list[FactPath]:
    """In a TT board the residual-current device is the fault protection: whether there is one is
    never assumed."""
    spine, circuit = states.spine, place.circuit
    if spine.earthing(place.panel) != "TT":
        return []
    feeders, _ = spine.chain(place.panel)
    panels = {p.id: p for p in spine.site.panels}
    ahead: list[Panel | Feeder] = [
        panels[place.panel],
        *feeders,
        *(panels[f.source] for f in feeders),
    ]
    if any(a.rcd_ma is not None for a in ahead):
        return []
    if circuit is None:
        return []
    unsaid = circuit.rcd_ma is None and circuit.gfci is None
    return [FactPath.of(circuit.id, "rcd_ma")] if unsaid else []


def _case_lacks(states: States, place: Place) -> list[FactPath]:
    """What must be known of the way home of a case."""
    circuit, missing, spine = place.circuit, [], states.spine
    if circuit is not None:
        if circuit.egc is None:
            missing.append(FactPath.of(circuit.id, "egc"))
        elif circuit.egc in ("wire", "both") and circuit.egc_size is None:
            missing.append(FactPath.of(circuit.id, "egc_size"))
        elif circuit.egc == "none" and not circuit.neutral_on_frame:
            missing += _unmeasured(circuit)
    missing += spine.upstream_lacks(place.panel)
    on_case = circuit is None or circuit.egc in ("raceway", "both")
    if on_case and not place.node:
        missing += spine.bar_lacks(place.panel)
    return missing


#: Metal that may bring a fault home, by ohms that nobody's table gives.
METAL_RETURNS = (
    "FMC",
    "LFMC 3/8-1/2",
    "LFMC 3/4-1-1/4",
    "AC cable armour",
    "armoured cable of old without a strip",
    "MC interlocked armour",
    "the building frame",
)


def _unmeasured(circuit: Circuit) -> list[FactPath]:
    """What decides a way home that is no wire: the ohms of armour or flexible metal, the strap of
    a range or dryer on three wires."""
    if circuit.relied_on in METAL_RETURNS and circuit.return_ohm is None:
        return [FactPath.of(circuit.id, "return_ohm")]
    on_strap = circuit.load_kind in ("range", "dryer") and circuit.neutral == "yes"
    if on_strap and circuit.relied_on is None and circuit.strap is None:
        return [FactPath.of(circuit.id, "strap")]
    return []
