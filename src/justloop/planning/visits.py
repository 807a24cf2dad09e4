"""Visits of the office: the own check before, remarks during, corrections after."""

from dataclasses import dataclass
from typing import Any

from django.contrib import messages
from django.shortcuts import get_object_or_404, redirect
from django.utils import timezone
from django.utils.dateparse import parse_date
from django.views.decorators.http import require_POST, require_safe

from returnpath.errors import BadInput, number_in
from returnpath.record import slots_of
from returnpath.site import name_of
from returnpath.site.edits import Require
from returnpath.vocabulary import GRAVE

from ..address import address_of
from ..jobs import revisions
from ..jobs.access import job_of
from ..jobs.models import Role
from ..log.models import Photo
from ..log.photos import keep_image
from ..pages import show
from ..solved import solve, standing
from .models import Remark, Visit

KINDS = {"rough": "rough-in", "final": "final"}
MOST_VISITS, MOST_REMARKS = 60, 80


@dataclass(frozen=True)
class RemarkView:
    """A remark as its page shows it."""

    row: Remark
    place: str
    rests: str
    finding: str
    found: str


@dataclass(frozen=True)
class VisitLine:
    """A visit in the list."""

    id: int
    kind: str
    day: Any
    result: str
    open: int
    cost: str


@dataclass(frozen=True)
class VisitsView:
    """The visits of a job, and what rework has cost so far."""

    rows: tuple[VisitLine, ...]
    hours: str
    days: str
    carried: tuple[str, ...]


@dataclass(frozen=True)
class VisitPage:
    """One visit."""

    job: Any
    visit: Visit
    kind: str
    checks: tuple[tuple[str, bool], ...]
    said_before: tuple[str, ...]
    remarks: tuple[RemarkView, ...]
    places: tuple[tuple[str, str], ...]
    findings: tuple[tuple[str, str], ...]
    rests: tuple[tuple[str, str], ...]
    carried: tuple[str, ...]
    missed: tuple[str, ...]
    hours: str
    days: str
    back: str
    reads_only: bool


def visits_view(job) -> VisitsView:
    """Every visit, newest first."""
    visits = list(job.visits.prefetch_related("remarks"))
    remarks = [r for v in visits for r in v.remarks.all()]
    return VisitsView(
        tuple(_line(v) for v in visits),
        f"{sum(r.hours or 0 for r in remarks):g}",
        f"{sum(r.days or 0 for r in remarks):g}",
        tuple(r.text for r in remarks if r.later and r.mended is None),
    )


def open_remarks(job) -> list[Remark]:
    """What the office still asks: neither mended nor disputed."""
    return list(Remark.objects.filter(visit__job=job, mended=None, disputed=""))


def _line(v: Visit) -> VisitLine:
    remarks = list(v.remarks.all())
    hours = sum(r.hours or 0 for r in remarks)
    return VisitLine(v.pk, KINDS.get(v.kind, v.kind), v.day, v.result or "no result yet",
                     sum(r.mended is None and not r.disputed for r in remarks),
                     f"{hours:g} h" if hours else "")  # fmt: skip


@require_POST
def begin_visit(request, pk: int):
    """A visit is entered."""
    job = job_of(request, pk)
    kind = request.POST.get("kind", "")
    try:
        day = parse_date(request.POST.get("day", "")[:10])
        if kind not in KINDS or day is None or not 2000 <= day.year <= 2100:
            raise BadInput("Say which visit it is, and its day: 2026-11-30.")
        if job.visits.count() >= MOST_VISITS:
            raise BadInput(f"A job keeps at most {MOST_VISITS} visits.")
    except (BadInput, ValueError) as error:
        sentence = error.sentence if isinstance(error, BadInput) else "That is no date."
        messages.error(request, sentence)
        return redirect(address_of(job, "plan", {"show": "visits"}).here)
    made = Visit.objects.create(
        job=job, kind=kind, day=day, by=request.user,
        inspector=" ".join(request.POST.get("inspector", "").split())[:80],
    )  # fmt: skip
    return redirect("visit", pk=job.pk, number=made.pk)


