"""The workspace and its one endpoint for edits."""

import hashlib
import uuid
from dataclasses import dataclass, replace
from datetime import timedelta
from typing import Any

from django.contrib import messages
from django.db import IntegrityError, OperationalError, transaction
from django.http import Http404
from django.shortcuts import redirect
from django.urls import reverse
from django.utils import timezone
from django.utils.html import escape
from django.views.decorators.http import require_POST, require_safe

from returnpath.errors import BadInput
from returnpath.site import LISTS, read_lines, read_place
from returnpath.vocabulary import BranchId

from ..address import FIRST, MAP_STAGES, STAGES, Address, address_of
from ..jobs import revisions
from ..jobs.access import job_of
from ..jobs.models import Done, Job, Role, Trial
from ..log.views import line_of
from ..pages import rendered, show
from ..solved import solve
from ..trouble import why_not_kept
from . import log_view, present, trials
from .changes import MOST_TEXT, OLD_PAGE, change_of, finding_of
from .fields import Typed

MOST_LINE = 300


@require_safe
def workspace(request, pk: int, stage: str):
    """One job on one screen."""
    if stage not in STAGES:
        raise Http404
    job = job_of(request, pk)
    typed = Typed()
    if line := request.GET.get("line", "")[:MOST_LINE]:  # brought along from the quick bench
        typed.text["line"] = line
    return _page(request, job, job.latest, address_of(job, stage, request.GET), typed)


def _page(
    request,
    job,
    revision,
    address: Address,
    typed: Typed | None = None,
    told: str = "",
    moved=False,
):
    site = revision.site
    base = solve(site, revision.document)
    try:
        trying = trials.running(job, request.user, site)
    except trials.Gone as gone:
        trying, told = None, gone.sentence
    seen = trying if trying and trying.solved else None
    solved = seen.solved if seen else base
    page = present.workspace(job, revision, solved, address, typed,
                             before=base if seen else None, user=request.user)  # fmt: skip
    page.told = " ".join(filter(None, (told, trying.told if trying else "")))
    page.trying = trying
    page.once = uuid.uuid4().hex
    page.can_undo = revision.parent_id is not None
    page.can_redo = revisions.can_redo(job, revision)
    page.reads_only = request.job_role == Role.READER
    # The same hidden boxes stand in every form of the page: rendered once.
    page.where = rendered("workspace/where.html", page, request)
    page.edit_url = reverse("edit", args=[job.pk])
    partial = request.htmx and not request.htmx.history_restore_request
    name = "workspace/body.html" if partial else "workspace/page.html"
    response = show(request, name, page, site=page.site)
    if typed and (unseen := _unseen(response, typed)):
        # Its field is not on this page (somebody removed the part): said on top, with the text.
        page.told = " ".join(filter(None, (page.told, *unseen)))
        response = show(request, name, page, site=page.site)
    if partial and not (typed and (typed.errors or typed.mine)):
        # The address says where the person stands, also after a swap.
        response["HX-Push-Url" if moved else "HX-Replace-Url"] = page.address.here
    return response


def _unseen(response, typed: Typed) -> list[str]:
    """The refusals that a page does not show, each with what was typed."""
    shown = response.content.decode()
    found = []
    for field, sentence in typed.errors.items():
        if escape(sentence) not in shown:
            text = " ".join(typed.text.get(field, typed.mine.get(field, "")).split())[:200]
            found.append(f"{sentence} “{text}” is not saved." if text else sentence)
    return found


@require_POST
def edit(request, pk: int):
    """Base revision, edit, raw text. Refused: 200 with the sentence beside the field."""
    job = job_of(request, pk)
    address = address_of(job, request.POST.get("stage", ""), request.POST)
    path = request.POST.get("path", "")[:80]
    # “Yes” makes an assumed value known; “Put mine in” repeats a value that met a conflict.
    text = next((request.POST[k] for k in ("mine", "yes", "text") if k in request.POST), "")
    if "yes" in request.POST and (typed := request.POST.get("text", "").strip()):
        text = typed  # what stands in the box is never passed over for what was assumed
    op = request.POST.get("op", "set")
    if not first_time(request, op, path, text):  # the same form, pressed twice
        return _page(request, job, job.latest, address) if request.htmx else redirect(address.here)
    typed = Typed()
    beside = BESIDE.get(op, path if op == "set" else "")
    try:
        if len(text) > MOST_TEXT:
            raise BadInput(f"That is {len(text):,} characters; {MOST_TEXT:,} are the most at once.")
        saved, select = _save(request, job, op, path, text)
    except trials.Gone as gone:  # about no field; what was typed for it is kept in its box
        _not_done(request)
        typed.text[beside] = text
        return _page(request, job, job.latest, address, typed, gone.sentence)
    except revisions.Conflicted as error:
        _not_done(request)
        typed.errors[beside] = error.sentence
        if op == "set":
            typed.mine[path] = text
        else:
            typed.text[beside] = text
        return _page(request, job, error.revision, address, typed)
    except BadInput as error:
        _not_done(request)
        typed.errors[beside] = error.sentence
        typed.text[beside] = text
        return _page(request, job, job.latest, address, typed)
    before = address
    if select:
        address = _select(request, job, saved.revision, address, select)
    if request.POST.get("try") or op == "whatif":
        address = _on_the_map(address, path)
    if request.htmx:
        return _page(request, job, saved.revision, address, typed, saved.told, address != before)
    if saved.told:
        messages.info(request, saved.told)
    return redirect(address.here)


