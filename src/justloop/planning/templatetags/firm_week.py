"""The firm's week on the Jobs page, which knows no plan."""

from typing import Any

from django import template

from ..dates import week, week_clashes

register = template.Library()


@register.inclusion_tag("planning/week.html")
def firm_week(user) -> dict[str, Any]:
    """The next seven days, and who is wanted twice."""
    return {"days": week(user), "clashes": week_clashes(user)}
