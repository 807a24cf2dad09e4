"""Private pages are kept by no cache."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse


class NoStore:
    """``Cache-Control: no-store`` on whatever a signed-in person is shown."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]):
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        if request.user.is_authenticated and not response.has_header("Cache-Control"):
            response["Cache-Control"] = "no-store, private"
        return response
