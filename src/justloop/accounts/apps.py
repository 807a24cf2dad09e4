"""The accounts: links handed over, sessions, the audit log."""

from django.apps import AppConfig


class AccountsConfig(AppConfig):
    """Listens for people signing in and out."""

    name = "justloop.accounts"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Connect the signals."""
        from . import signals  # noqa: F401
