"""Putting a job away and taking it up again; a job copied as the start of another."""

from django.contrib import messages
from django.db import transaction
from django.http import Http404
from django.shortcuts import redirect
from django.utils import timezone
from django.views.decorators.http import require_POST

from returnpath.errors import BadInput

from ..accounts import audit
from ..accounts.guests import not_for_guests
from ..accounts.models import Act
from ..address import job_address
from ..solved import solve
from . import locks, revisions
from .access import owned_job_of, read_job_of
from .models import BIN_DAYS, Job

SAID = {
    Job.Shelf.AT_HAND: "{} is among the jobs again.",
    Job.Shelf.ARCHIVE: "{} is in the archive; it can still be opened and found there.",
    Job.Shelf.BIN: f"{{}} is in the bin. It can be put back for {BIN_DAYS} days.",
}
SAID_SHORT = {
    Job.Shelf.AT_HAND: "taken up again",
    Job.Shelf.ARCHIVE: "into the archive",
    Job.Shelf.BIN: "into the bin",
}


@require_POST
def put_away(request, pk: int):
    """Archive, bin, or take up again; its owner alone."""
    job = owned_job_of(request, pk)
    shelf = request.POST.get("shelf", "?")
    if shelf not in Job.Shelf.values:
        raise Http404
    try:
        with transaction.atomic():
            if shelf:
                locks.forbids(job, "put away")
            job.shelf = shelf
            job.shelved_at = timezone.now() if shelf else None
            job.save(update_fields=["shelf", "shelved_at"])
    except BadInput as error:
        messages.error(request, error.sentence)
        return redirect("jobs")
    act = Act.RESTORE if shelf == Job.Shelf.AT_HAND else Act.DELETE
    audit.note(request, act, SAID_SHORT[Job.Shelf(shelf)], job=job)
    messages.info(request, SAID[Job.Shelf(shelf)].format(job.name))
    return redirect("jobs")


@require_POST
def copy(request, pk: int):
    """A new job of this person's with the same content as this one has now."""
    not_for_guests(request)
    job = read_job_of(request, pk)
    latest = job.latest
    site = latest.site
    solve(site, latest.document)  # before the write lock
    with transaction.atomic():
        made = Job.objects.create(name=f"Copy of {job.name}"[:80], owner=request.user)
        revisions.start(
            made, site, request.user, f"Copied from {job.name}, revision {latest.number}"
        )
    return redirect(job_address(made, stage="survey"))
