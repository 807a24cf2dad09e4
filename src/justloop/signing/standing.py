"""What still stands open before somebody signs."""

from dataclasses import dataclass

from django.conf import settings

from returnpath.record import slots_of
from returnpath.site import name_of
from returnpath.vocabulary import Level

from ..planning.visits import open_remarks
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
    fixes = [f"{f.place_name}: {f.found}" for f in found if f.level is Level.FIX]
    return OpenWork(dangers, (*fixes, *_record(job, solved)))


def _record(job, solved: SolvedSite) -> list[str]:
    site = solved.site
    said = [f"Remark of the office: {r.text}" for r in open_remarks(job)]
    kept = set(job.photos.exclude(slot="").values_list("slot", flat=True))
    kept |= set(job.slot_notes.values_list("slot", flat=True))
    said += [f"Not seen before cover: {s.name}" for s in slots_of(site) if s.key not in kept]
    loops = job.readings.filter(kind="loop")
    if not settings.DEMO:
        loops = loops.filter(simulated=False)
    read = set(loops.values_list("place", flat=True))
    missing = [name_of(c) for c in site.circuits if c.id not in read]
    if missing:
        more = f" and {len(missing) - 5} more" if len(missing) > 5 else ""
        said.append(f"No loop reading: {', '.join(missing[:5])}{more}")
    if simulated := job.readings.filter(simulated=True).count():
        said.append(f"{simulated} readings are simulated and prove nothing outside the demo")
    if solved.unproven:
        said.append(f"{len(solved.unproven)} circuits are not proven")
    return said
