"""The firm's instruments: what they are off by, and when they must be calibrated."""

from dataclasses import dataclass
from datetime import date

from django.contrib import messages
from django.db import IntegrityError, transaction
from django.shortcuts import redirect
from django.utils import timezone
from django.utils.dateparse import parse_date
from django.views.decorators.http import require_POST

from returnpath.errors import BadInput, number_in

from ..accounts.guests import of_the_firm
from ..address import address_of
from ..jobs.access import job_of
from .models import Instrument

#: What an instrument is, and the kinds of reading it takes.
KINDS = {
    "loop": "loop meter",
    "volts": "voltmeter",
    "clamp": "clamp meter",
    "continuity": "continuity tester",
    "electrode": "electrode tester",
    "insulation": "insulation tester",
    "trip": "ground-fault tester",
    "torque": "torque tool",
    "temperature": "thermometer",
    "tester": "plug-in tester",
}
OF_READING = {
    "loop": "loop", "loop2": "loop", "loop-ln": "loop", "pfc": "loop", "r2": "continuity",
    "r1r2": "continuity", "clamp": "clamp", "step-clamp": "clamp",
    "clamp-bond": "clamp", "clamp-line": "clamp", "three-point": "electrode",
    "clamp-ohm": "electrode", "soil": "electrode", "insulation": "insulation", "trip": "trip",
    "trip-ma": "trip", "torque": "torque", "temperature": "temperature", "lamps": "tester",
}  # fmt: skip
MOST = 100
NUMBERS = {
    "error_pct": ("Error, %", 100.0),
    "error_abs": ("Error, absolute", 1e4),
    "no_trip_pct": ("No-trip error, %", 100.0),
    "no_trip_abs": ("No-trip error, absolute", 1e4),
    "no_trip_ma": ("No-trip current", 1e4),
}


@dataclass(frozen=True)
class InstrumentRow:
    """An instrument as the list shows it."""

    id: int
    name: str
    kind: str
    error: str
    no_trip: str
    due: str
    overdue: bool


def rows(user) -> list[InstrumentRow]:
    """The instruments in use."""
    today = timezone.localdate()
    return [
        _row(i, today) for i in of_the_firm(Instrument.objects.filter(put_away=False), user)[:MOST]
    ]


def _row(i: Instrument, today: date) -> InstrumentRow:
    due = i.calibrated_until
    no_trip = _error(i.no_trip_pct, i.no_trip_abs) if i.no_trip_abs is not None else ""
    if i.no_trip_ma is not None:
        no_trip = f"{no_trip} at {i.no_trip_ma:g} mA".strip()
    return InstrumentRow(
        id=i.pk, name=i.name, kind=KINDS.get(i.kind, i.kind),
        error=_error(i.error_pct, i.error_abs), no_trip=no_trip,
        due=f"{due:%d %b %Y}" if due else "", overdue=due is not None and due < today,
    )  # fmt: skip


def _error(pct: float | None, least: float | None) -> str:
    if pct is None and least is None:
        return "its kind's usual"
    return f"±({pct or 0:g} % + {least or 0:g})"


@require_POST
def instruments(request, pk: int):
    """Enter one, or put one away."""
    job = job_of(request, pk)
    address = address_of(job, "readings", request.POST)
    try:
        if request.POST.get("do") == "away":
            number = request.POST.get("n", "")[:12]
            Instrument.objects.filter(pk=number if number.isdecimal() else 0).update(put_away=True)
        else:
            messages.info(request, f"{_enter(request.POST)} is on the list.")
    except BadInput as error:
        messages.error(request, error.sentence)
    return redirect(address.to(show="instruments"))


def _enter(post) -> str:
    name = " ".join(post.get("name", "").split())[:60]
    kind = post.get("kind", "")
    if not name:
        raise BadInput("Give the instrument a name: loop meter 2.")
    if kind not in KINDS:
        raise BadInput("Choose what kind of instrument it is.")
    if Instrument.objects.filter(put_away=False).count() >= MOST:
        raise BadInput(f"At most {MOST} instruments are kept.")
    given: dict[str, object] = {"kind": kind, "put_away": False}
    for field, (label, most) in NUMBERS.items():
        typed = post.get(field, "").strip()[:12].replace(",", ".")
        if typed:
            try:
                value = float(typed)
            except ValueError:
                raise BadInput(f"{label}: “{typed}” is no number.") from None
            given[field] = number_in(value, label, 0, most)
        else:
            given[field] = None
    due = post.get("calibrated_until", "").strip()[:10]
    try:
        given["calibrated_until"] = parse_date(due) if due else None
    except ValueError:
        given["calibrated_until"] = None
    if due and given["calibrated_until"] is None:
        raise BadInput(f"Calibration due: “{due}” is no date; write 2027-03-31.")
    try:
        with transaction.atomic():
            Instrument.objects.update_or_create(name=name, defaults=given)
    except IntegrityError:
        raise BadInput(f"There is “{name}” already.") from None
    return name
