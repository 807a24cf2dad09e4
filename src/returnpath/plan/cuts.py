"""Wire off the spool: the fewest spools for the pieces, exactly where that can be counted out.

A piece is a run, never a sum: two of 60 ft do not come off 100 ft and 20 ft. Lengths in ft.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from ..errors import BadInput

EXACT_PIECES = 14  # up to here every packing is tried
MOST_PIECES = 400
MOST_STEPS = 200_000


@dataclass(frozen=True)
class Piece:
    """One run as it is cut: ``feet`` with its slack, for what."""

    feet: float
    of: str


@dataclass(frozen=True)
class Cutting:
    """``spools`` each with its pieces, longest first; ``left`` of each."""

    spool_ft: float
    spools: tuple[tuple[Piece, ...], ...]

    @property
    def left(self) -> tuple[float, ...]:
        """What stays on each spool, ft."""
        return tuple(round(self.spool_ft - sum(p.feet for p in s), 2) for s in self.spools)


def cut(pieces: Sequence[Piece], spool_ft: float) -> Cutting:
    """The fewest spools; of more than ``EXACT_PIECES`` the better of two rules of thumb, never
    worse than the first spool that has room. BadInput where a piece is longer than a spool."""
    if spool_ft <= 0 or any(p.feet <= 0 for p in pieces):
        raise BadInput("A spool and a piece are longer than nothing.")
    if len(pieces) > MOST_PIECES:
        raise BadInput(f"At most {MOST_PIECES} pieces are cut at once.")
    order = sorted(pieces, key=lambda p: -p.feet)
    if order and order[0].feet > spool_ft:
        raise BadInput(
            f"{order[0].of}: {order[0].feet:g} ft is longer than a spool of {spool_ft:g} ft."
        )
    best = min((_first_fit(order, spool_ft), _first_fit(list(pieces), spool_ft),
                _best_fit(order, spool_ft)), key=len)  # fmt: skip
    if len(order) <= EXACT_PIECES:
        best = _exact(order, spool_ft, best)
    return Cutting(spool_ft, tuple(tuple(sorted(s, key=lambda p: -p.feet)) for s in best))


def _first_fit(pieces: Sequence[Piece], spool: float) -> list[list[Piece]]:
    found: list[list[Piece]] = []
    for piece in pieces:
        place = next((s for s in found if _length(s) + piece.feet <= spool + 1e-9), None)
        if place is None:
            found.append([piece])
        else:
            place.append(piece)
    return found


def _best_fit(pieces: Sequence[Piece], spool: float) -> list[list[Piece]]:
    found: list[list[Piece]] = []
    for piece in pieces:
        fits = [s for s in found if _length(s) + piece.feet <= spool + 1e-9]
        if fits:
            max(fits, key=_length).append(piece)
        else:
            found.append([piece])
    return found


def _length(spool: Sequence[Piece]) -> float:
    return sum(p.feet for p in spool)


def _exact(order: Sequence[Piece], spool: float, best: list[list[Piece]]) -> list[list[Piece]]:
    """Every way, spools alike tried once; stops at the bound that no cutting beats."""
    least = -(-sum(p.feet for p in order) // spool)
    found, steps = best, 0

    def place(n: int, spools: list[list[Piece]]) -> None:
        nonlocal found, steps
        steps += 1
        if steps > MOST_STEPS or len(found) <= least or len(spools) >= len(found):
            return
        if n == len(order):
            found = [list(s) for s in spools]
            return
        tried = set()
        for s in spools:
            room = round(spool - _length(s), 6)
            if room + 1e-9 >= order[n].feet and room not in tried:
                tried.add(room)
                s.append(order[n])
                place(n + 1, spools)
                s.pop()
        spools.append([order[n]])
        place(n + 1, spools)
        spools.pop()

    place(0, [])
    return found
