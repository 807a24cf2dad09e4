"""The firm's breaker lines; a job's local practice and its named profiles."""

from dataclasses import asdict, dataclass
from typing import Any

from django.contrib import messages
from django.contrib.auth import get_user_model
from django.db import transaction
from django.shortcuts import redirect
from django.views.decorators.http import require_http_methods, require_safe

from returnpath.errors import BadInput
from returnpath.site import Practice, Set, dumps_practice, field_info, fields_of, loads_practice
from returnpath.site.breaker_lines import read_lines_csv, write_lines
from returnpath.site.edits import Require, Unrequire
from returnpath.site.installation import Requirement

from ..accounts import audit
from ..accounts.guests import not_for_guests, of_the_firm
from ..accounts.models import Act
from ..accounts.people import administrators_only
from ..address import job_address
from ..files import attached, sent_text
from ..jobs import revisions
from ..jobs.access import job_of
from ..pages import show
from .models import Firm, FirmLine, PracticeProfile

MOST_BYTES = 200_000
MOST_PROFILES = 50


@dataclass(frozen=True)
class School:
    """A school of the local practice: its choices, and the reasons for each."""

    path: str
    label: str
    reasons: list[str]
    choices: list[tuple[str, str, bool]]


@dataclass(frozen=True)
class FirmPage:
    """What the firm keeps."""

    firm: Firm
    lines: int
    profiles: Any
    people: int


@require_http_methods(["GET", "HEAD", "POST"])
def firm(request):
    """One place for what the firm keeps: its name on papers, lists, people. The firm's people may
    read."""
    not_for_guests(request)
    ours = Firm.ours()
    if request.method == "POST":
        administrators_only(request)
        for field in ("name", "licence"):
            most = Firm._meta.get_field(field).max_length
            setattr(ours, field, " ".join(request.POST.get(field, "").split())[:most])
        ours.save()
        audit.note(request, Act.ACCOUNT, "the firm's name and licence line")
        messages.info(request, "Kept. The papers made from now on carry it.")
        return redirect("firm")
    shown = FirmPage(
        firm=ours,
        lines=FirmLine.objects.count(),
        profiles=PracticeProfile.objects.all(),
        people=get_user_model().objects.filter(is_active=True).count(),
    )
    return show(request, "firm/firm.html", shown)


@dataclass(frozen=True)
class BreakerLinesPage:
    """The firm's breaker lines."""

    lines: list
    error: str


@require_http_methods(["GET", "HEAD", "POST"])
def breaker_lines(request):
    """The list; a CSV takes its place, or adds to it."""
    not_for_guests(request)
    error = ""
    if request.method == "POST":
        administrators_only(request)
        error = _take_list(request)
        if not error:
            return redirect("breaker-lines")
    lines = [one.line for one in FirmLine.objects.all()]
    return show(request, "firm/breakers.html", BreakerLinesPage(lines=lines, error=error))


def _take_list(request) -> str:
    """Read an uploaded list; the sentence to show where it cannot be."""
    try:
        lines = read_lines_csv(sent_text(request, "a list of breaker lines", MOST_BYTES))
    except BadInput as bad:
        return bad.sentence
    if not lines:
        return "The list has no row."
    with transaction.atomic():
        FirmLine.objects.all().delete()
        for line in lines:
            facts = asdict(line)
            FirmLine.objects.create(name=facts.pop("name"), facts=facts)
    audit.note(request, Act.ACCOUNT, f"the firm's breaker lines: {len(lines)}")
    messages.info(request, f"{len(lines)} breaker lines are kept.")
    return ""


@require_safe
def breaker_lines_file(request):
    """The list as CSV."""
    not_for_guests(request)
    text = write_lines([one.line for one in FirmLine.objects.all()])
    return attached(text, "text/csv", "breaker-lines.csv")


@dataclass(frozen=True)
class PracticePage:
    """The schools of a job, with both reasons."""

    job: Any
    base: int
    schools: list
    required_by: str
    requirements: list
    profiles: Any
    error: str
    typed: dict
    back: str


