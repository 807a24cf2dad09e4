"""Procedures under way: begun, looked at, ticked step by step; holds that hold."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.conf import settings
from django.contrib import messages
from django.shortcuts import get_object_or_404, redirect
from django.utils import timezone
from django.utils.dateparse import parse_date
from django.views.decorators.http import require_POST, require_safe

from returnpath.errors import BadInput, number_in
from returnpath.plan import (
    Form,
    Hold,
    Procedure,
    ProcedureStep,
    Progress,
    StepState,
    Tick,
    band_of,
    forms,
    is_satisfied,
    procedure_of,
    progress_of,
    read_form,
    with_added,
)
from returnpath.plan.procedure import cautions
from returnpath.plan.progress import AWAY
from returnpath.plan.readback import unit_of
from returnpath.readings import AS_FOUND, TypedReading, reading_kinds
from returnpath.record import slots_of
from returnpath.rules import Evidence
from returnpath.site import describe, name_of

from ..address import address_of
from ..jobs import revisions
from ..jobs.access import job_of
from ..jobs.models import Role
from ..log import queued
from ..log.keeping import Circumstances, keep
from ..log.meter import read_meter
from ..pages import show
from ..solved import solve
from .models import CautionRead, JobDate, LookedAt, OwnForm, TickedStep, Work

MOST_WORKS = 60


def form_of(key: str) -> Form:
    """A procedure's form: one of ours, else the firm's own; BadInput where there is none."""
    if key in forms():
        return with_added(forms()[key], added_forms())
    own = OwnForm.objects.filter(key=key).first()
    if own is None:
        raise BadInput("That procedure is no longer there.")
    return read_form(own.text)


def added_forms() -> list[Form]:
    """The firm's own procedures, also those that add steps to ours; unreadable ones left out."""
    found = []
    for own in OwnForm.objects.all():
        try:
            found.append(read_form(own.text))
        except BadInput:
            continue
    return found


def made(work: Work, site) -> Procedure:
    """A work's procedure, by the place as it is now."""
    solved = solve(site)
    return procedure_of(
        form_of(work.form), Evidence(site, solved.study), work.subject, work.choices
    )


def unread_cautions(job, site) -> list[tuple[Work, str]]:
    """Running procedures whose next step has a caution that nobody read today."""
    read = set(CautionRead.objects.filter(day=timezone.localdate()).values_list("key", flat=True))
    found = []
    for one in job.works.filter(ended=None).prefetch_related("ticks"):
        try:
            procedure = made(one, site)
        except BadInput:
            continue
        ticked = {t.step for t in one.ticks.all()}
        step = next((s for s in procedure.steps if s.key not in ticked), None)
        if step is not None and (unread := [k for k in step.cautions if k not in read]):
            found.append((one, cautions()[unread[0]]))
    return found


@require_POST
def begin(request, pk: int):
    """Begin a procedure on a part of the place."""
    job = job_of(request, pk)
    key, subject = request.POST.get("form", "")[:40], request.POST.get("subject", "")[:20]
    site = job.latest.site
    try:
        if job.works.count() >= MOST_WORKS:
            raise BadInput(f"A job keeps at most {MOST_WORKS} procedures.")
        form = form_of(key)
        chosen = {c.key: request.POST.get(f"choice-{c.key}", "")[:40] for c in form.choices}
        procedure = procedure_of(form, Evidence(site, solve(site).study), subject, chosen)
    except BadInput as error:
        messages.error(request, error.sentence)
        return redirect(address_of(job, "plan", request.POST).here)
    work = Work.objects.create(
        job=job, form=key, subject=subject, title=procedure.name[:160], choices=chosen,
        by=request.user,
    )  # fmt: skip
    return redirect("work", pk=job.pk, number=work.pk)


@dataclass(frozen=True)
class CautionLine:
    """A caution of a step, and whether this person read it today."""

    key: str
    words: str
    read: bool


@dataclass(frozen=True)
class StepView:
    """A step as its page shows it."""

    n: int
    key: str
    say: str
    why: str
    hold: str
    state: str
    is_now: bool
    is_done: bool
    needs_signal: bool
    unit: str
    label: str
    band: str
    can_meter: bool
    slot: str
    slot_name: str
    photos: int
    date: str
    cautions: tuple[CautionLine, ...]
    unread: bool
    edits: tuple[str, ...]
    ticked: str


@dataclass(frozen=True)
class WorkPage:
    """One procedure under way."""

    job: Any
    work: Work
    what: str
    steps: tuple[StepView, ...]
    done: int
    expired: str
    locked_by: str
    others: tuple[str, ...]
    back: str
    problem: str
    today: Any
    reads_only: bool
    open_choices: tuple[str, ...]


