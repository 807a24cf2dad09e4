"""The job sheet: one circuit's loop on paper, with the same drawings as the screen."""

from dataclasses import dataclass

from django.conf import settings
from django.http import Http404, HttpResponse
from django.utils import timezone
from django.utils.safestring import mark_safe
from django.views.decorators.http import require_safe

from returnpath.panels import Face, face_of
from returnpath.site import Panel
from returnpath.site.speech import rule_set_of
from returnpath.words import RuleSet

from ..accounts import audit
from ..accounts.models import Act
from ..address import Address
from ..drawing import palette
from ..drawing.chart import chart_scene
from ..drawing.door_card import CardWords, door_card_scene
from ..drawing.map import MapView, map_scene, worst_of
from ..drawing.marks import verdict_svg
from ..firm.models import Firm
from ..jobs.access import job_of
from ..jobs.models import Job
from ..pages import rendered
from ..solved import solve
from ..speech import speak
from ..trouble import answer
from ..workspace import present
from . import printing

STATIC = settings.PACKAGE / "static"


@require_safe
def sheet(request, pk: int):
    """The sheet as PDF."""
    job = job_of(request, pk)
    revision = job.latest
    solved = solve(revision.site, revision.document)
    address = Address(job.pk, "service", at=request.GET.get("loop", "")[:20])
    page = present.workspace(job, revision, solved, address)
    loop = page.loop
    href = dict.fromkeys([*solved.site.elements(), "prove"], "")
    view = MapView(solved.study, loop, href, worst=worst_of(solved.findings, solved.site))
    # Scene escapes every text it is given.
    page.map = mark_safe(map_scene(view).svg(paper=True, links=False))  # noqa: S308
    if loop is not None:
        page.verdict_mark = mark_safe(verdict_svg(loop.verdict, 40, paper=True))  # noqa: S308
        if loop.device is not None and loop.lowest_a is not None:
            page.chart = mark_safe(chart_scene(loop).svg(paper=True))  # noqa: S308
    return paper(request, job, "reports/sheet.html", page, "job sheet", "")


@dataclass
class DoorCardPage:
    """A panel's directory on paper."""

    panel: Panel
    job: Job
    words: CardWords
    card: str
    colours: object = None
    static: str = ""
    firm: Firm | None = None


@require_safe
def door_card(request, pk: int, panel: str):
    """A panel's directory for its door as PDF: every space with its full name, when, by whom."""
    job, face, words = _card(request, pk, panel)
    # Scene escapes every text it is given.
    drawn = mark_safe(door_card_scene(face).svg(paper=True, links=False))  # noqa: S308
    page = DoorCardPage(panel=face.panel, job=job, words=words, card=drawn)
    noted = f"door card of {face.panel.name or panel}"
    return paper(request, job, "reports/card.html", page, noted, f"-{panel}-door")


@require_safe
def door_card_svg(request, pk: int, panel: str):
    """The same as one drawing, for whoever prints on other paper."""
    job, face, words = _card(request, pk, panel)
    audit.note(request, Act.EXPORT, f"door card of {face.panel.name or panel}, SVG", job=job)
    drawn = door_card_scene(face, words).svg(paper=True, links=False)
    response = HttpResponse(drawn, content_type="image/svg+xml")
    response["Content-Disposition"] = f'inline; filename="just-loop-{job.pk}-{panel}-door.svg"'
    return response


def _card(request, pk: int, panel: str) -> tuple[Job, Face, CardWords]:
    """(the job, the panel's face, what its card says besides); 404 for an unknown panel."""
    job = job_of(request, pk)
    revision = job.latest
    site = revision.site
    if panel not in {p.id for p in site.panels}:
        raise Http404
    face = face_of(site, panel)
    fed_from = ", ".join(_name(site, f.source) for f in site.feeders if f.to == panel)
    available = solve(site, revision.document).study.available.get(panel)
    under = [", ".join(filter(None, (job.name, job.place)))]
    if fed_from:
        under.append(f"Fed from {fed_from}")
    if face.high_leg:
        under.append(f"L{face.high_leg} is the high leg: 208 V to neutral")
    if face.unplaced:
        under.append(f"Space not known: {', '.join(u.name for u in face.unplaced)}")
    written = f"{timezone.localtime(revision.at):%d %b %Y}"
    firm = Firm.ours()
    small = [
        f"Available fault current about {available:,.0f} A, computed from what is known on"
        f" {written}." if available else "",
        ", ".join(filter(None, (firm.name, firm.licence))),
        f"Written {written}, revision {revision.number}, by"
        f" {revision.author or 'somebody who left'}. A name on a card proves nothing dead: test.",
    ]  # fmt: skip
    return (
        job,
        face,
        CardWords(face.panel.name or "Panel", tuple(under), tuple(filter(None, small))),
    )


def paper_of(request, job, template: str, page) -> bytes:
    """A template as PDF with the firm's line on it; printing.Busy where too many are made."""
    page.colours, page.static, page.firm = palette.PRINT, STATIC.as_uri(), Firm.ours()
    site = job.latest.site
    html = speak(rendered(template, page, request), site)
    if rule_set_of(site) is RuleSet.METRIC:
        html = html.replace("size:letter", "size:A4", 1)
    return printing.pdf(html[:], STATIC.as_uri())  # plain text: no Django there


def paper(request, job, template: str, page, noted: str, ending: str):
    """A template as PDF with the firm's line on it; in the log as ``noted``."""
    try:
        made = paper_of(request, job, template, page)
    except printing.Busy as busy:
        return answer(request, str(busy), 503)
    audit.note(request, Act.EXPORT, noted, job=job)
    response = HttpResponse(made, content_type="application/pdf")
    response["Content-Disposition"] = f'inline; filename="just-loop-{job.pk}{ending}.pdf"'
    return response


def _name(site, panel: str) -> str:
    return next((p.name or "panel" for p in site.panels if p.id == panel), "panel")
