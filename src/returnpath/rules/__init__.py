"""Judgement on the solved site: sizes against what is installed, findings, what to do next."""

from .finding import LEVELS, Authority, Finding, worst
from .fold import fold
from .next_step import NextStep, next_step
from .questions import Question, deciding_question, deciding_questions
from .registry import Check, all_checks, findings
from .sizes import SizeRow, size_rows
from .summary import summary

__all__ = [
    "LEVELS",
    "Authority",
    "Check",
    "Finding",
    "NextStep",
    "Question",
    "SizeRow",
    "all_checks",
    "deciding_question",
    "deciding_questions",
    "findings",
    "fold",
    "next_step",
    "size_rows",
    "summary",
    "worst",
]
