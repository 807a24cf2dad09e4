"""The firm's own lists."""

from django.apps import AppConfig


class FirmConfig(AppConfig):
    """``justloop.firm``."""

    name = "justloop.firm"
    label = "firm"
    default_auto_field = "django.db.models.BigAutoField"
