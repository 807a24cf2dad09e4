"""A lock taken off for somebody else: an administrator of the firm, with four things said."""

from dataclasses import dataclass
from typing import Any

from django.contrib import messages
from django.shortcuts import redirect
from django.views.decorators.http import require_http_methods

from returnpath.errors import BadInput

from ..accounts import audit
from ..accounts.models import Act
from ..accounts.people import administrators_only
from ..pages import show
from . import locks
from .models import Lock


@dataclass(frozen=True)
class ForAnotherPage:
    """Every lock of the firm that is on; the four fields; what was typed where it was refused."""

    locks: Any
    questions: tuple[tuple[str, str, str], ...]
    chosen: int
    error: str


@require_http_methods(["GET", "HEAD", "POST"])
def for_another(request):
    """The page, and the taking off."""
    administrators_only(request)
    error, number = "", request.POST.get("lock", "") or request.GET.get("lock", "")
    chosen = int(number) if number.isdecimal() and len(number) < 10 else 0
    if request.method == "POST":
        try:
            lock = locks.take_off_for_another(chosen, request.user, request.POST.dict())
        except BadInput as bad:
            error = bad.sentence
        else:
            said = f"{lock.name}’s lock off {lock.device}, by {request.user}: {lock.off_checked}"
            audit.note(request, Act.ACCOUNT, said[:200], job=lock.job)
            messages.info(request, f"{lock.name}’s lock is off {lock.device}.")
            return redirect("locks-for-another")
    questions = tuple((field, words, request.POST.get(field, "") if error else "")
                      for field, words in locks.FOR_ANOTHER.items())  # fmt: skip
    on = Lock.objects.filter(off=None).select_related("job", "person").order_by("at")
    page = ForAnotherPage(on, questions, chosen, error)
    return show(request, "jobs/locks_for_another.html", page)
