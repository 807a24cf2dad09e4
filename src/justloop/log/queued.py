"""What waited on a phone without signal: entries with own ids, sent once, answered as JSON."""

import uuid
from collections.abc import Callable
from datetime import datetime, timedelta
from urllib.parse import unquote

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.middleware.csrf import get_token
from django.utils import timezone
from django.utils.dateparse import parse_datetime
from django.views.decorators.http import require_safe

OLDEST = timedelta(days=60)
FRESH = timedelta(minutes=1)


def is_queued(request: HttpRequest) -> bool:
    """Whether a page's script sends it and waits for JSON."""
    return request.headers.get("X-Queued") is not None


def waited(request: HttpRequest) -> bool:
    """Whether it waited on a phone before it was sent: a page's script says of what it sends in
    the moment it is pressed that it is sent now, and the phone's own two times bear it out."""
    if not is_queued(request):
        return False
    if request.headers.get("X-Queued") != "now":
        return True
    made, sent = _time(request.POST.get("at_time", "")), _time(request.POST.get("now_time", ""))
    return made is None or sent is None or not timedelta() <= sent - made < FRESH


def answer(words: str = "", problem: str = "", then: str = "") -> JsonResponse:
    """Kept (200), or not and why (422): the entry stays on the phone then."""
    if problem:
        return JsonResponse({"problem": problem}, status=422)
    return JsonResponse({"words": words, "then": then, "now": timezone.now().isoformat()})


def own_id(request: HttpRequest, n: int = 0) -> uuid.UUID:
    """The entry's own id, of its ``n``th part; a new one where it has none."""
    try:
        given = uuid.UUID(request.POST.get("client_id", "")[:40])
    except ValueError:
        return uuid.uuid4()
    return given if n == 0 else uuid.uuid5(given, str(n))


OTHER_CONTENT = (
    "Not kept: an entry of this id is kept already, with other content. Type it again as a new one."
)
SKEW_SAID = timedelta(minutes=1)


def skew_of(request: HttpRequest) -> timedelta:
    """How far the phone's clock is behind the server's, by the time it says it is now; nothing
    where it does not say."""
    said = _time(request.POST.get("now_time", ""))
    return timezone.now() - said if said is not None else timedelta()


def skew_words(request: HttpRequest) -> str:
    """What is said of a clock that is wrong by a minute or more."""
    skew = skew_of(request)
    if abs(skew) < SKEW_SAID:
        return ""
    minutes = round(abs(skew).total_seconds() / 60)
    late = "slow" if skew > timedelta() else "fast"
    return f" This phone’s clock is {minutes} min {late}: times are kept by the server’s."


def when(request: HttpRequest) -> datetime:
    """When it was done, by the server's clock: the phone's word, its skew taken out, where that is
    plausible; else now."""
    now = timezone.now()
    said = _time(request.POST.get("at_time", ""))
    if said is None:
        return now
    said += skew_of(request)
    if now < said <= now + SKEW_SAID:
        return now  # what two clocks differ by while it is sent
    return said if now - OLDEST < said <= now else now


def _time(text: str) -> datetime | None:
    try:
        said = parse_datetime(text[:40])
    except ValueError:
        return None
    return None if said is None or timezone.is_naive(said) else said


class AsWhoMadeIt:
    """An entry that waited on a phone is taken of the person who made it alone."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]):
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        said = request.headers.get("X-Person")
        if request.method == "POST" and said is not None:
            who = unquote(said[:600])
            here = request.user.get_username() if request.user.is_authenticated else "nobody"
            if who != here:
                words = f"{who[:150]} made it and {here} is signed in: only who made it sends it."
                return JsonResponse({"problem": words, "sentence": words}, status=409)
        return self.get_response(request)


@require_safe
def ready(request: HttpRequest) -> JsonResponse:
    """Who is signed in, and a fresh token: asked before anything that waited is sent."""
    return JsonResponse({"person": request.user.get_username(), "token": get_token(request)})
