"""The workspace and its one endpoint for edits."""

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from returnpath.errors import BadInput
from returnpath.rules import deciding_question
from returnpath.site import Set, Source, field_info, parse_edit, parse_text, read_circuit

from ..drawing.chart import chart_scene
from ..drawing.map import MapView, map_scene
from ..jobs import revisions
from ..jobs.models import Job
from . import present
from .fields import Typed
from .solved import solve


def job_of(request, pk: int) -> Job:
    """The job, if this person may see it; 404 otherwise, so that its existence is not told."""
    return get_object_or_404(Job.objects.seen_by(request.user), pk=pk)


@require_GET
def workspace(request, pk: int, stage: str):
    """One job on one screen."""
    if stage != present.STAGE:
        raise Http404
    job = job_of(request, pk)
    return _page(request, job, job.latest)


def _page(request, job, revision, typed: Typed | None = None, told: str = ""):
    chosen = request.POST if request.method == "POST" else request.GET
    context = present.workspace(
        job,
        revision,
        solve(revision.site),
        at=chosen.get("at", ""),
        loop_id=chosen.get("loop", ""),
        opened=chosen.get("open", ""),
        typed=typed,
    )
    context["told"] = told
    context["can_undo"] = revision.parent_id is not None
    context["can_redo"] = revisions.can_redo(job)
    partial = request.htmx and not request.htmx.history_restore_request
    return render(request, "workspace/body.html" if partial else "workspace/page.html", context)


@require_POST
def edit(request, pk: int):
    """Base revision, edit, raw text. Refused: 200 with the sentence beside the field."""
    job = job_of(request, pk)
    path = request.POST.get("path", "")
    # “Yes” makes an assumed value known; “Put mine in” repeats a value that met a conflict.
    text = next((request.POST[k] for k in ("mine", "yes", "text") if k in request.POST), "")[:2000]
    op = request.POST.get("op", "set")
    typed = Typed()
    beside = "line" if op == "add" else path
    told = ""
    try:
        wanted = _edit(request, job, op, path, text)
        saved = revisions.save_edit(job, request.user, _number(request.POST.get("base")), wanted)
    except BadInput as error:
        typed.errors[beside] = error.sentence
        typed.text[beside] = text
        return _page(request, job, job.latest, typed)
    told = saved.told
    if saved.conflict:
        typed.errors[path] = saved.conflict.sentence()
        typed.mine[path] = text
        return _page(request, job, saved.revision, typed)
    if op == "add":
        request.POST = request.POST.copy()
        request.POST["at"] = saved.revision.site.circuits[-1].id
    if request.htmx:
        return _page(request, job, saved.revision, typed, told)
    if told:
        messages.info(request, told)
    return redirect(present.address(job, request.POST.get("at", ""), request.POST.get("loop", "")))


def _number(text: str | None) -> int:
    try:
        return int(text or 0)
    except ValueError:
        raise BadInput("The page is out of date: load it again.") from None


def _edit(request, job, op: str, path: str, text: str):
    """The Edit a form stands for; BadInput when it is none."""
    if op == "add":
        reading = read_circuit(text)
        if reading.problems:
            raise BadInput(" ".join(reading.problems))
        if not reading.is_complete:
            raise BadInput("Type a circuit, such as 20A 12/2 NM 85ft kitchen counter.")
        return parse_edit({"op": "add", "to": "circuits", "facts": reading.facts})
    if op == "remove":
        return parse_edit({"op": "remove", "id": path})
    site = job.latest.site
    if op == "answer":
        return _answer(request, site, path, text)
    element_id, _, inner = path.partition(".")
    element = site.elements().get(element_id)
    if element is None:
        raise BadInput("That part was removed meanwhile.", path)
    return Set(path=path, value=parse_text(field_info(element, inner), text))


def _answer(request, site, path: str, answer: str) -> Set:
    """One tap on the deciding question; its figure is computed here, never taken from a form."""
    circuit_id = path.partition(".")[0]
    solved = solve(site)
    loop = solved.study.loops.get(circuit_id)
    question = deciding_question(solved.study.assumed, loop) if loop else None
    if question is None or question.path != path:
        raise BadInput("That question is settled already.", path)
    for words, wanted in question.answers:
        if words == answer:
            source = Source(
                kind=wanted.source.kind,
                bound=wanted.source.bound,
                who=request.user.get_username(),
                when=timezone.now().isoformat(timespec="minutes"),
            )
            return Set(path=path, value=None, source=source)
    raise BadInput("Answer no, yes or can't tell.", path)


@require_POST
def undo(request, pk: int):
    """Take the newest change back: a plain post and redirect."""
    job = job_of(request, pk)
    revision = revisions.undo(job, request.user)
    messages.info(request, f"{revision.words}." if revision else "There is nothing to take back.")
    return redirect(_back(request, job))


@require_POST
def redo(request, pk: int):
    """Put back what the newest undo took."""
    job = job_of(request, pk)
    revision = revisions.redo(job, request.user)
    messages.info(request, f"{revision.words}." if revision else "There is nothing to put back.")
    return redirect(_back(request, job))


def _back(request, job) -> str:
    return present.address(job, request.POST.get("at", ""), request.POST.get("loop", ""))


@require_GET
def history(request, pk: int):
    """What changed, in words, by whom."""
    job = job_of(request, pk)
    rows = job.revisions.select_related("author")[:200]
    return render(request, "workspace/history.html", {"job": job, "revisions": rows})


@require_GET
def read_line(request):
    """What a typed line is understood as, while it is typed."""
    reading = read_circuit(request.GET.get("text", "") or request.GET.get("line", ""))
    return render(request, "workspace/reading.html", {"reading": reading})


@require_GET
def drawing(request, pk: int, name: str):
    """A drawing as a file that stands alone, colours written out."""
    job = job_of(request, pk)
    solved = solve(job.latest.site)
    loop = solved.study.loops.get(request.GET.get("loop", "")) or next(
        iter(solved.study.loops.values()), None
    )
    if name == "map":
        href = dict.fromkeys(solved.site.elements(), "")
        scene = map_scene(MapView(solved.study, loop, href))
    elif name == "chart" and loop is not None and loop.lowest_a is not None:
        scene = chart_scene(loop)
    else:
        raise Http404
    response = HttpResponse(scene.svg(paper=True, links=False), content_type="image/svg+xml")
    response["Content-Disposition"] = f'attachment; filename="{name}.svg"'
    return response
