"""Conductors: nameplates, metals, marking, screws."""

from ... import sizing, tables
from ...site import Set
from ..registry import Evidence, check

name = tables.size_name
MOTOR_LIKE = ("motor", "cooling")


@check(
    "nameplate-missing",
    "check",
    looks="A motor or cooling circuit without its nameplate's figures.",
    why="The nameplate decides both the wire and the largest breaker.",
    topic="nameplate",
    needs=(
        "circuits.breaker.rating_a",
        "circuits.line_material",
        "circuits.line_size",
        "circuits.load_kind",
        "circuits.motor_hp",
        "circuits.nameplate_max_a",
    ),
)
def nameplate_missing(s: Evidence):
    for circuit in s.filled.circuits:
        if circuit.nameplate_max_a is not None or circuit.load_kind not in MOTOR_LIKE:
            continue
        if circuit.motor_hp is not None and circuit.load_kind == "motor":
            continue  # its horsepower decides
        rating, size = circuit.breaker.rating_a, circuit.line_size
        plain = None
        if rating and size and not tables.is_metric(size):
            plain = sizing.device_allowed(size, circuit.line_material)
        if circuit.load_kind == "cooling" or (plain is not None and rating > plain):
            yield s.ask(
                circuit,
                f"{circuit.id}.nameplate_max_a",
                "What does the nameplate say: minimum circuit ampacity, maximum device?",
            )


@check(
    "nameplate-breaker-over",
    "fix",
    looks="The breaker is larger than the nameplate allows.",
    why="The unit was tested with no larger one ahead of it.",
    topic="nameplate_device",
    needs=("circuits.breaker.rating_a", "circuits.nameplate_max_a"),
)
def nameplate_breaker_over(s: Evidence):
    for circuit in s.filled.circuits:
        most, rating = circuit.nameplate_max_a, circuit.breaker.rating_a
        if most is None or rating is None or rating <= most:
            continue
        fits = max((r for r in tables.standard_ratings() if r <= most), default=most)
        yield s.found(
            circuit,
            f"{rating:g} A ahead of a unit marked for at most {most:g} A.",
            f"Install a {fits:g} A breaker.",
            fix=(Set(path=f"{circuit.id}.breaker.rating_a", value=float(fits)),),
            parts=(f"{fits:g} A breaker",),
        )


@check(
    "aluminium-on-copper-only",
    "danger",
    looks="Aluminum wire on terminals that are for copper only.",
    why="The joint loosens and glows.",
    topic="unlike_metals",
    needs=("circuits.device_terminals", "circuits.line_material", "circuits.line_size"),
)
def aluminium_on_copper_only(s: Evidence):
    for circuit in s.filled.circuits:
        if circuit.line_material == "aluminium" and circuit.device_terminals == "copper only":
            yield s.found(
                circuit,
                f"{name(circuit.line_size)} aluminum on copper-only terminals.",
                "Receptacles marked for aluminum, or listed connectors to copper tails.",
                fix=(Set(path=f"{circuit.id}.device_terminals", value="both"),),
                parts=("receptacles marked for aluminum, or listed connectors",),
            )


@check(
    "unlike-metals-together",
    "danger",
    looks="Copper and aluminum twisted together.",
    why="Moisture eats the joint; it heats where nobody looks.",
    topic="unlike_metals",
    needs=("circuits.line_material", "circuits.splice"),
)
def unlike_metals_together(s: Evidence):
    for circuit in s.filled.circuits:
        if circuit.splice == "twisted":
            yield s.found(
                circuit,
                "Copper and aluminum twisted together in one splice.",
                "A connector listed for both metals.",
                fix=(Set(path=f"{circuit.id}.splice", value="listed"),),
                parts=("connectors listed for copper and aluminum",),
            )


@check(
    "small-conductor-retaped",
    "fix",
    looks="A white or green wire of 6 AWG or smaller is re-identified by tape.",
    why="The next person trusts the color, not the tape that fell off.",
    topic="identified_neutral",
    needs=("circuits.line_size", "circuits.retaped", "feeders.neutral_size", "feeders.retaped"),
)
def small_conductor_retaped(s: Evidence):
    limit = tables.area("6")
    for run in (*s.filled.circuits, *s.filled.feeders):
        size = getattr(run, "neutral_size", None) or run.line_size
        if run.retaped == "yes" and size and tables.area(size) <= limit:
            yield s.found(
                run,
                f"{name(size)} re-identified by tape; 6 AWG and smaller carry their color"
                " all along.",
                "Run a wire of that color.",
                fix=(Set(path=f"{run.id}.retaped", value="no"),),
            )


@check(
    "white-as-hot-unmarked",
    "fix",
    looks="A white wire is a line and is not marked again.",
    why="White says neutral to whoever opens the box.",
    topic="white_hot",
    needs=("circuits.white_hot",),
)
def white_as_hot_unmarked(s: Evidence):
    for circuit in s.filled.circuits:
        if circuit.white_hot == "unmarked":
            yield s.found(
                circuit,
                "The white wire of the cable is a line and not marked.",
                "Mark it black or red wherever it can be seen.",
                fix=(Set(path=f"{circuit.id}.white_hot", value="marked"),),
            )


@check(
    "two-under-one-screw",
    "fix",
    looks="More wires under one screw than it is marked for.",
    why="One of them is loose from the start.",
    topic="one_per_terminal",
    needs=("panels.most_under_screw", "panels.screw_allows"),
)
def two_under_one_screw(s: Evidence):
    for panel in s.filled.panels:
        allows = panel.screw_allows or 1
        if panel.most_under_screw is not None and panel.most_under_screw > allows:
            yield s.found(
                panel,
                f"{panel.most_under_screw} wires under a screw for {allows}.",
                "One wire a screw, or a bar marked for more.",
                fix=(Set(path=f"{panel.id}.most_under_screw", value=allows),),
                parts=("an added bar",),
            )


@check(
    "torque-unrecorded",
    "note",
    looks="Nobody wrote down the torque of the lugs.",
    why="Loose lugs are found hot; tight ones are only known when written down.",
    topic="torque",
    needs=("panels.torque_recorded",),
)
def torque_unrecorded(s: Evidence):
    for panel in s.filled.panels:
        if panel.torque_recorded == "no":
            yield s.found(panel, "No torque is recorded.", "Torque to the label and write it down.")
