"""Fills absent facts with what stands in for them, and lists what it filled and why.

Figures from ``tables/assumptions.csv`` and the size tables. The presence of a return conductor
or of a bond is never assumed.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cache, cached_property
from typing import Any, NamedTuple

from . import assume_metric, earth, sizing, supply, tables
from .conductor import methods
from .errors import BadInput
from .site import (
    Array,
    Circuit,
    Electrode,
    Element,
    Feeder,
    FieldInfo,
    Installation,
    Metal,
    Panel,
    Provenance,
    Service,
    Supply,
    field_info,
    show_value,
)
from .site.segments import derived
from .site.serves import load_kind_in
from .vocabulary import FactPath, System, fact_in, with_fact
from .vocabulary.units import FOOT_M as FEET
from .vocabulary.units import INCH_M as INCH

#: How far over a "more than" bound the length is taken, so that the bound itself does not pass.
OVER_A_BOUND = 1.25


class Assumption(NamedTuple):
    """One fact that stands in: its ``path``, ``value``, and the reason."""

    path: FactPath
    value: Any
    info: FieldInfo
    why: str

    @property
    def label(self) -> str:
        """The trade's word for the fact."""
        return self.info.label

    @property
    def words(self) -> str:
        """The value as the trade writes it."""
        return show_value(self.info, self.value)


@dataclass(frozen=True)
class Assumed:
    """A site with nothing absent that can be assumed, and what was."""

    site: Installation
    assumptions: tuple[Assumption, ...]

    @cached_property
    def by_path(self) -> dict[str, Assumption]:
        """The assumptions by the path of their fact."""
        return {a.path: a for a in self.assumptions}

    def find(self, path: str) -> Assumption | None:
        """The assumption made for ``path``, or None where the fact is known or still absent."""
        return self.by_path.get(path)


@dataclass
class _Filling:
    """One element being filled."""

    element: Element
    made: list[Assumption]
    values: dict[str, Any] = field(default_factory=dict)

    def get(self, inner: str) -> Any:
        """The known or filled value."""
        if inner in self.values:
            return self.values[inner]
        return fact_in(self.element, inner) if "." in inner else getattr(self.element, inner)

    def fill(
        self, inner: str, value: Any | Callable[[], Any], fact: str = "", why: str = ""
    ) -> Any:
        """Give a fact a value if it has none; ``fact`` names the row whose reason is shown."""
        known = self.get(inner)
        if known is not None:
            return known
        if callable(value):
            try:
                value = value()
            except BadInput:
                return None  # the tables have no answer: it stays absent
        if value is None:
            return None
        self.values[inner] = value
        reason = why or tables.assumption_texts()[fact][1] or "usual"
        info = field_info(self.element, inner)
        path = FactPath.of(self.element.id, inner)
        self.made.append(Assumption(path, value, info, reason))
        return value

    def build(self) -> Element:
        """The element with what was filled."""
        flat = {inner: value for inner, value in self.values.items() if "." not in inner}
        made = self.element.model_copy(update=flat) if flat else self.element
        for inner, value in self.values.items():
            if inner not in flat:
                made = with_fact(made, inner, value, lambda m, update: m.model_copy(update=update))
        return made


