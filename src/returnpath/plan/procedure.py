"""A procedure made from its form and the site: steps with names, sizes, lengths filled in."""

import re
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum

from .. import tables
from ..rules import Evidence
from ..site import Edit, Set
from ..vocabulary import FactPath
from .form import Form, FormReading, FormStep, blocks
from .subject import NOT_KNOWN, Subject, subject_of


class Hold(StrEnum):
    """What a step waits for before it can be ticked."""

    NONE = ""
    CONFIRM = "confirm"
    READING = "reading"
    PHOTO = "photo"
    LOCK = "lock"
    DEAD = "dead"
    DATE = "date"


@dataclass(frozen=True)
class AskedReading:
    """The reading of a step: its kind, the id of its place, what it must be."""

    kind: str
    place: str
    want: str


@dataclass(frozen=True)
class ProcedureStep:
    """One step, filled in. ``needs_signal``: it is done live, so it is not ticked without signal.

    Parts by id: ``locks`` the points a lock is put on at, ``proves`` what a proof of dead proves
    dead, ``energizes`` what it gives volts.
    """

    key: str
    say: str
    why: str
    hold: Hold
    read: AskedReading | None
    slot: str
    date: str
    cautions: tuple[str, ...]
    change: tuple[Edit, ...]
    needs_signal: bool
    locks: tuple[str, ...] = ()
    proves: str = ""
    energizes: tuple[str, ...] = ()


@dataclass(frozen=True)
class Procedure:
    """All steps of one subject; ``open_choices`` the schools that are still to be chosen."""

    key: str
    subject: str
    name: str
    what: str
    steps: tuple[ProcedureStep, ...]
    open_choices: tuple[str, ...] = field(default=())


def cautions() -> dict[str, str]:
    """Every caution by its key."""
    return {row["key"]: row["words"] for row in tables.rows("cautions")}


def procedure_of(
    form: Form, evidence: Evidence, subject: str, chosen: Mapping[str, str] | None = None
) -> Procedure:
    """The procedure of a part of the place; BadInput where it does not fit it.

    ``chosen`` school → option; the first option stands while nothing is chosen.
    """
    about = subject_of(form.key, evidence, subject)
    taken = {c.key: (chosen or {}).get(c.key, "") for c in form.choices}
    flags = set(about.flags)
    for choice in form.choices:
        option = taken[choice.key] if taken[choice.key] in choice.options else ""
        flags.add(f"{choice.key}-{option or next(iter(choice.options))}")
    steps: list[ProcedureStep] = []
    for one in form.steps:
        steps += _made(one, about, flags)
    steps = [_whole(step, subject) for step in steps]
    open_ones = tuple(c.key for c in form.choices if taken[c.key] not in c.options)
    return Procedure(form.key, subject, _fill(form.name, about.words), form.what, tuple(steps),
                     open_ones)  # fmt: skip


def _made(one: FormStep, about: Subject, flags: set[str]) -> list[ProcedureStep]:
    if not _holds(one.when, flags):
        return []
    if one.use:
        return [s for inner in blocks()[one.use] for s in _made(inner, about, flags)]
    if one.each:
        found = []
        for id, name in about.lists.get(one.each, ()):
            words = about.words | {"each": name, "each_id": id}
            found.append(_step(one, words, f"{one.key}-{id}"))
        return found
    return [_step(one, about.words, one.key)]


def _holds(condition: str, flags: set[str]) -> bool:
    """“a and not b”."""
    for part in filter(None, (p.strip() for p in condition.split(" and "))):
        wanted = not part.startswith("not ")
        if (part.removeprefix("not ").strip() in flags) is not wanted:
            return False
    return True


def _step(one: FormStep, words: Mapping[str, str], key: str) -> ProcedureStep:
    read = _asked(one.read, words) if one.read else None
    change = tuple(
        Set(path=FactPath(_fill(path, words)), value=_fill(value, words))
        for path, value in one.change.items()
    )
    # A photo of what no slot of the place is for is kept under the step itself.
    slot = _fill(one.photo, words) if one.photo else ""
    return ProcedureStep(
        key, _fill(one.say, words), _fill(one.why, words), Hold(one.hold), read,
        slot, one.date, one.caution, change, one.live or bool(one.energizes),
        _parts(one.locks, words), _fill(one.proves, words), _parts(one.energizes, words),
    )  # fmt: skip


def _parts(text: str, words: Mapping[str, str]) -> tuple[str, ...]:
    ids = (p.strip() for p in _fill(text, words).split(","))
    return tuple(p for p in dict.fromkeys(ids) if p and p != NOT_KNOWN)


def _whole(step: ProcedureStep, subject: str) -> ProcedureStep:
    """A form that does not say which part is meant means its subject; a step done live that takes
    no reading gives it volts."""
    if step.hold is Hold.LOCK and not step.locks:
        return replace(step, locks=(subject,))
    if step.hold is Hold.DEAD and not step.proves:
        return replace(step, proves=subject)
    if step.needs_signal and step.read is None and not step.energizes:
        return replace(step, energizes=(subject,))
    return step


def _asked(asked: FormReading, words: Mapping[str, str]) -> AskedReading:
    return AskedReading(asked.kind, _fill(asked.at, words), _fill(asked.want, words))


_BRACE = re.compile(r"\{(\w+)\}")


def _fill(text: str, words: Mapping[str, str]) -> str:
    """Braces filled in; a word that the place does not have is said to be open."""
    return _BRACE.sub(lambda found: words.get(found[1], NOT_KNOWN), text)
