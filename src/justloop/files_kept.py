"""Files that are kept for good: whole and on the disk before anything says that they are there."""

import os
from pathlib import Path

from .room import refuse_if_full


def write_whole(path: Path, data: bytes, mode: int = 0o644) -> None:
    """Write beside, to the disk, then take the name, and the name to the disk: a power cut leaves
    the old file or the new one. OSError where it cannot be."""
    refuse_if_full()
    path.parent.mkdir(parents=True, exist_ok=True)
    part = path.with_name(f"{path.name}.{os.getpid()}.part")
    try:
        handle = os.open(part, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, mode)
        with os.fdopen(handle, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        part.replace(path)
    except OSError:
        part.unlink(missing_ok=True)
        raise
    to_disk(path.parent)


def to_disk(folder: Path) -> None:
    """The names in a folder, to the disk; where a system cannot, it goes without."""
    try:
        handle = os.open(folder, os.O_RDONLY)
    except OSError:
        return
    try:
        os.fsync(handle)
    except OSError:
        pass
    finally:
        os.close(handle)
