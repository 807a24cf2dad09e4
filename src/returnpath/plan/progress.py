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
    """A step that was ticked: by whom, when; ``waited`` where it came out of a phone's queue and
    what is asked now did not."""

    step: str
    who: str
    at: datetime
    waited: bool = False


@dataclass(frozen=True)
class Progress:
    """The states of all steps; the step that is next (None at the end); why dead is no longer
    proven, where it is not."""

    states: tuple[StepState, ...]
    now: ProcedureStep | None
    expired: str


@dataclass(frozen=True)
class Ended:
    """Why the proof of dead at a person's locks is over, and since when; what was proven before
    that moment has to be proven again."""

    why: str
    since: datetime | None = None


def progress_of(procedure: Procedure, ticks: Sequence[Tick], person: str, now: datetime,
                last_seen: datetime, ended: Ended | None = None) -> Progress:  # fmt: skip
    """``now`` is the server's; ``last_seen`` when ``person`` last looked at this work before it.
    ``ended``: why the proof at their locks is over, by what they or others did."""
    ticks = sorted(ticks, key=lambda t: t.at)
    newest = {t.step: t for t in ticks}
    steps = procedure.steps
    first = next((n for n, s in enumerate(steps) if s.key not in newest), len(steps))
    proof = _Proof(procedure, [t for t in ticks if t.step in PROOF], newest, person)
    expired = proof.why_over(first, now, last_seen, ended)
    if expired:
        first = proof.first_again(ended)
    states = tuple(_state(s, n, first, newest, bool(expired)) for n, s in enumerate(steps))
    return Progress(states, steps[first] if first < len(steps) else None, expired)


def _state(
    step: ProcedureStep, n: int, first: int, newest: dict[str, Tick], expired: bool
) -> StepState:
    if n == first:
        return StepState.NOW
    if expired and step.key in PROOF and n > first:
        return StepState.EXPIRED
    return StepState.DONE if step.key in newest else StepState.LATER


class _Proof:
    """One person's proof of dead in a procedure: everybody's rests on their own three steps."""

    def __init__(self, procedure: Procedure, proving: Sequence[Tick], newest: dict[str, Tick],
                 person: str):  # fmt: skip
        self.steps, self.newest = procedure.steps, newest
        self.mine = {t.step: t for t in proving if t.who == person and not t.waited}
        self.all_mine = {t.step: t for t in proving if t.who == person}
        self.at = next((n for n, s in enumerate(self.steps) if s.hold is Hold.DEAD), None)
        self.energized = [t.at for s in self.steps if s.energizes and (t := newest.get(s.key))]

    def why_over(self, first: int, now: datetime, last_seen: datetime,
                 ended: Ended | None) -> str:  # fmt: skip
        """Why dead is no longer proven for the step that comes next; "" where it is, or need not
        be."""
        steps, proof = self.steps, self.at
        if proof is None or first <= proof or first >= len(steps):
            return ""
        after = next((n for n in range(proof + 1, len(steps)) if steps[n].energizes), len(steps))
        if first >= after or (steps[first].needs_signal and not steps[first].energizes):
            return ""  # what comes now is done live, or after
        made = self.mine.get(steps[proof].key)
        if made is None:
            if steps[proof].key in self.all_mine:
                return "the proof waited on a phone: what is done now is proven now"
            return f"{self.newest[steps[proof].key].who} proved it dead, not you"
        if any(at > made.at for at in self.energized):
            return "something was energized since dead was proven"
        if ended is not None and (ended.since is None or made.at <= ended.since):
            return ended.why
        if now - max(last_seen, made.at) > AWAY:
            return f"you were away for over {AWAY.seconds // 60} minutes"
        return ""

    def first_again(self, ended: Ended | None) -> int:
        """The step of the proof that is next: the first that this person has not done since."""
        cuts = [*self.energized, *([ended.since] if ended and ended.since else [])]
        cut = max(cuts) if cuts else None
        where = [n for n, s in enumerate(self.steps) if s.key in PROOF]
        for n in where:
            tick = self.mine.get(self.steps[n].key)
            if tick is None or (cut is not None and tick.at <= cut):
                return n
        return where[0] if where else self.at or 0
