"""Steel-wire armour as a protective conductor: its ohms, and the heat it lives through.

Areas from ``tables/swa_armour.csv`` (gross, doubtful within 10 %); resistivity with the lay of the
wires and k from ``tables/assumptions.csv`` and ``tables/adiabatic_k.csv``. method 15.
"""

from functools import cache
from typing import TYPE_CHECKING

from . import tables
from .errors import BadInput, number_in
from .vocabulary.sizes import METRIC
from .vocabulary.units import FOOT_M

if TYPE_CHECKING:
    from .site import Circuit, Feeder

SWA = "SWA"
#: Steel's resistance grows by this part per kelvin from 20 °C; the armour stays 10 °C under the
#: conductors it is around.
STEEL_PER_K = 0.0045
COOLER_C = 10.0
MOST_CORES = 3


@cache
def _areas() -> dict[tuple[float, int], tuple[float, str]]:
    """(line mm², cores) → (armour mm², how sure)."""
    return {
        (float(r["line_mm2"]), int(r["cores"])): (float(r["armour_mm2"]), r["sure"])
        for r in tables.rows("swa_armour")
    }


def armour_mm2(size: str, cores: int) -> tuple[float, str]:
    """(gross area of the armour of a cable of ``cores`` of ``size``, mm²; how sure it is).

    More cores than the table has take its last column, larger lines its last row: never more
    steel than is there. BadInput for a size that no armoured cable is made in.
    """
    if not tables.is_metric(size):
        raise BadInput("Armoured cable is in mm²: write its lines so, 4 mm2.")
    mm2, cores = float(size.removesuffix(METRIC)), min(max(cores, 2), MOST_CORES)
    made = [line for line, n in _areas() if n == cores and line <= mm2]
    if not made:
        raise BadInput(f"Armoured cable begins at 1.5 mm², not {mm2:g} mm².")
    return _areas()[max(made), cores]


def cores_of(run: "Circuit | Feeder") -> int:
    """Cores under the armour of a circuit or feeder: its lines, its neutral, a wire beside."""
    lines = run.poles or 1
    return lines + (run.neutral != "no") + (run.egc == "both")


def armour_ohm(size: str, cores: int, length_ft: float, celsius: float) -> complex:
    """Ohms of the armour over ``length_ft`` with the conductors at ``celsius``."""
    number_in(length_ft, "Length", 0, 20_000, "ft")
    area, _ = armour_mm2(size, cores)
    cold = tables.assumed_number("armour ohm mm2 per m at 20 C") / area * length_ft * FOOT_M
    return complex(cold * (1 + STEEL_PER_K * (max(celsius - COOLER_C, 20.0) - 20.0)))


def armour_i2t(size: str, cores: int, insulation: str) -> float:
    """The ampere-squared-seconds the armour lives through, (k·S)²: k 51 under PVC, 46 under
    XLPE."""
    area, _ = armour_mm2(size, cores)
    kind = "XLPE" if insulation == "thermoset" else "PVC"
    k = next(
        float(r["k_a_sqrt_s_per_mm2"])
        for r in tables.rows("adiabatic_k")
        if r["insulation"] == f"armour of a cable under {kind}"
    )
    return (k * area) ** 2
