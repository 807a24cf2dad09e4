"""What every page's frame needs: the theme, the demo flag."""

from django.conf import settings

THEMES = {"light": "Light", "attic": "Attic (dark)"}


def theme_of(request) -> str:
    """The theme in the cookie, light unless it names another."""
    chosen = request.COOKIES.get("theme", "light")
    return chosen if chosen in THEMES else "light"


def shell(request) -> dict:
    """Context of the frame."""
    theme = theme_of(request)
    other = "attic" if theme == "light" else "light"
    return {
        "theme": theme,
        "other_theme": other,
        "other_theme_label": THEMES[other],
        "demo": settings.DEMO,
    }
