"""Conductors: the wire against its breaker, its terminals, its marking."""

from ... import sizing, tables
from ...errors import BadInput
from ...site import Set
from ..finding import Authority
from ..registry import Evidence, check, rule_authority

name = tables.size_name
metal_name = tables.metal_name
MOTOR_LIKE = ("motor", "cooling")
COOL_C = 60


def _runs(s: Evidence):
    """Circuits and feeders whose line and breaker somebody gave, in AWG."""
    for run in (*s.filled.circuits, *s.filled.feeders):
        size = run.line_size
        if size is None or tables.is_metric(size) or run.breaker.rating_a is None:
            continue
        if s.known(f"{run.id}.line_size") and s.known(f"{run.id}.breaker.rating_a"):
            yield run


#: So far over what its wire may have that a fire can start from what is there.
GROSS = 1.5


def _allowed(run, column: int) -> float:
    """The largest device its wires may have in a column, A."""
    sets = getattr(run, "sets", None) or 1
    return sizing.device_allowed_sets(run.line_size, run.line_material, column, sets)


def _is_excused(s: Evidence, run) -> bool:
    """A motor's or cooling unit's nameplate that allows the larger breaker (240.4(G))."""
    mca = getattr(run, "nameplate_mca_a", None)
    most = getattr(run, "nameplate_max_a", None)
    if getattr(run, "load_kind", None) not in MOTOR_LIKE or mca is None or most is None:
        return False
    carries = sizing.ampacity(run.line_size, run.line_material, s.column(run))
    return run.breaker.rating_a <= most and mca <= carries


def _waits_for_nameplate(run) -> bool:
    """A motor or cooling unit whose nameplate nobody has read may be right as it is."""
    return getattr(run, "load_kind", None) in MOTOR_LIKE and run.nameplate_max_a is None


def _by_dwelling_table(s: Evidence, run) -> bool:
    """Whether the line is as small as only the dwelling table allows."""
    if run not in s.filled.feeders:
        return False
    try:
        table = sizing.service_line(run.breaker.rating_a, run.line_material, s.edition).value
    except BadInput:
        return False
    rating = run.breaker.rating_a
    return rating >= 100 and tables.area(run.line_size) >= tables.area(table)


def is_overfused(s: Evidence, run) -> bool:
    """Whether a run's breaker is larger than its wires may have, all exceptions heard."""
    if run.breaker.rating_a <= _allowed(run, _cable_column(s, run)):
        return False
    return not (_is_excused(s, run) or _waits_for_nameplate(run) or _by_dwelling_table(s, run))


@check(
    "wire-breaker-mismatch",
    "fix",
    looks="A breaker is larger than its wire may have.",
    why="The wire can overheat before the breaker opens.",
    topic="device_ampacity",
    needs=(
        "circuits.breaker.rating_a",
        "circuits.line_material",
        "circuits.line_size",
        "circuits.load_kind",
        "circuits.method",
        "circuits.nameplate_max_a",
        "circuits.nameplate_mca_a",
        "feeders.breaker.rating_a",
        "feeders.line_material",
        "feeders.line_size",
        "feeders.method",
        "feeders.sets",
    ),
)
def wire_breaker_mismatch(s: Evidence):
    for run in _runs(s):
        if not is_overfused(s, run):
            continue
        column = _cable_column(s, run)
        rating, allowed = run.breaker.rating_a, _allowed(run, column)
        mca = getattr(run, "nameplate_mca_a", None)
        plate = f", {mca:g} A minimum by its nameplate" if mca else ""
        needed = _smallest(rating, run, column)
        wire = f", or {name(needed)} wire" if needed else ""
        cable = ""
        if column == COOL_C and rating <= _allowed(run, 75):
            cable = f" {run.method} cable is used in the 60 °C column."
        yield s.found(
            run,
            f"{name(run.line_size)} {metal_name(run.line_material)} on {rating:g} A{plate}; at most"
            f" {allowed:g} A is permitted.{cable}",
            f"Install a {allowed:g} A breaker{wire}.",
            fix=(Set(path=f"{run.id}.breaker.rating_a", value=allowed),),
            parts=(f"{allowed:g} A breaker",),
            level="danger" if rating >= GROSS * allowed else None,
            authority=_ampacity_authority(s, run, cable),
        )


