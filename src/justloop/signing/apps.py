"""The application's name for Django."""

from django.apps import AppConfig


class SigningConfig(AppConfig):
    """Signed states of jobs."""

    name = "justloop.signing"
    label = "signing"
