"""Ticking a procedure's steps: what a hold waits for, what the Log keeps, taking it back."""

from dataclasses import dataclass
from datetime import datetime

from django.conf import settings
from django.contrib import messages
from django.db import transaction
from django.http import HttpRequest
from django.shortcuts import get_object_or_404, redirect
from django.utils import timezone
from django.utils.dateparse import parse_date
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_POST

from returnpath.errors import BadInput, number_in
from returnpath.plan import (
    Hold,
    Procedure,
    ProcedureStep,
    Progress,
    is_satisfied,
)
from returnpath.plan.procedure import cautions
from returnpath.plan.readback import unit_of
from returnpath.readings import AS_FOUND, TypedReading, reading_kinds
from returnpath.record import slots_of
from returnpath.site import name_of
from returnpath.site.isolation import LivePaths

from ..address import address_of
from ..jobs import locks, revisions
from ..jobs.access import job_of
from ..jobs.models import Lock
from ..log import queued
from ..log.keeping import Circumstances, keep
from ..log.meter import read_meter
from ..solved import solve
from .models import CautionRead, JobDate, LookedAt, TickedStep, Work
from .work import made, own_locks, photo_counts, points_of, progress_now


@require_POST
def tick(request, pk: int, number: int):
    """Tick a step, if its hold lets go."""
    job = job_of(request, pk)
    found = get_object_or_404(Work, job=job, pk=number)
    words, problem = "", ""
    try:
        words, problem = _tick(request, job, found)
    except BadInput as error:
        problem = error.sentence
    if queued.is_queued(request):
        if problem:
            return queued.answer(problem=problem)
        said = f"{words}{queued.skew_words(request)}"
        return queued.answer(said, then=request.path.removesuffix("/tick"))
    if problem:
        messages.error(request, problem)
    elif words != TICKED:
        messages.info(request, words)
    return redirect("work", pk=job.pk, number=found.pk)


TICKED = "Ticked."


@dataclass(frozen=True)
class _Entry:
    """What somebody sends for a step; the meter was asked before anything is locked for writing."""

    request: HttpRequest
    step: ProcedureStep
    value: float | None
    simulated: bool
    at: datetime
    waited: bool


def _tick(request, job, found: Work) -> tuple[str, str]:
    """(what is said, ""), or ("", why it is not ticked): what was kept before that stays kept.

    Everything that a tick rests on is asked again inside one write: two who press at once are told
    apart there, and nothing is energized against a lock that came in between.
    """
    site = job.latest.site
    procedure = made(found, site)  # solved outside the write
    asked = request.POST.get("step", "")[:60]
    step = next((s for s in procedure.steps if s.key == asked), None)
    value, simulated = None, False
    if step is not None and step.read is not None and (
        step.hold is Hold.READING or request.POST.get("value", "").strip()
        or request.POST.get("do") == "meter"
    ):  # fmt: skip
        value, simulated = _figure(request, job, step)
    with transaction.atomic():
        try:
            now = job.latest.site
            procedure = procedure if now == site else made(found, now)
            if again := _sent_before(request, found, asked):
                return again, ""
            waited = queued.waited(request)
            moment = queued.when(request) if waited else timezone.now()
            progress = progress_now(request, found, procedure, moment, waited)
            if progress.expired:  # over for good: a look or a tick does not revive it
                locks.end(own_locks(found, request.user), progress.expired)
            step = _step_now(found, procedure, progress, asked, request.user)
            at = moment if waited else timezone.now()
            entry = _Entry(request, step, value, simulated, at, waited)
            return _kept(job, found, procedure, progress, entry), ""
        except BadInput as error:
            return "", error.sentence


def _sent_before(request, found: Work, step: str) -> str:
    """What is said of an entry that came before under the same id; BadInput where it then had
    other content."""
    id = queued.own_id(request)
    known = TickedStep.objects.filter(client_id=id).first()
    lock = Lock.objects.filter(client_id=id).first()
    if known is None and lock is None:
        return ""
    words = " ".join(request.POST.get("words", "").split())[:160]
    if known is not None:
        same = (known.work_id, known.step, known.who_id) == (found.pk, step, request.user.pk)
        same = same and (not known.words or not words or known.words == words)
        typed = request.POST.get("value", "").strip()[:20].replace(",", ".")
        same = same and (not typed or known.value is None or _as_number(typed) == known.value)
    else:
        same = (lock.work, lock.person_id, lock.tag) == (found.pk, request.user.pk, words)
    if not same:
        raise BadInput(queued.OTHER_CONTENT)
    return TICKED


def _step_now(found: Work, procedure: Procedure, progress: Progress, asked: str, person):
    """The step that is ticked: the next one; or a lock that others put on before, to which this
    person adds their own."""
    step = progress.now
    if step is not None and step.key == asked:
        return step
    here = next((s for s in procedure.steps if s.key == asked), None)
    is_done = found.ticks.filter(step=asked).exists()
    if here is not None and here.hold is Hold.LOCK and is_done:
        return here
    raise BadInput(_not_now(found, procedure, progress, asked))


