"""Is a bundle whole, by whose key, and is it the newest signed state: three things, said apart; the
firm's keys, shown to anybody, kept by administrators."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.shortcuts import redirect
from django.utils import timezone
from django.utils.dateparse import parse_date
from django.views.decorators.http import require_http_methods

from returnpath.errors import BadInput
from returnpath.seal import (
    KnownKey,
    Verified,
    Whose,
    digest_of,
    fingerprint,
    same_key,
    verify_bundle,
    weak,
    whose,
)

from ..accounts import audit
from ..accounts.guests import is_guest
from ..accounts.models import Act
from ..accounts.people import administrators_only
from ..files import sent_bytes
from ..limits import MOST_PHOTOS
from ..pages import show
from ..signing import firm_key
from ..signing.models import FirmKey, SignOff


@dataclass(frozen=True)
class VerifyPage:
    """A bundle that was checked: its bytes, its key, its place among what was signed."""

    found: Verified | None
    error: str
    whose: str
    is_known: bool
    print_of: str
    record: str
    is_newest: bool


@require_http_methods(["GET", "HEAD", "POST"])
def verify(request):
    """The page, and a bundle on it."""
    page = VerifyPage(None, "", "", False, "", "", False)
    if request.method == "POST":
        try:
            page = _verified(request)
        except BadInput as bad:
            page = VerifyPage(None, bad.sentence, "", False, "", "", False)
    return show(request, "signing/verify.html", page)


def _verified(request) -> VerifyPage:
    data = sent_bytes(request, "a bundle", MOST_PHOTOS)
    found = verify_bundle(data)
    public = found.manifest.public_key
    asked = request.POST.get("key", "").strip()[:200]
    if weak(public):
        return VerifyPage(found, "", weak(public), False, "", "", False)
    owner, key = whose(public, found.manifest.signed.at, firm_key.known_keys())
    if asked and not same_key(asked, public):
        owner = Whose.OTHER
    elif asked and owner is Whose.UNKNOWN:
        owner = Whose.KNOWN
    record, is_newest = _record(found, digest_of(data))
    is_known, said = owner in (Whose.OURS, Whose.KNOWN), _words(owner, key)
    if is_known and key is not None and key.lost is not None:
        day = f"{timezone.localtime(key.lost):%Y-%m-%d}"
        is_known = is_ours_of_its_time(found, data)
        said = (
            f"A key that was lost from {day} on, before which this was signed: this server kept the"
            " very same file then."
            if is_known
            else f"A key that was lost from {day} on. This says to be signed before, but whoever"
            " found the key writes any date, and this server kept no such file then."
        )
    return VerifyPage(found, "", said, is_known, fingerprint(public), record, is_newest)


def is_ours_of_its_time(found: Verified, data: bytes) -> bool:
    """Whether this server's own record has this very file, kept before the key was lost or
    changed."""
    row = SignOff.objects.filter(hash=found.manifest.hash, bundle=digest_of(data)).first()
    key = FirmKey.objects.filter(public=found.manifest.public_key).first()
    if row is None or key is None:
        return False
    ends = [t for t in (key.until, key.lost) if t is not None]
    return not ends or row.at <= min(ends)


def _words(owner: Whose, key: KnownKey | None) -> str:
    name = f" ({key.name})" if key is not None and key.name else ""
    said = {
        Whose.OURS: "This firm’s key.",
        Whose.KNOWN: f"A key that is known{name}.",
        Whose.OTHER: "Another key than the one that was asked for: somebody else signed this.",
        Whose.UNKNOWN: "An unknown key: anybody can make such a bundle. Ask the firm for its"
        " fingerprint.",
    }
    if owner is not Whose.LOST or key is None:
        return said.get(owner, "")
    if key.lost is not None:
        return (
            f"A key{name} that was lost from {timezone.localtime(key.lost):%Y-%m-%d} on: what says"
            " to be signed since proves nothing."
        )
    until = f"{timezone.localtime(key.until):%Y-%m-%d %H:%M}" if key.until else "before"
    return f"A key{name} that signed until {until}; this says to be signed later."


def _record(found: Verified, digest: str) -> tuple[str, bool]:
    """(what this server's own record says, whether it is the newest signed state)."""
    row = SignOff.objects.filter(hash=found.manifest.hash).order_by("-at").first()
    if row is None:
        return "This server has no record of it.", False
    if row.bundle != digest:
        return "This server’s own record is of another file with the same manifest.", False
    newest = SignOff.objects.filter(job=row.job_id).order_by("-at", "-pk").first()
    if newest is None or newest.pk == row.pk:
        return "This server’s own record agrees. It is the newest signed state of the job.", True
    at = f"{timezone.localtime(newest.at):%Y-%m-%d %H:%M}"
    return (
        f"This server’s own record agrees. It is superseded: revision {newest.number} was signed"
        f" on {at} ({newest.hash[:16]})."
    ), False


@dataclass(frozen=True)
class KeysPage:
    """The firm's keys, and those of others it knows."""

    keys: Any
    signs: str
    may_change: bool
    error: str
    today: Any


@login_not_required
@require_http_methods(["GET", "HEAD", "POST"])
def keys(request):
    """Anybody sees the fingerprints; an administrator changes a key, says one lost, enters another
    firm's."""
    error = ""
    if request.method == "POST":
        administrators_only(request)
        try:
            said = _change(request)
        except BadInput as bad:
            error = bad.sentence
        else:
            audit.note(request, Act.ACCOUNT, said[:200])
            messages.info(request, said)
            return redirect("keys")
    found = firm_key.known_keys()
    shown = FirmKey.objects.all()
    if is_guest(request.user):
        shown = shown.filter(is_ours=True)
    page = KeysPage(shown, firm_key.firm_fingerprint() if found else "", request.user.is_staff,
                    error, timezone.localdate())  # fmt: skip
    return show(request, "signing/keys.html", page)


def _change(request) -> str:
    post = request.POST
    do = post.get("do", "")
    if do == "change":
        made = firm_key.change_key()
        return f"A new key signs from now on: {made.fingerprint}."
    if do == "know":
        made = firm_key.know_key(post.get("public", "")[:200], post.get("name", ""))
        return f"Known: {made.name}, {made.fingerprint}."
    if do == "lost":
        key = FirmKey.objects.filter(public=post.get("key", "")[:64]).first()
        if key is None:
            raise BadInput("That key is not on the list.")
        firm_key.mark_lost(key, _day(post.get("day", "")))
        return f"Lost from that day: {key.fingerprint}. What is dated since proves nothing."
    raise BadInput("The page is out of date: load it again.")


def _day(text: str) -> datetime:
    try:
        day = parse_date(text[:10])
    except ValueError:
        day = None
    if day is None or day > timezone.localdate():
        raise BadInput("From which day it is lost: write 2026-11-30, today or before.")
    return timezone.make_aware(datetime(day.year, day.month, day.day))
