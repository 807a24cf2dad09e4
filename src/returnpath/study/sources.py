"""Which source serves which study (method 2 and 4).

Known plate figures serve every study; the interrupting check takes a known %Z at 0.9. An assumed
impedance is taken 25 % higher for the lowest current, and for the interrupting check at 1.2 %
(or 0.9 of assumed ohms). An available fault current is the utility's maximum: it serves the
highest study, and the lowest only where it proves the weaker of the two. Ohms that were entered
(R1, X1) serve every source and every study: kVA and %Z never stand in for them.
"""

import cmath
import math
from dataclasses import dataclass, replace
from typing import NamedTuple

from .. import supply
from ..assume import Assumed
from ..network.build import run_ohm, service_wire, wire_ohm
from ..site import Supply
from ..site.chain import Chain
from ..supply import Source, Transformer
from ..vocabulary import FactPath, System

LEAST_OHM = 1e-4  # a source of no impedance at all is none


@dataclass(frozen=True, slots=True)
class Sources:
    """The source of each study of one supply; ``lowest`` None where it is not known."""

    supply: Supply
    highest: Source
    lowest: Source | None
    interrupting: Source
    plate_assumed: bool
    why_not: str = ""


def choose(assumed: Assumed, unit: Supply) -> Sources:
    """The sources of one supply of a site whose gaps are filled."""
    if unit.kind in SMALL:
        return _turned(_small(assumed, unit))
    if _system(unit).has_centre_tap:
        return _turned(_split(assumed, unit))
    return _phases(assumed, unit)


#: Sources of a place's own: what is told of them is their own figure, no maximum of a network's.
SMALL = ("generator", "inverter", "transformer")


def _turned(found: Sources) -> Sources:
    """The same with the high leg where the supply has it."""
    high = found.supply.high_line
    if not high or high == System.HIGH_LEG.high_leg:
        return found
    lowest = found.lowest and replace(found.lowest, high_leg=high)
    highest, most = (replace(x, high_leg=high) for x in (found.highest, found.interrupting))
    return replace(found, highest=highest, lowest=lowest, interrupting=most)


def _is_assumed(assumed: Assumed, unit: Supply, fact: str) -> bool:
    return assumed.find(FactPath.of(unit.id, fact)) is not None


def _system(unit: Supply) -> System:
    """The system of a supply whose gaps are filled."""
    assert unit.system is not None
    return unit.system


def _plate(unit: Supply) -> tuple[float, float, float]:
    """(kVA, %Z, X/R) of a source whose gaps are filled."""
    assert unit.kva is not None and unit.percent_z is not None and unit.x_over_r is not None
    return unit.kva, unit.percent_z, unit.x_over_r


def _small(assumed: Assumed, unit: Supply) -> Sources:
    """A generator, an islanded inverter or a transformer of the place's own: one source for every
    study, limited if it is. Entered ohms go before a stated current, that before its plate: the
    weaker of a stated current and a plate that is known serves the lowest study."""
    limit = None
    if unit.limit is not None:
        halves = 2 if _system(unit).has_centre_tap else _system(unit).phases
        limit = unit.limit * (unit.kva or 0.0) * 1000 / (halves * _system(unit).volts)
    low = high = _entered(unit) or _plate_of(unit)
    if unit.kind == "transformer":
        ahead = primary_ohms(assumed, unit)
        low, high = (_reflected(source, z, ahead.volts) for source, z in
                     ((low, ahead.hot), (high, ahead.cold)))  # fmt: skip
    if unit.fault_a is not None:
        stated = _stated(unit)
        known = _entered(unit) is not None or not _is_assumed(assumed, unit, "kva")
        both = [stated, low] if known else [stated]
        low, high = (end(both, key=_gives) for end in (min, max))
    low, high = replace(low, limit_a=limit), replace(high, limit_a=limit)
    return Sources(unit, high, low, high, plate_assumed=False)


class PrimaryAhead(NamedTuple):
    """What is ahead of a transformer's primary: the ohms between its two lines, hot and cold, and
    the volts between them."""

    hot: complex
    cold: complex
    volts: float


