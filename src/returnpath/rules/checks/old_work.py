"""Old work: two-wire receptacles, three-wire ranges, and what a rod does not do."""

from ... import tables
from ...site import Set
from ...working import count_of
from ..registry import Evidence, check, rule_authority

#: Since then receptacle circuits are run with an EGC; before it, two wires were permitted.
GROUND_SINCE = 1962
THREE_WIRE_UNTIL = 1996
RANGE_NEUTRAL = {"copper": "10", "aluminium": "8"}
OWN_RANGE = ("range", "dryer")


def _ungrounded(s: Evidence):
    """Circuits of receptacles without an EGC; a bootleg is its own finding."""
    return [
        c
        for c in s.filled.circuits
        if c.egc == "none" and c.outlets is not None and c.load_kind not in OWN_RANGE
    ]


def year_of(s: Evidence, circuit) -> int | None:
    """When a circuit was run: as given, else when its building was wired."""
    if circuit.year is not None:
        return circuit.year
    home = circuit.building or s.panels[circuit.panel].building
    dwellings = [b.id for b in s.filled.buildings if b.permit == "dwelling"]
    if home is None and len(dwellings) == 1:
        home = dwellings[0]  # there is one house, and nobody said otherwise
    return next((b.wired_year for b in s.filled.buildings if b.id == home), None)


@check(
    "two-wire-receptacles",
    "danger",
    looks="Receptacles on a circuit without an EGC: what is there, and what may be done.",
    why="Three slots promise a ground that is not there.",
    topic="old_outlets",
    needs=(
        "buildings.permit",
        "buildings.wired_year",
        "circuits.egc",
        "circuits.gfci",
        "circuits.load_kind",
        "circuits.outlets",
        "circuits.year",
    ),
)
def two_wire_receptacles(s: Evidence):
    for circuit in _ungrounded(s):
        year = year_of(s, circuit)
        if year is not None and year >= GROUND_SINCE:
            continue  # new work has no two-wire choice
        label = Set(path=f"{circuit.id}.outlets", value="labelled")
        protect = Set(path=f"{circuit.id}.gfci", value="yes")
        if circuit.outlets == "three-slot" and circuit.gfci == "yes":
            yield s.found(
                circuit,
                "Three-slot receptacles without an EGC, with a GFCI ahead of them: only the label"
                " is missing.",
                "Mark them “GFCI Protected” and “No Equipment Ground”.",
                level="fix",
                fix=(label,),
                parts=("labels",),
            )
        elif circuit.outlets == "three-slot":
            known = circuit.gfci == "no"
            yield s.found(
                circuit,
                "Three-slot receptacles without an EGC"
                + (", GFCI or label." if known else "; whether a GFCI is ahead is not known."),
                "GFCI protection with both labels, two-slot receptacles, or an EGC run to one of"
                " the five places of 250.130(C).",
                level=None if known else "fix",
                fix=(protect, label),
                parts=("GFCI", "labels"),
            )
        elif circuit.outlets == "labelled" and circuit.gfci == "no":
            yield s.found(
                circuit,
                "Receptacles labeled “No Equipment Ground”, and no GFCI ahead of them.",
                "Install the GFCI that the label speaks of.",
                fix=(protect,),
                parts=("GFCI",),
            )
        elif circuit.outlets == "two-slot" and year is None:
            yield s.ask(
                circuit,
                f"{circuit.id}.year",
                "Two slots and no EGC: when was it run? Before the 1962 rules it may stay.",
            )
        elif circuit.outlets == "two-slot":
            yield s.found(
                circuit,
                "Two-slot receptacles without an EGC: existing, may remain.",
                "Rewire; run an EGC to one of the five places of 250.130(C); or GFCI with the"
                " label.",
                level="note",
            )


