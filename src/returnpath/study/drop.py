"""Voltage drop: the formula for a run, and what each load really sees. method 9.

I·2·(R·cos φ + X·sin φ) for two wires, one-way length doubled by the sum, 75 °C stated.
"""

import math
from dataclasses import dataclass

from ..network.build import run_ohm
from .spine import HOT_C
from .states import States

BRANCH_ADVICE, WHOLE_ADVICE = 0.03, 0.05  # advice, not limits, unless local practice says so


@dataclass(frozen=True, slots=True)
class Drop:
    """One circuit's drop: ``amps`` of its load, ``volts`` and ``share`` in its own run."""

    circuit: str
    amps: float
    volts: float
    share: float


def run_drop(amps: float, ohm: complex, power_factor: float, wires: int = 2) -> float:
    """Volts lost in a run of ``wires`` conductors of ``ohm`` each."""
    sin = math.sqrt(max(1 - power_factor**2, 0.0))
    factor = math.sqrt(3) if wires == 3 else 2
    return amps * factor * (ohm.real * power_factor + ohm.imag * sin)


def drops(states: States) -> tuple[Drop, ...]:
    """The drop in every circuit's own run at its load (a third of its breaker where unknown)."""
    site, found = states.site, []
    legs = states.wiring.legs
    hz = float(site.frequency_hz)
    for circuit in site.circuits:
        if not circuit.load_va or circuit.line_size is None:
            continue
        poles = len(legs[circuit.id])
        volts = states.sources.highest.system.rated_volts(poles)
        phases = math.sqrt(3) if poles == 3 else 1
        amps = circuit.load_va / (volts * phases)
        ohm = run_ohm(circuit, HOT_C, hz)
        lost = run_drop(amps, ohm, circuit.power_factor or 1.0, 3 if poles == 3 else 2)
        found.append(Drop(circuit.id, amps, lost, lost / volts))
    return tuple(found)
