"""The amperes on each leg and the neutral, and the fewest moves that even them out.

Two schools: by load (each circuit's volt-amperes, those that are known) and by space (each pole
counts as one). The moves are found by SciPy's mixed-integer solver: first the fewest that bring
the legs within the larger of 2 A and 5 % of their mean, then the least imbalance with that many.
"""

from dataclasses import dataclass

import numpy as np

from .face import Face, Unit

CLOSE_A, CLOSE_SHARE = 2.0, 0.05
LONGEST_S = 3.0


@dataclass(frozen=True)
class Legs:
    """Amperes (or poles) on each leg, and in the neutral, with everything on; ``unknown`` how many
    circuits have no load said."""

    amps: tuple[float, ...]
    neutral: float
    unknown: int
    by_space: bool


@dataclass(frozen=True)
class BreakerMove:
    """One breaker from its space to another."""

    unit: Unit
    to: int


@dataclass(frozen=True)
class EvenOut:
    """The moves, the legs before and after; ``is_proven`` that there are no fewer."""

    moves: tuple[BreakerMove, ...]
    before: Legs
    after: tuple[float, ...]
    is_proven: bool


def _weight(face: Face, unit: Unit, by_space: bool) -> float:
    """What a breaker puts on each of its legs, at the panel's volts to neutral."""
    if by_space:
        return 1.0
    return (unit.load_va or 0.0) / (face.volts * unit.poles)


def legs_of_panel(face: Face, by_space: bool = False) -> Legs:
    """The legs as the breakers stand."""
    amps, singles = [0.0] * face.lines, [0.0] * face.lines
    for unit in face.units:
        if unit.is_source or unit.is_feeder:
            continue
        for space in unit.spaces:
            leg = face.leg_of(space) - 1
            amps[leg] += _weight(face, unit, by_space)
            if unit.poles == 1:
                singles[leg] += _weight(face, unit, by_space)
    neutral = _neutral(singles)
    unknown = sum(u.load_va is None for u in face.units if not (u.is_feeder or u.is_source))
    return Legs(tuple(amps), neutral, unknown, by_space)


def legs_after(face: Face, unit: Unit, by_space: bool = False) -> Legs | None:
    """The legs with a single-pole breaker on the other of two; None where it has no other."""
    if face.lines != 2 or unit.poles != 1 or not unit.spaces or unit.is_source or unit.is_feeder:
        return None
    here = legs_of_panel(face, by_space)
    weight, leg = _weight(face, unit, by_space), face.leg_of(unit.first) - 1
    amps = list(here.amps)
    amps[leg] -= weight
    amps[1 - leg] += weight
    # Two-pole loads are on both legs alike: what is apart is the single-pole ones.
    return Legs(tuple(amps), abs(amps[0] - amps[1]), here.unknown, by_space)


def _neutral(singles: list[float]) -> float:
    """What single-pole loads send home by the neutral: two legs subtract, three add as phasors."""
    if len(singles) == 3:
        turns = np.exp(-2j * np.pi / 3 * np.arange(3))
        return float(abs(np.dot(singles, turns)))
    return abs(singles[0] - singles[1]) if len(singles) == 2 else singles[0]


def even_out(face: Face, by_space: bool = False) -> EvenOut | None:
    """The fewest moves that bring two legs near each other; None where they are already, where
    nothing can be moved, or on other systems than two legs."""
    before = legs_of_panel(face, by_space)
    if face.lines != 2 or before.neutral < 1e-9:
        return None
    close = max(CLOSE_A if not by_space else 1.0, CLOSE_SHARE * sum(before.amps) / 2)
    if abs(before.amps[0] - before.amps[1]) <= close:
        return None
    movable = [
        u for u in face.units if u.poles == 1 and u.can_move and not (u.is_tandem or u.is_feeder)
    ]
    solved = _solve(face, movable, by_space, close)
    if solved is None:
        return None
    flipped, proven = solved
    moves = moves_of(face, [u for u, f in zip(movable, flipped, strict=True) if f])
    if moves is None:
        return None
    after = list(before.amps)
    for move in moves:
        leg = face.leg_of(move.unit.first) - 1
        after[leg] -= _weight(face, move.unit, by_space)
        after[1 - leg] += _weight(face, move.unit, by_space)
    return EvenOut(moves, before, tuple(after), proven)


