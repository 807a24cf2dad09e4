"""Where a procedure stands: what is ticked, what holds, whether dead is still proven.

A proof of dead belongs to who made it. It expires when anything is energized, when they have been
away from the work for ``AWAY``, and when somebody else goes on with it.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum

from .procedure import Hold, Procedure, ProcedureStep

AWAY = timedelta(minutes=30)
#: The steps that a proof of dead consists of.
PROOF = ("known-live", "target", "live-again")


class StepState(StrEnum):
    """How a step stands."""

    DONE = "done"
    NOW = "now"
    LATER = "later"
    EXPIRED = "to be proven again"


@dataclass(frozen=True)
class Tick:
    """A step that was ticked: by whom, when."""

    step: str
    who: str
    at: datetime


@dataclass(frozen=True)
class Progress:
    """The states of all steps; the step that is next (None at the end); why dead is no longer
    proven, where it is not; whose lock is on."""

    states: tuple[StepState, ...]
    now: ProcedureStep | None
    expired: str
    locked_by: str


def progress_of(
    procedure: Procedure, ticks: Sequence[Tick], person: str, now: datetime, last_seen: datetime
) -> Progress:
    """``last_seen`` is when ``person`` last looked at this work before now."""
    newest = {t.step: t for t in sorted(ticks, key=lambda t: t.at)}
    steps = procedure.steps
    first = next((n for n, s in enumerate(steps) if s.key not in newest), len(steps))
    expired = _expired(procedure, newest, first, person, now, last_seen)
    if expired:
        first = next(n for n, s in enumerate(steps) if s.key in PROOF)
    states = tuple(_state(s, n, first, newest, bool(expired)) for n, s in enumerate(steps))
    return Progress(states, steps[first] if first < len(steps) else None, expired,
                    _lock(procedure, newest))  # fmt: skip


def _state(
    step: ProcedureStep, n: int, first: int, newest: dict[str, Tick], expired: bool
) -> StepState:
    if n == first:
        return StepState.NOW
    if expired and step.key in PROOF:
        return StepState.EXPIRED
    return StepState.DONE if step.key in newest else StepState.LATER


def _expired(procedure: Procedure, newest: dict[str, Tick], first: int, person: str,
             now: datetime, last_seen: datetime) -> str:  # fmt: skip
    """Why dead is no longer proven for the step that comes next; "" where it is, or need not be."""
    steps = procedure.steps
    proof = next((n for n, s in enumerate(steps) if s.hold is Hold.DEAD), None)
    if proof is None or first <= proof or first >= len(steps):
        return ""
    energized = next((n for n in range(proof + 1, len(steps)) if steps[n].needs_signal), len(steps))
    if first >= energized:
        return ""  # what comes now is done live, or after
    made = newest[steps[proof].key]
    later = [t for s in steps if s.needs_signal and (t := newest.get(s.key)) and t.at > made.at]
    if later:
        return "something was energized since dead was proven"
    if made.who != person:
        return f"{made.who} proved it dead, not you"
    if now - max(last_seen, made.at) > AWAY:
        return f"you were away for over {AWAY.seconds // 60} minutes"
    return ""


def _lock(procedure: Procedure, newest: dict[str, Tick]) -> str:
    """Whose lock is on: the last lock that nothing was energized after."""
    locks = [newest[s.key] for s in procedure.steps if s.hold is Hold.LOCK and s.key in newest]
    if not locks:
        return ""
    last = max(locks, key=lambda t: t.at)
    live = [newest[s.key] for s in procedure.steps if s.needs_signal and s.key in newest]
    return "" if any(t.at > last.at for t in live) else last.who
