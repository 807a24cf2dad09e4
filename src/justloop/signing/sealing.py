"""The signed state: gathered, hashed, signed with the firm's key, kept as a bundle."""

import json
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from django.conf import settings
from django.db import transaction
from django.utils import timezone

from returnpath import ENGINE_VERSION
from returnpath.errors import BadInput
from returnpath.readings import write_table
from returnpath.seal import Signed, digest_of, manifest_of, seal, write_bundle
from returnpath.site import dumps

from ..drawing.map import MapView, map_scene, worst_of
from ..files_kept import write_whole
from ..jobs import locks
from ..jobs.models import Revision
from ..log.keeping import row_of
from ..log.photos import path_of
from ..planning.dates import calendar_of
from ..solved import SolvedSite
from .firm_key import enter_key, firm_key
from .models import SignOff
from .seen import check_seen
from .standing import OpenWork

STATEMENT = (
    "What this bundle holds was computed from the description in job.json under the edition and the"
    " local practice named in it, with the readings and photographs beside it. It states what was"
    " computed, read and seen, and what stood open. The local office and a licensed person decide."
)
MOST_PHOTOS = 400


@dataclass(frozen=True)
class Reasons:
    """Why it is signed with what stands open: one for the rest, one for each danger."""

    rest: str
    dangers: dict[str, str]


@dataclass(frozen=True)
class BeforeSigning:
    """What stood before the one who signs: the revision, and what was read and seen until then."""

    revision: Revision
    solved: SolvedSite
    open_now: OpenWork
    seen: str


def check(open_now: OpenWork, reasons: Reasons, licence: str) -> None:
    """BadInput where something is signed over without its reason."""
    if not licence:
        raise BadInput("Write the licence under which it is signed.")
    for danger in open_now.dangers:
        said = reasons.dangers.get(danger.key, "")
        if len(said) < 12:
            raise BadInput(
                f"{danger.place}: a danger is signed over only with how it was made safe to leave,"
                " or when the owner was told in writing."
            )
    if open_now.others and len(reasons.rest) < 12:
        raise BadInput("Say why it is signed with what still stands open.")


def sign(job, user, looked_at: BeforeSigning, reasons: Reasons, licence: str,
         report: Callable[[], bytes]) -> SignOff:  # fmt: skip
    """Seal the revision that was looked at, which must still be the newest when all is gathered.

    The revision is named, so that it is never thinned. BadInput: nothing was signed.
    """
    revision, solved, open_now = looked_at.revision, looked_at.solved, looked_at.open_now
    locks.forbids(job, "signed")
    check(open_now, reasons, licence)
    _refuse_twice(job, revision)
    enter_key()  # before the report, which prints its fingerprint
    papers = report()  # seconds, in which others go on
    now = timezone.localtime()
    words = [f"{d.place}: {d.found} ({reasons.dangers[d.key]})" for d in open_now.dangers]
    signed = Signed(
        who=user.get_full_name() or user.get_username(), licence=licence[:120],
        at=now.isoformat(timespec="seconds"), edition=solved.site.practice.edition,
        engine=str(ENGINE_VERSION), statement=STATEMENT, revision=revision.number,
        open=[w[:300] for w in (*words, *open_now.others)][:400], reason=reasons.rest[:600],
    )  # fmt: skip
    files = gathered(job, solved, papers)
    manifest = seal(manifest_of(job.name, files, signed), firm_key())
    data = write_bundle(manifest, files)
    name = digest_of(data)
    _write(bundle_path(name), data)
    with transaction.atomic():
        if job.latest.number != revision.number:
            raise BadInput("The job was changed meanwhile: look at it again, then sign.")
        locks.forbids(job, "signed")
        check_seen(job, looked_at.seen)
        _refuse_twice(job, revision)  # pressed twice while the report was made
        if not revision.name:
            revision.name = f"signed {now:%Y-%m-%d}"
            revision.save(update_fields=["name"])
        return SignOff.objects.create(
            job=job, number=revision.number, manifest=manifest.model_dump_json(),
            hash=manifest.hash, bundle=name, who=user,
        )  # fmt: skip


def _refuse_twice(job, revision) -> None:
    """BadInput where a revision is signed already: a second press makes no second signature."""
    if job.signed.filter(number=revision.number).exists():
        raise BadInput(f"Revision {revision.number} is signed already.")


def gathered(job, solved: SolvedSite, report: bytes) -> dict[str, bytes]:
    """Every file of a bundle but the manifest."""
    site = solved.site
    elements = site.elements()
    rows = [row_of(r, elements) for r in job.readings.select_related("who")]
    files = {
        "job.json": dumps(site).encode(),
        "readings.csv": write_table(rows).encode(),
        "plan.json": json.dumps(_plan(job), ensure_ascii=False, indent=1, default=str).encode(),
        "calendar.ics": calendar_of(job.dates.select_related("job"), job.name),
        "report.pdf": report,
        "drawings/map.svg": _map(solved).encode(),
    }
    for photo in job.photos.all()[:MOST_PHOTOS]:
        path = path_of(photo.sha256)
        if path.exists():
            files[f"photos/{photo.sha256}.jpg"] = path.read_bytes()
    return files


def _map(solved: SolvedSite) -> str:
    href = dict.fromkeys([*solved.site.elements(), "prove"], "")
    loop = solved.study.worst if solved.study.loops else None
    view = MapView(solved.study, loop, href, worst=worst_of(solved.findings, solved.site))
    return map_scene(view).svg(paper=True, links=False)


def _plan(job) -> dict:
    """Procedures, dates, visits, photographs with their marks."""
    return {
        "format": 1,
        "procedures": [
            {"title": w.title, "form": w.form, "subject": w.subject, "ended": w.ended,
             "ticks": list(w.ticks.values("step", "value", "simulated", "words", "at",
                                          "who__username"))}
            for w in job.works.all()
        ],
        "locks": list(job.locks.values("point", "device", "name", "tag", "at", "proved", "ended",
                                       "off", "off_by", "off_called", "off_gone", "off_told",
                                       "off_checked")),
        "dates": list(job.dates.values("kind", "day", "note", "done")),
        "visits": [
            {"kind": v.kind, "day": v.day, "result": v.result, "inspector": v.inspector,
             "remarks": list(v.remarks.values("text", "rests_on", "where", "disputed", "mended",
                                              "hours", "days", "parts"))}
            for v in job.visits.all()
        ],
        "photographs": list(job.photos.values("sha256", "slot", "remark", "taken", "mark_x",
                                              "mark_y", "mark_r", "mark_text")),
        "not_photographed": list(job.slot_notes.values("slot", "seen_by", "because", "at")),
    }  # fmt: skip


def bundle_path(name: str) -> Path:
    """The file of a kept bundle."""
    return Path(settings.SIGNED) / f"{name}.zip"


def _write(path: Path, data: bytes) -> None:
    try:
        write_whole(path, data)
    except OSError as error:
        raise BadInput(f"The bundle could not be kept: {error.strerror}. Not signed.") from None
