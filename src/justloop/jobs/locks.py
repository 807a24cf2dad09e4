"""Locks of a place: put on, taken off by their owner, and what they forbid (decisions/0044).

What energizes asks ``may_be_on`` inside its own write: SQLite gives one writer at a time, and a
revision is written the same way, so nobody comes between the question and the answer.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from django.db import transaction
from django.http import HttpResponse
from django.middleware.csrf import get_token
from django.shortcuts import render
from django.utils import timezone
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_safe

from returnpath.errors import BadInput
from returnpath.site import Installation, name_of
from returnpath.site.isolation import Held, LivePaths, device_name, why_not_on

from .access import read_job_of
from .models import Job, Lock, Revision, Role

MOST_LOCKS = 200  # that are on at once in one job


def on_now(job: Job) -> list[Lock]:
    """The locks that are on, the oldest first."""
    return list(job.locks.filter(off=None).select_related("person"))


def held(locks: Iterable[Lock]) -> list[Held]:
    """As the rule asks for them."""
    return [Held(one.point, one.name, frozenset(one.zone)) for one in locks]


def put_on(job: Job, person, points: Sequence[str], tag: str, work: int | None = None,
           client_id: UUID | None = None, waited: bool = False) -> str:  # fmt: skip
    """This person's own lock on each point, as the place is inside the write; what is said of it,
    the others' locks too."""
    said = []
    with transaction.atomic():
        site = job.latest.site
        paths = LivePaths(site)
        there = on_now(job)
        if len(there) + len(points) > MOST_LOCKS:
            raise BadInput(f"A job keeps at most {MOST_LOCKS} locks at once.")
        for point in points:
            if point not in paths.elements:
                raise BadInput("What is to be locked is no longer in the job: load the page again.")
            others = [one.name for one in there if one.point == point and one.person != person]
            own = next((o for o in there if o.point == point and o.person == person), None)
            device = device_name(site, point)
            if own is not None:
                said.append(f"Your lock is on {device} already.")
                continue
            Lock.objects.create(
                job=job, work=work, client_id=client_id, point=point, device=device[:200],
                person=person, name=str(person)[:150], tag=tag[:160],
                zone=sorted(paths.zone(point)), waited=waited,
            )  # fmt: skip
            also = f" {listed(others)} has one on it too." if others else ""
            said.append(f"Your lock is on {device}.{also}")
    return " ".join(said)


def listed(names: Sequence[str]) -> str:
    """“a, b and c”."""
    names = list(dict.fromkeys(names))
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"


def may_be_on(job: Job, site: Installation, part: str, but: Iterable[Lock] = ()) -> None:
    """BadInput where a lock forbids that ``part`` has volts; ``but`` these, which go with it."""
    gone = {one.pk for one in but}
    locks = [one for one in on_now(job) if one.pk not in gone]
    refusal = why_not_on(site, part, held(locks))
    if refusal is None:
        return
    lock = next(one for one in locks if one.point == refusal.lock.point
                and one.name == refusal.lock.person)  # fmt: skip
    element = site.elements().get(part)
    what = name_of(element) if element is not None else "it"
    since = f"{timezone.localtime(lock.at):%d %b %H:%M}"
    if refusal.is_point:
        why = f"{lock.name}’s lock is on {lock.device} since {since}"
    else:
        touched = listed(LivePaths(site).names(refusal.touches)[:4] or [lock.device])
        why = (
            f"it would give volts to {touched}, which is behind {lock.name}’s lock on"
            f" {lock.device} since {since}"
        )
    raise BadInput(f"Not switched on: {what} stays dead: {why}. Only {lock.name} takes it off.")


def ends_proofs(job: Job, site: Installation, part: str, who, but: Iterable[Lock] = ()) -> None:
    """Whoever gives volts to something ahead of a lock ends the proof of dead behind it."""
    gone = {one.pk for one in but}
    fed = LivePaths(site).behind(part)
    element = site.elements().get(part)
    name = name_of(element) if element is not None else "something"
    words = f"{who} switched on {name} ahead of it at {timezone.localtime():%H:%M}"
    for lock in on_now(job):
        if lock.pk not in gone and lock.proved and (fed & set(lock.zone) or lock.point in fed):
            _end(lock, words)


def _end(lock: Lock, words: str) -> None:
    if lock.proved and not lock.ended:
        lock.ended, lock.ended_at = words[:300], timezone.now()
        lock.save(update_fields=["ended", "ended_at"])


