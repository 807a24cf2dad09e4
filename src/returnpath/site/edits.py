"""Every change of a site is an Edit from one closed set, with its words.

``set`` a fact, ``add``, ``remove`` or ``move`` an element, ``replace`` a whole list. Applying
gives a new Installation; nothing is changed in place.
"""

import re
from collections.abc import Iterable
from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field, TypeAdapter, ValidationError

from ..errors import BadInput, has_control
from ..vocabulary import FactPath, with_fact
from .base import Element, Part, Provenance
from .branches import branches_of
from .circuits import Circuit
from .earthing import Joint
from .fields import check_value, field_info, fields_of, show_value
from .installation import LAST_ID, LISTS, MOST, Installation, Practice, Requirement, name_of
from .speech import info_for, rule_set_of
from .validate import check_site, sentence_of

ListName = Literal[
    "supplies",
    "services",
    "buildings",
    "panels",
    "feeders",
    "electrodes",
    "metals",
    "circuits",
    "arrays",
    "joints",
]


class Set(Part):
    """Give the fact at ``path`` ("c1.length_ft") a value; None makes it unknown again."""

    op: Literal["set"] = "set"
    path: FactPath = Field(max_length=80)
    value: str | float | int | None = None
    source: Provenance | None = None


class Add(Part):
    """Put a new element at the end of a list. ``facts`` are its fields without the id."""

    op: Literal["add"] = "add"
    to: ListName = "circuits"
    facts: dict[str, Any]


class Remove(Part):
    """Take an element out of its list, with what is known of its facts."""

    op: Literal["remove"] = "remove"
    id: str


class Move(Part):
    """Move an element to ``position`` in its list (0 is first)."""

    op: Literal["move"] = "move"
    id: str
    position: int = Field(ge=0)


class Replace(Part):
    """Replace a whole list with new elements."""

    op: Literal["replace"] = "replace"
    to: ListName = "circuits"
    items: tuple[dict[str, Any], ...] = Field(max_length=MOST)


class Require(Part):
    """Write down a local requirement: what, who said so, when."""

    op: Literal["require"] = "require"
    text: str = Field(max_length=200)
    who: str = Field(default="", max_length=80)
    when: str = Field(default="", max_length=40)


class Unrequire(Part):
    """Take a local requirement away."""

    op: Literal["unrequire"] = "unrequire"
    text: str = Field(max_length=200)


class Soil(Part):
    """What the soil of the place is, Ω·m; None: not known."""

    op: Literal["soil"] = "soil"
    ohm_m: float | None = Field(default=None, ge=0.5, le=100_000)


Edit = Annotated[
    Set | Add | Remove | Move | Replace | Require | Unrequire | Soil, Field(discriminator="op")
]
_EDIT = TypeAdapter(Edit)


def parse_edit(data: dict) -> Edit:
    """An Edit from plain data (a form, a file); BadInput when it is none."""
    try:
        return _EDIT.validate_python(data)
    except ValidationError as error:
        raise BadInput(sentence_of(error)) from None


def apply(site: Installation, edit: Edit) -> Installation:
    """The site after ``edit``; BadInput (with the field's path) for what cannot exist."""
    if has_control(edit.model_dump(mode="json")):
        raise BadInput("A text holds no control characters.", getattr(edit, "path", ""))
    if isinstance(edit, Set):
        changed = _set(site, edit)
    elif isinstance(edit, Add):
        changed = _listed(site, edit.to, getattr(site, edit.to), [edit.facts])
    elif isinstance(edit, Replace):
        gone = {e.id: getattr(e, "name", None) for e in getattr(site, edit.to)}
        changed = _listed(site, edit.to, (), edit.items)
        made = {getattr(e, "name", None): e.id for e in getattr(changed, edit.to)}
        changed = _rewire(changed, {old: made.get(name) for old, name in gone.items()})
    elif isinstance(edit, Require | Unrequire):
        changed = _practice(site, edit)
    elif isinstance(edit, Soil):
        changed = site.model_copy(update={"soil_ohm_m": edit.ohm_m})
    elif isinstance(edit, Remove):
        to, rest, _ = _taken_out(site, edit.id)
        changed = _rewire(site.model_copy(update={to: tuple(rest)}), {edit.id: None})
    else:
        to, rest, moved = _taken_out(site, edit.id)
        rest.insert(edit.position, moved)
        changed = site.model_copy(update={to: tuple(rest)})
    if site.joints:
        changed = _without_lost_joints(site, changed)
    check_site(changed, before=site)
    return changed


#: What stands for the nth element that the same batch of edits adds: ``@1``, ``@1.length_ft``.
SYMBOL = re.compile(r"^@([1-9]\d{0,3})(\..*)?$")


#: The facts that name another element.
REFERENCES = frozenset(
    {"panel", "source", "to", "supply", "on", "reach", "joined_to"}
    | {f.path for model, _ in LISTS.values() for f in fields_of(model) if f.kind == "ref"}
)


