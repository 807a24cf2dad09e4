"""What a look shows, as a list: the phone's and the screen reader's map."""

from dataclasses import dataclass

from returnpath.study import SiteStudy
from returnpath.vocabulary import BranchId
from returnpath.working import figures

from ..drawing.looks import Look
from ..solved import SolvedSite
from .loop_view import PARTS, branch_words

MOST = 14
LEAST_V = 0.1


@dataclass(frozen=True)
class LookRow:
    """What a look lights at one place, and its figure."""

    id: str
    words: str
    figure: str
    href: str = ""


def rows(solved: SolvedSite, look: Look) -> list[LookRow]:
    """Place and figure of everything that the look lights, most first; none for a fault, whose
    legs are listed with their ohms."""
    study: SiteStudy = solved.study
    names = {p.id: p.name or "Panel" for p in study.assumed.site.panels}
    found: list[LookRow] = []
    if look.kind == "neutral":
        for panel, legs in look.legs.items():
            words = ", ".join(f"{leg} {figures(volts)} V" for leg, volts in legs.items())
            if words:
                found.append(LookRow(id=panel, words=f"{names[panel]}, each leg", figure=words))
    if look.kind in ("touch", "neutral"):
        for panel, volts in sorted(look.volts.items(), key=lambda kv: -kv[1]):
            if volts < LEAST_V:
                continue
            found.append(
                LookRow(panel, f"{names[panel]}, enclosure to earth", f"{figures(volts)} V")
            )
    if look.kind in ("load", "neutral"):
        bonds = _bonds(study)
        for branch, amps in sorted(look.amps.items(), key=lambda kv: -kv[1]):
            part = BranchId(branch).part
            if part in PARTS and part != "neutral" and amps >= look.least_a and branch not in bonds:
                found.append(
                    LookRow(
                        BranchId(branch).element, branch_words(solved, branch), f"{figures(amps)} A"
                    )
                )
    return found[:MOST]


def _bonds(study: SiteStudy) -> set[str]:
    """Main bonds and the utility's earth: current there is as it should be."""
    site = study.assumed.site
    return {f"{s.to}.bond" for s in site.services} | {
        f"{u.id}.{part}" for u in site.supplies for part in ("earth", "bond")
    }
