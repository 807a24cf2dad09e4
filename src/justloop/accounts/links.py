"""What a handed-over link leads to: a new account, or a new password."""

from dataclasses import dataclass
from typing import Any

from django.contrib import messages
from django.contrib.auth import get_user_model, login
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.forms import SetPasswordForm, UserCreationForm
from django.db import transaction
from django.shortcuts import redirect
from django.urls import reverse
from django.views.decorators.http import require_http_methods

from ..jobs.models import Role
from ..pages import show
from ..trouble import answer
from . import audit, guests, seats
from .boxes import boxed
from .models import Act, Link

BACKEND = "django.contrib.auth.backends.ModelBackend"


class Join(UserCreationForm):
    """A name and a password of one's own."""

    usable_password = None

    class Meta(UserCreationForm.Meta):
        model = get_user_model()
        fields = ("username",)


def address(request, link: Link, secret: str) -> str:
    """The whole address to hand over."""
    name = "join" if link.use == Link.Use.JOIN else "new-password"
    return request.build_absolute_uri(reverse(name, args=[secret]))


@dataclass(frozen=True)
class LinkPage:
    """A form behind a link that works once."""

    form: Any
    link: Link


@login_not_required
@require_http_methods(["GET", "HEAD", "POST"])
def join(request, secret: str):
    """Make an account with an invitation, once."""
    link = Link.of(secret, Link.Use.JOIN)
    if link is None:
        return _spent(request)
    form = Join(request.POST if request.method == "POST" else None)
    if request.method == "POST" and form.is_valid():
        with transaction.atomic():
            if not link.spend():
                return _spent(request)
            user = form.save()
            if link.job is not None:
                people = link.job.crew if link.role == Role.EDITOR else link.job.readers
                people.add(user)
                if link.role == Role.READER:
                    guests.welcome(user)
        login(request, user, backend=BACKEND)
        audit.note(request, Act.ACCOUNT, f"joined, invited by {link.made_by}", job=link.job)
        return redirect("jobs")
    return show(request, "accounts/join.html", LinkPage(form=boxed(form), link=link))


@login_not_required
@require_http_methods(["GET", "HEAD", "POST"])
def new_password(request, secret: str):
    """Set a new password with a link, once; every session of that person ends."""
    link = Link.of(secret, Link.Use.PASSWORD)
    if link is None or link.person is None or not link.person.is_active:
        return _spent(request)
    form = SetPasswordForm(link.person, request.POST if request.method == "POST" else None)
    if request.method == "POST" and form.is_valid():
        with transaction.atomic():
            if not link.spend():
                return _spent(request)
            form.save()
            seats.end(link.person)
        audit.note(request, Act.ACCOUNT, "new password by a link", person=link.person)
        messages.info(request, "The password is set. Sign in with it.")
        return redirect("sign-in")
    return show(request, "accounts/new_password.html", LinkPage(form=boxed(form), link=link))


def _spent(request):
    what = "This link has been used, or is too old. Ask whoever gave it to you for a new one."
    return answer(request, what, 410)