def _solve(
    face: Face, movable: list[Unit], by_space: bool, close: float
) -> tuple[list[bool], bool] | None:
    """(which flip their leg, whether that is proven); None where there is no way."""
    from scipy.optimize import Bounds, LinearConstraint, milp

    count = len(movable)
    if not count:
        return None
    before = legs_of_panel(face, by_space)
    apart = before.amps[0] - before.amps[1]
    sign = np.array([1.0 if face.leg_of(u.first) == 1 else -1.0 for u in movable])
    weights = np.array([_weight(face, u, by_space) for u in movable])
    shift = -2 * sign * weights  # what flipping each does to L1 − L2
    rows, low, high = [np.append(shift, 0.0)], [-close - apart], [close - apart]
    free = [sum(face.leg_of(n) == leg for n in face.free) for leg in (1, 2)]
    # A leg gains no more breakers than it has free spaces, beside those that leave it.
    rows.append(np.append(-sign, 0.0))
    low.append(-float(free[1]))
    high.append(float(free[0]))
    index = {u.id: n for n, u in enumerate(movable)}
    for unit in movable:  # halves of a multiwire pair end on opposite legs
        if unit.partner in index:
            row = np.zeros(count + 1)
            opposite = sign[index[unit.id]] != sign[index[unit.partner]]
            row[index[unit.id]] = 1.0
            row[index[unit.partner]] = -1.0 if opposite else 1.0
            rows.append(row)  # both flip or none; of a pair on one leg just one
            low.append(0.0 if opposite else 1.0)
            high.append(0.0 if opposite else 1.0)
    integrality = np.append(np.ones(count), 0)
    bounds = Bounds(np.zeros(count + 1), np.append(np.ones(count), np.inf))
    options = {"time_limit": LONGEST_S / 2}
    fewest = milp(np.append(np.ones(count), 0.0), constraints=LinearConstraint(
        np.array(rows), low, high), integrality=integrality, bounds=bounds,
        options=options)  # fmt: skip
    if fewest.x is None:
        return None
    most = round(fewest.fun)
    # With that many: the least imbalance t, −t ≤ L1 − L2 ≤ t.
    more = [np.append(np.ones(count), 0.0), np.append(shift, -1.0), np.append(shift, 1.0)]
    best = milp(np.append(np.zeros(count), 1.0), constraints=LinearConstraint(
        np.array([*rows, *more]), [*low, 0.0, -np.inf, -apart],
        [*high, float(most), -apart, np.inf]), integrality=integrality, bounds=bounds,
        options=options)  # fmt: skip
    found = best if best.x is not None else fewest
    flipped = [bool(x > 0.5) for x in found.x[:count]]
    return flipped, fewest.status == 0 and best.status == 0


def moves_of(face: Face, flipping: list[Unit]) -> tuple[BreakerMove, ...] | None:
    """Where each breaker goes that changes its leg: a free space there, else the space of one
    that leaves it. The nearest first."""
    open_spaces = {leg: [n for n in face.free if face.leg_of(n) == leg] for leg in (1, 2)}
    for unit in flipping:
        open_spaces[face.leg_of(unit.first)].append(unit.first)
    moves = []
    for unit in sorted(flipping, key=lambda u: u.first):
        wanted = open_spaces[3 - face.leg_of(unit.first)]
        if not wanted:
            return None
        nearest = min(wanted, key=lambda n: (abs(n - unit.first), n))
        wanted.remove(nearest)
        moves.append(BreakerMove(unit, nearest))
    return tuple(moves)
