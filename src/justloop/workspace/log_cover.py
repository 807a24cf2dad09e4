"""The Log: what must be seen before it is covered."""

from dataclasses import dataclass

from returnpath.record import Slot, slots_of

from ..log.models import Photo
from ..planning.lacks import notes_of


@dataclass(frozen=True)
class SlotRow:
    """A slot: what it wants, what it has."""

    key: str
    name: str
    what: str
    why: str
    when: str
    photos: tuple[Photo, ...]
    note: str
    is_open: bool


@dataclass(frozen=True)
class CoverView:
    """Every slot; how many are still empty, and the first of them."""

    rows: tuple[SlotRow, ...]
    left: int
    first: str


def cover_view(job, site) -> CoverView:
    """The slots of the place with what is kept in each."""
    photos: dict[str, list[Photo]] = {}
    for photo in job.photos.exclude(slot=""):
        photos.setdefault(photo.slot, []).append(photo)
    notes = notes_of(job)
    rows = tuple(_row(slot, photos.get(slot.key, []), notes) for slot in slots_of(site))
    empty = [r.key for r in rows if r.is_open]
    return CoverView(rows, len(empty), empty[0] if empty else "")


def _row(slot: Slot, photos: list[Photo], notes: dict[str, tuple[str, str]]) -> SlotRow:
    seen, because = notes.get(slot.key, ("", ""))
    note = f"Seen by {seen}." if seen else f"Not seen: {because}." if because else ""
    return SlotRow(slot.key, slot.name, slot.what, slot.why, slot.when, tuple(photos), note,
                   not photos and not note)  # fmt: skip
