"""The report on screen and paper; signing; bundles out and checked."""

from dataclasses import dataclass
from typing import Any
from urllib.parse import urlencode

from django.contrib import messages
from django.http import FileResponse, Http404
from django.shortcuts import get_object_or_404, redirect
from django.urls import reverse
from django.utils.safestring import mark_safe
from django.views.decorators.http import require_POST, require_safe

from returnpath.errors import BadInput
from returnpath.site.speech import rule_set_of
from returnpath.words import RuleSet

from ..accounts import audit
from ..accounts.models import Act
from ..address import address_of
from ..jobs.access import job_of
from ..pages import rendered, show
from ..signing.models import SignOff
from ..signing.sealing import BeforeSigning, Reasons, bundle_path, sign
from ..signing.seen import check_seen, seen_now
from ..signing.standing import open_work
from ..solved import solve
from . import printing
from .report import PARTS, READERS, SIZES, ReportPage, report_page
from .views import paper, paper_of


def usual_size(job) -> str:
    """The paper of a job's rule set."""
    return "A4" if rule_set_of(job.latest.site) is RuleSet.METRIC else "letter"


def _asked(request, job) -> tuple[ReportPage, frozenset[str]]:
    get = request.GET
    skip = frozenset(p for p in get.getlist("skip") if p in PARTS)
    size = get.get("size") or usual_size(job)
    size = size if size in SIZES else "letter"
    return report_page(job, get.get("reader", ""), skip, size), skip


@dataclass(frozen=True)
class PreviewPage:
    """The report on screen: the same parts, at once."""

    job: Any
    page: ReportPage
    body: str
    readers: tuple
    sizes: tuple
    choices: tuple
    skipped: frozenset[str]
    pdf: str
    back: str


@require_safe
def report(request, pk: int):
    """The report on screen."""
    job = job_of(request, pk)
    page, skip = _asked(request, job)
    body = rendered("signing/parts.html", page, request)
    query = urlencode([("reader", page.reader), ("size", page.size), *(("skip", s) for s in skip)])
    wanted = READERS[page.reader][1]
    shown = PreviewPage(
        job=job, page=page, body=mark_safe(body),  # noqa: S308 - rendered with autoescape
        readers=tuple((k, words) for k, (words, _) in READERS.items()), sizes=tuple(SIZES.items()),
        choices=tuple((k, page.titles[k]) for k in wanted if k in page.titles),
        skipped=skip, pdf=f"{reverse('report-pdf', args=[job.pk])}?{query}",
        back=address_of(job, "sign", {}).here,
    )  # fmt: skip
    return show(request, "signing/preview.html", shown, site=job.latest.site)


@require_safe
def report_pdf(request, pk: int):
    """The report as PDF."""
    job = job_of(request, pk)
    page, _ = _asked(request, job)
    return paper(request, job, "signing/report.html", page, f"report, {page.reader}",
                 f"-{page.reader}")  # fmt: skip


def _inspectors(request, job) -> bytes:
    page = report_page(job, "inspector", frozenset(), usual_size(job))
    try:
        return paper_of(request, job, "signing/report.html", page)
    except printing.Busy as busy:
        raise BadInput(f"{busy} Nothing was signed.") from None


@require_POST
def sign_off(request, pk: int):
    """Sign the newest revision, with the reasons for what stands open."""
    job = job_of(request, pk)
    there = address_of(job, "sign", {}).here
    latest = job.latest
    post = request.POST
    try:
        if post.get("base", "") != str(latest.number):
            raise BadInput("The job was changed meanwhile: look at it again, then sign.")
        waiting = post.get("waiting", "")
        if waiting.isdecimal() and int(waiting[:6]):
            raise BadInput("Entries wait on this phone: send them, or throw them away, then sign.")
        solved = solve(latest.site, latest.document)
        seen = post.get("seen") or seen_now(job)
        check_seen(job, seen)
        now = open_work(job, solved, latest.aside)
        reasons = Reasons(
            " ".join(post.get("reason", "").split())[:600],
            {d.key: " ".join(post.get(f"danger-{d.key}", "").split())[:300] for d in now.dangers},
        )
        licence = " ".join(post.get("licence", "").split())[:120]
        looked_at = BeforeSigning(latest, solved, now, seen)
        made = sign(job, request.user, looked_at, reasons, licence,
                    lambda: _inspectors(request, job))  # fmt: skip
    except BadInput as error:
        messages.error(request, error.sentence)
        return redirect(there)
    audit.note(request, Act.EXPORT, f"signed revision {made.number}", job=job)
    messages.info(request, f"Signed: revision {made.number}, {made.hash[:16]}.")
    return redirect(there)


@require_safe
def bundle(request, pk: int, number: int):
    """A signed bundle, as it was sealed."""
    job = job_of(request, pk)
    found = get_object_or_404(SignOff, job=job, pk=number)
    path = bundle_path(found.bundle)
    if not path.exists():
        raise Http404
    audit.note(request, Act.EXPORT, f"bundle of revision {found.number}", job=job)
    return FileResponse(path.open("rb"), as_attachment=True,
                        filename=f"just-loop-{job.pk}-revision-{found.number}.zip",
                        content_type="application/zip")  # fmt: skip
