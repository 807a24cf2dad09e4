"""Return path: is there a way home, and is it made as the rules ask."""

from ... import sizing, tables
from ...errors import BadInput
from ...site import Set
from ...working import figures
from ..registry import Solved, check

name = tables.size_name


def runs(s: Solved):
    """Circuits and feeders: what has a ground wire of its own."""
    return (*s.filled.circuits, *s.filled.feeders)


@check(
    "bond-missing-service",
    "danger",
    looks="The neutral is not joined to the ground bar and case at the service disconnect.",
    why="Without it no fault current comes home, and no breaker opens.",
    topic="main_bonding_jumper",
    root=True,
)
def bond_missing_service(s: Solved):
    panel = s.panels[s.at_service]
    if s.filled.supply.earthing in ("TT", "TN-S"):
        return
    path = f"{panel.id}.bond"
    if panel.bond is None:
        yield s.ask(panel, path, "Is the main bond (screw, strap or wire) in?")
    if panel.bond != "out":
        return
    volts = [f.touch_earth_v for f in s.study.loops.values() if f.touch_earth_v is not None]
    worst = f" A fault leaves metal at up to {figures(max(volts))} V, for ever." if volts else ""
    yield s.found(
        panel,
        f"The main bond is out: the ground bar is not joined to the neutral.{worst}",
        "Make the bond at the service: screw, strap or wire.",
        fix=(Set(path=path, value="in"),),
        parts=("main bonding jumper for the enclosure",),
    )


@check(
    "bond-downstream",
    "danger",
    looks="A sub-panel in the same building joins its neutral to its ground bar again.",
    why="The load's current comes home on metal that a hand can touch.",
    topic="downstream_bond",
    root=True,
)
def bond_downstream(s: Solved):
    for panel in s.filled.panels:
        if panel.bond != "in" or not s.is_downstream(panel.id):
            continue
        feeder = s.feeder_to[panel.id]
        if s.other_building(feeder):
            continue  # the outbuilding family judges those
        amps = s.load_amps(f"{feeder.id}.egc") + s.load_amps(f"{feeder.id}.raceway")
        yield s.found(
            panel,
            f"Bonded a second time: {figures(amps)} A of load rides on the feeder's ground"
            " path and the metal with it.",
            "Take the bond screw or strap out and keep it with the papers.",
            fix=(Set(path=f"{panel.id}.bond", value="out"),),
        )


@check(
    "ground-bar-not-on-case",
    "fix",
    looks="The bar for the ground wires is not screwed to the panel's case.",
    why="A fault to the case has no way to the bar, and the case stays live.",
    topic="bar_on_case",
    root=True,
)
def ground_bar_not_on_case(s: Solved):
    for panel in s.filled.panels:
        if panel.ground_bar == "isolated":
            yield s.found(
                panel,
                "The ground bar stands apart from the case.",
                "Fasten the bar to bare metal of the case with its own machine screws.",
                fix=(Set(path=f"{panel.id}.ground_bar", value="on case"),),
                parts=("ground bar with screws for this panel",),
            )


@check(
    "grounds-on-isolated-neutral",
    "danger",
    looks="Ground wires land on a neutral bar that is not bonded at this panel.",
    why="Every metal case on them is at the neutral's volts, and goes live when it is lost.",
    topic="downstream_bond",
    root=True,
)
def grounds_on_isolated_neutral(s: Solved):
    for panel in s.filled.panels:
        if panel.grounds_on_neutral == "yes" and panel.id != s.at_service:
            amps = max(s.load_amps(f"{panel.id}.tie"), 0.0)
            yield s.found(
                panel,
                f"Ground wires sit on the neutral bar; {figures(amps)} A of load crosses to them.",
                "Give the ground wires a bar of their own on the case.",
                fix=(Set(path=f"{panel.id}.grounds_on_neutral", value="no"),),
                parts=("ground bar with screws for this panel",),
            )


@check(
    "meter-to-panel-parallel-wire",
    "fix",
    looks="A bare wire runs beside the neutral from the supply to a bonded panel.",
    why="It shares the neutral's current all day, and so does the metal it touches.",
    topic="parallel_neutral",
)
def meter_to_panel_parallel_wire(s: Solved):
    for run in s.filled.services:
        supply = next(u for u in s.filled.supplies if u.id == run.supply)
        twice = s.panels[run.to].bond == "in" and (supply.kind == "utility" or supply.bond == "in")
        if run.egc_size is None or not twice or supply.earthing == "TN-S":
            continue
        amps = s.load_amps(f"{run.id}.egc")
        fix = (Set(path=f"{run.id}.egc_size", value=None),)
        do = "Take the parallel wire out: the neutral is the return on the supply side."
        if supply.kind != "utility":
            fix = (Set(path=f"{supply.id}.bond", value="out"),)
            do = "Lift the neutral bond in the generator, or switch its neutral too."
        yield s.found(
            run, f"{figures(amps)} A of load rides on the wire beside the neutral.", do, fix=fix
        )