def _kept(job, found: Work, procedure: Procedure, progress: Progress, entry: _Entry) -> str:
    """The step ticked, inside the write; what is said of it."""
    request, step, site = entry.request, entry.step, job.latest.site
    _may(request, step)
    reading, said, told = None, "", TICKED
    if entry.value is not None:
        reading = _logged(request, job, step, entry.value, entry.simulated)
        ok, why = is_satisfied(solve(site).study, step.read, entry.value)
        if entry.simulated and not settings.DEMO:
            ok, why = False, "a simulated reading satisfies no hold."
        if step.hold is Hold.READING and not ok:
            raise BadInput(f"It holds: {why} The figure is in the Log." if reading else
                           f"It holds: {why}")  # fmt: skip
    if step.hold is Hold.LOCK:
        said = " ".join(request.POST.get("words", "").split())[:160]
        if not said:
            raise BadInput("Write on the tag: your name, what is locked.")
        told = locks.put_on(job, request.user, step.locks, said, found.pk,
                            queued.own_id(request), entry.waited)  # fmt: skip
        if entry.waited:
            told += " Until this was sent nobody else saw it."
        if step is not progress.now:
            return told  # others ticked it: the lock is this person's own
    if step.hold is Hold.DEAD:
        locks.prove(job, site, request.user, step.proves, found.pk, not entry.waited)
    if step.hold is Hold.PHOTO:
        _seen(job, site, step)
    if step.hold is Hold.DATE:
        said = _dated(request, job, step)
    if step.energizes:
        told = _energize(job, found, site, step, request.user)
    TickedStep.objects.create(
        work=found, client_id=queued.own_id(request), step=step.key, value=entry.value,
        simulated=entry.simulated, reading=reading, words=said, who=request.user,
        at=entry.at, waited=entry.waited,
    )  # fmt: skip
    LookedAt.objects.update_or_create(
        work=found, who=request.user, defaults={"at": timezone.now(), "step": step.key}
    )
    if step is procedure.steps[-1]:
        found.ended = timezone.now()
        found.save(update_fields=["ended"])
    return told


def _energize(job, found: Work, site, step: ProcedureStep, person) -> str:
    """Volts on the step's parts: the person's own locks of this procedure there come off with it,
    any other forbids it; proofs of dead behind it are over."""
    paths = LivePaths(site)
    closes = {point for part in step.energizes for point in paths.closes(part)}
    own = [one for one in locks.on_now(job) if one.person == person and one.work == found.pk
           and (one.point in closes or paths.opened([one.point]) & closes)]  # fmt: skip
    for part in step.energizes:
        locks.may_be_on(job, site, part, but=own)
    locks.lift(own, str(person))
    for part in step.energizes:
        locks.ends_proofs(job, site, part, person, but=own)
    if not own:
        return TICKED
    return f"{TICKED} Your lock is off {locks.listed([one.device for one in own])}."


def _not_now(found: Work, procedure: Procedure, progress: Progress, asked: str) -> str:
    if progress.expired:
        return f"Prove it dead again: {progress.expired}."
    at = {s.key: n for n, s in enumerate(procedure.steps)}
    if asked not in at:
        return "That step is no longer in the procedure: load the page again."
    if progress.now is None or at[asked] < at[progress.now.key]:
        by = found.ticks.filter(step=asked).order_by("-at").first()
        who = f", by {by.who.get_username()}" if by and by.who else ""
        return f"That step is ticked already{who}."
    return f"First: {progress.now.say}"


def _may(request, step: ProcedureStep) -> None:
    if step.needs_signal and queued.is_queued(request):
        raise BadInput(
            "This step energizes something or is done live: it is not ticked from a queue. Tick it"
            " with signal."
        )
    today = timezone.localdate()
    for key in step.cautions:
        if request.POST.get(f"read-{key}") == "1":
            CautionRead.objects.get_or_create(who=request.user, key=key, day=today)
    read = set(CautionRead.objects.filter(who=request.user, day=today, key__in=step.cautions)
               .values_list("key", flat=True))  # fmt: skip
    if missing := [k for k in step.cautions if k not in read]:
        raise BadInput(f"Read first: {cautions()[missing[0]]}")


def _as_number(typed: str) -> float | None:
    try:
        return float(typed)
    except ValueError:
        return None


def _figure(request, job, step: ProcedureStep) -> tuple[float, bool]:
    assert step.read is not None
    if request.POST.get("do") == "meter":
        if step.read.kind not in reading_kinds():
            raise BadInput("The meter does not read that; type it.")
        shown = read_meter(step.read.kind, step.read.place, job.name)
        return shown.value, shown.simulated
    typed = request.POST.get("value", "").strip()[:20].replace(",", ".")
    if typed.lower() in ("ol", "open", "over range"):
        return 1e6, False
    try:
        value = float(typed)
    except ValueError:
        raise BadInput(f"Type the figure in {unit_of(step.read)}.") from None
    return number_in(value, "The figure", 0, 1e7), False