def resolved(site: Installation, edits: Iterable[Edit]) -> tuple[Edit, ...]:
    """The edits of one batch with every symbolic reference in place: ids are given here, on the
    site that the batch is applied to, never guessed from an older one."""
    given: list[str] = []
    last, done = site.last_id, []
    for edit in edits:
        edit = _named(edit, given)
        done.append(edit)
        if isinstance(edit, Add):
            last += 1
            given.append(f"{LISTS[edit.to][1]}{last}")
        elif isinstance(edit, Replace):
            last += len(edit.items)
    return tuple(done)


def _named(edit: Edit, given: list[str]) -> Edit:
    """One edit with the ids that are given by now in the place of symbols."""

    def real(value: Any) -> Any:
        if isinstance(value, list | tuple):
            return type(value)(real(v) for v in value)
        match = SYMBOL.match(value) if isinstance(value, str) else None
        if match is None:
            return value
        number = int(match[1])
        if number > len(given):
            raise BadInput(f"“@{number}” stands for nothing that was added before it.")
        return given[number - 1] + (match[2] or "")

    if isinstance(edit, Add):
        facts = {k: real(v) if k in REFERENCES else v for k, v in edit.facts.items()}
        return edit.model_copy(update={"facts": facts})
    if isinstance(edit, Set):
        value = real(edit.value) if edit.path.leaf in REFERENCES else edit.value
        return edit.model_copy(update={"path": FactPath(real(str(edit.path))), "value": value})
    if isinstance(edit, Remove | Move):
        return edit.model_copy(update={"id": real(edit.id)})
    return edit


def apply_all(site: Installation, edits: Iterable[Edit]) -> Installation:
    """The site after a batch of edits; none of them where one cannot be."""
    for edit in resolved(site, edits):
        site = apply(site, edit)
    return site


def _practice(site: Installation, edit: Require | Unrequire) -> Installation:
    """The site with a local requirement more, or less."""
    kept = [r for r in site.practice.requirements if r.text != edit.text]
    if isinstance(edit, Require):
        if len(kept) >= MOST_REQUIREMENTS:
            raise BadInput(f"At most {MOST_REQUIREMENTS} local requirements.")
        kept.append(Requirement(text=edit.text, who=edit.who, when=edit.when))
    practice = site.practice.model_copy(update={"requirements": tuple(kept)})
    return site.model_copy(update={"practice": practice})


MOST_REQUIREMENTS = 100


def _without_lost_joints(before: Installation, after: Installation) -> Installation:
    """A joint goes with its branch: where an edit takes the branch away, what was said of its
    joints has no place to be. A joint that the edit itself made or moved is left to be refused."""
    lost = lost_joints(before, after)
    if not lost:
        return after
    return after.model_copy(update={"joints": tuple(j for j in after.joints if j not in lost)})


def lost_joints(before: Installation, after: Installation) -> list[Joint]:
    """The joints of ``before`` whose branch is not in ``after``."""
    branches = branches_of(after)
    return [j for j in after.joints if j in before.joints and j.on not in branches]


def _rewire(site: Installation, gone: dict[str, str | None]) -> Installation:
    """The site without what was said of elements that are gone.

    ``gone`` maps each to the element in its place (None: nothing is). Facts that name it follow,
    or become unknown; a run or a circuit that needs it is left for the validation to refuse.
    """
    kept = {p: s for p, s in site.sources.items() if p.element not in gone}
    update: dict[str, Any] = {"sources": kept}
    for name in LISTS:
        update[name] = tuple(_rewired(e, gone) for e in getattr(site, name))
    return site.model_copy(update=update)


def _rewired(element: Element, gone: dict[str, str | None]) -> Element:
    changes: dict[str, Any] = {}
    for info in fields_of(type(element)):
        if info.kind == "ref" and (value := getattr(element, info.path)) in gone:
            changes[info.path] = gone[value]
    for name in ("reach", "joined_to"):
        if listed := getattr(element, name, ()) if isinstance(element, Circuit) else ():
            now = [gone.get(m, m) for m in listed]
            changes[name] = tuple(m for m in now if m is not None)
    return element.model_copy(update=changes) if changes else element


def _taken_out(site: Installation, element_id: str) -> tuple[str, list[Element], Element]:
    """(list name, the others, the element)."""
    for to in LISTS:
        elements = getattr(site, to)
        for element in elements:
            if element.id == element_id:
                return to, [e for e in elements if e is not element], element
    raise BadInput("That part is no longer in this job.")


