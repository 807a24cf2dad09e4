"""Ampacity where it is warm or crowded: correction for ambient, adjustment for company, roofs.

    base column (90 °C where the wire has it) × ambient × company, never over the terminals' column

Sources: 310.15(B) and (C), 334.80; ``tables/ambient_correction.csv``, ``adjustment.csv``,
``rooftop.csv``, ``nm_bundle.csv``. Degrees are Fahrenheit where people say them, °C in the tables.
"""

import math
from functools import lru_cache

from .. import tables, working
from ..errors import BadInput, number_in
from ..tables import metal_name
from ..working import Step, Working, figures
from .lines import ampacity

USUAL_F = 86.0  # 30 °C: what the ampacity table is made for
HOTTEST_F = 185.0
#: The last edition whose factors are held.
HELD_TO = 2023
CARRYING_OF_CABLE = 2  # of a two-wire cable, and of a three-wire one on 120/240 V


def celsius(fahrenheit: float) -> float:
    """Degrees Celsius."""
    return (fahrenheit - 32) / 1.8


def ambient_factor(fahrenheit: float, column_c: int, edition: int = 2023) -> float:
    """The correction of a column for the air around, 310.15(B). BadInput where the column has no
    ampacity left there."""
    number_in(fahrenheit, "Ambient", -60, HOTTEST_F, "°F")
    degrees = math.ceil(round(celsius(fahrenheit), 1) - 0.5)  # rows are of whole degrees
    held = min(edition, HELD_TO)
    best = 1.0
    for row in tables.rows("ambient_correction"):
        if not int(row["from_edition"]) <= held <= int(row["to_edition"]):
            continue
        low = float(row["from_c"]) if row["from_c"] else -math.inf
        if low <= degrees <= float(row["to_c"]):
            text = row[f"factor_{column_c}c"]
            if not text:
                raise BadInput(
                    f"At {fahrenheit:g} °F the {column_c} °C column has no ampacity left."
                )
            return float(text)
    if degrees > 30:
        raise BadInput(f"The table of corrections ends under {fahrenheit:g} °F.")
    return best


def adjustment_percent(carrying: int) -> float:
    """The share of its ampacity that a conductor keeps among ``carrying``, %, 310.15(C)(1)."""
    number_in(carrying, "Current-carrying conductors", 1, 400)
    for row in tables.rows("adjustment"):
        if row["kind"] != "factor" or int(row["conductors_from"]) > carrying:
            continue
        if not row["conductors_to"] or carrying <= int(row["conductors_to"]):
            return float(row["percent"])
    raise AssertionError(carrying)  # pragma: no cover - the last row is open


def rooftop_f(above_in: float, edition: int = 2023) -> float:
    """What a roof in the sun adds to the air, °F, by the height above it and the edition."""
    number_in(above_in, "Height above the roof", 0, 1000, "in")
    held = min(edition, HELD_TO)
    for row in tables.rows("rooftop"):
        if not row["above_roof_from_in"] or not (
            int(row["from_edition"]) <= held <= int(row["to_edition"])
        ):
            continue
        low = float(row["above_roof_from_in"])
        high = float(row["above_roof_to_in"]) if row["above_roof_to_in"] else math.inf
        if row["meaning"].startswith("above"):  # above 'from', up to and with 'to'
            inside = (low < above_in <= high) or (low == 0 and above_in == 0)
        else:  # under a height
            inside = low <= above_in < high
        if inside:
            return float(row["add_f"])
    return 0.0


@lru_cache(maxsize=4096)
def corrected_ampacity(
    size: str,
    material: str = "copper",
    column_c: int = 75,
    base_c: int = 90,
    ambient_f: float | None = None,
    carrying: int | None = None,
    above_roof_in: float | None = None,
    edition: int = 2023,
) -> Working:
    """Ampacity of one conductor where it runs, A.

    ``column_c`` of its terminals (60 for NM cable); ``base_c`` the column that correction begins
    in: 90 where the insulation has it; ``ambient_f`` the hottest air, 86 unless told; ``carrying``
    conductors together; ``above_roof_in`` a roof in the sun.
    """
    limit = ampacity(size, material, column_c)
    base = ampacity(size, material, base_c)
    steps: list[Step] = [
        working.table(
            f"{tables.size_name(size)} {metal_name(material)}: {base:g} A in the {base_c} °C"
            f" column, {limit:g} A in that of its terminals ({column_c} °C)",
            f"{tables.section('ampacity', edition)} ({edition})",
        )
    ]
    air = USUAL_F if ambient_f is None else ambient_f
    if above_roof_in is not None and (more := rooftop_f(above_roof_in, edition)):
        air += more
        steps.append(
            working.rule(f"{above_roof_in:g} in above a roof: + {more:g} °F", "rooftop", edition)
        )
    made = base
    if air != USUAL_F:
        factor = ambient_factor(air, base_c, edition)
        made *= factor
        steps.append(working.rule(f"air of {air:g} °F: × {factor:.2f}", "ambient", edition))
    if carrying is not None and carrying > 3:
        percent = adjustment_percent(carrying)
        made *= percent / 100
        text = f"{carrying} current-carrying conductors together: × {percent / 100:.2f}"
        steps.append(working.rule(text, "adjustment", edition))
    value = min(made, limit)
    steps.append(
        working.formula(f"the lesser of {figures(made)} A and {limit:g} A: {figures(value)} A")
    )
    return working.of(f"Ampacity of {tables.size_name(size)} there", value, "A", *steps)


def bundle_conductors(cables: int, third_wires: int = 0) -> int:
    """How many conductors of ``cables`` of NM carry current: two each, with ``third_wires`` more
    that count (310.15(E))."""
    number_in(cables, "Cables together", 1, 100)
    return CARRYING_OF_CABLE * cables + third_wires
