"""The application's name for Django."""

from django.apps import AppConfig


class PlanningConfig(AppConfig):
    """Procedures, parts, dates, visits."""

    name = "justloop.planning"
    label = "planning"
