"""Find circuits: whoever is at the panel switches one breaker off, whoever walks says what went
dead. With one person, and where there is no signal, the answers wait on the phone
(``static/justloop/find.js``)."""

from dataclasses import dataclass
from typing import Any

from django.contrib import messages
from django.http import HttpResponse, JsonResponse
from django.shortcuts import redirect
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_safe

from returnpath.errors import BadInput
from returnpath.rules import is_vague
from returnpath.site import Edit, Installation, Provenance, Set, field_info, parse_text
from returnpath.site.serves import places, places_of
from returnpath.vocabulary import FactPath

from ..jobs import revisions
from ..jobs.access import job_of
from ..jobs.models import Job, OffNow, Role
from ..pages import show
from .page import FOUND, NOTHING, address, find_page, off_now

GONE = "That circuit was removed meanwhile."


@dataclass(frozen=True)
class FindPageModel:
    """Find circuits: the breaker that is off, and what went dead."""

    job: Any
    page: Any
    off: Any
    error: str
    typed: Any
    revision: Any
    reads_only: bool


@require_http_methods(["GET", "HEAD", "POST"])
def find(request, pk: int):
    """The page of one panel; a form of it."""
    job = job_of(request, pk)
    site = job.latest.site
    asked = request.POST if request.method == "POST" else request.GET
    circuit, panel = str(asked.get("c", ""))[:12], str(asked.get("panel", ""))[:12]
    error = ""
    if request.method == "POST":
        try:
            said = _do(request, job, site, circuit)
        except BadInput as wrong:
            error = wrong.sentence
        if _is_queued(request):
            # What waited on a phone: the answer is for its script.
            told = {"sentence": error} if error else {"said": said, "base": job.latest.number}
            return JsonResponse(told, status=422 if error else 200)
        if not error:
            if said:
                messages.info(request, said)
            here = request.POST.get("do") == "off"
            return redirect(address(job, c=circuit) if here else address(job, panel=panel))
    page = find_page(job, site, panel, circuit, set(request.POST.getlist("place")))
    shown = FindPageModel(
        job=job,
        page=page,
        off=page.off,
        error=error,
        typed=request.POST.get("name", "") if error else None,
        revision=job.latest,
        reads_only=request.job_role == Role.READER,
    )
    return show(request, "find/find.html", shown, status=422 if error else 200, site=site)


def _is_queued(request) -> bool:
    return request.headers.get("X-Waited") is not None


@dataclass(frozen=True)
class NowPage:
    """What is off now."""

    job: Any
    off: Any
    csrf: bool


@require_safe
def now(request, pk: int):
    """What is off now, for a page that asks every few seconds; nothing while it is the same."""
    job = job_of(request, pk)
    off = off_now(job, job.latest.site)
    if request.GET.get("seen", "") == (off.token if off else "none"):
        return HttpResponse(status=204)
    return show(request, "find/now.html", NowPage(job=job, off=off, csrf=True))


def _do(request, job: Job, site: Installation, circuit: str) -> str:
    """What a form asks for; the words that are said of it."""
    do = request.POST.get("do", "")
    if do == "on":
        OffNow.objects.filter(job=job).delete()
        return ""
    found = next((c for c in site.circuits if c.id == circuit), None)
    if found is None:
        raise BadInput(GONE)
    if do == "off":
        OffNow.objects.update_or_create(
            job=job, defaults={"circuit": circuit, "by": request.user, "at": timezone.now()}
        )
        return ""
    if do not in (FOUND, NOTHING):
        raise BadInput("The page is out of date: load it again.")
    edits = _found(request, site, found) if do == FOUND else []
    who = Provenance(
        kind="measured", who=str(request.user)[:80], when=f"{timezone.localtime():%Y-%m-%d}"
    )
    edits.append(Set(path=FactPath.of(circuit, "traced"), value=do, source=who))
    base = request.POST.get("base", "")
    number = int(base) if base.isdecimal() and len(base) < 9 else job.latest.number
    saved = revisions.save_edits(job, request.user, number, edits)
    if saved.conflict:
        raise BadInput(saved.conflict.sentence())
    OffNow.objects.filter(job=job, circuit=circuit).delete()
    return saved.told or "Kept. Switch it on again."


def _found(request, site: Installation, circuit) -> list[Edit]:
    """The name and the places of a circuit that was found: a vague name is not taken."""
    known = places()
    tapped = tuple(p for p in request.POST.getlist("place") if p in known)
    name = " ".join(request.POST.get("name", "").split())
    if (not name or is_vague(name)) and tapped:
        words = ", ".join(known[p] for p in tapped)[:80]
        name = words[:1].upper() + words[1:]
    if not name or is_vague(name):
        raise BadInput(f"Tap what went dead, or name it: “{name}” could be any circuit.")
    edits: list[Edit] = []
    if name != circuit.name:
        path = FactPath.of(circuit.id, "name")
        edits.append(Set(path=path, value=parse_text(field_info(circuit, "name"), name)))
    if tapped and set(tapped) != set(places_of(circuit)):
        value = parse_text(field_info(circuit, "places"), ", ".join(tapped))
        edits.append(Set(path=FactPath.of(circuit.id, "places"), value=value))
    return edits
