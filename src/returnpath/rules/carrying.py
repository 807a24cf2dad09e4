"""What a conductor may carry where it runs, and what it must carry: the sums of the chain's checks.

may:   its ampacity, corrected for heat and company, in the column of cable and terminals
must:  its load, 125 % of what lasts for hours; the device that protects it is set by *may*
"""

import math
import re
from typing import Any

from .. import sizing, tables
from ..conductor import methods
from ..errors import BadInput
from ..panels.demand import range_demand
from ..site import Circuit, Feeder, Panel, Service
from ..site.serves import continuous_kind_in, is_lighting, places_of
from ..sizing.surroundings import bundle_conductors, corrected_ampacity
from ..vocabulary import System
from ..working import Working
from .registry import Evidence

Run = Circuit | Feeder
COOL_C, USUAL_C, HOT_BASE_C = 60, 75, 90
#: Cable of this year and later is marked 90 °C inside (NM-B).
NM_B_SINCE = 1985
SMALL_CABLES, OLD_METHODS = ("NM",), ("K&T", "BX", "UF")
#: More than so many NM cables, unspaced in one sealed opening or in insulation, count (334.80).
NM_COUNT_OVER = 2
DWELLING_SHARE = 0.83
DWELLING_FROM_A, DWELLING_TO_A = 100.0, 400.0
CONTINUOUS = 1.25
#: Why a load counts as continuous that somebody said to be.
LASTING = "it lasts for hours"


def cable_column(s: Evidence, run: Run) -> int:
    """60 or 75 °C by the cable alone; nobody's cable is assumed to be the cooler one."""
    known = s.known(f"{run.id}.method")
    return sizing.column_of(run.method if known else None, USUAL_C)


def terminals_of(s: Evidence, run: Run) -> int:
    """The coolest terminals that somebody read at either end of a run, °C; 75 where nobody did."""
    if isinstance(run, Circuit):
        ends = [s.panels[run.panel], None]
        own = run.load_terminals_c
    else:
        ends, own = [s.panels[run.source], s.panels[run.to]], None
    read = [p.terminals_c for p in ends if p is not None and s.known(f"{p.id}.terminals_c")]
    return min((t for t in (*read, own) if t is not None), default=USUAL_C)


def base_column(s: Evidence, run: Run) -> tuple[int, bool]:
    """(the column that corrections begin in, whether that is known): 90 °C, but 60 of cable whose
    wires may be of 60 °C."""
    if run.around.cable_90 is not None:
        return (HOT_BASE_C if run.around.cable_90 == "yes" else COOL_C), True
    if run.method in OLD_METHODS:
        return COOL_C, True
    if run.method in SMALL_CABLES and (run.year or NM_B_SINCE) < NM_B_SINCE:
        return COOL_C, True
    return HOT_BASE_C, run.method not in SMALL_CABLES or run.year is not None


def together(run: Run) -> int | None:
    """How many current-carrying conductors heat each other; None where nobody said."""
    found = run.around.carrying
    if run.around.nm_together is not None and run.around.nm_together > NM_COUNT_OVER:
        found = max(found or 0, bundle_conductors(run.around.nm_together))
    if found is not None and run.around.neutral_counts == "yes":
        found += 1
    return found


def is_corrected(run: Run) -> bool:
    """Whether anything is told of it that changes its ampacity."""
    around = run.around
    return any(v is not None for v in (around.ambient_f, together(run), around.above_roof_in))


def ampacity_of(s: Evidence, run: Run, column: int, base: int | None = None) -> Working:
    """The ampacity of one of a run's conductors where it runs, A. BadInput where there is none."""
    base = base if base is not None else base_column(s, run)[0]
    around = run.around
    return corrected_ampacity(
        str(run.line_size),
        run.line_material or "copper",
        column,
        max(base, column) if not is_corrected(run) else base,
        around.ambient_f,
        together(run),
        around.above_roof_in,
        s.edition,
    )


def carries_a(s: Evidence, run: Run, column: int) -> float:
    """What all sets of a run carry, A; 0 where it is too hot for any."""
    try:
        return ampacity_of(s, run, column).number * sets_of(run)
    except BadInput:
        return 0.0


def sets_of(run: Any) -> int:
    """Conductors in parallel."""
    return getattr(run, "sets", None) or 1


def next_standard(amps: float) -> float:
    """The standard rating that serves so many amperes, the next one up; past 800 A itself."""
    return next((float(r) for r in tables.standard_ratings() if r >= amps - 1e-9), amps)


def allowed_of(s: Evidence, run: Run, column: int) -> float:
    """The largest device its wires may have, A: corrected ampacity, the next standard rating up,
    the ceiling of small conductors."""
    if not is_corrected(run):
        size, metal = str(run.line_size), run.line_material or "copper"
        return sizing.device_allowed_sets(size, metal, column, sets_of(run))
    carries = carries_a(s, run, column)
    if not carries:
        return 0.0
    if feeds_several_receptacles(run):
        below = [float(r) for r in tables.standard_ratings() if r <= carries + 1e-9]
        allowed = max(below, default=round(carries, 1))
    else:
        allowed = next_standard(carries)
    ceiling = tables.small_conductor_ceilings().get((str(run.line_size), run.line_material or ""))
    return allowed if ceiling is None or sets_of(run) > 1 else min(allowed, float(ceiling))


