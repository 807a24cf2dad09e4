"""Readings: kept, given out as CSV and JSON."""

import uuid
from dataclasses import dataclass, replace
from datetime import datetime

from django.conf import settings
from django.contrib import messages
from django.http import JsonResponse
from django.shortcuts import redirect
from django.utils import timezone
from django.utils.dateparse import parse_datetime
from django.views.decorators.http import require_POST, require_safe

from returnpath.errors import BadInput, number_in
from returnpath.readings import (
    AS_FOUND,
    ReadingsFile,
    TypedReading,
    asked_of,
    judge_reading,
    read_readings,
    read_table,
    write_table,
)
from returnpath.site import Installation, Provenance, Set, Soil, name_of
from returnpath.site.plan import names_on_plan

from ..accounts import audit
from ..accounts.models import Act
from ..address import address_of
from ..files import attached, sent_text
from ..jobs import revisions
from ..jobs.access import job_of
from ..solved import solve
from . import queued
from .keeping import circumstances_of, keep, keep_rows, row_of
from .meter import read_meter
from .models import SOIL, LoggedReading

UNITS = {"three-point": "Ω", "clamp-ohm": "Ω", "soil": "Ω·m"}
MOST_DETAIL = 1500
MOST_TYPED, MOST_Q = 8000, 1400
MOST_ROWS, MOST_FILE = 5000, 1_000_000
HOLD = (
    "Not kept: an electrode is taken off only with the installation dead and locked, and put back."
    " Say that it was."
)


@dataclass(frozen=True)
class KeptReading:
    """A reading as a list shows it."""

    kind: str
    place: str
    value: str
    unit: str
    at: object
    who: str
    simulated: bool
    detail: str = ""


def names_of(site: Installation) -> dict[str, str]:
    """What every place is called in the log."""
    return {e.id: name_of(e) for e in site.elements().values()} | names_on_plan(site)


def kept(job, kinds: tuple[str, ...], most: int = 6) -> list[KeptReading]:
    """The newest readings of some kinds, with their places' names."""
    names = names_of(job.latest.site)
    rows = job.readings.filter(kind__in=kinds).select_related("who")[:most]
    return [_row(r, names) for r in rows]


def _row(r: LoggedReading, names: dict[str, str]) -> KeptReading:
    place = "the soil" if r.place == SOIL else names.get(r.place, "a part that is gone")
    who = r.who.get_username() if r.who else ""
    return KeptReading(r.kind_words, place, f"{r.value:.4g}", r.unit, r.at, who,
                       r.simulated, r.detail)  # fmt: skip


@require_POST
def keep_reading(request, pk: int):
    """Keep a test's result: as a reading, and as the measured fact of its place."""
    job = job_of(request, pk)
    address = address_of(job, "earth", request.POST)
    try:
        words = _keep(request, job)
    except BadInput as error:
        messages.error(request, error.sentence)
    else:
        messages.info(request, words)
    return redirect(address.here)


def _keep(request, job) -> str:
    kind, place = request.POST.get("kind", ""), request.POST.get("place", "")[:20]
    if kind not in UNITS:
        raise BadInput("That kind of reading is not kept here.")
    try:
        value = float(request.POST.get("value", "")[:20])
    except ValueError:
        raise BadInput("The reading is no number.") from None
    number_in(value, "Reading", 0, 1e6, UNITS[kind], above_low=True)
    site = job.latest.site
    edits: tuple
    if kind == "soil":
        edits, place = (Soil(ohm_m=round(value, 2)),), "soil"
    elif place in {e.id for e in site.electrodes}:
        if kind == "three-point" and request.POST.get("hold") != "1":
            raise BadInput(HOLD)
        now = timezone.now().isoformat(timespec="minutes")
        source = Provenance(kind="measured", who=request.user.get_username()[:80], when=now)
        edits = (Set(path=f"{place}.proved_ohm", value=round(value, 2), source=source),)
    else:
        raise BadInput("That electrode was removed meanwhile.")
    revisions.save_edits(job, request.user, job.latest.number, edits, "")
    LoggedReading.objects.create(
        job=job, kind=kind, place=place, value=value, unit=UNITS[kind], who=request.user,
        detail=request.POST.get("detail", "")[:MOST_DETAIL],
    )  # fmt: skip
    return f"Kept: {value:.4g} {UNITS[kind]}, measured."


@require_POST
def add_readings(request, pk: int):
    """Typed readings, a line each: kept as they are understood, or none of them; or what the meter
    shows for the line that has no figure yet."""
    job = job_of(request, pk)
    address = address_of(job, "readings", request.POST)
    text = line_of(request.POST)
    then = request.POST.get("then", "")[:20]
    try:
        if request.POST.get("do") == "meter":
            words, off = _from_meter(request, job, text)
        else:
            words, off = _typed(request, job, text)
    except BadInput as error:
        if queued.is_queued(request):
            return queued.answer(problem=error.sentence)
        messages.error(request, error.sentence)
        return redirect(address.to(q=text[:MOST_Q], at=address.at))
    there = address.to(q="", at=then, open=off)
    if queued.is_queued(request):
        return queued.answer(words, then=there)
    return redirect(there)


def line_of(sent) -> str:
    """What was typed: lines, or the number of the reading that the box asks for."""
    text = str(sent.get("text", ""))[:MOST_TYPED]
    ask = " ".join(str(sent.get("ask", "")).split())[:200]
    number = " ".join(str(sent.get("number", "")).split())[:20]
    if not text.strip() and ask and (number or sent.get("do") == "meter"):
        return f"{ask} {number}".strip()
    return text


