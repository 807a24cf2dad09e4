"""The tables as data, and the one loader that reads them.

Every file is a CSV beside this module, named as in ``docs/method.md``, and read once. Sizes are
written as the trade writes them: AWG (``"12"``, ``"4/0"``), then kcmil (``"250"``).
"""

import csv
from dataclasses import dataclass
from functools import cache
from importlib import resources

from ..errors import BadInput
from ..vocabulary import Size
from ..vocabulary.sizes import METRIC
from ..vocabulary.units import CMIL_PER_MM2

MATERIALS = ("copper", "aluminium")
EDITIONS = (2005, 2008, 2011, 2014, 2017, 2020, 2023, 2026)
#: Made, but only ever as an EGC: cable of the 1960s has one.
GROUND_ONLY = ("16",)


@cache
def rows(name: str) -> tuple[dict[str, str], ...]:
    """All rows of ``name``.csv as text, keyed by the column heads."""
    text = resources.files(__package__).joinpath(f"{name}.csv").read_text("utf-8")
    return tuple(csv.DictReader(text.splitlines()))


@dataclass(frozen=True, slots=True)
class ConductorRow:
    """One row of conductors.csv. Ohms per 1,000 ft at 75 °C; None where the table has no figure."""

    size: str
    area_cmil: int
    rdc_cu_solid: float | None
    rdc_cu_stranded: float
    rdc_al_stranded: float
    xl_pvc_or_al: float | None
    xl_steel: float | None
    rac_cu_pvc: float | None
    rac_cu_al_conduit: float | None
    rac_cu_steel: float | None
    rac_al_pvc: float | None
    rac_al_al_conduit: float | None
    rac_al_steel: float | None


@cache
def conductors() -> dict[str, ConductorRow]:
    """The conductor table by size, smallest first."""
    table = {}
    for row in rows("conductors"):
        figures = {k: (float(v) if v else None) for k, v in row.items() if k != "size"}
        figures["area_cmil"] = int(row["area_cmil"])
        table[row["size"]] = ConductorRow(size=row["size"], **figures)
    return table


@cache
def sizes(material: str = "copper") -> tuple[str, ...]:
    """The sizes that are made in ``material``, smallest first (no 14 AWG aluminium)."""
    known_material(material)
    made = ampacities()
    return tuple(s for s in conductors() if made.get((s, material, 75)) is not None)


def conductor(size: str) -> ConductorRow:
    """The row for ``size``; BadInput naming the nearest sizes when there is none."""
    try:
        return conductors()[str(size)]
    except KeyError:
        raise BadInput(no_such_size(str(size))) from None


@cache
def iec_section(topic: str) -> str:
    """The clause of the metric rule set for a topic; one with “?” is to be checked locally."""
    return next(r["section"] for r in rows("sections_iec") if r["topic"] == topic)


@cache
def metric_conductors() -> dict[str, dict[str, float | None]]:
    """``"2.5mm2"`` → r20_cu, r20_al and x in ohms per km (None: not made)."""
    return {
        f"{row['size_mm2']}{METRIC}": {
            "mm2": float(row["size_mm2"]),
            "copper": float(row["r20_cu_ohm_per_km"]),
            "aluminium": float(row["r20_al_ohm_per_km"]) if row["r20_al_ohm_per_km"] else None,
            "x": float(row["x_ohm_per_km"]),
        }
        for row in rows("conductors_metric")
    }


def is_metric(size: str) -> bool:
    """Whether ``size`` is written in square millimetres: ``"2.5mm2"``."""
    return size.endswith(METRIC)


def known_size(size: str) -> Size:
    """``size`` if it is in either table of conductors; else BadInput."""
    size = Size(size)
    if size.is_metric:
        if size not in metric_conductors():
            listed = " ".join(s.removesuffix(METRIC) for s in metric_conductors())
            raise BadInput(f"{size.removesuffix(METRIC)} mm² is not a size; {listed} are.")
        return size
    return Size(conductor(size).size)