@check(
    "main-bonding-jumper-small",
    "fix",
    looks="A main bonding jumper of wire is smaller than its table.",
    why="It carries the whole fault current of the house.",
    topic="main_bonding_jumper",
)
def main_bonding_jumper_small(s: Solved):
    for panel in s.filled.panels:
        row = s.sizes.get(f"{panel.id}.bond_size")
        if row is not None and row.meets is False:
            yield s.found(
                panel,
                f"The bonding jumper is {name(row.installed)}; {name(row.needed)} is needed.",
                f"Fit {name(row.needed)} copper, or the enclosure's own screw or strap.",
                fix=(Set(path=row.path, value=row.needed),),
                parts=(f"{name(row.needed)} copper",),
                working=row.working,
            )


@check(
    "supply-side-jumper-small",
    "fix",
    looks="A bonding jumper on the supply side is smaller than its table.",
    why="Ahead of the main no breaker limits the fault: the wire must carry all of it.",
    topic="supply_side_jumper",
)
def supply_side_jumper_small(s: Solved):
    for run in s.filled.services:
        if run.egc_size is None or run.line_size is None or tables.is_metric(run.line_size):
            continue
        needed = sizing.main_bonding_jumper(
            run.line_size, run.line_material, run.sets, edition=s.edition
        )
        if tables.area(run.egc_size) < tables.area(needed.value):
            yield s.found(
                run,
                f"The supply-side jumper is {name(run.egc_size)}; {name(needed.value)} is needed.",
                f"Run {name(needed.value)}.",
                fix=(Set(path=f"{run.id}.egc_size", value=needed.value),),
                parts=(f"{run.length_ft:g} ft of {name(needed.value)}",),
                working=needed,
            )


def _is_old(circuit) -> bool:
    """Old two-wire and three-wire work: the old-work family judges it."""
    return circuit.outlets in ("two-slot", "labelled", "three-slot") or circuit.load_kind in (
        "range",
        "dryer",
    )


@check(
    "egc-missing",
    "danger",
    looks="A circuit, or a feeder within a building, has nothing that brings a fault home.",
    why="The breaker sees no current and stays closed; the case stays at line voltage.",
    topic="fault_path",
)
def egc_missing(s: Solved):
    for run in runs(s):
        is_feeder = run in s.filled.feeders
        if is_feeder and s.other_building(run):
            continue
        if run.egc != "none" or (not is_feeder and (_is_old(run) or run.relied_on)):
            continue
        size = _needed_egc(s, run)
        wire = f"{name(size)} copper" if size else "an equipment grounding conductor"
        fix = (Set(path=f"{run.id}.egc", value="wire"),)
        if size:
            fix = (*fix, Set(path=f"{run.id}.egc_size", value=size))
        yield s.found(
            run,
            "Nothing brings a fault current home.",
            f"Run {wire} with the conductors.",
            fix=fix,
            parts=(f"{run.length_ft:g} ft of {wire}",),
        )


def _needed_egc(s: Solved, run) -> str | None:
    if run.breaker.rating_a is None or run.line_size is None or tables.is_metric(run.line_size):
        return None
    column = s.filled.panel.terminals_c
    try:
        return sizing.smallest_egc(
            run.breaker.rating_a,
            line=run.line_size,
            line_material=run.line_material,
            column_c=column,
            edition=s.edition,
        ).value
    except BadInput:
        return None


def _short(s: Solved, upsized: bool):
    """(run, row) of ground wires that are too small, because of upsizing or not."""
    for run in runs(s):
        row = s.sizes.get(f"{run.id}.egc_size")
        if row is None or row.meets is not False:
            continue
        base = sizing.smallest_egc(run.breaker.rating_a, material=row.needed_material)
        enough = tables.area(row.installed) >= tables.area(base.value)
        if enough is upsized:
            yield run, row


def _larger_egc(s: Solved, run, row, found: str):
    """The finding of either check: the same wire mends both."""
    wire = f"{name(row.needed)} {row.needed_material}"
    return s.found(
        run,
        f"Ground wire {found}",
        f"Run {wire} with the conductors.",
        fix=(Set(path=row.path, value=row.needed),),
        parts=(f"{run.length_ft:g} ft of {wire}",),
        working=row.working,
    )


@check(
    "egc-small",
    "fix",
    looks="A ground wire is smaller than the table for its breaker.",
    why="It must carry a fault until the breaker opens.",
    topic="egc_size",
)
def egc_small(s: Solved):
    for run, row in _short(s, upsized=False):
        needed = f"{name(row.needed)} {row.needed_material}"
        found = f"{name(row.installed)}; {needed} is needed for {run.breaker.rating_a:g} A."
        yield _larger_egc(s, run, row, found)


