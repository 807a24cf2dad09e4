"""The jobs application."""

from django.apps import AppConfig


class JobsConfig(AppConfig):
    """Jobs, their revisions and people."""

    name = "justloop.jobs"
    label = "jobs"

    def ready(self):
        """Enter the checks of a deployment."""
        from .. import checks  # noqa: F401 - registering is what importing it does
