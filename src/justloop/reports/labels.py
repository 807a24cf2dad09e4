"""The labels of an array on paper and as a drawing, at their own size."""

from dataclasses import dataclass

from django.http import HttpResponse
from django.shortcuts import redirect
from django.utils.safestring import mark_safe
from django.views.decorators.http import require_safe

from returnpath import solar
from returnpath.rules.checks.array import edition_of
from returnpath.site import name_of
from returnpath.site.speech import rule_set_of
from returnpath.words import RuleSet

from ..accounts import audit
from ..accounts.models import Act
from ..address import job_address
from ..drawing.labels import labels_scene
from ..firm.models import Firm
from ..jobs.access import job_of
from ..jobs.models import Job
from ..solved import solve
from .views import paper


@dataclass
class LabelsPaper:
    """The labels of one array on paper."""

    job: Job
    name: str
    sheets: list[str]
    cut: tuple[tuple[str, int], ...]
    edition: int
    colours: object = None
    static: str = ""
    firm: Firm | None = None


class NoArray(Exception):
    """There is no such array (any more): back to the stage."""

    def __init__(self, job):
        super().__init__()
        self.address = job_address(job, stage="array" if job.latest.site.arrays else "survey")


def _counted(request, pk: int, array: str):
    """(the job, the array, its labels, its edition); NoArray for an unknown one."""
    job = job_of(request, pk)
    solved = solve(job.latest.site, job.latest.document)
    found = next((a for a in solved.study.assumed.site.arrays if a.id == array), None)
    if found is None or rule_set_of(job.latest.site) is RuleSet.METRIC:
        raise NoArray(job)  # the labels are the United States' own
    edition = edition_of(found, solved.evidence)
    return job, found, solar.labels_of(found, edition), edition


@require_safe
def labels_pdf(request, pk: int, array: str):
    """Every label as often as it is needed, to cut out."""
    try:
        job, found, counts, edition = _counted(request, pk, array)
    except NoArray as none:
        return redirect(none.address)
    # Scene escapes every text it is given.
    sheets = [
        mark_safe(s.svg(paper=True, links=False))  # noqa: S308
        for s in labels_scene(counts)
    ]
    page = LabelsPaper(job, name_of(found), sheets, solar.cut_list(counts), edition)
    return paper(request, job, "reports/labels.html", page, "labels", f"-{array}-labels")


@require_safe
def labels_svg(request, pk: int, array: str):
    """One of each label as a drawing, for a cutter or an engraver."""
    try:
        job, _, counts, _ = _counted(request, pk, array)
    except NoArray as none:
        return redirect(none.address)
    audit.note(request, Act.EXPORT, "labels, SVG", job=job)
    (scene, *_) = labels_scene(counts, one_of_each=True)
    drawn = scene.svg(paper=True, links=False)
    response = HttpResponse(drawn, content_type="image/svg+xml")
    response["Content-Disposition"] = f'inline; filename="just-loop-{job.pk}-{array}-labels.svg"'
    return response
