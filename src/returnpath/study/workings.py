"""The workings of a fault: recipes that are written out when opened. Each ends with the sum that
gives its figure."""

import math
from collections.abc import Callable, Iterator, Mapping
from typing import TYPE_CHECKING

from .. import armour, conductor, working
from ..network.build import egc_wire, line_wire, neutral_wire, return_branches, service_wire
from ..working import Working, figures
from .conductors import has_armour
from .heat import OFFSET_UNDER_S, OVERSTATED_OVER_S
from .port import FaultKind
from .shock import body_working
from .spine import HOT_C, LOWEST_VOLTS

if TYPE_CHECKING:
    from .faults import FaultStudy


class Workings(Mapping[str, Working]):
    """The workings of a FaultStudy by the name of its figure; each is made when asked for."""

    def __init__(self, fault: "FaultStudy"):
        self._fault = fault
        names = ["lowest_a", "highest_a", "loop_ohm"]
        judged = fault.device is not None
        if judged and fault.kind is FaultKind.CASE:
            names.append("longest_run_ft")
        if fault.touch_bar_v is not None:  # only metal that is live has a hand on it
            names.append("touch")
            if judged:
                names.append("body")
        if judged:
            names += ["opens", "heat"]
        self._names = tuple(names)

    def __getitem__(self, name: str) -> Working:
        if name not in self._names:
            raise KeyError(name)
        fault = self._fault
        if name == "opens":
            return fault.device.opens_working(fault.lowest_a)
        if name == "body":
            return body_working(fault.body_v, fault.person_ohm, fault.slow_s, fault.is_wet)
        title, figure, unit, steps = _RECIPES[name]
        return Working(title, getattr(fault, figure), unit, lambda: steps(fault))

    def __iter__(self) -> Iterator[str]:
        return iter(self._names)

    def __len__(self) -> int:
        return len(self._names)


def _source_steps(states, lowest: bool):
    source = states.sources.lowest if lowest else states.sources.highest
    unit = states.supply
    if unit.fault_a is not None and not lowest:
        yield working.given(f"The utility's available fault current: {unit.fault_a:,.0f} A")
    assumed = states.sources.plate_assumed
    more = ", 25 % over typical" if lowest and assumed else ""
    if source.transformer is None:
        text = f"{source.system}: Z1 = {source.z1:.4f} Ω, Z0 = {source.z0:.4f} Ω{more}"
        yield working.assumption(text) if assumed else working.given(text)
        return
    plate = source.transformer
    r, x = plate.r_x_ohm
    if unit.fault_a is None or lowest:
        kind = working.assumption if assumed else working.given
        yield kind(
            f"{(unit.kind or 'utility').capitalize()} {plate.kva:g} kVA,"
            f" {plate.percent_z:.4g} %Z{more}, X/R {plate.x_over_r:g}"
        )
    yield working.note(
        f"on the 120 V base R is {r * 1000:.3f} mΩ, X {x * 1000:.3f} mΩ;"
        f" line to neutral sees 1.5R + j1.2X",
    )


def _current(fault, lowest: bool):
    states, seen = fault.basis.states, fault.basis.low if lowest else fault.basis.high
    amps = fault.lowest_a if lowest else fault.highest_a
    yield from _source_steps(states, lowest)
    z, volts = seen.ohm, abs(seen.port.volts)
    if amps == 0:
        yield working.note("no metal path back: only what leaks through 1 nS flows")
        return
    ohms = states.utility_earths()
    if len(ohms) > 1:
        listed = " and ".join(f"{o:g}" for o in ohms)
        yield working.assumption(f"utility neutral to earth: {listed} Ω, the worse kept")
    if fault.basis.spine.is_metric:
        where = "hot (70 °C)" if lowest else "cold (20 °C)"
    else:
        where = "hot (75 °C)" if lowest else "cold (25 °C)"
    yield working.formula(
        f"seen from the fault, conductors {where}:"
        f" |Z| = √({z.real:.6f}^2 + {z.imag:.6f}^2) = {abs(z):.6f} Ω",
        "method 3",
    )
    arc = states.site.practice.arc_v
    drive = f"({LOWEST_VOLTS:g} · {volts:.4f} V − {arc:g} V)" if lowest else f"{volts:.4f} V"
    plain = (LOWEST_VOLTS * volts - arc if lowest else volts) / abs(z)
    limit = states.sources.highest.limit_a
    yield working.formula(f"I = {drive} / {abs(z):.6f} Ω = {figures(plain, 5)} A", "method 4")
    if limit is not None and plain > limit:
        yield working.formula(
            f"the source gives a line at most that: I = min({figures(plain, 5)},"
            f" {figures(limit, 5)}) = {figures(amps, 5)} A",
            "method 2",
        )