def _typed(request, job, text: str) -> tuple[str, str]:
    """(what was kept, the reading that is opened: the first that is off)."""
    read = read_readings(job.latest.site, text)
    problems = [r.problem for r in read if r.problem]
    if not read or problems:
        raise BadInput(" ".join(problems[:3]) or "Type a reading: studio outlets loop 0.66.")
    how = circumstances_of(request.POST, queued.when(request))
    simulated = request.POST.get("simulated") == "1"
    kept = [
        keep(job, request.user, one, queued.own_id(request, n), how, simulated)
        for n, one in enumerate(read)
    ]
    said = "; ".join(one.words() for one in read[:3])
    return said, _opened(job, list(zip(kept, read, strict=True)))


def _opened(job, kept: list[tuple[LoggedReading, TypedReading]]) -> str:
    study = solve(job.latest.site).study
    for reading, typed in kept:
        judged = judge_reading(study, replace(typed, error=reading.error))
        if judged.fits is False:
            return f"reading-{reading.pk}"
    return ""


def _from_meter(request, job, text: str) -> tuple[str, str]:
    """One reading of the stand-in, or of a real meter's bridge."""
    site = job.latest.site
    kind, place = asked_of(site, text)
    if not kind or not place:
        raise BadInput("Say what the meter is to read, and where: kitchen counter loop.")
    shown = read_meter(kind, place, job.name)
    typed = TypedReading(
        "", kind, place, names_of(site)[place], shown.value, loaded=kind in AS_FOUND
    )
    how = circumstances_of(request.POST, queued.when(request))
    kept = keep(job, request.user, typed, queued.own_id(request), how, simulated=shown.simulated)
    return typed.words(), _opened(job, [(kept, typed)])


@require_POST
def readings_file(request, pk: int):
    """A CSV or JSON file of readings: all of it, or nothing and the row that is wrong."""
    job = job_of(request, pk)
    address = address_of(job, "readings", request.POST)
    try:
        sent = sent_text(request, "a file of readings", MOST_FILE)
        rows = read_table(job.latest.site, sent)
        ids = [_id_of(job, row.id) for row, _ in rows]
        now = timezone.now()
        new = keep_rows(job, request.user, rows, ids, [_time_of(row.at, now) for row, _ in rows])
    except BadInput as error:
        messages.error(request, error.sentence)
    else:
        known = len(rows) - new
        also = f"; {known} were here already" if known else ""
        messages.info(request, f"{new} reading{'s' if new != 1 else ''} read in{also}.")
    return redirect(address.here)


def _id_of(job, text: str) -> uuid.UUID:
    """A reading's own id, within this job: another job's file may be read in here too."""
    try:
        given = uuid.UUID(text)
    except ValueError:
        return uuid.uuid4()
    if LoggedReading.objects.filter(client_id=given).exclude(job=job).exists():
        return uuid.uuid5(given, f"job {job.pk}")
    return given


def _time_of(text: str, now: datetime) -> datetime:
    try:
        found = parse_datetime(text)
    except ValueError:
        return now
    if found is None:
        return now
    aware = found if timezone.is_aware(found) else timezone.make_aware(found)
    return min(aware, now)


@require_POST
def drop_reading(request, pk: int, number: int):
    """Take back a reading of one's own that was typed wrong; others' stay."""
    job = job_of(request, pk)
    gone, _ = job.readings.filter(pk=number, who=request.user).delete()
    messages.info(request, "Taken back." if gone else "Only who read it takes a reading back.")
    return redirect(address_of(job, "readings", request.POST).here)


@require_POST
def use_reading(request, pk: int, number: int):
    """A reading becomes the measured fact of its place."""
    job = job_of(request, pk)
    address = address_of(job, "readings", request.POST)
    reading = job.readings.filter(pk=number).first()
    fact = FACTS.get(reading.kind) if reading else None
    try:
        if reading is None or fact is None or reading.place not in job.latest.site.elements():
            raise BadInput("That reading is no fact of a part that is here.")
        if reading.simulated and not settings.DEMO:
            raise BadInput("A simulated reading proves nothing outside the demo.")
        when = timezone.localtime(reading.at).isoformat(timespec="minutes")
        who = reading.who.get_username()[:80] if reading.who else ""
        source = Provenance(kind="measured", who=who, when=when)
        edit = Set(path=f"{reading.place}.{fact}", value=round(reading.value, 4), source=source)
        revisions.save_edits(job, request.user, job.latest.number, (edit,), "")
    except BadInput as error:
        messages.error(request, error.sentence)
    else:
        messages.info(request, f"Kept as measured: {reading.value:g} {reading.unit}.")
    return redirect(address.here)


#: The fact of its place that a kind of reading measures.
FACTS = {"r2": "return_ohm", "three-point": "proved_ohm"}


@require_safe
def readings_csv(request, pk: int):
    """Every reading as CSV."""
    job = job_of(request, pk)
    audit.note(request, Act.EXPORT, "readings", job=job)
    return attached(write_table(_all(job)), "text/csv", f"just-loop-{job.pk}-readings.csv")


@require_safe
def readings_json(request, pk: int):
    """Every reading as JSON."""
    job = job_of(request, pk)
    audit.note(request, Act.EXPORT, "readings", job=job)
    file = ReadingsFile.model_construct(format=1, readings=list(_all(job)))
    return JsonResponse(file.model_dump())


def _all(job):
    elements = job.latest.site.elements()
    rows = job.readings.select_related("who")[:MOST_ROWS]
    return [row_of(r, elements) for r in rows]
