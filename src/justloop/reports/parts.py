"""The list of parts on paper, in the order of the firm's aisles, with boxes to tick."""

from dataclasses import dataclass
from typing import Any

from django.views.decorators.http import require_safe

from ..jobs.access import job_of
from ..planning.money import PartsView, parts_view
from ..solved import solve
from .views import paper


@dataclass
class PartsPage:
    """The list."""

    job: Any
    revision: Any
    parts: PartsView
    colours: Any = None
    static: str = ""
    firm: Any = None


@require_safe
def parts_pdf(request, pk: int):
    """The list as PDF."""
    job = job_of(request, pk)
    latest = job.latest
    view = parts_view(solve(latest.site, latest.document), latest.aside, request.user)
    page = PartsPage(job, latest, view)
    return paper(request, job, "reports/parts.html", page, "parts on paper", "-parts")