def _run_steps(wire, feet: float, hz: float):
    """The steps of one conductor's ohms, without its own last sum."""
    return conductor.impedance_working(wire, feet, HOT_C, hz).steps()[:-1]


def _ohms(fault):
    basis = fault.basis
    site, circuit = basis.site, basis.place.circuit
    hz = float(site.frequency_hz)
    feeders, service = basis.states.chain(basis.place.panel)
    parts = [(service_wire(service), service.length_ft)] if service else []
    for feeder in reversed(feeders):
        parts += _line_parts(feeder)
    if circuit is not None:
        parts += _line_parts(circuit)
    is_case = fault.kind is FaultKind.CASE
    for run in (circuit, *feeders):
        if run is None:
            continue
        if run.segments:
            ways = return_branches(run, HOT_C, hz)
            for part, z in ways.items() if is_case else ():
                yield working.note(
                    f"{len(run.segments)} segments as the {part}: {z.real:.4f} + j{z.imag:.4f} Ω"
                )
            if not is_case:
                parts += _line_parts(run)
            continue
        way = egc_wire(run) if is_case else None
        if fault.kind is FaultKind.NEUTRAL or (is_case and way is None and run is not circuit):
            way = neutral_wire(run) if run.neutral == "yes" else None
        parts.append((way, run.length_ft))
    if service and fault.kind is not FaultKind.LINE:
        parts.append((service_wire(service, True), service.length_ft))
    for wire, feet in parts:
        if wire is not None:
            yield from _run_steps(wire, feet, hz)
    if is_case and circuit is not None:
        yield from _raceway_steps(circuit, hz)
    if math.isinf(fault.loop_ohm):
        yield working.note("There is no path back: the loop is open.")
        return
    for leg in fault.legs:
        yield working.note(f"{leg.label}: {leg.ohm:.4f} Ω, {leg.share * 100:.1f} % of the loop")
    z = basis.low.ohm
    yield working.formula(
        f"|Z| = √({z.real:.6f}^2 + {z.imag:.6f}^2) = {abs(z):.6f} Ω, every path solved together",
        "method 3",
    )


def _line_parts(run):
    """(wire, feet) of a run's line: of each of its segments, where it has any."""
    if not run.segments:
        return [(line_wire(run), run.length_ft)]
    sets = getattr(run, "sets", None) or 1
    return [
        (conductor.Wire(s.line_size, s.line_material, s.method, sets), s.length_ft)
        for s in run.segments
    ]


def _raceway_steps(circuit, hz: float):
    z = None if circuit.segments else return_branches(circuit, HOT_C, hz).get("raceway")
    if z is None or circuit.egc not in ("raceway", "both") or circuit.return_ohm is not None:
        return
    if has_armour(circuit):
        area, sure = armour.armour_mm2(circuit.line_size, armour.cores_of(circuit))
        doubt = "" if sure == "yes" else f", {sure}"
        yield working.table(
            f"armour of {armour.cores_of(circuit)} cores of {circuit.line_size.name}: {area:g} mm²"
            f" of steel{doubt}: {z.real:.4f} Ω hot",
            "armour table",
        )
        return
    kind = conductor.method(circuit.method).steel_return
    yield working.table(
        f"{circuit.length_ft:g} ft of {circuit.raceway_size} in {kind} as the return:"
        f" {z.real:.4f} + j{z.imag:.4f} Ω",
        "raceway table",
    )
    yield working.note("The raceway's figure is an estimate; a measured one would replace it.")


