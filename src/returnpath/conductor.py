"""Impedance of wires and steel raceways, and how long a conductor lives through a fault.

method 1 and 6; figures from NEC chapter 9 tables 8 and 9 (``tables/conductors.csv``), methods
from ``tables/methods.csv``, metals from ``tables/metals.csv``.
"""

import math
from dataclasses import dataclass, field
from functools import cache, lru_cache

from . import tables, working
from .errors import BadInput, number_in
from .vocabulary.units import FOOT_M, KM_PER_KFT
from .working import Working

REFERENCE_C = 75.0
SOLID_UP_TO = "8"  # 14–8 copper is solid in NM, UF and armored cable
AC_COLUMN_FROM = "1/0"  # from here up the larger of the d.c. and the a.c. column
METRIC_PER_K = 0.00393
METRIC_REFERENCE_C = 20.0
#: IEC conductors are stated hot at 70 and cold at 20 °C where American ones are at 75 and 25.
METRIC_C = {75.0: 70.0, 25.0: 20.0}
OPEN_WIRE_X = 0.0230
OPEN_WIRE_GMR = 0.78
STEEL_K = "raceway or armour beside PVC"


@dataclass(frozen=True, slots=True)
class Method:
    """How a run is wired: one row of methods.csv."""

    name: str
    label: str
    steel: bool
    ac_column: str
    small_copper_solid: bool
    rated_c: int  # the hottest ampacity column its conductors may be used in
    steel_return: str  # the raceway type whose wall can be the return, or ""
    carries_ground: bool
    rules: str  # whose: us, metric or both


@cache
def methods() -> dict[str, Method]:
    """Wiring methods by name."""
    return {
        row["method"]: Method(
            row["method"],
            row["label"],
            row["surroundings"] == "steel",
            row["ac_column"],
            row["small_copper_solid"] == "yes",
            int(row["rated_c"]),
            row["steel_return"],
            row["carries_ground"] == "yes",
            row["rules"],
        )
        for row in tables.rows("methods")
    }


def method(name: str) -> Method:
    """The method called ``name``; BadInput listing the known ones."""
    try:
        return methods()[name]
    except KeyError:
        listed = ", ".join(methods())
        raise BadInput(f"“{name}” is not a wiring method known here; {listed} are.") from None


@cache
def _metal(material: str) -> dict[str, float]:
    tables.known_material(material)
    row = next(r for r in tables.rows("metals") if r["material"] == material)
    return {k: float(v) for k, v in row.items() if k != "material"}


@dataclass(frozen=True, slots=True)
class Wire:
    """One conductor of a run: what it is, not how long.

    ``size`` AWG or kcmil as text; ``material`` copper or aluminum; ``method`` a key of
    methods.csv; ``sets`` conductors in parallel; ``solid`` True, False, or None for the usual
    make (solid for 14–8 copper in cable, stranded elsewhere); ``insulation`` a key of
    insulations.csv.
    """

    size: str
    material: str = "copper"
    method: str = "NM"
    sets: int = 1
    solid: bool | None = None
    insulation: str = "thermoplastic"
    _hash: int = field(init=False, repr=False, compare=False, default=0)

    def __hash__(self) -> int:
        return self._hash  # asked for ten times as often as one is made

    def __post_init__(self):
        facts = (self.size, self.material, self.method, self.sets, self.solid, self.insulation)
        object.__setattr__(self, "_hash", hash(facts))
        tables.known_size(self.size)
        tables.known_material(self.material)
        method(self.method)
        if self.is_metric:
            if tables.metric_conductors()[self.size][self.material] is None:
                raise BadInput(f"{tables.size_name(self.size)} is not made in {self.material}.")
        elif self.size not in (*tables.sizes(self.material), *tables.GROUND_ONLY):
            made = " ".join(tables.sizes(self.material))
            name = tables.size_name(self.size)
            raise BadInput(f"{name} is not made in {self.material}; {made} are.")
        number_in(self.sets, "Parallel sets", 1, 12)
        if self.insulation not in insulation_limits():
            listed = " and ".join(insulation_limits())
            raise BadInput(f"“{self.insulation}” is not an insulation known here; {listed} are.")

    @property
    def is_metric(self) -> bool:
        """Whether the size is in square millimetres: IEC 60228, 20 °C."""
        return tables.is_metric(self.size)

    @property
    def is_solid(self) -> bool:
        """Whether the d.c. resistance is read from the solid column."""
        if self.is_metric:
            return False
        has_column = tables.conductor(self.size).rdc_cu_solid is not None
        if self.material != "copper" or not has_column:
            return False
        return method(self.method).small_copper_solid if self.solid is None else self.solid

    @property
    def area_cmil(self) -> float:
        """Area of all sets together, circular mils."""
        return tables.area(self.size) * self.sets

    @property
    def name(self) -> str:
        """``"12 AWG copper"``, ``"2 × 4/0 AWG aluminum"``."""
        sets = f"{self.sets} × " if self.sets > 1 else ""
        return f"{sets}{tables.size_name(self.size)} {tables.metal_name(self.material)}"


