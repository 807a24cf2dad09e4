"""One way from a view to its template: a typed page model, in the words of its job's rule set."""

from dataclasses import fields
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.template import RequestContext
from django.template.loader import get_template

from returnpath.site import Installation

from .speech import speak


def context_of(page: Any) -> dict[str, Any]:
    """A page model's fields by name, as a template reads them; not copied."""
    return {f.name: getattr(page, f.name) for f in fields(page)}


def rendered(template: str, page: Any, request: HttpRequest) -> str:
    """A template filled from a page model.

    Django's context and its dictionaries hold each other: let go of here, the thousand rows of a
    page are freed at once and never wait for the collector, which would stop a later request.
    """
    context = RequestContext(request, context_of(page))
    try:
        return get_template(template).template.render(context)
    finally:
        context.dicts.clear()


def show(
    request: HttpRequest,
    template: str,
    page: Any,
    *,
    site: Installation | None = None,
    status: int = 200,
) -> HttpResponse:
    """A template with the page model (a dataclass) it shows; ``site`` where it speaks of one."""
    made = rendered(template, page, request)
    return HttpResponse(speak(made, site) if site is not None else made, status=status)
