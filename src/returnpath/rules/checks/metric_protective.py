"""Metric rule set: sizes of protective, earthing and bonding conductors; rings; PEN."""

import math
from collections.abc import Iterator
from typing import Any

from ... import armour, sizing, tables
from ...assume_metric import loaded_of, reference_method, ring_rating
from ...errors import BadInput
from ...site import Circuit, Feeder, Metal, Set
from ...site.arrangement import Arrangement
from ...site.rings import is_ring
from ...study import FaultStudy
from ...study.conductors import has_armour
from ...vocabulary.units import CMIL_PER_MM2
from ...working import figures
from ..finding import PRACTICE
from ..metric import arrangement, metric_check, runs
from ..registry import Evidence, Yielded

FAMILY = "protective conductors"
SEPARATE_MM2 = {"yes": 4.0, "no": 2.5}
DOUBT = 0.9


def mm2(size: str) -> float:
    """Square millimetres of a size, of either table."""
    return tables.area(size) / CMIL_PER_MM2


def _used(study: FaultStudy, path: str) -> float | None:
    """The share of its limit that the conductor of a fact uses in a fault; None where it carries
    none."""
    found = [h.fraction for h in study.heat if h.carrier.path == path]
    return max(found, default=None)


@metric_check(
    "protective-conductor-small",
    "fix",
    looks="A protective conductor under the table, which heat does not allow either.",
    why="In a fault it may part before its device opens, and the metal is then live.",
    topic="protective_size",
    needs=(
        "circuits.egc_size",
        "circuits.line_size",
        "feeders.egc_size",
        "feeders.line_size",
        "study",
    ),
)
def protective_conductor_small(s: Evidence) -> Iterator[Yielded]:
    for run in runs(s):
        if run.egc not in ("wire", "both") or run.egc_size is None or run.line_size is None:
            continue
        path = f"{run.id}.egc_size"
        if not s.known(path) or not tables.is_metric(run.line_size) or _has_steel(run):
            continue
        needed = sizing.protective_by_table(run.line_size)
        if tables.area(run.egc_size) >= tables.area(needed.value):
            continue
        uses = [u for f in _faults(s, run) if (u := _used(f, path)) is not None]
        if not uses or max(uses) <= 1 or math.isinf(max(uses)):
            continue  # by calculation it serves, or nothing opens: that is told elsewhere
        share = f"in a fault it reaches {figures(max(uses) * 100)} % of its limit"
        yield s.found(
            run,
            f"{tables.size_name(run.egc_size)}; the table asks {needed.value.name}; {share}.",
            f"Run {needed.value.name}, or a faster device.",
            fix=(Set(path=path, value=needed.value),),
            parts=(f"{needed.value.name} protective conductor",),
            working=needed,
        )


def _has_steel(run: Circuit | Feeder) -> bool:
    return run.egc == "both"


def _faults(s: Evidence, run: Circuit | Feeder) -> Iterator[FaultStudy]:
    if isinstance(run, Circuit):
        found = s.study.loops.get(run.id)
        return [found] if found is not None and found.lowest_a is not None else []
    return [f for f in s.study.enclosures.values() if f.place == run.to and f.lowest_a is not None]


@metric_check(
    "armour-small",
    "fix",
    looks="The armour that is the protective conductor does not live through the fault.",
    why="It heats until the sheath burns, and may part.",
    topic="protective_size",
    needs=("circuits.line_size", "circuits.method", "feeders.line_size", "study"),
)
def armour_small(s: Evidence) -> Iterator[Yielded]:
    for run, use in _armours(s):
        if use > 1:
            yield s.found(
                run,
                f"The armour reaches {figures(use * 100)} % of what it lives through.",
                "A core beside it as protective conductor, a larger cable, or a faster device.",
                fix=(Set(path=f"{run.id}.egc", value="both"),),
            )


