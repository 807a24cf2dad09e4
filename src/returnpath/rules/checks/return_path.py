"""Return path: is there a way home, and is it made as the rules ask."""

from ... import sizing, tables
from ...site import Set
from ...site.service import SAID_IN_NAME
from ...study import Verdict
from ...working import count_of, show_amps, show_volts
from ..registry import Evidence, check, rule_authority

name = tables.size_name


@check(
    "bond-missing-service",
    "danger",
    looks="The neutral is not bonded to the ground bar and enclosure at the service disconnect.",
    why="Without it no fault current comes back, and no breaker trips.",
    topic="main_bonding_jumper",
    root=True,
    needs=("panels.bond", "study", "supplies.earthing"),
)
def bond_missing_service(s: Evidence):
    if s.filled.supply.earthing in ("TT", "TN-S", "IT") or s.earthing_unknown:
        return
    for id in s.services:
        panel, path = s.panels[id], f"{id}.bond"
        if panel.bond is None:
            yield s.ask(panel, path, "Is the main bonding jumper (screw, strap or wire) in?")
        if panel.bond != "out":
            continue
        volts = [f.touch_earth_v for f in s.study.loops.values() if f.touch_earth_v is not None]
        high = max(volts, default=0.0)
        worst = f" A fault leaves metal at up to {show_volts(high)}: it does not clear."
        tap = id != s.at_service
        what = "Its own bonding jumper" if tap else "The main bonding jumper"
        yield s.found(
            panel,
            f"{what} is out: the ground bar is not connected to the neutral."
            f"{worst if high >= LOW_V and not tap else ''}",
            "Install the bonding jumper here: screw, strap or wire."
            if tap
            else "Install the main bonding jumper at the service: screw, strap or wire.",
            fix=(Set(path=path, value="in"),),
            authority=rule_authority("supply_side_equipment", s.edition) if tap else None,
            parts=("main bonding jumper for the enclosure",),
        )


#: Volts on metal that nobody feels: under this none are told.
LOW_V = 1.0


@check(
    "supply-enclosure-unbonded",
    "fix",
    looks="A meter or disconnect ahead of the service is not bonded to its neutral.",
    why="No breaker is ahead of it: a fault to its enclosure burns until the utility's fuse opens.",
    topic="supply_side_equipment",
    needs=("panels.bond", "panels.kind", "panels.marked", "study"),
)
def supply_enclosure_unbonded(s: Evidence):
    for panel in s.filled.panels:
        if panel.id not in s.ahead or panel.bond != "out" or s.has_supply_jumper(panel.id):
            continue
        yield s.found(
            panel,
            "Ahead of the service, and its enclosure is not bonded.",
            "Bond its neutral to the enclosure, or run a supply-side bonding jumper.",
            fix=(Set(path=f"{panel.id}.bond", value="in"),),
            parts=("bonding screw or jumper for the enclosure",),
        )


@check(
    "disconnect-marking",
    "check",
    looks="A disconnect ahead of the panel, and nobody has read how it is marked.",
    why="Its label decides where the main bonding jumper belongs: in it, or in the panel inside.",
    topic="emergency_disconnect",
    needs=("panels.bond", "panels.kind", "panels.marked"),
)
def disconnect_marking(s: Evidence):
    first = {r.to for r in s.filled.services}
    for panel in s.filled.panels:
        if panel.kind != "emergency disconnect" or panel.marked is not None:
            continue
        said = SAID_IN_NAME in (panel.name or "").lower()
        if said or (panel.id not in first and panel.id not in s.ahead | set(s.services)):
            continue
        yield s.ask(
            panel,
            f"{panel.id}.marked",
            "How is it marked: “service disconnect” (then everything inside is a sub-panel),"
            " “meter disconnect” or “emergency disconnect, not service equipment” (then the indoor"
            " bond stays)?",
        )


