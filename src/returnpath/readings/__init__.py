"""Readings against their prediction: what a meter should show, and when to look for a cause."""

from .expected import Expected, expected_loop
from .predict import JudgedReading, Prediction, judge_reading, predict
from .reading import (
    AS_FOUND,
    ReadingKind,
    TypedReading,
    asked_of,
    figure_of,
    read_reading,
    read_readings,
    reading_kinds,
)
from .schedule import DEAD, LIVE, ScheduleRow, schedule_rows
from .table import ReadingRow, ReadingsFile, read_table, write_table

__all__ = [
    "AS_FOUND",
    "DEAD",
    "LIVE",
    "Expected",
    "JudgedReading",
    "Prediction",
    "ReadingKind",
    "ReadingRow",
    "ReadingsFile",
    "ScheduleRow",
    "TypedReading",
    "asked_of",
    "expected_loop",
    "figure_of",
    "judge_reading",
    "predict",
    "read_reading",
    "read_readings",
    "read_table",
    "reading_kinds",
    "schedule_rows",
    "write_table",
]
