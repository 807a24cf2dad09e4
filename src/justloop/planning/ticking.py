"""Ticking a procedure's steps: what a hold waits for, what the Log keeps, taking it back."""

from django.conf import settings
from django.contrib import messages
from django.shortcuts import get_object_or_404, redirect
from django.utils import timezone
from django.utils.dateparse import parse_date
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

from ..address import address_of
from ..jobs import revisions
from ..jobs.access import job_of
from ..log import queued
from ..log.keeping import Circumstances, keep
from ..log.meter import read_meter
from ..solved import solve
from .models import CautionRead, JobDate, LookedAt, TickedStep, Work
from .work import made, photo_counts, progress_now


@require_POST
def tick(request, pk: int, number: int):
    """Tick a step, if its hold lets go."""
    job = job_of(request, pk)
    found = get_object_or_404(Work, job=job, pk=number)
    try:
        words = _tick(request, job, found)
    except BadInput as error:
        if queued.is_queued(request):
            return queued.answer(problem=error.sentence)
        messages.error(request, error.sentence)
    else:
        if queued.is_queued(request):
            return queued.answer(words, then=request.path.removesuffix("/tick"))
    return redirect("work", pk=job.pk, number=found.pk)


def _tick(request, job, found: Work) -> str:
    post = request.POST
    if TickedStep.objects.filter(client_id=queued.own_id(request)).exists():
        return "Ticked."  # sent twice
    site = job.latest.site
    procedure = made(found, site)
    progress = progress_now(request, found, procedure, queued.when(request))
    step = progress.now
    if step is None or step.key != post.get("step", "")[:60]:
        raise BadInput(_not_now(procedure, progress, post.get("step", "")[:60]))
    _may(request, step, progress)
    value, simulated, reading, said = None, False, None, ""
    if step.read is not None and (step.hold is Hold.READING or post.get("value", "").strip()
                                  or post.get("do") == "meter"):  # fmt: skip
        value, simulated = _figure(request, job, step)
        reading = _logged(request, job, step, value, simulated)
        ok, why = is_satisfied(solve(site).study, step.read, value)
        if simulated and not settings.DEMO:
            ok, why = False, "a simulated reading satisfies no hold."
        if step.hold is Hold.READING and not ok:
            raise BadInput(f"It holds: {why} The figure is in the Log." if reading else
                           f"It holds: {why}")  # fmt: skip
    if step.hold is Hold.LOCK:
        said = " ".join(post.get("words", "").split())[:160]
        if not said:
            raise BadInput("Write on the tag: your name, what is locked.")
    if step.hold is Hold.PHOTO:
        _seen(job, site, step)
    if step.hold is Hold.DATE:
        said = _dated(request, job, step)
    TickedStep.objects.create(
        work=found, client_id=queued.own_id(request), step=step.key, value=value,
        simulated=simulated, reading=reading, words=said, who=request.user,
        at=queued.when(request),
    )  # fmt: skip
    LookedAt.objects.update_or_create(
        work=found, who=request.user, defaults={"at": queued.when(request), "step": step.key}
    )
    if step is procedure.steps[-1]:
        found.ended = timezone.now()
        found.save(update_fields=["ended"])
    return "Ticked."


def _not_now(procedure: Procedure, progress: Progress, asked: str) -> str:
    if progress.expired:
        return f"Prove it dead again: {progress.expired}."
    at = {s.key: n for n, s in enumerate(procedure.steps)}
    if asked not in at:
        return "That step is no longer in the procedure: load the page again."
    if progress.now is None or at[asked] < at[progress.now.key]:
        return "That step is ticked already."
    return f"First: {progress.now.say}"


def _may(request, step: ProcedureStep, progress: Progress) -> None:
    me = request.user.get_username()
    if step.needs_signal and queued.is_queued(request):
        raise BadInput(
            "This step energizes something or rests on another's lock: it is not ticked from a"
            " queue. Tick it with signal."
        )
    if step.needs_signal and progress.locked_by and progress.locked_by != me:
        raise BadInput(f"{progress.locked_by}'s lock is on: nobody else takes it off and goes on.")
    today = timezone.localdate()
    for key in step.cautions:
        if request.POST.get(f"read-{key}") == "1":
            CautionRead.objects.get_or_create(who=request.user, key=key, day=today)
    read = set(CautionRead.objects.filter(who=request.user, day=today, key__in=step.cautions)
               .values_list("key", flat=True))  # fmt: skip
    if missing := [k for k in step.cautions if k not in read]:
        raise BadInput(f"Read first: {cautions()[missing[0]]}")


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
    """The last tick back, by who gave it; or the whole procedure put away."""
    job = job_of(request, pk)
    found = get_object_or_404(Work, job=job, pk=number)
    if request.POST.get("do") == "away":
        found.ended = timezone.now()
        found.save(update_fields=["ended"])
        return redirect(address_of(job, "plan", {}).here)
    last = found.ticks.order_by("-at", "-pk").first()
    if last is None or last.who_id != request.user.pk:
        messages.error(request, "Only who ticked it takes the last tick back.")
    else:
        last.delete()
        found.ended = None
        found.save(update_fields=["ended"])
    return redirect("work", pk=job.pk, number=found.pk)
