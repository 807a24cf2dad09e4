"""One line as a part of the place: its kind first, then its facts, read back before it is kept.

    20A 12/2 NM 85ft kitchen counter
    sub panel garage 60A 6/3 110ft
    two ground rods 6 ft apart
    water pipe metal bonded 4
    detached garage
    generator 8kVA

References to parts that the same line makes are symbolic (``@1`` is the first thing it adds)
until their ids are given (``edits.resolved``).
"""

import re
from collections.abc import Callable

from ...errors import BadInput
from ...words import RuleSet, spoken
from ..edits import Add, apply_all
from ..installation import Installation
from . import grounding, runs, sources
from .bond import OF_A_SOURCE, bond_in, is_of_a_bond
from .electric import read_all
from .kind import (
    ARRAY,
    BUILDING,
    CIRCUIT,
    ELECTRODE,
    LARGE_A,
    METAL,
    PANEL,
    SERVICE,
    SUPPLY,
    LineKind,
    kind_of,
)
from .line import MARK, Line
from .making import KIND_WORDS, USES, Making, PlaceReading, only
from .metric import entered_elsewhere, read_metric, speaks_metric
from .name import lexicon
from .reasons import why_not


def read_place(
    site: Installation, line: str, panel: str = "", as_kind: str = "", unused: str = ""
) -> PlaceReading:
    """Read one line for ``site``; circuits and electrodes go to ``panel``. Never raises.

    ``as_kind`` one of the kinds it could be, chosen by the person; ``unused`` what to do with words
    that mean nothing here: "name" adds them to the name, "drop" leaves them out.
    """
    panel = panel or site.panel.id
    if not line.strip():
        return PlaceReading()
    typed = Line(line)
    if speaks_metric(typed, site):
        read_metric(typed)
    alone = is_of_a_bond(typed)
    if not typed.first(OF_A_SOURCE):
        typed.bond = bond_in(typed)
    read_all(typed)
    kind = LineKind(SERVICE) if alone and typed.bond else kind_of(typed)
    if as_kind in KIND_WORDS and as_kind != kind.name:
        others = tuple(k for k in (kind.name, *kind.doubts) if k != as_kind)
        kind = LineKind(as_kind, kind.word if as_kind == kind.name else None, kind.of, others)
    made = PlaceReading(kind=kind.name, doubts=list(kind.doubts))
    try:
        _MAKERS[kind.name](Making(site, typed, kind, panel, made, unused))
    except BadInput as error:
        made.problems.append(error.sentence)
    if kind.name == CIRCUIT and (elsewhere := entered_elsewhere(typed)):
        made.problems.append(elsewhere)
    if (
        kind.name == CIRCUIT
        and as_kind != CIRCUIT
        and not (typed.problems or _is_said_to_be_one(made))
    ):
        made.is_asked, made.doubts = True, made.doubts or [METAL, BUILDING, PANEL]
        made.title = f"What is “{made.facts.get('name') or line.strip()[:40]}”?"
        made.problems.append("For a circuit give its breaker and wire, or choose what it is.")
    if typed.bond and kind.name not in (PANEL, SERVICE):
        made.problems.append("The neutral bond is a panel's: write it with the panel, or alone.")
    if kind.name in USES:
        only(typed, USES[kind.name])
    made.problems = [*typed.problems, *made.problems]
    made.facts = {k: v for k, v in made.facts.items() if v is not None}
    if MARK in typed.marks:
        own = frozenset({str(made.facts["name"])} if made.facts.get("name") else ())
        made.title = spoken(made.title, RuleSet.METRIC, own)
        made.words = [spoken(w, RuleSet.METRIC) for w in made.words]
        made.assumed_words = [spoken(w, RuleSet.METRIC) for w in made.assumed_words]
    made.assumed = sorted(typed.assumed & made.facts.keys())
    if is_here_by_name(site, made):
        made.remarks.append(SECOND)
    made.unused = [w for w in made.unused if w]
    if len(line) > 300:
        made.problems.append("A line is at most 300 characters.")
    if made.edits and not made.problems:
        try:
            apply_all(site, made.edits)
        except BadInput as error:
            made.problems.append(error.sentence)
    if made.unused and not made.problems:
        made.problems += [why_not(word, MARK in typed.marks) for word in made.unused]
    return made


def is_here_by_name(site: Installation, made: PlaceReading) -> bool:
    """Whether what is made bears the name of another: a panel's, a circuit's of the
    same panel. Two people may have typed one thing, or one person twice."""
    for edit in made.edits:
        if not isinstance(edit, Add) or edit.to not in ("panels", "circuits"):
            continue
        name, panel = edit.facts.get("name"), edit.facts.get("panel")
        for other in getattr(site, edit.to) if name else ():
            alike = (other.name or "").casefold() == str(name).casefold()
            if alike and getattr(other, "panel", None) == panel:
                return True
    return False


def _is_said_to_be_one(made: PlaceReading) -> bool:
    """Whether a line says a circuit: by its wire, by a branch breaker, or by a place or load that
    is known. What nothing says is asked, never taken for one."""
    facts = made.facts
    if facts.keys() & {"line_size", "method"} or made.problems or not made.edits:
        return True
    rating = facts.get("breaker.rating_a")
    if rating is not None:
        return bool(rating < LARGE_A)
    words = re.findall(r"[a-z]+", facts.get("name", "").lower())
    return any(word in lexicon() for word in words)


SECOND = "a second of this name: one is here already"
_MAKERS: dict[str, Callable[[Making], None]] = {
    CIRCUIT: runs.circuit,
    PANEL: runs.panel,
    ELECTRODE: grounding.electrode,
    METAL: grounding.metal,
    BUILDING: sources.building,
    SUPPLY: sources.supply,
    SERVICE: sources.service,
    ARRAY: sources.array,
}
