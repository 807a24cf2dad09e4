"""Find circuits: whoever is at the panel switches one breaker off, whoever walks says what went
dead. With one person, and where there is no signal, the answers wait on the phone
(``static/justloop/find.js``)."""

from dataclasses import dataclass
from typing import Any

from django.contrib import messages
from django.db import transaction
from django.http import HttpResponse, JsonResponse
from django.shortcuts import redirect
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_safe

from returnpath.errors import BadInput
from returnpath.rules import is_vague
from returnpath.site import (
    Circuit,
    Edit,
    Installation,
    Provenance,
    Set,
    field_info,
    name_of,
    parse_text,
)
from returnpath.site.serves import places, places_of
from returnpath.vocabulary import FactPath

from ..jobs import locks, revisions
from ..jobs.access import job_of
from ..jobs.models import Job, OffNow, Role
from ..log import queued
from ..pages import show
from .page import FOUND, NOTHING, address, find_page, off_now, token_of

GONE = "That circuit was removed meanwhile."


@dataclass(frozen=True)
class FindPageModel:
    """Find circuits: the breaker that is off, and what went dead."""

    job: Any
    page: Any
    off: Any
    off_token: str
    error: str
    may_both: bool
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
        off_token=token_of(page.off),
        error=error,
        may_both=bool(error) and request.POST.get("do") == "off",
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
    off_token: str
    reads_only: bool


@require_safe
def now(request, pk: int):
    """What is off now, for a page that asks every few seconds; nothing while it is the same."""
    job = job_of(request, pk)
    off = off_now(job, job.latest.site)
    if request.GET.get("seen", "") == token_of(off):
        return HttpResponse(status=204)
    page = NowPage(job, off, token_of(off), request.job_role == Role.READER)
    return show(request, "find/now.html", page)


def _do(request, job: Job, site: Installation, circuit: str) -> str:
    """What a form asks for; the words that are said of it."""
    do = request.POST.get("do", "")
    found = next((c for c in site.circuits if c.id == circuit), None)
    if found is None:
        raise BadInput(GONE)
    if do == "on":
        return _on(request, job, circuit)
    if do == "off":
        return _off(request, job, site, found)
    if do not in (FOUND, NOTHING):
        raise BadInput("The page is out of date: load it again.")
    _was_off(request, job, site, found)
    edits = _found(request, site, found) if do == FOUND else []
    who = Provenance(
        kind="measured", who=str(request.user)[:80], when=f"{timezone.localtime():%Y-%m-%d}"
    )
    edits.append(Set(path=FactPath.of(circuit, "traced"), value=do, source=who))
    base = request.POST.get("base", "")
    number = int(base) if base.isdecimal() and len(base) < 9 else job.latest.number
    saved = revisions.save_edits(job, request.user, number, edits)
    try:
        _on(request, job, circuit)
    except BadInput as locked:
        return f"{saved.told} Kept. {locked.sentence}".strip()
    return saved.told or "Kept. Switch it on again."


def _on(request, job: Job, circuit: str) -> str:
    """A breaker is on again: BadInput where a lock forbids it, asked inside the write."""
    with transaction.atomic():
        site = job.latest.site
        locks.may_be_on(job, site, circuit)
        if OffNow.objects.filter(job=job, circuit=circuit, until=None).update(until=timezone.now()):
            locks.ends_proofs(job, site, circuit, request.user)
    return ""


def _off(request, job: Job, site: Installation, circuit: Circuit) -> str:
    """A breaker is off; BadInput where another of its panel is, unless both are said to be."""
    here = {c.id for c in site.circuits if c.panel == circuit.panel}
    with transaction.atomic():
        there = list(OffNow.objects.select_related("by").filter(job=job, until=None))
        same = next((one for one in there if one.circuit == circuit.id), None)
        if same is not None:
            if same.by == request.user:
                return ""
            return f"{same.by or 'Somebody'} has it off since {_at(same.at)}."
        others = [one for one in there if one.circuit in here]
        if others and request.POST.get("both") != "1":
            names = "; ".join(f"{one.by or 'Somebody'} has {_title(site, one.circuit)} off since"
                              f" {_at(one.at)}" for one in others)  # fmt: skip
            raise BadInput(
                f"{names}. One breaker at a time: what goes dead could not be told apart. Have it"
                " switched on first, or say that both are off."
            )
        OffNow.objects.create(job=job, circuit=circuit.id, by=request.user)
    return ""


def _title(site: Installation, id: str) -> str:
    circuit = site.elements().get(id)
    return f"“{name_of(circuit)}”" if circuit is not None else "a breaker that is gone"


def _at(when) -> str:
    return f"{timezone.localtime(when):%H:%M}"


def _was_off(request, job: Job, site: Installation, circuit: Circuit) -> None:
    """BadInput where another breaker of the panel was off when this was seen, and not this one."""
    seen = queued.when(request)
    here = {c.id for c in site.circuits if c.panel == circuit.panel}
    then = [
        one for one in OffNow.objects.filter(job=job, circuit__in=here, at__lte=seen)
        if one.until is None or one.until >= seen
    ]  # fmt: skip
    if then and circuit.id not in {one.circuit for one in then}:
        names = "; ".join(_title(site, one.circuit) for one in then)
        raise BadInput(
            f"When this was seen, at {_at(seen)}, {names} was off and not"
            f" {_title(site, circuit.id)}. Book it with the breaker that was off."
        )


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
