"""The stand-in meter: a simulated instrument on a loopback port (docs/meter.md).

    script/meter [TWIN.json] [--port 7300] [--silent|--nonsense|--slow]

It reads a job's *as-built* twin. What it reads is marked simulated for ever.
"""

import argparse
import contextlib
import socketserver
import threading
import time
from importlib.resources import files
from pathlib import Path

from returnpath.errors import BadInput
from returnpath.meter import TwinMeter, read_twin
from returnpath.readings import reading_kinds

PORT = 7300
MOST_LINE = 200
UNITS = {"Ω": "ohm", "A": "ampere", "V": "volt", "MΩ": "megohm", "ms": "ms", "mA": "mA",
         "in-lb": "in-lb", "°C": "celsius", "lamps": "lamps"}  # fmt: skip
SLOW_S = 30.0
GREETING = "just-loop-meter 1 simulated"


class Meter(socketserver.ThreadingTCPServer):
    """One instrument, many lines. ``mood``: "" as it should be, silent, nonsense or slow."""

    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, instrument: TwinMeter, port: int = PORT, mood: str = ""):
        self.instrument, self.mood = instrument, mood
        self.reading = threading.Lock()
        super().__init__(("127.0.0.1", port), _Lines)

    def answer(self, line: str) -> str:
        """What is said to one line."""
        words = line.split()
        if words[:1] == ["HELLO"]:
            return f"{GREETING} {self.instrument.twin.name}"
        if words[:1] != ["READ"] or len(words) != 3:
            return "ERROR say HELLO, READ <kind> <place> or BYE"
        if self.mood == "nonsense":
            return "0.6.6 bananas"
        try:
            with self.reading:
                value = self.instrument.read(words[1], words[2])
        except BadInput as error:
            return f"ERROR {error.sentence}"
        return f"{value:g} {UNITS[reading_kinds()[words[1]].unit]}"


class _Lines(socketserver.StreamRequestHandler):
    timeout = 60

    def handle(self) -> None:
        meter = self.server
        assert isinstance(meter, Meter)
        while line := self.rfile.readline(MOST_LINE):
            said = line.decode("ascii", "replace").strip()
            if said == "BYE":
                return
            if meter.mood == "silent":
                return
            if meter.mood == "slow":
                time.sleep(SLOW_S)
            self.wfile.write(f"{meter.answer(said)}\n".encode())


def demo_meter(port: int = PORT, mood: str = "") -> Meter:
    """The one that stands at Pebblewick."""
    twin = files("returnpath") / "examples" / "pebblewick.twin.json"
    return Meter(TwinMeter(read_twin(twin.read_text("utf-8"), _example)), port, mood)


def _example(name: str) -> str:
    return (files("returnpath") / "examples" / Path(name).name).read_text("utf-8")


def _of_file(path: Path) -> TwinMeter:
    def job_file(name: str) -> str:
        beside = path.parent / Path(name).name
        return beside.read_text("utf-8") if beside.exists() else _example(name)

    try:
        return TwinMeter(read_twin(path.read_text("utf-8"), job_file))
    except OSError as error:
        raise BadInput(f"{path} cannot be read: {error}.") from None


def main() -> int:
    """Serve until Ctrl-C."""
    call = argparse.ArgumentParser(prog="script/meter", description=__doc__)
    call.add_argument("twin", nargs="?", type=Path)
    call.add_argument("--port", type=int, default=PORT)
    for mood in ("silent", "nonsense", "slow"):
        call.add_argument(f"--{mood}", dest="mood", action="store_const", const=mood, default="")
    chosen = call.parse_args()
    try:
        if chosen.twin:
            meter = Meter(_of_file(chosen.twin), chosen.port, chosen.mood)
        else:
            meter = demo_meter(chosen.port, chosen.mood)
    except BadInput as error:
        print(error.sentence)
        return 2
    print(f"A simulated meter at {meter.instrument.twin.name}: 127.0.0.1:{chosen.port}", flush=True)
    with contextlib.suppress(KeyboardInterrupt):
        meter.serve_forever()
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
