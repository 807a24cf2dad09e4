"""Required against installed: every size the rules ask for in this site."""

from dataclasses import dataclass

from .. import sizing, tables
from ..assume import Assumed
from ..errors import BadInput
from ..site import Circuit
from ..study import SiteStudy
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
    """The sizes of the service and of every circuit, in the order of the work."""
    assumed = site_study.assumed
    rows = _service_rows(assumed)
    for circuit in assumed.site.circuits:
        rows += circuit_rows(assumed, circuit)
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
    site = assumed.site
    run, panel, electrode = site.service, site.panel, site.electrode
    edition, rows = site.practice.edition, []
    if run.line_size is None:
        return rows
    line, metal, sets = run.line_size, run.line_material, run.sets
    only = None if electrode.kind in (None, "several") else electrode.kind
    gec = sizing.smallest_gec(
        line, metal, sets, electrode=only, material=electrode.gec_material, edition=edition
    )
    rows.append(
        _row(
            assumed,
            f"{electrode.id}.gec_size",
            "Electrode conductor",
            gec,
            electrode.gec_material,
            electrode.gec_size,
            electrode.gec_material,
        )
    )
    jumper = sizing.main_bonding_jumper(line, metal, sets, edition=edition)
    installed = panel.bond_size if panel.bond_kind == "wire" else None
    rows.append(
        _row(
            assumed,
            f"{panel.id}.bond_size",
            "Main bonding jumper",
            jumper,
            "copper",
            installed,
            "copper",
        )
    )
    return rows


def circuit_rows(assumed: Assumed, circuit: Circuit) -> list[SizeRow]:
    """The line and the ground wire of one circuit."""
    rating, edition = circuit.breaker.rating_a, assumed.site.practice.edition
    if rating is None or circuit.line_size is None:
        return []
    column = assumed.site.panel.terminals_c
    rows = []
    try:
        needed = sizing.smallest_line(rating, circuit.line_material, column, edition)
    except BadInput:
        return rows  # one conductor does not serve this device: there is no row to show
    rows.append(
        _row(
            assumed,
            f"{circuit.id}.line_size",
            "Line wire",
            needed,
            circuit.line_material,
            circuit.line_size,
            circuit.line_material,
        )
    )
    material = circuit.egc_material or "copper"
    egc = sizing.smallest_egc(
        rating,
        line=circuit.line_size,
        material=material,
        line_material=circuit.line_material,
        column_c=column,
        edition=edition,
    )
    has_wire = circuit.egc in ("wire", "both")
    rows.append(
        _row(
            assumed,
            f"{circuit.id}.egc_size",
            "Ground wire (EGC)",
            egc,
            material,
            circuit.egc_size if has_wire else None,
            material,
        )
    )
    return rows
