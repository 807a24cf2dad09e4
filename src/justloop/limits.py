"""How much may be sent, said before any of it is read."""

import re
from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse

from .trouble import answer

MOST = settings.DATA_UPLOAD_MAX_MEMORY_SIZE
#: Photographs may be larger: one after another, and the form around them.
MOST_PHOTOS, PHOTOS = (
    50_000_000,
    re.compile(r"/jobs/\d+/(?:photos/add|visits/\d+/do)|/verify|/jobs/open"),
)


class BodyLimit:
    """413, with both numbers, for a body that is longer than a form, a job file or a table is."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]):
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        told = request.META.get("CONTENT_LENGTH") or "0"
        is_figure = told.isascii() and told.isdecimal() and len(told) < 16
        known = settings.SESSION_COOKIE_NAME in request.COOKIES
        is_file = (request.content_type or "").startswith("multipart/")
        most = MOST_PHOTOS if known and is_file and PHOTOS.fullmatch(request.path_info) else MOST
        if is_figure and int(told) <= most:
            return self.get_response(request)
        sent = f"{int(told) / 1e6:,.1f} MB" if is_figure else "More"
        what = f"{sent} was sent; {most / 1e6:g} MB is the most here. Nothing was saved."
        return answer(request, what, 413)
