"""The workings of a loop study: recipes that are written out when opened."""

import math

from .. import conductor, working
from ..network.build import egc_wire, line_wire, service_wire
from ..working import Working, figures
from .heat import OFFSET_UNDER_S, OVERSTATED_OVER_S
from .states import HOT_C, LOWEST_VOLTS


def of_loop(loop, states, low_fault, high_fault) -> dict[str, Working]:
    """The workings of a LoopStudy by the name of its figure."""
    site, circuit = states.site, loop.circuit
    return {
        "lowest_a": Working(
            "Lowest fault current",
            loop.lowest_a,
            "A",
            lambda: _current(states, low_fault, loop.lowest_a, lowest=True),
        ),
        "highest_a": Working(
            "Highest fault current",
            loop.highest_a,
            "A",
            lambda: _current(states, high_fault, loop.highest_a, lowest=False),
        ),
        "loop_ohm": Working(
            "Loop impedance, conductors at 75 °C",
            loop.loop_ohm,
            "Ω",
            lambda: _ohms(site, circuit, loop),
        ),
        "opens": loop.device.opens_working(loop.lowest_a),
        "heat": Working(
            "Heat used, worst conductor",
            loop.worst_heat.fraction if loop.worst_heat else None,
            "of its limit",
            lambda: _heat(loop),
        ),
        "touch": Working("Case above the service bar", loop.touch_bar_v, "V", lambda: _touch(loop)),
        "longest_run_ft": Working(
            "Longest run", loop.longest_run_ft, "ft", lambda: _longest(site, loop)
        ),
    }


def _source_steps(states, lowest: bool):
    source = states.sources.lowest if lowest else states.sources.highest
    r, x = source.r_x_ohm
    unit = states.site.supply
    if unit.fault_a is not None and not lowest:
        yield working.given(f"The utility's available fault current: {unit.fault_a:,.0f} A")
    else:
        kind = working.assumption if states.sources.plate_assumed else working.given
        more = ", 25 % over typical" if lowest and states.sources.plate_assumed else ""
        yield kind(
            f"Transformer {source.kva:g} kVA, {source.percent_z:.4g} %Z{more},"
            f" X/R {source.x_over_r:g}"
        )
    yield working.formula(
        f"on the 120 V base R = {r * 1000:.3f} mΩ, X = {x * 1000:.3f} mΩ;"
        f" line to neutral sees 1.5R + j1.2X",
        "method 2",
    )


def _current(states, fault, amps, lowest: bool):
    yield from _source_steps(states, lowest)
    z = fault.thevenin_ohm
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
            f"I = ({LOWEST_VOLTS:g} × {abs(fault.open_volts):.1f} V − {arc:g} V) / {abs(z):.4f} Ω"
            f" = {figures(amps, 4)} A",
            "method 4",
        )
    else:
        yield working.formula(
            f"I = {abs(fault.open_volts):.1f} V / {abs(z):.4f} Ω = {figures(amps, 4)} A",
            "method 4",
        )
    ohms = states.utility_earths()
    if len(ohms) > 1:
        listed = " and ".join(f"{o:g}" for o in ohms)
        yield working.assumption(f"utility neutral to earth: {listed} Ω, the worse kept")


def _ohms(site, circuit, loop):
    hz, run = float(site.frequency_hz), site.service
    parts = [
        (service_wire(site), run.length_ft),
        (line_wire(circuit), circuit.length_ft),
        (egc_wire(circuit), circuit.length_ft),
        (service_wire(site, True), run.length_ft),
    ]
    for wire, feet in parts:
        if wire is not None:
            yield from conductor.impedance_working(wire, feet, HOT_C, hz).steps()
    if circuit.egc in ("raceway", "both"):
        kind = conductor.method(circuit.method).steel_return
        z = conductor.raceway_impedance(kind, circuit.raceway_size, circuit.length_ft)
        yield working.table(
            f"{circuit.length_ft:g} ft of {circuit.raceway_size} in {kind} as the return:"
            f" {z.real:.4f} + j{z.imag:.4f} Ω",
            "raceway table",
        )
        yield working.note("The raceway's figure is an estimate; a measured one would replace it.")
    if math.isinf(loop.loop_ohm):
        yield working.note("There is no way home: the loop is open.")
        return
    for leg in loop.legs:
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
