"""The jobs application."""

import io
import sys

from django.apps import AppConfig
from django.core.management import call_command
from django.db.models.signals import post_migrate


class JobsConfig(AppConfig):
    """Jobs, their revisions and people."""

    name = "justloop.jobs"
    label = "jobs"

    def ready(self):
        """Enter the checks of a deployment."""
        from .. import checks  # noqa: F401 - registering is what importing it does

        post_migrate.connect(_judge_anew, sender=self)


def _judge_anew(sender, verbosity=1, using="default", **_more):
    """After an upgrade the Jobs list is of this engine."""
    from .models import Job

    if not Job.objects.using(using).exists():
        return
    said = sys.stdout if verbosity else io.StringIO()
    call_command("rejudge", if_needed=True, stdout=said)
