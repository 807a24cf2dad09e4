"""A computed value and the recipe of its steps.

Studies make hundreds of values and a person opens three of them, so the steps are a function that
is called when somebody looks: making a Working costs one object and no text.
"""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import lru_cache
from math import floor, log10
from typing import Any, Literal

from . import tables
from .errors import BadInput

StepKind = Literal["table", "rule", "assumption", "formula", "given", "note"]


@dataclass(frozen=True, slots=True)
class Step:
    """One line of a working. ``text`` says it with figures, ``source`` where it comes from."""

    kind: StepKind
    text: str
    source: str = ""


def table(text: str, source: str) -> Step:
    """A figure read from a row of ``source``."""
    return Step("table", text, source)


def rule(text: str, topic: str, edition: int) -> Step:
    """A rule in force, with its section in ``edition`` (topics: tables/sections.csv)."""
    return Step("rule", text, f"{tables.section(topic, edition)} ({edition})")


def rule_of(text: str, topic: str) -> Step:
    """A rule of the metric set, with its clause (topics: tables/sections_iec.csv)."""
    return Step("rule", text, tables.iec_section(topic))


def formula(text: str, source: str = "") -> Step:
    """A sum with its figures filled in."""
    return Step("formula", text, source)


def given(text: str) -> Step:
    """A fact that somebody entered."""
    return Step("given", text)


def assumption(text: str, why: str = "") -> Step:
    """A figure that stands in for a fact nobody has given."""
    return Step("assumption", text, why)


def note(text: str) -> Step:
    """A limit of the computation, or how to read it."""
    return Step("note", text)


@dataclass(frozen=True, slots=True)
class Working:
    """``value`` in ``unit``, and a recipe that writes out how it was reached.

    ``value`` is a number, a size as text, or None where there is no answer yet; ``math.inf`` is
    a time that never comes.
    """

    title: str
    value: object
    unit: str
    recipe: Callable[[], Iterable[Step]]

    @property
    def number(self) -> float:
        """The value of a working that ends in a figure."""
        assert isinstance(self.value, int | float), self.title
        return float(self.value)

    def steps(self) -> tuple[Step, ...]:
        """The steps, written out now."""
        return tuple(self.recipe())

    def as_dict(self) -> dict[str, Any]:
        """``title``, ``value``, ``unit`` and ``working`` (a list of steps), ready for JSON."""
        value = self.value
        if isinstance(value, complex):
            value = {"re": value.real, "im": value.imag}
        elif isinstance(value, float) and (value != value or abs(value) == float("inf")):
            value = None
        steps = [{"kind": s.kind, "text": s.text, "source": s.source} for s in self.steps()]
        return {"title": self.title, "value": value, "unit": self.unit, "working": steps}


def of(title: str, value: object, unit: str, *steps: Step) -> Working:
    """A Working whose few steps are at hand already."""
    return Working(title, value, unit, lambda: steps)


#: Under these nothing is shown with digits: no meter of the trade would show it.
LEAST_AMPS, LEAST_VOLTS, LEAST_OHMS = 0.01, 0.1, 0.001


def show_amps(amps: float | None) -> str:
    """``"4.2 A"``, or “under 0.01 A”."""
    return _at_least(amps, LEAST_AMPS, "A")


def show_volts(volts: float | None) -> str:
    """``"95.7 V"``, or “under 0.1 V”."""
    return _at_least(volts, LEAST_VOLTS, "V")


def show_ohms(ohms: float | None) -> str:
    """``"0.32 Ω"``, or “under 0.001 Ω”."""
    return _at_least(ohms, LEAST_OHMS, "Ω")


def _at_least(value: float | None, least: float, unit: str) -> str:
    if value is not None and 0 < abs(value) < least:
        return f"under {least:g} {unit}"
    shown = figures(value)
    return f"{shown} {unit}" if shown[:1].isdigit() or shown[:1] == "-" else shown


@lru_cache(maxsize=8192)
def figures(value: float | None, digits: int = 3) -> str:
    """``value`` to ``digits`` significant figures, thousands commas, no trailing zeros.

    "never" for infinity, "not known" for None.
    """
    if value is None:
        return "not known"
    if value != value:
        raise BadInput("A computed figure is not a number.")
    if abs(value) == float("inf"):
        return "never"
    if value == 0:
        return "0"
    places = digits - 1 - floor(log10(abs(value)))
    rounded = round(value, places)
    # 9.996 rounds to 10.0: one place fewer is then enough.
    if rounded and floor(log10(abs(rounded))) > floor(log10(abs(value))):
        places -= 1
    shown = f"{rounded:,.{max(places, 0)}f}"
    return shown.rstrip("0").rstrip(".") if "." in shown else shown


MOST_NAMED = 4


def count_of(n: int, word: str, more: str = "") -> str:
    """``"1 loop"``, ``"3 loops"``; ``more`` where the plural is no plain s."""
    return f"{n} {word if n == 1 else more or word + 's'}"


def some_of(names: Iterable[str]) -> str:
    """Names in words, each once: the first few, and how many more."""
    each = list(dict.fromkeys(names))
    more = f" and {len(each) - MOST_NAMED} more" if len(each) > MOST_NAMED else ""
    return ", ".join(each[:MOST_NAMED]) + more
