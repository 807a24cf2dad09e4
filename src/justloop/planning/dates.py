"""The dates of a job, the firm's week, calendars out and in."""

import hashlib
import secrets
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from django.contrib import messages
from django.contrib.auth import get_user_model
from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.utils import timezone
from django.utils.dateparse import parse_date
from django.views.decorators.http import require_POST, require_safe
from icalendar import Calendar
from icalendar import Event as CalendarEvent

from returnpath.errors import BadInput
from returnpath.plan import DATE_KINDS, Event, at_risk, clashes

from ..address import address_of
from ..files import attached, sent_bytes
from ..jobs.access import job_of
from ..jobs.models import Job
from ..log import queued
from .models import Feed, JobDate

MOST_DATES, MOST_BYTES, MOST_FEEDS = 200, 300_000, 12


@dataclass(frozen=True)
class DateRow:
    """A date as it is shown."""

    id: int
    kind: str
    day: date
    who: str
    note: str
    done: bool
    risk: str
    is_today: bool


@dataclass(frozen=True)
class DatesView:
    """The dates of a job; what clashes with other jobs."""

    rows: tuple[DateRow, ...]
    kinds: tuple[tuple[str, str], ...]
    people: tuple[str, ...]
    clashes: tuple[str, ...]
    feeds: int
    new_feed: str


def event_of(d: JobDate, job_name: str = "") -> Event:
    """As the core takes it."""
    who = d.who.get_username() if d.who else ""
    return Event(d.kind, d.day, job_name or str(d.job_id), who, d.done, d.pk)


def dates_view(job, user) -> DatesView:
    """What is dated, at risk, wanted twice."""
    today = timezone.localdate()
    dates = list(job.dates.select_related("who"))
    events = [event_of(d) for d in dates]
    risks: dict[int, str] = {}
    for risk in at_risk(events, today):
        risks.setdefault(risk.event.id, risk.why)
    people = [job.owner, *job.crew.all()]
    return DatesView(
        tuple(_row(d, risks, today) for d in dates),
        tuple((k, words) for k, (words, _) in DATE_KINDS.items()),
        tuple(p.get_username() for p in people),
        tuple(c for c in week_clashes(seen_dates(user)) if job.name in c),
        Feed.objects.filter(who=user).count(),
        "",
    )


def _row(d: JobDate, risks: dict[int, str], today: date) -> DateRow:
    words = DATE_KINDS.get(d.kind, (d.kind, ()))[0]
    who = d.who.get_username() if d.who else ""
    return DateRow(d.pk, words[:1].upper() + words[1:], d.day, who, d.note,
                    d.done, risks.get(d.pk, ""), d.day == today)  # fmt: skip


def seen_dates(user):
    """The dates of every job that a person sees, from a week back."""
    since = timezone.localdate() - timedelta(days=7)
    jobs = Job.objects.seen_by(user)
    return JobDate.objects.filter(job__in=jobs, day__gte=since).select_related("job", "who")


def week_clashes(dates: Iterable[JobDate]) -> list[str]:
    """One person at two jobs on one day, in words."""
    events = [event_of(d, d.job.name) for d in dates]
    return [
        f"{a.day:%a %d %b}: {a.who} is wanted at {a.job} ({DATE_KINDS[a.kind][0]}) and at {b.job}"
        f" ({DATE_KINDS[b.kind][0]})"
        for a, b in clashes(events)
    ]


@dataclass(frozen=True)
class WeekDay:
    """A day of the firm's week."""

    day: date
    lines: tuple[str, ...]


def week(dates: Iterable[JobDate]) -> tuple[WeekDay, ...]:
    """The next seven days of some jobs; days with nothing are left out."""
    today = timezone.localdate()
    found: dict[date, list[str]] = {}
    for d in dates:
        if today <= d.day < today + timedelta(days=7) and not d.done:
            words = DATE_KINDS.get(d.kind, (d.kind, ()))[0]
            who = f", {d.who.get_username()}" if d.who else ""
            found.setdefault(d.day, []).append(f"{d.job.name}: {words}{who}")
    return tuple(WeekDay(day, tuple(lines)) for day, lines in sorted(found.items()))


@require_POST
def date_form(request, pk: int):
    """Enter a date, tick it, take it away."""
    job = job_of(request, pk)
    there = address_of(job, "plan", {"show": "dates"}).here
    post = request.POST
    try:
        if number := post.get("n", "")[:12]:
            found = job.dates.filter(pk=number if number.isdecimal() else 0).first()
            if found is None:
                raise BadInput("That date was taken away meanwhile.")
            if post.get("do") == "drop":
                found.delete()
            else:
                done = post.get("do") == "done"
                if not job.dates.filter(pk=found.pk).update(done=done):
                    raise BadInput("That date was taken away meanwhile.")
        else:
            _enter(request, job)
    except BadInput as error:
        messages.error(request, error.sentence)
    return redirect(there)


def _enter(request, job) -> None:
    post = request.POST
    kind = post.get("kind", "")
    if kind not in DATE_KINDS:
        raise BadInput("Choose what happens on that day.")
    if job.dates.count() >= MOST_DATES:
        raise BadInput(f"A job keeps at most {MOST_DATES} dates.")
    try:
        day = parse_date(post.get("day", "")[:10])
    except ValueError:
        day = None
    if day is None or not 2000 <= day.year <= 2100:
        raise BadInput("That is no date; write 2026-11-30.")
    who = None
    if name := post.get("who", "")[:150]:
        people = get_user_model().objects.filter(username=name)
        who = people.filter(pk__in=[job.owner_id, *job.crew.values_list("pk", flat=True)]).first()
        if who is None:
            raise BadInput(f"{name} is not of this job's crew.")
    there, _ = JobDate.objects.get_or_create(
        client_id=queued.own_id(request),
        defaults={"job": job, "kind": kind, "day": day, "who": who, "by": request.user,
                  "note": " ".join(post.get("note", "").split())[:160]},
    )  # fmt: skip
    if (there.job_id, there.kind, there.day) != (job.pk, kind, day):
        raise BadInput(queued.OTHER_CONTENT)


