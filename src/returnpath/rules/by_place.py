"""Protection by place, circuit by circuit: what the edition asks for, what is fitted, and what is
to be bought for a panel (``checks/protection.py`` judges the same).

Two schools (``practice.gfci_at``): at the breaker, where one device serves the whole run; at the
receptacle. An AFCI receptacle first on the circuit is taken only under the wiring conditions of
210.12: metal raceway or metal-clad cable as far as it, or a short home run behind a breaker that is
listed with it; elsewhere the breaker stays.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from ..network.wiring import shared_owners
from ..site import Circuit, name_of
from ..working import figures
from .checks.protection import AFCI, GFCI, AskedFor, asked_now
from .registry import Evidence

FACT = {GFCI: "gfci", AFCI: "afci"}
BOTH = f"{GFCI} and {AFCI}"
#: What an AFCI receptacle needs ahead of it (210.12).
AFCI_AT_RECEPTACLE = (
    "AFCI at the receptacle: only with metal raceway or metal-clad cable as far as it, or a home"
    " run of at most 50 ft of 14 AWG or 70 ft of 12 AWG behind a breaker listed with it, the first"
    " box marked (210.12)."
)
METAL_METHODS = ("EMT", "IMC", "RMC", "MC", "AC")
RECEPTACLE_MOST_A = 20.0


class Standing(StrEnum):
    """How a circuit stands to what is asked."""

    FITTED = "fitted"
    MISSING = "missing"
    NOT_KNOWN = "not known"
    MAY_REMAIN = "may remain"


@dataclass(frozen=True)
class PlaceRow:
    """What is asked of one circuit: its protection, why, and how it stands."""

    circuit: str
    name: str
    panel: str
    protection: str
    asked: AskedFor
    standing: Standing


@dataclass(frozen=True)
class Purchase:
    """One line of the shopping list: how many, of what, and for which circuits."""

    count: int
    what: str
    circuits: tuple[str, ...]


def rows_by_place(s: Evidence) -> tuple[PlaceRow, ...]:
    """Every protection that the edition asks of every circuit, missing ones first."""
    found = [
        PlaceRow(c.id, name_of(c), c.panel, protection, asked, _standing(c, protection, asked))
        for c in s.filled.circuits
        for protection in FACT
        if (asked := asked_now(s, c, protection)) is not None
    ]
    order = [Standing.MISSING, Standing.NOT_KNOWN, Standing.MAY_REMAIN, Standing.FITTED]
    return tuple(sorted(found, key=lambda r: order.index(r.standing)))


def _standing(circuit: Circuit, protection: str, asked: AskedFor) -> Standing:
    given = getattr(circuit, FACT[protection])
    if given == "yes":
        return Standing.FITTED
    if not asked.in_force:
        return Standing.MAY_REMAIN
    return Standing.NOT_KNOWN if given is None else Standing.MISSING


def shopping_list(
    s: Evidence, panel: str, rows: tuple[PlaceRow, ...] | None = None
) -> tuple[Purchase, ...]:
    """What mends everything that is missing in a panel, as the practice has it; halves of a
    shared-neutral circuit take one two-pole breaker together. ``rows`` where they are there."""
    missing: dict[str, set[str]] = {}
    for row in rows_by_place(s) if rows is None else rows:
        if row.panel == panel and row.standing is Standing.MISSING:
            missing.setdefault(row.circuit, set()).add(row.protection)
    owners, circuits = shared_owners(s.filled), {c.id: c for c in s.filled.circuits}
    line = s.panels[panel].breaker_line or ""
    wanted: dict[str, list[str]] = {}
    pairs: dict[str, set[str]] = {}
    for id_, lacking in missing.items():
        owner = owners.get(id_, id_)
        if owner in owners.values():
            pairs.setdefault(owner, set()).update(lacking)
            continue
        for what in _devices(circuits[id_], lacking, s.filled.practice.gfci_at, line):
            wanted.setdefault(what, []).append(name_of(circuits[id_]))
    for owner, lacking in pairs.items():
        together = [owner, *(id_ for id_, first in owners.items() if first == owner)]
        what = _breaker(circuits[owner].breaker.rating_a, len(together), lacking, line)
        names = " with ".join(name_of(circuits[id_]) for id_ in together)
        wanted.setdefault(what, []).append(names)
    return tuple(Purchase(len(names), what, tuple(names)) for what, names in wanted.items())


def _devices(circuit: Circuit, lacking: set[str], at: str, line: str) -> Iterable[str]:
    """What one circuit takes."""
    rating, poles = circuit.breaker.rating_a, circuit.poles or 1
    can_be_receptacle = (
        at == "outlet" and poles == 1 and (rating or 0) <= RECEPTACLE_MOST_A
        and circuit.feeds != "fixed equipment"
    )  # fmt: skip
    if can_be_receptacle and AFCI in lacking and circuit.method not in METAL_METHODS:
        can_be_receptacle = False  # the breaker serves both
    if can_be_receptacle:
        yield f"{figures(rating or 0)} A {_kind(lacking)} receptacle, first on the circuit"
    else:
        yield _breaker(rating, poles, lacking, line)


def _kind(lacking: set[str]) -> str:
    return BOTH if len(lacking) == len(FACT) else next(iter(lacking))


def _breaker(rating: float | None, poles: int, lacking: set[str], line: str) -> str:
    size = f"{figures(rating)} A" if rating else "? A"
    listed = f", {line}" if line else ", listed for the panel"
    return f"{size} {poles}-pole {_kind(lacking)} breaker{listed}"
