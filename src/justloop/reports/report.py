"""The report: parts that can be left out, for three readers; the same parts on screen and paper."""

from dataclasses import dataclass
from typing import Any

from django.utils.safestring import mark_safe

from returnpath import tables
from returnpath.plan.procedure import cautions
from returnpath.readings import expected_loop
from returnpath.rules import Finding, all_checks
from returnpath.site import name_of
from returnpath.site.plan import plan_of
from returnpath.site.roof import name_of_joint
from returnpath.study import FaultStudy
from returnpath.vocabulary import GRAVE, Level
from returnpath.working import figures

from ..drawing.map import MapView, map_scene, worst_of
from ..drawing.plan import PlanView, plan_scene
from ..jobs.models import Job
from ..log.keeping import loops_read
from ..planning.models import Remark
from ..signing.firm_key import firm_fingerprint
from ..signing.standing import OpenWork, open_work, reason_of
from ..solved import SolvedSite, solve, standing
from ..workspace import shell
from ..workspace.log_view import LogRow, whole_log
from .record import PaperSlot, paper_slots

PARTS = {
    "place": "The place and its map",
    "findings": "What was found and mended",
    "aside": "What is set aside, and why",
    "circuits": "Every circuit",
    "sizes": "Sizes needed and installed",
    "electrodes": "Electrodes and other metal",
    "readings": "Readings against predictions",
    "photographs": "Photographs",
    "corrections": "Corrections of the office",
    "assumptions": "Assumptions still standing",
    "practice": "Edition and local practice",
    "cautions": "Cautions",
    "annex": "Annex: workings",
}
OWNER_PARTS = ("owner",)
READERS = {
    "inspector": ("Inspector", tuple(PARTS)),
    "owner": ("Owner", OWNER_PARTS),
    "next": ("Next electrician",
             ("place", "directory", "circuits", "readings", "photographs", "assumptions",
              "cautions")),
}  # fmt: skip
#: The workings that a verdict rests on; the others are on the screen.
IN_ANNEX = ("lowest_a", "loop_ohm", "opens", "heat", "touch")
SIZES = {"letter": "Letter", "A4": "A4"}


@dataclass(frozen=True)
class Found:
    """A finding as paper tells it."""

    level: str
    place: str
    found: str
    do: str
    authority: str
    family: str


@dataclass(frozen=True)
class CircuitLine:
    """A circuit's figures."""

    name: str
    panel: str
    breaker: str
    lowest: str
    times: str
    verdict: str
    loop: str
    band: str
    read: str
    touch: str


@dataclass(frozen=True)
class ReportSize:
    """A conductor: needed against installed, with its section."""

    place: str
    label: str
    needed: str
    installed: str
    state: str
    source: str


@dataclass(frozen=True)
class OwnerLine:
    """A thing in the owner's words: where, what could have happened, what to watch."""

    place: str
    could: str
    done: str


@dataclass(frozen=True)
class Annex:
    """The workings of one circuit."""

    name: str
    rows: tuple[tuple[str, tuple[str, ...]], ...]


@dataclass
class ReportPage:
    """Everything that a report's templates read."""

    job: Any
    revision: Any
    reader: str
    reader_name: str
    parts: tuple[str, ...]
    titles: dict[str, str]
    size: str
    edition: int
    practice_words: str
    map: str
    worst: str
    mended: tuple[Found, ...]
    open: tuple[Found, ...]
    aside: tuple[tuple[str, str], ...]
    circuits: tuple[CircuitLine, ...]
    sizes: tuple[ReportSize, ...]
    electrodes: tuple[tuple[str, str], ...]
    plan: str
    joints: tuple[tuple[str, str], ...]
    readings: tuple[LogRow, ...]
    slots: tuple[PaperSlot, ...]
    corrections: tuple[Remark, ...]
    assumptions: tuple[tuple[str, str, str], ...]
    requirements: tuple[str, ...]
    cautions: tuple[str, ...]
    directory: tuple[tuple[str, tuple[str, ...]], ...]
    annex: tuple[Annex, ...]
    owner_before: tuple[OwnerLine, ...]
    owner_open: tuple[OwnerLine, ...]
    watch: tuple[str, ...]
    open_work: OpenWork
    key: str
    signed: Any = None
    colours: Any = None
    static: str = ""
    firm: Any = None


