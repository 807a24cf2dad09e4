"""What the page of *Find circuits* shows."""

from dataclasses import dataclass

from django.urls import reverse
from django.utils import timezone

from returnpath import tables
from returnpath.panels import face_of
from returnpath.rules import is_vague
from returnpath.site import Circuit, Installation
from returnpath.site.serves import places_of
from returnpath.vocabulary import FactPath

from ..jobs.models import Job, OffNow

NOBODY_LOOKED = "not looked for yet"
FOUND, NOTHING = "found", "nothing"


@dataclass(frozen=True)
class BreakerRow:
    """One breaker: its spaces, its amperes, the name it has; how it stands, by whom and when."""

    id: str
    spaces: str
    rating: str
    name: str
    is_vague: bool
    standing: str
    by: str
    href: str
    places: str

    @property
    def title(self) -> str:
        """How people at a panel say it: ``7 · 20 A``."""
        return f"{self.spaces or 'no space'} · {self.rating}"

    @property
    def words(self) -> str:
        """How it stands."""
        said = {FOUND: "found", NOTHING: "nothing went dead"}.get(self.standing)
        return f"{said}{f' ({self.by})' if self.by else ''}" if said else NOBODY_LOOKED


@dataclass(frozen=True)
class Off:
    """A breaker that is off now, who switched it and when; ``token`` changes with it."""

    row: BreakerRow
    panel: str
    by: str
    at: str
    token: str


@dataclass(frozen=True)
class Chip:
    """A place that can be tapped."""

    value: str
    words: str
    is_on: bool


@dataclass(frozen=True)
class FindPage:
    """The page: the panels as (name, address, current), the rows, what is off, what is answered."""

    panel: str
    panel_name: str
    panels: tuple[tuple[str, str, bool], ...]
    rows: tuple[BreakerRow, ...]
    chosen: BreakerRow | None
    chips: tuple[Chip, ...]
    more_chips: tuple[Chip, ...]
    off: tuple[Off, ...]
    found: int
    lost: tuple[BreakerRow, ...]


def find_page(job: Job, site: Installation, panel: str, circuit: str, picked: set[str]) -> FindPage:
    """The page of a panel (the first, unless it is known) with the chosen circuit; ``picked`` the
    places that were tapped and not saved yet."""
    by_id = {p.id: p for p in site.panels}
    known = {c.id: c for c in site.circuits}
    if circuit in known:
        panel = known[circuit].panel
    here = by_id.get(panel) or site.panel
    rows = _rows(job, site, here.id)
    chosen = next((r for r in rows if r.id == circuit), None)
    on = picked or (set(places_of(known[circuit])) if chosen else set())
    chips = [
        (bool(r["usual"]), Chip(r["place"], r["label"], r["place"] in on))
        for r in tables.rows("places")
    ]
    return FindPage(
        here.id,
        here.name or "Panel",
        tuple((p.name or "Panel", address(job, panel=p.id), p.id == here.id) for p in site.panels),
        rows,
        chosen,
        tuple(chip for usual, chip in chips if usual or chip.is_on),
        tuple(chip for usual, chip in chips if not (usual or chip.is_on)),
        off_now(job, site),
        sum(r.standing == FOUND for r in rows),
        tuple(r for r in rows if r.standing == NOTHING),
    )


def address(job: Job, **asked: str) -> str:
    """The page's address: ``panel``, or ``c`` for a circuit."""
    query = "&".join(f"{key}={value}" for key, value in asked.items())
    return f"{reverse('find-circuits', args=[job.pk])}?{query}"


def off_now(job: Job, site: Installation) -> tuple[Off, ...]:
    """What is off now, the first switched first; what is no longer in the job is left out."""
    found = []
    for kept in OffNow.objects.select_related("by").filter(job=job, until=None):
        circuit = next((c for c in site.circuits if c.id == kept.circuit), None)
        if circuit is None:
            continue
        row = next(r for r in _rows(job, site, circuit.panel) if r.id == circuit.id)
        panel = next(p.name or "Panel" for p in site.panels if p.id == circuit.panel)
        token = f"{kept.circuit}-{kept.at.timestamp():.3f}"
        at = f"{timezone.localtime(kept.at):%H:%M}"
        found.append(Off(row, panel, str(kept.by or "somebody"), at, token))
    return tuple(found)


def token_of(off: tuple[Off, ...]) -> str:
    """What changes with anything that is off."""
    return "_".join(one.token for one in off) or "none"


def _rows(job: Job, site: Installation, panel: str) -> tuple[BreakerRow, ...]:
    """The breakers of a panel's circuits in the order of their spaces."""
    face = face_of(site, panel)
    order = {u.id: u.spaces for u in (*face.units, *face.unplaced)}
    circuits = {c.id: c for c in site.circuits if c.panel == panel}
    return tuple(
        _row(job, site, circuits[id_], spaces) for id_, spaces in order.items() if id_ in circuits
    )


def _row(job: Job, site: Installation, circuit: Circuit, spaces: tuple[int, ...]) -> BreakerRow:
    source = site.sources.get(FactPath.of(circuit.id, "traced"))
    rating = circuit.breaker.rating_a
    name = circuit.name or ""
    return BreakerRow(
        id=circuit.id,
        spaces="–".join(dict.fromkeys((str(spaces[0]), str(spaces[-1])))) if spaces else "",
        rating=f"{rating:g} A" if rating else "? A",
        name=name,
        is_vague=not name or is_vague(name),
        standing=circuit.traced or "",
        by=", ".join(filter(None, (source.who, source.when))) if source else "",
        href=address(job, c=circuit.id) + "#answer",
        places=",".join(places_of(circuit)),
    )