@cache
def area(size: str) -> float:
    """Area of one conductor of ``size`` in circular mils.

    The sizing tables reach past chapter 9: over 1,000 kcmil the name is the area.
    """
    if is_metric(size):
        known_size(size)
        return metric_conductors()[size]["mm2"] * CMIL_PER_MM2
    if size.isdecimal() and int(size) > 1000:
        return int(size) * 1000
    return conductor(size).area_cmil


@cache
def size_name(size: str) -> str:
    """``"12 AWG"``, ``"4/0 AWG"`` or ``"250 kcmil"``."""
    return Size(size).name


LONGEST_SIZE = 24  # no name of a size is longer: what is, is not read as a figure


def no_such_size(text: str) -> str:
    """The sentence for a size that is not made: says which neighbours are."""
    order = list(conductors())
    if len(text) > LONGEST_SIZE:
        return f"“{text[:LONGEST_SIZE]}…” is not a conductor size."
    if text.isdecimal() and 0 < int(text) < 250:
        gauges = [s for s in order if "/" not in s and int(s) < 250]
        below = [s for s in gauges if int(s) > int(text)]
        above = [s for s in gauges if int(s) < int(text)]
        near = ([above[0]] if above else ["1/0"]) + ([below[-1]] if below else [])
        if int(text) <= 14:
            return f"{text} AWG is not a size; {' and '.join(near)} are."
    listed = " ".join(order)
    return f"“{text}” is not a conductor size; sizes are {listed}."


def known_material(material: str) -> str:
    """``material`` if it is copper or aluminum; else BadInput."""
    if material not in MATERIALS:
        raise BadInput(f"“{material}” is not a conductor metal here; copper and aluminum are.")
    return material


#: What people write for the metals of the job file.
METAL_WORDS = {"cu": "copper", "copper": "copper", "al": "aluminium", "alu": "aluminium",
               "aluminum": "aluminium", "aluminium": "aluminium"}  # fmt: skip


def metal_name(material: str | None) -> str:
    """The US trade's word for a metal of the job file; copper where nobody said one."""
    return "aluminum" if material == "aluminium" else material or "copper"


@cache
def ampacities() -> dict[tuple[str, str, int], float | None]:
    """(size, material, column °C) → ampacity in amperes, None where the table is blank."""
    table = {}
    for row in rows("ampacity"):
        for material in MATERIALS:
            for column in (60, 75, 90):
                text = row[f"{'cu' if material == 'copper' else 'al'}{column}"]
                table[row["size"], material, column] = float(text) if text else None
    return table


@cache
def standard_ratings() -> tuple[int, ...]:
    """Standard device ratings in amperes, up to 800 A."""
    return tuple(int(row["rating_a"]) for row in rows("standard_ratings"))


@cache
def small_conductor_ceilings() -> dict[tuple[str, str], int]:
    """(size, material) → the largest device allowed on that small conductor, A."""
    return {(r["size"], r["material"]): int(r["ceiling_a"]) for r in rows("small_conductors")}


@cache
def assumption_texts() -> dict[str, tuple[str, str]]:
    """fact → (what is assumed, why), as written in assumptions.csv."""
    return {r["fact"]: (r["assumed"], r["why"]) for r in rows("assumptions")}


def assumed_number(fact: str) -> float:
    """The number that stands in for ``fact`` (assumptions.csv)."""
    return float(assumption_texts()[fact][0].split()[0])


def section(topic: str, edition: int) -> str:
    """The section of ``edition`` to look in for ``topic`` (a key of sections.csv)."""
    if edition not in EDITIONS:
        listed = ", ".join(map(str, EDITIONS))
        raise BadInput(f"{edition} is not an edition kept here; {listed} are.")
    for row in rows("sections"):
        if row["topic"] == topic:
            return row[str(edition)]
    raise KeyError(topic)
