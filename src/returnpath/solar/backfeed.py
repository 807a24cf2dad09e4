"""Whether an inverter's breaker may feed the bars of a panel: the ways of 705.12, one is enough.

main 200 A →  ====== bars 200 A ======  ← 25 A inverter
"""

from collections.abc import Sequence
from dataclasses import dataclass

from ..errors import number_in
from ..working import figures

CONTINUOUS = 1.25  # of the inverter's output
OPPOSITE = 1.20  # of the bars, with the two at opposite ends


@dataclass(frozen=True)
class Way:
    """One way to meet the rule: its words, the sum in A, the limit in A, whether it is met."""

    words: str
    sum_a: float
    limit_a: float
    met: bool

    @property
    def working(self) -> str:
        """The sum against its limit."""
        sign = "≤" if self.met else ">"
        return f"{figures(self.sum_a)} A {sign} {figures(self.limit_a)} A"


@dataclass(frozen=True)
class Backfeed:
    """An inverter on a panel's bars. ``most_main_a`` the largest main that the opposite-end way
    leaves, ``most_output_a`` the largest inverter output with the main that is there."""

    ways: tuple[Way, ...]
    most_main_a: float
    most_output_a: float

    @property
    def met(self) -> bool:
        """Whether any way is met."""
        return any(w.met for w in self.ways)


def backfeed(
    output_a: float,
    main_a: float,
    bus_a: float,
    is_opposite: bool | None,
    branch_ratings: Sequence[float] = (),
) -> Backfeed:
    """Judge an inverter of ``output_a`` on bars of ``bus_a`` behind a main of ``main_a``.

    ``is_opposite`` None: not known, so that way is not met yet. ``branch_ratings`` of every breaker
    on the bars but the main; empty where they are not known, and that way is left out.
    """
    number_in(output_a, "Inverter's output", 0, 4000, "A")
    number_in(main_a, "Main", 0, 6000, "A", above_low=True)
    number_in(bus_a, "Bars", 0, 6000, "A", above_low=True)
    load = CONTINUOUS * output_a
    both = load + main_a
    ways = [
        Way("125 % of its output and the main within the bars' rating", both, bus_a, both <= bus_a),
        Way(
            "its breaker at the opposite end: together within 120 % of the bars",
            both,
            OPPOSITE * bus_a,
            bool(is_opposite) and both <= OPPOSITE * bus_a + 1e-9,
        ),
    ]
    if branch_ratings:
        total = sum(branch_ratings)
        words = "all breakers on the bars but the main within their rating"
        ways.append(Way(words, total, bus_a, total <= bus_a))
    most_main = OPPOSITE * bus_a - load
    most_output = max(OPPOSITE * bus_a - main_a, 0.0) / CONTINUOUS
    return Backfeed(tuple(ways), most_main, most_output)