@require_http_methods(["GET", "HEAD", "POST"])
def practice(request, pk: int):
    """Each school with both reasons, local requirements, and named profiles."""
    job = job_of(request, pk)
    error, typed = "", {}
    if request.method == "POST":
        typed = {k: request.POST.get(k, "")[:200] for k in ("text", "who", "when", "name")}
        try:
            told = _change_practice(request, job)
        except BadInput as bad:
            error = bad.sentence
        else:
            if told:
                messages.info(request, told)
            return redirect("practice", pk=pk)
    site = job.latest.site
    shown = PracticePage(
        job=job,
        base=job.latest.number,
        schools=[_school(site.practice, info) for info in fields_of(Practice) if info.choices],
        required_by=site.practice.clearing_required_by or "",
        requirements=list(enumerate(site.practice.requirements)),
        profiles=of_the_firm(PracticeProfile.objects.all(), request.user),
        error=error,
        typed=typed,
        back=job_address(job),
    )
    return show(request, "firm/practice.html", shown, site=site)


def _school(of: Practice, info) -> School:
    """One school: its choices, and the reasons for each."""
    return School(
        path=info.path,
        label=info.label,
        reasons=[r.strip() for r in info.help.split(". ") if r.strip()],
        choices=[
            (value, words, str(getattr(of, info.path)) == value)
            for value, words in info.choices.items()
        ],
    )


def _change_practice(request, job) -> str:
    """Do what a form of the page asks; what to tell."""
    post, site = request.POST, job.latest.site
    number = post.get("base", "")
    base = int(number) if number.isdecimal() and len(number) < 9 else job.latest.number
    op = post.get("op", "")
    if op == "school":
        path = f"practice.{post.get('path', '')[:40]}"
        info = field_info(site.practice, post.get("path", "")[:40])
        edits = [Set(path=path, value=_choice(info, post.get("value", "")))]
    elif op == "clearing-by":
        edits = [Set(path="practice.clearing_required_by", value=post.get("text", "")[:80] or None)]
    elif op == "require":
        words = {k: " ".join(post.get(k, "").split()) for k in ("text", "who", "when")}
        if not words["text"] or not words["who"]:
            raise BadInput("A requirement says what is asked, and who said so.")
        edits = [Require(text=words["text"][:200], who=words["who"][:80], when=words["when"][:40])]
    elif op == "unrequire":
        number = post.get("number", "")
        if not number.isdecimal() or int(number) >= len(site.practice.requirements):
            raise BadInput("That requirement is gone already.")
        edits = [Unrequire(text=site.practice.requirements[int(number)].text)]
    elif op == "save-profile":
        return _save_profile(request, site.practice)
    elif op == "use-profile":
        profile = PracticeProfile.objects.filter(name=post.get("name", "")[:60]).first()
        if profile is None:
            raise BadInput("There is no such profile.")
        edits = edits_to(site.practice, loads_practice(profile.document))
    elif op == "file":
        wanted = loads_practice(sent_text(request, "a practice file", MOST_BYTES))
        edits = edits_to(site.practice, wanted)
    else:
        raise BadInput("The page is out of date: load it again.")
    return revisions.save_edits(job, request.user, base, edits).told


def _choice(info, value: str):
    if value not in info.choices:
        raise BadInput(
            f"{info.label.capitalize()}: choose one of {', '.join(info.choices.values())}."
        )
    return info.values[value]


def _save_profile(request, practice_of_job: Practice) -> str:
    name = " ".join(request.POST.get("name", "").split())[:60]
    if not name:
        raise BadInput("Give the profile a name.")
    if PracticeProfile.objects.count() >= MOST_PROFILES:
        raise BadInput(f"At most {MOST_PROFILES} profiles are kept.")
    PracticeProfile.objects.update_or_create(
        name=name, defaults={"document": dumps_practice(practice_of_job), "by": request.user}
    )
    return f"Kept as the profile “{name}”."


def edits_to(now: Practice, wanted: Practice) -> list:
    """The edits that turn one practice into another."""
    edits: list = []
    for info in fields_of(Practice):
        value = getattr(wanted, info.path)
        if getattr(now, info.path) != value:
            edits.append(Set(path=f"practice.{info.path}", value=value))
    for one in now.requirements:
        if one not in wanted.requirements:
            edits.append(Unrequire(text=one.text))
    missing: list[Requirement] = [r for r in wanted.requirements if r not in now.requirements]
    edits += [Require(text=r.text, who=r.who, when=r.when) for r in missing]
    return edits
