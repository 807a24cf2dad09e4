"""Judgement on the solved site: sizes against what is installed, findings, what to do next."""

from .finding import LEVELS, Finding, worst
from .next_step import NextStep, next_step
from .questions import Question, deciding_question
from .registry import findings
from .sizes import SizeRow, size_rows

__all__ = [
    "LEVELS",
    "Finding",
    "NextStep",
    "Question",
    "SizeRow",
    "deciding_question",
    "findings",
    "next_step",
    "size_rows",
    "worst",
]