def _cable_column(s: Evidence, run) -> int:
    """60 or 75 °C by the cable alone; nobody's cable is assumed to be the cooler one."""
    known = s.known(f"{run.id}.method")
    return sizing.column_of(run.method if known else None, 75)


def _ampacity_authority(s: Evidence, run, cable: str) -> Authority:
    """240.4(D) speaks of small conductors only; NM has its own section."""
    topic = "device_ampacity"
    if cable:
        topic = "nm_rating"
    elif (run.line_size, run.line_material) in tables.small_conductor_ceilings():
        topic = "small_conductor"
    return rule_authority(topic, s.edition)


def _smallest(rating: float, run, column: int) -> str | None:
    try:
        sets = getattr(run, "sets", None) or 1
        return sizing.smallest_run(rating, run.line_material, column, sets=sets).value
    except BadInput:
        return None


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
        "circuits.nameplate_max_a",
    ),
)
def nameplate_missing(s: Evidence):
    for circuit in s.filled.circuits:
        if circuit.nameplate_max_a is not None or circuit.load_kind not in MOTOR_LIKE:
            continue
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
            f"Fit a {fits:g} A breaker.",
            fix=(Set(path=f"{circuit.id}.breaker.rating_a", value=float(fits)),),
            parts=(f"{fits:g} A breaker",),
        )


@check(
    "terminal-temperature",
    "fix",
    looks="The wire would serve at 75 °C, but its terminals are marked 60 °C.",
    why="The terminal, not the wire, is the part that overheats.",
    topic="terminals",
    needs=(
        "circuits.breaker.rating_a",
        "circuits.line_material",
        "circuits.line_size",
        "circuits.load_kind",
        "circuits.method",
        "circuits.nameplate_max_a",
        "circuits.nameplate_mca_a",
        "feeders.breaker.rating_a",
        "feeders.line_material",
        "feeders.line_size",
        "feeders.method",
        "feeders.sets",
        "panels.terminals_c",
    ),
)
def terminal_temperature(s: Evidence):
    for run in _runs(s):
        panel = s.panels[getattr(run, "panel", None) or run.source]
        if panel.terminals_c != COOL_C or _is_excused(s, run) or _cable_column(s, run) == COOL_C:
            continue
        rating = run.breaker.rating_a
        cool = _allowed(run, COOL_C)
        if not cool < rating <= _allowed(run, 75):
            continue
        needed = _smallest(rating, run, 60)
        yield s.found(
            run,
            f"{name(run.line_size)} serves {rating:g} A at 75 °C only; at these 60 °C terminals"
            f" {cool:g} A.",
            f"A {cool:g} A breaker, {name(needed) if needed else 'larger'} wire, or 75 °C"
            " terminals.",
            fix=(Set(path=f"{run.id}.breaker.rating_a", value=float(cool)),),
        )


@check(
    "dwelling-83-misused",
    "fix",
    looks="A feeder is sized by the dwelling table, but does not carry the whole dwelling.",
    why="The smaller size is for a load that never comes all at once.",
    topic="dwelling_service",
    needs=(
        "circuits.breaker.rating_a",
        "circuits.line_size",
        "feeders.breaker.rating_a",
        "feeders.length_ft",
        "feeders.line_material",
        "feeders.line_size",
        "feeders.sets",
    ),
)
def dwelling_83_misused(s: Evidence):
    for feeder in s.filled.feeders:
        usable = feeder in list(_runs(s))
        if not usable or not _by_dwelling_table(s, feeder):
            continue
        rating = feeder.breaker.rating_a
        if rating <= _allowed(feeder, 75) or _carries_all(s, feeder):
            continue
        needed = _smallest(rating, feeder, 75)
        yield s.found(
            feeder,
            f"{name(feeder.line_size)} {feeder.line_material} on {rating:g} A by the dwelling"
            " table; this feeder carries a part of the dwelling.",
            f"Run {name(needed)}." if needed else "Run larger wire.",
            fix=(Set(path=f"{feeder.id}.line_size", value=needed),) if needed else (),
            parts=(f"{feeder.length_ft:g} ft of {name(needed)}",) if needed else (),
        )


def _carries_all(s: Evidence, feeder) -> bool:
    """Whether nothing else leaves the panel that it comes from."""
    others = [f for f in s.filled.feeders if f.source == feeder.source and f is not feeder]
    return not others and not any(c.panel == feeder.source for c in s.filled.circuits)


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
                "Run a wire of that colour.",
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