@check(
    "new-work-without-ground",
    "fix",
    looks="A circuit wired since EGCs are asked for, or old wiring extended, has none.",
    why="Replacing receptacles without a ground is for wiring that was there; new work has no"
    " two-wire choice.",
    topic="new_ground",
    needs=(
        "buildings.permit",
        "buildings.wired_year",
        "circuits.egc",
        "circuits.extended_year",
        "circuits.load_kind",
        "circuits.outlets",
        "circuits.year",
    ),
)
def new_work_without_ground(s: Evidence):
    for circuit in s.filled.circuits:
        if circuit.egc != "none" or circuit.load_kind in OWN_RANGE:
            continue
        year = year_of(s, circuit) if circuit.outlets is not None else None
        grown = circuit.extended_year is not None and circuit.extended_year >= GROUND_SINCE
        if grown:
            words = f"Extended in {circuit.extended_year} without an EGC."
        elif year is not None and year >= GROUND_SINCE:
            words = (
                f"Run in {year} without an EGC: receptacle circuits have had one since the 1962"
                " rules; a GFCI and its label do not stand in for it."
            )
        else:
            continue
        bare = circuit.outlets == "three-slot" and circuit.gfci != "yes"
        yield s.found(
            circuit,
            words,
            "Run an EGC with it from the panel, or from one of the five places of 250.130(C).",
            level="danger" if bare else None,
            authority=rule_authority("extension", s.edition) if grown else None,
            fix=(
                Set(path=f"{circuit.id}.egc", value="wire"),
                *((Set(path=f"{circuit.id}.extended_year", value=None),) if grown else ()),
            ),
            parts=("cable with a ground",),
        )


@check(
    "three-wire-range",
    "fix",
    looks="A range or dryer on three wires: when it may stay, and its strap.",
    why="Its frame hangs on the neutral: a loose neutral makes the frame live.",
    topic="range_three_wire",
    needs=(
        "buildings.permit",
        "buildings.wired_year",
        "circuits.egc",
        "circuits.length_ft",
        "circuits.line_material",
        "circuits.line_size",
        "circuits.load_kind",
        "circuits.method",
        "circuits.neutral",
        "circuits.neutral_bare",
        "circuits.outlet_bond",
        "circuits.strap",
        "circuits.year",
        "practice.three_wire_ranges",
    ),
)
def three_wire_range(s: Evidence):
    for circuit in s.filled.circuits:
        three = circuit.egc == "none" and circuit.neutral == "yes"
        if circuit.load_kind not in OWN_RANGE or not three:
            continue
        four = (
            Set(path=f"{circuit.id}.egc", value="wire"),
            Set(path=f"{circuit.id}.egc_size", value="10"),
            Set(path=f"{circuit.id}.strap", value="out"),
            Set(path=f"{circuit.id}.outlet_bond", value="no"),
        )
        parts = (f"{circuit.length_ft:g} ft of cable with a ground", "four-wire cord")
        broken = _broken(s, circuit)
        if circuit.strap == "out" and circuit.outlet_bond != "yes":
            yield s.found(
                circuit,
                "On three wires with the strap out: the frame floats, and a fault to it never"
                " clears.",
                "Run four wires" + ("." if broken else "; or put the strap back where the three"
                " wires may stay."),
                level="danger",
                fix=four if broken else (Set(path=f"{circuit.id}.strap", value="in"),),
                parts=parts,
            )  # fmt: skip
        elif broken:
            yield s.found(
                circuit,
                f"On three wires: {'; '.join(broken)}.",
                "Run four wires, then take the strap out of the appliance.",
                fix=four,
                parts=parts,
            )
        else:
            yield from _may_stay(s, circuit)


def _broken(s: Evidence, circuit) -> list[str]:
    """Why three wires may not stay (250.140, exception)."""
    broken = []
    year = year_of(s, circuit)
    if year is not None and year >= THREE_WIRE_UNTIL:
        broken.append(f"run in {year}; only circuits from before 1996 may stay")
    least = RANGE_NEUTRAL[circuit.line_material]
    if tables.area(circuit.line_size) < tables.area(least):
        metal = tables.metal_name(circuit.line_material)
        broken.append(f"its neutral is under {least} AWG {metal}")
    if circuit.neutral_bare == "yes" and circuit.method in ("NM", "UF"):
        broken.append(f"the bare ground of {circuit.method} cable is used as the neutral, which was"
                      " never permitted")  # fmt: skip
    elif circuit.neutral_bare == "yes" and circuit.panel != s.at_service:
        broken.append("its neutral is bare and it does not come from the service panel")
    if s.practice.three_wire_ranges == "replace":
        broken.append("local practice replaces them")
    return broken


