"""What others answer, on a line of our own making: one time limit for all of it, so many bytes
and no more, nothing followed elsewhere; any bytes give a sentence."""

import json
import socket
import time
from http.client import HTTPConnection, HTTPException, HTTPSConnection
from typing import Any
from urllib.parse import urlsplit

SECONDS = 4.0
MOST_ANSWER = 60_000


class NoAnswer(Exception):
    """Nobody answered in time, or it was no answer; the words say which."""


class Deadline:
    """One time limit for a whole conversation, however slowly its bytes drip."""

    def __init__(self, seconds: float = SECONDS):
        self.until = time.monotonic() + seconds

    def left(self) -> float:
        """Seconds left; NoAnswer where none are."""
        left = self.until - time.monotonic()
        if left <= 0:
            raise NoAnswer("no answer in time")
        return left


def receive(line: socket.socket, deadline: Deadline, most: int) -> bytes:
    """The next bytes, at most so many; b"" at the end. NoAnswer where the time is over."""
    line.settimeout(deadline.left())
    try:
        return line.recv(min(most, 4096))
    except TimeoutError:
        raise NoAnswer("no answer in time") from None


def post_json(address: str, path: str, body: dict[str, Any]) -> tuple[int, bytes]:
    """(status, body) of a call; NoAnswer for none in time, or too long a one. A redirect is not
    followed: it is an answer like another."""
    parts = urlsplit(address)
    deadline = Deadline()
    kind = HTTPSConnection if parts.scheme == "https" else HTTPConnection
    try:
        line = kind(parts.hostname or "", parts.port, timeout=deadline.left())
        try:
            line.connect()
            line.request("POST", f"{parts.path.rstrip('/')}{path}", json.dumps(body).encode(),
                         {"Content-Type": "application/json", "Connection": "close"})  # fmt: skip
            return _answer(line, deadline)
        finally:
            line.close()
    except (OSError, HTTPException, ValueError) as error:
        raise NoAnswer(f"no answer: {type(error).__name__}") from None


def _answer(line: HTTPConnection, deadline: Deadline) -> tuple[int, bytes]:
    """Its head and body off the socket itself: Python's own reader waits anew for each byte."""
    got, length = b"", None
    while len(got) < MOST_ANSWER:
        head, mark, rest = got.partition(b"\r\n\r\n")
        if mark:
            length = _length(head) if length is None else length
            if length >= 0 and len(rest) >= length:
                return _status(head), rest[:length]
        more = receive(line.sock, deadline, MOST_ANSWER - len(got))
        if not more:
            break
        got += more
    else:
        raise NoAnswer("more was answered than is taken")
    head, mark, rest = got.partition(b"\r\n\r\n")
    if not mark:
        raise NoAnswer("what answers is no office")
    return _status(head), _unchunked(head, rest)


def _length(head: bytes) -> int:
    for row in head.split(b"\r\n")[1:]:
        name, _, value = row.partition(b":")
        if name.strip().lower() == b"content-length" and value.strip().isdigit():
            return min(int(value.strip()[:12]), MOST_ANSWER)
    return -1


def _status(head: bytes) -> int:
    words = head.split(b"\r\n", 1)[0].split()
    if len(words) < 2 or not words[0].startswith(b"HTTP/") or not words[1].isdigit():
        raise NoAnswer("what answers is no office")
    return int(words[1][:4])


def _unchunked(head: bytes, body: bytes) -> bytes:
    if b"transfer-encoding: chunked" not in head.lower():
        return body
    found, rest = b"", body
    while rest:
        size, _, rest = rest.partition(b"\r\n")
        try:
            count = int(size.split(b";")[0].strip() or b"0", 16)
        except ValueError:
            break
        if count <= 0:
            break
        found += rest[:count]
        rest = rest[count + 2 :]
    return found
