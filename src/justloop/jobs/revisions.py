"""Saving: edits, conflicts, undo and redo, thinning. Everything appends a revision."""

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db import OperationalError, transaction
from django.utils import timezone

from returnpath.errors import BadInput
from returnpath.site import (
    Add,
    Edit,
    Installation,
    Replace,
    Set,
    apply,
    describe,
    dumps,
    field_info,
    resolved,
    show_value,
)
from returnpath.vocabulary import Level

from ..solved import summarise
from ..trouble import why_not_kept
from . import locks
from .models import NOTHING_FOUND, Job, Revision, remember

KEEP_WORKING = 100  # beyond these, working revisions are thinned to every tenth
KEEP_EVERY = 10


@dataclass(frozen=True, slots=True)
class Conflict:
    """Two people changed the same fact: what it is now, and who set it so, when.

    ``who`` is empty where the page's own revision is no longer kept: then nobody is accused.
    """

    path: str
    theirs: str
    who: str = ""
    revision: int = 0
    when: datetime | None = None

    def found(self) -> str:
        """Who changed what it says."""
        if not self.who:
            return (
                f"This page is older than what is kept of the job; the fact is now {self.theirs}."
            )
        at = f" at {timezone.localtime(self.when):%H:%M}" if self.when else ""
        return f"{self.who} set this to {self.theirs} meanwhile{at} (revision {self.revision})."

    def sentence(self) -> str:
        """What is said beside the field."""
        return f"{self.found()} Yours is not saved: enter it again to put it in its place."


class Conflicted(BadInput):
    """A save that met a conflict: nothing of it is kept. Raised, so that no caller can go on as if
    it were."""

    def __init__(self, conflict: Conflict, revision: Revision):
        super().__init__(conflict.sentence(), conflict.path)
        self.conflict, self.revision = conflict, revision


class Unseen(BadInput):
    """An undo of a save that who presses has not seen."""

    def __init__(self, newest: Revision, verb: str):
        at = f"{timezone.localtime(newest.at):%H:%M}"
        super().__init__(
            f"Your page has not shown the newest change yet: {newest.author or 'somebody'} saved"
            f" “{newest.words}” at {at} (revision {newest.number}). {verb} it?"
        )
        self.newest = newest


@dataclass(frozen=True, slots=True)
class Saved:
    """What a save that was kept did: the newest revision, and what to tell the person."""

    revision: Revision
    told: str = ""


#: How often a save is made anew because somebody else's came first.
MOST_TRIES = 12
BUSY = "Others are saving this job at the same moment: press it again."


class Overtaken(Exception):
    """Somebody saved a newer revision since the content was worked out."""


def _persist(work: Callable[[], Any]) -> Any:
    """Do ``work`` until nobody comes between: it reads the newest revision, solves outside the
    write lock, and writes one row inside it. BadInput where it stays busy."""
    for attempt in range(MOST_TRIES):
        try:
            return work()
        except Overtaken:
            continue
        except OperationalError as error:
            if "locked" not in str(error) and "busy" not in str(error):
                if why := why_not_kept(error):
                    raise BadInput(why) from None
                raise
            time.sleep(0.05 * (attempt + 1))
    raise BadInput(BUSY)


def start(job: Job, site: Installation, author, words: str) -> Revision:
    """The first revision of a job."""
    return _append(job, site, author, words, None)


def save_edits(job: Job, author, base_number: int, edits: Sequence[Edit], words: str = "") -> Saved:
    """Apply edits made on revision ``base_number`` to the newest one, as one revision.

    BadInput when one cannot be applied: then none is. A fact that somebody else changed since is
    not overwritten: Conflicted. ``words`` for the history, else each edit's own.
    """
    return _persist(lambda: _save(job, author, base_number, edits, words))


def _save(job: Job, author, base_number: int, edits: Sequence[Edit], words: str) -> Saved:
    latest = job.latest
    site = latest.site
    edits = resolved(site, edits)  # new ids are given here, on the newest revision
    told = ""
    if base_number != latest.number:
        if conflict := first_conflict(job, base_number, latest, edits):
            raise Conflicted(conflict, latest)
        others = others_words(job, base_number, author)
        told = f"{others} Both changes are kept." if others else ""
    changed, said = site, []
    for edit in edits:
        said.append(describe(changed, edit))
        changed = apply(changed, edit)
    if changed == site:
        return Saved(latest, told=told)
    made = _append(job, changed, author, words or listed(said), latest, newest=latest)
    return Saved(made, told=told)