def assume(site: Installation) -> Assumed:
    """``site`` with its gaps filled, and the list of what was filled."""
    made: list[Assumption] = []
    edition = site.practice.edition
    filled: dict[str, tuple] = {}

    def each(name: str, fill: Callable[[_Filling], None]) -> None:
        done = []
        for element in getattr(site, name):
            filling = _Filling(element, made)
            fill(filling)
            done.append(filling.build())
        filled[name] = tuple(done)

    reached = {s.to for s in site.services}
    first = site.panel.id
    own: Any = site.supply.system
    metric_place = own is not None and own.is_metric
    earthing = site.supply.earthing if metric_place else None

    def panel(f: Any) -> None:
        if metric_place:
            assume_metric.panel(f, earthing, f.element.id == first)
            assume_metric.breaker(f, f.element, "main")
        _panel(f, f.element.id in reached, f.element.id == first and not metric_place)

    def supply_of(f: Any) -> None:
        if metric_place:
            f.fill("system", own, why="as the utility's")
            assume_metric.supply(f)
        _supply(f, ratings.get(fed.get(f.element.id)))

    def service(f: Any) -> None:
        if metric_place:
            assume_metric.service(f, units.get(f.element.supply))
        _service(f, ratings.get(f.element.to), edition, metric)

    def feeder(f: Any) -> None:
        if metric_place:
            _segments(f)
            assume_metric.feeder(f, own)
        _feeder(f, edition, buildings)

    def circuit(f: Any) -> None:
        if metric_place:
            _segments(f)
            assume_metric.circuit(f, own)
        _circuit(f, site, edition)

    each("panels", panel)
    ratings = {p.id: p.main.rating_a for p in filled["panels"]}
    fed = {s.supply: s.to for s in site.services}
    units = {s.id: s for s in site.supplies}
    each("supplies", supply_of)
    metric = {s.id for s in filled["supplies"] if s.system.is_metric}
    each("services", service)
    buildings = {p.id: p.building for p in site.panels}
    each("feeders", feeder)
    soil = site.soil_ohm_m or tables.assumed_number("soil resistivity ohm-m")
    is_tt = site.supply.earthing == "TT" or metric_place
    each("electrodes", lambda f: _electrode(f, soil, is_tt))
    each("metals", _metal)
    each("circuits", circuit)
    each("arrays", _array)
    if metric_place:  # the disconnection time is the rule there, whatever a school says
        filled["practice"] = site.practice.model_copy(update={"clearing": "timed"})
    return Assumed(site.model_copy(update=filled), tuple(made))


@cache
def _number(fact: str) -> float:
    return tables.assumed_number(fact)


def _panel(f: _Filling, at_service: bool, is_first: bool) -> None:
    element: Panel = f.element
    kind = f.fill("kind", "service" if at_service else "sub", why="by what feeds it")
    if is_first and kind in ("service", "disconnect", "emergency disconnect"):
        f.fill("main.rating_a", _number("main breaker A"), "main breaker A")
    if element.grounds_on_neutral != "yes":
        f.fill("ground_bar", "on case", "main ground bar")
    f.fill("terminals_c", int(_number("terminals")), "terminals")


def _supply(f: _Filling, rating: float | None) -> None:
    """A source's size from the service's, its impedance from typical plates."""
    element: Supply = f.element
    kind = f.fill("kind", "utility", why="usual")
    system = f.fill("system", System.SPLIT, why="the usual dwelling service")
    if kind == "generator":
        f.fill("kva", _number("generator kVA"), "generator kVA")
        f.fill("percent_z", _number("generator impedance %"), "generator impedance %")
        f.fill("x_over_r", _number("generator X over R"), "generator X over R")
        return
    if kind == "inverter":
        f.fill("kva", _number("inverter kVA"), "inverter kVA")
        f.fill("limit", _number("inverter current limit"), "inverter current limit")
        f.fill("percent_z", _number("inverter impedance %"), "inverter impedance %")
        f.fill("x_over_r", 0.0, why="electronics")
        return
    if not system.has_centre_tap:
        _network_supply(f, element)
        return
    large = rating is not None and rating > 200
    fact = "transformer kVA (over 200 A)" if large else "transformer kVA (service to 200 A)"
    why = tables.assumption_texts()[fact][1] or "common pole size for a larger service"
    kva = f.fill("kva", _number(fact), why=why)
    percent_z, x_over_r = supply.typical(kva)
    f.fill(
        "percent_z", percent_z, why="typical of its size; taken 25 % higher for the lowest current"
    )
    f.fill("x_over_r", x_over_r, why="typical of its size")
    if element.fault_a is not None:
        why = "the larger source of the two readings is on the safe side for the highest current"
        f.fill("fault_kind", "line to neutral", why=why)


def _network_supply(f: _Filling, element: Supply) -> None:
    """A wye or 230 V source: from its plate where its kVA is known, else a weak network."""
    if element.kva is not None:
        fact = "three-phase transformer impedance %"
        f.fill("percent_z", _number(fact), fact)
    elif element.fault_a is None or element.r1_ohm is not None:
        f.fill("r1_ohm", _number("metric source R1 ohm"), "metric source R1 ohm")
        f.fill("x1_ohm", _number("metric source X1 ohm"), "metric source X1 ohm")
    f.fill("x_over_r", 1.0, why="usual at the end of a low-voltage network")
    if element.fault_a is not None:
        kind = "line to line" if element.system and element.system.lines > 1 else "line to neutral"
        why = "the larger source of the two readings is on the safe side for the highest current"
        f.fill("fault_kind", kind, why=why)


