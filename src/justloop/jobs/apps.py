"""The jobs application."""

from django.apps import AppConfig


class JobsConfig(AppConfig):
    """Jobs, their revisions and people."""

    name = "justloop.jobs"
    label = "jobs"
