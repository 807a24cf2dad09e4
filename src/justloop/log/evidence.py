"""Evidence before cover: photographs into their slots, who saw it, why it could not be seen."""

import re
from dataclasses import dataclass
from typing import Any

from django.contrib import messages
from django.http import FileResponse, Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.utils.http import content_disposition_header
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from returnpath.errors import BadInput
from returnpath.record import Slot, slots_of

from ..address import address_of
from ..jobs.access import job_of
from ..jobs.models import Role
from ..pages import show
from . import queued
from .models import LoggedReading, Photo, SlotNote
from .photos import MOST_A_JOB, keep_image, path_of

MOST_AT_ONCE = 8


@require_POST
def add_photos(request, pk: int):
    """One photo or several into a slot, or beside a reading."""
    job = job_of(request, pk)
    there = _back_to(request, job)
    try:
        words = _add(request, job)
    except BadInput as error:
        if queued.is_queued(request):
            return queued.answer(problem=error.sentence)
        messages.error(request, error.sentence)
        return redirect(there)
    if queued.is_queued(request):
        return queued.answer(words, then=there)
    messages.info(request, words)
    return redirect(there)


_OWN_PAGE = re.compile(r"/jobs/(\d+)/(?:work|visits)/\d+")


def _back_to(request, job) -> str:
    """The page the form stands on: a procedure's or a visit's of this job, else the Log."""
    asked = request.POST.get("next", "")[:80]
    match = _OWN_PAGE.fullmatch(asked)
    if match and int(match[1]) == job.pk:
        return asked
    return address_of(job, "readings", request.POST).here


def _add(request, job) -> str:
    files = request.FILES.getlist("photo")
    if not files:
        raise BadInput("Choose a photo first.")
    if len(files) > MOST_AT_ONCE:
        raise BadInput(f"At most {MOST_AT_ONCE} photos at once.")
    if job.photos.count() + len(files) > MOST_A_JOB:
        raise BadInput(f"A job keeps at most {MOST_A_JOB} photos.")
    slot, reading = _slot(job, request.POST.get("slot", "")), _reading(request, job)
    if slot is None and reading is None:
        raise BadInput("Say what the photo shows.")
    remark = " ".join(request.POST.get("remark", "").split())[:200]
    for n, file in enumerate(files):
        id = queued.own_id(request, n)
        kept = keep_image(file.read())
        at = queued.when(request)
        taken = kept.taken or (at if request.POST.get("at_time") else None)
        there, is_new = Photo.objects.get_or_create(
            client_id=id,
            defaults={
                "job": job, "sha256": kept.sha256, "width": kept.width, "height": kept.height,
                "taken": taken, "slot": slot.key if slot else "", "reading": reading,
                "remark": remark, "who": request.user, "at": at,
            },
        )  # fmt: skip
        same = (there.job_id, there.sha256, there.slot) == (job.pk, kept.sha256,
                                                            slot.key if slot else "")  # fmt: skip
        if not is_new and not same:
            raise BadInput(queued.OTHER_CONTENT)
    many = "Photo" if len(files) == 1 else f"{len(files)} photos"
    return f"{many} kept: {slot.name if slot else 'beside the reading'}."


def _slot(job, key: str) -> Slot | None:
    if not key:
        return None
    found = next((s for s in slots_of(job.latest.site) if s.key == key[:40]), None)
    if found is None:
        raise BadInput("What that photo was to show is no longer in the job.")
    return found


def _reading(request, job) -> LoggedReading | None:
    number = request.POST.get("reading", "")[:12]
    return job.readings.filter(pk=number).first() if number.isdecimal() else None


