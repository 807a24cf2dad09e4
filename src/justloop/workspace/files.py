"""Files in and out: the job, its circuits as a table, the drawings, the test sheet."""

from dataclasses import dataclass
from typing import Any

from django.contrib import messages
from django.db import transaction
from django.http import Http404
from django.shortcuts import redirect
from django.utils.text import slugify
from django.views.decorators.http import require_POST, require_safe

from returnpath.errors import BadInput
from returnpath.seal import verify_bundle
from returnpath.site import dumps, dumps_practice, loads, write_csv
from returnpath.site.speech import rule_set_of
from returnpath.words import RuleSet

from ..accounts import audit
from ..accounts.guests import not_for_guests
from ..accounts.models import Act
from ..address import address_of, job_address
from ..drawing.chart import chart_scene
from ..drawing.map import MapView, map_scene, worst_of
from ..files import attached
from ..jobs import revisions
from ..jobs.access import job_of
from ..jobs.models import Job
from ..log.keeping import loops_read, reads_of
from ..pages import show
from ..signing.opening import from_bundle
from ..solved import solve
from . import prove, side_by_side
from .schedule import SchedulePage, boards_of, origin_of

MOST_BYTES, MOST_BUNDLE = 2_000_000, 50_000_000


def _stem(job) -> str:
    return slugify(job.name)[:60] or f"job-{job.pk}"


@require_safe
def job_file(request, pk: int):
    """The job's newest revision as a job file."""
    job = job_of(request, pk)
    audit.note(request, Act.EXPORT, "job file", job=job)
    return attached(dumps(job.latest.site), "application/json", f"{_stem(job)}.json")


@require_safe
def circuits(request, pk: int):
    """The circuits as CSV."""
    job = job_of(request, pk)
    audit.note(request, Act.EXPORT, "circuits", job=job)
    return attached(write_csv(job.latest.site), "text/csv", f"{_stem(job)}-circuits.csv")


@require_safe
def practice(request, pk: int):
    """The job's local practice as a practice file."""
    job = job_of(request, pk)
    audit.note(request, Act.EXPORT, "local practice", job=job)
    text = dumps_practice(job.latest.site.practice)
    return attached(text, "application/json", f"{_stem(job)}-practice.json")


@require_POST
def open_file(request):
    """A job file becomes a job of this person's."""
    not_for_guests(request)
    upload = request.FILES.get("file")
    try:
        if upload is None:
            raise BadInput("Choose a job file first.")
        is_bundle = upload.name.lower().endswith(".zip")
        if upload.size > (MOST_BUNDLE if is_bundle else MOST_BYTES):
            raise BadInput("A job file is at most 2 MB, a bundle at most 50.")
        data = upload.read()
        opened = verify_bundle(data) if is_bundle else None
        held = opened.files if opened else {"job.json": data}
        site = loads(held.get("job.json", b"").decode("utf-8-sig", "replace"))
        solve(site)  # before the write lock, however long it takes
    except BadInput as error:
        messages.error(request, error.sentence)
        return redirect("jobs")
    title = " ".join(upload.name.rsplit(".", 1)[0].replace("-", " ").split())[:80] or "Job"
    with transaction.atomic():
        job = Job.objects.create(name=title[:1].upper() + title[1:], owner=request.user)
        said = "Read from a bundle" if is_bundle else "Read from a job file"
        revisions.start(job, site, request.user, said)
    if opened and opened.problems:
        said = " ".join(opened.problems[:5])
        messages.error(request, f"This bundle is not as it was signed: {said}")
    if opened:
        try:
            messages.info(request, from_bundle(job, request.user, held))
        except BadInput as error:
            messages.error(request, f"The job was read; {error.sentence}")
    return redirect(job_address(job, stage="survey"))


@dataclass(frozen=True)
class TestSheetPage:
    """What a loop meter should read, with blanks."""

    job: Any
    groups: Any
    site: Any
    back: str


@require_safe
def test_sheet(request, pk: int):
    """What a loop meter should read at each receptacle, with a blank beside it."""
    job = job_of(request, pk)
    solved = solve(job.latest.site)
    if rule_set_of(solved.site) is RuleSet.METRIC:
        read = reads_of(job)
        boards, origin = boards_of(solved, read), origin_of(solved, read)
        page = SchedulePage(job, boards, origin, job_address(job, stage="prove"), solved.site)
        return show(request, "workspace/schedule.html", page, site=solved.site)
    shown = TestSheetPage(
        job=job,
        groups=prove.test_sheet(solved, loops_read(job)),
        site=solved.site,
        back=job_address(job, stage="prove"),
    )
    return show(request, "workspace/test_sheet.html", shown, site=solved.site)


@require_safe
def drawing(request, pk: int, name: str):
    """A drawing as a file that stands alone, colours written out."""
    job = job_of(request, pk)
    solved = solve(job.latest.site)
    address = address_of(job, "", request.GET)
    study = solved.study
    loop = side_by_side.loop_at(solved, address.loop) or next(iter(study.loops.values()), None)
    if name == "map":
        href = dict.fromkeys([*solved.site.elements(), "prove"], "")
        worst = worst_of(solved.findings, solved.site)
        scene = map_scene(MapView(study, loop, href, look=address.look, worst=worst))
    elif name == "chart" and loop is not None and loop.device is not None:
        scene = chart_scene(loop)
    else:
        raise Http404
    audit.note(request, Act.EXPORT, f"drawing: {name}", job=job)
    return attached(scene.svg(paper=True, links=False), "image/svg+xml", f"{name}.svg")
