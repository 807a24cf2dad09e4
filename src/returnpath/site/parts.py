"""Several typed lines at once; one more of an element, or one less with what hangs on it."""

from string import ascii_lowercase
from typing import Any

from ..errors import BadInput
from ..vocabulary import FactPath
from .circuits import Circuit
from .edits import REFERENCES, SYMBOL, Add, Edit, Remove, Set, apply_all
from .installation import LISTS, Installation
from .typed import PlaceReading, read_place


def read_lines(site: Installation, text: str, panel: str = "") -> PlaceReading:
    """A pasted list: a line each; BadInput sentences name their line. At most 300 lines."""
    made = PlaceReading()
    given: dict[str, str] = {}
    lines = [line for line in text.splitlines() if line.strip()]
    if len(lines) > 300:
        made.problems.append("A pasted list has at most 300 lines.")
        return made
    for number, line in enumerate(lines, 1):
        reading = read_place(site, line, panel)
        if reading.problems or not reading.edits:
            why = " ".join(reading.problems) or "nothing was understood."
            made.problems.append(f"Line {number}, “{line.strip()[:60]}”: {why}")
            continue
        try:
            after = apply_all(site, reading.edits)
        except BadInput as error:
            made.problems.append(f"Line {number}, “{line.strip()[:60]}”: {error.sentence}")
            continue
        made.edits += _moved(reading.edits, given)
        new = [e for e in after.elements() if e not in site.elements()]
        for id in sorted(new, key=lambda e: int(e.lstrip(ascii_lowercase))):
            given[id] = f"@{len(given) + 1}"
        site = after
        made.words.append(reading.kept_words)
    return made


def _moved(edits: list[Edit], given: dict[str, str]) -> list[Edit]:
    """One line's edits within the whole list's: their symbols count from the list's beginning;
    what names a part that an earlier line adds (``given``) names it by symbol."""

    def moved(value: Any) -> Any:
        if not isinstance(value, str):
            return value
        if match := SYMBOL.match(value):
            return f"@{int(match[1]) + len(given)}{match[2] or ''}"
        path = FactPath(value)
        if path.element not in given:
            return value
        return FactPath.of(given[path.element], path.rest) if path.rest else given[path.element]

    return [
        e.model_copy(
            update={"facts": {k: moved(v) if k in REFERENCES else v for k, v in e.facts.items()}}
        )
        if isinstance(e, Add)
        else e.model_copy(update={"path": FactPath(moved(str(e.path)))})
        for e in edits
        if isinstance(e, Add | Set)
    ]


def duplicate(site: Installation, element_id: str) -> Edit:
    """One more of an element, with its facts; a circuit's or a panel's space stays free."""
    element = site.elements()[element_id]
    to = next(name for name in LISTS if element in getattr(site, name))
    facts = element.model_dump(mode="json", exclude_none=True, exclude={"id"})
    if facts.get("name"):
        facts["name"] = f"{facts['name'][:74]} copy"
    if isinstance(element, Circuit):
        for one in ("space", "shares_with", "shares_egc_with"):
            facts.pop(one, None)
    return Add(to=to, facts=facts)


def removal(site: Installation, element_id: str) -> list[Edit]:
    """The edits that take an element out with what cannot stand without it, last first."""
    gone: list[str] = []

    def take(one: str) -> None:
        if one in gone:
            return
        for feeder in site.feeders:
            if feeder.source == one:
                take(feeder.to)
            if feeder.to == one and feeder.id not in gone:
                gone.append(feeder.id)
        gone.extend(
            e.id for e in (*site.circuits, *site.electrodes) if e.panel == one and e.id not in gone
        )
        gone.extend(s.id for s in site.services if s.supply == one and s.id not in gone)
        if one not in gone:
            gone.append(one)

    take(element_id)
    gone.extend(j.id for j in site.joints if j.on.element in gone and j.id not in gone)
    joints = [g for g in gone if g.startswith("j")]
    return [Remove(id=g) for g in (*joints, *(g for g in gone if g not in joints))]
