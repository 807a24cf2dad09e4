"""Procedures under way: begun, and looked at step by step."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.contrib import messages
from django.shortcuts import get_object_or_404, redirect
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from returnpath.errors import BadInput
from returnpath.plan import (
    Ended,
    Form,
    Hold,
    Procedure,
    ProcedureStep,
    Progress,
    StepState,
    Tick,
    band_of,
    forms,
    procedure_of,
    progress_of,
    read_form,
    with_added,
)
from returnpath.plan.procedure import cautions
from returnpath.plan.progress import AWAY
from returnpath.plan.readback import unit_of
from returnpath.readings import reading_kinds
from returnpath.record import slots_of
from returnpath.site import describe, name_of
from returnpath.site.isolation import LivePaths, device_name

from ..address import address_of
from ..jobs import locks
from ..jobs.access import job_of
from ..jobs.models import Lock, Role
from ..pages import show
from ..solved import solve
from ..trouble import beside_looking
from .models import CautionRead, LookedAt, OwnForm, Work

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
    return procedure_of(form_of(work.form), solved.evidence, work.subject, work.choices)


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
        procedure = procedure_of(form, solve(site).evidence, subject, chosen)
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
    add_lock: str
    last_tick: int
    is_last_mine: bool
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
        page = WorkPage(job, found, "", (), 0, "", "", 0, False, (), back, error.sentence,
                        timezone.localdate(), True, ())  # fmt: skip
    return show(request, "planning/work.html", page, site=job.latest.site)


def _page(request, job, found: Work, back: str) -> WorkPage:
    site = job.latest.site
    study = solve(site).study
    procedure = made(found, site)
    progress = progress_now(request, found, procedure, timezone.now())
    ticks = {t.step: t for t in found.ticks.select_related("who")}
    read = set(CautionRead.objects.filter(who=request.user, day=timezone.localdate())
               .values_list("key", flat=True))  # fmt: skip
    names = {s.key: s.name for s in slots_of(site)}
    photos = photo_counts(job)
    steps = tuple(
        _step(n, step, state, study, site, ticks.get(step.key), read, names, photos, progress)
        for n, (step, state) in enumerate(zip(procedure.steps, progress.states, strict=True), 1)
    )
    if request.job_role != Role.READER and not progress.expired:  # a look revives no proof
        here = {"at": timezone.now(), "step": progress.now.key if progress.now else ""}
        beside_looking(lambda: LookedAt.objects.update_or_create(
            work=found, who=request.user, defaults=here))  # fmt: skip
    others = tuple(
        f"{look.who.get_username()} is at “{look.step}”"
        for look in found.looks.select_related("who").exclude(who=request.user)
        if look.step and timezone.now() - look.at < AWAY
    )
    last = found.ticks.order_by("-at", "-pk").first()
    return WorkPage(
        job, found, procedure.what, steps, sum(s.is_done for s in steps), progress.expired,
        _may_add(request, found, procedure, site, set(ticks)), last.pk if last else 0,
        last is not None and last.who_id == request.user.pk, others, back, "", timezone.localdate(),
        request.job_role == Role.READER, procedure.open_choices,
    )  # fmt: skip


def _may_add(request, found: Work, procedure: Procedure, site, ticked: set[str]) -> str:
    """The devices on which this person may put a lock of their own beside the steps, in words: the
    step that locks them was ticked by another, or there is none."""
    steps = [s for s in procedure.steps if s.hold is Hold.LOCK]
    if found.ended is not None or (steps and not any(s.key in ticked for s in steps)):
        return ""
    mine = {o.point for o in locks.on_now(found.job) if o.person == request.user}
    if not steps and not any(s.proves for s in procedure.steps):
        return ""
    open_ones = [p for p in points_of(procedure, site) if p not in mine]
    energized = any(s.energizes and s.key in ticked for s in procedure.steps)
    if not open_ones or energized:
        return ""
    return locks.listed([device_name(site, p) for p in open_ones])


def photo_counts(job) -> dict[str, int]:
    """Slot → its photographs, or 1 for what was seen or said."""
    counts: dict[str, int] = {}
    for slot in job.photos.exclude(slot="").values_list("slot", flat=True):
        counts[slot] = counts.get(slot, 0) + 1
    for slot in job.slot_notes.values_list("slot", flat=True):
        counts.setdefault(slot, 1)
    return counts


def progress_now(request, found: Work, procedure: Procedure, now: datetime,
                 from_queue: bool = False) -> Progress:  # fmt: skip
    """Where a procedure stands for who asks, by the server's clock. An entry out of a queue goes
    on from a proof that waited in the same queue; what is done now does not."""
    look = found.looks.filter(who=request.user).first()
    seen = look.at if look else now
    ticks = [
        Tick(t.step, t.who.get_username() if t.who else "", t.at, t.waited and not from_queue)
        for t in found.ticks.select_related("who")
    ]
    own = own_locks(found, request.user)
    over = locks.why_ended([o for o in own if o.ended] or own)
    if from_queue and own and not any(o.ended for o in own):
        over = None  # its proof was made on the phone, before the lock was told here
    return progress_of(procedure, ticks, request.user.get_username(), now, seen,
                       Ended(*over) if over else None)  # fmt: skip


def own_locks(found: Work, person) -> list[Lock]:
    """A person's own locks of a procedure that are on."""
    return [o for o in locks.on_now(found.job) if o.person == person and o.work == found.pk]


def points_of(procedure: Procedure, site) -> tuple[str, ...]:
    """The points that a procedure locks: as its steps say, else those around what it proves
    dead."""
    said = [point for step in procedure.steps for point in step.locks]
    paths = LivePaths(site)
    if not said:
        said = [p for s in procedure.steps if s.proves for p in paths.points_of(s.proves)]
    return tuple(dict.fromkeys(p for p in said if p in paths.elements))


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
        edits=_described(site, step), ticked=ticked,
    )  # fmt: skip


def _described(site, step: ProcedureStep) -> tuple[str, ...]:
    """What the step's change would do; nothing where this place has no such fact."""
    try:
        return tuple(describe(site, e) for e in step.change)
    except (BadInput, KeyError, ValueError, AttributeError):
        return ()


def _label(asked, site) -> str:
    element = site.elements().get(asked.place)
    kind = reading_kinds().get(asked.kind)
    what = kind.label if kind else {"volts": "volts", "ohms": "ohms", "amps": "amperes"}[asked.kind]
    return f"{name_of(element)}: {what}" if element is not None else what