@metric_check(
    "armour-area-doubtful",
    "check",
    looks="An armour that serves only if its area is as listed.",
    why="The area of armour is known within a tenth; the manufacturer has the figure.",
    topic="the cable's data sheet",
    kind="manufacturer's instruction",
    needs=("circuits.line_size", "circuits.method", "feeders.line_size", "study"),
)
def armour_area_doubtful(s: Evidence) -> Iterator[Yielded]:
    for run, use in _armours(s):
        area, sure = armour.armour_mm2(run.line_size, armour.cores_of(run))
        if use <= 1 and use / DOUBT**2 > 1 and sure != "yes":
            yield s.found(
                run,
                f"The armour ({area:g} mm², {sure}) reaches {figures(use * 100)} % of its limit.",
                "Read its area off the manufacturer's sheet.",
            )


def _armours(s: Evidence) -> Iterator[Any]:
    for run in runs(s):
        if run.egc not in ("raceway", "both") or run.line_size is None or not has_armour(run):
            continue
        for fault in _faults(s, run):
            uses = [h.fraction for h in fault.heat if "armour" in h.carrier.label]
            if uses and math.isfinite(max(uses)):
                yield run, max(uses)


@metric_check(
    "separate-protective-small",
    "fix",
    looks="A protective conductor run apart from its lines under 2.5 or 4 mm².",
    why="Alone it is easily damaged, and nobody notices.",
    topic="protective_size",
    needs=("circuits.egc_size", "circuits.retrofit_ground"),
)
def separate_protective_small(s: Evidence) -> Iterator[Yielded]:
    for circuit in s.filled.circuits:
        if circuit.retrofit_ground is None or circuit.egc_size is None:
            continue
        least = SEPARATE_MM2["yes"]
        if mm2(circuit.egc_size) >= least * 0.99:
            continue
        yield s.found(
            circuit,
            f"{tables.size_name(circuit.egc_size)}, run apart from its lines; {least:g} mm² without"
            f" mechanical protection, {SEPARATE_MM2['no']:g} mm² with it.",
            f"Run {least:g} mm².",
            fix=(Set(path=f"{circuit.id}.egc_size", value=f"{least:g}mm2"),),
            parts=(f"{least:g} mm² protective conductor",),
        )


@metric_check(
    "earthing-conductor-small",
    "fix",
    looks="An earthing conductor smaller than the supply asks for.",
    why="It carries whatever the earth brings, and in TT all of the fault.",
    topic="earthing_conductor",
    needs=(
        "electrodes.gec_size",
        "electrodes.kind",
        "services.line_size",
        "supplies.earthing",
    ),
)
def earthing_conductor_small(s: Evidence) -> Iterator[Yielded]:
    line = s.filled.service.line_size
    for electrode in s.filled.electrodes:
        path = f"{electrode.id}.gec_size"
        if electrode.gec_size is None or line is None or not s.known(path):
            continue
        feeder = s.feeder_to.get(electrode.panel)
        own = feeder.line_size if feeder is not None and feeder.line_size else line
        if not tables.is_metric(own):
            continue
        tt = arrangement(s, electrode.panel) is Arrangement.TT
        needed = sizing.earthing_conductor("6mm2" if tt else own)
        if tables.area(electrode.gec_size) >= tables.area(needed.value):
            continue
        yield s.found(
            electrode,
            f"{tables.size_name(electrode.gec_size)}; {needed.value.name} copper is needed.",
            f"Run {needed.value.name}.",
            fix=(Set(path=path, value=needed.value),),
            parts=(f"{needed.value.name} earthing conductor",),
            working=needed,
        )


BONDED = ("water", "gas", "structure")


