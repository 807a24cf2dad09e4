"""What stands in for a fact of a 230 or 400/230 V place: the metric rule set's usual.

Filled before the United States' own usual, which then finds nothing left to fill. The presence of
a protective conductor is never assumed; the main bond follows from the earthing system, which is
asked.
"""

from functools import cache
from typing import Any

from . import tables
from .site import Circuit, Feeder, Panel, Supply
from .site.spaces import METRIC_NUMBERING
from .sizing.metric import smallest_metric_line
from .vocabulary import Size, System
from .vocabulary.sizes import METRIC

#: Where the network and the supply cable are one measured figure, the cable is not counted again.
NO_LENGTH_FT = 0.01
#: The reactance of a loop measured as a plain number of ohms.
ZE_X_SHARE = 0.0
USUAL_RCD_MA = 30.0


@cache
def cpc_of_twin(line: str) -> Size | None:
    """The reduced protective conductor usual in flat twin cable."""
    for row in tables.rows("twin_cpc"):
        if f"{row['line_mm2']}{METRIC}" == line:
            return Size(f"{row['cpc_mm2']}{METRIC}")
    return None


def reference_method(run: Circuit | Feeder, method: str | None) -> str:
    """The reference method of installation that its capacity is read by."""
    if run.route == "insulation":
        return "A1"
    if run.route == "underground":
        return "D1"
    singles = method in ("singles in conduit", "steel conduit", "trunking")
    return "B1" if singles else "C"


def loaded_of(poles: int | None) -> int:
    """Loaded conductors of a run."""
    return 3 if poles == 3 else 2


def ring_rating(rating: float) -> float:
    """What one leg of a ring carries: two thirds of its device, by local practice."""
    return rating * 2 / 3


def panel(f: Any, earthing: str | None, is_first: bool) -> None:
    """A main that is a switch unless said otherwise; the main bond by the earthing system."""
    element: Panel = f.element
    f.fill("numbering", METRIC_NUMBERING, why="usual: one row of ways")
    if element.main.rating_a is not None:
        f.fill("main.kind", "switch", why="usual: a main switch opens nothing by itself")
    if not is_first:
        return
    if earthing == "TN-C-S":
        f.fill("bond", "in", why="TN-C-S: the distributor joins neutral and earth at the origin")
    elif earthing in ("TN-S", "TT", "IT"):
        f.fill("bond", "out", why=f"{earthing}: neutral and earth are apart in the installation")


def supply(f: Any) -> None:
    """A measured Ze stands for the network and its cable."""
    element: Supply = f.element
    if element.earthing == "IT":
        f.fill("earth_ohm", tables.assumed_number("IT supply earth ohm"), "IT supply earth ohm")
    if element.ze_ohm is None:
        return
    own = element.kind in ("generator", "inverter")
    if own and (element.r1_ohm is not None or element.x1_ohm is not None):
        return  # its own ohms are the better figure
    f.values["r1_ohm"], f.values["x1_ohm"] = element.ze_ohm, ZE_X_SHARE
    f.values["r0_ohm"], f.values["x0_ohm"] = element.ze_ohm, ZE_X_SHARE
    if not own:
        f.values["kva"] = None


def service(f: Any, unit: Supply | None) -> None:
    """Its run, copper of its lines' size; a TN-S supply brings its own protective conductor."""
    if unit is not None and unit.ze_ohm is not None and unit.earthing != "TT":
        f.values["length_ft"] = NO_LENGTH_FT
    f.fill("line_material", "copper", why="usual")
    line = f.fill("line_size", tables.known_size("16mm2"), why="usual tails of a dwelling")
    f.fill("neutral_size", line, why="the same as the lines")
    if unit is not None and unit.earthing == "TN-S":
        f.fill("egc_size", line, why="TN-S: the supply's own protective conductor, as its lines")


def breaker(f: Any, element: Circuit | Feeder | Panel, at: str) -> None:
    """The energy class that miniature breakers of dwellings are of."""
    if getattr(element, at).kind in ("B", "C", "D"):
        why = "usual: in the small square under its breaking capacity"
        f.fill(f"{at}.energy_class", 3, why=why)


def circuit(f: Any, system: System) -> None:
    """Its cable, its lines by its device, the protective conductor usual in it."""
    element: Circuit = f.build()
    f.fill("poles", 1, why="most are")
    if element.gfci == "yes":
        f.fill("rcd_ma", USUAL_RCD_MA, why="usual where residual-current protection is said")
    _run(f, element, f.get("poles"), ring=element.ring == "yes")


def feeder(f: Any, system: System) -> None:
    """A distribution circuit: all the lines of its place."""
    element: Feeder = f.build()
    f.fill("poles", system.lines, why="all the lines that come in")
    f.fill("neutral", "yes", why="most have one")
    _run(f, element, f.get("poles"))
    if line := f.get("line_size"):
        f.fill("neutral_size", line, why="the same as the lines")


def _run(f: Any, element: Circuit | Feeder, poles: int | None, ring: bool = False) -> None:
    breaker(f, element, "breaker")
    f.fill("insulation", "thermoplastic", why="the less heat-proof of the two")
    f.fill("line_material", "copper", why="usual")
    if element.egc in ("raceway", "both"):
        f.fill("method", "steel conduit", why="the usual steel around a circuit")
    f.fill("method", "twin", why="the usual wiring of a dwelling")
    rating, method = element.breaker.rating_a, f.get("method")
    if rating is not None and element.line_size is None:
        needed = ring_rating(rating) if ring else rating
        f.fill(
            "line_size",
            lambda: _line(needed, f.get("insulation"), poles, reference_method(element, method)),
            why="the smallest its device allows",
        )
    line = f.get("line_size")
    if element.egc in ("wire", "both") and line is not None and tables.is_metric(line):
        reduced = cpc_of_twin(line) if method == "twin" else None
        why = "twin cable" if reduced else ""
        f.fill("egc_size", reduced or line, why, why="the same as the lines" if not why else "")


def _line(rating: float, insulation: str, poles: int | None, reference: str) -> Size:
    return Size(str(smallest_metric_line(rating, insulation, loaded_of(poles), reference).value))