def primary_ohms(assumed: Assumed, unit: Supply) -> PrimaryAhead:
    """From the utility's source through service and feeders to the circuit that feeds it. None of
    it where nobody said which circuit does: its plate alone."""
    site, ends = assumed.site, []
    main = site.supply
    circuit = next((c for c in site.circuits if c.id == unit.fed_by), None)
    poles = min((circuit.poles if circuit else None) or 2, _system(main).lines)
    volts = _system(main).rated_volts(poles)
    if circuit is None or circuit.line_size is None or main.id == unit.id:
        return PrimaryAhead(0j, 0j, volts)
    first = choose(assumed, main)
    feeders, service = Chain(site, main).up(circuit.panel)
    hz = float(site.frequency_hz)
    for source, celsius in ((first.lowest or first.highest, 75.0), (first.highest, 25.0)):
        between = 4 * source.z0 + 2 * source.z1 if _system(main).has_centre_tap else 2 * source.z1
        wires = run_ohm(circuit, celsius, hz)
        wires += sum(run_ohm(f, celsius, hz) for f in feeders if f.line_size is not None)
        if service is not None and service.line_size is not None:
            wires += wire_ohm(service_wire(service), service.length_ft or 0.0, celsius, hz)
        ends.append(between + 2 * wires)
    return PrimaryAhead(ends[0], ends[1], volts)


def _reflected(source: Source, ahead: complex, volts: float) -> Source:
    """A transformer's source with what is ahead of its primary, in the secondary's ohms."""
    turned = ahead * (source.volts / volts) ** 2
    if source.system.has_centre_tap:
        return replace(source, z0=source.z0 + turned, transformer=None)
    return replace(source, z1=source.z1 + turned, transformer=None)


def _gives(source: Source) -> float:
    return source.line_to_neutral_a


def _plate_of(unit: Supply) -> Source:
    """From kVA, %Z and X/R."""
    if _system(unit).has_centre_tap:
        return supply.of_transformer(Transformer(*_plate(unit)), _system(unit))
    kva, percent_z, x_over_r = _plate(unit)
    source = _of_plate(_system(unit), percent_z, kva, x_over_r)
    return _with_zero_sequence(source, unit)


def _entered(unit: Supply) -> Source | None:
    """From R1 and X1; None where neither was entered."""
    if unit.r1_ohm is None and unit.x1_ohm is None:
        return None
    z1 = complex(unit.r1_ohm or 0.0, unit.x1_ohm or 0.0) or complex(LEAST_OHM)
    if not _system(unit).has_centre_tap:
        return _with_zero_sequence(supply.of_phases(_system(unit), _system(unit).volts, z1), unit)
    common = None
    if unit.r0_ohm is not None or unit.x0_ohm is not None:
        common = complex(unit.r0_ohm or 0.0, unit.x0_ohm or 0.0)
    return supply.of_ohms(_system(unit), z1, common)


def _stated(unit: Supply) -> Source:
    """The source that gives a stated current at its terminals."""
    if not _system(unit).has_centre_tap:
        return _stated_phases(unit)
    kind = unit.fault_kind or "line to neutral"
    plate = supply.from_available_current(unit.fault_a, kind, unit.x_over_r or 1.0)
    return supply.of_transformer(plate, _system(unit))


def _of_plate(system: System, percent_z: float, kva: float, x_over_r: float) -> Source:
    base = system.phases * system.volts**2 / (kva * 1000)
    return supply.of_phases(system, system.volts, _z(percent_z / 100 * base, x_over_r))


def _z(ohm: float, x_over_r: float) -> complex:
    r = ohm / math.hypot(1, x_over_r)
    return complex(r, r * x_over_r)


def _split(assumed: Assumed, unit: Supply) -> Sources:
    """A centre-tapped transformer from its plate, or from ohms that were entered."""
    made = _entered(unit)
    if made is not None:
        if unit.fault_a is None:
            return Sources(unit, made, made, made, plate_assumed=False)
        highest = max(made, _stated(unit), key=_gives)
        return Sources(unit, highest, made, highest, plate_assumed=False)
    plate = Transformer(unit.kva, unit.percent_z, unit.x_over_r, unit.primary_mva)
    is_assumed = _is_assumed(assumed, unit, "percent_z")
    low, most = _percents(plate.percent_z, is_assumed)
    lowest, highest, interrupting = (
        supply.of_transformer(replace(plate, percent_z=p), unit.system)
        for p in (low, plate.percent_z, most)
    )
    if unit.fault_a is None:
        return Sources(unit, highest, lowest, interrupting, is_assumed)
    return _with_stated(
        assumed, unit, _stated(unit), lowest, is_assumed, f"{unit.kva:g} kVA transformer"
    )