def listed(said: Sequence[str]) -> str:
    """What several edits did, in one line."""
    if len(said) <= 3:
        return "; ".join(said)
    return f"{'; '.join(said[:2])}; and {len(said) - 2} more"


def set_aside(job: Job, author, key: str, reason: str, name: str) -> Revision:
    """Set a finding aside (or, with no reason, take it up again), as a revision of its own."""

    def work() -> Revision:
        latest = job.latest
        aside = dict(latest.aside)
        if reason:
            who, when = str(author), timezone.now().isoformat(timespec="minutes")
            aside[key] = {"reason": reason, "who": who, "when": when, "name": name}
            words = f"Set aside {name}: {reason}"
        else:
            aside.pop(key, None)
            words = f"Took up again: {name}"
        return _append(job, latest.site, author, words, latest, aside=aside, newest=latest)

    return _persist(work)


def give_name(job: Job, number: int, name: str) -> Revision | None:
    """Name a revision: named ones are never thinned. None where there is no such revision."""
    revision = job.revisions.filter(number=number).first()
    if revision is not None:
        revision.name = name
        revision.save(update_fields=["name"])
    return revision


def first_conflict(
    job: Job, base_number: int, latest: Revision, edits: Sequence[Edit]
) -> Conflict | None:
    """The first fact that these edits set and that somebody changed since their base."""
    base = job.revisions.filter(number=base_number).first()
    before = base.site if base is not None else None
    added, there = False, latest.site.elements()
    for edit in edits:
        if isinstance(edit, Set):
            own = added and edit.path.element not in there
            # what these edits themselves add is nobody else's
            if not own and (conflict := _conflict(job, before, base_number, latest, edit)):
                return conflict
        added = added or isinstance(edit, Add | Replace)
    return None


def _conflict(
    job: Job, before: Installation | None, base_number: int, latest: Revision, edit: Set
) -> Conflict | None:
    """Whether the fact this edit sets has changed between ``before`` and the newest revision."""
    site = latest.site
    now = _at(site, edit.path)
    if now is None:
        raise BadInput("That part was removed meanwhile.", edit.path)
    if now == (edit.value, edit.source) or (before is not None and _at(before, edit.path) == now):
        return None
    info = field_info(site.elements()[edit.path.element], edit.path.fact)
    theirs = show_value(info, now[0]) or "not known"
    if before is None:
        return Conflict(edit.path, theirs)
    setter = _who_set(job, base_number, edit.path, now)
    who = str(setter.author or "Somebody")
    return Conflict(edit.path, theirs, who, setter.number, setter.at)


def _at(site: Installation, path: str) -> tuple | None:
    """(value, source) of a fact; None where its element is not there."""
    try:
        return site.value_at(path), site.sources.get(path)
    except KeyError:
        return None


def _who_set(job: Job, base_number: int, path: str, now: tuple) -> Revision:
    """The revision in which a fact became what it is now: the oldest since the base from which
    on it has been so."""
    since = job.revisions.filter(number__gt=base_number).select_related("author")
    found = None
    for revision in since.order_by("-number").iterator(chunk_size=5):
        if found is not None and _at(revision.site, path) != now:
            break
        found = revision
    return found or job.latest


def others_words(job: Job, base_number: int, author) -> str:
    """What others (or another tab) saved since, in one sentence."""
    since = job.revisions.filter(number__gt=base_number).select_related("author")
    latest = since.order_by("-number").first()
    if latest is None:
        return ""
    who = "You, in another window," if latest.author == author else str(latest.author or "Somebody")
    return f"{who} saved meanwhile: {latest.words}."


def _append(
    job,
    site,
    author,
    words,
    parent,
    kind=Revision.Kind.EDIT,
    undoes=None,
    aside=None,
    newest: Revision | None = None,
) -> Revision:
    """The next revision. What was set aside is carried on from ``parent`` unless given.

    Solved before the lock; inside it, one number is read and one row written. Overtaken where
    ``newest`` is no longer the newest revision.
    """
    if aside is None:
        aside = parent.aside if parent is not None else {}
    document = dumps(site)
    remember(document, site)
    summary = summarise(site, aside, document)
    with transaction.atomic():
        number = job.revisions.values_list("number", flat=True).order_by("-number").first() or 0
        if newest is not None and number != newest.number:
            raise Overtaken
        if newest is not None:
            locks.before_write(job, newest, site, author)
        revision = Revision.objects.create(
            job=job,
            number=number + 1,
            kind=kind,
            author=author if author and author.is_authenticated else None,
            words=words[:300],
            document=document,
            summary=summary,
            aside=aside,
            parent=parent,
            undoes=undoes,
        )
        level = summary["level"]
        rank = Level(level).rank if level else NOTHING_FOUND
        Job.objects.filter(pk=job.pk).update(rank=rank, changed=revision.at)
        _thin(job, revision.number)
    return revision


