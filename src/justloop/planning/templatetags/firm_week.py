"""The firm's week on the Jobs page, which knows no plan."""

from typing import Any

from django import template

from ..dates import seen_dates, week, week_clashes

register = template.Library()


@register.inclusion_tag("planning/week.html")
def firm_week(user) -> dict[str, Any]:
    """The next seven days, and who is wanted twice."""
    dates = list(seen_dates(user))
    return {"days": week(dates), "clashes": week_clashes(dates)}
