"""``{% locks_of job %}``: who is locked onto what, and everything behind it, on any page of a
job."""

from django import template

from .. import locks

register = template.Library()


@register.inclusion_tag("jobs/locks.html", takes_context=True)
def locks_of(context, job):
    """The locks that are on; the page asks for them again every few seconds."""
    request = context["request"]
    return locks.context_of(request, job, request.path)
