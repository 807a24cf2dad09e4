"""HTML to PDF, in a process of its own: paper takes seconds, and blocks nobody meanwhile.

Nothing of Django is imported here: the process only prints.
"""

import logging
import multiprocessing
import os
import threading
import time
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures import TimeoutError as TookTooLong
from concurrent.futures.process import BrokenProcessPool
from functools import cache

MOST_WAITING = 3  # sheets at once; a fourth is asked to come again
LONGEST_S = 60.0
TASKS_A_PROCESS = 100

logger = logging.getLogger(__name__)
_lock = threading.Lock()
_places = threading.BoundedSemaphore(MOST_WAITING)
_pool: ProcessPoolExecutor | None = None


class Busy(Exception):
    """No sheet now, and why."""


def pdf(html: str, base: str) -> bytes:
    """The PDF of a page whose files lie under ``base``; Busy where too many wait or it takes
    over a minute."""
    if not _places.acquire(blocking=False):
        raise Busy("Others are printing: try again in a moment.")
    try:
        return _printed(html, base)
    finally:
        _places.release()


def _printed(html: str, base: str) -> bytes:
    for last in (False, True):
        pool = _running()
        try:
            made, warnings = pool.submit(_print, html, base).result(LONGEST_S)
            for warning in warnings:
                logger.warning("%s", warning)
            return made
        except TookTooLong:
            _stop(pool)
            raise Busy("This sheet takes over a minute to print.") from None
        except BrokenProcessPool:
            _stop(pool)
            if last:
                raise Busy("The sheet could not be printed: try again.") from None
    raise AssertionError("unreachable")


def _running() -> ProcessPoolExecutor:
    global _pool
    with _lock:
        if _pool is None:
            _pool = ProcessPoolExecutor(
                1,
                mp_context=multiprocessing.get_context("spawn"),
                max_tasks_per_child=TASKS_A_PROCESS,
                initializer=_end_with,
                initargs=(os.getpid(),),
            )
        return _pool


def _end_with(server: int) -> None:
    """In the process that prints: it ends when the server does, however that was ended."""

    def watch() -> None:
        while os.getppid() == server:
            time.sleep(1.0)
        os._exit(1)

    threading.Thread(target=watch, daemon=True).start()


def _stop(pool: ProcessPoolExecutor) -> None:
    """End the process, also one that is in the middle of a sheet."""
    global _pool
    with _lock:
        if _pool is pool:
            _pool = None
    for process in list((getattr(pool, "_processes", None) or {}).values()):
        process.kill()
    pool.shutdown(wait=False, cancel_futures=True)


@cache
def _fonts():
    from weasyprint.text.fonts import FontConfiguration

    return FontConfiguration()


@cache
def _fetcher(base: str):
    """Only our own files: a report fetches nothing else."""
    from weasyprint import URLFetcher

    class OwnFiles(URLFetcher):
        """Refuses every address outside the static folder."""

        def fetch(self, url, headers=None):
            """Fetch ``url`` if it is ours."""
            if not url.startswith(base + "/"):
                raise ValueError("A report fetches nothing from outside.")
            return super().fetch(url, headers)

    return OwnFiles(allowed_protocols=("file",))


def _print(html: str, base: str) -> tuple[bytes, list[str]]:
    """(the PDF, what the printer complains of: a font or a drawing that it did not find)."""
    from weasyprint import HTML

    heard = _Heard()
    log = logging.getLogger("weasyprint")
    log.addHandler(heard)
    try:
        made = HTML(string=html, base_url=base, url_fetcher=_fetcher(base))
        return bytes(made.write_pdf(font_config=_fonts(), pdf_tags=True)), heard.warnings
    finally:
        log.removeHandler(heard)


class _Heard(logging.Handler):
    def __init__(self):
        super().__init__(logging.WARNING)
        self.warnings: list[str] = []

    def emit(self, record: logging.LogRecord) -> None:
        self.warnings.append(record.getMessage())
