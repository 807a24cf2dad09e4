"""What waited on a phone without signal: entries with own ids, sent once, answered as JSON."""

import uuid
from datetime import datetime, timedelta

from django.http import HttpRequest, JsonResponse
from django.middleware.csrf import get_token
from django.utils import timezone
from django.utils.dateparse import parse_datetime
from django.views.decorators.http import require_safe

OLDEST = timedelta(days=60)


def is_queued(request: HttpRequest) -> bool:
    """Whether a page's script sends it and waits for JSON."""
    return request.headers.get("X-Queued") is not None


def answer(words: str = "", problem: str = "", then: str = "") -> JsonResponse:
    """Kept (200), or not and why (422): the entry stays on the phone then."""
    if problem:
        return JsonResponse({"problem": problem}, status=422)
    return JsonResponse({"words": words, "then": then})


def own_id(request: HttpRequest, n: int = 0) -> uuid.UUID:
    """The entry's own id, of its ``n``th part; a new one where it has none."""
    try:
        given = uuid.UUID(request.POST.get("client_id", "")[:40])
    except ValueError:
        return uuid.uuid4()
    return given if n == 0 else uuid.uuid5(given, str(n))


def when(request: HttpRequest) -> datetime:
    """When it was done: the phone's word where that is plausible, else now."""
    now = timezone.now()
    try:
        said = parse_datetime(request.POST.get("at_time", "")[:40])
    except ValueError:
        return now
    if said is None or timezone.is_naive(said) or not now - OLDEST < said <= now:
        return now
    return said


@require_safe
def ready(request: HttpRequest) -> JsonResponse:
    """Who is signed in, and a fresh token: asked before anything that waited is sent."""
    return JsonResponse({"person": request.user.get_username(), "token": get_token(request)})
