"""Backup, restore and verification of the database."""

import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import closing, suppress
from datetime import UTC, datetime
from pathlib import Path

from django.conf import settings
from django.db import connections, transaction

from returnpath import ENGINE_VERSION
from returnpath.errors import BadInput
from returnpath.site import loads
from returnpath.vocabulary import Level

from .. import running
from ..solved import summarise
from .models import NOTHING_FOUND, Job, Revision


class Unkept(Exception):
    """A backup or a restore that was not done, and why."""


def _database() -> Path:
    return Path(settings.DATABASES["default"]["NAME"])


def backup(to: Path) -> str:
    """Copy the database in use to ``to`` and verify the copy; what was done, in words."""
    if to.resolve() == _database().resolve():
        raise Unkept("That is the database itself: name another file.")
    part = to.with_name(f"{to.name}.part")
    try:
        to.parent.mkdir(parents=True, exist_ok=True)
        with (
            closing(sqlite3.connect(_database())) as source,
            closing(sqlite3.connect(part)) as copy,
        ):
            source.backup(copy)
        jobs = check(part)
        others = copy_beside(to)
        part.replace(to)  # a half copy never takes a whole one's name
    except (OSError, sqlite3.Error) as error:
        part.unlink(missing_ok=True)
        raise Unkept(f"The backup was not made: {error}.") from None
    size = f"{to.stat().st_size / 1e6:.1f} MB"
    return f"{jobs} jobs in {to} ({size}){others}, verified."


#: What lies beside the database: its folder's name, the setting, the files.
KEPT = (
    ("photos", "PHOTOS", "??/*.jpg"),
    ("signed", "SIGNED", "*.zip"),
    ("keys", "KEYS", "*.ed25519"),
)


def beside(backup_file: Path, name: str) -> Path:
    """The folder of a backup's photographs, signed bundles or the firm's key."""
    return backup_file.with_name(f"{backup_file.name}.{name}")


def copy_beside(backup_file: Path) -> str:
    """Copy what lies beside the database to the backup; in words."""
    counts = {
        name: _copy(Path(getattr(settings, setting)), beside(backup_file, name), files)
        for name, setting, files in KEPT
    }
    words = {"photos": "photo files", "signed": "signed bundles", "keys": "key of the firm"}
    return "".join(
        f", {n} {words[name]} in {beside(backup_file, name).name}"
        for name, n in counts.items()
        if n
    )


def copy_back(backup_file: Path) -> None:
    """Copy back what is not there; a key that is there is left."""
    for name, setting, files in KEPT:
        _copy(beside(backup_file, name), Path(getattr(settings, setting)), files)


def _copy(source: Path, to: Path, files: str) -> int:
    """Copy what is not there yet: a file's name is its content's hash, so that what is there is the
    same. Readable by its owner alone where the source is. How many there are."""
    count = 0
    for file in sorted(source.glob(files)):
        count += 1
        there = to / file.relative_to(source)
        if there.exists() and there.stat().st_size == file.stat().st_size:
            continue
        there.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        part = there.with_suffix(".part")
        part.touch(mode=0o600)
        shutil.copy(file, part)
        part.replace(there)
    return count


def check(file: Path) -> int:
    """How many jobs a database file holds; Unkept where it is damaged or one cannot be opened."""
    try:
        with closing(sqlite3.connect(f"file:{file}?mode=ro", uri=True)) as database:
            (found,) = database.execute("PRAGMA integrity_check").fetchone()
            if found != "ok":
                raise Unkept(f"{file} is damaged: {found}.")
            (jobs,) = database.execute("SELECT count(*) FROM jobs_job").fetchone()
            newest = database.execute(
                "SELECT document FROM jobs_revision ORDER BY id DESC LIMIT 1"
            ).fetchone()
    except sqlite3.Error as error:
        raise Unkept(f"{file} is no database of ours: {error}.") from None
    if newest is not None:
        try:
            loads(newest[0])
        except BadInput as error:
            raise Unkept(f"A job in {file} cannot be read: {error.sentence}") from None
    return int(jobs)