#: The box that a refusal stands beside, by what the form does; of a fact, the fact's own.
BESIDE = {"add": "line", "paste": "list", "table": "list", "place": "place", "soil": "soil",
          "layout": "layout"}  # fmt: skip


def first_time(request, op: str, path: str, text: str) -> bool:
    """Whether this very form was not sent before: each page gives its forms an id, and what is
    sent with it is done once."""
    once = request.POST.get("once", "")[:64]
    if not once:
        return True
    said = "\n".join((once, str(request.user.pk), op, path, text, request.POST.get("try", "")))
    request.once_key = hashlib.sha256(said.encode()).hexdigest()
    try:
        if request.once_key.startswith("00"):  # now and then
            Done.objects.filter(at__lt=timezone.now() - timedelta(days=1)).delete()
        with transaction.atomic():
            Done.objects.create(key=request.once_key)
    except IntegrityError:
        return False
    except OperationalError as error:  # a full disk: the save itself says so beside the field
        if not why_not_kept(error):
            raise
        request.once_key = ""
    return True


def _not_done(request) -> None:
    """A form that was refused was not done: it may be sent again."""
    if key := getattr(request, "once_key", ""):
        Done.objects.filter(key=key).delete()


def _save(request, job, op: str, path: str, text: str):
    """(what was saved, the list whose newest element to select): into the trial, if one runs."""
    latest = job.latest
    if op in ("aside", "unaside"):
        return _aside(request, job, op, path, text), ""
    trying = trials.running(job, request.user, latest.site)
    if trying is not None or op == "whatif" or request.POST.get("try"):
        site = trying.site if trying else latest.site
        change = change_of(request, site, op, path, text)
        trials.further(trying, latest, request.user, change.edits)
        return revisions.Saved(latest, trying.told if trying else ""), change.select
    change = change_of(request, latest.site, op, path, text)
    base = _number(request.POST.get("base"))
    saved = revisions.save_edits(job, request.user, base, change.edits, change.words)
    return saved, change.select


def _select(request, job, revision, address: Address, what: str) -> Address:
    """The address with an element selected: ``what`` is its id, or a list whose newest it is."""
    site = revision.site
    trying = trials.running(job, request.user, site)
    newest = getattr(trying.site if trying else site, what)[-1].id if what in LISTS else what
    return Address(address.pk, address.stage, newest, address.loop, address.look, map=address.map)


#: Findings that are about load current on metal: their trial is looked at with loads on.
LOAD_FINDINGS = (
    "bond-downstream",
    "bonded-with-egc",
    "grounds-on-isolated-neutral",
    "meter-to-panel-parallel-wire",
    "neutral-joined-at-outlet",
    "shared-neutral-same-leg",
)


def _on_the_map(address: Address, key: str) -> Address:
    """Where a trial is seen: a stage with the map, loads on where it is about load current."""
    look = "load" if key.partition(":")[0] in LOAD_FINDINGS else address.look
    if key.startswith("lose-") and BranchId(key).part == "neutral":
        look = "neutral"
    return replace(
        address, stage=address.stage if address.stage in MAP_STAGES else FIRST, look=look
    )


def _aside(request, job, op: str, key: str, reason: str):
    """*Not here, because…*: set a finding aside with its reason; or take it up again."""
    reason = " ".join(reason.split())[:200]
    latest = job.latest
    if op == "unaside":
        name = latest.aside.get(key, {}).get("name", key)
        return revisions.Saved(revisions.set_aside(job, request.user, key, "", name))
    finding = finding_of(latest.site, key)
    if not reason:
        raise BadInput("Write why it does not apply here: it stays listed with your reason.")
    name = f"{finding.place_name}: {finding.found}"[:160]
    return revisions.Saved(revisions.set_aside(job, request.user, key, reason, name))


def _number(text: str | None) -> int:
    text = text or "0"
    if not (text.isascii() and text.isdecimal() and len(text) < 10):
        raise BadInput(OLD_PAGE)
    return int(text)