@check(
    "egc-not-upsized",
    "fix",
    looks="The lines were made larger, the ground wire was not.",
    why="A longer run needs a better way home too, or the breaker opens late.",
    topic="egc_upsized",
)
def egc_not_upsized(s: Solved):
    for run, row in _short(s, upsized=True):
        needed = f"{name(row.needed)} {row.needed_material}"
        found = f"{name(row.installed)} beside {name(run.line_size)} lines; {needed} is needed."
        yield _larger_egc(s, run, row, found)


FLEX_TOTAL_FT = 6.0
FLEX_LIMIT_A = {"FMC": 20, "LFMC 3/8-1/2": 20, "LFMC 3/4-1-1/4": 60}


@check(
    "egc-not-a-lawful-path",
    "fix",
    looks="What is relied on as the return does not count as one, or not under these conditions.",
    why="It may carry a tester's milliamperes and still not a fault.",
    topic="egc_path",
)
def egc_not_a_lawful_path(s: Solved):
    forms = {r["return_path"]: r for r in tables.rows("conductor_forms")}
    for circuit in s.filled.circuits:
        form = circuit.relied_on
        if form is None or circuit.egc in ("wire", "raceway", "both"):
            continue
        why = _form_problem(forms.get(form), form, circuit)
        if why:
            yield s.found(
                circuit,
                why,
                "Run a ground wire with the circuit.",
                fix=(
                    Set(path=f"{circuit.id}.relied_on", value=None),
                    Set(path=f"{circuit.id}.egc", value="wire"),
                    Set(path=f"{circuit.id}.egc_size", value=_needed_egc(s, circuit)),
                ),
                parts=(f"{circuit.length_ft:g} ft of ground wire",),
            )


def _form_problem(row, form: str, circuit) -> str:
    """Why a form does not count here; "" where it does."""
    if form in FLEX_LIMIT_A:
        limit = FLEX_LIMIT_A[form]
        feet = circuit.flex_ft if circuit.flex_ft is not None else circuit.length_ft
        if circuit.breaker.rating_a and circuit.breaker.rating_a > limit:
            return f"{form} counts up to {limit} A; the breaker is {circuit.breaker.rating_a:g} A."
        if feet > FLEX_TOTAL_FT:
            return f"{feet:g} ft of {form}; {FLEX_TOTAL_FT:g} ft together is the most that counts."
        return ""
    if row is None or row["counts_as_egc"].startswith(("no", "never", "only")):
        return f"{form[:1].upper() + form[1:]} alone does not count as a return."
    return ""


@check(
    "egc-shared-too-small",
    "fix",
    looks="One ground wire serves several circuits and is sized for a smaller breaker than theirs.",
    why="The largest breaker decides how long a fault lasts.",
    topic="egc_shared",
)
def egc_shared_too_small(s: Solved):
    by_id = {c.id: c for c in s.filled.circuits}
    for circuit in s.filled.circuits:
        owner = by_id.get(circuit.shares_egc_with or "")
        if owner is None or owner.egc_size is None or not circuit.breaker.rating_a:
            continue
        needed = sizing.smallest_egc(circuit.breaker.rating_a, edition=s.edition)
        if s.known(f"{owner.id}.egc_size") and tables.area(owner.egc_size) < tables.area(
            needed.value
        ):
            yield s.found(
                circuit,
                f"Shares a {name(owner.egc_size)} ground wire; its {circuit.breaker.rating_a:g} A"
                f" breaker needs {name(needed.value)}.",
                f"Run {name(needed.value)} for the group.",
                fix=(Set(path=f"{owner.id}.egc_size", value=needed.value),),
                parts=(f"{owner.length_ft:g} ft of {name(needed.value)}",),
                working=needed,
            )


@check(
    "neutral-joined-at-outlet",
    "danger",
    looks="At an outlet or appliance the neutral is joined to the ground wire.",
    why="Half the load's current rides on the ground wire; a plug-in tester cannot see it.",
    topic="downstream_bond",
    root=True,
)
def neutral_joined_at_outlet(s: Solved):
    for circuit in s.filled.circuits:
        if circuit.outlet_bond == "yes":
            amps = s.load_amps(f"{circuit.id}.egc") + s.load_amps(f"{circuit.id}.raceway")
            yield s.found(
                circuit,
                f"Neutral and ground are joined at the outlet: {figures(amps)} A on the ground"
                " path.",
                "Part them at the outlet; look for a strap left in.",
                fix=(Set(path=f"{circuit.id}.outlet_bond", value="no"),),
            )
