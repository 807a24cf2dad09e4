"""Room on the disk: a reserve that is given up when it is full, so that signing in and reading go
on while nothing more is kept (docs/decisions/0045).

    free ─────────▶ normal: everything is kept
    under LEAST ──▶ the reserve is given up: sessions and the journal have room, work is refused
    room again ───▶ the reserve is laid back, work is kept
"""

import contextlib
import errno
import os
import sqlite3
from collections.abc import Callable, Iterator
from pathlib import Path

from django.conf import settings
from django.db import OperationalError, connection
from django.http import HttpRequest, HttpResponse

RESERVE, LEAST = 8_000_000, 1_000_000  # bytes
FULL = "database or disk is full"  # as SQLite says it: trouble.py has the sentence
#: What is written though the disk is full: it carries who is signed in, no work.
OWN_TABLES = ("django_session", "accounts_seat", "axes_", "auth_user")

_keeper: sqlite3.Connection | None = None


def _reserve() -> Path:
    return Path(settings.DATA) / "reserve"


def free() -> int:
    """Bytes that may still be written; many where a system does not say."""
    try:
        found = os.statvfs(settings.DATA)
    except OSError:
        return 10**15
    return found.f_bavail * found.f_frsize


def is_full() -> bool:
    """Whether work is refused now; lays the reserve or gives it up on the way."""
    reserve, room = _reserve(), free()
    if reserve.exists():
        if room >= LEAST:
            return False
        with contextlib.suppress(OSError):
            reserve.unlink()
        return True
    if room < RESERVE + 2 * LEAST:
        return True
    _lay(reserve)
    return False


def _lay(reserve: Path) -> None:
    part = reserve.with_name(f"reserve.{os.getpid()}.part")
    try:
        with part.open("wb") as file:
            os.posix_fallocate(file.fileno(), 0, RESERVE)
        part.replace(reserve)
    except OSError:
        with contextlib.suppress(OSError):
            part.unlink()


def refuse_if_full() -> None:
    """OSError, as the disk would say it, before a file is begun that could not be ended."""
    if is_full():
        raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))


def open_for_good() -> None:
    """Hold the database open for the life of the server: what SQLite keeps beside it is there then,
    and opening it once more needs no new byte."""
    global _keeper
    if _keeper is None:
        is_full()
        with contextlib.suppress(sqlite3.Error):
            name = settings.DATABASES["default"]["NAME"]
            _keeper = sqlite3.connect(name, check_same_thread=False)
            _keeper.execute("SELECT count(*) FROM django_migrations").fetchone()


@contextlib.contextmanager
def _keeping_nothing() -> Iterator[None]:
    def refuse(execute, sql, params, many, context):
        words = sql.split(None, 3)
        if words and words[0].upper() in ("INSERT", "UPDATE", "REPLACE"):
            table = sql.split('"', 2)[1] if '"' in sql else ""
            if not table.startswith(OWN_TABLES):
                raise OperationalError(FULL)
        return execute(sql, params, many, context)

    with connection.execute_wrapper(refuse):
        yield


class Room:
    """While the disk is full no work is written: each save says so in its own way, and nothing that
    was typed is lost."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]):
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        if not is_full():
            return self.get_response(request)
        with _keeping_nothing():
            return self.get_response(request)
