"""What the record of a job lacks: readings that are off or missing, what nobody saw, what the
office still asks, cautions that are unread."""

from collections.abc import Iterable

from returnpath.readings import JudgedReading, TypedReading, judge_reading, reading_kinds
from returnpath.record import KeptSlot, Record, record_findings
from returnpath.rules import Finding
from returnpath.site import Installation

from ..log.models import LoggedReading
from ..log.views import names_of
from ..solved import SolvedSite
from .visits import open_remarks
from .work import unread_cautions


def record_lacks(
    job, solved: SolvedSite, judged: Iterable[JudgedReading | None]
) -> tuple[Finding, ...]:
    """Of a job as it is now, with the newest reading of each kind and place, ``judged``."""
    site, names = solved.site, names_of(solved.site)
    asked = [(r.place, names.get(r.place, "The office"), r.text) for r in open_remarks(job)]
    unread = [(w.subject, w.title, words) for w, words in unread_cautions(job, site)]
    record = Record([j for j in judged if j is not None], kept_slots(job), asked, unread)
    return record_findings(site, solved.study, record)


def judged_now(study, r: LoggedReading, names: dict[str, str]) -> JudgedReading | None:
    """A kept reading judged by the site as it is now; None where its place is gone or it is of no
    place."""
    if r.place not in study.assumed.site.elements() or r.kind not in reading_kinds():
        return None
    typed = TypedReading(r.remark, r.kind, r.place, names[r.place], r.value, r.loaded,
                         celsius=r.temperature_c, error=r.error, no_trip=r.no_trip)  # fmt: skip
    return judge_reading(study, typed)


def newest_of(site: Installation, kept: Iterable[LoggedReading]) -> list[LoggedReading]:
    """Of each kind and place the newest, where the place is still there."""
    newest: dict[tuple[str, str], LoggedReading] = {}
    elements = site.elements()
    for r in sorted(kept, key=lambda r: (r.at, r.pk)):
        if r.kind in reading_kinds() and r.place in elements:
            newest[r.kind, r.place] = r
    return list(newest.values())


def notes_of(job) -> dict[str, tuple[str, str]]:
    """slot → (seen by, because), the newest."""
    found: dict[str, tuple[str, str]] = {}
    for note in job.slot_notes.all():
        found.setdefault(note.slot, (note.seen_by, note.because))
    return found


def kept_slots(job) -> tuple[KeptSlot, ...]:
    """What is kept, as the record's findings take it."""
    counts: dict[str, int] = {}
    for slot in job.photos.exclude(slot="").values_list("slot", flat=True):
        counts[slot] = counts.get(slot, 0) + 1
    notes = notes_of(job)
    return tuple(
        KeptSlot(key, counts.get(key, 0), *notes.get(key, ("", "")))
        for key in dict.fromkeys([*counts, *notes])
    )
