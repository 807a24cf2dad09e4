"""The high leg of a four-wire delta: where it is, how it is marked, what must not hang on it."""

from collections.abc import Iterator

from ...network.wiring import lines_at
from ...panels import MOST_SPACES, taken_spaces
from ...site import Circuit, Set
from ...site.spaces import leg_of_space
from ...study import LoadStudy
from ...vocabulary import FactPath
from ...working import figures
from ..finding import PRACTICE
from ..registry import Evidence, Yielded, check

FAMILY = "neutral"
#: Where it may be besides B, marked: the utility's metering, or older work (408.3(E) exception).
PERMITTED = ("B", "C metering", "C older")


@check(
    "high-leg-120",
    "danger",
    looks="A 120 V circuit hangs on the high leg of a delta.",
    why="What is made for 120 V burns at 208 V.",
    topic="the high leg of a delta",
    kind=PRACTICE,
    needs=(
        "circuits.neutral",
        "circuits.poles",
        "circuits.space",
        "panels.numbering",
        "panels.spaces",
        "supplies.high_leg",
        "supplies.system",
        "study",
    ),
)
def high_leg_120(s: Evidence) -> Iterator[Yielded]:
    high = s.filled.supply.high_line
    for circuit in s.filled.circuits:
        legs = s.legs[circuit.id]
        if not high or high not in legs or len(legs) > 2 or circuit.neutral != "yes":
            continue
        if circuit.space is None or (len(legs) == 2 and not s.known(f"{circuit.id}.neutral")):
            continue  # on no space yet; or two poles whose neutral nobody has seen
        load: LoadStudy | None = next(iter(s.study.loads.values()), None)
        volts = load.legs(circuit.panel).get(f"L{high}", 0.0) if load else 0.0
        moved = _to_120(s, circuit) if len(legs) == 1 else ()
        to = f" Space {moved[0].value} is free." if moved else ""
        yield s.found(
            circuit,
            f"On the high leg ({'ABC'[high - 1]}): {figures(round(volts))} V to neutral at a"
            " 120 V circuit.",
            f"Move it to a space on another line.{to}",
            fix=moved,
        )


def _to_120(s: Evidence, circuit: Circuit) -> tuple[Set, ...]:
    """To the nearest free space whose line has 120 V to neutral."""
    panel, high = s.panels[circuit.panel], s.filled.supply.high_line
    lines, taken = lines_at(s.filled)[panel.id], taken_spaces(s.filled, panel.id)
    free = [
        n
        for n in range(1, (panel.spaces or MOST_SPACES) + 1)
        if n not in taken and leg_of_space(panel, n, lines) != high
    ]
    nearest = min(free, key=lambda n: abs(n - (circuit.space or 0)), default=None)
    return () if nearest is None else (Set(path=f"{circuit.id}.space", value=nearest),)


@check(
    "high-leg-place",
    "fix",
    looks="The high leg is not on B, the middle bar, and nobody says why.",
    why="Whoever lands the next 120 V circuit looks for it there.",
    topic="high_leg_place",
    needs=("supplies.high_leg", "supplies.system"),
)
def high_leg_place(s: Evidence) -> Iterator[Yielded]:
    supply = s.site.supply
    if not s.filled.supply.high_line or supply.high_leg in (None, *PERMITTED):
        return
    yield s.found(
        s.filled.supply,
        f"The high leg is on {supply.high_leg}; B is its place.",
        "Turn it to B, every three-phase load with it; or say that it is the utility's metering or"
        " older work, and mark it.",
        fix=(Set(path=f"{supply.id}.high_leg", value="B"),),
    )


@check(
    "high-leg-unmarked",
    "fix",
    looks="The high leg is not orange, nor marked otherwise, at every termination.",
    why="208 V looks like every other hot.",
    topic="high_leg_mark",
    needs=("supplies.high_leg", "supplies.high_leg_marked", "supplies.system"),
)
def high_leg_unmarked(s: Evidence) -> Iterator[Yielded]:
    supply = s.filled.supply
    if not supply.high_line:
        return
    path = FactPath.of(supply.id, "high_leg_marked")
    if supply.high_leg_marked is None:
        yield s.ask(supply, path, "Is the high leg orange wherever it is landed, and measured?")
    elif supply.high_leg_marked == "no":
        yield s.found(
            supply,
            "The high leg is not marked.",
            "Orange tape at every termination; “Caution: B has 208 V to ground” on the panel.",
            fix=(Set(path=path, value="yes"),),
            parts=("orange tape", "caution label"),
        )


@check(
    "high-leg-slash-breaker",
    "check",
    looks="A one- or two-pole breaker on the high leg, and nobody read its volts.",
    why="One marked 120/240 V is not made to open 208 V to ground.",
    topic="slash_rating",
    needs=(
        "breaker.marked_v",
        "circuits.poles",
        "circuits.space",
        "supplies.high_leg",
        "supplies.system",
    ),
)
def high_leg_slash_breaker(s: Evidence) -> Iterator[Yielded]:
    high = s.filled.supply.high_line
    for circuit in s.filled.circuits:
        legs = s.legs[circuit.id]
        if not high or high not in legs or len(legs) > 2 or circuit.space is None:
            continue
        path = FactPath.of(circuit.id, "breaker.marked_v")
        if circuit.breaker.marked_v is None:
            yield s.ask(circuit, path, "Is its breaker marked 240 V, not 120/240 V?")
        elif circuit.breaker.marked_v == "120/240":
            yield s.found(
                circuit,
                "Its breaker is marked 120/240 V; on the high leg it meets 208 V to ground.",
                "A breaker marked 240 V, or a space on the other two lines.",
                level="fix",
                fix=(Set(path=path, value="240"),),
                parts=("breaker marked 240 V",),
            )
