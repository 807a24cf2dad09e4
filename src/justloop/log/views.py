"""Readings: kept, given out as CSV and JSON."""

import csv
import io
from dataclasses import asdict, dataclass

from django.conf import settings
from django.contrib import messages
from django.http import HttpResponse, JsonResponse
from django.shortcuts import redirect
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from returnpath.errors import BadInput, number_in
from returnpath.readings import read_readings
from returnpath.site import Installation, Provenance, Set, Soil, name_of
from returnpath.site.plan import names_on_plan

from ..accounts import audit
from ..accounts.models import Act
from ..address import address_of
from ..jobs import revisions
from ..jobs.access import job_of
from .models import SOIL, LoggedReading

UNITS = {"three-point": "Ω", "clamp": "Ω", "soil": "Ω·m"}
MOST_DETAIL = 1500
MOST_TYPED, MOST_Q = 8000, 1400
MOST_ROWS = 5000
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
    """Typed readings, a line each: kept as they are understood, or none of them."""
    job = job_of(request, pk)
    address = address_of(job, "readings", request.POST)
    text = request.POST.get("text", "")[:MOST_TYPED]
    read = read_readings(job.latest.site, text)
    problems = [r.problem for r in read if r.problem]
    if not read or problems:
        messages.error(
            request, " ".join(problems[:3]) or "Type a reading: studio outlets loop 0.66."
        )
        return redirect(address.to(q=text[:MOST_Q], at=address.at))
    simulated = request.POST.get("simulated") == "1"
    for one in read:
        LoggedReading.objects.create(
            job=job, kind=one.kind, place=one.place, value=one.value, unit=one.unit,
            loaded=one.loaded, who=request.user, simulated=simulated, remark=one.text[:200],
            instrument=" ".join(request.POST.get("instrument", "").split())[:80],
        )  # fmt: skip
    return redirect(address.to(q="", at=request.POST.get("then", "")[:20]))


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
    out = io.StringIO()
    rows = csv.writer(out)
    rows.writerow(("kind", "place", "value", "unit", "at", "who", "simulated", "detail"))
    for r in _all(job):
        at = r.at.isoformat(timespec="minutes")  # type: ignore[attr-defined]
        rows.writerow((r.kind, r.place, r.value, r.unit, at, r.who, r.simulated, r.detail))
    response = HttpResponse(out.getvalue(), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="just-loop-{job.pk}-readings.csv"'
    return response


@require_safe
def readings_json(request, pk: int):
    """Every reading as JSON."""
    job = job_of(request, pk)
    audit.note(request, Act.EXPORT, "readings", job=job)
    return JsonResponse({"format": 1, "readings": [asdict(r) for r in _all(job)]})


def _all(job) -> list[KeptReading]:
    names = names_of(job.latest.site)
    return [_row(r, names) for r in job.readings.select_related("who")[:MOST_ROWS]]
