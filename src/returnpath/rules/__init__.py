"""Judgement on the solved site: sizes against what is installed, findings, what to do next."""

from .by_place import AFCI_AT_RECEPTACLE, PlaceRow, Purchase, Standing, rows_by_place, shopping_list
from .checks.directory import is_vague
from .finding import LEVELS, Authority, Finding, worst
from .fold import fold
from .grouped import FindingRow, grouped
from .ladder import TELLING, Footing, Ladder, Rung, RungKind, ladder
from .needs import OpenFact, open_facts
from .next_step import NextStep, next_step
from .not_looked import not_looked
from .questions import (
    Question,
    curve_question,
    deciding_question,
    deciding_questions,
    is_proven,
    unproven,
)
from .registry import Check, Evidence, all_checks, findings, findings_of
from .sizes import SizeRow, size_rows
from .summary import summary
from .whatifs import WhatIf, whatifs

__all__ = [
    "AFCI_AT_RECEPTACLE",
    "LEVELS",
    "TELLING",
    "Authority",
    "Check",
    "Evidence",
    "Finding",
    "FindingRow",
    "Footing",
    "Ladder",
    "NextStep",
    "OpenFact",
    "PlaceRow",
    "Purchase",
    "Question",
    "Rung",
    "RungKind",
    "SizeRow",
    "Standing",
    "WhatIf",
    "all_checks",
    "curve_question",
    "deciding_question",
    "deciding_questions",
    "findings",
    "findings_of",
    "fold",
    "grouped",
    "is_proven",
    "is_vague",
    "ladder",
    "next_step",
    "not_looked",
    "open_facts",
    "rows_by_place",
    "shopping_list",
    "size_rows",
    "summary",
    "unproven",
    "whatifs",
    "worst",
]