def end_all_proofs(words: str) -> int:
    """Every proof of dead ends: nobody knows what was switched since. How many did."""
    proved = Lock.objects.filter(off=None, ended="").exclude(proved=None)
    return proved.update(ended=words[:300], ended_at=timezone.now())


def prove(job: Job, site: Installation, person, part: str, work: int,
          now: bool = True) -> None:  # fmt: skip
    """Dead is proven at this person's own locks around ``part`` and in this ``work``; BadInput
    where they have none there, or where a source is not isolated by them. ``now`` is false of what
    waited on a phone: it is kept as done then, and proves nothing for what is done now."""
    paths = LivePaths(site)
    around = set(paths.zone(part)) | set(paths.points_of(part)) | {part}
    mine = [o for o in on_now(job) if o.person == person]
    here = [o for o in mine if o.point in around or set(o.zone) & around]
    if not here:
        raise BadInput("Put your own lock on first: a proof of dead rests on it.")
    live = paths.still_live(part, paths.opened(one.point for one in mine))
    if live:
        elements = site.elements()
        names = listed([name_of(elements[one]) for one in live])
        raise BadInput(
            f"Still live: {names}. No proof of dead until your own lock isolates every source."
        )
    for lock in mine if now else ():
        if lock in here or lock.work == work:
            lock.proved, lock.ended, lock.ended_at = timezone.now(), "", None
            lock.save(update_fields=["proved", "ended", "ended_at"])


def end(locks: Iterable[Lock], words: str) -> None:
    """The proofs at these locks are over."""
    for lock in locks:
        _end(lock, words)


def why_ended(locks: Iterable[Lock]) -> tuple[str, datetime | None] | None:
    """(why a proof that rests on these locks of one person is over, since when); None where it
    stands."""
    locks = list(locks)
    if not locks:
        return "your own lock is not on", None
    over = [one for one in locks if one.ended]
    if over:
        last = max(over, key=lambda one: one.ended_at or one.at)
        return last.ended, last.ended_at or timezone.now()
    bare = [one for one in locks if one.proved is None]
    if bare:
        last = max(bare, key=lambda one: one.at)
        return f"dead is not proven at your lock on {last.device}", last.at
    return None


def take_off(job: Job, person, number: int) -> str:
    """A person's own lock off; BadInput where it is another's."""
    with transaction.atomic():
        lock = job.locks.filter(pk=number, off=None).first()
        if lock is None:
            raise BadInput("That lock is off already.")
        if lock.person != person:
            raise BadInput(
                f"It is {lock.name}’s lock: nobody else takes it off. Where they cannot, an"
                " administrator of the firm does, with four things said."
            )
        lift([lock], str(person))
    return f"Your lock is off {lock.device}."


def lift(locks: Iterable[Lock], by: str) -> None:
    """These locks are off, now."""
    for lock in locks:
        lock.off, lock.off_by = timezone.now(), by[:150]
        lock.save()


#: What an administrator says before a lock is taken off for somebody else: field → its question.
FOR_ANOTHER = {
    "off_called": "How they were called, and what came of it",
    "off_gone": "How it is known that they have left the place",
    "off_told": "Who tells them before they come back, and how",
    "off_checked": "The second person who checked all this, by name",
}


def take_off_for_another(lock_number: int, by, said: dict[str, str]) -> Lock:
    """A lock off for somebody else; BadInput where one of the four fields is empty."""
    words = {field: " ".join(said.get(field, "").split())[:200] for field in FOR_ANOTHER}
    for field, question in FOR_ANOTHER.items():
        if len(words[field]) < 2:
            raise BadInput(f"Not taken off. Say first: {question[:1].lower()}{question[1:]}.")
    if words["off_checked"].casefold() in _names_of(by):
        raise BadInput("Not taken off. The second person who checked it is another than you.")
    with transaction.atomic():
        lock = Lock.objects.select_related("job").filter(pk=lock_number, off=None).first()
        if lock is None:
            raise BadInput("That lock is off already.")
        if words["off_checked"].casefold() == lock.name.casefold():
            raise BadInput("Not taken off. The second person is another than whose lock it is.")
        for field, text in words.items():
            setattr(lock, field, text)
        lift([lock], str(by))
    return lock


def _names_of(person) -> set[str]:
    return {n.casefold() for n in (person.get_username(), person.get_full_name()) if n}


def why_not(job: Job, what: str) -> str:
    """Why ``what`` (“put away”, “signed”) waits for a lock; "" where none is on."""
    there = on_now(job)
    if not there:
        return ""
    names = listed([f"{one.name} on {one.device}" for one in there])
    return f"Not {what}: a lock is on: {names}. Whoever put it on takes it off first."


