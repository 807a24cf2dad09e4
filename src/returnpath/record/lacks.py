"""What the record of a place lacks: findings of the *Record* family. They rest on what was read and
photographed, not on the site alone, so they stand apart from the checks of ``rules``."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from functools import cache

from .. import tables
from ..readings import JudgedReading, expected_loop
from ..rules import LEVELS, Authority, Finding
from ..site import Installation, name_of
from ..study import SiteStudy
from ..vocabulary import Level
from .slots import slots_of

PRACTICE = "good practice"


@dataclass(frozen=True)
class KeptSlot:
    """A slot that has a photo, was seen by someone, or could not be seen because of something."""

    key: str
    photos: int = 0
    seen_by: str = ""
    because: str = ""


@dataclass(frozen=True)
class Record:
    """What was kept: the newest reading of each kind and place, judged; the slots that are filled;
    what the office still asks and cautions that are unread, each (place or "", its name, words)."""

    readings: Sequence[JudgedReading] = ()
    slots: Sequence[KeptSlot] = field(default=())
    corrections: Sequence[tuple[str, str, str]] = ()
    unread: Sequence[tuple[str, str, str]] = ()


@dataclass(frozen=True)
class RecordKind:
    """One entry of the family's catalogue."""

    id: str
    level: Level
    looks: str
    why: str
    do: str


@cache
def record_kinds() -> dict[str, RecordKind]:
    """The family, by id."""
    return {
        r["id"]: RecordKind(r["id"], Level(r["level"]), r["looks"], r["why"], r["do"])
        for r in tables.rows("record_findings")
    }


def record_findings(site: Installation, study: SiteStudy, record: Record) -> tuple[Finding, ...]:
    """What the record lacks, worst first. A reading as predicted never makes one."""
    made = [*_off(record), *_missing(site, study, record), *_unseen(site, record),
            *_torque(site, record)]  # fmt: skip
    made += [_made("correction-open", *one) for one in record.corrections]
    made += [_made("caution-unread", *one) for one in record.unread]
    return tuple(sorted(made, key=lambda f: LEVELS.index(f.level)))


def _made(id: str, place: str, name: str, found: str) -> Finding:
    kind = record_kinds()[id]
    return Finding(id, kind.level, place, name, found, kind.why, kind.do,
                   Authority(PRACTICE, "what was read and seen"))  # fmt: skip


def _off(record: Record) -> Iterator[Finding]:
    for one in record.readings:
        if one.fits is False and one.sure:
            read = one.reading
            look = f" Look for {one.cause}." if one.cause else ""
            yield _made("reading-off-prediction", read.place, read.place_name,
                        f"{read.words()}: {one.says}.{look}")  # fmt: skip


def _missing(site: Installation, study: SiteStudy, record: Record) -> Iterator[Finding]:
    read = {r.reading.place for r in record.readings if r.reading.kind == "loop"}
    for panel in site.panels:
        lacking = [c for c in site.circuits if c.panel == panel.id and c.id not in read
                   and expected_loop(study.metered[c.id])]  # fmt: skip
        if lacking:
            names = ", ".join(name_of(c) for c in lacking[:3])
            more = f" and {len(lacking) - 3} more" if len(lacking) > 3 else ""
            yield _made("reading-missing", panel.id, name_of(panel),
                        f"No loop reading at {names}{more}.")  # fmt: skip


def _unseen(site: Installation, record: Record) -> Iterator[Finding]:
    filled = {s.key for s in record.slots if s.photos or s.seen_by or s.because}
    for slot in slots_of(site):
        if slot.key not in filled:
            yield _made("evidence-before-cover", slot.place, slot.name,
                        f"Nothing of it is kept; it is seen {slot.when}.")  # fmt: skip


def _torque(site: Installation, record: Record) -> Iterator[Finding]:
    read = {r.reading.place for r in record.readings if r.reading.kind == "torque"}
    for panel in site.panels:
        if panel.id not in read and panel.main is not None and panel.main.rating_a:
            yield _made("torque-unrecorded", panel.id, name_of(panel),
                        "No torque of its main terminals is written down.")  # fmt: skip
