"""What ``manage.py check --deploy`` refuses beyond Django's own."""

from django.conf import settings
from django.core.checks import Error, Tags, register

LOOPBACK = {"localhost", "127.0.0.1", "[::1]"}


@register(Tags.security, deploy=True)
def deployment(app_configs, **_options):
    """Demo on, any host, debugging on, or no HTTPS: not for others to reach."""
    found = []
    if settings.DEMO:
        found.append(Error("The demo's account is open to anybody: unset JUSTLOOP_DEMO.",
                           id="justloop.E001"))  # fmt: skip
    if settings.DEBUG:
        found.append(Error("Debugging shows the inside to anybody.", id="justloop.E002"))
    if "*" in settings.ALLOWED_HOSTS:
        found.append(Error("JUSTLOOP_HOSTS is “*”: name the hosts.", id="justloop.E003"))
    if not settings.HTTPS and not set(settings.ALLOWED_HOSTS) <= LOOPBACK:
        found.append(Error("Reachable by others without HTTPS: set JUSTLOOP_HTTPS=1 behind a web"
                           " server that has it.", id="justloop.E004"))  # fmt: skip
    return found
