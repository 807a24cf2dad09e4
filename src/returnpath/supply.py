"""The centre-tapped transformer ahead of a dwelling, and what stands in for it. method 2.

              Z1
    L1 o----[   ]---(E)---+
                          |
    N  o----[Z0 ]---------+      each half: v = E − (Z0 + Z1)·i − Z0·i(other)
                          |
    L2 o----[   ]---(E)---+
              Z1

Line-to-neutral sees Z0 + Z1 = 1.5R + j1.2X, line-to-line 4(R + jX), on the 120 V base.
"""

import cmath
import math
from dataclasses import dataclass

from . import tables
from .errors import number_in
from .vocabulary import System

#: %Z for the interrupting check when the plate is not known, and how much an assumed or a known
#: %Z is moved for the studies that need the worse end (method 2 and 4).
INTERRUPTING_PERCENT_Z = 1.2
ASSUMED_LOWEST_FACTOR = 1.25
KNOWN_INTERRUPTING_FACTOR = 0.9
NOMINAL_PERCENT_Z = 2.0  # of the stand-in for a known fault current; its kVA makes up for it


@dataclass(frozen=True, slots=True)
class Transformer:
    """A centre-tapped single-phase transformer seen from its 120/240 V terminals.

    ``kva`` rating; ``percent_z`` impedance at the site's frequency, %; ``x_over_r`` reactance to
    resistance; ``primary_mva`` single-phase short-circuit level ahead of it, None for infinite;
    ``volts`` line to neutral.
    """

    kva: float
    percent_z: float
    x_over_r: float
    primary_mva: float | None = None
    volts: float = 120.0

    def __post_init__(self):
        number_in(self.kva, "Transformer size", 0.1, 5000, "kVA")
        number_in(self.percent_z, "Transformer impedance", 0.05, 100, "%")
        number_in(self.x_over_r, "Transformer X/R", 0, 50)
        number_in(self.volts, "Voltage to neutral", 50, 400, "V")
        if self.primary_mva is not None:
            number_in(self.primary_mva, "Primary short-circuit level", 0.05, 1e6, "MVA")

    @property
    def base_ohm(self) -> float:
        """volts²/VA, ohms."""
        return self.volts**2 / (self.kva * 1000)

    @property
    def r_x_ohm(self) -> tuple[float, float]:
        """(R, X) in ohms on the line-to-neutral base."""
        r = self.percent_z / math.hypot(1, self.x_over_r) / 100 * self.base_ohm
        return r, r * self.x_over_r

    @property
    def z0(self) -> complex:
        """Common part, ohms: 0.5R + j0.8X, plus jZp of the primary."""
        r, x = self.r_x_ohm
        primary = 0 if self.primary_mva is None else self.volts**2 / (self.primary_mva * 1e6)
        return complex(0.5 * r, 0.8 * x + primary)

    @property
    def z1(self) -> complex:
        """Each half winding, ohms: R + j0.4X."""
        r, x = self.r_x_ohm
        return complex(r, 0.4 * x)

    @property
    def line_to_neutral_a(self) -> float:
        """Fault current at its terminals, line to neutral, A."""
        return self.volts / abs(self.z0 + self.z1)

    @property
    def line_to_line_a(self) -> float:
        """Fault current at its terminals, line to line, A."""
        return 2 * self.volts / abs(4 * self.z0 + 2 * self.z1)


