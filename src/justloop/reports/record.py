"""The record on paper: readings against their predictions, what was seen before it was covered."""

import base64
from dataclasses import dataclass, field
from typing import Any

from django.views.decorators.http import require_safe

from ..jobs.access import job_of
from ..log.models import Photo
from ..log.photos import path_of
from ..solved import solve
from ..workspace.log_cover import cover_view
from ..workspace.log_view import whole_log
from .views import paper

MOST_PHOTOS = 60


@dataclass(frozen=True)
class PaperPhoto:
    """A photograph as paper takes it: the picture itself, its mark in the picture's pixels."""

    picture: str
    width: int
    height: int
    x: float | None
    y: float | None
    r: float | None
    stroke: float
    text: str
    at: Any
    who: str


@dataclass(frozen=True)
class PaperSlot:
    """A slot with its photographs."""

    name: str
    when: str
    says: str
    photos: tuple[PaperPhoto, ...]


@dataclass
class RecordPage:
    """The whole record."""

    job: Any
    revision: Any
    rows: tuple = ()
    slots: tuple[PaperSlot, ...] = ()
    lacks: tuple = ()
    edition: int = 0
    colours: Any = None
    static: str = ""
    firm: Any = field(default=None)


@require_safe
def record(request, pk: int):
    """The record as PDF."""
    job = job_of(request, pk)
    revision = job.latest
    solved = solve(revision.site, revision.document)
    rows, lacks = whole_log(job, solved)
    page = RecordPage(
        job, revision, rows, paper_slots(job, solved.site), lacks,
        solved.site.practice.edition,
    )  # fmt: skip
    return paper(request, job, "reports/record.html", page, "record", "-record")


def paper_slots(job, site) -> tuple[PaperSlot, ...]:
    """Every slot with its photographs, as many as paper takes."""
    left = MOST_PHOTOS
    slots = []
    for row in cover_view(job, site).rows:
        some = row.photos[:left]
        left -= len(some)
        says = row.note or ("" if row.photos else "Nothing is kept.")
        slots.append(PaperSlot(row.name, row.when, says, tuple(_photo(p) for p in some)))
    return tuple(slots)


def _photo(photo: Photo) -> PaperPhoto:
    path = path_of(photo.sha256, small=True)
    data = base64.b64encode(path.read_bytes()).decode() if path.exists() else ""
    wide, high = photo.width, photo.height
    marked = photo.mark_x is not None and photo.mark_y is not None and photo.mark_r is not None
    return PaperPhoto(
        f"data:image/jpeg;base64,{data}" if data else "", wide, high,
        (photo.mark_x or 0) * wide if marked else None,
        (photo.mark_y or 0) * high if marked else None,
        (photo.mark_r or 0) * max(wide, high) if marked else None,
        max(wide, high) / 120, photo.mark_text, photo.taken or photo.at,
        photo.who.get_username() if photo.who else "",
    )  # fmt: skip
