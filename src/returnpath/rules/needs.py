"""What the checks need, and what is asked where the site does not say (``needs.json``).

A check declares the facts it reads (``list.fact``). Each of them is either filled in by
``assume`` and shown as assumed, or has a row here: a question (``ask``, and ``when`` it has a
sense), or the plain meaning of its absence (``absent``). Nothing is guessed silently.
"""

import json
from dataclasses import dataclass
from functools import cache
from importlib import resources
from typing import Any

from ..site import Circuit, Element, Practice
from ..site.fields import fields_by_path
from ..site.installation import LISTS, name_of
from ..vocabulary import FactPath, fact_in
from ..words import RuleSet
from .finding import LEVELS
from .registry import Check, Evidence, all_checks

STUDY = "study"


@cache
def rows() -> dict[str, dict[str, Any]]:
    """fact → its question, when it has a sense, or what its absence means."""
    return json.loads(resources.files(__package__).joinpath("needs.json").read_text("utf-8"))


@dataclass(frozen=True, slots=True)
class OpenFact:
    """A fact that checks need and nobody has given: one question for all its places.

    ``places`` (path, name of the element); empty where the list itself says nothing, then
    ``kind`` is what to add to ``list``. ``level`` the worst that the checks could find.
    """

    fact: str
    question: str
    places: tuple[tuple[str, str], ...]
    level: str
    checks: tuple[str, ...]
    list: str = ""
    kind: str = ""

    @property
    def list_name(self) -> str:
        """The list of the site that it is about."""
        return self.list or FactPath(self.fact).element


def open_facts(solved: Evidence) -> tuple[OpenFact, ...]:
    """Every fact that a check needs and the site does not say, the gravest first."""
    found = []
    rule_set = RuleSet.METRIC if solved.is_metric else RuleSet.US
    for fact, row in rows().items():
        ids, level = _users(fact, rule_set)
        if "ask" not in row or not ids or row.get("rules", rule_set) != rule_set:
            continue
        if kind := row.get("absent_list"):
            name = row["list"]
            if all(e.kind != kind for e in getattr(solved.site, name)):
                found.append(OpenFact(fact, row["ask"], (), level, ids, name, kind))
            continue
        name, inner = FactPath(fact).element, FactPath(fact).fact
        places = tuple(
            (FactPath.of(element.id, inner), name_of(element))
            for element in getattr(solved.filled, name)
            if _value(element, inner) is None and _has_sense(solved, element, row)
        )
        if places:
            found.append(OpenFact(fact, row["ask"], places, level, ids))
    return tuple(sorted(found, key=lambda o: LEVELS.index(o.level)))


@cache
def _users(fact: str, rule_set: RuleSet) -> tuple[tuple[str, ...], str]:
    """(the checks of a rule set that need a fact, the worst that they could find)."""
    users = [c for c in all_checks().values() if fact in c.needs and c.serves(rule_set)]
    level = min((c.level for c in users), key=LEVELS.index, default=LEVELS[-1])
    return tuple(c.id for c in users), level


def _value(element: Element, inner: str) -> Any:
    return fact_in(element, inner)


def _has_sense(solved: Evidence, element: Element, row: dict[str, Any]) -> bool:
    """Whether the question can be asked of this element: its ``when`` holds."""
    if row.get("metric_over_a") and not _is_metric_over(solved, element, row["metric_over_a"]):
        return False
    if row.get("fed_from_outside") and not _is_fed_from_outside(solved, element.id):
        return False
    when = row.get("when", {})
    if solved.is_metric:
        when = row.get("metric_when", when)
    for name, allowed in when.items():
        value = _value(element, name)
        if value is None or (allowed != "*" and value not in allowed):
            return False
    return True


def _is_metric_over(solved: Evidence, element: Element, amps: float) -> bool:
    """Whether a circuit of a 230 V place is behind a larger device than ``amps``."""
    system = solved.filled.supply.system
    if not isinstance(element, Circuit) or system is None:
        return False
    rating = element.breaker.rating_a
    return system.is_metric and rating is not None and rating > amps


def _is_fed_from_outside(solved: Evidence, building: str) -> bool:
    own = {p.id for p in solved.filled.panels if p.building == building}
    if any(p.main.rating_a for p in solved.filled.panels if p.id in own):
        return False  # its own main is the disconnect
    return any(f.to in own and f.source not in own for f in solved.filled.feeders)


_ONE = {
    "supplies": "supply", "services": "service", "buildings": "building", "panels": "panel",
    "feeders": "feeder", "electrodes": "electrode", "metals": "other metal",
    "circuits": "circuit", "practice": "local practice", "breaker": "any breaker",
    "around": "any run",
    "arrays": "array", "joints": "joint",
}  # fmt: skip


def words(entry: Check) -> str:
    """What a check needs, in the trade's words."""
    return ", ".join(dict.fromkeys(label(fact) for fact in entry.needs))


def label(fact: str) -> str:
    """One need in words: “EGC (circuit)”."""
    if fact == STUDY:
        return "the solved network"
    if ":" in fact:
        return f"whether there is {rows()[fact]['absent_list']} metal"
    name, inner = FactPath(fact).element, FactPath(fact).fact
    if name == "practice":
        said = Practice.model_fields[inner].json_schema_extra["label"]
    elif name in ("breaker", "around"):
        said = fields_by_path(LISTS["circuits"][0])[f"{name}.{inner}"].label
    else:
        info = fields_by_path(LISTS[name][0]).get(inner)
        said = info.label if info else inner.replace("_", " ")
    return f"{said} ({_ONE[name]})"
