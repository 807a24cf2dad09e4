"""Required against installed: every size the rules ask for in this site."""

from dataclasses import dataclass

from .. import sizing, tables
from ..assume import Assumed
from ..errors import BadInput
from ..site import Circuit, Feeder, Installation
from ..site.chain import Protection, protection_of
from ..site.speech import rule_set_of
from ..study import SiteStudy
from ..words import RuleSet
from ..working import Working


@dataclass(frozen=True, slots=True)
class SizeRow:
    """One conductor: the least size the rules ask for, and what is installed.

    ``path`` of the installed fact; ``needed`` and ``installed`` sizes as text, ``installed`` None
    where nobody has said; ``sets`` conductors in parallel; ``meets`` None where it is not known.
    """

    path: str
    label: str
    needed: str
    needed_material: str
    installed: str | None
    installed_material: str
    assumed: bool
    meets: bool | None
    working: Working

    @property
    def margin(self) -> float | None:
        """Installed area over the needed one, less one: −0.37 is 37 % too small."""
        if self.installed is None:
            return None
        return tables.area(self.installed) / tables.area(self.needed) - 1


def size_rows(site, site_study: SiteStudy) -> tuple[SizeRow, ...]:
    """The sizes of the service, of every feeder and of every circuit, in working order."""
    assumed = site_study.assumed
    if rule_set_of(assumed.site) is RuleSet.METRIC:
        from .metric_sizes import metric_rows  # it makes rows of this kind

        return metric_rows(assumed, site_study)
    rows = _service_rows(assumed)
    for run in (*assumed.site.feeders, *assumed.site.circuits):
        rows += run_rows(assumed, run)
    return tuple(rows)


def _row(assumed: Assumed, path, label, needed: Working, material, installed, installed_material):
    was_assumed = assumed.find(path) is not None
    meets = None
    if installed is not None and not was_assumed:
        meets = tables.area(installed) >= tables.area(needed.value)
    shown = None if was_assumed else installed
    return SizeRow(
        path,
        label,
        needed.value,
        material,
        shown,
        installed_material,
        was_assumed,
        meets,
        needed,
    )


def _service_rows(assumed: Assumed) -> list[SizeRow]:
    """The service's neutral, and of its line: electrode conductors and the bonding jumper."""
    site = assumed.site
    run, edition, rows = site.service, site.practice.edition, []
    if run.line_size is None or tables.is_metric(run.line_size):
        return rows
    line, metal, sets = run.line_size, run.line_material, run.sets
    for electrode in site.electrodes:
        rows.append(_electrode_row(assumed, electrode, line, metal, sets, edition))
    jumper = sizing.main_bonding_jumper(line, metal, sets, edition=edition)
    for panel in site.panels:
        if panel.kind == "sub":
            continue
        installed = panel.bond_size if panel.bond_kind == "wire" else None
        path = f"{panel.id}.bond_size"
        label = "Main bonding jumper"
        rows.append(_row(assumed, path, label, jumper, "copper", installed, "copper"))
    least = sizing.smallest_neutral(line, metal, sets, metal, edition)
    path, size = f"{run.id}.neutral_size", run.neutral_size
    if sets == 1:
        rows.append(_row(assumed, path, "Service neutral", least, metal, size, metal))
    return rows


def _electrode_row(assumed, electrode, line, metal, sets, edition) -> SizeRow:
    """By the service, or by the feeder where the electrode is another building's."""
    site = assumed.site
    feeder = next((f for f in site.feeders if f.to == electrode.panel), None)
    if feeder is not None and feeder.line_size and not tables.is_metric(feeder.line_size):
        line, metal, sets = feeder.line_size, feeder.line_material, feeder.sets
    kinds_of = {u.id: u.kind for u in site.supplies}
    for own in site.services:  # of a transformer of the place's own: by its secondary's lines
        if own.to == electrode.panel and kinds_of.get(own.supply) == "transformer":
            line, metal, sets = own.line_size or line, own.line_material or metal, own.sets or 1
    only = None if electrode.kind in (None, "several") else electrode.kind
    material = electrode.gec_material
    if only == "concrete" and material == "aluminium":
        only = None  # there is no cap for aluminum: it may not touch concrete
    kinds = {e.id: e.kind for e in site.electrodes}
    onward = tuple(k for k in [kinds.get(electrode.goes_on_to or "")] if k and k != "several")
    gec = sizing.smallest_gec(
        line,
        metal,
        sets,
        electrode=only,
        material=material,
        edition=edition,
        goes_on_to=onward,
    )
    path = f"{electrode.id}.gec_size"
    return _row(assumed, path, "Electrode conductor", gec, material, electrode.gec_size, material)


def column_of_run(site: Installation, run) -> int:
    """The ampacity column of a circuit or feeder: its cable's and its panel's terminals'."""
    at = getattr(run, "panel", None) or run.source
    panel = next(p for p in site.panels if p.id == at)
    return sizing.column_of(run.method, panel.terminals_c)


def _device_of(assumed: Assumed, run: Circuit | Feeder) -> float | None:
    """The device that protects a run, its own or the nearest ahead of it, A."""
    found = protection_of(assumed.site, run)
    return found.rating_a if found.how in (Protection.OWN, Protection.AHEAD) else None


def run_rows(assumed: Assumed, run) -> list[SizeRow]:
    """The line and the EGC of one circuit or feeder."""
    rating, edition = _device_of(assumed, run), assumed.site.practice.edition
    if rating is None or run.line_size is None or tables.is_metric(run.line_size):
        return []
    column = column_of_run(assumed.site, run)
    rows, sets = [], getattr(run, "sets", None) or 1
    try:
        needed = sizing.smallest_run(rating, run.line_material, column, edition, sets)
    except BadInput:
        return rows  # one conductor does not serve this device: there is no row to show
    rows.append(
        _row(
            assumed,
            f"{run.id}.line_size",
            "Line wire",
            needed,
            run.line_material,
            run.line_size,
            run.line_material,
        )
    )
    material = run.egc_material or "copper"
    has_wire = run.egc in ("wire", "both") and not tables.is_metric(run.egc_size or "")
    egc = sizing.smallest_egc(
        rating,
        line=run.line_size,
        material=material,
        line_material=run.line_material,
        column_c=column,
        edition=edition,
        sets=sets,
    )
    rows.append(
        _row(
            assumed,
            f"{run.id}.egc_size",
            "Equipment ground (EGC)",
            egc,
            material,
            run.egc_size if has_wire else None,
            material,
        )
    )
    return rows