@check(
    "bond-downstream",
    "danger",
    looks="A sub-panel in the same building bonds its neutral to its ground bar again.",
    why="The load's current comes back on metal that a hand can touch.",
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
        if feeder.egc in ("wire", "raceway", "both"):
            yield _bonded_twice(s, panel, feeder)
        else:
            yield _bonded_without_egc(s, panel, feeder)


def _bonded_twice(s: Evidence, panel, feeder):
    amps = s.load_amps(f"{feeder.id}.egc") + s.load_amps(f"{feeder.id}.raceway")
    return s.found(
        panel,
        f"Bonded a second time: {show_amps(amps)} of load rides on the feeder's EGC and the metal"
        " with it.",
        "Move the grounds to a bar on the enclosure, then take the bond screw or strap out and"
        " leave it in the panel's pocket.",
        fix=(Set(path=f"{panel.id}.bond", value="out"), *apart(s, panel)),
    )


def apart(s: Evidence, panel) -> tuple[Set, ...]:
    """The edits that give the EGCs of a panel a bar of their own on the enclosure."""
    edits = []
    if panel.grounds_on_neutral == "yes":
        edits.append(Set(path=f"{panel.id}.grounds_on_neutral", value="no"))
    if panel.ground_bar != "on case":
        edits.append(Set(path=f"{panel.id}.ground_bar", value="on case"))
    return tuple(edits)


def fourth_wire(s: Evidence, feeder) -> tuple[tuple[Set, ...], str]:
    """(the edits that bring an EGC with a feeder, its size in words)."""
    from .ground_wires import needed_egc

    size = needed_egc(s, feeder)
    if feeder.line_size is not None and tables.is_metric(feeder.line_size):
        size = str(sizing.protective_by_table(feeder.line_size).value)
    if size is None:
        size = sizing.smallest_egc(s.rating_of(feeder) or 60, edition=s.edition).value
    return (
        Set(path=f"{feeder.id}.egc", value="wire"),
        Set(path=f"{feeder.id}.egc_size", value=size),
        Set(path=f"{feeder.id}.egc_material", value="copper"),
    ), f"{name(size)} copper"


def _bonded_without_egc(s: Evidence, panel, feeder):
    """The neutral is the only path: the bond may only come out once another is there."""
    edits, wire = fourth_wire(s, feeder)
    if feeder.egc is None:
        edits = ()
    steps = (
        f"In this order: run an EGC ({wire}) with the feeder and prove it; move the grounds to a"
        " bar on the enclosure; only then take the bond out. Taken out first, every enclosure"
        " behind it has no path at all."
    )
    return s.found(
        panel,
        "Bonded past the service, and the neutral is its only path: its enclosures go live when"
        " that neutral opens."
        if feeder.egc == "none"
        else "Bonded past the service; whether an EGC comes with its feeder is not known.",
        steps,
        fix=(*edits, Set(path=f"{panel.id}.bond", value="out"), *apart(s, panel)) if edits else (),
        parts=(f"{feeder.length_ft:g} ft of {wire}", "ground bar with screws for this panel"),
    )


@check(
    "ground-bar-not-on-case",
    "danger",
    looks="The bar for the EGCs is not screwed to the panel's enclosure.",
    why="A fault has no way from the enclosure to the bar, or from the bar home: metal stays live.",
    topic="bar_on_case",
    root=True,
    needs=(
        "circuits.egc",
        "panels.bond",
        "panels.grounds_on_neutral",
        "panels.ground_bar",
        "study",
    ),
)
def ground_bar_not_on_case(s: Evidence):
    for panel in s.filled.panels:
        if panel.ground_bar != "isolated":
            continue
        home = s.study.enclosures.get(panel.id)
        dead = home is not None and home.verdict is Verdict.MAY_NEVER_OPEN
        floats = [
            c
            for c in s.filled.circuits
            if c.panel == panel.id
            and c.egc in ("wire", "both")
            and s.study.loops[c.id].verdict is Verdict.MAY_NEVER_OPEN
        ]
        said = "The ground bar is not fastened to the enclosure."
        if panel.bond == "in" and floats:
            said += " The bond joins the neutral to the enclosure, not to that bar: it floats."
        if dead:
            said += " A fault to the enclosure finds no path back."
        if floats:
            said += f" {count_of(len(floats), 'EGC')} on it {_leads(len(floats))} nowhere."
        yield s.found(
            panel,
            said,
            "Fasten the bar to bare metal of the enclosure with its own machine screws.",
            level=None if dead or floats else "fix",
            fix=(Set(path=f"{panel.id}.ground_bar", value="on case"),),
            parts=("ground bar with screws for this panel",),
        )


def _leads(count: int) -> str:
    return "leads" if count == 1 else "lead"


@check(
    "grounds-on-isolated-neutral",
    "danger",
    looks="EGCs land on a neutral bar that is not bonded at this panel.",
    why="Every enclosure on them is at the neutral's volts, and goes live when it is lost.",
    topic="downstream_bond",
    needs=("panels.bond", "panels.grounds_on_neutral", "panels.ground_bar", "study"),
)
def grounds_on_isolated_neutral(s: Evidence):
    for panel in s.filled.panels:
        # Where the neutral is bonded, one bar for both is what the bond makes of it anyway.
        bonded = panel.id in s.services or panel.id in s.ahead or panel.bond == "in"
        if panel.grounds_on_neutral == "yes" and not bonded:
            amps = max(s.load_amps(f"{panel.id}.tie"), 0.0)
            yield s.found(
                panel,
                f"EGCs land on the neutral bar; {show_amps(amps)} of load crosses to them.",
                "Give the EGCs a bar of their own on the enclosure.",
                fix=apart(s, panel),
                parts=("ground bar with screws for this panel",),
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
                f"Install {name(row.needed)} copper, or the enclosure's own screw or strap.",
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
        "supplies.kind",
    ),
)
def supply_side_jumper_small(s: Evidence):
    kinds = {u.id: u.kind for u in s.filled.supplies}
    for run in s.filled.services:
        if run.egc_size is None or run.line_size is None or tables.is_metric(run.line_size):
            continue
        if kinds.get(run.supply) != "utility":
            continue  # a generator's cord has its own check
        needed = sizing.supply_side_jumper(
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
    looks="At a receptacle or appliance the neutral is connected to the EGC or the frame.",
    why="With the neutral open, or hot and neutral reversed, the frame is at line voltage; load"
    " rides on the EGC meanwhile, and a plug-in tester reads good.",
    topic="outlet_neutral",
    needs=("circuits.egc", "circuits.outlet_bond", "circuits.strap", "study"),
)
def neutral_joined_at_outlet(s: Evidence):
    for circuit in s.filled.circuits:
        four_wire_strap = circuit.strap == "in" and circuit.egc in ("wire", "raceway", "both")
        if circuit.outlet_bond != "yes" and not four_wire_strap:
            continue
        if circuit.egc == "none" and circuit.load_kind in ("range", "dryer"):
            continue  # its three wires are judged as such
        amps = s.load_amps(f"{circuit.id}.egc") + s.load_amps(f"{circuit.id}.raceway")
        rides = f" {show_amps(amps)} of load rides on the EGC." if amps > 0 else ""
        if four_wire_strap:
            yield s.found(
                circuit,
                f"On four wires with the neutral-to-frame strap still in.{rides}",
                "Take the strap out of the appliance; frame to neutral must read open.",
                fix=(Set(path=f"{circuit.id}.strap", value="out"),),
            )
            continue
        do = "Take the jumper out at the receptacle, and look for a strap left in."
        if circuit.egc == "none":
            do = "Take the jumper out; two-slot receptacles, or a GFCI with its label, or rewire."
        yield s.found(
            circuit,
            f"Neutral and ground are connected at the receptacle.{rides}",
            do,
            fix=(Set(path=f"{circuit.id}.outlet_bond", value="no"),),
        )


