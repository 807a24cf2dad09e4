"""A job whose newest revision cannot be read: the last one that can, and the way on from it."""

from dataclasses import dataclass

from django.utils import timezone

from returnpath.errors import BadInput

from ..solved import solve
from .models import Job, Revision

MOST_TRIED = 40


@dataclass(frozen=True)
class Readable:
    """The newest revision of a job, why it cannot be read, and the last that can."""

    job: Job
    newest: Revision
    why: str
    last: Revision | None

    @property
    def is_newest_unreadable(self) -> bool:
        """Whether it is this job's content that is at fault."""
        return bool(self.why)

    @property
    def sentence(self) -> str:
        """What is the matter, and what can be done."""
        said = f"Revision {self.newest.number} of {self.job.name} cannot be read: {self.why}"
        if self.last is None:
            return f"{said} No earlier one can be read either."
        at = timezone.localtime(self.last.at)
        return f"{said} The last that can is revision {self.last.number} of {at:%d %b %H:%M}."


def why_unreadable(revision: Revision) -> str:
    """The sentence that says why it cannot be read or solved; "" where it can."""
    try:
        solve(revision.site, revision.document)
    except BadInput as error:
        return error.sentence
    return ""


def of(user, pk: int) -> Readable | None:
    """What of a job can be read; None where this person may not see it."""
    job = Job.objects.seen_by(user).filter(pk=pk).first()
    newest = job.latest if job else None
    if newest is None:
        return None
    why = why_unreadable(newest)
    earlier = job.revisions.filter(number__lt=newest.number).order_by("-number")[:MOST_TRIED]
    last = next((r for r in earlier if not why_unreadable(r)), None) if why else newest
    return Readable(job, newest, why, last)
