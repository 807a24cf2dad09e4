"""The Panels stage, its Protection: what each circuit's places ask for, what is fitted, what to
buy."""

from dataclasses import dataclass

from returnpath.rules import (
    AFCI_AT_RECEPTACLE,
    PlaceRow,
    Purchase,
    Standing,
    rows_by_place,
    shopping_list,
)

from ..address import Address
from ..solved import SolvedSite
from .fields import fact_href

TAB = "protection"
MARKS = {
    Standing.MISSING: "missing",
    Standing.NOT_KNOWN: "is it fitted?",
    Standing.MAY_REMAIN: "none; may remain",
    Standing.FITTED: "fitted",
}


@dataclass(frozen=True)
class ProtectionRow:
    """One circuit and one protection: why it is asked for, how it stands, where it is said."""

    name: str
    protection: str
    why: str
    mark: str
    is_met: bool
    is_missing: bool
    href: str


@dataclass(frozen=True)
class ProtectionView:
    """The circuits of a panel by what is asked of them, and the shopping list."""

    rows: tuple[ProtectionRow, ...]
    purchases: tuple[Purchase, ...]
    at: str
    other_at: str
    practice_href: str
    condition: str
    edition: int


def protection_view(solved: SolvedSite, panel: str, address: Address) -> ProtectionView:
    """What the places of a panel's circuits ask for."""
    evidence = solved.evidence
    rows = tuple(r for r in rows_by_place(evidence) if r.panel == panel)
    at_breaker = solved.site.practice.gfci_at == "breaker"
    words = ("at the breaker", "at the receptacle")
    return ProtectionView(
        rows=tuple(_row(solved, row, address) for row in rows),
        purchases=shopping_list(evidence, panel, rows),
        at=words[0 if at_breaker else 1],
        other_at=words[1 if at_breaker else 0],
        practice_href=fact_href(solved.site, address, "practice.gfci_at"),
        condition="" if at_breaker else AFCI_AT_RECEPTACLE,
        edition=solved.site.practice.edition,
    )


def _row(solved: SolvedSite, row: PlaceRow, address: Address) -> ProtectionRow:
    asked = row.asked
    why = f"{asked.words}, since {asked.since}; {asked.section}{'' if asked.is_sure else '?'}"
    fact = "gfci" if row.protection == "GFCI" else "afci"
    return ProtectionRow(
        row.name, row.protection, why, MARKS[row.standing], row.standing is Standing.FITTED,
        row.standing is Standing.MISSING, fact_href(solved.site, address, f"{row.circuit}.{fact}"),
    )  # fmt: skip