def go_on_from(job: Job, author, revision: Revision) -> Revision:
    """Append an old revision's content as the newest, to be undone like any edit."""

    def work() -> Revision:
        newest = job.latest
        words = f"Went on from revision {revision.number}"
        site, aside = revision.site, revision.aside
        return _append(job, site, author, words, newest, aside=aside, newest=newest)

    return _persist(work)


def undo(job: Job, author, seen: int | None = None) -> Revision | None:
    """Append the content before the newest change; None when there is nothing before it.

    ``seen``: the newest revision that ``author`` has seen: Unseen where there is a newer one; None
    where nobody asks.
    """
    return _persist(lambda: _undo(job, author, seen))


def _undo(job: Job, author, seen: int | None) -> Revision | None:
    latest = job.latest
    if latest.parent is not None and seen not in (None, latest.number):
        raise Unseen(latest, "Take back")
    target = latest.parent
    if target is None:
        return None
    taken_back = latest.undoes if latest.kind == Revision.Kind.REDO else _origin(latest)
    taken_back = taken_back or latest
    by = taken_back.author
    whose = "" if by == author else f" by {by or 'somebody'}"
    words = f"Took back{whose}: {_plain(taken_back.words)}"
    return _append(
        job,
        target.site,
        author,
        words,
        target.parent,
        Revision.Kind.UNDO,
        undoes=latest,
        aside=target.aside,
        newest=latest,
    )


def _origin(revision: Revision) -> Revision:
    """The edit whose content this revision has: an undo shows an older edit's content."""
    seen = revision
    while seen.kind == Revision.Kind.UNDO and seen.undoes is not None and seen.undoes.parent:
        seen = seen.undoes.parent
    return seen


def _plain(words: str) -> str:
    """Words without an earlier “Put back” before them."""
    return words.removeprefix("Put back: ")


def _redo_stack(job: Job) -> list[Revision]:
    """The undone revisions that redo can bring back, next one last."""
    chain = []
    newest_first = job.revisions.order_by("-number").select_related("undoes")
    for revision in newest_first.iterator(chunk_size=5):  # each holds a whole site
        if revision.kind == Revision.Kind.EDIT:
            break
        chain.append(revision)
    stack: list[Revision] = []
    for revision in reversed(chain):
        if revision.kind == Revision.Kind.UNDO:
            if revision.undoes is not None:
                stack.append(revision.undoes)
        elif stack:
            stack.pop()
    return stack


def can_redo(job: Job, latest: Revision) -> bool:
    """Whether there is something to bring back; an edit ends redo."""
    return latest.kind != Revision.Kind.EDIT and bool(_redo_stack(job))


def redo(job: Job, author, seen: int | None = None) -> Revision | None:
    """Append the content that the newest undo took back; None when there is none. ``seen`` as of
    an undo."""
    return _persist(lambda: _redo(job, author, seen))


def _redo(job: Job, author, seen: int | None) -> Revision | None:
    latest = job.latest
    stack = _redo_stack(job)
    if not stack:
        return None
    if seen not in (None, latest.number):
        raise Unseen(latest, "Put back over")
    target = stack[-1]
    origin = _origin(target)
    words = f"Put back: {_plain(origin.words)}"
    return _append(
        job,
        target.site,
        author,
        words,
        target.parent,
        Revision.Kind.REDO,
        undoes=origin,
        aside=target.aside,
        newest=latest,
    )


def _thin(job: Job, newest: int) -> None:
    """Beyond the last KEEP_WORKING, keep named revisions, the first, and every tenth."""
    if newest <= KEEP_WORKING:
        return
    number = newest - KEEP_WORKING
    if number % KEEP_EVERY == 0 or number == 1:
        return
    old = job.revisions.filter(number=number, name="").first()
    if old is None:
        return
    old.children.update(parent=old.parent)
    old.delete()
