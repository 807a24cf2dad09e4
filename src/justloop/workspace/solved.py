"""Solved sites, kept in this process by their content; and the summary a revision stores."""

import hashlib
import threading
from collections import OrderedDict
from dataclasses import dataclass

from returnpath import ENGINE_VERSION
from returnpath.rules import (
    Finding,
    SizeRow,
    findings,
    fold,
    next_step,
    size_rows,
    unproven,
    worst,
)
from returnpath.site import Installation, dumps
from returnpath.study import SiteStudy, study

KEEP = 64
_lock = threading.Lock()
_kept: OrderedDict[str, "SolvedSite"] = OrderedDict()


@dataclass(frozen=True)
class SolvedSite:
    """A site with its study, its findings and its sizes by the path of the installed fact."""

    site: Installation
    study: SiteStudy
    findings: tuple[Finding, ...]
    sizes: dict[str, SizeRow]


def solve(site: Installation) -> SolvedSite:
    """Study ``site``, or hand back what the same content gave before."""
    content = f"{ENGINE_VERSION}\n{dumps(site)}"
    key = hashlib.sha256(content.encode()).hexdigest()
    with _lock:
        if key in _kept:
            _kept.move_to_end(key)
            return _kept[key]
    studied = study(site)
    sizes = {row.path: row for row in size_rows(site, studied)}
    found = fold(site, findings(site, studied))
    solved = SolvedSite(site, studied, found, sizes)
    with _lock:
        _kept[key] = solved
        while len(_kept) > KEEP:
            _kept.popitem(last=False)
    return solved


def standing(solved: SolvedSite, aside: dict) -> tuple[Finding, ...]:
    """The findings that stand: those set aside left out."""
    return tuple(f for f in solved.findings if f.key not in aside)


def summarise(site: Installation, aside: dict | None = None) -> dict:
    """What a list shows of a revision: worst finding, next step, how many circuits are proven."""
    solved = solve(site)
    found = standing(solved, aside or {})
    first = worst(found)
    open_ones = len(unproven(solved.study))
    return {
        "level": first.level if first else "",
        "worst": f"{first.place_name}: {first.found}" if first else "",
        "next": next_step(site, solved.study, found).text,
        "circuits": len(site.circuits),
        "proven": len(site.circuits) - open_ones,
    }
