"""Old work: two-wire outlets, three-wire ranges, and what a rod does not do."""

from ... import tables
from ...site import Set
from ..registry import Evidence, check

THREE_WIRE_UNTIL = 1996
RANGE_NEUTRAL = {"copper": "10", "aluminium": "8"}


def _ungrounded(s: Evidence):
    return [c for c in s.filled.circuits if c.egc == "none" and c.outlets is not None]


@check(
    "two-wire-receptacles",
    "danger",
    looks="Outlets on a circuit without a ground: what is there, and what may be done.",
    why="Three slots promise a ground that is not there.",
    topic="old_outlets",
    needs=("circuits.egc", "circuits.gfci", "circuits.outlets"),
)
def two_wire_receptacles(s: Evidence):
    for circuit in _ungrounded(s):
        if circuit.outlets == "three-slot":
            yield s.found(
                circuit,
                "Three-slot outlets without a ground, GFCI or label.",
                "GFCI protection with the label, two-slot outlets, or a ground by a lawful way.",
                fix=(
                    Set(path=f"{circuit.id}.gfci", value="yes"),
                    Set(path=f"{circuit.id}.outlets", value="labelled"),
                ),
                parts=("GFCI", "labels"),
            )
        elif circuit.outlets == "labelled" and circuit.gfci == "no":
            yield s.found(
                circuit,
                "Labelled outlets without a ground, and no GFCI ahead of them.",
                "Fit the GFCI that the label speaks of.",
                fix=(Set(path=f"{circuit.id}.gfci", value="yes"),),
                parts=("GFCI",),
            )
        elif circuit.outlets == "two-slot":
            yield s.found(
                circuit,
                "Two-slot outlets without a ground: lawful where they were.",
                "Rewire; run a ground to a lawful place; or GFCI with the label.",
                level="note",
            )


@check(
    "three-wire-range",
    "fix",
    looks="A range or dryer on three wires: when it may stay.",
    why="Its case hangs on the neutral: a loose neutral makes the case live.",
    topic="range_three_wire",
    needs=(
        "circuits.egc",
        "circuits.length_ft",
        "circuits.line_material",
        "circuits.line_size",
        "circuits.load_kind",
        "circuits.year",
        "practice.three_wire_ranges",
    ),
)
def three_wire_range(s: Evidence):
    for circuit in s.filled.circuits:
        if circuit.load_kind not in ("range", "dryer") or circuit.egc != "none":
            continue
        if circuit.year is None:
            yield s.ask(circuit, f"{circuit.id}.year", "When was this three-wire circuit run?")
            continue
        broken = []
        if circuit.year >= THREE_WIRE_UNTIL:
            broken.append(f"run in {circuit.year}; only circuits before 1996 may stay")
        least = RANGE_NEUTRAL[circuit.line_material]
        if tables.area(circuit.line_size) < tables.area(least):
            broken.append(f"its neutral is under {least} AWG")
        if circuit.panel != s.at_service:
            broken.append("it does not come from the service panel")
        if s.practice.three_wire_ranges == "replace":
            broken.append("local practice replaces them")
        fix = (
            Set(path=f"{circuit.id}.egc", value="wire"),
            Set(path=f"{circuit.id}.egc_size", value="10"),
        )
        if broken:
            yield s.found(
                circuit,
                f"On three wires: {'; '.join(broken)}.",
                "Run four wires and take the strap out of the appliance.",
                fix=fix,
                parts=(f"{circuit.length_ft:g} ft of cable with a ground", "four-wire cord"),
            )
        else:
            yield s.found(
                circuit,
                f"On three wires since {circuit.year}: may stay, with the strap in.",
                "Four wires with the strap out when it is renewed.",
                level="note",
            )


@check(
    "rod-does-not-ground-outlets",
    "note",
    looks="Ungrounded circuits in a house that has rods.",
    why="A fault over 25 Ω of soil is under 5 A: no breaker opens.",
    topic="old_ground",
    needs=("circuits.egc", "circuits.outlets", "electrodes.kind"),
)
def rod_does_not_ground_outlets(s: Evidence):
    circuits = _ungrounded(s)
    rods = [e for e in s.filled.electrodes if e.kind == "rod"]
    if circuits and rods:
        yield s.found(
            rods[0],
            f"{len(circuits)} circuit(s) have no ground; this rod does not give them one.",
            "Give them a metal way to the service's neutral, or GFCI with the label.",
        )
