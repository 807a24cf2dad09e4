"""What moved between two studies, and by how much: the answer to a what-if."""

import math
from dataclasses import dataclass

FIGURES = (
    "verdict",
    "lowest_a",
    "highest_a",
    "loop_ohm",
    "slow_s",
    "heat_used",
    "touch_earth_v",
    "touch_bar_v",
    "longest_run_ft",
)
LEAST_CHANGE = 0.001
LEAST_AMPS = 0.001


@dataclass(frozen=True, slots=True)
class Moved:
    """One figure that moved: where, what, before and after."""

    place: str
    what: str
    before: object
    after: object

    @property
    def by(self) -> float | None:
        """After less before, where both are finite numbers."""
        numbers = all(isinstance(v, float) and math.isfinite(v) for v in (self.before, self.after))
        return self.after - self.before if numbers else None


def compare(before, after) -> tuple[Moved, ...]:
    """The figures of two SiteStudies that differ by more than a thousandth."""
    found: list[Moved] = []
    olds = {(f.place, f.kind, f.state, f.side): f for f in before.faults}
    news = {(f.place, f.kind, f.state, f.side): f for f in after.faults}
    for key in olds.keys() | news.keys():
        place = " ".join(part for part in key if part)
        old, new = olds.get(key), news.get(key)
        if old is None or new is None:
            found.append(Moved(place, "fault", old and old.verdict, new and new.verdict))
            continue
        for what in FIGURES:
            a, b = getattr(old, what), getattr(new, what)
            if _moved(a, b):
                found.append(Moved(place, what, a, b))
    for supply in before.loads.keys() & after.loads.keys():
        one, other = before.loads[supply].currents, after.loads[supply].currents
        for branch in one.keys() | other.keys():
            a, b = one.get(branch, 0.0), other.get(branch, 0.0)
            if _moved(a, b) and max(a, b) > LEAST_AMPS:
                found.append(Moved(branch, f"load amperes, {supply}", a, b))
    return tuple(sorted(found, key=lambda c: (c.place, c.what)))


def _moved(a, b) -> bool:
    if isinstance(a, float) and isinstance(b, float):
        if math.isinf(a) or math.isinf(b):
            return a != b
        return abs(a - b) > LEAST_CHANGE * max(abs(a), abs(b), 1e-9)
    return a != b
