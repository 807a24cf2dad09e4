"""Volts lost in an array's d.c. run, by the conventions that make two people disagree.

One says 55 ft, the other 110 ft; one takes copper at 25 °C, the other at 75 °C.
"""

from dataclasses import dataclass

from .. import conductor
from ..conductor import Wire
from ..errors import number_in
from ..vocabulary import Size

ADVICE = 0.03
COLD_C, HOT_C = 25.0, 75.0


@dataclass(frozen=True)
class DropRow:
    """One convention: its words, volts and share lost; ``is_ours`` the one that is meant here."""

    words: str
    volts: float
    share: float
    is_ours: bool


def drop_rows(
    amps: float, volts: float, length_ft: float, size: str, material: str = "copper"
) -> tuple[DropRow, ...]:
    """The four ways to state one run's drop, the meant one first (both wires, 75 °C)."""
    number_in(amps, "Current", 0, 4000, "A")
    number_in(volts, "Volts", 0, 2000, "V", above_low=True)
    number_in(length_ft, "One-way length", 0, 5000, "ft")
    wire = Wire(Size(size), material, "PVC")
    found = []
    for celsius in (HOT_C, COLD_C):
        ohm = conductor.impedance_per_kft(wire, celsius).real * length_ft / 1000
        for wires, words in ((2, "both wires"), (1, "one way only")):
            lost = amps * ohm * wires
            found.append(
                DropRow(
                    f"{words}, copper at {celsius:g} °C" if material == "copper"
                    else f"{words}, at {celsius:g} °C",
                    lost, lost / volts, wires == 2 and celsius == HOT_C,
                )
            )  # fmt: skip
    return tuple(found)
