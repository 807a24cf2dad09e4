"""The list of jobs, and a new job."""

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from django.core.paginator import Paginator
from django.db import transaction
from django.db.models import Q
from django.http import Http404
from django.shortcuts import redirect
from django.views.decorators.http import require_http_methods, require_safe

from ..accounts.guests import is_guest, not_for_guests
from ..address import job_address
from ..pages import show
from ..solved import solve
from . import revisions
from .models import BIN_DAYS, Job
from .newjob import NewJob

A_PAGE = 40


@dataclass(frozen=True)
class JobRow:
    """A job of the list."""

    job: Job
    href: str
    fixes: str
    level: str
    worst: str
    next: str
    saved_at: datetime | None
    proven: str
    all_proven: bool
    shared: bool
    gone_on: datetime | None


@dataclass(frozen=True)
class JobListPage:
    """The jobs of one shelf."""

    rows: list
    search: str
    total: int
    page: Any
    shelf: str
    archived: int
    binned: int
    bin_days: int
    guest: bool


@require_safe
def job_list(request):
    """Work waiting: this person's jobs, worst first."""
    search = request.GET.get("q", "").strip()[:80]
    shelf = request.GET.get("shelf", "")
    if shelf not in Job.Shelf.values:
        raise Http404
    mine = Job.objects.seen_by(request.user)
    binned = Job.objects.binned_by(request.user)
    seen = binned if shelf == Job.Shelf.BIN else mine.filter(shelf=shelf)
    total = seen.count() if search else None
    if search:
        seen = seen.filter(Q(name__icontains=search) | Q(place__icontains=search))
    pages = Paginator(seen.order_by("rank", "-changed").values_list("pk", flat=True), A_PAGE)
    page = pages.get_page(request.GET.get("page", "")[:6])
    # The summary is read of the jobs on this page alone.
    shown = Job.objects.filter(pk__in=list(page)).with_summary().select_related("owner")
    rows = [_row(job, request.user) for job in shown.order_by("rank", "-changed")]
    shown = JobListPage(
        rows=rows,
        search=search,
        total=pages.count if total is None else total,
        page=page,
        shelf=shelf,
        archived=mine.filter(shelf=Job.Shelf.ARCHIVE).count(),
        binned=binned.count(),
        bin_days=BIN_DAYS,
        guest=is_guest(request.user),
    )
    return show(request, "jobs/list.html", shown)


def _row(job: Job, user) -> JobRow:
    summary = job.summary or {}
    circuits, proven = summary.get("circuits", 0), summary.get("proven", 0)
    return JobRow(
        job=job,
        href=job_address(job),
        fixes=job_address(job, stage="fix"),
        level=summary.get("level", ""),
        worst=summary.get("worst", ""),
        next=summary.get("next", ""),
        saved_at=job.saved_at,
        proven=f"{proven} of {circuits} circuits proven" if circuits else "no circuit yet",
        all_proven=bool(circuits) and circuits == proven,
        shared=job.owner_id != user.pk,
        gone_on=job.shelved_at + timedelta(days=BIN_DAYS) if job.shelved_at else None,
    )


@dataclass(frozen=True)
class NewJobPage:
    """The form that starts a job."""

    form: Any
    groups: Any
    example: str


@require_http_methods(["GET", "HEAD", "POST"])
def new_job(request):
    """One short page; refused input keeps everything that was typed."""
    not_for_guests(request)
    rules = request.GET.get("rules", "")
    form = NewJob(request.POST if request.method == "POST" else None, rules)
    if request.method == "POST" and form.is_valid():
        solve(form.site)  # before the write lock
        with transaction.atomic():
            job = Job.objects.create(
                name=form.text("name"), place=form.text("place"), owner=request.user
            )
            revisions.start(job, form.site, request.user, "Described the service")
        return redirect(job_address(job))
    page = NewJobPage(form=form, groups=form.groups(), example=form.example)
    return show(request, "jobs/new.html", page, site=form.start)