def restore(source: Path) -> str:
    """Put ``source`` in the place of the database; the old one is kept under another name."""
    if not source.is_file():
        raise Unkept(f"There is no file {source}.")
    if running.is_running():
        raise Unkept("The server runs: stop it first. What it holds would be written over this.")
    jobs = check(source)
    connections.close_all()
    database = _database()
    kept = database.with_name(f"{database.name}.before-{datetime.now():%Y%m%d-%H%M%S}")
    try:
        part = database.with_name(f"{database.name}.part")
        shutil.copyfile(source, part)
        if database.exists():
            backup_of_now = sqlite3.connect(database)
            with closing(backup_of_now), closing(sqlite3.connect(kept)) as copy:
                backup_of_now.backup(copy)  # with what still lies in its journal
        for tail in ("-wal", "-shm"):
            database.with_name(database.name + tail).unlink(missing_ok=True)
        part.replace(database)
        copy_back(source)
        _end_proofs(database)
    except (OSError, sqlite3.Error) as error:
        raise Unkept(f"Not restored: {error}.") from None
    return f"{jobs} jobs restored from {source}; what was there is kept as {kept.name}."


def _end_proofs(database: Path) -> None:
    """After a restore nobody knows what was switched since: every proof of dead is over."""
    words = f"the data was restored from a backup at {datetime.now():%H:%M}"
    with closing(sqlite3.connect(database)) as now, now:
        if now.execute("SELECT 1 FROM sqlite_master WHERE name = 'jobs_lock'").fetchone():
            now.execute(
                "UPDATE jobs_lock SET ended = ?, ended_at = ? WHERE off IS NULL AND proved IS NOT"
                " NULL AND ended = ''",
                (words, datetime.now(UTC).strftime("%Y-%m-%d %H:%M:%S.%f")),
            )


def _engine_file() -> Path:
    return Path(settings.DATA) / "judged-by"


def is_judged_by_another() -> bool:
    """Whether the lists were judged by another engine than this one."""
    try:
        return _engine_file().read_text("utf-8") != ENGINE_VERSION
    except OSError:
        return True


def rejudge() -> Iterator[tuple[int, int, str]]:
    """(how many are done, of how many, what is wrong with one): each job's newest revision gets the
    summary and the rank that this engine gives it. The revision's content is not touched."""
    keys = list(Job.objects.order_by("pk").values_list("pk", flat=True))
    for done, pk in enumerate(keys, 1):
        problem = ""
        job = Job.objects.filter(pk=pk).first()
        newest = job.latest if job is not None else None
        if newest is not None:
            try:
                made = summarise(newest.site, newest.aside, newest.document)
            except BadInput as error:
                problem = f"job {pk}, revision {newest.number}: {error.sentence}"
            else:
                _write(newest, made)
        yield done, len(keys), problem
    with suppress(OSError):
        _engine_file().write_text(ENGINE_VERSION, "utf-8")


def _write(newest: Revision, made: dict) -> None:
    if made == newest.summary:
        return
    level = made["level"]
    rank = Level(level).rank if level else NOTHING_FOUND
    with transaction.atomic():
        Revision.objects.filter(pk=newest.pk).update(summary=made)
        if newest.job.latest.pk == newest.pk:
            Job.objects.filter(pk=newest.job_id).update(rank=rank)


def problem_of(job: Job) -> str:
    """What is wrong with a job's newest revision; "" where nothing is."""
    revision = job.latest
    if revision is None:
        return "it has no revision"
    try:
        made = summarise(revision.site, revision.aside, revision.document)
    except BadInput as error:
        return f"revision {revision.number}: {error.sentence}"
    if made != revision.summary:
        moved = ", ".join(k for k in made if made[k] != revision.summary.get(k))
        return f"revision {revision.number}: engine {ENGINE_VERSION} says otherwise of {moved}"
    return ""
