"""One fault at one place: every kind through one function (method 4 to 8)."""

import math
from typing import Any

from ..site.chain import opens
from .basis import Basis, lowest_of, settled
from .faults import FaultStudy
from .lacks import lacks_of
from .port import FaultKind, Place, Seen, Side, all_seen
from .protection import DeviceSet, second_line_s
from .residual import residuals_of
from .shock import person_ohm
from .spine import KEEP_FIGURES, Spine
from .states import States
from .verdict import (
    Verdict,
    timed_verdict,
    verdict_of_set,
)

#: What is said of a fault that nothing of this place's own opens.
NONE_OF_YOURS = "Nothing of yours is ahead of it: only the utility's own protection."
NONE_AHEAD_OF_MAIN = (
    "Ahead of its main nothing of yours opens: there only the utility's own protection is."
)
NOT_FED = "Nothing feeds this panel."
SURELY_LESS = 1 - 1e-9


def kinds_at(place: Place) -> tuple[FaultKind, ...]:
    """The kinds of fault that can be at a place besides line to enclosure."""
    circuit, kinds = place.circuit, []
    if circuit is None or circuit.neutral == "yes":
        kinds.append(FaultKind.NEUTRAL)
    if len(place.legs) >= 2:
        kinds.append(FaultKind.LINE)
    return tuple(kinds)


def study_fault(states: States, place: Place, kind: FaultKind) -> FaultStudy:
    """One kind of fault at ``place``: the worst of its lines."""
    base: dict[str, Any] = {
        "place": place.id,
        "place_name": place.name,
        "kind": kind,
        "state": states.supply.id,
        "side": place.side,
        "circuit": place.circuit,
    }
    if states.chain(place.panel)[1] is None:
        return FaultStudy(verdict=Verdict.NOT_KNOWN, remark=NOT_FED, **base)
    if lacks := lacks_of(states, place, kind):
        return FaultStudy(verdict=Verdict.NOT_KNOWN, lacks=lacks, **base)
    spine = states.spine
    key = (place.id, place.side, place.node, place.legs, kind)
    found = spine.figures.get(key)
    # Circuits are compared by all that is known or assumed of them, not by name.
    if found is None or found[0].place.circuit != place.circuit:
        if len(spine.figures) >= KEEP_FIGURES:
            spine.figures.clear()
        found = spine.figures[key] = _study(spine, place, kind)
    basis, figures = found
    return FaultStudy._made(base, figures, {"basis": basis.of(states, place)})


def _study(spine: Spine, place: Place, kind: FaultKind) -> tuple[Basis, dict[str, Any]]:
    """(what the figures rest on, the figures): of the spine and the place alone."""
    arc = float(spine.site.practice.arc_v)
    hot, cold = all_seen(spine.hot, place, kind), all_seen(spine.cold, place, kind)
    low = hot[0]
    for seen in hot[1:]:  # the first of equals: a line is not changed for another by rounding
        least = lowest_of(low.volts_open, low.z, arc) * SURELY_LESS
        if lowest_of(seen.volts_open, seen.z, arc) < least:
            low = seen
    high = cold[0] if len(cold) == 1 else max(cold, key=lambda s: s.volts_open / s.z)
    device, at, devices = spine.device_path(place, low)
    if spine.is_metric:
        seen_by = residuals_of(spine, place, kind, low)
        if seen_by:
            ahead = devices.devices if devices is not None else ()
            devices = DeviceSet(ahead, seen_by)
    basis = Basis(spine, None, place, kind, low, high, devices)
    limit = spine.sources.highest.limit_a
    lowest = _limited(lowest_of(low.volts_open, low.z, arc), limit)
    highest = _limited(settled(high.volts_open / high.z), limit)
    figures: dict[str, Any] = {
        "lowest_a": lowest,
        "highest_a": highest,
        "loop_ohm": low.z if lowest else math.inf,
    }
    if kind is FaultKind.CASE:
        figures |= _touch(spine, place, hot, high, limit)
    else:
        figures["touch_reach_v"] = {}
    if devices is None:
        return basis, {**figures, "verdict": Verdict.NOT_KNOWN, "remark": NONE_OF_YOURS}
    figures |= {"device": device, "device_at": at}
    if place.side is Side.LOAD and not _is_protected_ahead(spine, place.panel):
        figures["remark"] = NONE_AHEAD_OF_MAIN
    return basis, figures | _protection(basis, figures)


def _is_protected_ahead(spine: Spine, panel: str) -> bool:
    """Whether a device of this place's is ahead of a panel's own main."""
    feeders, _ = spine.chain(panel)
    ahead = [f.breaker for f in feeders] + [spine.supply.breaker]
    return any(opens(device) for device in ahead)


def _protection(basis: Basis, figures: dict[str, Any]) -> dict[str, Any]:
    """What the devices make of a fault: the verdict and the longest time."""
    low, devices = figures["lowest_a"], basis.devices
    assert devices is not None
    found: dict[str, Any] = {"slow_s": devices.slow_s(low)}
    if basis.spine.is_metric:
        limit = basis.time_limit()
        found["verdict"] = timed_verdict(found["slow_s"], devices.slow_s(low, True), limit)
        found["by_rcd"] = (
            devices.residual_s(low) <= limit.seconds < devices.over_current_s(low, True)
        )
    elif devices.certain_from(unproved=True) <= low:
        found["verdict"] = Verdict.AT_ONCE
    else:
        found["verdict"] = verdict_of_set([(d, low * share) for d, share in devices.soonest])
    if basis.kind is FaultKind.CASE:
        found["second_line_s"] = second_line_s(basis.place.circuit, low, basis.low)
        found["_runs_kept"] = []
    return found


def _limited(amps: float, limit: float | None) -> float:
    return amps if limit is None else min(amps, limit)


def _touch(
    spine: Spine, place: Place, hot: list[Seen], high: Seen, limit: float | None
) -> dict[str, Any]:
    """Steady, full voltage, 75 °C: against remote earth, the service bar, and what is in reach."""
    bar = spine.service_bar
    reach = place.circuit.reach if place.circuit else ()
    is_wet = place.circuit is not None and place.circuit.wet == "yes"
    earth = to_bar = 0.0
    within, bodies = dict.fromkeys(reach, 0.0), []

    def volts(seen: Seen) -> tuple[complex, complex, float]:
        amps = seen.amps()
        # A limited source's volts collapse with its current.
        scale = min(1.0, limit / abs(amps)) if limit and abs(amps) > 0 else 1.0
        return amps, seen.case_volts(amps), scale

    for seen in hot:
        amps, case, scale = volts(seen)
        earth = max(earth, abs(case) * scale)
        bodies.append((abs(case) * scale, person_ohm(seen, is_wet)))
        to_bar = max(to_bar, abs(case - seen.volts(bar, amps)) * scale)
        for metal in reach:
            gap = abs(case - seen.volts(f"{metal}.metal", amps)) * scale
            within[metal] = max(within[metal], gap)
    amps, case, scale = volts(high)
    body = max(bodies, key=lambda b: b[0] / b[1])
    return {
        "touch_earth_v": earth,
        "touch_bar_v": to_bar,
        "touch_bar_highest_v": abs(case - high.volts(bar, amps)) * scale,
        "touch_reach_v": within,
        "body_v": body[0],
        "person_ohm": body[1],
    }