@metric_check(
    "main-bonding-missing",
    "fix",
    looks="A metal service pipe or structure that is not bonded to the earthing terminal.",
    why="A fault puts the pipe and the metal beside it at different voltages.",
    topic="main_bonding",
    needs=(
        "metals.bonded",
        "metals.kind",
        "metals.material",
        "metals.past_repair",
        "services.line_size",
        "services.neutral_size",
        "supplies.earthing",
    ),
)
def main_bonding_missing(s: Evidence) -> Iterator[Yielded]:
    for metal in s.filled.metals:
        if metal.kind not in BONDED or metal.material in ("plastic", "none"):
            continue
        path = f"{metal.id}.bonded"
        if metal.bonded is None:
            yield s.ask(metal, path, "Is it bonded to the main earthing terminal?")
        elif metal.bonded == "no" or metal.past_repair == "yes":
            size = _bonding(s, metal).value
            fix = (
                Set(path=f"{metal.id}.panel", value=metal.panel or s.at_service),
                Set(path=path, value="yes"),
                Set(path=f"{metal.id}.bond_size", value=size),
                Set(path=f"{metal.id}.past_repair", value="no"),
            )
            yield s.found(
                metal,
                "It is metal where it enters, and not bonded.",
                f"Bond it where it enters by {size.name} to the main earthing terminal.",
                fix=fix,
                parts=(f"{size.name} bonding conductor", "pipe clamp with its label"),
            )


def _bonding(s: Evidence, metal: Metal) -> Any:
    run = s.filled.service
    panel = metal.panel or s.at_service
    feeder = s.feeder_to.get(panel)
    line = feeder.line_size if feeder is not None and feeder.line_size else run.line_size
    neutral = run.neutral_size if feeder is None else feeder.neutral_size
    line = line if line and tables.is_metric(line) else "16mm2"
    neutral = neutral if neutral and tables.is_metric(neutral) else line
    return sizing.main_bonding(arrangement(s, panel) or "TN-C-S", line, neutral)


@metric_check(
    "main-bonding-small",
    "fix",
    looks="A main bonding conductor smaller than its rule.",
    why="With a lost PEN it carries the load of the house, day and night.",
    topic="bonding_size",
    needs=(
        "metals.bond_size",
        "metals.bonded",
        "metals.kind",
        "metals.material",
        "services.line_size",
        "services.neutral_size",
        "supplies.earthing",
    ),
)
def main_bonding_small(s: Evidence) -> Iterator[Yielded]:
    for metal in s.filled.metals:
        if metal.kind not in BONDED or metal.bonded != "yes" or metal.bond_size is None:
            continue
        if metal.material in ("plastic", "none"):
            continue
        needed = _bonding(s, metal)
        if tables.area(metal.bond_size) >= tables.area(needed.value):
            continue
        yield s.found(
            metal,
            f"{tables.size_name(metal.bond_size)}; {needed.value.name} is needed.",
            f"Run {needed.value.name}.",
            fix=(Set(path=f"{metal.id}.bond_size", value=needed.value),),
            parts=(f"{needed.value.name} bonding conductor",),
            working=needed,
        )


@metric_check(
    "pen-small",
    "fix",
    looks="A PEN conductor under 10 mm² copper or 16 mm² aluminium.",
    why="It is neutral and earth at once: if it parts, every metal is live.",
    topic="pen",
    needs=(
        "feeders.egc",
        "feeders.line_material",
        "feeders.neutral_size",
        "panels.bond",
    ),
)
def pen_small(s: Evidence) -> Iterator[Yielded]:
    for feeder in s.filled.feeders:
        if feeder.egc != "none" or s.panels[feeder.to].bond != "in" or not feeder.neutral_size:
            continue
        aluminium = feeder.line_material == "aluminium"
        least = sizing.PEN_ALUMINIUM_MM2 if aluminium else sizing.PEN_COPPER_MM2
        if mm2(feeder.neutral_size) < least * 0.99:
            yield s.found(
                feeder,
                f"Its PEN is {tables.size_name(feeder.neutral_size)}; {least:g} mm² is the least.",
                "Run a protective conductor apart, or a PEN of that size.",
                fix=(Set(path=f"{feeder.id}.neutral_size", value=f"{least:g}mm2"),),
            )


