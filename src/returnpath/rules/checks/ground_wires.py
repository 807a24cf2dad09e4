"""Return path, the EGC: is there one, does it count, is it large enough."""

from collections.abc import Iterator

from ... import sizing, tables
from ...errors import BadInput
from ...site import Circuit, Feeder, Panel, Set
from ..registry import Evidence, Yielded, check
from ..sizes import SizeRow

FAMILY = "return_path"
name = tables.size_name


def runs(s: Evidence) -> tuple[Circuit | Feeder, ...]:
    """Circuits and feeders: what has an EGC of its own."""
    return (*s.filled.circuits, *s.filled.feeders)


def is_old_work(circuit: Circuit) -> bool:
    """Old two-wire and three-wire work: the old-work family judges it."""
    if circuit.load_kind in ("range", "dryer") and circuit.neutral == "yes":
        return True
    return circuit.outlets in ("two-slot", "labelled", "three-slot")


@check(
    "egc-missing",
    "danger",
    looks="A circuit, or a feeder within a building, has no ground-fault path.",
    why="The breaker sees no current and stays closed; the metal stays at line voltage.",
    topic="fault_path",
    needs=(
        "circuits.breaker.rating_a",
        "buildings.permit",
        "buildings.wired_year",
        "circuits.egc",
        "circuits.extended_year",
        "circuits.length_ft",
        "circuits.line_material",
        "circuits.line_size",
        "circuits.load_kind",
        "circuits.method",
        "circuits.neutral",
        "circuits.outlet_bond",
        "circuits.outlets",
        "circuits.relied_on",
        "circuits.strap",
        "circuits.year",
        "feeders.egc",
        "panels.bond",
        "panels.kind",
        "panels.marked",
        "panels.terminals_c",
    ),
)
def egc_missing(s: Evidence) -> Iterator[Yielded]:
    for run in runs(s):
        if run.egc != "none":
            continue
        if isinstance(run, Feeder):
            # Another building's feeder and the service side have checks of their own; where the
            # neutral is bonded past the service, one finding says both, in their order.
            bonded = s.panels[run.to].bond == "in"
            if s.other_building(run) or run.source in s.ahead or bonded:
                continue
        elif is_old_work(run) or run.neutral_on_frame:
            continue
        elif _may_be_old(s, run):
            question = "Old wiring without an EGC: what receptacles are on it, two slots or three?"
            yield s.ask(run, f"{run.id}.outlets", question)
            continue
        elif run.relied_on in MAY_COUNT or run.relied_on == "the earth":
            continue  # metal that may count, and what is no path at all, have their own checks
        size = needed_egc(s, run)
        wire = f"{name(size)} copper" if size else "an equipment grounding conductor"
        fix: tuple[Set, ...] = (Set(path=f"{run.id}.egc", value="wire"),)
        if size:
            fix = (*fix, Set(path=f"{run.id}.egc_size", value=size))
        yield s.found(
            run,
            _nothing(run),
            f"Run {wire} with the conductors.",
            fix=fix,
            parts=(f"{run.length_ft:g} ft of {wire}",),
            root=isinstance(run, Feeder),  # every circuit behind it has the same lack
        )


def _may_be_old(s: Evidence, circuit: Circuit) -> bool:
    """Whether a circuit is of a time, or a wiring, that had no EGC, and nobody said what hangs on
    it: two slots may remain."""
    from .old_work import GROUND_SINCE, year_of

    if circuit.relied_on is not None or circuit.extended_year is not None:
        return False
    year = year_of(s, circuit)
    old_wiring = circuit.method in ("K&T", "BX") and s.known(f"{circuit.id}.method")
    return old_wiring or (year is not None and year < GROUND_SINCE)


#: Metal that may count as the path: its own check says whether it does here.
MAY_COUNT = (
    "FMC",
    "LFMC 3/8-1/2",
    "LFMC 3/4-1-1/4",
    "AC cable armour",
    "armoured cable of old without a strip",
    "MC interlocked armour",
    "the building frame",
)


