"""What the one who signs has seen: a digest of each kind of record, so that what came since stops
the signing and is named."""

import hashlib
import json
from dataclasses import dataclass
from typing import Any

from django.utils import timezone

from returnpath.errors import BadInput
from returnpath.site import name_of

from ..planning.models import Remark, TickedStep

#: What is looked at: kind → (its words, the fields that make it what it is).
READINGS = ("pk", "kind", "place", "value", "at", "remark", "simulated")
PHOTOS = ("pk", "sha256", "slot", "remark", "mark_x", "mark_y", "mark_r", "mark_text")
LOCKS = ("pk", "point", "name", "at", "proved", "ended", "off", "off_by")


@dataclass(frozen=True)
class Records:
    """One kind of record as it stands: its word, a digest, its rows by key, newest last."""

    word: str
    digest: str
    rows: dict[str, str]


def kinds_of(job) -> dict[str, Records]:
    """Every kind of record of a job that a signature stands for."""
    ticks = TickedStep.objects.filter(work__job=job).order_by("pk")
    remarks = Remark.objects.filter(visit__job=job).order_by("pk")
    rows = {
        "readings": ("reading", job.readings.order_by("pk").values_list(*READINGS)),
        "photos": ("photo", job.photos.order_by("pk").values_list(*PHOTOS)),
        "seen": ("note of what was seen", job.slot_notes.order_by("pk").values_list(
            "pk", "slot", "seen_by", "because")),
        "works": ("procedure", job.works.order_by("pk").values_list("pk", "title", "ended")),
        "ticks": ("tick of a procedure", ticks.values_list("pk", "step", "value", "words", "at")),
        "locks": ("lock", job.locks.order_by("pk").values_list(*LOCKS)),
        "dates": ("date", job.dates.order_by("pk").values_list("pk", "kind", "day", "note",
                                                              "done")),
        "visits": ("visit", job.visits.order_by("pk").values_list("pk", "kind", "day", "result")),
        "remarks": ("remark of the office", remarks.values_list("pk", "text", "mended", "later")),
    }  # fmt: skip
    return {key: _kind(word, list(found)) for key, (word, found) in rows.items()}


def _kind(word: str, rows: list[tuple]) -> Records:
    each = {str(row[0]): _digest(row) for row in rows}
    return Records(word, _digest(each), each)


def _digest(content: Any) -> str:
    text = json.dumps(content, default=str, ensure_ascii=False)
    return hashlib.sha256(text.encode()).hexdigest()[:16]


def seen_now(job) -> str:
    """What a page keeps of it: kind, digest, count and the newest row's key."""
    return json.dumps({
        key: [kind.digest, len(kind.rows), max((int(k) for k in kind.rows), default=0)]
        for key, kind in kinds_of(job).items()
    })  # fmt: skip


def check_seen(job, seen: str) -> None:
    """BadInput, with what came, where the record is not what the page showed."""
    try:
        before = json.loads(seen[:4000])
        came = [
            _came(job, key, kind, int(before[key][1]), int(before[key][2]))
            for key, kind in kinds_of(job).items() if before[key][0] != kind.digest
        ]  # fmt: skip
    except (ValueError, KeyError, TypeError, IndexError, RecursionError):
        raise BadInput("The page is out of date: look at it again, then sign.") from None
    if came:
        raise BadInput(
            f"The job was changed meanwhile. This is newer than what you looked at:"
            f" {'; '.join(came)}. Look at it, then sign."
        )


def _came(job, key: str, kind: Records, count: int, newest: int) -> str:
    new = [int(k) for k in kind.rows if int(k) > newest]
    if not new:
        return f"a {kind.word} was changed or taken back ({count} → {len(kind.rows)})"
    many = f"a new {kind.word}" if len(new) == 1 else f"{len(new)} new: {kind.word}"
    if key == "readings":
        row = job.readings.select_related("who").get(pk=new[-1])
        element = job.latest.site.elements().get(row.place)
        where = name_of(element) if element is not None else row.place
        who = row.who.get_username() if row.who else "somebody"
        at = f"{timezone.localtime(row.at):%H:%M}"
        return f"{many}, {where} {row.value:g} {row.unit} by {who} at {at}"
    return many
