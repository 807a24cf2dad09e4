"""Who may do what at every address: the matrix that tests and the campaign walk.

A new address fails both until it stands here.
"""

import io
from dataclasses import dataclass, field

from django.urls import get_resolver, reverse
from PIL import Image

#: From nobody to the owner; ``administrator`` has no part in the job.
ROLES = ("nobody", "guest", "stranger", "administrator", "reader", "editor", "owner")
_OPEN = frozenset(ROLES)
_PERSON = _OPEN - {"nobody"}
_FIRM = _PERSON - {"guest"}
_ADMIN = frozenset({"administrator"})
_SEE = frozenset({"reader", "editor", "owner"})
_EDIT = frozenset({"editor", "owner"})
_OWN = frozenset({"owner"})
_NONE: frozenset[str] = frozenset()


@dataclass(frozen=True)
class Rule:
    """Who may get an address, and who may post to it (with ``data``)."""

    get: frozenset[str] = _NONE
    post: frozenset[str] = _NONE
    data: dict = field(default_factory=dict)


RULES = {
    "sign-in": Rule(_OPEN, _OPEN),
    "sign-in-code": Rule(_OPEN, _OPEN),
    "demo-sign-in": Rule(),
    "theme": Rule(post=_OPEN),
    "healthz": Rule(_OPEN),
    "join": Rule(_OPEN, _OPEN),
    "new-password": Rule(_OPEN, _OPEN),
    "sign-out": Rule(post=_PERSON),
    "me": Rule(_PERSON, _PERSON),
    "sign-out-elsewhere": Rule(post=_PERSON),
    "second-factor": Rule(_PERSON, _PERSON),
    "recovery-codes": Rule(post=_PERSON),
    "second-factor-off": Rule(post=_PERSON),
    "jobs": Rule(_PERSON),
    "read-line": Rule(_PERSON),
    "new-job": Rule(_FIRM, _FIRM),
    "open-file": Rule(post=_FIRM),
    "quick": Rule(_PERSON),
    "firm": Rule(_FIRM, _ADMIN, {"name": "Loop and Daughters"}),
    "breaker-lines": Rule(_FIRM, _ADMIN),
    "breaker-lines-file": Rule(_FIRM),
    "people": Rule(_ADMIN, _ADMIN, {"do": "invite"}),
    "log": Rule(_ADMIN),
    "locks-for-another": Rule(_ADMIN, _ADMIN),
    "keys": Rule(_OPEN, _ADMIN, {"do": "?"}),
    "field-ready": Rule(_PERSON),
    "service-worker": Rule(_OPEN),
    "crew": Rule(_SEE, _OWN, {"do": "editor", "name": "nobody-here"}),
    "put-away": Rule(post=_OWN, data={"shelf": ""}),
    "copy-job": Rule(post=_SEE),
    "job-log": Rule(_OWN),
    "practice": Rule(_SEE, _EDIT, {"op": "none"}),
    "workspace": Rule(_SEE),
    "array-labels": Rule(_SEE),
    "array-labels-svg": Rule(_SEE),
    "keep-reading": Rule(post=_EDIT),
    "add-readings": Rule(post=_EDIT),
    "use-reading": Rule(post=_EDIT),
    "drop-reading": Rule(post=_EDIT),
    "begin-work": Rule(post=_EDIT),
    "work": Rule(_SEE),
    "tick-step": Rule(post=_EDIT),
    "add-lock": Rule(post=_EDIT),
    "lock-off": Rule(post=_EDIT),
    "locks-now": Rule(_SEE),
    "enter-step": Rule(post=_EDIT),
    "take-back": Rule(post=_EDIT),
    "parts-csv": Rule(_SEE),
    "allowed-zs": Rule(_SEE),
    "schedule-pdf": Rule(_SEE),
    "parts-pdf": Rule(_SEE),
    "prices-csv": Rule(_FIRM),
    "prices-in": Rule(post=_EDIT),
    "dates": Rule(post=_EDIT),
    "job-calendar": Rule(_SEE),
    "calendar-in": Rule(post=_EDIT),
    "feed-form": Rule(post=_EDIT),
    "feed": Rule(),
    "office": Rule(post=_EDIT),
    "form-in": Rule(post=_EDIT),
    "form-out": Rule(_PERSON),
    "begin-visit": Rule(post=_EDIT),
    "visit": Rule(_SEE),
    "visit-form": Rule(post=_EDIT),
    "report": Rule(_SEE),
    "report-pdf": Rule(_SEE),
    "sign-off": Rule(post=_EDIT),
    "bundle": Rule(_SEE),
    "owner-walk": Rule(_SEE),
    "verify": Rule(_PERSON, _PERSON),
    "learn": Rule(_PERSON),
    "learn-try": Rule(_PERSON, _PERSON),
    "learn-sizes": Rule(_PERSON, _PERSON),
    "lesson": Rule(_PERSON),
    "known": Rule(_PERSON),
    "known-csv": Rule(_PERSON),
    "begin-round": Rule(post=_PERSON),
    "round": Rule(),
    "play": Rule(),
    "readings-file": Rule(post=_EDIT),
    "read-back": Rule(_SEE),
    "instruments": Rule(post=_EDIT),
    "add-photos": Rule(post=_EDIT),
    "photo": Rule(_SEE, _EDIT, {"do": "unmark"}),
    "photo-image": Rule(_SEE),
    "photo-small": Rule(_SEE),
    "note-slot": Rule(post=_EDIT),
    "readings-csv": Rule(_SEE),
    "readings-json": Rule(_SEE),
    "edit": Rule(post=_EDIT, data={"op": "set", "path": "p1.name", "text": "Main"}),
    "keep": Rule(post=_EDIT),
    "discard": Rule(post=_EDIT),
    "undo": Rule(post=_EDIT),
    "redo": Rule(post=_EDIT),
    "history": Rule(_SEE),
    "old-revision": Rule(_SEE),
    "name-revision": Rule(post=_EDIT, data={"name": "as found"}),
    "go-on": Rule(post=_EDIT),
    "raw-revision": Rule(_SEE),
    "compare": Rule(_SEE),
    "drawing": Rule(_SEE),
    "job-file": Rule(_SEE),
    "circuits-file": Rule(_SEE),
    "practice-file": Rule(_SEE),
    "test-sheet": Rule(_SEE),
    "sheet": Rule(_SEE),
    "record": Rule(_SEE),
    "door-card": Rule(_SEE),
    "door-card-svg": Rule(_SEE),
    "find-circuits": Rule(_SEE, _EDIT, {"do": "on"}),
    "find-now": Rule(_SEE),
}


