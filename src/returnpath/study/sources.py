"""Which source serves which study. METHOD 2.

Known plate figures serve every study. Assumed ones are taken 25 % higher for the lowest current
and 1.2 % for the interrupting check. An available fault current is the utility's maximum: it
serves the highest study, and the lowest only where it proves the weaker of the two.
"""

import cmath
import math
from dataclasses import dataclass, replace

from .. import supply
from ..assume import Assumed
from ..site import Supply
from ..supply import Source, Transformer

LEAST_OHM = 1e-4  # a source of no impedance at all is none
VOLTS = {"230": 230.0, "400/230": 230.0}


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
    if unit.kind in ("generator", "inverter"):
        return _small(unit)
    if unit.system in ("120/240 split", "120/240 high-leg"):
        return _split(assumed, unit)
    return _phases(assumed, unit)


def _small(unit: Supply) -> Sources:
    """A generator or an islanded inverter: one source for every study, limited if it is."""
    volts = VOLTS.get(unit.system, 120.0)
    if unit.system in ("120/240 split", "120/240 high-leg"):
        plate = Transformer(unit.kva, unit.percent_z, unit.x_over_r)
        limit = None if unit.limit is None else unit.limit * unit.kva * 1000 / (2 * volts)
        source = supply.of_transformer(plate, unit.system, limit)
    else:
        phases = 1 if unit.system == "230" else 3
        base = phases * volts**2 / (unit.kva * 1000)
        z = _z(unit.percent_z / 100 * base, unit.x_over_r)
        limit = None if unit.limit is None else unit.limit * unit.kva * 1000 / (phases * volts)
        source = replace(supply.of_phases(unit.system, volts, z), limit_a=limit)
    return Sources(unit, source, source, source, plate_assumed=False)


def _z(ohm: float, x_over_r: float) -> complex:
    r = ohm / math.hypot(1, x_over_r)
    return complex(r, r * x_over_r)


def _split(assumed: Assumed, unit: Supply) -> Sources:
    plate = Transformer(unit.kva, unit.percent_z, unit.x_over_r, unit.primary_mva)
    impedance_assumed = assumed.find(f"{unit.id}.percent_z") is not None
    if impedance_assumed:
        lowest = replace(plate, percent_z=plate.percent_z * supply.ASSUMED_LOWEST_FACTOR)
        interrupting = replace(plate, percent_z=supply.INTERRUPTING_PERCENT_Z)
    else:
        lowest = plate
        interrupting = replace(plate, percent_z=plate.percent_z * supply.KNOWN_INTERRUPTING_FACTOR)
    low, high, most = (supply.of_transformer(t, unit.system) for t in (lowest, plate, interrupting))
    if unit.fault_a is None:
        return Sources(unit, high, low, most, impedance_assumed)
    stated = supply.of_transformer(
        supply.from_available_current(unit.fault_a, unit.fault_kind, unit.x_over_r), unit.system
    )
    return _with_stated(
        assumed, unit, stated, low, impedance_assumed, f"{unit.kva:g} kVA transformer"
    )


def _phases(assumed: Assumed, unit: Supply) -> Sources:
    """Three-phase and 230 V supplies: Z1 and Z0 as entered, from a plate, or a weak network."""
    volts = VOLTS.get(unit.system, 120.0)
    phases = 1 if unit.system == "230" else 3
    assumed_plate = assumed.find(f"{unit.id}.r1_ohm") is not None
    if unit.kva is not None:
        percent = unit.percent_z if unit.percent_z is not None else 4.0
        z1 = _z(percent / 100 * phases * volts**2 / (unit.kva * 1000), unit.x_over_r or 1.0)
        assumed_plate = unit.percent_z is None
    elif unit.r1_ohm is not None or unit.x1_ohm is not None:
        z1 = complex(unit.r1_ohm or 0.0, unit.x1_ohm or 0.0) or complex(LEAST_OHM)
    else:
        z1 = 0j
    z0 = None
    if unit.r0_ohm is not None or unit.x0_ohm is not None:
        z0 = complex(unit.r0_ohm or 0.0, unit.x0_ohm or 0.0)
    own = supply.of_phases(unit.system, volts, z1, z0) if z1 else None
    if unit.fault_a is None:
        return Sources(unit, own, own, own, assumed_plate)
    per_amp = volts if unit.fault_kind == "line to neutral" else volts * math.sqrt(3) / 2
    stated = supply.of_phases(
        unit.system, volts, cmath.rect(per_amp / unit.fault_a, math.atan(unit.x_over_r or 1.0))
    )
    if own is None:
        why = "The utility's fault current is a maximum: enter its impedance for the lowest study."
        return Sources(unit, stated, None, stated, True, why)
    return _with_stated(assumed, unit, stated, own, assumed_plate, "network")


def _with_stated(assumed, unit, stated: Source, low: Source, plate_assumed, what) -> Sources:
    """A utility's stated maximum beside its plate: the maximum serves the highest study."""
    if stated.line_to_neutral_a >= low.line_to_neutral_a:
        return Sources(unit, stated, low, stated, plate_assumed)
    if assumed.find(f"{unit.id}.kva") is None and assumed.find(f"{unit.id}.r1_ohm") is None:
        # The plate is known and the utility says less reaches it: the weaker source decides.
        return Sources(unit, stated, stated, stated, plate_assumed)
    fact = "the transformer's kVA" if unit.kva is not None else "its impedance"
    why = (
        f"The utility's {unit.fault_a:,.0f} A is a maximum and less than an assumed {what} gives:"
        f" enter {fact}."
    )
    return Sources(unit, stated, None, stated, plate_assumed, why)