@check(
    "polarity-reversed",
    "danger",
    looks="Hot and neutral are reversed at a receptacle.",
    why="Switches open the neutral and leave the load live; with a bootleg ground the frame itself"
    " is at line voltage, and a plug-in tester reads good.",
    topic="polarity",
    needs=("circuits.outlet_bond", "circuits.reversed"),
)
def polarity_reversed(s: Evidence):
    for circuit in s.filled.circuits:
        if circuit.reversed != "yes":
            continue
        bootleg = circuit.outlet_bond == "yes"
        words = "Hot and neutral are reversed at a receptacle."
        if bootleg:
            words += " With the bootleg ground there, every frame plugged in is at line voltage."
        yield s.found(
            circuit,
            words,
            "Dead: put hot on brass, neutral on silver"
            + (", and take the bootleg out." if bootleg else "."),
            fix=(
                Set(path=f"{circuit.id}.reversed", value="no"),
                *((Set(path=f"{circuit.id}.outlet_bond", value="no"),) if bootleg else ()),
            ),
        )


@check(
    "service-raceway-unbonded",
    "fix",
    looks="A metal service raceway is not bonded past its knockouts.",
    why="No breaker is ahead of it: a locknut in a concentric knockout is not enough.",
    topic="service_raceway",
    needs=("services.raceway_bonded",),
)
def service_raceway_unbonded(s: Evidence):
    for run in s.filled.services:
        if run.raceway_bonded == "no":
            yield s.found(
                run,
                "The metal service raceway is not bonded.",
                "A bonding bushing with a supply-side jumper, or a threaded hub.",
                fix=(Set(path=f"{run.id}.raceway_bonded", value="yes"),),
                parts=("bonding bushing and jumper",),
            )
