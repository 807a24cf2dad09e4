"""What the checks of the metric rule set have in common."""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import partial

from ..site import Circuit, Feeder, Set
from ..site.arrangement import Arrangement, arrangement_at, feeders_up
from ..site.serves import is_lighting, places_of
from ..study import FaultStudy
from ..words import RuleSet
from .registry import Evidence, check

#: A check of the metric rule set.
metric_check = partial(check, rules=RuleSet.METRIC)

ADDITIONAL_MA = 30.0
MOST_SOCKET_A = 32.0
TOUCH_V = 50.0


@dataclass(frozen=True)
class FittedRcd:
    """A residual-current device ahead of a circuit: where, its rating, its delay, its type."""

    element: str
    ma: float
    delayed: bool
    type: str


def runs(s: Evidence) -> list[Circuit | Feeder]:
    """Every circuit, then every feeder, as filled."""
    return [*s.filled.circuits, *s.filled.feeders]


def rcds_ahead(s: Evidence, run: Circuit | Feeder) -> tuple[FittedRcd, ...]:
    """Those in a run's path, the nearest first: its own, its board's, those of the way up."""
    panel = run.panel if isinstance(run, Circuit) else run.source
    order = [run, s.panels[panel]]
    for feeder in feeders_up(s.filled, panel):
        order += [feeder, s.panels[feeder.source]]
    return tuple(
        FittedRcd(e.id, e.rcd_ma, e.rcd_delayed == "yes", e.rcd_type or "")
        for e in order
        if e.rcd_ma is not None
    )


RCD_QUESTION = "Is there an RCD ahead of it, and of how many mA?"


def is_rcd_unknown(s: Evidence, circuit: Circuit) -> bool:
    """Whether nobody has said if a residual-current device is ahead of a circuit."""
    return circuit.gfci is None and not rcds_ahead(s, circuit)


def rcd_fix(circuit: Circuit, ma: float = ADDITIONAL_MA) -> tuple[Set, ...]:
    """The edits that put a device without delay ahead of a circuit."""
    return (
        Set(path=f"{circuit.id}.rcd_ma", value=ma),
        Set(path=f"{circuit.id}.rcd_delayed", value="no"),
        Set(path=f"{circuit.id}.gfci", value="yes"),
    )


def has_additional(s: Evidence, circuit: Circuit) -> bool:
    """Whether a device of 30 mA or less without delay is ahead of it."""
    return any(r.ma <= ADDITIONAL_MA and not r.delayed for r in rcds_ahead(s, circuit))


def feeds_sockets(circuit: Circuit) -> bool:
    """Whether a circuit feeds socket-outlets: as given, a ring, or by its name."""
    if circuit.feeds is not None:
        return circuit.feeds == "socket-outlets"
    name = (circuit.name or "").lower()
    return circuit.ring == "yes" or "socket" in name


def is_outdoors(circuit: Circuit) -> bool:
    """Whether it serves a place outdoors."""
    return "outdoors" in places_of(circuit) or circuit.wet == "yes"


def lights(circuit: Circuit) -> bool:
    """Whether it feeds lights alone."""
    return is_lighting(circuit) and not feeds_sockets(circuit)


def arrangement(s: Evidence, panel: str) -> Arrangement | None:
    """The arrangement of a board."""
    return arrangement_at(s.filled, panel)


def loops(s: Evidence) -> Iterator[tuple[FaultStudy, object]]:
    """Every line-to-case answer that is known, with the element it is about."""
    for study in (*s.study.loops.values(), *s.study.protected_enclosures.values()):
        if study.lowest_a is not None and study.device is not None:
            yield study, s.elements[study.place]
