"""A bundle opened elsewhere: its readings and photographs, beside the job that was read of it."""

import json
import uuid
from collections.abc import Mapping

from django.utils import timezone
from django.utils.dateparse import parse_datetime

from returnpath.errors import BadInput
from returnpath.readings import read_table

from ..log.keeping import keep_rows
from ..log.models import Photo
from ..log.photos import keep_image

MOST_PHOTOS = 400


def from_bundle(job, user, held: Mapping[str, bytes]) -> str:
    """Keep what the bundle holds; in words. Readings get new ids: the first job keeps its own. What
    a stand-in read stays simulated."""
    text = held.get("readings.csv", b"").decode("utf-8-sig", "replace")
    rows = read_table(job.latest.site, text) if text.count("\n") > 1 else []
    now = timezone.now()
    ids = [uuid.uuid4() for _ in rows]
    count = keep_rows(job, user, rows, ids, [_when(r.at, now) for r, _ in rows])
    photos = _photos(job, user, held)
    return f"Read in: {count} readings, {photos} photographs."


def _when(text: str, now):
    try:
        found = parse_datetime(text)
    except ValueError:
        return now
    return min(found, now) if found is not None and timezone.is_aware(found) else now


def _photos(job, user, held: Mapping[str, bytes]) -> int:
    """Re-encoded as every picture that comes in; each into the slot that the plan names."""
    try:
        plan = json.loads(held.get("plan.json", b"{}"))
    except (ValueError, RecursionError):
        raise BadInput("its plan.json cannot be read.") from None
    listed = plan.get("photographs") if isinstance(plan, dict) else None
    entries = [p for p in listed if isinstance(p, dict)] if isinstance(listed, list) else []
    by_hash = {str(p.get("sha256")): p for p in entries}
    count = 0
    for name, data in held.items():
        if not name.startswith("photos/") or count >= MOST_PHOTOS:
            continue
        said = by_hash.get(name[7:71], {})
        kept = keep_image(data)
        Photo.objects.create(
            job=job, sha256=kept.sha256, width=kept.width, height=kept.height,
            slot=str(said.get("slot", ""))[:40], remark=str(said.get("remark", ""))[:200],
            mark_text=str(said.get("mark_text", ""))[:80], who=user,
            **{k: _share(said.get(k)) for k in ("mark_x", "mark_y", "mark_r")},
        )  # fmt: skip
        count += 1
    return count


def _share(value) -> float | None:
    return float(value) if isinstance(value, int | float) and 0 <= value <= 1 else None
