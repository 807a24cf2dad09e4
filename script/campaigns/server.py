"""A served installation that can be killed, and a browser for it that has no screen."""

import http.cookiejar
import os
import re
import signal
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.parse
import urllib.request

NO_REDIRECT = (301, 302, 303)
START_S = 60.0
PATIENCE_S = 120  # a house of 30 panels and 13 supplies, two people at once, a busy machine


class Server:
    """The demo's server on a free loopback port."""

    def __init__(self):
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port = free.getsockname()[1]
        self.process: subprocess.Popen | None = None

    @property
    def address(self) -> str:
        """Where it listens."""
        return f"http://127.0.0.1:{self.port}"

    def start(self) -> None:
        """Start it, and wait until it answers."""
        self.process = subprocess.Popen(
            [sys.executable, "-m", "justloop", "serve"],
            env=os.environ | {"PORT": str(self.port)},
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )
        until = time.monotonic() + START_S
        while time.monotonic() < until:
            try:
                urllib.request.urlopen(f"{self.address}/healthz", timeout=2).close()
                return
            except OSError:
                time.sleep(0.05)
        raise RuntimeError("The server did not start.")

    def kill(self) -> None:
        """The plug pulled: no signal that it could answer."""
        assert self.process is not None
        os.kill(self.process.pid, signal.SIGKILL)
        self.process.wait()

    def stop(self) -> None:
        """End it as a person would."""
        if self.process is not None and self.process.poll() is None:
            self.process.terminate()
            self.process.wait(20)


class Browser:
    """Cookies and forms. ``post`` is acknowledged where it returns."""

    def __init__(self, server: Server):
        self.server = server
        self.jar = http.cookiejar.CookieJar()
        self.opener = urllib.request.build_opener(
            urllib.request.HTTPCookieProcessor(self.jar), _Stay()
        )

    def get(self, path: str) -> str:
        """A page."""
        with self.opener.open(self.server.address + path, timeout=PATIENCE_S) as answer:
            return answer.read().decode()

    def post(self, path: str, data: dict) -> tuple[int, str]:
        """(status, body) of a form."""
        token = next((c.value for c in self.jar if c.name == "csrftoken"), "")
        body = urllib.parse.urlencode(data | {"csrfmiddlewaretoken": token}).encode()
        request = urllib.request.Request(self.server.address + path, body)
        request.add_header("Referer", self.server.address + path)
        try:
            with self.opener.open(request, timeout=PATIENCE_S) as answer:
                return answer.status, answer.read().decode()
        except urllib.error.HTTPError as error:
            return error.code, error.read().decode()

    def sign_in(self) -> None:
        """The demo's one press."""
        self.get("/sign-in")
        self.post("/demo-sign-in", {})

    def job(self, name: str) -> int:
        """The number of a job on the list."""
        found = re.search(rf'/jobs/(\d+)/[^"]*">{re.escape(name)}', self.get("/"))
        assert found, name
        return int(found[1])


class _Stay(urllib.request.HTTPRedirectHandler):
    def redirect_request(self, *_args):
        return None
