"""The workings of a loop study: recipes that are written out when opened."""

import math

from .. import conductor, working
from ..network.build import egc_wire, line_wire, neutral_wire, service_wire
from ..working import Working, figures
from .heat import OFFSET_UNDER_S, OVERSTATED_OVER_S
from .shock import body_working
from .spine import HOT_C, LOWEST_VOLTS


def of_fault(fault) -> dict[str, Working]:
    """The workings of a FaultStudy by the name of its figure."""
    context = fault.context
    found = {
        "lowest_a": Working(
            "Lowest fault current",
            fault.lowest_a,
            "A",
            lambda: _current(context, context.low, fault.lowest_a, lowest=True),
        ),
        "highest_a": Working(
            "Highest fault current",
            fault.highest_a,
            "A",
            lambda: _current(context, context.high, fault.highest_a, lowest=False),
        ),
        "loop_ohm": Working(
            "Loop impedance, conductors at 75 °C", fault.loop_ohm, "Ω", lambda: _ohms(fault)
        ),
        "longest_run_ft": Working(
            "Longest run", fault.longest_run_ft, "ft", lambda: _longest(context.site, fault)
        ),
    }
    judged = fault.device is not None
    if fault.touch_bar_v is not None:  # a line to case: no other kind has a case that is live
        found["touch"] = Working(
            "Case above the service bar", fault.touch_bar_v, "V", lambda: _touch(fault)
        )
        if judged:
            found["body"] = body_working(fault.touch_earth_v, fault.slow_s, fault.is_wet)
    if judged:
        found["opens"] = fault.device.opens_working(fault.lowest_a)
        found["heat"] = Working(
            "Heat used, worst conductor", fault.heat_used, "of its limit", lambda: _heat(fault)
        )
    return found


def _source_steps(states, lowest: bool):
    source = states.sources.lowest if lowest else states.sources.highest
    unit = states.supply
    if unit.fault_a is not None and not lowest:
        yield working.given(f"The utility's available fault current: {unit.fault_a:,.0f} A")
    if source.transformer is None:
        yield working.formula(
            f"{source.system}: Z1 = {source.z1:.4f} Ω, Z0 = {source.z0:.4f} Ω;"
            " to earth (2·Z1 + Z0)/3",
            "method 2",
        )
        return
    plate = source.transformer
    r, x = plate.r_x_ohm
    if unit.fault_a is None or lowest:
        kind = working.assumption if states.sources.plate_assumed else working.given
        more = ", 25 % over typical" if lowest and states.sources.plate_assumed else ""
        yield kind(
            f"{(unit.kind or 'utility').capitalize()} {plate.kva:g} kVA,"
            f" {plate.percent_z:.4g} %Z{more}, X/R {plate.x_over_r:g}"
        )
    yield working.formula(
        f"on the 120 V base R = {r * 1000:.3f} mΩ, X = {x * 1000:.3f} mΩ;"
        f" line to neutral sees 1.5R + j1.2X",
        "method 2",
    )
    if source.limit_a is not None:
        yield working.formula(f"it gives a line at most {figures(source.limit_a)} A")


def _current(context, seen, amps, lowest: bool):
    states = context.states
    yield from _source_steps(states, lowest)
    z, volts = seen.ohm, abs(seen.port.volts)
    where = "75 °C" if lowest else "25 °C"
    if abs(z) > 1e6:
        yield working.formula("no metal way home: only what leaks through 1 nS flows")
        return
    yield working.formula(
        f"seen from the fault, conductors at {where}: {z.real:.4f} + j{z.imag:.4f} Ω,"
        f" |Z| = {abs(z):.4f} Ω",
        "nodal solve, every path",
    )
    arc = states.site.practice.arc_v
    if lowest:
        yield working.formula(
            f"I = ({LOWEST_VOLTS:g} × {volts:.1f} V − {arc:g} V) / {abs(z):.4f} Ω"
            f" = {figures(amps, 4)} A",
            "method 4",
        )
    else:
        yield working.formula(
            f"I = {volts:.1f} V / {abs(z):.4f} Ω = {figures(amps, 4)} A",
            "method 4",
        )
    ohms = states.utility_earths()
    if len(ohms) > 1:
        listed = " and ".join(f"{o:g}" for o in ohms)
        yield working.assumption(f"utility neutral to earth: {listed} Ω, the worse kept")


