"""Solved sites, kept in this process by their content; and the summary a revision stores."""

import hashlib
import logging
import threading
from collections import OrderedDict
from dataclasses import dataclass
from functools import cached_property

from returnpath import ENGINE_VERSION
from returnpath.diagnosis import Diagnoser
from returnpath.errors import BadInput
from returnpath.rules import (
    Evidence,
    Finding,
    OpenFact,
    SizeRow,
    findings_of,
    fold,
    next_step,
    open_facts,
    unproven,
    worst,
)
from returnpath.site import Installation, dumps
from returnpath.study import SiteStudy, study

KEEP = 12
#: Faults studied among all that are kept. A house has 50 to 150; one with 20 sources and 20 panels
#: has 760 and takes 220 MB: a dozen of those must not fill the machine. The last one always stays.
KEEP_CASES = 2000
logger = logging.getLogger(__name__)
_lock = threading.Lock()
_kept: OrderedDict[str, "SolvedSite"] = OrderedDict()


@dataclass(frozen=True)
class SolvedSite:
    """A site with its study, its findings and its sizes by the path of the installed fact."""

    site: Installation
    study: SiteStudy
    findings: tuple[Finding, ...]
    sizes: dict[str, SizeRow]
    evidence: Evidence  # what the findings were found with: its chain and sums are made once

    @cached_property
    def open_facts(self) -> tuple[OpenFact, ...]:
        """What checks need and nobody has given, the gravest first."""
        return open_facts(self.evidence)

    @cached_property
    def diagnoser(self) -> Diagnoser:
        """The place made ready to explain readings."""
        return Diagnoser(self.study)

    @cached_property
    def unproven(self) -> frozenset[str]:
        """The circuits that are not proven yet."""
        return frozenset(unproven(self.study))


def solve(site: Installation, document: str = "") -> SolvedSite:
    """Study ``site``, or hand back what the same content gave before.

    ``document`` is the site's text, where the caller has it already.
    """
    content = f"{ENGINE_VERSION}\n{document or dumps(site)}"
    key = hashlib.sha256(content.encode()).hexdigest()
    with _lock:
        if key in _kept:
            _kept.move_to_end(key)
            return _kept[key]
    solved = _solved(site)
    with _lock:
        _kept[key] = solved
        _make_room()
    return solved


def _make_room() -> None:
    """Let go of what was used longest ago until the rest is few enough and light enough."""
    while len(_kept) > 1 and (
        len(_kept) > KEEP or sum(len(s.study.cases) for s in _kept.values()) > KEEP_CASES
    ):
        _kept.popitem(last=False)


class Unsolvable(BadInput):
    """A site that no study comes to an end of; what it says is told to its person."""


def _solved(site: Installation) -> SolvedSite:
    try:
        studied = study(site)
        judged = Evidence(site, studied)
        found = fold(site, findings_of(judged))
        return SolvedSite(site, studied, found, judged.sizes, judged)
    except BadInput as error:
        raise Unsolvable(f"This cannot be solved: {error.sentence}") from None
    except (ArithmeticError, ValueError, KeyError, IndexError, RecursionError) as error:
        logger.exception("A site could not be solved")
        raise Unsolvable(
            f"This cannot be solved ({type(error).__name__}): nothing was saved. Take the last"
            " change back, or tell us of it."
        ) from error


def standing(solved: SolvedSite, aside: dict) -> tuple[Finding, ...]:
    """The findings that stand: those set aside left out."""
    return tuple(f for f in solved.findings if f.key not in aside)


def summarise(site: Installation, aside: dict | None = None, document: str = "") -> dict:
    """What a list shows of a revision: worst finding, next step, how many circuits are proven."""
    solved = solve(site, document)
    found = standing(solved, aside or {})
    first = worst(found)
    open_ones = len(solved.unproven)
    return {
        "level": first.level if first else "",
        "worst": f"{first.place_name}: {first.found}" if first else "",
        "next": next_step(site, solved.study, found).text,
        "circuits": len(site.circuits),
        "proven": len(site.circuits) - open_ones,
    }
