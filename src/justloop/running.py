"""A server that runs, and what must not happen beside it; a program that is older than its
database."""

import fcntl
import sys
from pathlib import Path
from typing import IO

from django.conf import settings
from django.db import DatabaseError, connection
from django.db.migrations.loader import MigrationLoader

from . import room

_held: IO[bytes] | None = None


def _lock_file() -> Path:
    return Path(settings.DATA) / "running"


def hold() -> None:
    """Of a server, at its start: it runs until the process ends; SystemExit where its program is
    older than the database."""
    global _held
    if why := too_old():
        sys.exit(why)
    if _held is None:
        try:
            _held = _lock_file().open("ab")
            fcntl.flock(_held, fcntl.LOCK_SH | fcntl.LOCK_NB)
        except OSError:
            _held = None  # no file can be made: nothing can be restored over it either
    room.open_for_good()


def is_running() -> bool:
    """Whether a server has the database of this installation open."""
    try:
        with _lock_file().open("ab") as file:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return True
    except OSError:
        return False
    return False


def too_old() -> str:
    """A sentence where a newer program has changed the database; "" where this one knows it all."""
    try:
        loader = MigrationLoader(connection, ignore_no_migrations=True)
        known = {app for app, _ in loader.disk_migrations}
        unknown = [
            f"{app}.{name}" for app, name in loader.applied_migrations
            if app in known and (app, name) not in loader.disk_migrations
            and (app, name) not in loader.replacements
        ]  # fmt: skip
    except DatabaseError:
        return ""
    finally:
        if not connection.in_atomic_block:
            connection.close()
    if not unknown:
        return ""
    return (
        "Not started: this database was changed by a newer Just Loop"
        f" ({', '.join(sorted(unknown))}), and this program does not know how. Start the newer"
        " program, or restore the backup from before it (docs/operations.md)."
    )