def forbids(job: Job, what: str) -> None:
    """BadInput where a lock is on: ``what`` waits for it."""
    if why := why_not(job, what):
        raise BadInput(why)


def forbids_leaving(job: Job, person) -> None:
    """BadInput where somebody who leaves a job has a lock on in it: they could not take it off."""
    mine = [one.device for one in on_now(job) if one.person == person]
    if mine:
        raise BadInput(f"{person} has a lock on {listed(mine)}: first it comes off.")


def before_write(job: Job, newest: Revision, after: Installation, author) -> None:
    """Inside the write of a revision: a locked point stays as it is called; a change of what is
    behind a lock, or of the sources it leaves live, ends its proof."""
    locks = on_now(job)
    if not locks:
        return
    try:
        before = newest.site
    except BadInput:
        before = after  # it cannot be read: what is to come is all that is known
    was, now = before.elements(), after.elements()
    for lock in locks:
        if lock.point not in was:
            continue
        if lock.point not in now:
            raise BadInput(
                f"Not removed: {lock.name}’s lock is on {lock.device}. It comes off first."
            )
        if name_of(was[lock.point]) != name_of(now[lock.point]):
            raise BadInput(
                f"Not renamed: {lock.name}’s lock is on {lock.device}, and its tag says so."
            )
    paths_before, paths = LivePaths(before), LivePaths(after)
    for lock in locks:
        if lock.point not in now:
            continue
        mine = [one.point for one in locks if one.person == lock.person]
        zone = paths.zone(lock.point)
        changed = zone != paths_before.zone(lock.point) or (
            paths.still_live(lock.point, paths.opened(mine))
            != paths_before.still_live(lock.point, paths_before.opened(mine))
        )
        if changed:
            _end(lock, f"{author} changed what is behind it or feeds it")
            lock.zone = sorted(set(lock.zone) | zone)
            lock.save(update_fields=["zone"])


@dataclass(frozen=True)
class LockView:
    """A lock as every page shows it; ``behind`` the names of what it keeps dead."""

    number: int
    name: str
    device: str
    tag: str
    since: datetime
    behind: str
    is_mine: bool
    proved: datetime | None
    ended: str
    waited: bool


def shown(job: Job, site: Installation, person) -> tuple[LockView, ...]:
    """The locks that are on, for a page."""
    locks = on_now(job)
    if not locks:
        return ()
    paths = LivePaths(site)
    return tuple(_view(one, paths, person) for one in locks)


def _view(lock: Lock, paths: LivePaths, person) -> LockView:
    zone = set(lock.zone) | (paths.zone(lock.point) if lock.point in paths.elements else set())
    names = list(dict.fromkeys(paths.names(zone)))
    more = f" and {len(names) - 6} more" if len(names) > 6 else ""
    return LockView(
        lock.pk, lock.name, lock.device, lock.tag, lock.at, f"{', '.join(names[:6])}{more}",
        lock.person == person, lock.proved, lock.ended, lock.waited,
    )  # fmt: skip


def locked_parts(job: Job, site: Installation) -> frozenset[str]:
    """Every part behind a lock that is on."""
    locks = on_now(job)
    if not locks:
        return frozenset()
    paths = LivePaths(site)
    zones = [frozenset(o.zone) | (paths.zone(o.point) if o.point in paths.elements else frozenset())
             for o in locks]  # fmt: skip
    return frozenset().union(*zones)


def context_of(request, job: Job, here: str) -> dict:
    """What ``jobs/locks.html`` shows on the page at ``here``; ``token`` changes with it."""
    views = shown(job, job.latest.site, request.user) if job.locks.filter(off=None).exists() else ()
    token = "-".join(f"{v.number}{'e' if v.ended else 'p' if v.proved else ''}" for v in views)
    return {
        "job": job, "locks": views, "token": token or "none", "here": here,
        "csrf_token": get_token(request),
        "reads_only": getattr(request, "job_role", "") == Role.READER,
    }  # fmt: skip


@require_safe
def locks_now(request, pk: int):
    """The locks of a job for a page that asks every few seconds; nothing while they are the
    same."""
    job = read_job_of(request, pk)
    here = request.GET.get("here", "")
    if not url_has_allowed_host_and_scheme(here, {request.get_host()}, request.is_secure()):
        here = request.path.removesuffix("/locks")
    context = context_of(request, job, here)
    if request.GET.get("seen", "") == context["token"]:
        return HttpResponse(status=204)
    return render(request, "jobs/locks.html", context)
