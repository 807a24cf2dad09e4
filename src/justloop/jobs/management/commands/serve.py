"""Starts the demo: migrates, loads the demo data once, gathers the static files, serves.

Loopback only. Ctrl-C stops it.
"""

import hashlib
import os
import signal
import sys
import threading

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError

from justloop import running
from returnpath import ENGINE_VERSION


def _state() -> str:
    """A short name for the state of everything that a start prepares."""
    source = settings.PACKAGE
    files = sorted([*source.glob("*/migrations/*.py"), *(source / "static").rglob("*")])
    seen = ENGINE_VERSION + "".join(f"{f}{f.stat().st_mtime_ns}" for f in files if f.is_file())
    return hashlib.sha256(seen.encode()).hexdigest()


def prepare() -> None:
    """What has changed since the last start."""
    if why := running.too_old():
        sys.exit(why)
    stamp, state = settings.DATA / "prepared", _state()
    fresh = not (settings.DATA / "justloop.sqlite3").exists()
    if fresh or not stamp.exists() or stamp.read_text("utf-8") != state:
        call_command("migrate", verbosity=0)
        call_command("collectstatic", verbosity=0, interactive=False, clear=True)
        stamp.write_text(state, "utf-8")
    call_command("demo")


def _stand_in_meter() -> bool:
    """The demo's meter, beside the server; none where its port is taken (by script/meter)."""
    from justloop.standin.meter import demo_meter

    try:
        meter = demo_meter(int(settings.METER.rpartition(":")[2]))
    except (OSError, ValueError):
        return False
    threading.Thread(target=meter.serve_forever, daemon=True).start()
    return True


class Command(BaseCommand):
    """``JUSTLOOP_DEMO=1 justloop serve``: the demo, on this machine alone."""

    help = "Serves the demo on this machine."

    def handle(self, *args, **options):
        """Prepare, then serve until Ctrl-C."""
        if not settings.DEMO:
            raise CommandError("This serves the demo: set JUSTLOOP_DEMO=1. README.md has the rest.")
        prepare()
        from waitress import create_server

        from justloop.accounts.views import DEMO_NAME, DEMO_PASSWORD
        from justloop.wsgi import application

        port = int(os.environ.get("PORT", "8000"))
        try:
            server = create_server(application, host="127.0.0.1", port=port, threads=6)
        except OSError:
            sys.exit(f"Port {port} is taken. Choose another: PORT=8001 script/demo")
        stand_in = _stand_in_meter()
        signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
        print(f"Just Loop: http://127.0.0.1:{port}/", flush=True)
        print(f"Sign in with one press, or as {DEMO_NAME} / {DEMO_PASSWORD}", flush=True)
        if stand_in:
            print(f"A simulated meter stands at Pebblewick: {settings.METER}", flush=True)
        print("Ctrl-C stops it.", flush=True)
        try:
            server.run()
        except (KeyboardInterrupt, SystemExit):
            pass
        finally:
            server.close()
            print("Stopped.", flush=True)