def _percents(percent_z: float, is_assumed: bool) -> tuple[float, float]:
    """(%Z of the lowest study, %Z of the interrupting check)."""
    if is_assumed:
        return percent_z * supply.ASSUMED_LOWEST_FACTOR, supply.INTERRUPTING_PERCENT_Z
    return percent_z, percent_z * supply.KNOWN_INTERRUPTING_FACTOR


def _phases(assumed: Assumed, unit: Supply) -> Sources:
    """Three-phase and 230 V supplies: Z1 and Z0 as entered, from a plate, or a weak network."""
    own = _own_phases(assumed, unit)
    if own is None:
        stated = _stated_phases(unit)
        why = "The utility's fault current is a maximum: enter its impedance for the lowest study."
        return Sources(unit, stated, None, stated, True, why)
    lowest, highest, interrupting, is_assumed = own
    if unit.fault_a is None:
        return Sources(unit, highest, lowest, interrupting, is_assumed)
    return _with_stated(assumed, unit, _stated_phases(unit), lowest, is_assumed, "network")


def _stated_phases(unit: Supply) -> Source:
    """The source that gives the utility's stated current at its terminals."""
    system = _system(unit)
    between = unit.fault_kind == "line to line" and system.lines > 1
    volts = system.volts_between / 2 if between else system.volts
    ohm = cmath.rect(volts / unit.fault_a, math.atan(unit.x_over_r or 1.0))
    return supply.of_phases(system, system.volts, ohm)


def _own_phases(assumed: Assumed, unit: Supply) -> tuple[Source, Source, Source, bool] | None:
    """(lowest, highest, interrupting, whether its impedance is assumed); None where only the
    utility's current is known."""
    system = _system(unit)
    ohms = unit.r1_ohm is not None or unit.x1_ohm is not None
    if unit.kva is not None and not ohms:
        is_assumed = _is_assumed(assumed, unit, "percent_z")
        low, most = _percents(unit.percent_z, is_assumed)
        made = [_of_plate(system, p, unit.kva, unit.x_over_r) for p in (low, unit.percent_z, most)]
        made = [_with_zero_sequence(_behind_primary(s, unit), unit) for s in made]
        return made[0], made[1], made[2], is_assumed
    source = _entered(unit)
    if source is None:
        return None
    is_assumed = _is_assumed(assumed, unit, "r1_ohm")
    if not is_assumed:
        return source, source, source, False
    return (
        _scaled(source, supply.ASSUMED_LOWEST_FACTOR),
        source,
        _scaled(source, supply.KNOWN_INTERRUPTING_FACTOR),
        True,
    )


def _behind_primary(source: Source, unit: Supply) -> Source:
    """The primary's short-circuit level ahead of a plate, in the lines' own ohms."""
    if unit.primary_mva is None:
        return source
    system = _system(unit)
    ohm = 1j * system.phases * system.volts**2 / (unit.primary_mva * 1e6)
    return replace(source, z1=source.z1 + ohm, z0=source.z0 + ohm)


def _with_zero_sequence(source: Source, unit: Supply) -> Source:
    """Z0 as entered; Z1 stands for it where it is not."""
    if unit.r0_ohm is None and unit.x0_ohm is None:
        return source
    return replace(source, z0=complex(unit.r0_ohm or 0.0, unit.x0_ohm or 0.0))


def _scaled(source: Source, factor: float) -> Source:
    return replace(source, z1=source.z1 * factor, z0=source.z0 * factor)


def _with_stated(assumed, unit, stated: Source, low: Source, plate_assumed, what) -> Sources:
    """A utility's stated maximum beside its plate: the maximum serves the highest study."""
    if stated.line_to_neutral_a >= low.line_to_neutral_a:
        return Sources(unit, stated, low, stated, plate_assumed)
    if not _is_assumed(assumed, unit, "kva"):
        # The plate is known and the utility says less reaches it: the weaker source decides.
        return Sources(unit, stated, stated, stated, plate_assumed)
    why = (
        f"The utility's {unit.fault_a:,.0f} A is a maximum and less than an assumed {what} gives:"
        " enter the transformer's kVA."
    )
    return Sources(unit, stated, None, stated, plate_assumed, why)
