"""One row for many places: checks and notes of one kind are told once, with their places."""

from collections.abc import Iterable
from dataclasses import dataclass

from ..vocabulary import Level
from ..working import some_of
from .finding import Finding
from .registry import VERIFY, all_checks

#: What is told at each place on its own, whatever the number.
ALONE = (Level.DANGER, Level.FIX)


@dataclass(frozen=True)
class FindingRow:
    """Findings of one kind and level; one alone is a row of its own."""

    findings: tuple[Finding, ...]

    @property
    def first(self) -> Finding:
        """The one that stands for the row."""
        return self.findings[0]

    @property
    def places(self) -> str:
        """The places in words, the first few by name."""
        return some_of(f.place_name for f in self.findings)

    @property
    def title(self) -> str:
        """What is to be done at all of them; for a question, what the check looks for."""
        if self.first.asks and self.first.do == VERIFY:
            return all_checks()[self.first.id].looks
        return self.first.do

    @property
    def is_group(self) -> bool:
        """Whether it stands for several."""
        return len(self.findings) > 1


def grouped(found: Iterable[Finding]) -> tuple[FindingRow, ...]:
    """Rows in the order of the findings; what only has to be looked at, a row a kind."""
    rows: list[list[Finding]] = []
    of_kind: dict[tuple[str, str], list[Finding]] = {}
    for finding in found:
        key = (finding.id, finding.do if finding.asks else finding.level)
        if finding.level in ALONE or key not in of_kind:
            rows.append([])
            of_kind[key] = rows[-1]
        of_kind[key].append(finding)
    return tuple(FindingRow(tuple(row)) for row in rows)
