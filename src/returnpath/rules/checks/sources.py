"""Sources besides the utility: kept apart from it, and grounded as what they are."""

from ... import sizing, tables
from ...site import Service, Set
from ...working import show_amps
from ..registry import Evidence, check

name = tables.size_name


def _others(s: Evidence):
    """(supply, its run) of every source but the utility."""
    runs = {r.supply: r for r in s.filled.services}
    for supply in s.filled.supplies:
        if supply.kind in ("generator", "inverter"):
            yield supply, runs.get(supply.id)


@check(
    "source-interlock-missing",
    "danger",
    looks="Nothing stops a generator or inverter from feeding the street.",
    why="It steps up to thousands of volts on the line that a lineworker has opened.",
    topic="interlock",
    needs=("supplies.interlock", "supplies.kind"),
)
def source_interlock_missing(s: Evidence):
    for supply, _ in _others(s):
        if supply.interlock == "none":
            yield s.found(
                supply,
                "Nothing keeps it apart from the utility.",
                "Install a transfer switch, or an interlock listed for the panel; until then it"
                " must not be connected.",
                fix=(Set(path=f"{supply.id}.interlock", value="interlock"),),
                parts=("interlock listed for the panel, or transfer switch",),
            )


@check(
    "generator-egc-small",
    "fix",
    looks="The EGC of a generator's cord is smaller than the table for its breaker.",
    why="It brings the generator's fault current back.",
    topic="generator_egc",
    needs=(
        "services.egc_size",
        "services.length_ft",
        "supplies.breaker.rating_a",
        "supplies.kind",
    ),
)
def generator_egc_small(s: Evidence):
    for supply, run in _others(s):
        rating = supply.breaker.rating_a
        if run is None or run.egc_size is None or tables.is_metric(run.egc_size):
            continue
        if rating is None:
            yield s.ask(
                supply, f"{supply.id}.breaker.rating_a", "What does the generator's breaker say?"
            )
            continue
        needed = sizing.smallest_egc(rating, edition=s.edition)
        if tables.area(run.egc_size) < tables.area(needed.value):
            yield s.found(
                run,
                f"The cord's EGC is {name(run.egc_size)}; {name(needed.value)} is needed for"
                f" {rating:g} A.",
                f"A cord with a {name(needed.value)} EGC.",
                fix=(Set(path=f"{run.id}.egc_size", value=needed.value),),
                parts=(f"{run.length_ft:g} ft of cord",),
                working=needed,
            )


def _has_no_wire(run: Service | None) -> bool:
    """Whether nobody described the EGC of its cord: with one, meter-to-panel-parallel-wire tells
    the amperes on it."""
    return run is None or run.egc_size is None


@check(
    "generator-bond",
    "fix",
    looks="A generator's neutral bond does not fit how its neutral is switched.",
    why="Switched, it is a system of its own and needs its bond; not switched, a second bond puts"
    " load on the EGC.",
    topic="separately_derived",
    needs=(
        "services.egc_size",
        "study",
        "supplies.bond",
        "supplies.kind",
        "supplies.neutral_switched",
    ),
)
def generator_bond(s: Evidence):
    for supply, run in _others(s):
        path = f"{supply.id}.bond"
        if supply.neutral_switched == "yes" and supply.bond == "out":
            yield s.found(
                supply,
                "Its neutral is switched, so it is a separately derived system, and its own bond is"
                " out: no fault current comes back to it.",
                "Bond its neutral at the generator or at its first disconnect, with its jumper"
                " and electrode conductor.",
                level="danger",
                fix=(Set(path=path, value="in"),),
                parts=("system bonding jumper",),
            )
        elif supply.neutral_switched == "no" and supply.bond == "in" and _has_no_wire(run):
            amps = s.load_amps(f"{run.id}.egc") if run is not None else 0.0
            riding = f": {show_amps(amps)} of load rides on its EGC" if amps else ""
            yield s.found(
                supply,
                f"Its neutral is not switched and is bonded here too{riding}.",
                "Lift the bond in the generator, or switch its neutral as well.",
                fix=(Set(path=path, value="out"),),
            )
        elif supply.neutral_switched is None:
            yield s.ask(
                supply,
                f"{supply.id}.neutral_switched",
                "Does the transfer equipment also open the neutral? It decides where its bond"
                " belongs.",
            )
