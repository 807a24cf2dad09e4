"""What every page's frame needs: the theme, the demo flag."""

from django.conf import settings

THEMES = {"light": "Light", "attic": "Attic (dark)"}


#: Nobody has chosen: the system's own setting does.
SYSTEM = "system"


def theme_of(request) -> str:
    """The theme in the cookie, the system's unless it names one."""
    chosen = request.COOKIES.get("theme", SYSTEM)
    return chosen if chosen in THEMES else SYSTEM


def shell(request) -> dict:
    """Context of the frame."""
    return {
        "theme": theme_of(request),
        "themes": THEMES,
        "demo": settings.DEMO,
    }