def _heat(fault):
    uses = sorted(fault.heat, key=lambda h: h.fraction)
    for use in uses[:-1]:
        label = use.carrier.label
        if use.amps == 0 or math.isinf(use.limit_s):
            yield working.note(f"{label}: carries no current")
        elif math.isinf(use.fraction):
            yield working.note(
                f"{label}: {figures(use.amps)} A reaches its limit in {figures(use.limit_s)} s;"
                " nothing opens"
            )
        else:
            yield working.note(
                f"{label}: {figures(use.slow_s)} s at {figures(use.amps)} A against"
                f" {figures(use.limit_s)} s, {figures(use.fraction * 100)} %"
            )
    yield working.note(
        "The largest over all currents from lowest to highest: both ends and just below the"
        " magnetic step are tried."
    )
    yield from _heat_notes(fault)
    if not uses or uses[-1].fraction == 0:
        yield working.formula("no conductor of known size carries a part: 0", "method 6")
        return
    worst = fault.worst_heat
    where = f"{worst.carrier.label}, {figures(worst.amps)} A"
    if math.isinf(worst.fraction):
        yield working.note(f"{where}: at its limit in {figures(worst.limit_s)} s; nothing opens")
        return
    yield working.formula(
        f"{where}: {figures(worst.slow_s, 6)} s / {figures(worst.limit_s, 6)} s"
        f" = {figures(worst.fraction, 5)}",
        "method 6",
    )


def _heat_notes(fault):
    worst = fault.worst_heat
    if worst is not None and worst.slow_s > OVERSTATED_OVER_S:
        yield working.note("Over 5 s the sum overstates the heat: some of it leaves the wire.")
    if worst is not None and worst.slow_s < OFFSET_UNDER_S:
        yield working.note("Under 0.1 s the offset of the first half cycle is left out.")
    if fault.heat_hot is not None:
        yield working.note(
            f"with this circuit's wires hot at their limit: {figures(fault.heat_hot * 100)} %"
        )
    unproved = fault.worst_heat_unproved
    if fault.device.is_assumed and unproved:
        share = (
            "without end"
            if math.isinf(unproved.fraction)
            else f"{figures(unproved.fraction * 100)} %"
        )
        yield working.note(f"If the magnetic trip only began at 20 ×: {share}.")


def _touch(fault):
    seen = fault.basis.low
    amps = abs(seen.amps())
    yield working.note(
        f"at the highest current, conductors cold: {figures(fault.touch_bar_highest_v)} V above"
        f" the service bar; {figures(fault.touch_earth_v)} V above remote earth, conductors hot"
    )
    yield working.note("An aid to understanding, never a licence to touch.")
    if not fault.lowest_a:
        volts = figures(fault.touch_bar_v, 4)
        yield working.formula(f"no current flows, the metal follows the line: V = {volts} V")
        return
    yield working.formula(
        "at full voltage, conductors hot, between the enclosure and the service bar:"
        f" V = {figures(amps, 6)} A · {figures(fault.touch_bar_v / amps, 6)} Ω"
        f" = {figures(fault.touch_bar_v, 4)} V",
        "method 8",
    )


def _longest(fault):
    clearing = fault.basis.site.practice.clearing
    if fault.longest_run_ft is None:
        yield working.note(f"no length meets “{clearing}” here")
        return
    if fault.device.is_assumed:
        run = fault.longest_run_unproved_ft
        text = "no length" if run is None else f"{run:.1f} ft"
        yield working.note(f"If the magnetic trip only began at 20 ×: {text}.")
    yield working.note(
        f"the last length, all else equal, at which “{clearing}” is met and every conductor lives:"
        " found by halving the range"
    )
    yield working.formula(f"L = {figures(fault.longest_run_ft, 5)} ft", "method 4")


#: figure → title, attribute, unit, steps.
_RECIPES: dict[str, tuple[str, str, str, Callable]] = {
    "lowest_a": ("Lowest fault current", "lowest_a", "A", lambda f: _current(f, True)),
    "highest_a": ("Highest fault current", "highest_a", "A", lambda f: _current(f, False)),
    "loop_ohm": ("Loop impedance, conductors hot", "loop_ohm", "Ω", _ohms),
    "longest_run_ft": ("Longest run", "longest_run_ft", "ft", _longest),
    "touch": ("Enclosure above the service bar", "touch_bar_v", "V", _touch),
    "heat": ("Heat used, worst conductor", "heat_used", "of its limit", _heat),
}
