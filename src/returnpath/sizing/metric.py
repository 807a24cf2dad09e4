"""Sizes of the metric rule set (IEC 60364 family). Plain values in, Working out. method 15.

Figures from ``tables/ampacity_metric.csv``, ``conductors_metric.csv``, ``adiabatic_k.csv`` and
``main_bonding_pen.csv``. What local practice adds is not here.
"""

import math
from functools import cache, lru_cache

from .. import tables, working
from ..conductor import METRIC_PER_K
from ..device import Breaker, residual_device_slow_s
from ..errors import BadInput, number_in
from ..vocabulary import Size
from ..vocabulary.sizes import METRIC
from ..working import Working, figures

C_MIN = 0.95
#: The old rule of thumb for a loop measured at room temperature.
MEASURED_SHARE = 0.8
HOT_C, AMBIENT_C = 70.0, 20.0
FEWEST_LOADED, MOST_LOADED = 2, 3


def _name(mm2: float) -> Size:
    return Size(f"{mm2:g}{METRIC}")


@cache
def _made() -> tuple[float, ...]:
    return tuple(float(s.removesuffix(METRIC)) for s in tables.metric_conductors())


def next_made(mm2: float) -> float:
    """The next size that is made, mm²."""
    return next((m for m in _made() if m >= mm2 - 1e-9), math.ceil(mm2))


@lru_cache(maxsize=4096)
def current_capacity(size: str, insulation: str, loaded: int, reference: str) -> float:
    """Iz of a copper cable with ``loaded`` conductors (2 or 3) in method A1, B1, B2, C or D1, A.

    BadInput past the table. Ungrouped, 30 °C in air, 20 °C in the ground.
    """
    kind = "XLPE" if insulation == "thermoset" and loaded == FEWEST_LOADED else "PVC"
    for row in tables.rows("ampacity_metric"):
        same = f"{row['size_mm2']}{METRIC}" == size and int(row["loaded"]) == loaded
        if same and row["insulation"] == kind:
            return float(row[f"method_{reference.lower()}"])
    raise BadInput(f"There is no current-carrying capacity for {Size(size).name} here.")


def sizes_with_capacity() -> tuple[str, ...]:
    """The sizes the table of capacities has, smallest first."""
    found = (f"{r['size_mm2']}{METRIC}" for r in tables.rows("ampacity_metric"))
    return tuple(dict.fromkeys(found))


@lru_cache(maxsize=1024)
def smallest_metric_line(
    device_a: float, insulation: str = "thermoplastic", loaded: int = 2, reference: str = "C"
) -> Working:
    """The smallest copper line whose Iz is at least In: In ≤ Iz."""
    number_in(device_a, "Device rating", 0, 6000, "A", above_low=True)
    for size in sizes_with_capacity():
        if (most := current_capacity(size, insulation, loaded, reference)) >= device_a:
            break
    else:
        raise BadInput(f"The table of capacities ends below {device_a:g} A: use the standard's.")
    return working.of(
        f"Smallest line conductor for {device_a:g} A",
        Size(size),
        "",
        working.table(
            f"{Size(size).name} copper, method {reference}, {loaded} loaded: Iz {most:g} A",
            "IEC 60364-5-52",
        ),
        working.note("30 °C in air, 20 °C in the ground, one circuit alone, not in insulation."),
        working.formula(f"In {device_a:g} A ≤ Iz {most:g} A", tables.iec_section("overload")),
    )


@lru_cache(maxsize=256)
def protective_by_table(line: str) -> Working:
    """The protective conductor by the line's size: S to 16 mm², 16 to 35 mm², S/2 above."""
    mm2 = float(Size(line).number)
    needed = mm2 if mm2 <= 16 else 16.0 if mm2 <= 35 else next_made(mm2 / 2)
    step = (
        f"up to 16 mm² the same: {mm2:g} mm²"
        if mm2 <= 16
        else "over 16 to 35 mm²: 16 mm²"
        if mm2 <= 35
        else f"over 35 mm² half of it: {mm2 / 2:g} mm², the next made {needed:g} mm²"
    )
    rule = working.table(f"{Size(line).name} line, {step}", tables.iec_section("protective_size"))
    return working.of("Protective conductor by the table", _name(needed), "", rule)


def protective_by_heat(
    amps: float,
    seconds: float,
    k: float,
    mechanically_protected: bool = True,
    separate: bool = False,
) -> Working:
    """The protective conductor by heat: S ≥ √(I²t)/k; a separate one never under 2.5 mm²
    protected, 4 mm² not."""
    number_in(amps, "Current", 0, 1e6, "A")
    number_in(seconds, "Time", 0, 5, "s")
    number_in(k, "k", 1, 300, "A√s/mm²")
    exact = math.sqrt(amps**2 * seconds) / k
    floor = (2.5 if mechanically_protected else 4.0) if separate else 0.0
    needed = next_made(max(exact, floor))
    steps = [
        working.formula(
            f"S = √({figures(amps, 6)}^2 · {figures(seconds, 4)}) / {k:g} = {exact:.4f} mm²",
            tables.iec_section("protective_size"),
        )
    ]
    if floor:
        steps.append(working.note(f"apart from its lines at least {floor:g} mm²"))
    steps.append(working.note(f"the next that is made: {needed:g} mm²"))
    return working.of("Protective conductor by heat", _name(needed), "", *steps)