def _listed(site: Installation, to: str, already, facts_list) -> Installation:
    """The site with new elements after ``already`` in the list ``to``."""
    made, last = list(already), site.last_id
    if last + len(facts_list) > LAST_ID:
        raise BadInput("This job has no numbers left for new parts: start a new one.")
    for facts in facts_list:
        last += 1
        model, letter = LISTS[to]
        try:
            made.append(model.model_validate({**facts, "id": f"{letter}{last}"}))
        except ValidationError as error:
            raise BadInput(sentence_of(error)) from None
    made = _partners_by_name(made)
    if len(made) > MOST:
        raise BadInput(f"A list holds at most {MOST}.")
    return site.model_copy(update={to: tuple(made), "last_id": last})


def _partners_by_name(made: list[Element]) -> list[Element]:
    """A table names a shared neutral's partner: the id it is given here takes the name's place."""
    ids = {e.id for e in made}
    names: dict[str, list[str]] = {}
    for element in made:
        names.setdefault(getattr(element, "name", None) or "", []).append(element.id)
    found = []
    for element in made:
        partner = getattr(element, "shares_with", None) if isinstance(element, Circuit) else None
        if partner and partner not in ids and len(names.get(partner, ())) == 1:
            element = element.model_copy(update={"shares_with": names[partner][0]})
        found.append(element)
    return found


def _set(site: Installation, edit: Set) -> Installation:
    element = site.elements().get(edit.path.element)
    if element is None:
        raise BadInput("That part is no longer in this job.", edit.path)
    try:
        info = field_info(element, edit.path.fact)
        value = check_value(info, edit.value)
        if value is None and isinstance(element, Practice):
            raise BadInput(f"{info.label.capitalize()} cannot be left open.")
        changed = _validated(element, edit.path.fact, value)
    except BadInput as error:
        raise error.at(edit.path) from None
    sources = {p: s for p, s in site.sources.items() if p != edit.path}
    if edit.source is not None:
        sources[edit.path] = edit.source
    return _put(site, element, changed).model_copy(update={"sources": sources})


def _copy(model: BaseModel, update: dict[str, Any]) -> BaseModel:
    return model.model_copy(update=update)


def _validated(element: Element, fact: str, value: Any) -> Element:
    """The element with one fact changed, through the model's own validation: nothing can be
    stored that a job file could not hold."""
    changed = with_fact(element, fact, value, _copy)
    try:
        return type(element).model_validate(changed.model_dump(warnings=False))
    except ValidationError as error:
        raise BadInput(sentence_of(error)) from None


def _put(site: Installation, element: Element, changed: Element) -> Installation:
    for to in LISTS:
        elements = getattr(site, to)
        if element in elements:
            new = tuple(changed if e is element else e for e in elements)
            return site.model_copy(update={to: new})
    return site.model_copy(update={type(element).__name__.lower(): changed})


def describe(site: Installation, edit: Edit) -> str:
    """What ``edit`` does to ``site``, in words for the history."""
    words = _describe(site, edit)
    if site.joints and isinstance(edit, Set | Remove | Replace):
        try:
            gone = len(site.joints) - len(apply(site, edit).joints)
        except BadInput:
            gone = 0
        gone -= isinstance(edit, Remove) and edit.id in {j.id for j in site.joints}
        if gone > 0 and not (isinstance(edit, Replace) and edit.to == "joints"):
            words += f", and {gone} joint{'s' if gone > 1 else ''} that went with it"
    return words


def _describe(site: Installation, edit: Edit) -> str:
    if isinstance(edit, Set):
        element = site.elements()[edit.path.element]
        info = info_for(field_info(element, edit.path.fact), rule_set_of(site))
        place = f"{name_of(element)}: {info.label}"
        before = show_value(info, site.value_at(edit.path)) or "not known"
        if edit.source and edit.source.bound is not None:
            limit = show_value(info, edit.source.bound)
            kind = "not over" if edit.source.kind == "no more than" else "over"
            return f"{place} {kind} {limit}"
        if edit.source and edit.source.kind == "cannot tell":
            return f"{place} cannot be told"
        return f"{place} from {before} to {show_value(info, edit.value) or 'not known'}"
    if isinstance(edit, Add):
        kind = LISTS[edit.to][0].__name__.lower()
        name = edit.facts.get("name") or f"{'an' if kind[0] in 'aeiou' else 'a'} {kind}"
        return f"Added {name}"
    if isinstance(edit, Remove):
        return f"Removed {name_of(site.elements()[edit.id])}"
    if isinstance(edit, Require):
        return f"Local requirement: {edit.text} ({edit.who})"
    if isinstance(edit, Soil):
        before = f"{site.soil_ohm_m:g} Ω·m" if site.soil_ohm_m else "not known"
        return f"Soil from {before} to {f'{edit.ohm_m:g} Ω·m' if edit.ohm_m else 'not known'}"
    if isinstance(edit, Unrequire):
        return f"Took away the local requirement: {edit.text}"
    if isinstance(edit, Move):
        return f"Moved {name_of(site.elements()[edit.id])}"
    return f"Replaced the {edit.to}: {len(edit.items)}"
