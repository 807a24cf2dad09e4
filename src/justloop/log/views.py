"""Readings: kept, given out as CSV and JSON."""

import csv
import io
from dataclasses import asdict, dataclass

from django.contrib import messages
from django.http import HttpResponse, JsonResponse
from django.shortcuts import redirect
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from returnpath.errors import BadInput, number_in
from returnpath.site import Provenance, Set, Soil
from returnpath.site.plan import names_on_plan

from ..accounts import audit
from ..accounts.models import Act
from ..address import address_of
from ..jobs import revisions
from ..jobs.access import job_of
from .models import LoggedReading

UNITS = {"three-point": "Ω", "clamp": "Ω", "soil": "Ω·m"}
MOST_DETAIL = 1500
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


def kept(job, kinds: tuple[str, ...], most: int = 6) -> list[KeptReading]:
    """The newest readings of some kinds, with their places' names."""
    names = names_on_plan(job.latest.site)
    rows = job.readings.filter(kind__in=kinds).select_related("who")[:most]
    return [_row(r, names) for r in rows]


def _row(r: LoggedReading, names: dict[str, str]) -> KeptReading:
    place = "the soil" if r.place == "soil" else names.get(r.place, "a part that is gone")
    who = r.who.get_username() if r.who else ""
    return KeptReading(r.get_kind_display(), place, f"{r.value:.4g}", r.unit, r.at, who,
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
    names = names_on_plan(job.latest.site)
    return [_row(r, names) for r in job.readings.select_related("who")[:MOST_ROWS]]