def _nothing(run: Circuit | Feeder) -> str:
    """What is not there, by what is relied on instead."""
    relied = getattr(run, "relied_on", None)
    if relied == "PVC ENT LFNC":
        return "Plastic conduit with no wire in it: no path back for a fault."
    return "No path back for a fault current: there is no EGC."


def needed_egc(s: Evidence, run: Circuit | Feeder) -> str | None:
    rating = s.rating_of(run)
    if rating is None or run.line_size is None or tables.is_metric(run.line_size):
        return None
    try:
        return sizing.smallest_egc(
            rating,
            line=run.line_size,
            line_material=run.line_material,
            column_c=s.column(run),
            edition=s.edition,
            sets=getattr(run, "sets", None) or 1,
        ).value
    except BadInput:
        return None


def _short(s: Evidence, upsized: bool) -> Iterator[tuple[Circuit | Feeder, SizeRow]]:
    """(run, row) of EGCs that are too small, because of upsizing or not."""
    for run in runs(s):
        row = s.sizes.get(f"{run.id}.egc_size")
        if row is None or row.meets is not False:
            continue
        base = sizing.smallest_egc(s.rating_of(run), material=row.needed_material)
        enough = tables.area(row.installed) >= tables.area(base.value)
        if enough is upsized:
            yield run, row


COOL_C, COOL_MOST_A = 60, 100  # unmarked terminals up to so much count as 60 °C: 110.14(C)(1)(a)


def _hangs_on_terminals(s: Evidence, run: Circuit | Feeder, row: SizeRow) -> Panel | None:
    """The panel whose terminals nobody has read, where 60 °C would make the lines no larger than
    they must be and the EGC enough; None where that changes nothing."""
    panel = s.panels[run.source if isinstance(run, Feeder) else run.panel]
    rating = s.rating_of(run)
    if rating is None or rating > COOL_MOST_A or s.known(f"{panel.id}.terminals_c"):
        return None
    least = sizing.smallest_egc(
        rating,
        line=run.line_size,
        material=row.needed_material,
        line_material=run.line_material,
        column_c=COOL_C,
        edition=s.edition,
        sets=getattr(run, "sets", None) or 1,
    )
    return panel if tables.area(row.installed) >= tables.area(least.value) else None


#: Since then a qualified person may size it to work (250.122(B), exception).
QUALIFIED_FROM = 2020


def _larger_egc(s: Evidence, run: Circuit | Feeder, row: SizeRow, found: str) -> Yielded:
    """The finding of either check: the same wire mends both."""
    wire = f"{name(row.needed)} {tables.metal_name(row.needed_material)}"
    return s.found(
        run,
        f"EGC {found}",
        f"Run {wire} with the conductors.",
        fix=(Set(path=row.path, value=row.needed),),
        parts=(f"{run.length_ft:g} ft of {wire}",),
        working=row.working,
    )


@check(
    "egc-small",
    "fix",
    looks="An EGC is smaller than the table for its breaker.",
    why="It must carry a fault until the breaker opens.",
    topic="egc_size",
    needs=(
        "circuits.breaker.rating_a",
        "circuits.egc_size",
        "circuits.length_ft",
        "circuits.line_size",
        "feeders.breaker.rating_a",
        "feeders.egc_size",
        "feeders.line_size",
    ),
)
def egc_small(s: Evidence) -> Iterator[Yielded]:
    for run, row in _short(s, upsized=False):
        needed = f"{name(row.needed)} {tables.metal_name(row.needed_material)}"
        found = f"{name(row.installed)}; {needed} is needed for {s.rating_of(run):g} A."
        yield _larger_egc(s, run, row, found)


