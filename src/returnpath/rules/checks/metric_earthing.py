"""Metric rule set: protective conductors that are not there, and a neutral joined where it may not
be."""

from collections.abc import Iterator

from ... import tables
from ...assume_metric import cpc_of_twin
from ...site import Set
from ...site.arrangement import Arrangement
from ...working import show_amps
from ..metric import arrangement, metric_check, runs
from ..registry import Evidence, Yielded

FAMILY = "protective conductors"


@metric_check(
    "protective-conductor-missing",
    "danger",
    looks="A circuit, or a distribution circuit within a building, has no protective conductor.",
    why="A fault leaves its metal live, and no device sees it.",
    topic="protective_earthing",
    root=True,
    needs=(
        "circuits.egc",
        "circuits.length_ft",
        "circuits.line_size",
        "circuits.method",
        "circuits.outlet_bond",
        "feeders.egc",
    ),
)
def protective_conductor_missing(s: Evidence) -> Iterator[Yielded]:
    for run in runs(s):
        if run.egc != "none" or getattr(run, "outlet_bond", None) == "yes":
            continue
        if run in s.filled.feeders and (s.other_building(run) or s.panels[run.to].bond == "in"):
            continue  # its far end is judged by what is there: an electrode, or a PEN
        line = run.line_size
        size = cpc_of_twin(line) if line and run.method == "twin" else line
        edits = [Set(path=f"{run.id}.egc", value="wire")]
        if size and tables.is_metric(size):
            edits.append(Set(path=f"{run.id}.egc_size", value=size))
        yield s.found(
            run,
            "No way home for a fault: there is no protective conductor.",
            "Run a protective conductor with its lines; until then only class II equipment on it.",
            fix=tuple(edits),
            parts=(f"{run.length_ft:g} ft of cable with a protective conductor",),
        )


def _joined_at_the_origin(s: Evidence) -> Iterator[Yielded]:
    """In TN-S and TT the supply brings neutral and earth apart: no board joins them."""
    panel = s.panels[s.at_service]
    own = arrangement(s, panel.id)
    if panel.bond != "in" or own not in (Arrangement.TN_S, Arrangement.TT):
        return
    where = "the supply’s protective conductor" if own is Arrangement.TN_S else "the electrode"
    yield s.found(
        panel,
        f"{own}, and neutral and protective bar are joined here: load current takes {where}, and"
        " RCDs ahead of it open or are blinded.",
        f"Take the joint out: in {own} they stay apart.",
        fix=(Set(path=f"{panel.id}.bond", value="out"),),
    )


@metric_check(
    "neutral-joined-again",
    "fix",
    looks="Neutral and protective conductor are joined again behind where they part.",
    why="Load current takes the protective conductors and every metal they join.",
    topic="pen",
    needs=("feeders.egc", "panels.bond", "study", "supplies.earthing"),
)
def neutral_joined_again(s: Evidence) -> Iterator[Yielded]:
    yield from _joined_at_the_origin(s)
    for feeder in s.filled.feeders:
        panel = s.panels[feeder.to]
        if panel.bond != "in" or not s.other_building(feeder):
            continue  # within one building: bond-downstream
        path, along = f"{panel.id}.bond", feeder.egc in ("wire", "raceway", "both")
        amps = s.load_amps(f"{feeder.id}.egc") + s.load_amps(f"{feeder.id}.raceway")
        rides = f": {show_amps(amps)} of load rides on the protective conductor" if along else ""
        own = "the neutral is its only way home" if not along else ""
        yield s.found(
            panel,
            f"Joined again at this building{rides}{'; ' + own if own else ''}.",
            "Take the joint out: a protective conductor along with the cable, or an electrode of"
            " its own with an RCD.",
            fix=(Set(path=path, value="out"),) if along else (),
            level="danger" if along else None,
        )
