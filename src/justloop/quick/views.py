"""The quick bench: one typed question, one answer, no job needed. The address holds it."""

import json
from dataclasses import dataclass
from typing import Any

from django.views.decorators.http import require_safe

from returnpath.quick import CARRY_EXAMPLES, EXAMPLES, METRIC_EXAMPLES, answer

from ..jobs.models import Job
from ..pages import show

COOKIE = "quick"  # the last questions, on this device alone
KEPT = 10
MOST_BYTES = 2_500  # a browser drops a cookie of over 4 kB
LONGEST = 120
A_YEAR = 31_536_000
MOST_JOBS = 6


@dataclass(frozen=True)
class QuickPage:
    """A question and its answer."""

    question: str
    found: Any
    examples: Any
    last: list
    jobs: list


@require_safe
def quick(request):
    """The page; ``?q=`` the question."""
    question = " ".join(request.GET.get("q", "").split())[:LONGEST]
    found = answer(question) if question else None
    last = _last(request)
    shown = QuickPage(
        question=question,
        found=found,
        examples=(*EXAMPLES, *CARRY_EXAMPLES, *METRIC_EXAMPLES),
        last=[q for q in last if q != question],
        jobs=_jobs(request) if found and found.line and not found.problem else [],
    )
    name = "quick/answer.html" if request.htmx else "quick/page.html"
    response = show(request, name, shown)
    if found and not found.problem:
        kept = [question, *(q for q in last if q != question)][:KEPT]
        while len(json.dumps(kept)) > MOST_BYTES:
            kept.pop()
        response.set_cookie(
            COOKIE, json.dumps(kept), max_age=A_YEAR, httponly=True, samesite="Lax",
            secure=request.is_secure(),
        )  # fmt: skip
    return response


def _last(request) -> list[str]:
    """What was asked on this device, the newest first; nonsense is nothing."""
    try:
        found = json.loads(request.COOKIES.get(COOKIE, "[]"))
    except ValueError:
        return []
    if not isinstance(found, list):
        return []
    return [q[:LONGEST] for q in found if isinstance(q, str)][:KEPT]


def _jobs(request) -> list[Job]:
    """The jobs that a circuit can be taken into: those changed last."""
    mine = Job.objects.edited_by(request.user).filter(shelf=Job.Shelf.AT_HAND)
    return list(mine.order_by("-changed")[:MOST_JOBS])