def _resistance_75(wire: Wire) -> tuple[float, str]:
    """(ohms per 1,000 ft at 75 °C of one conductor, which column it came from)."""
    row = tables.conductor(wire.size)
    short = "cu" if wire.material == "copper" else "al"
    make = "solid" if wire.is_solid else "stranded"
    direct = getattr(row, f"rdc_{short}_{make}")
    if tables.area(wire.size) < tables.area(AC_COLUMN_FROM):
        return direct, f"d.c., {make}"
    column = method(wire.method).ac_column
    alternating = getattr(row, f"rac_{short}_{column}")
    if alternating is None or direct >= alternating:
        return direct, f"d.c., {make}"
    return alternating, f"a.c., {column.replace('_', ' ')}"


def _reactance(wire: Wire) -> float:
    """Ohms per 1,000 ft at 60 Hz of one conductor. Sizes without a figure take the next
    smaller size's, which is never lower."""
    column = "xl_steel" if method(wire.method).steel else "xl_pvc_or_al"
    found = None
    for row in tables.conductors().values():
        value = getattr(row, column)
        found = value if value is not None else found
        if row.size == wire.size:
            return found
    raise AssertionError(wire.size)  # pragma: no cover - Wire checked the size


def temperature_of(wire: Wire, celsius: float) -> float:
    """The temperature a study at ``celsius`` takes this wire at: metric ones at theirs."""
    return METRIC_C.get(celsius, celsius) if wire.is_metric else celsius


@lru_cache(maxsize=4096)
def impedance_per_kft(wire: Wire, temperature_c: float, frequency_hz: float = 60.0) -> complex:
    """Ohms per 1,000 ft: (R75·[1 + a·(T − 75)] + jX·f/60) / sets (method 1)."""
    temperature_c = temperature_of(wire, temperature_c)
    number_in(temperature_c, "Conductor temperature", -60, 400, "°C")
    number_in(frequency_hz, "Frequency", 40, 70, "Hz")
    if wire.is_metric:
        return _metric_per_kft(wire, temperature_c, frequency_hz)
    r75, _ = _resistance_75(wire)
    slope = _metal(wire.material)["per_k_at_75"]
    r = r75 * (1 + slope * (temperature_c - REFERENCE_C))
    return complex(r, _reactance(wire) * frequency_hz / 60.0) / wire.sets


def _metric_per_kft(wire: Wire, temperature_c: float, frequency_hz: float) -> complex:
    """R20·[1 + 0.00393·(T − 20)] + jX·f/50 an ohm per km, as ohms per 1,000 ft."""
    row = tables.metric_conductors()[wire.size]
    r = row[wire.material] * (1 + METRIC_PER_K * (temperature_c - METRIC_REFERENCE_C))
    return complex(r, row["x"] * frequency_hz / 50) * KM_PER_KFT / wire.sets


def open_wire_reactance_per_kft(wire: Wire, spacing_in: float, frequency_hz: float = 60.0) -> float:
    """X of a wire run apart from its return: 0.0230·(f/60)·ln(D/GMR) Ω/kft, GMR 0.78 radii."""
    number_in(spacing_in, "Spacing", 0.1, 1000, "in")
    radius_in = math.sqrt(tables.area(wire.size)) / 2000
    gmr = OPEN_WIRE_GMR * radius_in
    return OPEN_WIRE_X * frequency_hz / 60 * math.log(max(spacing_in / gmr, 1.0))


def impedance(
    wire: Wire, length_ft: float, temperature_c: float = REFERENCE_C, frequency_hz: float = 60.0
) -> complex:
    """Ohms of ``length_ft`` (one way) of ``wire``, each conductor with its own reactance."""
    number_in(length_ft, "Length", 0, 20_000, "ft")
    return impedance_per_kft(wire, temperature_c, frequency_hz) * length_ft / 1000.0


