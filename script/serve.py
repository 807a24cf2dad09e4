"""Starts the demo: migrates, loads the demo data once, gathers the static files, serves.

Loopback only. Ctrl-C stops it.
"""

import hashlib
import os
import signal
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT / "src"))
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "justloop.settings")


def _state() -> str:
    """A short name for the state of everything that a start prepares."""
    source = ROOT / "src" / "justloop"
    files = sorted([*source.glob("*/migrations/*.py"), *(source / "static").rglob("*")])
    seen = "".join(f"{f}{f.stat().st_mtime_ns}" for f in files if f.is_file())
    return hashlib.sha256(seen.encode()).hexdigest()


def main() -> None:
    """Prepare what has changed since the last start, then serve."""
    import django
    from django.conf import settings
    from django.core.management import call_command

    django.setup()
    stamp, state = settings.DATA / "prepared", _state()
    fresh = not (settings.DATA / "justloop.sqlite3").exists()
    if fresh or not stamp.exists() or stamp.read_text("utf-8") != state:
        call_command("migrate", verbosity=0)
        call_command("collectstatic", verbosity=0, interactive=False, clear=True)
        stamp.write_text(state, "utf-8")
    call_command("demo")

    from waitress import create_server

    from justloop.accounts.views import DEMO_NAME, DEMO_PASSWORD
    from justloop.wsgi import application

    port = int(os.environ.get("PORT", "8000"))
    try:
        server = create_server(application, host="127.0.0.1", port=port, threads=6)
    except OSError:
        sys.exit(f"Port {port} is taken. Choose another: PORT=8001 script/demo")
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    print(f"Just Loop: http://127.0.0.1:{port}/", flush=True)
    print(f"Sign in with one press, or as {DEMO_NAME} / {DEMO_PASSWORD}", flush=True)
    print("Ctrl-C stops it.", flush=True)
    try:
        server.run()
    except (KeyboardInterrupt, SystemExit):
        pass
    finally:
        server.close()
        print("Stopped.", flush=True)


if __name__ == "__main__":
    main()
