"""A path beside the neutral between two points where it is bonded, on the supply side."""

from collections.abc import Iterator

from ...site import Feeder, Metal, Service, Set
from ...working import show_amps
from ..registry import Evidence, Yielded, check, rule_authority

FAMILY = "return_path"
RACEWAY_NOTE = "parallel_raceway"


@check(
    "meter-to-panel-parallel-wire",
    "fix",
    looks="A wire, jumper or pipe runs beside the neutral between the supply, a meter and a bonded"
    " panel.",
    why="It shares the neutral's current all day, and so does the metal it touches.",
    topic="parallel_neutral",
    needs=(
        "feeders.egc",
        "feeders.egc_size",
        "metals.also_joins",
        "metals.bonded",
        "panels.bond",
        "panels.kind",
        "panels.marked",
        "services.egc_size",
        "study",
        "supplies.bond",
        "supplies.earthing",
        "supplies.kind",
        "supplies.neutral_switched",
    ),
)
def meter_to_panel_parallel_wire(s: Evidence) -> Iterator[Yielded]:
    for run in s.filled.services:
        yield from _beside_service(s, run)
    for feeder in s.filled.feeders:
        both = s.panels[feeder.source].bond == s.panels[feeder.to].bond == "in"
        if feeder.source in s.ahead and both:
            yield from _beside_feeder(s, feeder)


def _beside_service(s: Evidence, run: Service) -> Iterator[Yielded]:
    """From the supply to its first enclosure; of a generator whose neutral is not switched too."""
    supply = s.elements[run.supply]
    utility = supply.kind == "utility"
    twice = s.panels[run.to].bond == "in" and (utility or supply.bond == "in")
    if not twice or supply.earthing == "TN-S" or supply.kind == "transformer":
        return  # derived-bond has a transformer's
    if not utility and supply.neutral_switched != "no":
        return  # not known: generator-bond asks, and its answer decides
    if run.egc_size is None:
        return
    amps = s.load_amps(f"{run.id}.egc")
    fix = (Set(path=f"{run.id}.egc_size", value=None),)
    do = "Take the parallel wire out: the neutral is the return on the supply side."
    if not utility:
        fix = (Set(path=f"{supply.id}.bond", value="out"),)
        do = "Lift the neutral bond in the generator, or switch its neutral too."
    yield s.found(
        run, f"On the wire beside the neutral rides load: {show_amps(amps)}.", do, fix=fix
    )


def _beside_feeder(s: Evidence, feeder: Feeder) -> Iterator[Yielded]:
    """Between two enclosures ahead of the service that are both bonded to the neutral: one finding,
    whatever the path is made of. A metal raceway between them is permitted (250.142(A))."""
    wire = feeder.egc in ("wire", "both")
    pipes = [m for m in s.filled.metals if _joins(m, feeder)]
    amps = s.load_amps(f"{feeder.id}.egc")
    amps += sum(s.load_amps(f"{m.id}.join") for m in pipes)
    ways = (["a wire"] if wire else []) + [m.name or "other metal" for m in pipes]
    if ways:
        fix: tuple[Set, ...] = ()
        if wire:
            left = "raceway" if feeder.egc == "both" else "none"
            fix = (Set(path=f"{feeder.id}.egc", value=left),)
        fix += tuple(Set(path=f"{m.id}.also_joins", value=None) for m in pipes)
        yield s.found(
            feeder,
            f"On {' and '.join(ways)} beside the neutral rides load, bonded at both ends:"
            f" {show_amps(amps)}.",
            "Take the parallel path out: the neutral is the return on the supply side.",
            fix=fix,
        )
    elif feeder.egc == "raceway":
        amps = s.load_amps(f"{feeder.id}.raceway")
        yield s.found(
            feeder,
            f"Its metal raceway is bonded at both ends and carries {show_amps(amps)} of load:"
            " permitted on the supply side.",
            "Leave it; do not add a wire beside it.",
            level="note",
            authority=rule_authority(RACEWAY_NOTE, s.edition),
        )


def _joins(metal: Metal, feeder: Feeder) -> bool:
    """Whether other metal is bonded at both ends of a run."""
    ends = {feeder.source, feeder.to}
    return metal.bonded == "yes" and {metal.panel, metal.also_joins} == ends
