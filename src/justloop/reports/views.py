"""The job sheet: one circuit's loop on paper, with the same drawings as the screen."""

from functools import cache

from django.conf import settings
from django.http import HttpResponse
from django.template.loader import render_to_string
from django.utils.safestring import mark_safe
from django.views.decorators.http import require_safe

from ..drawing import palette
from ..drawing.chart import chart_scene
from ..drawing.map import MapView, map_scene, worst_of
from ..drawing.marks import verdict_svg
from ..workspace import present
from ..workspace.address import Address
from ..workspace.solved import solve
from ..workspace.views import job_of

STATIC = settings.PACKAGE / "static"


@cache
def _fonts():
    from weasyprint.text.fonts import FontConfiguration

    return FontConfiguration()


@cache
def _fetcher():
    """Only our own files: a report fetches nothing else."""
    from weasyprint import URLFetcher

    class OwnFiles(URLFetcher):
        """Refuses every address outside the static folder."""

        def fetch(self, url, headers=None):
            """Fetch ``url`` if it is ours."""
            if not url.startswith(STATIC.as_uri() + "/"):
                raise ValueError("A report fetches nothing from outside.")
            return super().fetch(url, headers)

    return OwnFiles(allowed_protocols=("file",))


@require_safe
def sheet(request, pk: int):
    """The sheet as PDF."""
    from weasyprint import HTML

    job = job_of(request, pk)
    revision = job.latest
    solved = solve(revision.site)
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
    context |= {"colours": palette.PRINT, "static": STATIC.as_uri()}
    html = render_to_string("reports/sheet.html", context, request)
    pdf = HTML(string=html, base_url=STATIC.as_uri(), url_fetcher=_fetcher()).write_pdf(
        font_config=_fonts()
    )
    response = HttpResponse(pdf, content_type="application/pdf")
    response["Content-Disposition"] = f'inline; filename="just-loop-{job.pk}.pdf"'
    return response
