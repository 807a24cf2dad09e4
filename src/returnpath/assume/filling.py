"""One element being filled, and what is said of each fact that stands in."""

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cache
from typing import Any, NamedTuple

from .. import tables
from ..errors import BadInput
from ..site import Element, FieldInfo, field_info, show_value
from ..vocabulary import FactPath, fact_in, with_fact


class Assumption(NamedTuple):
    """One fact that stands in: its ``path``, ``value``, and the reason."""

    path: FactPath
    value: Any
    info: FieldInfo
    why: str

    @property
    def label(self) -> str:
        """The trade's word for the fact."""
        return self.info.label

    @property
    def words(self) -> str:
        """The value as the trade writes it."""
        return show_value(self.info, self.value)


@dataclass
class Filling:
    """One element being filled."""

    element: Element
    made: list[Assumption]
    values: dict[str, Any] = field(default_factory=dict)

    def get(self, inner: str) -> Any:
        """The known or filled value."""
        if inner in self.values:
            return self.values[inner]
        return fact_in(self.element, inner) if "." in inner else getattr(self.element, inner)

    def fill(
        self, inner: str, value: Any | Callable[[], Any], fact: str = "", why: str = ""
    ) -> Any:
        """Give a fact a value if it has none; ``fact`` names the row whose reason is shown."""
        known = self.get(inner)
        if known is not None:
            return known
        if callable(value):
            try:
                value = value()
            except BadInput:
                return None  # the tables have no answer: it stays absent
        if value is None:
            return None
        self.values[inner] = value
        reason = why or tables.assumption_texts()[fact][1] or "usual"
        info = field_info(self.element, inner)
        path = FactPath.of(self.element.id, inner)
        self.made.append(Assumption(path, value, info, reason))
        return value

    def build(self) -> Element:
        """The element with what was filled."""
        flat = {inner: value for inner, value in self.values.items() if "." not in inner}
        made = self.element.model_copy(update=flat) if flat else self.element
        for inner, value in self.values.items():
            if inner not in flat:
                made = with_fact(made, inner, value, lambda m, update: m.model_copy(update=update))
        return made


@cache
def usual(fact: str) -> float:
    return tables.assumed_number(fact)