def calendar_of(dates, name: str) -> bytes:
    """The iCalendar text of some dates."""
    calendar = Calendar()
    calendar.add("prodid", "-//Just Loop//dates//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", name)
    for d in dates:
        event = CalendarEvent()
        words = DATE_KINDS.get(d.kind, (d.kind, ()))[0]
        done = " (done)" if d.done else ""
        event.add("uid", f"{d.client_id}@just-loop")
        event.add("summary", f"{d.job.name}: {words}{done}")
        event.add("dtstart", d.day)
        event.add("dtend", d.day + timedelta(days=1))
        event.add("dtstamp", timezone.now())
        if d.note:
            event.add("description", d.note)
        if d.job.place:
            event.add("location", d.job.place)
        calendar.add_component(event)
    return bytes(calendar.to_ical())


@require_safe
def job_calendar(request, pk: int):
    """A job's dates as .ics."""
    job = job_of(request, pk)
    return _ics(calendar_of(job.dates.select_related("job"), job.name), f"job-{job.pk}")


def _ics(body: bytes, name: str) -> HttpResponse:
    return attached(body, "text/calendar", f"just-loop-{name}.ics")


@require_POST
def calendar_in(request, pk: int):
    """An .ics file of this job's dates: kinds by their words, once each by their uid."""
    job = job_of(request, pk)
    try:
        sent = sent_bytes(request, "a calendar (.ics)", MOST_BYTES)
        new, passed = _read_calendar(job, request.user, sent)
    except BadInput as error:
        messages.error(request, error.sentence)
    else:
        more = f"; {passed} of no kind that is known here were passed over" if passed else ""
        messages.info(request, f"{new} date{'s' if new != 1 else ''} read in{more}.")
    return redirect(address_of(job, "plan", {"show": "dates"}).here)


def _read_calendar(job, user, data: bytes) -> tuple[int, int]:
    try:
        calendar = Calendar.from_ical(data)
    except (ValueError, IndexError, KeyError, TypeError, AttributeError):
        raise BadInput("That is no calendar file.") from None
    new = passed = 0
    for event in list(calendar.walk("VEVENT"))[:MOST_DATES]:
        day, kind = _day(event), _kind(event)
        if kind is None or day is None:
            passed += 1
            continue
        uid = hashlib.sha256(f"{job.pk} {event.get('uid', '')} {day}".encode()).hexdigest()[:32]
        _, made = JobDate.objects.get_or_create(
            client_id=uid,
            defaults={"job": job, "kind": kind, "day": day, "by": user,
                      "note": str(event.get("description", ""))[:160]},
        )  # fmt: skip
        new += made
    return new, passed


def _day(event) -> date | None:
    """The day an event begins; None where its date is broken or cannot be."""
    try:
        found = event.get("dtstart").dt
    except (AttributeError, ValueError):  # none, or a broken one
        return None
    day = found.date() if isinstance(found, datetime) else found
    return day if isinstance(day, date) and 2000 <= day.year <= 2100 else None


def _kind(event) -> str | None:
    summary = str(event.get("summary", "")).lower()
    return next((k for k, (words, _) in DATE_KINDS.items() if words in summary), None)


@require_POST
def feed_form(request, pk: int):
    """A private calendar address of a person or a job: made, or all of theirs revoked."""
    job = job_of(request, pk)
    there = address_of(job, "plan", {"show": "dates"}).here
    if request.POST.get("do") == "revoke":
        count, _ = Feed.objects.filter(who=request.user).delete()
        messages.info(request, f"{count} calendar addresses revoked.")
        return redirect(there)
    if Feed.objects.filter(who=request.user).count() >= MOST_FEEDS:
        messages.error(request, f"At most {MOST_FEEDS} calendar addresses; revoke the old ones.")
        return redirect(there)
    secret = secrets.token_urlsafe(32)
    of_job = job if request.POST.get("of") == "job" else None
    Feed.objects.create(secret=_hashed(secret), who=request.user, job=of_job)
    address = request.build_absolute_uri(f"/calendar/{secret}.ics")
    messages.info(request, f"Your calendar's address, shown once: {address}")
    return redirect(there)


def _hashed(secret: str) -> str:
    return hashlib.sha256(secret.encode()).hexdigest()


@require_safe
@login_not_required
def feed(request, secret: str):
    """A private calendar: whoever has the address. Of a job, or of every job its person sees."""
    found = Feed.objects.select_related("who", "job").filter(secret=_hashed(secret[:80])).first()
    if found is None or not found.who.is_active:
        raise Http404
    seen = Job.objects.seen_by(found.who)
    if found.job is not None:
        job = get_object_or_404(seen, pk=found.job.pk)
        body = calendar_of(job.dates.select_related("job"), job.name)
    else:
        mine = JobDate.objects.filter(job__in=seen, who=found.who).select_related("job")
        body = calendar_of(mine, f"Just Loop, {found.who.get_username()}")
    return _ics(body, "calendar")
