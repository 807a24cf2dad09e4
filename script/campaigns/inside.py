"""The application in this process, on a fresh database: for the parts that need no server."""

import logging
import sys


def prepare():
    """(an administrator, their job) on a migrated database."""
    import django
    from django.conf import settings
    from django.core.management import call_command

    settings.ALLOWED_HOSTS.append("testserver")
    settings.STORAGES["staticfiles"] = {
        "BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"
    }
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
    logging.disable(logging.CRITICAL)  # refusals are what most inputs ask for
    django.setup()
    settings.STATIC_ROOT.mkdir(parents=True, exist_ok=True)
    call_command("migrate", verbosity=0)
    call_command("demo", verbosity=0)
    from django.contrib.auth import get_user_model

    from justloop.jobs.models import Job

    return get_user_model().objects.get(username="demo"), Job.objects.get(name__startswith="Pebble")


def arguments() -> tuple[int, str]:
    """(how many, the seed)."""
    return int(sys.argv[1]), sys.argv[2]


def finish(wrong: list[str], words: str) -> None:
    """Say what was found, and leave with 1 where it was anything."""
    print(f"  {words}")
    for one in wrong[:20]:
        print(f"  ! {one[:600]}")
    sys.exit(int(bool(wrong)))