def _service(f: _Filling, rating: float | None, edition: int, metric: set[str]) -> None:
    element: Service = f.element
    kind = f.fill("run", "underground", "service run")
    fact = "overhead drop length ft" if kind == "overhead" else "underground lateral length ft"
    f.fill("length_ft", _number(fact), why="a usual length for this run")
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


def _segments(f: _Filling) -> None:
    """What follows from a run's segments: known, not assumed. The segments decide."""
    if f.element.segments:
        for fact, value in derived(f.element.segments).items():
            f.values[fact] = value


def _feeder(f: _Filling, edition: int, buildings: dict[str, str | None]) -> None:
    _segments(f)
    element: Feeder = f.build()
    f.fill("poles", int(_number("feeder poles")), "feeder poles")
    f.fill("neutral", "yes", why="most have one")
    _method(f)
    apart = buildings.get(element.source) != buildings.get(element.to)
    fact = (
        "feeder to another building length ft" if apart else "feeder in the same building length ft"
    )
    f.fill("length_ft", _number(fact), why="a usual length for this run")
    f.fill("insulation", "thermoplastic", why="the less heat-proof of the two")
    f.fill("sets", 1, why="parallel runs are rare in dwellings")
    material = f.fill("line_material", "copper", why="usual")
    rating = element.breaker.rating_a
    line = element.line_size
    if rating is not None:
        line = f.fill(
            "line_size",
            lambda: (
                sizing.smallest_run(
                    rating, material, sizing.column_of(f.get("method"), 75), edition, f.get("sets")
                ).value
            ),
            "branch line size",
            why="the smallest its breaker allows",
        )
    _return_path(f, element, rating, edition)
    if line is not None and f.get("neutral") == "yes":
        f.fill("neutral_size", lambda: _feeder_neutral(line, rating, edition), "service neutral")


def _feeder_neutral(line: str, rating: float | None, edition: int) -> str:
    """A feeder's neutral is never under its EGC, nor assumed over its lines."""
    if rating is None or tables.is_metric(line):
        return line
    least = sizing.smallest_egc(rating, edition=edition).value
    return least if tables.area(least) <= tables.area(line) else line


def electrode_ohm(electrode: Electrode, soil_ohm_m: float) -> float | None:
    """Ohms of one electrode from its kind, sizes and soil; None where it counts for nothing."""
    kind, length = electrode.kind, electrode.length_ft
    radius = (electrode.diameter_in or _number("rod diameter in")) * INCH / 2
    depth = (electrode.depth_in or _number("plate and ring depth in")) * INCH
    if kind == "rod":
        return earth.rod(soil_ohm_m, (length or _number("rod length ft")) * FEET, radius)
    if kind == "plate":
        area = (electrode.area_sqft or _number("plate area sq ft")) * FEET**2
        return earth.plate(soil_ohm_m, area, depth)
    if kind == "concrete":
        steel = (length or _number("concrete-encased length ft")) * FEET
        wire = (electrode.diameter_in or 0.5) * INCH / 2
        return earth.concrete_encased(soil_ohm_m, steel, wire, depth)
    if kind == "ring":
        diameter = (length or _number("ring length ft")) * FEET / 3.14159
        return earth.ring(soil_ohm_m, diameter, (electrode.diameter_in or 0.29) * INCH, depth)
    if kind == "water":
        if length is None:
            return None  # an unknown length counts for nothing
        return earth.buried_wire(soil_ohm_m, length * FEET, radius, depth)
    return _service_electrode_ohm()


def _electrode(f: _Filling, soil_ohm_m: float, is_tt: bool) -> None:
    element: Electrode = f.element
    if element.kind in (None, "several"):
        why = "a rod that just passes; it matters little while the bond is closed"
        f.fill("ohm", _service_electrode_ohm(), why=why)
    else:
        why = f"from its kind and {soil_ohm_m:g} Ω·m soil"
        known = element.proved_ohm
        f.fill("ohm", known or (lambda: electrode_ohm(element, soil_ohm_m)), why=why)
    f.fill("gec_material", "copper", why="usual")
    if is_tt:
        f.fill("lands", "ground bar", why="TT: the electrode is the protective bar's own")
    f.fill("lands", "neutral bar", "electrode conductor lands")


