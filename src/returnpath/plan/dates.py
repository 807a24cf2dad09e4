"""The dates of a job: what must come before what, which are at risk, who is wanted twice."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

#: kind → (its words, what must be done before it).
KINDS: dict[str, tuple[str, tuple[str, ...]]] = {
    "application": ("application", ()),
    "permit": ("permit", ("application",)),
    "utility": ("utility's consent", ("application",)),
    "electrodes": ("electrode day", ("permit",)),
    "rough": ("rough-in visit", ("permit",)),
    "cover": ("walls and trench closed", ("rough",)),
    "outage": ("outage", ("permit", "utility", "electrodes")),
    "final": ("final visit", ("outage", "cover")),
    "re-inspection": ("second visit", ("final",)),
    "calibration": ("calibration", ()),
}
#: One person cannot be at two of these on one day.
PRESENT = ("electrodes", "outage", "rough", "final", "re-inspection")


@dataclass(frozen=True)
class Event:
    """A date of a job. ``done`` it happened; ``who`` must be there; ``id`` of its row."""

    kind: str
    day: date
    job: str = ""
    who: str = ""
    done: bool = False
    id: int = 0


@dataclass(frozen=True)
class DateAtRisk:
    """An event whose day cannot be kept as things stand, and why."""

    event: Event
    why: str


def at_risk(events: Sequence[Event], today: date) -> tuple[DateAtRisk, ...]:
    """Those of one job that come before what must come first, or rest on what is not dated or was
    missed. What does not apply to a job (no outage) has no date and holds nothing up, unless it is
    what the event itself rests on: a permit, a consent."""
    by_kind: dict[str, list[Event]] = defaultdict(list)
    for event in events:
        by_kind[event.kind].append(event)
    found = []
    for event in sorted(events, key=lambda e: e.day):
        if event.done:
            continue
        if event.day < today:
            found.append(DateAtRisk(event, "its day has passed and nobody ticked it"))
            continue
        for needed in KINDS.get(event.kind, ("", ()))[1]:
            words = KINDS[needed][0]
            first = min(by_kind[needed], key=lambda e: (not e.done, e.day), default=None)
            if first is None:
                if needed in MUST_EXIST:
                    found.append(DateAtRisk(event, f"there is no {words} yet"))
                continue
            if not first.done and first.day > event.day:
                found.append(DateAtRisk(event, f"the {words} is only on {first.day:%d %b}"))
            elif not first.done and first.day < today:
                found.append(DateAtRisk(event, f"the {words} of {first.day:%d %b} was missed"))
    return tuple(found)


MUST_EXIST = ("application", "permit", "utility")


def clashes(events: Sequence[Event]) -> tuple[tuple[Event, Event], ...]:
    """Pairs of events that want one person at two jobs on one day."""
    by_day: dict[tuple[date, str], list[Event]] = defaultdict(list)
    for event in events:
        if event.kind in PRESENT and event.who and not event.done:
            by_day[event.day, event.who].append(event)
    found = []
    for same in by_day.values():
        for n, one in enumerate(same):
            found += [(one, other) for other in same[n + 1 :] if other.job != one.job]
    return tuple(found)
