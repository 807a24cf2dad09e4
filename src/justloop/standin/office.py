"""The stand-in office: a permit and inspection desk and the utility's outage desk, on loopback
(docs/office.md).

    script/office [--port 7400] [--closed] [--loses] [--farm]

JSON over HTTP. Its moods: closed on Fridays, loses a form, wants a farm class.
"""

import argparse
import contextlib
import json
from collections.abc import Callable
from datetime import date, timedelta
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any

PORT = 7400
MOST_BODY = 20_000
FRIDAY = 4
#: What an inspector remarks, and on what it rests.
REMARKS = (
    {"text": "Bond screw in at a sub-panel", "rests_on": "rule", "where": "250.24, 408.40"},
    {"text": "Photo of the rod clamps before the hole is closed", "rests_on": "local",
     "where": "the office, since spring"},
    {"text": "Lug not torqued to its label", "rests_on": "manufacturer", "where": "panel's label"},
)  # fmt: skip


class Desk:
    """What the office knows; ``today`` is asked each time: a test says which day it is."""

    def __init__(self, today: Callable[[], date] = date.today, closed: bool = False,
                 loses: bool = False, farm: bool = False):  # fmt: skip
        self.today, self.closed, self.loses, self.farm = today, closed, loses, farm
        self.cases: dict[str, dict[str, Any]] = {}
        self.lost: set[str] = set()
        self.number = 100

    def answer(self, path: str, body: dict[str, Any]) -> tuple[int, dict[str, Any]]:
        """(status, answer) of one call."""
        if self.closed and self.today().weekday() == FRIDAY:
            return 503, {"says": "Closed on Fridays."}
        do = {"/apply": self._apply, "/slots": self._slots, "/book": self._book,
              "/result": self._result, "/outage": self._outage}.get(path)  # fmt: skip
        if do is None:
            return 404, {"says": "There is no such desk."}
        return do(body)

    def _apply(self, body: dict[str, Any]) -> tuple[int, dict[str, Any]]:
        name = str(body.get("job", ""))[:80]
        if not name:
            return 422, {"says": "For which place?"}
        if self.loses and name not in self.lost:
            self.lost.add(name)
            return 202, {"says": "Your form cannot be found. Hand it in again."}
        if self.farm and not body.get("class"):
            return 200, {"question": "class", "says": "Is it a dwelling or a farm? Say the class."}
        self.number += 1
        number = f"P-{self.number}"
        self.cases[number] = {"job": name, "visits": 0}
        return 200, {"number": number, "says": "Granted."}

    def _slots(self, body: dict[str, Any]) -> tuple[int, dict[str, Any]]:
        days, day = [], self.today()
        while len(days) < 3:
            day += timedelta(days=1)
            if day.weekday() < FRIDAY:
                days.append(day.isoformat())
        return 200, {"slots": days}

    def _case(self, body: dict[str, Any]) -> dict[str, Any] | None:
        return self.cases.get(str(body.get("number", "")))

    def _book(self, body: dict[str, Any]) -> tuple[int, dict[str, Any]]:
        case = self._case(body)
        if case is None:
            return 404, {"says": "That number is not known here."}
        case["day"] = str(body.get("day", ""))[:10]
        return 200, {"says": f"Booked for {case['day']}."}

    def _result(self, body: dict[str, Any]) -> tuple[int, dict[str, Any]]:
        """The first visit has remarks, the next passes."""
        case = self._case(body)
        if case is None:
            return 404, {"says": "That number is not known here."}
        case["visits"] += 1
        if case["visits"] == 1:
            return 200, {"result": "failed", "remarks": list(REMARKS), "inspector": "Desk 2"}
        return 200, {"result": "passed", "remarks": [], "inspector": "Desk 2"}

    def _outage(self, body: dict[str, Any]) -> tuple[int, dict[str, Any]]:
        """The utility: a window three working days ahead."""
        slots = self._slots(body)[1]["slots"]
        return 200, {"day": slots[-1], "from": "08:00", "to": "14:00", "says": "Lock on the meter."}


class Office(ThreadingHTTPServer):
    """The desk behind HTTP."""

    daemon_threads = True

    def __init__(self, desk: Desk, port: int = PORT):
        self.desk = desk
        super().__init__(("127.0.0.1", port), _Calls)


class _Calls(BaseHTTPRequestHandler):
    timeout = 10

    def do_POST(self) -> None:
        office = self.server
        assert isinstance(office, Office)
        length = self.headers.get("Content-Length", "0")
        size = int(length) if length.isdecimal() else 0
        try:
            body = json.loads(self.rfile.read(min(size, MOST_BODY)) or b"{}")
            status, said = office.desk.answer(self.path, body if isinstance(body, dict) else {})
        except ValueError:
            status, said = 400, {"says": "That is no JSON."}
        data = json.dumps(said).encode()
        self.send_response(status)
        self.send_header("Content-Type", "application/json")
        self.send_header("Content-Length", str(len(data)))
        self.end_headers()
        self.wfile.write(data)

    def log_message(self, format: str, *args: Any) -> None:
        """Quiet."""


def main() -> int:
    """Serve until Ctrl-C."""
    call = argparse.ArgumentParser(prog="script/office", description=__doc__)
    call.add_argument("--port", type=int, default=PORT)
    call.add_argument("--closed", action="store_true", help="closed on Fridays")
    call.add_argument("--loses", action="store_true", help="loses the first form")
    call.add_argument("--farm", action="store_true", help="asks for the class")
    chosen = call.parse_args()
    desk = Desk(closed=chosen.closed, loses=chosen.loses, farm=chosen.farm)
    print(f"A simulated office: http://127.0.0.1:{chosen.port}", flush=True)
    with contextlib.suppress(KeyboardInterrupt):
        Office(desk, chosen.port).serve_forever()
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
