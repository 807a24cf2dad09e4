"""Line-to-neutral and line-to-line faults at the ends of circuits and at panels' bars.

Ground-fault protection sees nothing of them: the over-current device alone clears them.
"""

from .. import conductor
from ..network.build import line_wire, neutral_wire
from ..network.wiring import is_meshed
from .context import Context, lowest_of, settled
from .faults import LINE, NEUTRAL, FaultStudy, lacks_of
from .heat import Carrier, worst_letthrough
from .places import Place, Seen
from .solved import Solved
from .states import States
from .verdict import Verdict, judge_set


def study_other(states: States, place: Place, legs: tuple[int, ...]) -> list[FaultStudy]:
    """The faults of ``place`` that do not touch its case."""
    circuit, found = place.circuit, []
    has_neutral = circuit is None or circuit.neutral == "yes"
    if has_neutral:
        found.append(_study(states, place, NEUTRAL, legs))
    if len(legs) >= 2:
        found.append(_study(states, place, LINE, legs))
    return found


def _study(states: States, place: Place, kind: str, legs: tuple[int, ...]) -> FaultStudy:
    base = {
        "place": place.id,
        "place_name": place.name,
        "kind": kind,
        "state": states.supply.id,
        "circuit": place.circuit,
    }
    lacks = tuple(
        path
        for path in lacks_of(states, place)
        if not path.endswith((".egc", ".egc_size", ".bond"))
    )
    if lacks:
        return FaultStudy(verdict=Verdict.NOT_KNOWN, lacks=lacks, **base)
    arc = float(states.site.practice.arc_v)
    leg = legs[0]
    hot = [_seen(states, s, place, kind, legs) for s in states.hot]
    cold = [_seen(states, s, place, kind, legs) for s in states.cold]
    low_seen = min(hot, key=lambda s: lowest_of(abs(s.port.volts), abs(s.ohm), arc))
    high_seen = max(cold, key=lambda s: abs(s.amps()))
    limit = states.sources.highest.limit_a
    low = lowest_of(abs(low_seen.port.volts), abs(low_seen.ohm), arc)
    high = settled(abs(high_seen.amps()))
    if limit is not None:
        low, high = min(low, limit), min(high, limit)
    context = Context(states.spine, states, place, low_seen, high_seen, leg, 1)
    context.own = _own(place.circuit, kind)
    device, at, devices = states.spine.device_path(place, low_seen, leg)
    figures = {
        "lowest_a": low,
        "highest_a": high,
        "loop_ohm": abs(low_seen.ohm) if low else float("inf"),
        "touch_reach_v": {},
    }
    if device is None:
        return FaultStudy(verdict=Verdict.NOT_KNOWN, context=context, **base, **figures)
    context.devices = devices
    ratio, top = context.worst_ratio(), max(low, high)
    through, _ = worst_letthrough(devices.slow_s, low, top, devices.steps())
    late, _ = worst_letthrough(
        lambda a: devices.slow_s(a, True), low, top, devices.steps(unproved=True)
    )
    return FaultStudy(
        **base,
        **figures,
        context=context,
        verdict=judge_set([(d, low * share) for d, share in devices.devices]),
        device=device,
        device_at=at,
        fast_s=devices.fast_s(high),
        slow_s=devices.slow_s(low),
        slow_s_unproved=devices.slow_s(low, True),
        heat_used=through * ratio,
        heat_used_unproved=late * ratio,
    )


def _seen(states: States, solved: Solved, place: Place, kind: str, legs: tuple[int, ...]) -> Seen:
    circuit = place.circuit
    if circuit is not None and is_meshed(circuit):
        neutral = f"{states.wiring.owners.get(circuit.id, circuit.id)}.N"
        end = neutral if kind == NEUTRAL else f"{circuit.id}.L2"
        return Seen(solved, solved.port(f"{circuit.id}.L1", end))
    end = "N" if kind == NEUTRAL else f"L{legs[1]}"
    port = solved.port(f"{place.panel}.L{legs[0]}", f"{place.panel}.{end}")
    if circuit is None:
        return Seen(solved, port)
    ohm, _ = place.run_ohms(solved.state.temperature_c, solved.hz)
    back = "neutral" if kind == NEUTRAL else "line2"
    line = solved.jointed(f"{circuit.id}.line1", ohm)
    return Seen(solved, port, line, solved.jointed(f"{circuit.id}.{back}", ohm))


def _own(circuit, kind: str) -> tuple[Carrier, ...]:
    if circuit is None:
        return ()
    i2t = conductor.withstand_i2t(line_wire(circuit))
    found = [Carrier(f"{circuit.id}.line_size", "line wire", i2t, 1.0)]
    if kind == NEUTRAL:
        i2t = conductor.withstand_i2t(neutral_wire(circuit))
        found.append(Carrier(f"{circuit.id}.line_size", "neutral", i2t, 1.0))
    return tuple(found)
