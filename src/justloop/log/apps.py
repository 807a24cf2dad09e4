"""The log: readings taken at a job, by whom, with what."""

from django.apps import AppConfig


class LogConfig(AppConfig):
    """Readings."""

    name = "justloop.log"
    label = "log"
    default_auto_field = "django.db.models.BigAutoField"
