"""Readings against their prediction: what a meter should show, and when to look for a cause."""

from .expected import Expected, expected_loop
from .predict import JudgedReading, Prediction, judge_reading, predict
from .reading import ReadingKind, TypedReading, read_reading, read_readings, reading_kinds

__all__ = [
    "Expected",
    "JudgedReading",
    "Prediction",
    "ReadingKind",
    "TypedReading",
    "expected_loop",
    "judge_reading",
    "predict",
    "read_reading",
    "read_readings",
    "reading_kinds",
]
