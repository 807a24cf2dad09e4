"""The application's name for Django."""

from django.apps import AppConfig


class LearnConfig(AppConfig):
    """Learn."""

    name = "justloop.learn"
    label = "learn"
