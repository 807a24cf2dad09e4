"""What the server writes: one line of JSON an event, with the request's id; no secret, no query,
no fact of a site."""

import json
import logging
import secrets
import time
import traceback
from collections.abc import Callable
from contextvars import ContextVar
from datetime import UTC, datetime
from pathlib import Path

from django.http import HttpRequest, HttpResponse

logger = logging.getLogger("justloop.requests")
_request_id: ContextVar[str] = ContextVar("request_id", default="")
#: What a record may carry besides its sentence.
MOST_FRAMES = 12
EXTRA = ("method", "route", "job", "status", "ms", "person")


class RequestId:
    """Gives every request an id, answers with it, and writes one line when it is done.

    The route's pattern is written, not its path: a one-use link stands in a path.
    """

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]):
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        request.id = secrets.token_hex(8)
        token = _request_id.set(request.id)
        begun = time.perf_counter()
        try:
            response = self.get_response(request)
            response["X-Request-ID"] = request.id
            match = request.resolver_match
            user = getattr(request, "user", None)
            logger.log(
                logging.ERROR if response.status_code >= 500 else logging.INFO,
                "request",
                extra={
                    "method": request.method,
                    "route": match.route if match else "",
                    "job": match.kwargs.get("pk") if match else None,
                    "status": response.status_code,
                    "ms": round(1000 * (time.perf_counter() - begun), 1),
                    "person": user.pk if user is not None and user.is_authenticated else None,
                },
            )
            return response
        finally:
            _request_id.reset(token)


def _error(error: BaseException) -> dict:
    """Its type and where it came from; not its words, which may quote what was typed."""
    frames = traceback.extract_tb(error.__traceback__)[-MOST_FRAMES:]
    return {
        "error": type(error).__name__,
        "where": [f"{Path(f.filename).name}:{f.lineno} {f.name}" for f in frames],
    }


class AsJson(logging.Formatter):
    """A record as one line of JSON."""

    def format(self, record: logging.LogRecord) -> str:
        """The line; of an error its type and its frames."""
        line = {
            "at": datetime.fromtimestamp(record.created, UTC).isoformat(timespec="milliseconds"),
            "level": record.levelname.lower(),
            "logger": record.name,
            "says": record.getMessage(),
        }
        if request_id := _request_id.get():
            line["request"] = request_id
        line |= {k: v for k in EXTRA if (v := getattr(record, k, None)) is not None}
        if record.exc_info and record.exc_info[1] is not None:
            line |= _error(record.exc_info[1])
        return json.dumps(line, ensure_ascii=False)