def _may_stay(s: Evidence, circuit):
    """What is still to be asked of three wires that may stay; else a note."""
    in_cable = circuit.method == "SE" and s.known(f"{circuit.id}.method")
    if year_of(s, circuit) is None:
        yield s.ask(circuit, f"{circuit.id}.year", "When was this three-wire circuit run?")
    elif circuit.strap is None and circuit.outlet_bond != "yes":
        question = "Is the strap from neutral to frame in? Frame to neutral must read closed."
        yield s.ask(circuit, f"{circuit.id}.strap", question)
    elif in_cable and circuit.neutral_bare is None and circuit.panel != s.at_service:
        question = "Is the neutral of its SE cable bare? Then it may only come from the service."
        yield s.ask(circuit, f"{circuit.id}.neutral_bare", question)
    else:
        yield s.found(
            circuit,
            f"On three wires since {year_of(s, circuit)}, strap in: existing, may remain.",
            "Four wires with the strap out when it is renewed.",
            level="note",
        )


@check(
    "rod-does-not-ground-outlets",
    "note",
    looks="Ungrounded circuits in a house that has rods.",
    why="A fault over 25 Ω of soil is under 5 A: no breaker trips.",
    topic="old_ground",
    needs=("circuits.egc", "circuits.load_kind", "circuits.outlets", "electrodes.kind"),
)
def rod_does_not_ground_outlets(s: Evidence):
    circuits = _ungrounded(s)
    rods = [e for e in s.filled.electrodes if e.kind == "rod"]
    if circuits and rods:
        yield s.found(
            rods[0],
            f"Without an EGC: {count_of(len(circuits), 'circuit')}; this rod is none.",
            "Give them a metal path back to the service's neutral, or GFCI with the label.",
        )


LAWFUL_LANDING = (
    "electrode system",
    "electrode conductor",
    "panel ground bar",
    "service neutral",
)
SAME_PANEL_SINCE = 2014


@check(
    "retrofit-ground-place",
    "fix",
    looks="A ground added to an old circuit lands where it may not.",
    why="Only metal that is connected to the service's neutral brings a fault back.",
    topic="old_ground",
    needs=("circuits.retrofit_ground",),
)
def retrofit_ground_place(s: Evidence):
    for circuit in s.filled.circuits:
        place = circuit.retrofit_ground
        early = place == "other circuit EGC" and s.edition < SAME_PANEL_SINCE
        if place is None or place in LAWFUL_LANDING:
            continue
        if place == "other circuit EGC" and not early:
            continue
        words = {
            "rod": "The added ground ends on a rod of its own: soil never trips a breaker.",
            "neutral": "The added ground ends on the circuit's neutral: a bootleg.",
            "water pipe": "The added ground ends on a water pipe past its first 5 ft.",
        }.get(place, "Another circuit's EGC is a landing place only since 2014.")
        yield s.found(
            circuit,
            words,
            "Run it to the electrode system, its conductor, the panel's ground bar, the service"
            " neutral, or another circuit's EGC from the same panel.",
            level="danger" if place in ("rod", "neutral") else None,
            fix=(Set(path=f"{circuit.id}.retrofit_ground", value="panel ground bar"),),
        )


@check(
    "box-not-bonded",
    "fix",
    looks="A metal box is not bonded to the receptacle or the EGC in it.",
    why="A fault to the box, or to a cord's ground, stops there.",
    topic="box_bonding",
    needs=("circuits.box_bonding",),
)
def box_not_bonded(s: Evidence):
    for circuit in s.filled.circuits:
        if circuit.box_bonding in ("none", "screws only"):
            words = "not bonded" if circuit.box_bonding == "none" else "bonded by yoke screws only"
            yield s.found(
                circuit,
                f"Metal boxes {words}.",
                "A pigtail to the box by a grounding screw, or self-grounding receptacles.",
                fix=(Set(path=f"{circuit.id}.box_bonding", value="pigtail"),),
                parts=("pigtails and grounding screws",),
            )