@metric_check(
    "rcd-on-pen",
    "fix",
    looks="A residual-current device on a PEN conductor.",
    why="The fault comes home through the device and it sees nothing.",
    topic="pen",
    needs=("feeders.egc", "feeders.rcd_ma", "panels.bond"),
)
def rcd_on_pen(s: Evidence) -> Iterator[Yielded]:
    for feeder in s.filled.feeders:
        if feeder.rcd_ma is None or feeder.egc != "none" or s.panels[feeder.to].bond != "in":
            continue
        yield s.found(
            feeder,
            f"{feeder.rcd_ma:g} mA, and neutral and earth are joined behind it.",
            "Separate neutral and protective conductor ahead of the device.",
        )


@metric_check(
    "ring-broken",
    "fix",
    looks="A conductor of a ring is open: both ends no longer meet.",
    why="One leg of a broken line carries it all, and a broken protective conductor is unseen.",
    topic="ring",
    root=True,
    needs=(
        "circuits.breaker.rating_a",
        "circuits.ring",
        "circuits.ring_open",
    ),
)
def ring_broken(s: Evidence) -> Iterator[Yielded]:
    for circuit in s.filled.circuits:
        if not is_ring(circuit) or circuit.ring_open in (None, "none"):
            continue
        load = circuit.ring_open in ("line", "neutral")
        rating = circuit.breaker.rating_a
        carries = f": one side may carry {rating:g} A" if load and rating else ""
        yield s.found(
            circuit,
            f"Its {circuit.ring_open} is open end to end{carries}.",
            "Find the break by halves and join it; until then protect it as a radial, 20 A.",
            fix=(Set(path=f"{circuit.id}.ring_open", value="none"),),
        )


@metric_check(
    "ring-unread",
    "check",
    looks="Nobody has read the ends of a ring.",
    why="A broken ring works as if it were whole.",
    topic="verification",
    needs=("circuits.ring", "circuits.ring_open"),
)
def ring_unread(s: Evidence) -> Iterator[Yielded]:
    for circuit in s.site.circuits:
        if is_ring(circuit) and circuit.ring_open is None:
            yield s.ask(
                circuit,
                f"{circuit.id}.ring_open",
                "Do r1, rn and r2 all read end to end? r2 is r1 times the sizes' ratio.",
            )


@metric_check(
    "ring-leg-small",
    "check",
    looks="A leg of a ring carries less than two thirds of its device.",
    why="Loads near one end of a ring go mostly by one leg.",
    topic="ring",
    kind=PRACTICE,
    needs=(
        "circuits.breaker.rating_a",
        "circuits.insulation",
        "circuits.line_size",
        "circuits.method",
        "circuits.poles",
        "circuits.ring",
        "circuits.route",
    ),
)
def ring_leg_small(s: Evidence) -> Iterator[Yielded]:
    for circuit in s.filled.circuits:
        rating = circuit.breaker.rating_a
        if not is_ring(circuit) or rating is None or circuit.line_size is None:
            continue
        carries = capacity_of(circuit)
        if carries is not None and carries < ring_rating(rating) - 1e-9:
            yield s.found(
                circuit,
                f"One side of it carries {carries:g} A; behind {rating:g} A it is asked"
                f" {figures(ring_rating(rating))} A.",
                "A smaller device, larger wire, or two radials.",
            )


def capacity_of(run: Circuit | Feeder) -> float | None:
    """Iz of a run where its wire and method are in the table, A."""
    if run.line_size is None or not tables.is_metric(run.line_size):
        return None
    try:
        kind = run.insulation or "thermoplastic"
        method = reference_method(run, run.method)
        return sizing.current_capacity(run.line_size, kind, loaded_of(run.poles), method)
    except BadInput:
        return None
