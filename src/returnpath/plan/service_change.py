"""The service change as a trial of the whole job: from the load to what stands afterwards."""

from dataclasses import dataclass

from .. import sizing, tables
from ..errors import BadInput, number_in
from ..panels.load import dwelling_load
from ..rules import Evidence, Finding, findings_of
from ..site import Edit, Set, apply, name_of
from ..study import study
from ..tables import metal_name, size_name
from ..vocabulary import GRAVE, FactPath
from ..working import figures
from .subject import EMERGENCY_FROM, SURGE_FROM

RATINGS = (100.0, 125.0, 150.0, 200.0, 320.0, 400.0)


@dataclass(frozen=True)
class Changed:
    """One thing of the after-state: what, and why."""

    what: str
    why: str


@dataclass(frozen=True)
class ServiceChange:
    """The after-state: its edits, what changes and why, findings that go, come and stay, the
    outage; ``now`` what still stands where the work lays hands on: it is mended with it."""

    target_a: float
    load_words: str
    fits: bool | None
    edits: tuple[Edit, ...]
    changed: tuple[Changed, ...]
    goes: tuple[Finding, ...]
    comes: tuple[Finding, ...]
    stays: tuple[Finding, ...]
    outage_h: float
    now: tuple[Finding, ...]


def service_change(s: Evidence, target_a: float) -> ServiceChange:
    """The place with another service. BadInput for a rating that is not made."""
    number_in(target_a, "Service", 60, 1200, "A")
    if target_a not in tables.standard_ratings():
        raise BadInput(f"No service is made for {target_a:g} A.")
    panel = s.site.panel
    edits: list[Edit] = []
    changed: list[Changed] = []
    if panel.main.rating_a != target_a:
        edits.append(Set(path=f"{panel.id}.main.rating_a", value=target_a))
        was = f"{panel.main.rating_a:g} A" if panel.main.rating_a else "not known"
        changed.append(Changed(f"{name_of(panel)}: main {was} → {target_a:g} A", "the load"))
    for edit, words in _lines(s, target_a):
        edits.append(edit)
        changed.append(words)
    after = _evidence(s, edits)
    for path, row in after.sizes.items():
        if not _of_service(s, path) or row.meets is True:
            continue
        if row.meets is None and panel.main.rating_a == target_a:
            continue  # nothing is changed for the sake of what nobody looked at
        edits.append(Set(path=path, value=row.needed))
        was = size_name(row.installed) if row.installed else "not known"
        changed.append(Changed(f"{row.label}: {was} → {size_name(row.needed)}",
                               row.working.steps()[-1].source or "the rules"))  # fmt: skip
    if panel.bond != "in":
        edits.append(Set(path=f"{panel.id}.bond", value="in"))
        changed.append(Changed("Main bonding jumper in", "the service disconnect is here"))
    if s.edition >= EMERGENCY_FROM:
        changed.append(Changed("Emergency disconnect outdoors", f"rules of {s.edition}"))
        changed.append(Changed(
            f"If that disconnect is the service disconnect, {name_of(panel)} becomes a sub-panel:"
            " four wires, bond out, EGCs apart from the neutrals",
            "neutral and ground are joined once, at the service disconnect"))  # fmt: skip
    if s.edition >= SURGE_FROM:
        changed.append(Changed("Surge protective device", f"rules of {s.edition}"))
    after = _evidence(s, edits)
    before_found, after_found = findings_of(s), findings_of(after)
    old, new = ({f.key for f in found} for found in (before_found, after_found))
    return ServiceChange(
        target_a,
        *_load(s, target_a),
        tuple(edits),
        tuple(changed),
        tuple(f for f in before_found if f.key not in new),
        tuple(f for f in after_found if f.key not in old),
        tuple(f for f in after_found if f.key in old),
        _outage(s),
        tuple(f for f in after_found if f.level in GRAVE and _touched(s, f)),
    )


def _lines(s: Evidence, target_a: float) -> list[tuple[Edit, Changed]]:
    """The service conductors that are too small for it, or that nobody knows, by 310.12."""
    found: list[tuple[Edit, Changed]] = []
    for run in s.site.services:
        material = run.line_material or "aluminium"
        if run.to != s.site.panel.id or (run.line_size and tables.is_metric(run.line_size)):
            continue
        needed = sizing.service_line(target_a, material, s.edition)
        enough = run.line_size and (run.sets or 1) * tables.area(run.line_size)
        if enough and enough >= tables.area(needed.value):
            continue
        was = size_name(run.line_size) if run.line_size else "not known"
        metal = metal_name(material)
        words = f"Service conductors: {was} → {size_name(needed.value)} {metal}"
        edit = Set(path=f"{run.id}.line_size", value=needed.value)
        found.append((edit, Changed(words, f"the dwelling's {target_a:g} A")))
    return found


def _evidence(s: Evidence, edits: list[Edit]) -> Evidence:
    site = s.site
    for edit in edits:
        site = apply(site, edit)
    return Evidence(site, study(site))


def _of_service(s: Evidence, path: str) -> bool:
    """The conductors that hang on the size of the service."""
    element = FactPath(path).element
    panel = s.site.panel.id
    runs = {r.id for r in s.site.services if r.to == panel}
    electrodes = {e.id for e in s.site.electrodes if e.panel == panel}
    metals = {m.id for m in s.site.metals if m.kind in ("water", "structure")}
    own = {panel} if s.site.panel.bond_kind == "wire" else set()
    return element in runs | electrodes | metals | own


def _touched(s: Evidence, finding: Finding) -> bool:
    """Whether the work lays hands on it anyway: the service, its panel, its electrodes and pipes.
    What stands elsewhere may stay as it is, if it was lawful when it was made."""
    site = s.site
    own = {site.panel.id, *(r.id for r in site.services), *(m.id for m in site.metals)}
    own |= {e.id for e in site.electrodes if e.panel == site.panel.id}
    return finding.place in own


def _load(s: Evidence, target_a: float) -> tuple[str, bool | None]:
    load = dwelling_load(s.filled)
    if load is None:
        return "The load is not known: the Panels stage asks for the floor area.", None
    words = f"{figures(load.amps)} A by 220.83 at {target_a:g} A"
    if load.unknown:
        return f"at least {words}: nameplates of {', '.join(load.unknown[:3])} are missing", None
    return words, load.amps <= target_a


def _outage(s: Evidence) -> float:
    per = {r["key"]: float(r["hours"]) for r in tables.rows("plan_hours")}
    moved = sum(c.panel == s.site.panel.id for c in s.site.circuits)
    return round(per["service-outage"] + per["circuit-moved"] * moved, 1)