def _ohms(fault):
    context = fault.context
    site, circuit = context.site, context.place.circuit
    hz = float(site.frequency_hz)
    feeders, service = context.states.chain(context.place.panel)
    parts = [(service_wire(service), service.length_ft)] if service else []
    for feeder in reversed(feeders):
        parts.append((line_wire(feeder), feeder.length_ft))
    if circuit is not None:
        parts += [(line_wire(circuit), circuit.length_ft), (egc_wire(circuit), circuit.length_ft)]
    for feeder in feeders:
        way = egc_wire(feeder) or (neutral_wire(feeder) if feeder.neutral == "yes" else None)
        parts.append((way, feeder.length_ft))
    if service:
        parts.append((service_wire(service, True), service.length_ft))
    for wire, feet in parts:
        if wire is not None:
            yield from conductor.impedance_working(wire, feet, HOT_C, hz).steps()
    if circuit is not None and circuit.egc in ("raceway", "both"):
        kind = conductor.method(circuit.method).steel_return
        z = conductor.raceway_impedance(kind, circuit.raceway_size, circuit.length_ft)
        yield working.table(
            f"{circuit.length_ft:g} ft of {circuit.raceway_size} in {kind} as the return:"
            f" {z.real:.4f} + j{z.imag:.4f} Ω",
            "raceway table",
        )
        yield working.note("The raceway's figure is an estimate; a measured one would replace it.")
    if math.isinf(fault.loop_ohm):
        yield working.note("There is no way home: the loop is open.")
        return
    for leg in fault.legs:
        yield working.formula(f"{leg.label}: {leg.ohm:.4f} Ω, {leg.share * 100:.1f} % of the loop")


def _heat(loop):
    for use in sorted(loop.heat, key=lambda h: -h.fraction):
        label = use.carrier.label
        if use.amps == 0 or math.isinf(use.limit_s):
            yield working.formula(f"{label}: carries no current")
        elif math.isinf(use.fraction):
            yield working.formula(
                f"{label}: {figures(use.amps)} A reaches its limit in {figures(use.limit_s)} s;"
                " nothing opens"
            )
        else:
            yield working.formula(
                f"{label}: {figures(use.slow_s)} s at {figures(use.amps)} A against"
                f" {figures(use.limit_s)} s = {figures(use.fraction * 100)} %",
                "method 6",
            )
    yield working.note(
        "The largest over all currents from lowest to highest: both ends and just below the"
        " magnetic step are tried."
    )
    worst = loop.worst_heat
    if worst.slow_s > OVERSTATED_OVER_S:
        yield working.note("Over 5 s the sum overstates the heat: some of it leaves the wire.")
    if worst.slow_s < OFFSET_UNDER_S:
        yield working.note("Under 0.1 s the offset of the first half cycle is left out.")
    if loop.heat_hot is not None:
        yield working.formula(
            f"with this circuit's wires hot at their limit: {figures(loop.heat_hot * 100)} %"
        )
    unproved = loop.worst_heat_unproved
    if loop.device.is_assumed and unproved:
        share = (
            "without end"
            if math.isinf(unproved.fraction)
            else f"{figures(unproved.fraction * 100)} %"
        )
        yield working.note(f"If the magnetic trip only began at 20 ×: {share}.")


def _touch(loop):
    yield working.formula(
        f"at full voltage, 75 °C: {figures(loop.touch_bar_v)} V above the service bar,"
        f" {figures(loop.touch_earth_v)} V above remote earth",
        "method 8",
    )
    yield working.formula(
        f"at the highest current, 25 °C: {figures(loop.touch_bar_highest_v)} V above the"
        " service bar"
    )
    yield working.note("An aid to understanding, never a licence to touch.")


def _longest(site, loop):
    if loop.longest_run_ft is None:
        yield working.formula(f"no length meets “{site.practice.clearing}” here")
        return
    yield working.formula(
        f"up to {loop.longest_run_ft:.1f} ft one way, all else equal, “{site.practice.clearing}”"
        " is met and every conductor lives"
    )
    if loop.device.is_assumed:
        run = loop.longest_run_unproved_ft
        text = "no length" if run is None else f"{run:.1f} ft"
        yield working.note(f"If the magnetic trip only began at 20 ×: {text}.")
