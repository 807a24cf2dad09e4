"""The job sheet: one circuit's loop on paper, with the same drawings as the screen."""

from django.conf import settings
from django.http import Http404, HttpResponse
from django.template.loader import render_to_string
from django.utils.safestring import mark_safe
from django.views.decorators.http import require_safe

from returnpath.panels import face_of

from ..accounts import audit
from ..accounts.models import Act
from ..drawing import palette
from ..drawing.chart import chart_scene
from ..drawing.face import face_scene
from ..drawing.map import MapView, map_scene, worst_of
from ..drawing.marks import verdict_svg
from ..firm.models import Firm
from ..jobs.access import job_of
from ..trouble import answer
from ..workspace import present
from ..workspace.address import Address
from ..workspace.solved import solve
from . import printing

STATIC = settings.PACKAGE / "static"


@require_safe
def sheet(request, pk: int):
    """The sheet as PDF."""
    job = job_of(request, pk)
    revision = job.latest
    solved = solve(revision.site, revision.document)
    address = Address(job.pk, "service", at=request.GET.get("loop", "")[:20])
    context = present.workspace(job, revision, solved, address)
    loop = context["loop"]
    href = dict.fromkeys([*solved.site.elements(), "prove"], "")
    view = MapView(solved.study, loop, href, worst=worst_of(solved.findings, solved.site))
    # Scene escapes every text it is given.
    context["map"] = mark_safe(map_scene(view).svg(paper=True, links=False))  # noqa: S308
    if loop is not None:
        context["verdict_mark"] = mark_safe(verdict_svg(loop.verdict, 40, paper=True))  # noqa: S308
        if loop.device is not None and loop.lowest_a is not None:
            context["chart"] = mark_safe(chart_scene(loop).svg(paper=True))  # noqa: S308
    return _paper(request, job, "reports/sheet.html", context, "job sheet", "")


@require_safe
def door_card(request, pk: int, panel: str):
    """A panel's directory for its door: the face with clear names, when and by whom."""
    job = job_of(request, pk)
    revision = job.latest
    site = revision.site
    if panel not in {p.id for p in site.panels}:
        raise Http404
    face = face_of(site, panel)
    feeds = [f for f in site.feeders if f.to == panel]
    solved = solve(site, revision.document)
    href = dict.fromkeys((u.id for u in (*face.units, *face.unplaced)), "")
    available = solved.study.available.get(panel)
    context = {
        "job": job,
        "panel": face.panel,
        "fed_from": ", ".join(_name(site, f.source) for f in feeds),
        "available": f"{available:,.0f} A" if available else "",
        "unplaced": face.unplaced,
        "revision": revision,
        # Scene escapes every text it is given.
        "face": mark_safe(face_scene(face, href, {}).svg(paper=True, links=False)),  # noqa: S308
    }
    noted = f"door card of {face.panel.name or panel}"
    return _paper(request, job, "reports/card.html", context, noted, f"-{panel}-door")


def _paper(request, job, template: str, context: dict, noted: str, ending: str):
    """A template as PDF with the firm's line on it; in the log as ``noted``."""
    paper = {"colours": palette.PRINT, "static": STATIC.as_uri(), "firm": Firm.ours()}
    html = render_to_string(template, context | paper, request)
    try:
        made = printing.pdf(html[:], STATIC.as_uri())  # plain text: no Django there
    except printing.Busy as busy:
        return answer(request, str(busy), 503)
    audit.note(request, Act.EXPORT, noted, job=job)
    response = HttpResponse(made, content_type="application/pdf")
    response["Content-Disposition"] = f'inline; filename="just-loop-{job.pk}{ending}.pdf"'
    return response


def _name(site, panel: str) -> str:
    return next((p.name or "panel" for p in site.panels if p.id == panel), "panel")