def _logged(request, job, step: ProcedureStep, value: float, simulated: bool):
    """What the Log keeps of it: readings of the Log's kinds at a part that is there."""
    asked = step.read
    site = job.latest.site
    if asked is None or asked.kind not in reading_kinds() or asked.place not in site.elements():
        return None
    name = name_of(site.elements()[asked.place])
    typed = TypedReading("", asked.kind, asked.place, name, value,
                         loaded=asked.kind in AS_FOUND)  # fmt: skip
    how = Circumstances(None, None, f"procedure: {step.say}"[:200], queued.when(request))
    return keep(job, request.user, typed, queued.own_id(request, 1), how, simulated)


def _seen(job, site, step: ProcedureStep) -> None:
    if step.slot in {s.key for s in slots_of(site)} and not photo_counts(job).get(step.slot):
        raise BadInput("It holds for its photo, or for who saw it, or why it could not be seen.")


def _dated(request, job, step: ProcedureStep) -> str:
    """The date that a step waits for: it happened, with its number or its result."""
    note = " ".join(request.POST.get("words", "").split())[:160]
    try:
        day = parse_date(request.POST.get("day", "")[:10]) or timezone.localdate()
    except ValueError:
        raise BadInput("That is no date; write 2026-11-30.") from None
    if day > timezone.localdate():
        raise BadInput("That day is still to come: tick it when it has happened.")
    known = job.dates.filter(kind=step.date).order_by("-day").first()
    if known is None:
        known = JobDate(job=job, kind=step.date, by=request.user)
    known.day, known.done, known.note = day, True, note or known.note
    known.save()
    return note


@require_POST
def enter(request, pk: int, number: int):
    """The change that a ticked step offers, into the job."""
    job = job_of(request, pk)
    found = get_object_or_404(Work, job=job, pk=number)
    try:
        step = next((s for s in made(found, job.latest.site).steps
                     if s.key == request.POST.get("step", "")), None)  # fmt: skip
        if step is None or not step.change:
            raise BadInput("That step changes nothing in the job.")
        if not found.ticks.filter(step=step.key).exists():
            raise BadInput("Tick the step first: the job shows what is so.")
        saved = revisions.save_edits(job, request.user, job.latest.number, step.change, "")
        messages.info(request, saved.told or "Entered in the job.")
    except BadInput as error:
        messages.error(request, error.sentence)
    return redirect("work", pk=job.pk, number=found.pk)


@require_POST
def take_back(request, pk: int, number: int):
    """The last tick back, by who gave it; or the whole procedure put away, with no lock on."""
    job = job_of(request, pk)
    found = get_object_or_404(Work, job=job, pk=number)
    with transaction.atomic():
        problem = _taken_back(request, job, found)
    if problem:
        messages.error(request, problem)
    elif request.POST.get("do") == "away":
        return redirect(address_of(job, "plan", {}).here)
    return redirect("work", pk=job.pk, number=found.pk)


def _taken_back(request, job, found: Work) -> str:
    """Why not; "" where it was."""
    if request.POST.get("do") == "away":
        there = [one for one in locks.on_now(job) if one.work == found.pk]
        if there:
            names = locks.listed([f"{one.name} on {one.device}" for one in there])
            return f"Not put away: a lock is on: {names}. Whoever put it on takes it off first."
        found.ended = timezone.now()
        found.save(update_fields=["ended"])
        return ""
    last = found.ticks.order_by("-at", "-pk").first()
    if last is None:
        return "Nothing is ticked yet."
    if last.who_id != request.user.pk or request.POST.get("tick", str(last.pk)) != str(last.pk):
        who = last.who.get_username() if last.who else "somebody else"
        return f"The last tick is {who}’s: only who ticked it takes it back."
    last.delete()  # a lock that it put on stays on: it comes off by itself
    found.ended = None
    found.save(update_fields=["ended"])
    return ""


@require_POST
def add_lock(request, pk: int, number: int):
    """One's own lock on a point of a procedure whose lock step others ticked, or that has none."""
    job = job_of(request, pk)
    found = get_object_or_404(Work, job=job, pk=number)
    tag = " ".join(request.POST.get("words", "").split())[:160]
    try:
        site = job.latest.site
        if not tag:
            raise BadInput("Write on the tag: your name, what is locked.")
        points = points_of(made(found, site), site)
        if not points:
            raise BadInput("This procedure locks nothing that is in the job.")
        messages.info(request, locks.put_on(job, request.user, points, tag, found.pk))
    except BadInput as error:
        messages.error(request, error.sentence)
    return redirect("work", pk=job.pk, number=found.pk)


@require_POST
def lock_off(request, pk: int, number: int):
    """One's own lock off its point."""
    job = job_of(request, pk)
    try:
        messages.info(request, locks.take_off(job, request.user, number))
    except BadInput as error:
        messages.error(request, error.sentence)
    back = request.POST.get("next", "")
    if not url_has_allowed_host_and_scheme(back, {request.get_host()}, request.is_secure()):
        back = address_of(job, "plan", {}).here
    return redirect(back)