def impedance_working(
    wire: Wire, length_ft: float, temperature_c: float = REFERENCE_C, frequency_hz: float = 60.0
) -> Working:
    """``|Z|`` of a run in ohms, with the table row and the sum."""
    z = impedance(wire, length_ft, temperature_c, frequency_hz)
    temperature_c = temperature_of(wire, temperature_c)

    def recipe():
        yield from _run_steps()
        yield working.formula(f"|Z| = √({z.real:.6f}^2 + {z.imag:.6f}^2) = {abs(z):.6f} Ω")

    def _run_steps():
        if wire.is_metric:
            row = tables.metric_conductors()[wire.size]
            yield working.table(
                f"{wire.name}: {row[wire.material]:g} Ω/km at 20 °C, {row['x']:g} Ω/km",
                "IEC 60228",
            )
            yield working.formula(
                f"Z = {row[wire.material]:g}·[1 + {METRIC_PER_K:g}·({temperature_c:g} − 20)]"
                f" + j{row['x']:g}·{frequency_hz:g}/50, × {length_ft * FOOT_M:.1f} m"
                f" / 1,000 / {wire.sets} set(s) = {z.real:.4f} + j{z.imag:.4f} Ω",
                "method 2",
            )
            return
        r75, column = _resistance_75(wire)
        x = _reactance(wire)
        slope = _metal(wire.material)["per_k_at_75"]
        yield working.table(
            f"{wire.name}, {method(wire.method).label}: {r75:g} Ω/1,000 ft at 75 °C ({column}),"
            f" reactance {x:g} Ω/1,000 ft at 60 Hz",
            "NEC chapter 9 tables 8 and 9",
        )
        yield working.formula(
            f"Z = ({r75:g}·[1 + {slope:g}·({temperature_c:g} − 75)] + j{x:g}·{frequency_hz:g}/60)"
            f" × {length_ft:g} ft / 1,000 / {wire.sets} set(s)"
            f" = {z.real:.4f} + j{z.imag:.4f} Ω",
            "method 1",
        )

    return Working(f"{length_ft:g} ft of {wire.name}", abs(z), "Ω", recipe)


def raceway_row(kind: str, trade_size: str) -> dict[str, str]:
    """The row of raceway_steel.csv; BadInput listing the trade sizes of ``kind``."""
    known = [r for r in tables.rows("raceway_steel") if r["type"] == kind]
    if not known:
        raise BadInput(f"“{kind}” is not a steel raceway; EMT, IMC and RMC are.")
    for row in known:
        if row["trade_size_in"] == trade_size:
            return row
    listed = " ".join(r["trade_size_in"] for r in known)
    raise BadInput(f"“{trade_size}” is not a trade size of {kind}; {listed} are (inches).")


def raceway_impedance(kind: str, trade_size: str, length_ft: float) -> complex:
    """Ohms of a steel raceway as the return, method 1: an estimate, not scaled with temperature."""
    row = raceway_row(kind, trade_size)
    number_in(length_ft, "Length", 0, 20_000, "ft")
    per_kft = complex(
        float(row["r_return_est_ohm_per_kft"]), float(row["x_return_est_ohm_per_kft"])
    )
    return per_kft * length_ft / 1000.0


@cache
def insulation_limits() -> dict[str, float]:
    """insulation → the conductor temperature it lives through for a moment, °C."""
    return {r["insulation"]: float(r["limit_c"]) for r in tables.rows("insulations")}


def withstand_s(wire: Wire, amps: float) -> float:
    """Longest time ``wire`` (all sets) carries ``amps`` from 75 °C to its insulation's limit, s.

    c·log10[(T2 + b)/(T1 + b)]·(A/I)², A in circular mils. method 6. ``math.inf`` at 0 A.
    """
    number_in(amps, "Current", 0, 1e7, "A")
    return math.inf if amps == 0 else withstand_i2t(wire) / amps**2


@lru_cache(maxsize=1024)
def withstand_i2t(wire: Wire) -> float:
    """The ampere-squared-seconds ``wire`` lives through (method 6)."""
    if wire.is_metric:
        mm2 = tables.metric_conductors()[wire.size]["mm2"] * wire.sets
        return (_metric_k(wire) * mm2) ** 2
    metal = _metal(wire.material)
    b = metal["heat_offset_c"]
    limit = insulation_limits()[wire.insulation]
    rise = math.log10((limit + b) / (REFERENCE_C + b))
    return metal["heat_coefficient"] * rise * wire.area_cmil**2


def _metric_k(wire: Wire) -> float:
    """k of adiabatic_k.csv for a conductor in its cable."""
    wanted = "thermoset" if wire.insulation == "thermoset" else "thermoplastic"
    for row in tables.rows("adiabatic_k"):
        kind = row["insulation"]
        if row["material"] == wire.material and kind.startswith(wanted) and "cable" in kind:
            return float(row["k_a_sqrt_s_per_mm2"])
    raise AssertionError(wire)  # pragma: no cover - both metals have both rows


@cache
def raceway_i2t(kind: str, trade_size: str) -> float:
    """The ampere-squared-seconds a steel raceway's wall lives through: (k·S)², S in mm²."""
    row = raceway_row(kind, trade_size)
    outside, wall = float(row["outside_diameter_in"]), float(row["wall_in"])
    section_mm2 = math.pi * (outside - wall) * wall * 25.4**2
    k = next(
        float(r["k_a_sqrt_s_per_mm2"])
        for r in tables.rows("adiabatic_k")
        if r["material"] == "steel" and r["insulation"] == STEEL_K
    )
    return (k * section_mm2) ** 2
