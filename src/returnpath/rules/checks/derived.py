"""Separately derived systems: a transformer of the place's own, or a source whose neutral is
switched, with its one bond, its jumper, its electrode and its device (250.30, 240.21(C))."""

from collections.abc import Iterator

from ... import sizing, tables
from ...site import Panel, Service, Set, Supply
from ...site.chain import OPENS_NOTHING, is_typed, opens
from ...vocabulary import FactPath
from ...working import show_amps
from ..registry import Evidence, Yielded, check

FAMILY = "sources"
name = tables.size_name
LONG_FT = 25.0


def derived(s: Evidence) -> Iterator[tuple[Supply, Service, Panel]]:
    """(source, its run, the first enclosure) of every separately derived system."""
    runs = {r.supply: r for r in s.filled.services}
    for supply in s.filled.supplies:
        own = supply.kind == "transformer"
        switched = supply.kind in ("generator", "inverter") and supply.neutral_switched == "yes"
        if (own or switched) and supply.id in runs:
            run = runs[supply.id]
            yield supply, run, s.panels[run.to]


@check(
    "derived-bond",
    "danger",
    looks="A separately derived system has no system bonding jumper, or two.",
    why="Without one no fault current comes back to it; with two, load rides on metal.",
    topic="derived_bond",
    needs=("panels.bond", "supplies.bond", "supplies.kind", "study"),
)
def derived_bond(s: Evidence) -> Iterator[Yielded]:
    for supply, run, panel in derived(s):
        if supply.kind != "transformer":
            continue  # generator-bond has it
        here, there = supply.bond, panel.bond
        path = FactPath.of(supply.id, "bond")
        if here == "in" and there == "in":
            amps = s.load_amps(f"{run.id}.egc")
            yield s.found(
                supply,
                f"Its neutral is bonded at the transformer and at {panel.name or 'its panel'}:"
                f" {show_amps(amps)} of load rides on the jumper.",
                "One bond: take one of the two out.",
                level="fix",
                fix=(Set(path=f"{panel.id}.bond", value="out"),),
            )
        elif "in" in (here, there):
            continue
        elif here == "out" and there == "out":
            yield s.found(
                supply,
                "No system bonding jumper: its neutral is not joined to metal anywhere, and no"
                " fault comes back to it.",
                "One system bonding jumper, at the transformer or at its first disconnect.",
                fix=(Set(path=path, value="in"),),
                parts=("system bonding jumper",),
                root=True,
            )
        else:
            yield s.ask(
                supply,
                path,
                "Is its neutral bonded at the transformer, or at the first disconnect?",
            )


@check(
    "derived-jumper-small",
    "fix",
    looks="The bonding jumper from a transformer to its first disconnect is missing or small.",
    why="It carries the fault back to the transformer; no device of yours limits it.",
    topic="derived_jumper",
    needs=(
        "services.egc_size",
        "services.length_ft",
        "services.line_material",
        "services.line_size",
        "services.raceway_bonded",
        "services.sets",
        "supplies.kind",
        "supplies.neutral_switched",
    ),
)
def derived_jumper_small(s: Evidence) -> Iterator[Yielded]:
    for supply, run, _ in derived(s):
        if supply.kind != "transformer" or run.line_size is None:
            continue
        if tables.is_metric(run.line_size):
            continue
        path = FactPath.of(run.id, "egc_size")
        if run.egc_size is None:
            if run.raceway_bonded != "yes":
                yield s.ask(
                    run, path, "What bonding jumper goes with its secondary to the disconnect?"
                )
            continue
        needed = sizing.supply_side_jumper(
            run.line_size, run.line_material or "copper", run.sets or 1, edition=s.edition
        )
        if s.known(f"{run.id}.line_size") and tables.area(run.egc_size) < tables.area(needed.value):
            yield s.found(
                run,
                f"The jumper to its disconnect is {name(run.egc_size)}; {name(needed.value)} is"
                " needed by its line conductors.",
                f"Run {name(needed.value)}.",
                fix=(Set(path=path, value=needed.value),),
                parts=(f"{run.length_ft:g} ft of {name(needed.value)}",),
                working=needed,
            )


@check(
    "derived-electrode",
    "check",
    looks="A separately derived system, and no electrode conductor from its bond is described.",
    why="Its neutral is held to earth by nothing else: a surge or a crossed wire lifts all of it.",
    topic="derived_electrode",
    needs=("electrodes.joined", "supplies.kind", "supplies.neutral_switched"),
)
def derived_electrode(s: Evidence) -> Iterator[Yielded]:
    for supply, _, panel in derived(s):
        switched = supply.kind in ("generator", "inverter")
        if any(e.panel == panel.id and e.joined != "no" for e in s.filled.electrodes):
            continue
        if switched and panel.id in s.services:
            continue  # the service's own electrodes are there
        yield s.found(
            supply,
            "No electrode conductor from its bond is described.",
            "From the same point as its bonding jumper to the building's electrodes, by its line"
            " conductors.",
            parts=("electrode conductor",),
        )


@check(
    "derived-secondary-unprotected",
    "fix",
    looks="A transformer's secondary conductors with no device, or none near enough.",
    why="The primary's device does not see what a secondary conductor carries (240.4(F)).",
    topic="derived_protection",
    needs=(
        "panels.main.kind",
        "panels.main.rating_a",
        "services.length_ft",
        "services.run",
        "supplies.breaker.kind",
        "supplies.breaker.rating_a",
        "supplies.kind",
        "supplies.neutral_switched",
    ),
)
def derived_secondary_unprotected(s: Evidence) -> Iterator[Yielded]:
    for supply, run, panel in derived(s):
        if supply.kind != "transformer" or opens(supply.breaker):
            continue
        if opens(panel.main):
            far = run.length_ft if s.known(f"{run.id}.length_ft") else None
            outdoors = run.run is not None and s.known(f"{run.id}.run")
            if far is not None and far > LONG_FT and not outdoors:
                yield s.found(
                    run,
                    f"{far:g} ft from the transformer to its first device; {LONG_FT:g} ft is the"
                    " most inside.",
                    "A device within reach of the transformer.",
                    parts=("breaker or fuses in an enclosure",),
                )
        elif panel.main.kind in OPENS_NOTHING and is_typed(supply.breaker):
            yield s.found(
                run,
                "No device protects the secondary: the primary's does not.",
                "A main at its first panel, sized by the secondary conductors.",
                level="danger",
                parts=("main breaker",),
            )
