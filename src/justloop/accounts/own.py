"""A person's own page: password, sessions, second factor."""

from dataclasses import dataclass
from typing import Any

from django.contrib import messages
from django.contrib.auth import update_session_auth_hash
from django.contrib.auth.forms import PasswordChangeForm
from django.shortcuts import redirect
from django.views.decorators.http import require_http_methods, require_POST
from django_otp.plugins.otp_static.models import StaticToken

from ..pages import show
from . import audit, seats, second
from .boxes import boxed
from .models import Act


@dataclass(frozen=True)
class OwnPage:
    """A person's own page."""

    form: Any
    seats: list
    second: bool
    codes: int


@require_http_methods(["GET", "HEAD", "POST"])
def me(request):
    """The page; a new password ends the sessions elsewhere."""
    form = PasswordChangeForm(request.user, request.POST if request.method == "POST" else None)
    form.fields["old_password"].widget.attrs.pop("autofocus", None)  # the page is more than it
    if request.method == "POST" and form.is_valid():
        form.save()
        update_session_auth_hash(request, form.user)
        ended = seats.end(request.user, but=request.session.session_key or "")
        seats.take(request, request.user)
        audit.note(request, Act.ACCOUNT, "new password")
        elsewhere = f" {ended} sessions elsewhere are over." if ended else ""
        messages.info(request, f"The password is changed.{elsewhere}")
        return redirect("me")
    own = request.session.session_key
    shown = OwnPage(
        form=boxed(form),
        seats=[(seat, seat.session_key == own) for seat in seats.of(request.user)],
        second=second.is_on(request.user),
        codes=StaticToken.objects.filter(device__user=request.user).count(),
    )
    return show(request, "accounts/me.html", shown)


@require_POST
def sign_out_elsewhere(request):
    """End every other session of this person."""
    ended = seats.end(request.user, but=request.session.session_key or "")
    audit.note(request, Act.SIGN_OUT, "elsewhere")
    messages.info(request, f"{ended} sessions elsewhere are over." if ended else "There was none.")
    return redirect("me")
