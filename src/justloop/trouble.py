"""What cannot be kept or read, said to the person; what is kept can always be read on."""

import contextlib
import errno
import logging
from collections.abc import Callable
from dataclasses import dataclass

from django.conf import settings
from django.db import DatabaseError, IntegrityError, OperationalError, connection, transaction
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.template.loader import get_template

from returnpath.errors import BadInput

from .pages import context_of, show

logger = logging.getLogger(__name__)
BUSY_MS = 1000 * int(settings.DATABASES["default"]["OPTIONS"]["timeout"])

#: What SQLite says → what it means to the person.
REASONS = {
    "disk is full": "the disk is full",
    "readonly database": "the application may not write to its folder",
    "unable to open database": "the application may not write to its folder",
    "disk i/o error": "the disk does not answer",
    "malformed": "the database file is damaged",
    "not a database": "the database file is damaged",
    "locked": "others are saving at the same moment",
}
STILL_READ = "What was saved before can still be read."


def why_not_kept(error: DatabaseError) -> str:
    """A sentence where nothing can be kept for a reason that a person can mend; else ""."""
    said = str(error).lower()
    for words, meaning in REASONS.items():
        if words in said:
            return f"Not saved: {meaning}. {STILL_READ} Tell whoever runs this installation."
    return ""


def beside_looking(write: Callable[[], object]) -> None:
    """What a look writes by the way: it waits for nobody, and where the database takes nothing the
    look goes on without it."""
    with contextlib.suppress(DatabaseError):
        with connection.cursor() as cursor:
            cursor.execute("PRAGMA busy_timeout=0")
        try:
            with transaction.atomic():
                write()
        finally:
            with connection.cursor() as cursor:
                cursor.execute(f"PRAGMA busy_timeout={BUSY_MS}")


def _gone(error: DatabaseError) -> str:
    """A sentence where a row was taken away, or came twice, between the look and the write."""
    said = str(error)
    if "did not affect any rows" in said or "FOREIGN KEY" in said:
        return "Not kept: what it belongs to was taken away meanwhile. Load the page again."
    if isinstance(error, IntegrityError) and "UNIQUE" in said:
        return "The same came twice at the same moment: it is kept once. Load the page again."
    return ""


@dataclass(frozen=True)
class SentencePage:
    """One sentence; with the job whose newest revision cannot be read, where it is that."""

    what: str
    unreadable: object = None
    typed: tuple[str, ...] = ()


#: What a form carries beside what somebody typed.
NOT_TYPED = frozenset(
    word
    for line in (
        "csrfmiddlewaretoken once base stage at loop look more map beside show q tab next op path",
        "do step client_id at_time now_time seen waiting username password password1 password2",
        "otp_token old_password new_password1 new_password2 token code",
    )
    for word in line.split()
)


def typed_in(request: HttpRequest) -> tuple[str, ...]:
    """What somebody typed into a form that could not be kept: it is shown, to be copied."""
    if request.method != "POST":
        return ()
    try:
        fields = [(k, v) for k in request.POST for v in request.POST.getlist(k)]
    except OSError:  # what was sent could not even be taken in
        return ()
    return tuple(v[:4000] for k, v in fields if k not in NOT_TYPED and len(v.strip()) > 1)[:40]


def answer(request: HttpRequest, what: str, status: int, unreadable=None) -> HttpResponse:
    """One sentence on a page of its own; a page that asked for a part of itself shows it on top,
    and nothing of it is lost (app.js)."""
    typed = typed_in(request) if status in (409, 503) else ()
    page = SentencePage(what, unreadable, typed)
    try:
        return show(request, "wrong.html", page, status=status)
    except DatabaseError:  # who asks cannot be looked up: a page that asks the database nothing
        return HttpResponse(get_template("bare.html").render(context_of(page)), status=status)


class Trouble:
    """Answers what goes wrong outside a form: a full disk, a revision that cannot be read, a
    person whose session ended."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]):
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        signed_out = response.status_code == 302 and not request.user.is_authenticated
        if signed_out and request.headers.get("HX-Request") == "true":
            what = (
                "You are signed out. Sign in in another window and try again: what you typed is"
                " still here."
            )
            return answer(request, what, 401)
        return response

    def process_exception(self, request: HttpRequest, error: Exception) -> HttpResponse | None:
        """A page for what a person can do something about; None for our own faults."""
        from .jobs.access import OnlyRead  # the middleware is made before the models are

        if isinstance(error, OperationalError) and (why := why_not_kept(error)):
            logger.error("Nothing can be kept: %s", error)
            return answer(request, why, 503)
        if isinstance(error, OSError) and error.errno == errno.ENOSPC:
            logger.error("Nothing can be kept: %s", error)
            return answer(request, why_not_kept(OperationalError("disk is full")), 503)
        if isinstance(error, DatabaseError) and (gone := _gone(error)):
            if request.headers.get("X-Queued") or request.headers.get("X-Waited"):
                return JsonResponse({"problem": gone, "sentence": gone}, status=409)
            return answer(request, gone, 409)
        if isinstance(error, OnlyRead):
            return answer(request, error.sentence, 403)
        if isinstance(error, BadInput):
            return self._unreadable(request, error)
        return None

    def _unreadable(self, request: HttpRequest, error: BadInput) -> HttpResponse:
        from .jobs import readable  # the middleware is made before the models are

        pk = request.resolver_match.kwargs.get("pk") if request.resolver_match else None
        found = readable.of(request.user, pk) if pk else None
        if found is None or not found.is_newest_unreadable:
            return answer(request, error.sentence, 400)
        logger.error("Job %s, revision %s: %s", pk, found.newest.number, error.sentence)
        return answer(request, found.sentence, 409, found)
