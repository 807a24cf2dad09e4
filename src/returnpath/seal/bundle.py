"""The bundle: one .zip with a manifest; opened with limits, verified byte by byte.

manifest.json  job.json  readings.csv  plan.json  calendar.ics  report.pdf
photos/<sha256>.jpg  drawings/<name>.svg
"""

import io
import re
import zipfile
import zlib
from collections.abc import Mapping
from dataclasses import dataclass

from pydantic import ValidationError

from ..errors import BadInput
from .keys import weak
from .manifest import Manifest, digest_of, hash_of, signature_holds

MOST_BYTES, MOST_FILES, MOST_UNPACKED = 200_000_000, 1000, 400_000_000
MANIFEST = "manifest.json"
MOST_MANIFEST = 1_000_000
_NAME = re.compile(
    r"(?:manifest\.json|job\.json|readings\.csv|plan\.json|calendar\.ics|report\.pdf"
    r"|photos/[0-9a-f]{64}\.jpg|drawings/[a-z0-9-]{1,40}\.svg)"
)
#: No file is made smaller than this share: what is smaller is a bomb.
LEAST_SHARE = 1 / 1000


@dataclass(frozen=True)
class Verified:
    """What was found of a bundle: ``problems`` empty where every byte is as it was signed."""

    manifest: Manifest
    files: Mapping[str, bytes]
    problems: tuple[str, ...]

    @property
    def is_whole(self) -> bool:
        """Nothing is missing, changed or added, and the signature holds."""
        return not self.problems


def write_bundle(
    manifest: Manifest, files: Mapping[str, bytes], packed: int = zipfile.ZIP_STORED
) -> bytes:
    """The .zip; the same content gives the same bytes, on every machine: nothing is packed, because
    what packs may do it otherwise elsewhere (bundles before 6.0 were)."""
    out = io.BytesIO()
    body = manifest.model_dump_json(indent=1).encode()
    with zipfile.ZipFile(out, "w", packed) as bundle:
        for name, data in sorted({**files, MANIFEST: body}.items()):
            entry = zipfile.ZipInfo(name, (2000, 1, 1, 0, 0, 0))
            entry.compress_type = packed
            entry.create_system = 3  # as it is written everywhere
            entry.external_attr = 0o644 << 16
            bundle.writestr(entry, data)
    return out.getvalue()


def open_bundle(data: bytes) -> tuple[Manifest, dict[str, bytes]]:
    """(the manifest, every other file); BadInput for what is no bundle of ours, or is hostile:
    other names, paths, links, bombs, sizes that lie."""
    if len(data) > MOST_BYTES:
        raise BadInput(f"A bundle is at most {MOST_BYTES // 1_000_000} MB.")
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as bundle:
            entries = bundle.infolist()
            _look_at(entries)
            files = {e.filename: _unpacked(bundle, e) for e in entries}
    except (zipfile.BadZipFile, zlib.error, NotImplementedError, RuntimeError, EOFError, OSError,
            ValueError) as error:  # fmt: skip
        if isinstance(error, BadInput):
            raise
        raise BadInput(f"That is no bundle, or it is damaged: {error}.") from None
    if MANIFEST not in files:
        raise BadInput("There is no manifest in it: that is no bundle of ours.")
    try:
        manifest = Manifest.model_validate_json(files.pop(MANIFEST))
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(p) for p in first["loc"])
        raise BadInput(f"Its manifest cannot be read: {where} {first['msg']}.") from None
    return manifest, files


def _look_at(entries: list[zipfile.ZipInfo]) -> None:
    if len(entries) > MOST_FILES:
        raise BadInput(f"A bundle holds at most {MOST_FILES} files.")
    names = [e.filename for e in entries]
    if len(set(names)) != len(names):
        raise BadInput("Two files of one name are in it.")
    for entry in entries:
        if not _NAME.fullmatch(entry.filename):
            raise BadInput(f"“{entry.filename[:60]}” does not belong into a bundle.")
        if entry.flag_bits & 0x1:
            raise BadInput("A bundle is not encrypted.")
        if entry.compress_size < entry.file_size * LEAST_SHARE:
            raise BadInput(f"{entry.filename} unpacks to far more than it says.")
    if sum(e.file_size for e in entries) > MOST_UNPACKED:
        raise BadInput(f"It unpacks to more than {MOST_UNPACKED // 1_000_000} MB.")


def _unpacked(bundle: zipfile.ZipFile, entry: zipfile.ZipInfo) -> bytes:
    most = MOST_MANIFEST if entry.filename == MANIFEST else entry.file_size
    with bundle.open(entry) as file:
        data = file.read(most + 1)
    if len(data) > most:
        raise BadInput(f"{entry.filename} is larger than it says.")
    return data


def verify_bundle(data: bytes) -> Verified:
    """Every file against its hash, the manifest against its own, the signature against the key that
    the bundle names, and the whole file against itself written anew. Whose key that is says
    ``whose``."""
    manifest, files = open_bundle(data)
    problems = []
    for name in sorted(set(manifest.files) | set(files)):
        if name not in files:
            problems.append(f"{name} is missing.")
        elif name not in manifest.files:
            problems.append(f"{name} was added.")
        elif digest_of(files[name]) != manifest.files[name]:
            problems.append(f"{name} was changed.")
    if hash_of(manifest) != manifest.hash:
        problems.append("What was signed was changed: the manifest's hash is another.")
    if why := weak(manifest.public_key):
        problems.append(why)
    elif not signature_holds(manifest):
        problems.append("The signature is not that key's.")
    if not problems and not _is_as_written(data, manifest, files):
        problems.append(
            "The file around it is not byte for byte as it was written: something was added before,"
            " between or after, or a byte of the carrier was changed."
        )
    return Verified(manifest, files, tuple(problems))


def _is_as_written(data: bytes, manifest: Manifest, files: Mapping[str, bytes]) -> bool:
    """Whether the carrier is what is written anew from what it holds."""
    ways = (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED)
    return any(write_bundle(manifest, files, way) == data for way in ways)
