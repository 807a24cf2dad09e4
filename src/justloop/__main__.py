"""``justloop``: Django's command line for Just Loop (migrate, serve, createsuperuser, …)."""

import os
import sys


def main() -> None:
    """Run one of Django's commands with our settings."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "justloop.settings")
    from django.core.management import execute_from_command_line

    execute_from_command_line(sys.argv)


if __name__ == "__main__":
    main()
