"""Readings into the database: once each, with the instrument's error as it was then."""

from dataclasses import dataclass
from datetime import date, datetime
from uuid import UUID

from django.db import transaction

from returnpath.errors import BadInput, number_in
from returnpath.readings import ReadingRow, TypedReading, figure_of
from returnpath.site import name_of

from .models import Instrument, LoggedReading
from .queued import OTHER_CONTENT


@dataclass(frozen=True)
class Circumstances:
    """What a reading was taken with and when."""

    tool: Instrument | None
    celsius: float | None
    remark: str
    at: datetime


def circumstances_of(post, at: datetime) -> Circumstances:
    """From a form: ``tool``, ``celsius``, ``remark``; BadInput names the field."""
    number = post.get("tool", "")[:12]
    tool = None
    if number:
        tool = Instrument.objects.filter(pk=number if number.isdecimal() else 0).first()
        if tool is None:
            raise BadInput("That instrument is no longer on the list.")
    typed = post.get("celsius", "").strip()[:12]
    celsius = None
    if typed:
        try:
            celsius = float(typed.replace(",", ".").rstrip(" °Cc"))
        except ValueError:
            raise BadInput(f"Temperature: “{typed}” is no number of °C.") from None
        number_in(celsius, "Temperature", -60, 120, "°C")
    return Circumstances(tool, celsius, " ".join(post.get("remark", "").split())[:200], at)


def keep(job, user, typed: TypedReading, id: UUID, how: Circumstances,
         simulated: bool = False) -> LoggedReading:  # fmt: skip
    """One reading; the same id twice is kept once. BadInput where the same id came before with
    other content."""
    tool, error = how.tool, None
    if tool is not None:
        error = tool.error(typed.no_trip)
    kept, is_new = LoggedReading.objects.get_or_create(
        client_id=id,
        defaults={
            "job": job, "kind": typed.kind, "place": typed.place, "value": typed.value,
            "unit": typed.unit, "loaded": typed.loaded, "no_trip": typed.no_trip, "who": user,
            "tool": tool, "instrument": tool.name if tool else "", "simulated": simulated,
            "error_share": error[0] if error else None, "error_abs": error[1] if error else None,
            "overdue": is_overdue(tool, how.at.date()), "at": how.at,
            "temperature_c": typed.celsius if typed.celsius is not None else how.celsius,
            "remark": how.remark or typed.text[:200],
        },
    )  # fmt: skip
    same = (kept.job_id, kept.kind, kept.place, kept.who_id) == (job.pk, typed.kind, typed.place,
                                                                 user.pk)  # fmt: skip
    if not is_new and not (same and kept.value == typed.value):
        raise BadInput(OTHER_CONTENT)
    return kept


def is_overdue(tool: Instrument | None, on: date) -> bool:
    """Whether an instrument's calibration was due before that day."""
    due = tool.calibrated_until if tool else None
    return due is not None and due < on


@transaction.atomic
def keep_rows(job, user, rows: list[tuple[ReadingRow, TypedReading]], ids: list[UUID],
              times: list[datetime]) -> int:  # fmt: skip
    """A file's readings; how many are new. What a stand-in read stays simulated."""
    before = job.readings.count()
    for (row, typed), id, at in zip(rows, ids, times, strict=True):
        how = Circumstances(None, row.temperature_c, row.remark, at)
        kept = keep(job, user, typed, id, how, simulated=row.simulated)
        if row.instrument and not kept.instrument:
            kept.instrument = row.instrument
            kept.save(update_fields=["instrument"])
    return int(job.readings.count() - before)


def row_of(r: LoggedReading, elements) -> ReadingRow:
    """As a file has it."""
    element = elements.get(r.place)
    return ReadingRow.model_construct(
        kind=r.kind, place=r.place, value=r.value, unit=r.unit,
        at=r.at.isoformat(timespec="seconds"), who=r.who.get_username() if r.who else "",
        instrument=r.instrument, temperature_c=r.temperature_c, loaded=r.loaded,
        no_trip=r.no_trip, simulated=r.simulated,
        remark=r.remark or (name_of(element) if element is not None else ""),
        id=str(r.client_id),
    )  # fmt: skip


def reads_of(job) -> dict[tuple[str, str], str]:
    """(place, kind) → the figure of its newest reading."""
    return {
        (r.place, r.kind): f"{figure_of(r.kind, r.value)}{' (simulated)' if r.simulated else ''}"
        for r in job.readings.order_by("at", "pk")
    }


def loops_read(job) -> dict[str, str]:
    """place → the figure of its newest loop reading."""
    return {
        r.place: f"{r.value:g} Ω{' (simulated)' if r.simulated else ''}"
        for r in job.readings.filter(kind="loop").order_by("at", "pk")
    }
