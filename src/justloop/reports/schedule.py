"""The schedule of tests on paper."""

from django.views.decorators.http import require_safe

from ..jobs.access import job_of
from ..log.keeping import reads_of
from ..solved import solve
from ..workspace.schedule import SchedulePage, boards_of, origin_of
from .views import paper


@require_safe
def schedule_pdf(request, pk: int):
    """What every test should read and what it read, as PDF."""
    job = job_of(request, pk)
    latest = job.latest
    solved, read = solve(latest.site, latest.document), reads_of(job)
    boards, origin = boards_of(solved, read), origin_of(solved, read)
    page = SchedulePage(job, boards, origin, "", solved.site, latest)
    return paper(request, job, "reports/schedule.html", page, "schedule of tests", "-schedule")