@require_POST
def keep(request, pk: int):
    """Keep what is tried: the trial becomes a revision."""
    job = job_of(request, pk)
    address = address_of(job, request.POST.get("stage", ""), request.POST)
    latest = job.latest
    try:
        trying = trials.running(job, request.user, latest.site)
        if trying is None:
            messages.info(request, "There is nothing on trial.")
            return redirect(address.here)
        if trying.told:  # not seen yet by the one who keeps
            messages.info(request, f"{trying.told} Keep it again if it still fits.")
            return redirect(address.here)
        words = revisions.listed(trying.words)
        if not Trial.objects.filter(pk=trying.trial.pk).delete()[0]:
            messages.info(request, "It is kept already.")  # pressed twice
            return redirect(address.here)
        try:
            revisions.save_edits(job, request.user, latest.number, trying.edits, words)
        except BadInput:
            trying.trial.save(force_insert=True)  # nothing was saved: it is on trial as before
            raise
    except BadInput as error:
        messages.error(request, error.sentence)
        return redirect(address.here)
    messages.info(request, f"Kept: {words}.")
    return redirect(address.here)


@require_POST
def discard(request, pk: int):
    """Throw the trial away: the job stays as it was."""
    job = job_of(request, pk)
    gone, _ = Trial.objects.filter(job=job, person=request.user).delete()
    messages.info(request, "Thrown away: nothing was changed." if gone else "Nothing is on trial.")
    return redirect(address_of(job, request.POST.get("stage", ""), request.POST).here)


@dataclass(frozen=True)
class AskPage:
    """Whether somebody else's newest change is really meant."""

    job: Any
    question: str
    act: str
    url: str
    base: int
    stage: str
    back: str


@require_POST
def undo(request, pk: int):
    """Take the newest change back: a plain post and redirect."""
    return _back_or_forth(request, pk, "undo", revisions.undo, "There is nothing to take back.")


@require_POST
def redo(request, pk: int):
    """Put back what the newest undo took."""
    return _back_or_forth(request, pk, "redo", revisions.redo, "There is nothing to put back.")


def _back_or_forth(request, pk: int, name: str, act, nothing: str):
    """Undo or redo; asked first where it would take what the presser has not seen."""
    job = job_of(request, pk)
    stage = request.POST.get("stage", "")
    address = address_of(job, stage, request.POST)
    try:
        latest = job.latest  # an older form says nothing: then only one's own is known to be seen
        own = latest.number if latest.author == request.user else 0
        seen = _number(request.POST["base"]) if request.POST.get("base") else own
        revision = act(job, request.user, seen)
    except revisions.Unseen as unseen:
        words = "Take it back" if name == "undo" else "Put back all the same"
        page = AskPage(job, unseen.sentence, words, reverse(name, args=[job.pk]),
                       unseen.newest.number, address.stage, address.here)  # fmt: skip
        return show(request, "workspace/ask.html", page, site=job.latest.site)
    except BadInput as error:
        messages.error(request, error.sentence)
        return redirect(address.here)
    messages.info(request, f"{revision.words}." if revision else nothing)
    return redirect(address.here)


@dataclass(frozen=True)
class ReadingListPage:
    """Pasted lines as they are read."""

    reading: Any


@dataclass(frozen=True)
class ReadingPage:
    """A typed line as it is read."""

    reading: Any
    kinds: Any
    can_add: bool


@require_safe
def read_line(request):
    """What a typed line is understood as, while it is typed; its place need not be named."""
    from returnpath.site import Installation

    text = request.GET.get("text", "") or request.GET.get("line", "")
    pk = request.GET.get("job", "")
    site = Installation()
    if pk.isdecimal() and (job := Job.objects.seen_by(request.user).filter(pk=int(pk)).first()):
        site = job.latest.site
    if "\n" in text.strip():
        reading = read_lines(site, text[:MOST_TEXT])
        return show(
            request,
            "workspace/reading_list.html",
            ReadingListPage(reading=reading),
            site=site,
        )
    panel = request.GET.get("panel", "")
    panel = panel if panel in {p.id for p in site.panels} else ""
    reading = read_place(site, text, panel)
    shown = ReadingPage(reading=reading, kinds=reading.offered, can_add=bool(pk))
    return show(request, "workspace/reading.html", shown, site=site)


@require_safe
def read_back(request, pk: int):
    """What a typed reading is understood as and would mean, while it is typed."""
    job = job_of(request, pk)
    solved = solve(job.latest.site)
    shown = log_view.read_back(solved, line_of(request.GET)[:MOST_TEXT])
    return show(request, "workspace/log_back.html", shown, site=solved.site)
