"""Learn by doing: experiments, hidden defects, questions of sizes, what comes back when."""

from .experiment import (
    Experiment,
    Outcome,
    before,
    edits_of_experiment,
    experiments,
    outcome,
    read_experiments,
)
from .hidden import GRADES, HiddenPlace, Par, cost_of, hidden_place, is_named
from .measure import Measured
from .questions import METRIC_TOPICS, SizeQuestion, question, topics
from .repeat import BOXES, next_box

__all__ = [
    "BOXES",
    "GRADES",
    "METRIC_TOPICS",
    "Experiment",
    "HiddenPlace",
    "Measured",
    "Outcome",
    "Par",
    "SizeQuestion",
    "before",
    "cost_of",
    "edits_of_experiment",
    "experiments",
    "hidden_place",
    "is_named",
    "next_box",
    "outcome",
    "question",
    "read_experiments",
    "topics",
]