def addresses(job) -> dict[str, str]:
    """Every named address, with this job's number in it."""
    found = {}
    photo = job.photos.first() or a_photo(job)
    for pattern in get_resolver().url_patterns:
        for one in getattr(pattern, "url_patterns", [pattern]):
            arguments = {}
            for key, converter in one.pattern.converters.items():
                whole = type(converter).__name__ == "IntConverter"
                arguments[key] = (1 if key == "number" else job.pk) if whole else "service"
            if one.name == "drawing":
                arguments["name"] = "map"
            if one.name in ("door-card", "door-card-svg"):
                arguments["panel"] = job.latest.site.panel.id
            if one.name.startswith("photo"):
                arguments["number"] = photo.pk
            if one.name in ("work", "tick-step", "enter-step", "take-back", "add-lock"):
                arguments["number"] = (job.works.first() or a_work(job)).pk
            if one.name in ("visit", "visit-form"):
                arguments["number"] = (job.visits.first() or a_visit(job)).pk
            if one.name == "learn-try":
                arguments["key"] = "one-ohm"
            if one.name == "learn-sizes":
                arguments["topic"] = "egc"
            if one.name == "lesson":
                arguments["number"] = 1
            if one.name == "bundle":
                arguments["number"] = (job.signed.first() or a_bundle(job)).pk
            if one.name == "form-out":
                arguments["key"] = "bond-cure"
            found[one.name] = reverse(one.name, kwargs=arguments)
    return found


def a_bundle(job):
    """A signed state with a file."""
    from justloop.signing.models import SignOff
    from justloop.signing.sealing import bundle_path

    path = bundle_path("0" * 64)
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(b"PK")
    return SignOff.objects.create(job=job, number=1, manifest="{}", hash="0", bundle="0" * 64)


def a_work(job):
    """A procedure under way."""
    from justloop.planning.models import Work

    panel = job.latest.site.panel.id
    return Work.objects.create(job=job, form="panel-cut-in", subject=panel, title="Cables")


def a_visit(job):
    """A visit of the office."""
    from justloop.planning.models import Visit

    return Visit.objects.create(job=job, kind="rough", day="2026-11-30")


def a_photo(job):
    """A photograph of a job, kept."""
    from justloop.log.models import Photo  # where Django is set up, not where this is imported
    from justloop.log.photos import keep_image

    picture = io.BytesIO()
    Image.new("RGB", (40, 30), "peru").save(picture, "JPEG")
    kept = keep_image(picture.getvalue())
    return Photo.objects.create(job=job, sha256=kept.sha256, width=40, height=30)


def may(answer) -> bool:
    """Whether an answer let the person in: no sign-in page, no refusal, nothing kept from them."""
    if answer.status_code == 302:
        return "/sign-in?next" not in answer["Location"]
    return answer.status_code not in (401, 403, 404, 405)