@require_POST
def note_slot(request, pk: int):
    """Who saw it, or why it could not be seen."""
    job = job_of(request, pk)
    address = address_of(job, "readings", request.POST)
    seen = " ".join(request.POST.get("seen_by", "").split())[:80]
    because = " ".join(request.POST.get("because", "").split())[:200]
    try:
        slot = _slot(job, request.POST.get("slot", ""))
        if slot is None or bool(seen) == bool(because):
            raise BadInput("Say who saw it, or why it could not be seen: one of the two.")
    except BadInput as error:
        if queued.is_queued(request):
            return queued.answer(problem=error.sentence)
        messages.error(request, error.sentence)
        return redirect(address.here)
    there, _ = SlotNote.objects.get_or_create(
        client_id=queued.own_id(request),
        defaults={"job": job, "slot": slot.key, "seen_by": seen, "because": because,
                  "who": request.user, "at": queued.when(request)},
    )  # fmt: skip
    if (there.job_id, there.slot, there.seen_by, there.because) != (job.pk, slot.key, seen,
                                                                   because):  # fmt: skip
        return queued.answer(problem=queued.OTHER_CONTENT)
    if queued.is_queued(request):
        return queued.answer("Kept.", then=address.here)
    return redirect(address.here)


@require_safe
def image(request, pk: int, number: int, small: bool = False):
    """The picture."""
    job = job_of(request, pk)
    photo = get_object_or_404(Photo, job=job, pk=number)
    path = path_of(photo.sha256, small)
    if not path.exists():
        raise Http404
    response = FileResponse(path.open("rb"), content_type="image/jpeg")
    response["Content-Disposition"] = content_disposition_header(False, f"photo-{photo.pk}.jpg")
    return response


@dataclass(frozen=True)
class Mark:
    """A circle over a picture, in its pixels."""

    x: float
    y: float
    r: float


SIZES = ((0.04, "small"), (0.08, "middle"), (0.16, "large"))


@dataclass(frozen=True)
class PhotoPage:
    """One photograph, large, with its mark."""

    job: Any
    photo: Photo
    name: str
    back: str
    drop: bool
    reads_only: bool
    mark: "Mark | None"
    sizes: tuple[tuple[float, str], ...]


@require_http_methods(["GET", "HEAD", "POST"])
def photo(request, pk: int, number: int):
    """A photograph, large; a form marks it or takes it back."""
    job = job_of(request, pk)
    found = get_object_or_404(Photo, job=job, pk=number)
    back = address_of(job, "readings", {"show": "cover" if found.slot else ""}).here
    if request.method == "POST":
        return _change(request, job, found, back)
    names = {s.key: s.name for s in slots_of(job.latest.site)}
    shown = PhotoPage(
        job=job, photo=found, name=names.get(found.slot, "Photo"), back=back,
        drop=found.who_id == request.user.pk, reads_only=request.job_role == Role.READER,
        mark=_mark(found), sizes=SIZES,
    )  # fmt: skip
    return show(request, "workspace/photo.html", shown)


def _mark(photo: Photo) -> Mark | None:
    if photo.mark_x is None or photo.mark_y is None or photo.mark_r is None:
        return None
    wide, high = photo.width, photo.height
    return Mark(photo.mark_x * wide, photo.mark_y * high, photo.mark_r * max(wide, high))


def _change(request, job, found: Photo, back: str) -> HttpResponse:
    if request.POST.get("do") == "drop":
        if found.who_id == request.user.pk:
            found.delete()  # the file stays: another job may show the same picture
            messages.info(request, "Taken back.")
        else:
            messages.error(request, "Only who took it takes a photo back.")
        return redirect(back)
    try:
        x, y = (float(request.POST.get(k, "")[:12]) for k in ("x", "y"))
        r = float(request.POST.get("r", "0.08")[:12])
        if not (0 <= x <= 1 and 0 <= y <= 1 and 0.005 <= r <= 0.5):
            raise ValueError
    except ValueError:
        messages.error(request, "The mark lies outside the picture.")
        return redirect("photo", pk=job.pk, number=found.pk)
    mark = {"mark_x": x, "mark_y": y, "mark_r": r,
            "mark_text": " ".join(request.POST.get("text", "").split())[:80]}  # fmt: skip
    if request.POST.get("do") == "unmark":
        mark = {"mark_x": None, "mark_y": None, "mark_r": None, "mark_text": ""}
    if not Photo.objects.filter(pk=found.pk).update(**mark):
        messages.error(request, "Not marked: that photo was taken back meanwhile.")
        return redirect(back)
    return redirect("photo", pk=job.pk, number=found.pk)
