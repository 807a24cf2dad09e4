"""The one error a person can cause."""

from typing import Any
from unicodedata import category


class BadInput(ValueError):
    """A value that cannot exist or cannot be read, said in one sentence of the trade's words.

    ``sentence`` says what is wrong and what is allowed; ``field`` is the path of the fact it is
    about (``"c1.line_size"``), or "" when it is about no single one.
    """

    def __init__(self, sentence: str, field: str = ""):
        super().__init__(sentence)
        self.sentence = sentence
        self.field = field

    def at(self, field: str) -> "BadInput":
        """The same sentence, placed beside ``field``."""
        return BadInput(self.sentence, field)


def number_in(
    value: float,
    what: str,
    low: float,
    high: float,
    unit: str = "",
    above_low: bool = False,
) -> float:
    """``value`` as a finite number from ``low`` to ``high``; else BadInput naming ``what``."""
    try:
        number = float(value)
    except (TypeError, ValueError):
        raise BadInput(f"{what} must be a number, not “{value}”.") from None
    in_range = low < number <= high if above_low else low <= number <= high
    if not in_range:  # also catches NaN and infinity
        unit = f" {unit}" if unit else ""
        start = "more than" if above_low else "from"
        joint = "and at most" if above_low else "to"
        raise BadInput(f"{what} must be {start} {low:g} {joint} {high:g}{unit}, not {number:g}.")
    return number


def has_control(value: Any) -> bool:
    """Whether a text in it has a character that a screen, a drawing or a file cannot hold, or
    that turns what stands beside it (surrogates, controls, marks of direction)."""
    waiting = [value]
    while waiting:
        here = waiting.pop()
        if isinstance(here, str):
            if not here.isprintable() and any(category(c)[0] == "C" for c in here):
                return True
        elif isinstance(here, dict):
            waiting += [*here, *here.values()]
        elif isinstance(here, list):
            waiting += here
    return False