#: Places whose circuits have several receptacles: there the next rating up is not permitted.
RECEPTACLE_PLACES = ("kitchen", "kitchen counter", "bathroom", "garage", "outdoors", "bedroom",
                     "living", "laundry", "basement", "unfinished basement", "crawl",
                     "boathouse")  # fmt: skip


def feeds_several_receptacles(run: Run) -> bool:
    """Whether a branch circuit feeds several receptacles for what is plugged in (240.4(B)(1)), as
    far as its name or its places say so."""
    if not isinstance(run, Circuit) or (run.poles or 1) > 1 or run.load_kind is not None:
        return False
    is_general = any(place in RECEPTACLE_PLACES for place in places_of(run))
    return is_general and not is_lighting(run)


def smallest_for(s: Evidence, run: Run, rating: float, column: int) -> str | None:
    """The smallest line of a run, as it is wired, that a device may protect; None for none."""
    metal = run.line_material or "copper"
    if not is_corrected(run):
        try:
            return str(sizing.smallest_run(rating, metal, column, sets=sets_of(run)).value)
        except BadInput:
            return None
    for size in tables.sizes(metal):
        larger = run.model_copy(update={"line_size": size})
        if sets_of(run) > 1 and tables.area(size) < tables.area(sizing.LEAST_PARALLEL):
            continue
        if allowed_of(s, larger, column) >= rating:
            return size
    return None


def smallest_carrying(s: Evidence, run: Run, amps: float, column: int) -> str | None:
    """The smallest line that carries so many amperes, and that its device may protect."""
    rating = s.rating_of(run) or 0.0
    for size in tables.sizes(run.line_material or "copper"):
        larger = run.model_copy(update={"line_size": size})
        if carries_a(s, larger, column) >= amps and allowed_of(s, larger, column) >= rating:
            return size
    return None


# The dwelling's 83 %


_UNIT = re.compile(r"(?i)\b(?:unit|apt\.?|apartment|flat|suite)\s*#?\s*([a-z0-9]{1,4})\b")


def unit_of(s: Evidence, panel: Panel) -> str | None:
    """The dwelling unit of a panel: as given, else as its name says it."""
    if panel.unit:
        return panel.unit.strip().lower()
    match = _UNIT.search(panel.name or "")
    return match[1].lower() if match else None


def carries_whole_dwelling(s: Evidence, feeder: Feeder) -> bool:
    """Whether a feeder carries the whole load of one dwelling unit, never a part (310.12)."""
    below = s.chains[0].below(feeder.to) if s.chains else frozenset({feeder.to})
    end, source = s.panels[feeder.to], s.panels[feeder.source]
    permits = {b.id: b.permit for b in s.filled.buildings}
    if permits.get(end.building or "") not in (None, "dwelling"):
        return False
    if unit := unit_of(s, end):
        return all(p.id in below for p in s.filled.panels if unit_of(s, p) == unit)
    elsewhere = end.building is not None and end.building != source.building
    if elsewhere and permits.get(end.building or "") == "dwelling":
        own = {p.id for p in s.filled.panels if p.building == end.building}
        from_outside = any(
            c.building == end.building and c.panel not in own for c in s.filled.circuits
        )
        return own <= below and not from_outside
    others = [f for f in s.filled.feeders if f.source == feeder.source and f is not feeder]
    return not others and not any(c.panel == feeder.source for c in s.filled.circuits)


def fits_dwelling_rule(s: Evidence, run: Feeder | Service, rating: float, carries: float) -> bool:
    """Whether a line is as large as the dwelling rule asks for a rating: its table, or 83 % of it;
    single-phase three-wire only."""
    if s.filled.supply.system is not System.SPLIT:
        return False
    if not DWELLING_FROM_A <= rating <= DWELLING_TO_A:
        return False
    if carries >= DWELLING_SHARE * rating:
        return True
    if isinstance(run, Feeder) and is_corrected(run):
        return False
    try:
        table = sizing.service_line(rating, run.line_material or "copper", s.edition).value
    except BadInput:
        return False
    return sets_of(run) == 1 and tables.area(str(run.line_size)) >= tables.area(str(table))


# Loads


def load_amps(s: Evidence, circuit: Circuit) -> float | None:
    """The current of a circuit's load that somebody gave, A; a range's by its demand."""
    system = s.filled.supply.system
    if not circuit.load_va or system is None or not s.known(f"{circuit.id}.load_va"):
        return None
    poles = min(circuit.poles or 1, system.lines)
    va = circuit.load_va
    if circuit.load_kind == "range":
        va = min(va, range_demand([va]))
    volts = system.rated_volts(poles) * (math.sqrt(3) if poles == 3 else 1.0)
    return va / volts


def continuous_kind(circuit: Circuit) -> str | None:
    """Why a circuit's load counts as one that lasts for hours; None where it does not."""
    if circuit.continuous == "no" or circuit.managed == "yes":
        return None
    if circuit.continuous == "yes":
        return LASTING
    if circuit.load_kind in ("motor", "cooling", "range", "dryer"):
        return None
    if kind := continuous_kind_in(circuit.name or ""):
        return kind
    return "water heater" if circuit.load_kind == "water heater" else None


def motor_volts(s: Evidence, circuit: Circuit) -> float:
    """The volts a motor is made for, by its poles."""
    system = s.filled.supply.system or System.SPLIT
    return system.rated_volts(min(circuit.poles or 1, system.lines))


def is_made_for(run: Run) -> bool:
    """Whether a run's method is one of the tables' own."""
    return run.method in methods()