def report_page(job: Job, reader: str, skip: frozenset[str], size: str) -> ReportPage:
    """The report of a job as it is now."""
    reader = reader if reader in READERS else "inspector"
    name, wanted = READERS[reader]
    parts = tuple(p for p in wanted if p not in skip)
    revision = job.latest
    solved = solve(revision.site, revision.document)
    site, study = solved.site, solved.study
    names = {i: name_of(e) for i, e in site.elements().items()}
    stand = standing(solved, revision.aside)
    mended = _mended(job, stand)
    worst = study.worst if study.loops else None
    page = ReportPage(
        job=job, revision=revision, reader=reader, reader_name=name, parts=parts,
        titles=PARTS | {"directory": "The panels' directories"}, size=size,
        edition=site.practice.edition, practice_words=shell.practice_words(site),
        map=_map(solved, worst) if "place" in parts else "",
        worst=_worst(worst), mended=mended, open=tuple(_found(f) for f in stand),
        aside=_set_aside(solved, revision.aside),
        circuits=_circuits(solved, loops_read(job)) if "circuits" in parts else (),
        sizes=_sizes(solved, names) if "sizes" in parts else (),
        electrodes=_electrodes(solved) if "electrodes" in parts else (),
        plan=_plan(solved) if "electrodes" in parts else "", joints=_joints(site),
        readings=whole_log(job, solved)[0] if "readings" in parts else (),
        slots=paper_slots(job, site) if "photographs" in parts else (),
        corrections=tuple(Remark.objects.filter(visit__job=job).select_related("visit")),
        assumptions=_assumptions(solved, names) if "assumptions" in parts else (),
        requirements=tuple(f"{r.text} ({r.who})" for r in site.practice.requirements),
        cautions=tuple(cautions().values()), directory=_directory(site),
        annex=_annex(solved) if "annex" in parts else (),
        owner_before=_owner(mended) if reader == "owner" else (),
        owner_open=_owner(tuple(_found(f) for f in stand if f.level in GRAVE))
        if reader == "owner" else (),
        watch=_watch(solved), open_work=open_work(job, solved, revision.aside),
        key=firm_fingerprint(), signed=job.signed.filter(number=revision.number).first(),
    )  # fmt: skip
    return page


def _found(f: Finding) -> Found:
    return Found(f.level.value, f.place_name, f.found, f.do, str(f.authority), family_of(f.id))


def _set_aside(solved: SolvedSite, aside: dict) -> tuple[tuple[str, str], ...]:
    """(the finding in words, why it is set aside), also where it is found no more."""
    found = {f.key: f for f in solved.findings}
    return tuple(
        (f"{found[key].level}: {found[key].place_name}: {found[key].found}" if key in found
         else f"{key} (no longer found)", reason_of(entry))
        for key, entry in aside.items()
    )  # fmt: skip


def _mended(job: Job, stand) -> tuple[Found, ...]:
    """What the first revision with anything in it had, and the newest has no more."""
    first = job.revisions.order_by("number").exclude(summary={}).first()
    if first is None or first.pk == job.latest.pk:
        return ()
    now = {f.key for f in stand}
    gone = [f for f in solve(first.site, first.document).findings if f.key not in now]
    return tuple(_found(f) for f in gone if f.key not in job.latest.aside)


def _map(solved: SolvedSite, worst: FaultStudy | None) -> str:
    href = dict.fromkeys([*solved.site.elements(), "prove"], "")
    view = MapView(solved.study, worst, href, worst=worst_of(solved.findings, solved.site))
    drawn = map_scene(view).svg(paper=True, links=False)
    return mark_safe(drawn)  # noqa: S308 - Scene escapes every text


def _worst(fault: FaultStudy | None) -> str:
    if fault is None or fault.lowest_a is None:
        return ""
    return f"{fault.place_name}: {fault.verdict.value}, {figures(fault.lowest_a)} A at the least"


def _circuits(solved: SolvedSite, read: dict[str, str]) -> tuple[CircuitLine, ...]:
    site = solved.site
    panels = {p.id: name_of(p) for p in site.panels}
    found = []
    for fault in solved.study.loops.values():
        circuit = fault.circuit
        expected = expected_loop(solved.study.metered[circuit.id])
        rating = fault.device.rating_a if fault.device else None
        found.append(CircuitLine(
            fault.place_name, panels.get(circuit.panel, ""), f"{rating:g} A" if rating else "?",
            f"{figures(fault.lowest_a)} A" if fault.lowest_a else "none",
            f"{figures(fault.lowest_a / rating)} ×" if fault.lowest_a and rating else "",
            fault.verdict.value, f"{figures(fault.loop_ohm)} Ω" if fault.lowest_a else "",
            expected.words() if expected else "", read.get(circuit.id, ""),
            f"{fault.touch_v:.0f} V" if getattr(fault, "touch_v", None) else "",
        ))  # fmt: skip
    return tuple(found)


def _size_words(size: str, metal: str) -> str:
    return f"{tables.size_name(size)} {tables.metal_name(metal)}"


