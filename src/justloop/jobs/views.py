"""The list of jobs, a new job, and who works on one."""

from datetime import timedelta

from django.contrib import messages
from django.contrib.auth import get_user_model
from django.core.paginator import Paginator
from django.db import transaction
from django.db.models import Q
from django.http import Http404
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_http_methods, require_safe

from ..workspace import present
from ..workspace.solved import solve
from . import revisions
from .models import BIN_DAYS, Job
from .newjob import EXAMPLE, NewJob

A_PAGE = 40


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
    context = {
        "rows": rows,
        "search": search,
        "total": pages.count if total is None else total,
        "page": page,
        "shelf": shelf,
        "archived": mine.filter(shelf=Job.Shelf.ARCHIVE).count(),
        "binned": binned.count(),
        "bin_days": BIN_DAYS,
    }
    return render(request, "jobs/list.html", context)


def _row(job: Job, user) -> dict:
    summary = job.summary or {}
    circuits, proven = summary.get("circuits", 0), summary.get("proven", 0)
    return {
        "job": job,
        "href": present.job_address(job),
        "fixes": present.job_address(job, stage="fix"),
        "level": summary.get("level", ""),
        "worst": summary.get("worst", ""),
        "next": summary.get("next", ""),
        "saved_at": job.saved_at,
        "proven": f"{proven} of {circuits} circuits proven" if circuits else "no circuit yet",
        "all_proven": bool(circuits) and circuits == proven,
        "shared": job.owner_id != user.pk,
        "gone_on": job.shelved_at + timedelta(days=BIN_DAYS) if job.shelved_at else None,
    }


@require_http_methods(["GET", "HEAD", "POST"])
def new_job(request):
    """One short page; refused input keeps everything that was typed."""
    form = NewJob(request.POST if request.method == "POST" else None)
    if request.method == "POST" and form.is_valid():
        solve(form.site)  # before the write lock
        with transaction.atomic():
            job = Job.objects.create(
                name=form.text("name"), place=form.text("place"), owner=request.user
            )
            revisions.start(job, form.site, request.user, "Described the service")
        return redirect(present.job_address(job))
    return render(
        request, "jobs/new.html", {"form": form, "groups": form.groups(), "example": EXAMPLE}
    )


@require_http_methods(["GET", "HEAD", "POST"])
def crew(request, pk: int):
    """Who works on a job; only its owner changes that."""
    job = get_object_or_404(Job.objects.seen_by(request.user), pk=pk)
    error = ""
    if request.method == "POST":
        if job.owner_id != request.user.pk:
            raise Http404
        error = _change_crew(request, job)
        if not error:
            return redirect("crew", pk=pk)
    context = {
        "job": job,
        "crew": job.crew.order_by("username"),
        "is_owner": job.owner_id == request.user.pk,
        "error": error,
        "typed": request.POST.get("name", ""),
        "back": present.job_address(job),
    }
    return render(request, "jobs/crew.html", context)


def _change_crew(request, job: Job) -> str:
    """Add or remove by name; the sentence to show when that cannot be done."""
    name = request.POST.get("name", "").strip()[:150]
    person = get_user_model().objects.filter(username=name, is_active=True).first()
    if person is None:
        return f"Nobody here is called “{name}”. Ask them for their sign-in name."
    if request.POST.get("do") == "remove":
        job.crew.remove(person)
        messages.info(request, f"{person} no longer works on this job.")
    elif request.POST.get("do") == "hand over":
        if not job.crew.filter(pk=person.pk).exists():
            return "Only somebody on the crew can take the job over."
        with transaction.atomic():
            job.crew.add(job.owner)
            job.crew.remove(person)
            job.owner = person
            job.save(update_fields=["owner"])
        messages.info(request, f"{person} owns this job now; you are on its crew.")
    elif person == job.owner:
        return "The owner is on the job already."
    else:
        job.crew.add(person)
        messages.info(request, f"{person} can now see and change this job.")
    return ""
