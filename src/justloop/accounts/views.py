"""Signing in and out, the theme, and the pages for what went wrong."""

import logging
import shutil
import sys

from django.conf import settings
from django.contrib.auth import get_user_model, login, logout
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.views import LoginView
from django.db import DatabaseError, connection, transaction
from django.http import Http404, JsonResponse
from django.shortcuts import get_object_or_404, redirect
from django.urls import reverse
from django.utils.decorators import method_decorator
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_POST, require_safe

from returnpath import ENGINE_VERSION, __version__

from ..context import THEMES
from ..trouble import answer, why_not_kept
from . import second

logger = logging.getLogger(__name__)
DEMO_NAME = "demo"
DEMO_PASSWORD = "just-loop-demo"  # noqa: S105 - printed by the demo, which serves loopback only
LOOPBACK = ("127.0.0.1", "::1")


@method_decorator(login_not_required, name="dispatch")
class SignIn(LoginView):
    """Name and password."""

    template_name = "accounts/sign_in.html"
    redirect_authenticated_user = True

    def form_valid(self, form):
        """In, or half-way where a code is asked for."""
        user = form.get_user()
        if second.is_on(user):
            return second.half_way(self.request, user, user.backend, self.get_success_url())
        return super().form_valid(form)


@require_POST
def sign_out(request):
    """End the session."""
    logout(request)
    return redirect("sign-in")


@login_not_required
@require_POST
def demo_sign_in(request):
    """The demo's one press: only there, and only from this machine."""
    forwarded = any(k.startswith(("HTTP_X_FORWARDED", "HTTP_FORWARDED", "HTTP_X_REAL"))
                    or k == "HTTP_VIA" for k in request.META)  # fmt: skip
    if not settings.DEMO or forwarded or request.META.get("REMOTE_ADDR") not in LOOPBACK:
        raise Http404
    user = get_object_or_404(get_user_model(), username=DEMO_NAME)
    login(request, user, backend="django.contrib.auth.backends.ModelBackend")
    return redirect("jobs")


@login_not_required
@require_POST
def theme(request):
    """Keep the chosen theme in a cookie."""
    target = request.POST.get("next", "")
    if not url_has_allowed_host_and_scheme(
        target, {request.get_host()}, require_https=request.is_secure()
    ):
        target = reverse("jobs")
    response = redirect(target)
    chosen = request.POST.get("theme", "")
    if chosen in THEMES:
        response.set_cookie(
            "theme",
            chosen,
            max_age=31_536_000,
            samesite="Lax",
            httponly=True,
            secure=settings.HTTPS,
        )
    return response


@login_not_required
def not_found(request, exception=None):
    """Nothing here, or not for this person."""
    return answer(request, "There is nothing at this address.", 404)


@login_not_required
def not_allowed(request, exception=None):
    """Something that this person may not do, and why."""
    what = str(exception or "") or "That is for an administrator of the firm."
    return answer(request, what, 403)


@login_not_required
def broken(request):
    """Our fault; or a full disk that even the session could not be kept on."""
    error = sys.exception()
    logger.error("Broke", exc_info=error)
    if isinstance(error, DatabaseError) and (why := why_not_kept(error)):
        return answer(request, why, 503)
    return answer(request, "Something went wrong on our side. What was saved is kept.", 500)


@login_not_required
def forgery(request, reason=""):
    """A form that did not come from our page."""
    what = "This form is out of date. Go back, load the page again and repeat it."
    return answer(request, what, 403)


LEAST_ROOM = 50_000_000  # bytes


@login_not_required
@require_safe
def healthz(request):
    """Whether the database can be written and the disk has room; nothing else is told."""
    wrong = []
    try:
        with transaction.atomic(), connection.cursor() as cursor:
            cursor.execute("UPDATE django_migrations SET id = id WHERE id = -1")
    except DatabaseError:
        wrong.append("database")
    try:
        if shutil.disk_usage(settings.DATA).free < LEAST_ROOM:
            wrong.append("disk")
    except OSError:
        wrong.append("disk")
    state = {"ok": not wrong, "wrong": wrong, "version": __version__, "engine": ENGINE_VERSION}
    return JsonResponse(state, status=503 if wrong else 200)
