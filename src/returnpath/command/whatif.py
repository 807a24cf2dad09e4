"""``touch``: a hand on one thing, feet on another. ``compare``: what moved between two jobs."""

from ..errors import BadInput
from ..network import EARTH
from ..study import Touch, compare, person, study
from ..working import figures
from . import envelope
from .check import plain, read_job


def add_to(calls) -> None:
    """The calls of this module."""
    touch = calls.add_parser("touch", help="a person between two nodes, loads on, no fault")
    touch.add_argument("job")
    touch.add_argument(
        "--touch", required=True, help="what the hand is on: c4.case, p2.N, m6.metal"
    )
    touch.add_argument("--stand", default=EARTH, help="what the feet are on; 0 is earth")
    touch.add_argument("--wet", action="store_true", help="500 ohms instead of 1,000")
    touch.add_argument("--json", action="store_true")
    touch.set_defaults(run=_touch)
    moved = calls.add_parser("compare", help="what moved between two job files")
    moved.add_argument("before")
    moved.add_argument("after")
    moved.add_argument("--json", action="store_true")
    moved.set_defaults(run=_compare)


def _touch(chosen) -> int:
    done = study(read_job(chosen.job))
    if not done.states:
        raise BadInput("No supply reaches this place.")
    found: dict[str, Touch] = {
        s.supply.id: person(s, chosen.touch, chosen.stand, chosen.wet) for s in done.states
    }
    if chosen.json:
        rows = {k: {"amps": plain(t.amps), "volts": plain(t.volts)} for k, t in found.items()}
        envelope.show(envelope.of(rows, "amperes and volts by supply"))
        return 0
    for supply, touch in found.items():
        print(f"{supply}: {figures(touch.amps * 1000)} mA, {figures(touch.volts)} V")
    return 0


def _compare(chosen) -> int:
    changes = compare(study(read_job(chosen.before)), study(read_job(chosen.after)))
    if chosen.json:
        rows = [
            {"place": c.place, "what": c.what, "before": _value(c.before), "after": _value(c.after)}
            for c in changes
        ]
        envelope.show(envelope.of(rows, "figures that moved"))
        return 0
    for change in changes:
        print(f"{change.place}: {change.what} {_words(change.before)} to {_words(change.after)}")
    if not changes:
        print("Nothing moved by more than a thousandth.")
    return 0


def _value(value):
    return plain(value) if isinstance(value, float) else value and str(value)


def _words(value) -> str:
    return figures(value) if isinstance(value, float) else str(value)
