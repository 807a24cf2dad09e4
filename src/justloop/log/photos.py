"""Photographs: read with limits, turned upright, stripped, kept by their content's hash.

Nothing of what was sent is kept but the picture itself and the time it was taken.
"""

import hashlib
import io
import threading
import warnings
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from django.conf import settings
from django.utils import timezone
from PIL import ExifTags, Image, ImageOps, UnidentifiedImageError

from returnpath.errors import BadInput

from ..files_kept import write_whole

MOST_BYTES = 12_000_000
MOST_PIXELS, MOST_SIDE = 50_000_000, 9000
LARGE_SIDE, SMALL_SIDE = 2400, 480
FORMATS = ("JPEG", "PNG", "WEBP")
QUALITY = 84
MOST_A_JOB = 400
#: One at a time: a picture of 50 million pixels takes 300 MB while it is turned.
_one = threading.Lock()


@dataclass(frozen=True)
class KeptImage:
    """A picture on disk."""

    sha256: str
    width: int
    height: int
    taken: datetime | None


def keep_image(data: bytes) -> KeptImage:
    """Re-encode and keep; BadInput says what is wrong with it."""
    if len(data) > MOST_BYTES:
        raise BadInput(
            f"A photo is at most {MOST_BYTES / 1e6:g} MB; this is {len(data) / 1e6:.1f}."
        )
    with _one:
        return _kept(data)


def _kept(data: bytes) -> KeptImage:
    image, taken = _opened(data)
    image.thumbnail((LARGE_SIDE, LARGE_SIDE), Image.Resampling.LANCZOS)
    large = _encoded(image)
    small = image.copy()
    small.thumbnail((SMALL_SIDE, SMALL_SIDE), Image.Resampling.LANCZOS)
    name = hashlib.sha256(large).hexdigest()
    _write(path_of(name), large)
    _write(path_of(name, small=True), _encoded(small))
    return KeptImage(name, image.width, image.height, taken)


def _opened(data: bytes) -> tuple[Image.Image, datetime | None]:
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # a hostile header warns a hundred times
            with Image.open(io.BytesIO(data), formats=FORMATS) as image:
                wide, high = image.size  # before anything is decoded
                if wide * high > MOST_PIXELS or max(wide, high) > MOST_SIDE:
                    raise BadInput(
                        f"A photo is at most {MOST_PIXELS / 1e6:g} million pixels and {MOST_SIDE:,}"
                        f" on a side; this is {wide:,} by {high:,}."
                    )
                taken = _taken(image)
                image.draft("RGB", (LARGE_SIDE, LARGE_SIDE))
                upright = ImageOps.exif_transpose(image)
                return upright.convert("RGB"), taken
    except BadInput:
        raise
    except (UnidentifiedImageError, Image.DecompressionBombError):
        raise BadInput("That is no photo we can read: send a JPEG, PNG or WebP.") from None
    except (OSError, SyntaxError, ValueError, KeyError, TypeError, MemoryError, OverflowError):
        raise BadInput("That photo is damaged; take it again.") from None


def _taken(image: Image.Image) -> datetime | None:
    """When the camera says; None where it says nothing that can be."""
    try:
        text = image.getexif().get_ifd(ExifTags.IFD.Exif).get(ExifTags.Base.DateTimeOriginal)
        found = datetime.strptime(str(text), "%Y:%m:%d %H:%M:%S")
        made = timezone.make_aware(found)
    except Exception:
        return None
    return made if made.year >= 2000 and made <= timezone.now() else None


def _encoded(image: Image.Image) -> bytes:
    out = io.BytesIO()
    image.save(out, "JPEG", quality=QUALITY, optimize=True, exif=b"")
    return out.getvalue()


def folder() -> Path:
    """Where photographs lie."""
    return Path(settings.PHOTOS)


def path_of(sha256: str, small: bool = False) -> Path:
    """The file of a picture."""
    return folder() / sha256[:2] / f"{sha256}{'.small' if small else ''}.jpg"


def _write(path: Path, data: bytes) -> None:
    """Whole or not at all; what is there already is the same."""
    if path.exists():
        return
    try:
        write_whole(path, data)
    except OSError as error:
        raise BadInput(f"The photo could not be kept: {error.strerror}.") from None
