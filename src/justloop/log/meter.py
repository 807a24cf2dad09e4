"""The line to a meter on this machine: one question, one answer (docs/meter.md)."""

import re
import socket
from dataclasses import dataclass

from django.conf import settings

from returnpath.errors import BadInput
from returnpath.readings import reading_kinds

from ..outside import Deadline, NoAnswer, receive

MOST_ANSWER = 200
UNITS = {"ohm": "Ω", "ampere": "A", "volt": "V", "megohm": "MΩ", "ms": "ms", "mA": "mA",
         "in-lb": "in-lb", "celsius": "°C", "lamps": "lamps"}  # fmt: skip
_ANSWER = re.compile(r"(\d+(?:\.\d+)?(?:e[+-]?\d+)?) ([A-Za-z-]+)")
_HELLO = re.compile(r"just-loop-meter 1( simulated)?(?: (.{1,80}))?")
UNTOUCHED = "Nothing was kept; type the figure instead."


@dataclass(frozen=True)
class MeterReading:
    """What the meter showed; ``simulated`` where it is a stand-in."""

    value: float
    simulated: bool


def read_meter(kind: str, place: str, job_name: str) -> MeterReading:
    """Ask the meter for one reading; BadInput says what went wrong. A stand-in that stands at
    another job's twin is refused: its places are not these."""
    host, _, port = settings.METER.rpartition(":")
    deadline = Deadline()
    try:
        line = socket.create_connection((host, int(port)), timeout=deadline.left())
    except (OSError, ValueError, OverflowError):
        raise BadInput(f"No meter is switched on at {settings.METER}. {UNTOUCHED}") from None
    try:
        with line:
            return _talk(_Line(line, deadline), kind, place, job_name)
    except (TimeoutError, NoAnswer):
        raise BadInput(f"The meter does not answer. {UNTOUCHED}") from None
    except OSError:
        raise BadInput(f"The meter hung up. {UNTOUCHED}") from None


class _Line:
    """Lines in and out, all within one time limit."""

    def __init__(self, line: socket.socket, deadline: Deadline):
        self.line, self.deadline, self.waiting = line, deadline, b""

    def ask(self, words: str) -> str:
        """One line sent, one received."""
        self.line.settimeout(self.deadline.left())
        self.line.sendall(f"{words}\n".encode("ascii"))
        while b"\n" not in self.waiting and len(self.waiting) < MOST_ANSWER:
            more = receive(self.line, self.deadline, MOST_ANSWER)
            if not more:
                break
            self.waiting += more
        said, _, self.waiting = self.waiting.partition(b"\n")
        if not said:
            raise BadInput(f"The meter hung up. {UNTOUCHED}")
        text = said[:MOST_ANSWER].decode("ascii", "replace").strip()
        return "".join(c if c.isprintable() else "?" for c in text)


def _talk(line: _Line, kind: str, place: str, job_name: str) -> MeterReading:
    hello = _HELLO.fullmatch(line.ask("HELLO"))
    if hello is None:
        raise BadInput(f"What answers at {settings.METER} is no meter. {UNTOUCHED}")
    if hello[1] and hello[2] and hello[2] != job_name:
        raise BadInput(f"The simulated meter stands at {hello[2]}, not here. {UNTOUCHED}")
    said = line.ask(f"READ {kind} {place}")
    return MeterReading(_value(said, kind), bool(hello[1]))


def _value(said: str, kind: str) -> float:
    if said.startswith("ERROR"):
        raise BadInput(f"The meter says: {said[6:80]}. {UNTOUCHED}")
    match = _ANSWER.fullmatch(said)
    if match is None or UNITS.get(match[2]) != reading_kinds()[kind].unit:
        raise BadInput(f"The meter said “{said[:40]}”, which is no such reading. {UNTOUCHED}")
    value = float(match[1])
    if not 0 <= value < 1e7:
        raise BadInput(f"The meter said “{said[:40]}”, which cannot be. {UNTOUCHED}")
    return value
