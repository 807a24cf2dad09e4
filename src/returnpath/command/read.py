"""``read LINE``: what a typed line is read as, before anything is kept."""

from ..errors import BadInput
from ..site import Installation, read_place
from . import envelope
from .check import read_job


def add_to(calls) -> None:
    """The call."""
    call = calls.add_parser("read", help="what a typed line means: its kind, then its facts")
    call.add_argument("line", help="a circuit, a sub-panel, electrodes, a pipe, a building…")
    call.add_argument("--job", help="the job file that it is typed in: its panels and buildings")
    call.add_argument("--panel", default="", help="the panel that is chosen, by its id")
    call.add_argument("--json", action="store_true")
    call.set_defaults(run=_read)


def _read(chosen) -> int:
    site = read_job(chosen.job) if chosen.job else Installation()
    made = read_place(site, chosen.line, chosen.panel)
    if chosen.json:
        body = {
            "kind": made.kind,
            "count": made.count,
            "facts": made.facts,
            "assumed": made.assumed,
            "words": [made.title, *made.words],
            "unused": made.unused,
            "doubts": made.doubts,
            "problems": made.problems,
        }
        envelope.show(body | envelope.of(body, "reading"))
        return 0
    if not made.title and not made.problems:
        raise BadInput("Type a circuit, such as 20A 12/2 NM 85ft kitchen counter.")
    if not made.is_complete and made.problems:
        print(made.title)
        raise BadInput(" ".join(made.problems))
    print(made.title)
    if made.words:
        print(f"  read: {', '.join(made.words)}")
    if made.assumed_words:
        print(f"  assumed: {', '.join(made.assumed_words)}")
    if made.doubts:
        print(f"  or is it {' or '.join(made.doubts)}?")
    return 0 if made.is_complete else 2
