"""One way from a view to its template: a typed page model, in the words of its job's rule set."""

from dataclasses import fields
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string

from returnpath.site import Installation

from .speech import speak


def context_of(page: Any) -> dict[str, Any]:
    """A page model's fields by name, as a template reads them; not copied."""
    return {f.name: getattr(page, f.name) for f in fields(page)}


def show(
    request: HttpRequest,
    template: str,
    page: Any,
    *,
    site: Installation | None = None,
    status: int = 200,
) -> HttpResponse:
    """A template with the page model (a dataclass) it shows; ``site`` where it speaks of one."""
    made = render_to_string(template, context_of(page), request)
    return HttpResponse(speak(made, site) if site is not None else made, status=status)
