"""The service worker: one script at the root, so that it reaches every page."""

import hashlib

from django.conf import settings
from django.contrib.auth.decorators import login_not_required
from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_safe

SCRIPT = settings.PACKAGE / "static" / "justloop" / "worker.js"


@require_safe
@login_not_required
def worker(request: HttpRequest) -> HttpResponse:
    """``/sw.js``: the same for everybody, so nobody need be signed in."""
    body = SCRIPT.read_text("utf-8")
    version = hashlib.sha256(body.encode()).hexdigest()[:12]
    response = HttpResponse(f"// {version}\n{body}", content_type="text/javascript; charset=utf-8")
    response["Cache-Control"] = "no-cache"
    return response
