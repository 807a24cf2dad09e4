"""Return path: is there a way home, and is it made as the rules ask."""

from ... import sizing, tables
from ...site import Set
from ...working import figures
from ..registry import Evidence, check

name = tables.size_name


@check(
    "bond-missing-service",
    "danger",
    looks="The neutral is not joined to the ground bar and case at the service disconnect.",
    why="Without it no fault current comes home, and no breaker opens.",
    topic="main_bonding_jumper",
    root=True,
    needs=("panels.bond", "study", "supplies.earthing"),
)
def bond_missing_service(s: Evidence):
    panel = s.panels[s.at_service]
    if s.filled.supply.earthing in ("TT", "TN-S"):
        return
    path = f"{panel.id}.bond"
    if panel.bond is None:
        yield s.ask(panel, path, "Is the main bond (screw, strap or wire) in?")
    if panel.bond != "out":
        return
    volts = [f.touch_earth_v for f in s.study.loops.values() if f.touch_earth_v is not None]
    worst = (
        f" A fault leaves metal at up to {figures(max(volts))} V: it does not clear."
        if volts
        else ""
    )
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
    needs=("panels.bond", "study"),
)
def bond_downstream(s: Evidence):
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
    needs=("panels.ground_bar",),
)
def ground_bar_not_on_case(s: Evidence):
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
    needs=("panels.grounds_on_neutral", "study"),
)
def grounds_on_isolated_neutral(s: Evidence):
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
    needs=(
        "panels.bond",
        "services.egc_size",
        "study",
        "supplies.bond",
        "supplies.earthing",
        "supplies.kind",
    ),
)
def meter_to_panel_parallel_wire(s: Evidence):
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
    needs=("panels.bond_kind", "panels.bond_size"),
)
def main_bonding_jumper_small(s: Evidence):
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
    needs=(
        "services.egc_size",
        "services.length_ft",
        "services.line_material",
        "services.line_size",
        "services.sets",
    ),
)
def supply_side_jumper_small(s: Evidence):
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


@check(
    "neutral-joined-at-outlet",
    "danger",
    looks="At an outlet or appliance the neutral is joined to the ground wire.",
    why="Half the load's current rides on the ground wire; a plug-in tester cannot see it.",
    topic="downstream_bond",
    needs=("circuits.outlet_bond", "study"),
)
def neutral_joined_at_outlet(s: Evidence):
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