def protective_by_use(size: str, share: float) -> Working:
    """The protective conductor that heat asks for, where one of ``size`` uses ``share`` of what it
    lives through in the solved fault: S·√share, the next that is made."""
    mm2 = float(Size(size).number)
    exact = mm2 * math.sqrt(share)
    step = working.formula(
        f"S = {mm2:g} mm² · √{figures(share, 5)} = {exact:.4f} mm²",
        tables.iec_section("protective_size"),
    )
    note = working.note(
        f"in the solved fault {mm2:g} mm² uses {figures(share * 100)} % of its k²S²: S goes with"
        " the square root"
    )
    needed = _name(next_made(exact))
    return working.of("Protective conductor by heat", needed, "", note, step)


def earthing_conductor(line: str, buried: str = "no") -> Working:
    """The earthing conductor: the protective conductor's table, at least 6 mm² copper; buried 16
    mm² where it is protected from corrosion only, 25 mm² bare. ``buried``: no, covered, bare."""
    by_table = float(protective_by_table(line).value.number)
    least = {"no": 6.0, "covered": 16.0, "bare": 25.0}
    if buried not in least:
        raise BadInput("Buried: no, covered or bare.")
    needed = next_made(max(by_table, least[buried]))
    return working.of(
        "Earthing conductor",
        _name(needed),
        "",
        *protective_by_table(line).steps(),
        working.rule_of(f"copper, at least {least[buried]:g} mm²", "earthing_conductor"),
    )


def main_bonding(arrangement: str, line: str, neutral: str = "") -> Working:
    """A main bonding conductor in copper: half of the earthing conductor, 6 to 25 mm²; with a PEN
    ahead (TN-C-S) by the supply's neutral."""
    if arrangement == "TN-C-S":
        mm2 = float(Size(neutral or line).number)
        row = next(
            r
            for r in tables.rows("main_bonding_pen")
            if not r["neutral_to_mm2"] or mm2 <= float(r["neutral_to_mm2"])
        )
        needed = float(row["bonding_mm2"])
        step = f"supply neutral {mm2:g} mm²: {needed:g} mm² copper"
    else:
        earth = float(protective_by_table(line).value.number)
        needed = next_made(min(max(earth / 2, 6.0), 25.0))
        step = f"half of {earth:g} mm², 6 to 25 mm²: {needed:g} mm² copper"
    return working.of(
        "Main bonding conductor", _name(needed), "", working.rule_of(step, "bonding_size")
    )


def supplementary_ohm(amps: float, limit_v: float = 50.0) -> Working:
    """The most ohms between parts that supplementary bonding joins: R ≤ 50 V / Ia."""
    number_in(amps, "Current", 0, 1e6, "A", above_low=True)
    found = limit_v / amps
    step = working.formula(
        f"R = {limit_v:g} V / {figures(amps, 6)} A = {found:.5f} Ω",
        tables.iec_section("supplementary"),
    )
    return working.of("Supplementary bonding", found, "Ω", step)


PEN_COPPER_MM2, PEN_ALUMINIUM_MM2 = 10.0, 16.0


def operating_a(device: Breaker, seconds: float) -> float:
    """Ia: the current that makes a device open within ``seconds`` for certain, A."""
    low, high = device.rating_a, 1e5
    if device.slow_s(high) > seconds:
        return math.inf
    for _ in range(80):
        middle = math.sqrt(low * high)
        low, high = (low, middle) if device.slow_s(middle) <= seconds else (middle, high)
    return high


def allowed_zs(device: Breaker, seconds: float, volts: float = 230.0) -> Working:
    """The largest loop impedance at which a device opens within ``seconds``: Cmin·U0/Ia, Ω, its
    conductors hot."""
    amps = operating_a(device, seconds)
    return _allowed(f"{device.name}, {seconds:g} s", amps, volts)


def allowed_zs_rcd(rated_ma: float, volts: float = 230.0) -> Working:
    """The same of a residual-current device, at five times its rating."""
    return _allowed(f"{rated_ma:g} mA RCD", 5 * rated_ma / 1000, volts)


def _allowed(what: str, amps: float, volts: float) -> Working:
    found = 0.0 if math.isinf(amps) else C_MIN * volts / amps
    step = working.formula(
        f"Zs = {C_MIN:g} · {volts:g} V / {figures(amps, 6)} A = {figures(found, 4)} Ω",
        tables.iec_section("tn"),
    )
    return working.of(f"Allowed Zs: {what}", found, "Ω", step)


def measured_at(zs_hot: float, celsius: float = AMBIENT_C, hot_c: float = HOT_C) -> float:
    """What a loop of ``zs_hot`` at its conductors' full temperature reads at ``celsius``, Ω."""
    cold = 1 + METRIC_PER_K * (celsius - AMBIENT_C)
    return zs_hot * cold / (1 + METRIC_PER_K * (hot_c - AMBIENT_C))


def electrode_limit(rated_ma: float, volts: float = 50.0) -> Working:
    """The most ohms of a TT electrode for a residual-current device: RA·IΔn ≤ 50 V."""
    number_in(rated_ma, "RCD rating", 1, 3000, "mA")
    found = volts / (rated_ma / 1000)
    step = working.formula(
        f"RA = {volts:g} V / {rated_ma / 1000:g} A = {figures(found, 5)} Ω",
        tables.iec_section("tt"),
    )
    return working.of("Electrode of a TT system", found, "Ω", step)


def rcd_time_s(amps: float, rated_ma: float, delayed: bool = False) -> float:
    """Longest time of a residual-current device at ``amps``, s (IEC 61008)."""
    return residual_device_slow_s(amps, rated_ma, delayed)
