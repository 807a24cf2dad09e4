"""What is in a raceway and in a box, where somebody counted it."""

from collections.abc import Iterator

from ...errors import BadInput
from ...site import Circuit
from ...sizing.fill import box_fill, fill_limit, raceway_fill, read_wires
from ...working import figures
from ..registry import Evidence, Yielded, check

FAMILY = "conductors"


@check(
    "raceway-overfull",
    "fix",
    looks="More wire in a raceway than its inside may be filled with.",
    why="Insulation is skinned when it is pulled, and what is packed cannot cool.",
    topic="raceway_fill",
    needs=(
        "around.raceway_wires",
        "circuits.length_ft",
        "circuits.method",
        "circuits.raceway_size",
        "feeders.length_ft",
        "feeders.method",
        "feeders.raceway_size",
    ),
)
def raceway_overfull(s: Evidence) -> Iterator[Yielded]:
    for run in s.runs:
        wires = run.around.raceway_wires
        if not wires:
            continue
        if run.raceway_size is None or not s.known(f"{run.id}.raceway_size"):
            yield s.ask(run, f"{run.id}.raceway_size", "What is the trade size of its raceway?")
            continue
        feet = run.length_ft if s.known(f"{run.id}.length_ft") else None
        try:
            made = raceway_fill(run.method or "", run.raceway_size, wires, feet=feet)
        except BadInput as error:
            yield s.found(run, error.sentence, "Write what is in it again.", level="check",
                          asks=f"{run.id}.around.raceway_wires")  # fmt: skip
            continue
        limit = fill_limit(sum(b.count for b in read_wires(wires)), feet)
        if made.number > limit + 1e-9:
            yield s.found(
                run,
                f"{run.raceway_size} in {run.method} filled to {figures(made.number)} %;"
                f" at most {limit:g} %.",
                "A larger raceway, or a second one.",
                working=made,
            )


@check(
    "box-overfull",
    "fix",
    looks="A box with less volume than its wires and devices need.",
    why="Wires that are forced in break and short behind the device.",
    topic="box_fill",
    needs=("circuits.box_holds", "circuits.box_in3"),
)
def box_overfull(s: Evidence) -> Iterator[Yielded]:
    for circuit in s.filled.circuits:
        if circuit.box_holds is None:
            continue
        yield from _box(s, circuit)


def _box(s: Evidence, circuit: Circuit) -> Iterator[Yielded]:
    try:
        made = box_fill(circuit.box_holds or "", s.edition)
    except BadInput as error:
        yield s.found(circuit, error.sentence, "Write what is in it again.", level="check",
                      asks=f"{circuit.id}.box_holds")  # fmt: skip
        return
    needed = made.number
    if circuit.box_in3 is None:
        yield s.ask(
            circuit,
            f"{circuit.id}.box_in3",
            f"Its smallest box needs {figures(needed)} in³: what is marked in it?",
        )
    elif circuit.box_in3 < needed:
        yield s.found(
            circuit,
            f"A box of {figures(circuit.box_in3)} in³; {figures(needed)} in³ is needed.",
            "A deeper box, an extension ring, or fewer wires through it.",
            parts=(f"box of {figures(needed)} in³ at least",),
            working=made,
        )
