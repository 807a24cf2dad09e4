"""The sessions of a person: listed, and ended from elsewhere."""

import time
from collections import OrderedDict
from collections.abc import Callable
from contextlib import suppress

from django.contrib.sessions.models import Session
from django.db import DatabaseError, transaction
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from .models import Seat
from .session_store import MARK

SEEN_EVERY_S = 600  # a session says so often that it is in use
MOST_NOTED = 10_000


def take(request, user) -> None:
    """A seat for the session that has just begun."""
    if not request.session.session_key:
        request.session.save()
    if request.session.session_key.startswith(MARK):
        return  # in a cookie while the disk is full: it ends by itself
    with suppress(DatabaseError), transaction.atomic():
        Seat.objects.update_or_create(
            session_key=request.session.session_key,
            defaults={
                "person": user,
                "seen": timezone.now(),
                "address": (request.META.get("REMOTE_ADDR") or "")[:45],
                "agent": " ".join(request.headers.get("User-Agent", "").split())[:120],
            },
        )


def leave(request) -> None:
    """The session is over."""
    with suppress(DatabaseError), transaction.atomic():
        Seat.objects.filter(session_key=request.session.session_key or "").delete()


def of(user) -> list[Seat]:
    """The seats whose session is still alive, the last used first."""
    alive = Session.objects.filter(expire_date__gt=timezone.now()).values("session_key")
    return list(Seat.objects.filter(person=user, session_key__in=alive))


def end(user, but: str = "") -> int:
    """End a person's sessions, except the one with the key ``but``; how many."""
    seats = Seat.objects.filter(person=user).exclude(session_key=but)
    keys = list(seats.values_list("session_key", flat=True))
    Session.objects.filter(session_key__in=keys).delete()
    seats.delete()
    return len(keys)


class SeatSeen:
    """Notes now and then that a session is in use."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]):
        self.get_response = get_response
        self.noted: OrderedDict[str, float] = OrderedDict()

    def __call__(self, request: HttpRequest) -> HttpResponse:
        key = request.session.session_key
        if key and request.user.is_authenticated:
            self._note(key)
        return self.get_response(request)

    def _note(self, key: str) -> None:
        """Kept in memory between, so that a page costs no write; a full disk stops no page."""
        now = time.monotonic()
        if now - self.noted.get(key, -SEEN_EVERY_S) < SEEN_EVERY_S:
            return
        self.noted[key] = now
        while len(self.noted) > MOST_NOTED:
            self.noted.popitem(last=False)
        with suppress(DatabaseError), transaction.atomic():
            Seat.objects.filter(session_key=key).update(seen=timezone.now())
