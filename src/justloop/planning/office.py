"""The line to the office: one small client (docs/office.md). Everything it does can be typed."""

import json
from datetime import timedelta
from typing import Any

from django.conf import settings
from django.contrib import messages
from django.shortcuts import get_object_or_404, redirect
from django.utils import timezone
from django.utils.dateparse import parse_date
from django.views.decorators.http import require_POST

from returnpath.errors import BadInput

from ..address import address_of
from ..jobs.access import job_of
from ..outside import NoAnswer, post_json
from .models import JobDate, Remark, Visit

BY_HAND = "Type it by hand meanwhile."


def ask(path: str, body: dict[str, Any]) -> dict[str, Any]:
    """One call; BadInput says what the office says, or that it does not answer."""
    try:
        status, answer = post_json(settings.OFFICE, path, body)
    except NoAnswer:
        raise BadInput(f"No office answers at {settings.OFFICE}. {BY_HAND}") from None
    data = _read(answer)
    if status != 200:
        said = _words(data, "says", 200) if data is not None else ""
        raise BadInput(f"The office says: {said or status} {BY_HAND}")
    if data is None:
        raise BadInput(f"The office answered something else. {BY_HAND}")
    return data


def _read(answer: bytes) -> dict[str, Any] | None:
    try:
        data = json.loads(answer)
    except (ValueError, RecursionError):
        return None
    return data if isinstance(data, dict) else None


def _words(data: dict[str, Any], key: str, most: int) -> str:
    """What it says there: one line that a screen can show; "" where it is no text."""
    said = data.get(key, "")
    if isinstance(said, bool) or not isinstance(said, str | int | float):
        return ""
    text = "".join(c if c.isprintable() else " " for c in str(said)[: 4 * most])
    return " ".join(text.split())[:most]


@require_POST
def to_office(request, pk: int):
    """Apply, ask for an outage, take a visit's result."""
    job = job_of(request, pk)
    there = address_of(job, "plan", {"show": "dates"}).here
    do = request.POST.get("do", "")
    try:
        if do == "apply":
            messages.info(request, _apply(request, job))
        elif do == "outage":
            messages.info(request, _outage(request, job))
        elif do == "result":
            number = request.POST.get("visit", "")[:12]
            found = get_object_or_404(Visit, job=job, pk=number if number.isdecimal() else 0)
            messages.info(request, _result(request, job, found))
            return redirect("visit", pk=job.pk, number=found.pk)
        else:
            raise BadInput("The page is out of date: load it again.")
    except BadInput as error:
        messages.error(request, error.sentence)
    return redirect(there)


def _permit(job) -> str:
    found = job.dates.filter(kind="permit", done=True).exclude(note="").order_by("-day").first()
    if found is None:
        raise BadInput("There is no permit with its number yet: apply first.")
    return str(found.note.split()[0])


def _apply(request, job) -> str:
    today = timezone.localdate()
    said = ask("/apply", {"job": job.name, "class": request.POST.get("class", "")[:40]})
    JobDate.objects.get_or_create(
        job=job, kind="application", defaults={"day": today, "done": True, "by": request.user}
    )
    if said.get("question"):
        return f"The office asks: {_words(said, 'says', 200)}"
    number = _words(said, "number", 40)
    if not number:
        return f"The office says: {_words(said, 'says', 200) or 'nothing'}"
    JobDate.objects.update_or_create(
        job=job, kind="permit",
        defaults={"day": today, "done": True, "note": number, "by": request.user},
    )  # fmt: skip
    return f"Permit {number}."


def _outage(request, job) -> str:
    said = ask("/outage", {"number": _permit(job)})
    try:
        day = parse_date(_words(said, "day", 10))
    except ValueError:
        day = None
    if day is None or not timezone.localdate() <= day < timezone.localdate() + timedelta(days=400):
        raise BadInput(f"The utility gave no day. {BY_HAND}")
    window = f"{_words(said, 'from', 5)} to {_words(said, 'to', 5)}"
    JobDate.objects.update_or_create(
        job=job, kind="outage",
        defaults={"day": day, "done": False, "note": window, "by": request.user},
    )  # fmt: skip
    JobDate.objects.get_or_create(
        job=job, kind="utility",
        defaults={"day": timezone.localdate(), "done": True, "by": request.user},
    )  # fmt: skip
    return f"Outage on {day:%d %b}, {window}."


def _result(request, job, found: Visit) -> str:
    said = ask("/result", {"number": _permit(job), "kind": found.kind})
    result = _words(said, "result", 10)
    if result not in ("passed", "failed"):
        raise BadInput(f"The office gave no result. {BY_HAND}")
    found.result = result
    inspector = _words(said, "inspector", 80) or found.inspector
    if not Visit.objects.filter(pk=found.pk).update(result=result, inspector=inspector):
        raise BadInput("That visit was taken away meanwhile.")
    remarks, kept = said.get("remarks", []), 0
    for one in remarks[:40] if isinstance(remarks, list) else ():
        if isinstance(one, dict) and (text := _words(one, "text", 300)):
            rests = _words(one, "rests_on", 20)
            Remark.objects.create(
                visit=found, text=text, rests_on=rests if rests in Remark.RESTS else "rule",
                where=_words(one, "where", 120),
            )  # fmt: skip
            kept += 1
    return f"{result.capitalize()}, {kept} remarks."
