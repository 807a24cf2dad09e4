"""The line to the office: one small client (docs/office.md). Everything it does can be typed."""

import json
import urllib.error
import urllib.request
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
from .models import JobDate, Remark, Visit

SECONDS, MOST_ANSWER = 5, 60_000
BY_HAND = "Type it by hand meanwhile."


def ask(path: str, body: dict[str, Any]) -> dict[str, Any]:
    """One call; BadInput says what the office says, or that it does not answer."""
    call = urllib.request.Request(  # noqa: S310 - the address is the installation's own setting
        f"{settings.OFFICE}{path}", json.dumps(body).encode(),
        {"Content-Type": "application/json"}, method="POST",
    )  # fmt: skip
    try:
        with urllib.request.urlopen(call, timeout=SECONDS) as answer:  # noqa: S310
            data = json.loads(answer.read(MOST_ANSWER))
    except urllib.error.HTTPError as error:
        said = _says(error.read(MOST_ANSWER))
        raise BadInput(f"The office says: {said or error.code} {BY_HAND}") from None
    except (OSError, ValueError):
        raise BadInput(f"No office answers at {settings.OFFICE}. {BY_HAND}") from None
    if not isinstance(data, dict):
        raise BadInput(f"The office answered something else. {BY_HAND}")
    return data


def _says(data: bytes) -> str:
    try:
        return str(json.loads(data).get("says", ""))[:200]
    except (ValueError, AttributeError):
        return ""


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
        return f"The office asks: {str(said.get('says', ''))[:200]}"
    number = str(said.get("number", ""))[:40]
    if not number:
        return f"The office says: {str(said.get('says', 'nothing'))[:200]}"
    JobDate.objects.update_or_create(
        job=job, kind="permit",
        defaults={"day": today, "done": True, "note": number, "by": request.user},
    )  # fmt: skip
    return f"Permit {number}."


def _outage(request, job) -> str:
    said = ask("/outage", {"number": _permit(job)})
    try:
        day = parse_date(str(said.get("day", ""))[:10])
    except ValueError:
        day = None
    if day is None or not timezone.localdate() <= day < timezone.localdate() + timedelta(days=400):
        raise BadInput(f"The utility gave no day. {BY_HAND}")
    window = f"{str(said.get('from', ''))[:5]} to {str(said.get('to', ''))[:5]}"
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
    result = str(said.get("result", ""))
    if result not in ("passed", "failed"):
        raise BadInput(f"The office gave no result. {BY_HAND}")
    found.result = result
    found.inspector = str(said.get("inspector", ""))[:80] or found.inspector
    found.save(update_fields=["result", "inspector"])
    remarks = said.get("remarks", [])
    for one in remarks[:40] if isinstance(remarks, list) else ():
        if isinstance(one, dict) and one.get("text"):
            rests = str(one.get("rests_on", "rule"))
            Remark.objects.create(
                visit=found, text=str(one["text"])[:300],
                rests_on=rests if rests in Remark.RESTS else "rule",
                where=str(one.get("where", ""))[:120],
            )  # fmt: skip
    return f"{result.capitalize()}, {len(remarks) if isinstance(remarks, list) else 0} remarks."