@require_safe
def work(request, pk: int, number: int):
    """A procedure, one step large."""
    job = job_of(request, pk)
    found = get_object_or_404(Work, job=job, pk=number)
    back = address_of(job, "plan", {}).here
    try:
        page = _page(request, job, found, back)
    except BadInput as error:
        page = WorkPage(job, found, "", (), 0, "", "", (), back, error.sentence,
                        timezone.localdate(), True, ())  # fmt: skip
    return show(request, "planning/work.html", page, site=job.latest.site)


def _page(request, job, found: Work, back: str) -> WorkPage:
    site = job.latest.site
    study = solve(site).study
    procedure = made(found, site)
    progress = _progress(request, found, procedure, timezone.now())
    ticks = {t.step: t for t in found.ticks.select_related("who")}
    read = set(CautionRead.objects.filter(who=request.user, day=timezone.localdate())
               .values_list("key", flat=True))  # fmt: skip
    names = {s.key: s.name for s in slots_of(site)}
    photos = _photo_counts(job)
    steps = tuple(
        _step(n, step, state, study, site, ticks.get(step.key), read, names, photos, progress)
        for n, (step, state) in enumerate(zip(procedure.steps, progress.states, strict=True), 1)
    )
    if request.job_role != Role.READER:
        LookedAt.objects.update_or_create(
            work=found, who=request.user,
            defaults={"at": timezone.now(), "step": progress.now.key if progress.now else ""},
        )  # fmt: skip
    others = tuple(
        f"{look.who.get_username()} is at “{look.step}”"
        for look in found.looks.select_related("who").exclude(who=request.user)
        if look.step and timezone.now() - look.at < AWAY
    )
    return WorkPage(
        job, found, procedure.what, steps, sum(s.is_done for s in steps), progress.expired,
        progress.locked_by, others, back, "", timezone.localdate(),
        request.job_role == Role.READER, procedure.open_choices,
    )  # fmt: skip


def _photo_counts(job) -> dict[str, int]:
    counts: dict[str, int] = {}
    for slot in job.photos.exclude(slot="").values_list("slot", flat=True):
        counts[slot] = counts.get(slot, 0) + 1
    for slot in job.slot_notes.values_list("slot", flat=True):
        counts.setdefault(slot, 1)
    return counts


def _progress(request, found: Work, procedure: Procedure, now: datetime) -> Progress:
    look = found.looks.filter(who=request.user).first()
    seen = look.at if look else now
    ticks = [
        Tick(t.step, t.who.get_username() if t.who else "", t.at)
        for t in found.ticks.select_related("who")
    ]
    return progress_of(procedure, ticks, request.user.get_username(), now, seen)


def _step(n: int, step: ProcedureStep, state: StepState, study, site, tick, read, names, photos,
          progress: Progress) -> StepView:  # fmt: skip
    words = cautions()
    lines = tuple(CautionLine(k, words[k], k in read) for k in step.cautions)
    asked = step.read
    ticked = ""
    if tick is not None and state is StepState.DONE:
        who = tick.who.get_username() if tick.who else "somebody who left"
        figure = f"{tick.value:g} {unit_of(asked)}, " if tick.value is not None and asked else ""
        sim = "simulated, " if tick.simulated else ""
        ticked = f"{figure}{sim}{who}, {timezone.localtime(tick.at):%d %b %H:%M}"
        ticked = f"{ticked} · {tick.words}" if tick.words else ticked
    return StepView(
        n=n, key=step.key, say=step.say, why=step.why, hold=step.hold.value, state=state.value,
        is_now=step is progress.now, is_done=state is StepState.DONE,
        needs_signal=step.needs_signal,
        unit=unit_of(asked) if asked else "",
        label=_label(asked, site) if asked else "",
        band=band_of(study, asked) if asked else "",
        can_meter=asked is not None and asked.kind in reading_kinds(),
        slot=step.slot if step.slot in names else "", slot_name=names.get(step.slot, ""),
        photos=photos.get(step.slot, 0), date=step.date, cautions=lines,
        unread=any(not c.read for c in lines),
        edits=tuple(describe(site, e) for e in step.change), ticked=ticked,
    )  # fmt: skip


def _label(asked, site) -> str:
    element = site.elements().get(asked.place)
    kind = reading_kinds().get(asked.kind)
    what = kind.label if kind else {"volts": "volts", "ohms": "ohms", "amps": "amperes"}[asked.kind]
    return f"{name_of(element)}: {what}" if element is not None else what


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
    progress = _progress(request, found, procedure, queued.when(request))
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
    if step.slot in {s.key for s in slots_of(site)} and not _photo_counts(job).get(step.slot):
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
