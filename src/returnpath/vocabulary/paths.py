"""Where a fact, a branch or a node is: an element's id and what it is of that element.

    FactPath("c1.breaker.rating_a")   the rating of circuit c1's breaker
    BranchId("f3.line2")              the second line of feeder f3
    NodeId("p1.ground")               the ground bar of panel p1

The one place where such a path is taken apart or put together.
"""

import re
from collections.abc import Callable
from functools import reduce
from typing import Any, Self, TypeVar

from pydantic import GetCoreSchemaHandler
from pydantic_core import CoreSchema, core_schema

_NUMBERED = re.compile(r"([a-z]+?)([1-9])?")


class _Path(str):
    """An element's id, a dot, and what it is of the element."""

    __slots__ = ()

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        return core_schema.no_info_after_validator_function(cls, core_schema.str_schema())

    @property
    def element(self) -> str:
        """The id of the element."""
        return self.partition(".")[0]

    @property
    def rest(self) -> str:
        """All after the element's id; "" where the path is an element alone."""
        return self.partition(".")[2]


class FactPath(_Path):
    """Where one fact of one element is: ``c1.breaker.rating_a``."""

    __slots__ = ()

    @classmethod
    def of(cls, element: str, fact: str) -> Self:
        """The path of ``fact`` in the element with this id."""
        return cls(f"{element}.{fact}")

    @property
    def fact(self) -> str:
        """The fact inside its element: ``breaker.rating_a``."""
        return self.rest

    @property
    def names(self) -> tuple[str, ...]:
        """The fact and the groups it is in, outermost first."""
        return tuple(self.rest.split("."))

    @property
    def leaf(self) -> str:
        """The fact's own name: ``rating_a``."""
        return self.rpartition(".")[2]

    @property
    def group(self) -> "FactPath":
        """The path of what the fact is a part of: ``c1.breaker``."""
        return FactPath(self.rpartition(".")[0])

    def beside(self, leaf: str) -> "FactPath":
        """Another fact of the same group: ``c1.breaker.hi``."""
        return FactPath.of(self.group, leaf)


class _PartPath(_Path):
    """A part of an element as the network has it."""

    __slots__ = ()

    @classmethod
    def of(cls, element: str, part: str, number: int = 0) -> Self:
        """The ``part`` of an element; ``number`` of a line, 0 for what there is one of."""
        return cls(f"{element}.{part}{number or ''}")

    @property
    def part(self) -> str:
        """Which of the element's parts: ``line2``, ``egc``; ``L1``, ``ground``."""
        return self.rest


class BranchId(_PartPath):
    """One branch of the network: a conductor, bond, joint or electrode of an element."""

    __slots__ = ()

    @property
    def kind(self) -> str:
        """The part without its number: ``line``."""
        found = _NUMBERED.fullmatch(self.rest)
        return found[1] if found else self.rest

    @property
    def number(self) -> int:
        """Which line (1, 2, 3); 0 for what there is one of."""
        found = _NUMBERED.fullmatch(self.rest)
        return int(found[2] or 0) if found else 0


class NodeId(_PartPath):
    """One node of the network: ``p1.L1``, ``p1.lug2``, ``p1.N``, ``p1.ground``, ``c4.case``."""

    __slots__ = ()


def fact_in(element: Any, fact: str) -> Any:
    """The value of a fact inside its element, groups walked through."""
    return reduce(getattr, fact.split("."), element)


_Model = TypeVar("_Model")


def with_fact(
    element: _Model, fact: str, value: Any, update: Callable[[Any, dict[str, Any]], Any]
) -> _Model:
    """A copy of ``element`` with one fact changed, made by ``update(model, {name: value})``."""
    name, _, inner = fact.partition(".")
    if inner:
        value = with_fact(getattr(element, name), inner, value, update)
    changed: _Model = update(element, {name: value})
    return changed
