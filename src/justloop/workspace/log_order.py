"""The order of a metric walk: every circuit's dead tests, then its live ones."""

from collections.abc import Iterable

from returnpath.readings import DEAD, LIVE, reading_kinds, schedule_rows
from returnpath.site import Circuit, name_of
from returnpath.site.speech import rule_set_of
from returnpath.words import RuleSet

from ..solved import SolvedSite

Read = set[tuple[str, str]]


def is_metric(solved: SolvedSite) -> bool:
    """Whether a place's walk has dead tests before the loops."""
    return rule_set_of(solved.site) is RuleSet.METRIC


def unread(solved: SolvedSite, read: Read) -> dict[str, tuple[list[str], list[str]]]:
    """circuit → (its dead tests that nobody has read, its live ones), in their order."""
    found = {}
    for panel in solved.site.panels:
        for row in schedule_rows(solved.study, panel.id):
            dead, live = (
                [k for k in kinds if k in row.expected and (row.circuit, k) not in read]
                for kinds in (DEAD, LIVE)
            )
            found[row.circuit] = dead, live
    return found


def line_of(solved: SolvedSite, circuit: Circuit, read: Read) -> str:
    """The reading that a circuit asks for next, as it is typed without its number."""
    dead, live = unread(solved, read).get(circuit.id, ([], []))
    kind = next(iter([*dead, *live]), "loop")
    return f"{name_of(circuit)} {reading_kinds()[kind].typed}"


def in_order(solved: SolvedSite, circuits: Iterable[Circuit], read: Read) -> list[str]:
    """The circuits that lack a test: those with a dead one first."""
    lacking = unread(solved, read)
    ids = [c.id for c in circuits if c.id in lacking]
    return [i for i in ids if lacking[i][0]] + [
        i for i in ids if not lacking[i][0] and lacking[i][1]
    ]