@check(
    "egc-not-upsized",
    "fix",
    looks="The lines were made larger, the EGC was not.",
    why="A longer run needs a better fault path too, or the breaker trips late.",
    topic="egc_upsized",
    needs=(
        "circuits.breaker.rating_a",
        "circuits.egc_size",
        "circuits.length_ft",
        "circuits.line_material",
        "circuits.line_size",
        "feeders.breaker.rating_a",
        "feeders.egc_size",
        "feeders.line_material",
        "feeders.line_size",
        "panels.terminals_c",
    ),
)
def egc_not_upsized(s: Evidence) -> Iterator[Yielded]:
    for run, row in _short(s, upsized=True):
        needed = f"{name(row.needed)} {tables.metal_name(row.needed_material)}"
        if (panel := _hangs_on_terminals(s, run, row)) is not None:
            yield s.found(
                run,
                f"EGC {name(row.installed)} beside {name(run.line_size)} lines: right where the"
                f" terminals are 60 °C; {needed} is needed where they are 75 °C.",
                "Read the temperature on the breaker and on what it feeds.",
                level="check",
                asks=f"{panel.id}.terminals_c",
            )
            continue
        found = f"{name(row.installed)} beside {name(run.line_size)} lines; {needed} is needed"
        if s.edition >= QUALIFIED_FROM:
            found += ", unless a qualified person sized it as an effective path and says so"
        yield _larger_egc(s, run, row, f"{found}.")


OLD_ARMOUR = "armoured cable of old without a strip"
FLEX_TOTAL_FT = 6.0
FLEX_LIMIT_A = {"FMC": 20, "LFMC 3/8-1/2": 20, "LFMC 3/4-1-1/4": 60}


@check(
    "egc-not-a-lawful-path",
    "fix",
    looks="What is relied on as the return does not count as one, or not under these conditions.",
    why="It may carry a tester's milliamperes and still not a fault.",
    topic="egc_path",
    needs=(
        "circuits.breaker.rating_a",
        "circuits.egc",
        "circuits.flex_ft",
        "circuits.length_ft",
        "circuits.line_material",
        "circuits.line_size",
        "circuits.method",
        "circuits.outlets",
        "circuits.relied_on",
        "panels.terminals_c",
    ),
)
def egc_not_a_lawful_path(s: Evidence) -> Iterator[Yielded]:
    forms = {r["return_path"]: r for r in tables.rows("conductor_forms")}
    for circuit in s.filled.circuits:
        form = circuit.relied_on
        if form not in MAY_COUNT or circuit.egc in ("wire", "raceway", "both"):
            continue
        if form == OLD_ARMOUR and circuit.outlets in ("two-slot", "labelled"):
            continue  # existing: the old-work family speaks of it
        why = _form_problem(forms.get(form), form, circuit)
        if why:
            yield s.found(
                circuit,
                why,
                "Run an EGC with the circuit.",
                fix=(
                    Set(path=f"{circuit.id}.relied_on", value=None),
                    Set(path=f"{circuit.id}.egc", value="wire"),
                    Set(path=f"{circuit.id}.egc_size", value=needed_egc(s, circuit)),
                ),
                parts=(f"{circuit.length_ft:g} ft of EGC",),
            )


LABELS = {
    "armoured cable of old without a strip": "old armour without a bonding strip",
    "MC interlocked armour": "interlocked MC armor",
    "the building frame": "the building's frame",
    "AC cable armour": "AC armor",
}


def _form_problem(row: dict[str, str] | None, form: str, circuit: Circuit) -> str:
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
        words = LABELS[form]
        return f"{words[:1].upper() + words[1:]} alone does not count as an EGC."
    return ""


@check(
    "egc-shared-too-small",
    "fix",
    looks="One EGC serves several circuits and is sized for a smaller breaker than theirs.",
    why="The largest breaker decides how long a fault lasts.",
    topic="egc_shared",
    needs=(
        "circuits.breaker.rating_a",
        "circuits.egc_size",
        "circuits.length_ft",
        "circuits.shares_egc_with",
    ),
)
def egc_shared_too_small(s: Evidence) -> Iterator[Yielded]:
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
                f"Shares a {name(owner.egc_size)} EGC; its {circuit.breaker.rating_a:g} A"
                f" breaker needs {name(needed.value)}.",
                f"Run {name(needed.value)} for the group.",
                fix=(Set(path=f"{owner.id}.egc_size", value=needed.value),),
                parts=(f"{owner.length_ft:g} ft of {name(needed.value)}",),
                working=needed,
            )
