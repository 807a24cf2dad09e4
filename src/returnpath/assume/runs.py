"""What stands in for facts of feeders, circuits and arrays; a return's presence never."""

import math

from .. import sizing, tables
from ..conductor import methods
from ..site import Array, Circuit, Feeder, Installation, Provenance
from ..site.segments import derived
from ..site.serves import load_kind_in
from ..vocabulary import System
from .filling import Filling, usual

#: How far over a "more than" bound the length is taken, so that the bound itself does not pass.
OVER_A_BOUND = 1.25


def fill_segments(f: Filling) -> None:
    """What follows from a run's segments: known, not assumed. The segments decide."""
    if f.element.segments:
        for fact, value in derived(f.element.segments).items():
            f.values[fact] = value


def fill_feeder(f: Filling, edition: int, buildings: dict[str, str | None]) -> None:
    fill_segments(f)
    element: Feeder = f.build()
    f.fill("poles", int(usual("feeder poles")), "feeder poles")
    f.fill("neutral", "yes", why="most have one")
    _method(f)
    apart = buildings.get(element.source) != buildings.get(element.to)
    fact = (
        "feeder to another building length ft" if apart else "feeder in the same building length ft"
    )
    f.fill("length_ft", usual(fact), why="a usual length for this run")
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


def fill_circuit(f: Filling, site: Installation, edition: int) -> None:
    fill_segments(f)
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


def _method(f: Filling) -> None:
    """Cable, unless its return is known to be a steel raceway."""
    if f.element.egc in ("raceway", "both"):
        f.fill("method", "EMT", why="of the steel raceways the one with most ohms")
    else:
        f.fill("method", "NM", why="the usual wiring of a dwelling")


def _length(source: Provenance | None) -> tuple[float, str]:
    """What a run is taken to be, and why: a bound that was answered beats the usual figure."""
    feet = usual("branch circuit length ft")
    why = tables.assumption_texts()["branch circuit length ft"][1]
    if source is None or source.bound is None:
        return feet, why
    if source.kind == "no more than":
        return source.bound, f"known to be no longer than {source.bound:g} ft"
    over = max(feet, round(source.bound * OVER_A_BOUND))
    return over, f"known to be over {source.bound:g} ft: measure it"


def _return_path(f: Filling, run: Circuit | Feeder, rating: float | None, edition: int) -> None:
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


def _ground_metal(f: Filling) -> str:
    """A cable's EGC is of its metal; one pulled into a raceway is usually copper."""
    if methods()[f.get("method")].carries_ground:
        return f.fill("egc_material", f.get("line_material"), why="the cable's own metal")
    return f.fill("egc_material", "copper", why="usual in a raceway")


def fill_array(f: Filling) -> None:
    element: Array = f.element
    f.fill("strings", 1, why="usual on a small roof")
    f.fill("modules", 10, why="usual on a small roof")
    f.fill("isc_a", 10.0, why="a common module")
    f.fill("voc_v", 40.0 * f.get("modules"), why="a common module")
    f.fill("length_ft", 60.0, why="a usual length for this run")
    f.fill("line_size", "10", why="usual")
    if element.egc_size is not None:
        f.fill("egc_material", "copper", why="usual")
