"""The job's history: what changed, an old revision looked at, two compared, names."""

from dataclasses import dataclass
from typing import Any

from django.contrib import messages
from django.shortcuts import get_object_or_404, redirect
from django.views.decorators.http import require_POST, require_safe

from returnpath.errors import BadInput
from returnpath.rules import summary
from returnpath.site import fields_of, name_of, show_value
from returnpath.site.installation import LISTS
from returnpath.vocabulary import fact_in

from ..accounts import audit
from ..accounts.models import Act
from ..address import Address, job_address
from ..files import attached
from ..jobs import revisions
from ..jobs.access import job_of
from ..pages import show
from ..solved import solve, standing
from . import prove, side_by_side

MOST_ROWS = 200


@dataclass(frozen=True)
class Difference:
    """A fact that differs between two revisions."""

    place: str
    label: str
    was: str
    now: str


@dataclass(frozen=True)
class HistoryPage:
    """What changed, by whom."""

    job: Any
    revisions: list
    back: str
    newest: int


@require_safe
def history(request, pk: int):
    """What changed, in words, by whom; each can be looked at, named, compared."""
    job = job_of(request, pk)
    rows = list(job.revisions.select_related("author")[:MOST_ROWS])
    shown = HistoryPage(job=job, revisions=rows, back=job_address(job), newest=rows[0].number)
    return show(request, "workspace/history.html", shown)


@require_POST
def name(request, pk: int, number: int):
    """Give a revision a name; a named one is kept when old ones are thinned."""
    job = job_of(request, pk)
    text = " ".join(request.POST.get("name", "").split())[:80]
    if revisions.give_name(job, number, text) is not None:
        said = f"Revision {number} is called “{text}”." if text else f"Revision {number} unnamed."
        messages.info(request, said)
    return redirect("history", pk=pk)


@dataclass(frozen=True)
class OldPage:
    """An old revision, to be read."""

    job: Any
    revision: Any
    summary: str
    table: Any
    found: list
    back: str


@require_safe
def old(request, pk: int, number: int):
    """An old revision, to be read: its summary, its table, its findings."""
    job = job_of(request, pk)
    revision = get_object_or_404(job.revisions.select_related("author"), number=number)
    solved = solve(revision.site)
    found = standing(solved, revision.aside)
    shown = OldPage(
        job=job,
        revision=revision,
        summary=summary(solved.study, found),
        table=prove.table(solved, Address(job.pk, "prove")),
        found=[f for f in found if f.level != "note"],
        back=job_address(job),
    )
    return show(request, "workspace/old.html", shown, site=solved.site)


@require_safe
def raw(request, pk: int, number: int):
    """A revision's document as it is kept, readable or not."""
    job = job_of(request, pk)
    revision = get_object_or_404(job.revisions, number=number)
    audit.note(request, Act.EXPORT, f"revision {number} as it is kept", job=job)
    return attached(revision.document, "application/json", f"job-{pk}-revision-{number}.json")


@require_POST
def go_on(request, pk: int, number: int):
    """Go on from an old revision: its content becomes the newest."""
    job = job_of(request, pk)
    revision = get_object_or_404(job.revisions, number=number)
    try:
        made = revisions.go_on_from(job, request.user, revision)
    except BadInput as error:
        messages.error(request, error.sentence)
        return redirect("history", pk=pk)
    messages.info(request, f"{made.words}.")
    return redirect(job_address(job))


@dataclass(frozen=True)
class ComparePage:
    """Two revisions beside each other."""

    job: Any
    older: Any
    newer: Any
    facts: list
    moved: Any
    revisions: Any
    back: str


@require_safe
def compare(request, pk: int):
    """Two revisions: what was changed, and what that moved."""
    job = job_of(request, pk)

    def wanted(key: str):
        text = request.GET.get(key, "")
        number = int(text) if text.isdecimal() and len(text) < 9 else 0
        return job.revisions.filter(number=number).first()

    newer = wanted("b") or job.latest
    older = wanted("a") or newer.parent or newer
    if older.number > newer.number:
        older, newer = newer, older
    one, other = solve(older.site), solve(newer.site)
    shown = ComparePage(
        job=job,
        older=older,
        newer=newer,
        facts=differences(one.site, other.site),
        moved=side_by_side.moved(one, other),
        revisions=job.revisions.all()[:MOST_ROWS],
        back=job_address(job),
    )
    return show(request, "workspace/compare.html", shown, site=other.site)


def differences(one, other) -> list[Difference]:
    """The facts that differ between two sites, in words."""
    rows = []
    for list_name in LISTS:
        old = {e.id: e for e in getattr(one, list_name)}
        new = {e.id: e for e in getattr(other, list_name)}
        for key in [*old, *(k for k in new if k not in old)]:
            a, b = old.get(key), new.get(key)
            if a is None or b is None:
                rows.append(
                    Difference(place=name_of(b or a), label="added" if a is None else "removed",
                     was="", now="")
                )  # fmt: skip
            elif a != b:
                rows += _facts(a, b)
    if one.practice != other.practice:
        rows += _facts(one.practice, other.practice)
    return rows


def _facts(a, b) -> list[Difference]:
    rows = []
    for info in fields_of(type(b)):
        was, now = fact_in(a, info.path), fact_in(b, info.path)
        if was != now:
            rows.append(
                Difference(place=name_of(b), label=info.label,
                 was=show_value(info, was) or "not known",
                 now=show_value(info, now) or "not known")
            )  # fmt: skip
    return rows
