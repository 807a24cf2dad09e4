"""``diagnose``: which single defect would explain a job's readings, and what to read next."""

import csv
import sys
from argparse import Namespace
from pathlib import Path
from typing import Any

from ..diagnosis import Diagnoser, Given
from ..errors import BadInput
from ..readings import read_reading, read_table, reading_kinds
from ..site import Installation, loads
from ..study import study
from . import envelope

MOST_BYTES, MOST_READINGS = 200_000, 60


def add_to(calls: Any) -> None:
    """The call."""
    call = calls.add_parser("diagnose", help="which defect would explain the readings")
    call.add_argument("job")
    call.add_argument("readings", help="CSV: kind,place,value (- for standard input), or a line"
                      " as spoken to each reading")  # fmt: skip
    call.add_argument("--json", action="store_true")
    call.set_defaults(run=_diagnose)


def _text(path: str) -> str:
    if path == "-":
        return sys.stdin.read(MOST_BYTES)
    try:
        return Path(path).read_text("utf-8")[:MOST_BYTES]
    except (OSError, UnicodeDecodeError) as error:
        raise BadInput(f"{path} cannot be read: {error}.") from None


def readings_of(site: Installation, text: str) -> list[Given]:
    """Readings of a CSV with a heading (kind, place as id or name, value), else spoken lines."""
    lines = [line for line in text.splitlines() if line.strip()]
    if not lines:
        raise BadInput("There is no reading in it.")
    if len(lines) > MOST_READINGS:
        raise BadInput(f"At most {MOST_READINGS} readings at once.")
    heading = [cell.strip().lower() for cell in next(csv.reader([lines[0]]))]
    if {"kind", "place", "value"} <= set(heading) or text.lstrip().startswith("{"):
        return [Given(t.kind, t.place, t.value) for _, t in read_table(site, text)]
    found = [read_reading(site, line) for line in lines]
    if problems := [r.problem for r in found if r.problem]:
        raise BadInput(problems[0])
    return [Given(r.kind, r.place, r.value) for r in found]


def _diagnose(chosen: Namespace) -> int:
    site = loads(Path(chosen.job).read_text("utf-8"))
    given = readings_of(site, _text(chosen.readings))
    done = study(site)
    if not done.states:
        raise BadInput("Nothing supplies this job: there is nothing to diagnose.")
    found = Diagnoser(done).diagnose(given)
    proposal = found.next_reading
    if chosen.json:
        result = {
            "candidates": [
                {"key": c.key, "kind": c.kind, "element": c.element, "words": c.words,
                 "share": c.share, "size": c.size, "same": list(c.same)}
                for c in found.candidates
            ],
            "next_reading": None if proposal is None else
            {"kind": proposal.kind, "place": proposal.place, "words": proposal.words,
             "answers": [{"words": w, "value": v} for w, v in proposal.answers]},
            "unused": list(found.unused),
            "slips": list(found.slips),
            "unread": list(found.unread),
            "unread_share": found.unread_share,
        }  # fmt: skip
        envelope.show(envelope.of(result, "share"))
        return 0
    for c in found.candidates:
        if c.share >= 0.005 or c is found.candidates[0]:
            print(f"{c.share:4.0%}  {c.words}")
    if found.candidates[0].same:
        same = [c.words for c in found.candidates if c.key in found.candidates[0].same]
        print(f"      no reading here tells it from: {'; '.join(same)}")
    if found.unread:
        print(f"{found.unread_share:4.0%}  something at one of the circuits that were not read:"
              f" {len(found.unread)}")  # fmt: skip
    for number in found.slips:
        one = given[number]
        print(f"Read it again, it fits nothing: {one.kind} at {one.place}, {one.value:g}")
    if proposal is not None:
        print(f"Read this next: {proposal.words}")
        unit = reading_kinds()[proposal.kind].unit
        for says, value in proposal.answers:
            print(f"      {value:.2g} {unit} would say {says}")
    for what in found.unused:
        print(f"Not used: {what}")
    return 0
