"""The second factor: an authenticator's code (TOTP), and recovery codes for the day it is lost."""

import io
import time
from dataclasses import dataclass

import segno
from django.contrib import messages
from django.contrib.auth import get_user_model, login
from django.contrib.auth.decorators import login_not_required
from django.shortcuts import redirect, resolve_url
from django.utils.http import url_has_allowed_host_and_scheme
from django.utils.safestring import mark_safe
from django.views.decorators.http import require_http_methods, require_POST
from django_otp import match_token
from django_otp.plugins.otp_static.models import StaticDevice, StaticToken
from django_otp.plugins.otp_totp.models import TOTPDevice

from ..pages import show
from . import audit
from .models import Act

HALF_WAY_S = 300  # so long the code may be typed after the password
CODES = 10
ISSUER = "Just Loop"


def is_on(user) -> bool:
    """Whether a person signs in with a code."""
    return TOTPDevice.objects.filter(user=user, confirmed=True).exists()


def half_way(request, user, backend: str, target: str):
    """The password was right: remember that, and ask for the code."""
    request.session["half"] = {
        "user": user.pk, "backend": backend, "at": time.time(), "next": target,
    }  # fmt: skip
    return redirect("sign-in-code")


@dataclass(frozen=True)
class CodePage:
    """Asks for the second factor's code."""

    error: str


@login_not_required
@require_http_methods(["GET", "HEAD", "POST"])
def sign_in_code(request):
    """The second half of the sign-in. The device itself slows down whoever guesses."""
    half = request.session.get("half") or {}
    if time.time() - half.get("at", 0) > HALF_WAY_S:
        request.session.pop("half", None)
        return redirect("sign-in")
    user = get_user_model().objects.filter(pk=half["user"], is_active=True).first()
    if user is None:
        return redirect("sign-in")
    error = ""
    if request.method == "POST":
        typed = "".join(request.POST.get("code", "").split())[:16]
        if typed and match_token(user, typed):
            request.session.pop("half", None)
            login(request, user, backend=half["backend"])
            target = half["next"]
            if not url_has_allowed_host_and_scheme(
                target, {request.get_host()}, require_https=request.is_secure()
            ):
                target = resolve_url("jobs")
            return redirect(target)
        audit.note(request, Act.REFUSED, "the code", who=user.get_username())
        error = (
            "That code is not right, or too old, or others were tried a moment ago. Wait for the"
            " next one; a recovery code works once."
        )
    return show(request, "accounts/code.html", CodePage(error=error))


@dataclass(frozen=True)
class SecondPage:
    """The secret as a drawing."""

    drawing: str
    secret: str
    error: str


@require_http_methods(["GET", "HEAD", "POST"])
def set_up(request):
    """Show the secret as a drawing, and take it into use once a code proves it."""
    if is_on(request.user):
        return redirect("me")
    device, _ = TOTPDevice.objects.get_or_create(
        user=request.user, confirmed=False, defaults={"name": "authenticator"}
    )
    error = ""
    if request.method == "POST":
        typed = "".join(request.POST.get("code", "").split())[:16]
        if typed.isdecimal() and device.verify_token(typed):
            device.confirmed = True
            device.save()
            audit.note(request, Act.ACCOUNT, "second factor on")
            return _show_codes(request)
        error = "That code does not fit. Check the clock of the phone and type the newest one."
    drawn = io.BytesIO()
    segno.make(device.config_url, error="m").save(
        drawn, kind="svg", scale=5, border=3, xmldecl=False, svgns=True, nl=False
    )
    secret = device.config_url.partition("secret=")[2].partition("&")[0]
    shown = SecondPage(
        # segno draws paths and no text: there is nothing of the person in it to escape.
        drawing=mark_safe(drawn.getvalue().decode()),  # noqa: S308
        secret=" ".join(secret[n : n + 4] for n in range(0, len(secret), 4)),
        error=error,
    )
    return show(request, "accounts/second.html", shown)


@require_POST
def new_codes(request):
    """New recovery codes; the old ones are void."""
    if not is_on(request.user):
        return redirect("me")
    audit.note(request, Act.ACCOUNT, "new recovery codes")
    return _show_codes(request)


@dataclass(frozen=True)
class CodesPage:
    """Recovery codes, shown once."""

    codes: list


def _show_codes(request):
    """Ten codes, shown this once."""
    StaticDevice.objects.filter(user=request.user).delete()
    device = StaticDevice.objects.create(user=request.user, name="recovery")
    codes = [StaticToken.random_token() for _ in range(CODES)]
    StaticToken.objects.bulk_create(StaticToken(device=device, token=c) for c in codes)
    return show(request, "accounts/codes.html", CodesPage(codes=codes))


@require_POST
def turn_off(request):
    """Sign in with the password alone again; the password is asked for it."""
    if not request.user.check_password(request.POST.get("password", "")):
        messages.error(request, "The password is not right: the second factor stays on.")
        return redirect("me")
    forget(request.user)
    audit.note(request, Act.ACCOUNT, "second factor off")
    messages.info(request, "You sign in with the password alone now.")
    return redirect("me")


def forget(user) -> None:
    """Take a person's devices away."""
    TOTPDevice.objects.filter(user=user).delete()
    StaticDevice.objects.filter(user=user).delete()
