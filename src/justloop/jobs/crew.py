"""Who works on a job, and as what; only its owner changes that."""

from dataclasses import dataclass
from typing import Any

from django.contrib import messages
from django.contrib.auth import get_user_model
from django.db import transaction
from django.http import Http404
from django.shortcuts import redirect
from django.views.decorators.http import require_http_methods

from returnpath.errors import BadInput

from ..accounts import audit, links
from ..accounts.models import Act, Link
from ..address import job_address
from ..pages import show
from . import locks
from .access import job_of
from .models import Job, Role

MOST_LINKS = 20  # invitations of one job that nobody has used yet


@dataclass(frozen=True)
class CrewPage:
    """Who works on a job, who reads it, and a link to hand over."""

    job: Job
    editors: Any
    readers: Any
    is_owner: bool
    role: Role
    error: str
    handed: str
    typed: str
    back: str


@require_http_methods(["GET", "HEAD", "POST"])
def crew(request, pk: int):
    """The page: owner, editors, readers, and a link for somebody who has no account yet."""
    job = job_of(request, pk)
    error, handed = "", ""
    if request.method == "POST":
        if request.job_role != Role.OWNER:
            raise Http404
        if request.POST.get("do") == "invite":
            handed, error = _invite(request, job)
        else:
            error = _change(request, job)
            if not error:
                return redirect("crew", pk=pk)
    shown = CrewPage(
        job=job,
        editors=job.crew.order_by("username"),
        readers=job.readers.order_by("username"),
        is_owner=request.job_role == Role.OWNER,
        role=request.job_role,
        error=error,
        handed=handed,
        typed=request.POST.get("name", ""),
        back=job_address(job),
    )
    return show(request, "jobs/crew.html", shown)


def _invite(request, job: Job) -> tuple[str, str]:
    """(the link to hand over, ""), or ("", why not). Who joins by it only reads: an editor has an
    account that the firm's administrator gave."""
    open_ones = Link.objects.filter(job=job, used_at=None).count()
    if open_ones >= MOST_LINKS:
        return "", f"{open_ones} links of this job wait to be used: hand those over first."
    link, secret = Link.hand_out(
        request.user, Link.Use.JOIN, job=job, role=Role.READER, note=f"reads {job.name}"[:80]
    )
    audit.note(request, Act.SHARE, "a link for a new reader", job=job)
    return links.address(request, link, secret), ""


def _change(request, job: Job) -> str:
    """Add, change, remove or hand over by name; the sentence to show when that cannot be done."""
    name = request.POST.get("name", "").strip()[:150]
    person = get_user_model().objects.filter(username=name, is_active=True).first()
    if person is None:
        return f"Nobody here is called “{name}”. Ask them for their sign-in name."
    do = request.POST.get("do", "")
    if do in ("remove", Role.READER):
        try:
            locks.forbids_leaving(job, person)
        except BadInput as error:
            return error.sentence
    if do == "remove":
        job.crew.remove(person)
        job.readers.remove(person)
        told = f"{person} no longer works on this job."
    elif do == "hand over":
        if not job.crew.filter(pk=person.pk).exists():
            return "Only somebody who edits the job can take it over."
        with transaction.atomic():
            job.crew.add(job.owner)
            job.crew.remove(person)
            job.owner = person
            job.save(update_fields=["owner"])
        told = f"{person} owns this job now; you edit it."
    elif person == job.owner:
        return "The owner is on the job already."
    elif do == Role.READER:
        with transaction.atomic():
            job.crew.remove(person)
            job.readers.add(person)
        told = f"{person} can now read this job."
    else:
        with transaction.atomic():
            job.readers.remove(person)
            job.crew.add(person)
        told = f"{person} can now see and change this job."
    audit.note(request, Act.SHARE, told, job=job)
    messages.info(request, told)
    return ""