def _sizes(solved: SolvedSite, names: dict[str, str]) -> tuple[ReportSize, ...]:
    found = []
    for path, row in solved.sizes.items():
        element = getattr(path, "element", str(path))
        state = "meets" if row.meets else "not known" if row.meets is None else "too small"
        installed = _size_words(row.installed, row.installed_material) if row.installed else ""
        steps = [s for s in row.working.steps() if s.source]
        found.append(ReportSize(names.get(element, ""), row.label,
                              _size_words(row.needed, row.needed_material), installed, state,
                              steps[-1].source if steps else ""))  # fmt: skip
    return tuple(found)


def _electrodes(solved: SolvedSite) -> tuple[tuple[str, str], ...]:
    filled = solved.study.assumed.site
    found = []
    for e in filled.electrodes:
        ohm = f"{figures(e.proved_ohm or e.ohm)} Ω" if (e.proved_ohm or e.ohm) else "not computed"
        how = "measured" if e.proved_ohm else "computed"
        wire = f", conductor {e.gec_size}" if e.gec_size else ""
        found.append((name_of(e), f"{ohm} {how}{wire}"))
    for m in filled.metals:
        state = {"yes": "bonded", "no": "not bonded"}.get(m.bonded or "", "bond not known")
        found.append((name_of(m), f"{state}{f', {m.bond_size}' if m.bond_size else ''}"))
    return tuple(found)


def _plan(solved: SolvedSite) -> str:
    """The plan to scale, where somebody placed something; nothing else is drawn as if it were."""
    site = solved.site
    placed = [e for e in (*site.electrodes, *site.buildings) if e.east_ft is not None]
    if not placed:
        return ""
    scene, _ = plan_scene(PlanView(site, plan_of(site), dict.fromkeys(site.elements(), ""), {}, ""))
    return mark_safe(scene.svg(paper=True, links=False))  # noqa: S308 - Scene escapes every text


def _joints(site) -> tuple[tuple[str, str], ...]:
    """What is said against joints of arrays."""
    arrays = {a.id: name_of(a) for a in site.arrays}
    return tuple(
        (f"{arrays[j.on.element]}: {name_of_joint(j.on.part)}",
         "open" if j.open == "yes" else f"{j.ohm:g} Ω" if j.ohm else str(j.hardware or "noted"))
        for j in site.joints
        if j.on.element in arrays
    )  # fmt: skip


def _assumptions(solved: SolvedSite, names: dict[str, str]) -> tuple[tuple[str, str, str], ...]:
    return tuple(
        (names.get(a.path.element, ""), f"{a.label}: {a.words}", a.why)
        for a in solved.study.assumed.assumptions[:400]
    )


def _directory(site) -> tuple[tuple[str, tuple[str, ...]], ...]:
    found = []
    for panel in site.panels:
        own = [c for c in site.circuits if c.panel == panel.id]
        rows = sorted(own, key=lambda c: c.space or 999)
        found.append((name_of(panel), tuple(
            f"{c.space or '?'}  {name_of(c)}"
            + (f", {c.breaker.rating_a:g} A" if c.breaker.rating_a else "") for c in rows
        )))  # fmt: skip
    return tuple(found)


def _annex(solved: SolvedSite) -> tuple[Annex, ...]:
    found = []
    for fault in solved.study.loops.values():
        rows = tuple(
            (working.title, tuple(s.text for s in working.steps()))
            for key, working in fault.workings.items()
            if key in IN_ANNEX
        )
        found.append(Annex(fault.place_name, rows))
    return tuple(found)


def family_of(id: str) -> str:
    """The family of a check, for the owner's words."""
    entry = all_checks().get(id)
    return entry.family if entry else "other"


def owner_words() -> dict[str, tuple[str, str]]:
    """family → (what could have happened, what to watch)."""
    return {r["family"]: (r["could"], r["watch"]) for r in tables.rows("owner_words")}


def _owner(found: tuple[Found, ...]) -> tuple[OwnerLine, ...]:
    """In the owner's words, a place and a danger once."""
    words = owner_words()
    seen: dict[tuple[str, str], OwnerLine] = {}
    for f in found:
        if f.level not in (Level.DANGER.value, Level.FIX.value):
            continue
        could = words.get(f.family, words["other"])[0]
        seen.setdefault((f.place, could), OwnerLine(f.place, could, f.do))
    return tuple(seen.values())[:8]


def _watch(solved: SolvedSite) -> tuple[str, ...]:
    words = owner_words()
    families = [family_of(f.id) for f in solved.findings] + list(words)
    said = [words[f][1] for f in dict.fromkeys(families) if f in words and words[f][1]]
    return tuple(dict.fromkeys(said))[:6]
