"""Who may do what in a job: its owner, its editors, its readers."""

from django.shortcuts import get_object_or_404

from .models import Job, Role

SAFE = ("GET", "HEAD", "OPTIONS")


class OnlyRead(Exception):
    """A reader tried to change a job."""

    sentence = (
        "Not saved: you read this job and do not change it. Its owner can make you an editor, on"
        " the Crew page."
    )


def read_job_of(request, pk: int) -> Job:
    """The job, if this person may see it; 404 otherwise, so that its existence is not told.

    The role is kept with the request: pages show it.
    """
    job = get_object_or_404(Job.objects.seen_by(request.user), pk=pk)
    request.job_role = job.role_of(request.user)
    return job


def job_of(request, pk: int) -> Job:
    """The same; OnlyRead where a reader sends a form."""
    job = read_job_of(request, pk)
    if request.method not in SAFE and request.job_role == Role.READER:
        raise OnlyRead
    return job


def owned_job_of(request, pk: int) -> Job:
    """The job, if this person owns it, wherever it lies; 404 otherwise."""
    job = get_object_or_404(Job, owner=request.user, pk=pk)
    request.job_role = Role.OWNER
    return job