@dataclass(frozen=True)
class Source:
    """A source as coupled ports: what a network needs of it.

    ``system`` a key of the site's systems; ``volts`` line to neutral; for a split-phase system
    ``z0`` common and ``z1`` each half; else Z1 and Z0 of the phases. ``limit_a`` the most it
    gives a line, None without a limit; ``high_leg`` which line of a four-wire delta is not on the
    centre-tapped winding.
    """

    system: System
    volts: float
    z0: complex
    z1: complex
    limit_a: float | None = None
    transformer: Transformer | None = None
    high_leg: int = 2

    @property
    def line_to_neutral_a(self) -> float:
        """Fault current at its terminals, line to neutral, A."""
        return self.volts / abs(self._earth_fault_ohm())

    def _earth_fault_ohm(self) -> complex:
        if self.system.has_centre_tap:
            return self.z0 + self.z1
        return (2 * self.z1 + self.z0) / 3

    def ports(self, unit: str, factor: float = 1.0):
        """[(suffix, ports, volts, common ohms, own ohms)] of coupled windings.

        ``unit`` names the nodes (``u1.L1``); ``factor`` scales the driving voltage.
        """
        volts = self.volts * factor
        line = [f"{unit}.L{n}" for n in (1, 2, 3)]
        neutral = f"{unit}.N"
        if self.system.has_centre_tap:
            high = self.high_leg - 1 if self.system is System.HIGH_LEG else 2
            first, second = (end for n, end in enumerate(line) if n != high)
            halves = ((first, neutral), (neutral, second))
            found = [("", halves, (volts, volts), self.z0, self.z1)]
            if self.system is System.HIGH_LEG:
                # An open delta: the high leg hangs on a second transformer across the second line.
                third = 2 * volts * cmath.exp(1j * math.pi / 3)
                own = 4 * self.z0 + 2 * self.z1
                found.append((".third", ((line[high], second),), (third,), 0j, own))
            return found
        if self.system is System.SINGLE_230:
            return [("", ((line[0], neutral),), (volts,), 0j, self._earth_fault_ohm())]
        turns = [volts * cmath.exp(-2j * math.pi * n / 3) for n in range(3)]
        ports = tuple((end, neutral) for end in line)
        return [("", ports, tuple(turns), (self.z0 - self.z1) / 3, self.z1)]


def of_transformer(plate: Transformer, system: System, limit_a: float | None = None) -> Source:
    """The source of a centre-tapped transformer, or of a generator or inverter taken as one."""
    return Source(System(system), plate.volts, plate.z0, plate.z1, limit_a, plate)


def of_phases(system: System, volts: float, z1: complex, z0: complex | None = None) -> Source:
    """A three-phase or 230 V source from Z1 = Z2 and Z0 (Z1 unless given), ohms."""
    number_in(abs(z1), "Source impedance", 0, 100, "Ω", above_low=True)
    return Source(System(system), volts, z1 if z0 is None else z0, z1)


def of_ohms(system: System, z: complex, common: complex | None = None) -> Source:
    """The source of a centre-tapped winding whose ohms were entered.

    ``z`` what a line-to-neutral fault at its terminals meets, shared between the common part and a
    half as a transformer's is (method 2: 0.5R + j0.8X of 1.5R + j1.2X); where the ``common`` part
    is entered too, ``z`` is each half's own.
    """
    number_in(abs(z), "Source impedance", 0, 200, "Ω", above_low=True)
    if common is None:
        common = complex(z.real / 3, z.imag * 2 / 3)
        z -= common
    return Source(System(system), System(system).volts, common, z)


def typical(kva: float) -> tuple[float, float]:
    """(percent Z, X/R) typical of a pole transformer of ``kva`` (the nearest row of the table)."""
    number_in(kva, "Transformer size", 0.1, 5000, "kVA")
    row = min(
        tables.rows("transformer_1ph_pole"), key=lambda r: abs(math.log(float(r["kva"]) / kva))
    )
    return float(row["percent_z_typical"]), float(row["x_over_r_typical"])


def from_available_current(
    amps: float, kind: str, x_over_r: float, volts: float = 120.0
) -> Transformer:
    """The transformer whose terminals give ``amps``: the source of the highest study.

    ``kind`` "line to line" or "line to neutral"; ``x_over_r`` of the source. Utilities state a
    maximum, so this may serve a highest study only. Its kVA and %Z mean nothing apart.
    """
    number_in(amps, "Available fault current", 50, 200_000, "A")
    unit = Transformer(1.0, NOMINAL_PERCENT_Z, x_over_r, volts=volts)
    per_kva = unit.line_to_line_a if kind == "line to line" else unit.line_to_neutral_a
    return Transformer(amps / per_kva, NOMINAL_PERCENT_Z, x_over_r, volts=volts)
