"""What stands in for facts of panels, sources and the service."""

from .. import sizing, supply, tables
from ..site import Panel, Service, Supply
from ..vocabulary import System
from .filling import Filling, usual


def fill_panel(f: Filling, at_service: bool, is_first: bool) -> None:
    element: Panel = f.element
    kind = f.fill("kind", "service" if at_service else "sub", why="by what feeds it")
    if is_first and kind in ("service", "disconnect", "emergency disconnect"):
        f.fill("main.rating_a", usual("main breaker A"), "main breaker A")
    if element.grounds_on_neutral != "yes":
        f.fill("ground_bar", "on case", "main ground bar")
    f.fill("terminals_c", int(usual("terminals")), "terminals")


def fill_supply(f: Filling, rating: float | None) -> None:
    """A source's size from the service's, its impedance from typical plates."""
    element: Supply = f.element
    kind = f.fill("kind", "utility", why="usual")
    system = f.fill("system", System.SPLIT, why="the usual dwelling service")
    if system is System.HIGH_LEG:
        f.fill("high_leg", "B", why="its place on the bars (408.3(E)); measure it before landing")
    has_ohms = f.get("r1_ohm") is not None or f.get("x1_ohm") is not None
    if kind in ("generator", "inverter", "transformer"):
        _small_supply(f, kind, has_ohms)
        return
    if has_ohms and system.has_centre_tap and element.fault_a is None:
        return  # its ohms are known: no plate stands beside them
    if not system.has_centre_tap:
        _network_supply(f, element)
        return
    large = rating is not None and rating > 200
    fact = "transformer kVA (over 200 A)" if large else "transformer kVA (service to 200 A)"
    why = tables.assumption_texts()[fact][1] or "common pole size for a larger service"
    kva = f.fill("kva", usual(fact), why=why)
    percent_z, x_over_r = supply.typical(kva)
    f.fill(
        "percent_z", percent_z, why="typical of its size; taken 25 % higher for the lowest current"
    )
    f.fill("x_over_r", x_over_r, why="typical of its size")
    if element.fault_a is not None:
        why = "the larger source of the two readings is on the safe side for the highest current"
        f.fill("fault_kind", "line to neutral", why=why)


#: What stands in for the plate of a source of the place's own: (kVA, %Z, X/R).
_PLATES = {
    "generator": ("generator kVA", "generator impedance %", "generator X over R"),
    "inverter": ("inverter kVA", "inverter impedance %", ""),
    "transformer": ("transformer of its own kVA", "transformer of its own impedance %",
                    "transformer of its own X over R"),
}  # fmt: skip


def _small_supply(f: Filling, kind: str, has_ohms: bool) -> None:
    """A generator, an inverter, a transformer of the place's own. Beside entered ohms nothing
    stands in but an inverter's rating, which its current limit is a multiple of."""
    kva, percent, ratio = _PLATES[kind]
    if not has_ohms or kind == "inverter":
        f.fill("kva", usual(kva), kva)
    if kind == "inverter":
        f.fill("limit", usual("inverter current limit"), "inverter current limit")
    if has_ohms:
        return
    f.fill("percent_z", usual(percent), percent)
    if ratio:
        f.fill("x_over_r", usual(ratio), ratio)
    else:
        f.fill("x_over_r", 0.0, why="electronics")
    if f.get("fault_a") is not None:
        why = "the weaker source of the two readings: fewer ohms are not taken for granted"
        f.fill("fault_kind", "line to line", why=why)


def _network_supply(f: Filling, element: Supply) -> None:
    """A wye or 230 V source: from its plate where its kVA is known, else a weak network."""
    if element.kva is not None:
        fact = "three-phase transformer impedance %"
        f.fill("percent_z", usual(fact), fact)
    elif element.fault_a is None or element.r1_ohm is not None:
        f.fill("r1_ohm", usual("metric source R1 ohm"), "metric source R1 ohm")
        f.fill("x1_ohm", usual("metric source X1 ohm"), "metric source X1 ohm")
    f.fill("x_over_r", 1.0, why="usual at the end of a low-voltage network")
    if element.fault_a is not None:
        kind = "line to line" if element.system and element.system.lines > 1 else "line to neutral"
        why = "the larger source of the two readings is on the safe side for the highest current"
        f.fill("fault_kind", kind, why=why)


def fill_service(f: Filling, rating: float | None, edition: int, metric: set[str]) -> None:
    element: Service = f.element
    kind = f.fill("run", "underground", "service run")
    fact = "overhead drop length ft" if kind == "overhead" else "underground lateral length ft"
    f.fill("length_ft", usual(fact), why="a usual length for this run")
    f.fill("sets", 1, why="parallel runs are rare in dwellings")
    f.fill("insulation", "thermoplastic", why="the less heat-proof of the two")
    if element.supply in metric or tables.is_metric(element.line_size or ""):
        f.fill("line_material", "copper", why="usual")
        line = f.fill("line_size", tables.known_size("10mm2"), why="a usual dwelling service")
        f.fill("neutral_size", line, why="the same as the lines")
        return
    material = f.fill("line_material", "aluminium", "service conductors")
    if rating is None and element.line_size is None:
        return
    line = f.fill(
        "line_size",
        lambda: sizing.service_line(rating, material, edition).value,
        "service conductors",
    )
    if line is None:
        return
    sets = f.get("sets")
    f.fill("neutral_size", lambda: _neutral(line, material, sets, edition), "service neutral")


def _neutral(line: str, material: str, sets: int, edition: int) -> str | None:
    """The least neutral, one conductor of each set, never over the line's size."""
    least = sizing.smallest_neutral(line, material, sets, material, edition).value
    wanted = tables.area(least) / sets
    made = [s for s in tables.sizes(material) if tables.area(s) >= wanted]
    return made[0] if made and tables.area(made[0]) <= tables.area(line) else line