@require_safe
def visit(request, pk: int, number: int):
    """Before, during and after a visit."""
    job = job_of(request, pk)
    found = get_object_or_404(Visit, job=job, pk=number)
    latest = job.latest
    site = latest.site
    solved = solve(site, latest.document)
    stand = [f for f in standing(solved, latest.aside) if f.level in GRAVE]
    by_key = {f.key: f for f in stand}
    names = {i: name_of(e) for i, e in site.elements().items()}
    remarks = tuple(
        RemarkView(r, names.get(r.place, ""), Remark.RESTS.get(r.rests_on, r.rests_on),
                   r.finding, by_key[r.finding].found if r.finding in by_key else "")
        for r in found.remarks.all()
    )  # fmt: skip
    linked = {r.finding for r in found.remarks.all()}
    page = VisitPage(
        job=job, visit=found, kind=KINDS.get(found.kind, found.kind),
        checks=_checks(job, site, solved, stand, found), said_before=_said_before(site),
        remarks=remarks,
        places=tuple((i, n) for i, n in names.items() if i != "practice"),
        findings=tuple((f.key, f"{f.place_name}: {f.found}"[:90]) for f in stand),
        rests=tuple(Remark.RESTS.items()), carried=_carried(job, found),
        missed=tuple(f"{f.place_name}: {f.found}" for f in stand if f.key not in linked)
        if found.result == "passed" else (),
        hours=f"{sum(r.hours or 0 for r in found.remarks.all()):g}",
        days=f"{sum(r.days or 0 for r in found.remarks.all()):g}",
        back=address_of(job, "plan", {"show": "visits"}).here,
        reads_only=request.job_role == Role.READER,
    )  # fmt: skip
    return show(request, "planning/visit.html", page, site=site)


def _checks(job, site, solved, stand, found: Visit) -> tuple[tuple[str, bool], ...]:
    """The own check before somebody comes: what is ready, what is not."""
    filled = {p.slot for p in job.photos.exclude(slot="")}
    filled |= {n.slot for n in job.slot_notes.all()}
    slots = [s for s in slots_of(site) if found.kind == "final" or s.when != "at the end"]
    unseen = sum(s.key not in filled for s in slots)
    open_before = Remark.objects.filter(visit__job=job, mended=None, disputed="").exclude(
        visit=found
    ).count()  # fmt: skip
    checks = [
        (f"{unseen} of {len(slots)} slots before cover are empty" if unseen
         else "everything to be covered is kept", not unseen),
        (f"{len(stand)} findings of danger or fix stand" if stand
         else "no finding of danger or fix stands", not stand),
        (f"{open_before} remarks of earlier visits are open" if open_before
         else "no earlier remark is open", not open_before),
    ]  # fmt: skip
    if found.kind == "final":
        read = set(
            job.readings.filter(kind="loop", simulated=False).values_list("place", flat=True)
        )
        missing = sum(c.id not in read for c in site.circuits)
        checks.append((f"{missing} circuits have no loop reading" if missing
                       else "every loop is read", not missing))  # fmt: skip
    return tuple(checks)


def _said_before(site) -> tuple[str, ...]:
    """What this office has asked before, as the job's local practice has it. What it said at other
    customers' is theirs."""
    return tuple(dict.fromkeys(r.text for r in site.practice.requirements))


def _carried(job, found: Visit) -> tuple[str, ...]:
    """Remarks of the rough-in that were left for the final."""
    if found.kind != "final":
        return ()
    return tuple(
        r.text for r in Remark.objects.filter(visit__job=job, later=True, mended=None)
    )  # fmt: skip


