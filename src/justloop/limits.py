"""How much may be sent to an address, said before any of it is read."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse
from django.urls import Resolver404, resolve

from .trouble import answer

FORM = 2_500_000
#: Bytes of a body by the name of its address; every other one takes a form.
MOST: dict[str, int] = {}


class BodyLimit:
    """413, with both numbers, for a body that is longer than its address takes."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]):
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        told = request.META.get("CONTENT_LENGTH") or "0"
        # A length that is no figure is answered as one that is too long.
        length = int(told) if told.isascii() and told.isdecimal() and len(told) < 16 else 10**15
        if length > FORM:
            try:
                most = MOST.get(resolve(request.path_info).url_name or "", FORM)
            except Resolver404:
                most = FORM
            if length > most:
                sent = f"{length / 1e6:,.1f} MB" if length < 10**15 else "More"
                what = f"{sent} was sent; {most / 1e6:g} MB is the most here. Nothing was saved."
                return answer(request, what, 413)
        return self.get_response(request)
