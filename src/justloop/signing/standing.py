"""What still stands open before somebody signs."""

from dataclasses import dataclass
from typing import Any

from django.conf import settings

from returnpath.rules import Finding
from returnpath.vocabulary import Level

from ..log.views import names_of
from ..planning.lacks import judged_now, newest_of, record_lacks
from ..solved import SolvedSite, standing


@dataclass(frozen=True)
class Danger:
    """A danger that stands: it is signed over only with how it was made safe, or that the owner
    was told in writing."""

    key: str
    place: str
    found: str


@dataclass(frozen=True)
class OpenWork:
    """Everything that stands open: dangers apart, the rest in words."""

    dangers: tuple[Danger, ...]
    others: tuple[str, ...]

    @property
    def is_clear(self) -> bool:
        """Nothing stands open."""
        return not self.dangers and not self.others


def open_work(job, solved: SolvedSite, aside: dict) -> OpenWork:
    """Of a job as it is now."""
    found = standing(solved, aside)
    dangers = tuple(
        Danger(f.key, f.place_name, f.found) for f in found if f.level is Level.DANGER
    )  # fmt: skip
    apart = [
        f"Danger set aside: {f.place_name}: {f.found} ({reason_of(aside[f.key])})"
        for f in solved.findings
        if f.level is Level.DANGER and f.key in aside
    ]
    fixes = [f"{f.place_name}: {f.found}" for f in found if f.level is Level.FIX]
    return OpenWork(dangers, (*apart, *fixes, *_record(job, solved)))


def reason_of(entry: Any) -> str:
    """Why a finding is set aside, as its entry keeps it."""
    return str(entry.get("reason", "")) if isinstance(entry, dict) else str(entry)


def _record(job, solved: SolvedSite) -> list[str]:
    readings = list(job.readings.all())
    simulated = sum(r.simulated for r in readings)
    if not settings.DEMO:
        readings = [r for r in readings if not r.simulated]
    names = names_of(solved.site)
    judged = [judged_now(solved.study, r, names) for r in newest_of(solved.site, readings)]
    said = [_line(f) for f in record_lacks(job, solved, judged)]
    if simulated:
        said.append(f"{simulated} readings are simulated and prove nothing outside the demo")
    if solved.unproven:
        said.append(f"{len(solved.unproven)} circuits are not proven")
    return said


def _line(lack: Finding) -> str:
    if lack.id == "evidence-before-cover":
        return f"Not seen before cover: {lack.place_name}"
    if lack.id == "correction-open":
        return f"Remark of the office: {lack.found}"
    return f"{lack.place_name}: {lack.found}"