@require_POST
def visit_form(request, pk: int, number: int):
    """The result; a remark; what became of one."""
    job = job_of(request, pk)
    found = get_object_or_404(Visit, job=job, pk=number)
    try:
        _do(request, job, found)
    except BadInput as error:
        messages.error(request, error.sentence)
    return redirect("visit", pk=job.pk, number=found.pk)


def _do(request, job, found: Visit) -> None:
    do = request.POST.get("do", "")
    if do in ("passed", "failed"):
        if do == "passed" and found.remarks.filter(mended=None, disputed="", later=False).exists():
            raise BadInput("Remarks are still open: mend, dispute or carry them first.")
        found.result = do
        found.save(update_fields=["result"])
        return
    if do == "remark":
        _remark(request, job, found)
        return
    number = request.POST.get("n", "")[:12]
    row = found.remarks.filter(pk=number if number.isdecimal() else 0).first()
    if row is None:
        raise BadInput("That remark was taken away meanwhile.")
    if do == "mended":
        _mended(request, row)
    elif do == "dispute":
        row.disputed = " ".join(request.POST.get("text", "").split())[:300]
        if not row.disputed:
            raise BadInput("Write the text that you would show: section, page, whose.")
        row.save(update_fields=["disputed"])
    elif do == "later":
        row.later = True
        row.save(update_fields=["later"])
    elif do == "practice":
        _into_practice(request, job, row)
    elif do == "drop":
        row.delete()
    else:
        raise BadInput("The page is out of date: load it again.")


def _remark(request, job, found: Visit) -> None:
    post = request.POST
    text = " ".join(post.get("text", "").split())[:300]
    if not text:
        raise BadInput("Type what was said.")
    if found.remarks.count() >= MOST_REMARKS:
        raise BadInput(f"A visit keeps at most {MOST_REMARKS} remarks.")
    rests = post.get("rests_on", "")
    if rests not in Remark.RESTS:
        raise BadInput("Say what it rests on: a rule, a local requirement, a manufacturer.")
    place = post.get("place", "")[:20]
    if place and place not in job.latest.site.elements():
        raise BadInput("That place was removed meanwhile.")
    Remark.objects.create(
        visit=found, text=text, rests_on=rests, place=place,
        where=" ".join(post.get("where", "").split())[:120], finding=post.get("finding", "")[:60],
    )  # fmt: skip


def _mended(request, row: Remark) -> None:
    hours = _number(request.POST.get("hours", ""), "Hours", 1000)
    days = _number(request.POST.get("days", ""), "Days", 1000)
    row.hours, row.days = hours, days
    row.parts = " ".join(request.POST.get("parts", "").split())[:200]
    if upload := request.FILES.get("photo"):
        kept = keep_image(upload.read())
        row.photo = Photo.objects.create(
            job=row.visit.job, sha256=kept.sha256, width=kept.width, height=kept.height,
            taken=kept.taken, remark=row.text[:200], who=request.user,
        )  # fmt: skip
    row.reading = row.visit.job.readings.filter(place=row.place).first() if row.place else None
    row.mended, row.mended_by = timezone.now(), request.user
    row.save()


def _number(text: str, label: str, most: float) -> float | None:
    typed = text.strip()[:12].replace(",", ".")
    if not typed:
        return None
    try:
        value = float(typed)
    except ValueError:
        raise BadInput(f"{label}: “{typed}” is no number.") from None
    return number_in(value, label, 0, most)


def _into_practice(request, job, row: Remark) -> None:
    """What the office asked becomes local practice: of this job, and of jobs that copy it."""
    site = job.latest.site
    said = row.visit.inspector or row.where or "the office"
    if any(r.text == row.text[:200] for r in site.practice.requirements):
        raise BadInput("That stands in the local practice already.")
    edit = Require(text=row.text[:200], who=said[:80], when=f"{row.visit.day:%Y-%m-%d}")
    revisions.save_edits(job, request.user, job.latest.number, (edit,), "")
    messages.info(request, "It stands in the local practice now.")
