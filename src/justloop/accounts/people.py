"""The firm's people, kept by its administrators: invited, helped, let go."""

from dataclasses import dataclass
from typing import Any

from django.contrib import messages
from django.contrib.auth import get_user_model
from django.core.exceptions import PermissionDenied
from django.core.paginator import Paginator
from django.db import transaction
from django.shortcuts import redirect
from django.views.decorators.http import require_http_methods, require_safe

from ..jobs.models import Job
from ..pages import show
from . import audit, guests, links, seats, second
from .models import Act, Entry, Link

A_PAGE = 100


def administrators_only(request) -> None:
    """PermissionDenied for anybody who is not an administrator of the firm."""
    if not request.user.is_staff:
        raise PermissionDenied


class _Person:
    """One row of the page."""

    def __init__(self, user):
        self.user = user
        self.second = second.is_on(user)
        self.guest = guests.is_guest(user)
        self.jobs = user.jobs_owned.count()


@dataclass(frozen=True)
class PeoplePage:
    """Everybody here."""

    people: list
    open: int
    handed: str
    error: str


@require_http_methods(["GET", "HEAD", "POST"])
def people(request):
    """Everybody here, and what an administrator may do for them."""
    administrators_only(request)
    handed = ""
    error = ""
    if request.method == "POST":
        handed, error = _do(request)
        if not handed and not error:
            return redirect("people")
    everybody = get_user_model().objects.order_by("-is_active", "username")
    shown = PeoplePage(
        people=[_Person(p) for p in everybody],
        open=Link.objects.filter(used_at=None, use=Link.Use.JOIN).count(),
        handed=handed,
        error=error,
    )
    return show(request, "accounts/people.html", shown)


def _do(request) -> tuple[str, str]:
    """(a link to hand over or "", the sentence why not or "")."""
    do = request.POST.get("do", "")
    if do == "invite":
        note = " ".join(request.POST.get("note", "").split())[:80]
        link, secret = Link.hand_out(request.user, Link.Use.JOIN, note=note)
        audit.note(request, Act.ACCOUNT, "an invitation")
        return links.address(request, link, secret), ""
    pk = request.POST.get("person", "")
    person = get_user_model().objects.filter(pk=int(pk)).first() if _is_number(pk) else None
    if person is None:
        return "", "That person is not here any more: load the page again."
    if do == "password":
        link, secret = Link.hand_out(request.user, Link.Use.PASSWORD, person=person)
        audit.note(request, Act.ACCOUNT, f"a new-password link for {person}")
        return links.address(request, link, secret), ""
    if do == "forget-second":
        second.forget(person)
        audit.note(request, Act.ACCOUNT, f"second factor of {person} taken away")
        messages.info(request, f"{person} signs in with the password alone until set up again.")
        return "", ""
    if do == "take-in":
        guests.take_in(person)
        audit.note(request, Act.ACCOUNT, f"{person}: no guest any more")
        return "", ""
    if person == request.user:
        return "", "Another administrator does that for you: the firm is never left without one."
    if do in ("admit", "let-go"):
        person.is_active = do == "admit"
        person.save(update_fields=["is_active"])
        ended = seats.end(person) if do == "let-go" else 0
        audit.note(request, Act.ACCOUNT, f"{person} {'admitted' if person.is_active else 'let go'}")
        over = f" Their {ended} sessions are over." if ended else ""
        messages.info(
            request,
            f"{person} can sign in again." if person.is_active
            else f"{person} can no longer sign in.{over} Their jobs stay: hand them over below.",
        )  # fmt: skip
        return "", ""
    if do in ("administrator", "no-administrator"):
        person.is_staff = do == "administrator"
        person.save(update_fields=["is_staff"])
        audit.note(request, Act.ACCOUNT, f"{person}: {do.replace('-', ' ')}")
        return "", ""
    if do == "take-jobs":
        return "", _take_jobs(request, person)
    return "", "The page is out of date: load it again."


def _take_jobs(request, person) -> str:
    """Everything that somebody who was let go owns goes to another; "" where it did."""
    if person.is_active:
        return f"{person} still works here and hands their jobs over themselves, on the Crew page."
    name = request.POST.get("to", "").strip()[:150]
    to = get_user_model().objects.filter(username=name, is_active=True).first()
    if to is None:
        return f"Nobody here is called “{name}”."
    with transaction.atomic():
        jobs = list(Job.objects.filter(owner=person))
        for job in jobs:
            job.crew.remove(to)
            job.readers.remove(to)
        Job.objects.filter(owner=person).update(owner=to)
    audit.note(request, Act.SHARE, f"{len(jobs)} jobs of {person} to {to}")
    messages.info(request, f"{len(jobs)} jobs of {person} are {to}’s now.")
    return ""


def _is_number(text: str) -> bool:
    return text.isdecimal() and len(text) < 10


@require_safe
def log(request):
    """The whole audit log."""
    administrators_only(request)
    return _log_page(request, Entry.objects.all(), None)


@require_safe
def job_log(request, pk: int):
    """What the log has of one job: its owner alone, wherever the job lies."""
    from ..jobs.access import owned_job_of

    job = owned_job_of(request, pk)
    return _log_page(request, Entry.objects.filter(job=job), job)


@dataclass(frozen=True)
class LogPage:
    """A page of the log, of one job or of all."""

    page: Any
    job: Any


def _log_page(request, entries, job):
    pages = Paginator(entries, A_PAGE)
    page = pages.get_page(request.GET.get("page", "")[:6])
    return show(request, "accounts/log.html", LogPage(page=page, job=job))
