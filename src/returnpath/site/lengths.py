"""A run's length in words, as drawings and lists show it."""

from typing import Any

#: A run this short stands in a measured loop (Ze) and is not counted again.
COUNTED_ELSEWHERE_FT = 0.1
IN_ZE = "in Ze"


def run_length(run: Any) -> str:
    """``"60 ft"``; “in Ze” where a measured loop stands for the run."""
    if run.length_ft <= COUNTED_ELSEWHERE_FT:
        return IN_ZE
    return f"{run.length_ft:g} ft"