@cache
def _service_electrode_ohm() -> float:
    text = tables.assumption_texts()["service electrode ohm"][0]
    return float(next(w for w in text.split() if w.isdecimal()))


def _metal(f: _Filling) -> None:
    element: Metal = f.element
    f.fill("bond_material", "copper", why="usual")
    if element.shared_main == "yes":
        f.fill("main_ohm", _number("shared water main ohm"), "shared water main ohm")
    if element.also_joins is not None:
        fact = "metal way between buildings ohm"
        f.fill("join_ohm", _number(fact), fact)


def _circuit(f: _Filling, site: Installation, edition: int) -> None:
    _segments(f)
    circuit: Circuit = f.build()
    poles = f.fill("poles", 1, why="most are")
    f.fill("neutral", "yes", why="most have one")
    _method(f)
    f.fill("insulation", "thermoplastic", why="the less heat-proof of the two")
    material = f.fill("line_material", "copper", why="usual in branch circuits")
    if circuit.length_ft is None:
        value, why = _length(site.sources.get(f"{circuit.id}.length_ft"))
        f.fill("length_ft", value, why=why)
    rating = circuit.breaker.rating_a
    if circuit.name and (kind := load_kind_in(circuit.name)):
        f.fill("load_kind", kind, why="by its name")
    f.fill("power_factor", 1.0, why="resistive unless said")
    if rating is None:
        _return_path(f, circuit, None, edition)
        return
    if circuit.load_va is None:
        system = site.supply.system or System.SPLIT
        volts = system.rated_volts(min(poles, system.lines))
        lines = math.sqrt(3) if poles == 3 and system.lines == 3 else 1
        f.fill("load_va", rating * volts * lines / 3, "load of a circuit")
    f.fill(
        "line_size",
        lambda: (
            sizing.smallest_line(
                rating, material, sizing.column_of(f.get("method"), 75), edition
            ).value
        ),
        why="the smallest its breaker allows",
    )
    _return_path(f, circuit, rating, edition)


def _method(f: _Filling) -> None:
    """Cable, unless its return is known to be a steel raceway."""
    if f.element.egc in ("raceway", "both"):
        f.fill("method", "EMT", why="of the steel raceways the one with most ohms")
    else:
        f.fill("method", "NM", why="the usual wiring of a dwelling")


def _length(source: Provenance | None) -> tuple[float, str]:
    """What a run is taken to be, and why: a bound that was answered beats the usual figure."""
    usual = _number("branch circuit length ft")
    why = tables.assumption_texts()["branch circuit length ft"][1]
    if source is None or source.bound is None:
        return usual, why
    if source.kind == "no more than":
        return source.bound, f"known to be no longer than {source.bound:g} ft"
    over = max(usual, round(source.bound * OVER_A_BOUND))
    return over, f"known to be over {source.bound:g} ft: measure it"


def _return_path(f: _Filling, run: Circuit | Feeder, rating: float | None, edition: int) -> None:
    """Sizes of a return that is known to be there; never its presence."""
    if run.egc in ("wire", "both"):
        material = _ground_metal(f)
        if run.egc_size is None:
            line = f.get("line_size")
            if line is not None and tables.is_metric(line):
                f.fill("egc_size", line, why="the same as the line")
            if rating is not None:
                f.fill(
                    "egc_size",
                    lambda: sizing.smallest_egc(rating, material=material, edition=edition).value,
                    "equipment grounding conductor size",
                )
    if run.egc in ("raceway", "both"):
        f.fill("raceway_size", "1/2", "raceway trade size in")


def _ground_metal(f: _Filling) -> str:
    """A cable's EGC is of its metal; one pulled into a raceway is usually copper."""
    if methods()[f.get("method")].carries_ground:
        return f.fill("egc_material", f.get("line_material"), why="the cable's own metal")
    return f.fill("egc_material", "copper", why="usual in a raceway")


def _array(f: _Filling) -> None:
    element: Array = f.element
    f.fill("strings", 1, why="usual on a small roof")
    f.fill("modules", 10, why="usual on a small roof")
    f.fill("isc_a", 10.0, why="a common module")
    f.fill("voc_v", 40.0 * f.get("modules"), why="a common module")
    f.fill("length_ft", 60.0, why="a usual length for this run")
    f.fill("line_size", "10", why="usual")
    if element.egc_size is not None:
        f.fill("egc_material", "copper", why="usual")
