"""Required against installed in the metric rule set: the sizes of a site (``sizes.py`` asks)."""

import math
from collections.abc import Iterator
from typing import Any

from .. import sizing, tables
from ..assume import Assumed
from ..assume_metric import loaded_of, reference_method, ring_rating
from ..errors import BadInput
from ..site import Circuit, Feeder
from ..site.arrangement import Arrangement, arrangement_at
from ..site.rings import is_ring
from ..study import SiteStudy
from ..working import Working
from .sizes import SizeRow

BONDED = ("water", "gas", "structure")


def _row(
    assumed: Assumed, path: str, label: str, needed: Working, installed: Any, metal: Any
) -> SizeRow:
    """One conductor; an assumed size is not installed."""
    is_assumed = assumed.find(path) is not None
    given = None if is_assumed else installed
    meets = None if given is None else tables.area(given) >= tables.area(str(needed.value))
    return SizeRow(
        path, label, str(needed.value), "copper", given, metal, is_assumed, meets, needed
    )


def metric_rows(assumed: Assumed, study: SiteStudy) -> tuple[SizeRow, ...]:
    """Earthing and bonding conductors, then the line and protective conductor of every run."""
    rows = [*_earthing(assumed), *_bonding(assumed)]
    for run in (*assumed.site.feeders, *assumed.site.circuits):
        rows += run_rows(assumed, study, run)
    return tuple(rows)


def _use(study: SiteStudy, run: Circuit | Feeder, path: str) -> float | None:
    """The share of its limit that a protective conductor uses in its solved fault."""
    fault = study.loops.get(run.id) or study.enclosures.get(getattr(run, "to", ""))
    if fault is None or fault.lowest_a is None:
        return None
    found = [h.fraction for h in fault.heat if h.carrier.path == path]
    most = max(found, default=math.inf)
    return most if math.isfinite(most) else None


def _earthing(assumed: Assumed) -> Iterator[SizeRow]:
    site = assumed.site
    feeders = {f.to: f for f in site.feeders}
    for electrode in site.electrodes:
        feeder = feeders.get(electrode.panel)
        line = feeder.line_size if feeder is not None else site.service.line_size
        if line is None or not tables.is_metric(line) or electrode.joined == "no":
            continue
        tt = arrangement_at(site, electrode.panel) is Arrangement.TT
        needed = sizing.earthing_conductor("6mm2" if tt else line)
        path, metal = f"{electrode.id}.gec_size", electrode.gec_material
        yield _row(assumed, path, "Earthing conductor", needed, electrode.gec_size, metal)


def _bonding(assumed: Assumed) -> Iterator[SizeRow]:
    site = assumed.site
    run = site.service
    for metal in site.metals:
        if metal.kind not in BONDED or metal.material in ("plastic", "none"):
            continue
        line = run.line_size
        if line is None or not tables.is_metric(line):
            continue
        own = arrangement_at(site, metal.panel or site.panel.id) or Arrangement.TN_C_S
        needed = sizing.main_bonding(own, line, run.neutral_size or line)
        path = f"{metal.id}.bond_size"
        yield _row(assumed, path, "Main bonding", needed, metal.bond_size, metal.bond_material)


def run_rows(assumed: Assumed, study: SiteStudy, run: Circuit | Feeder) -> list[SizeRow]:
    """The line and the protective conductor of one circuit or distribution circuit."""
    rating, line = run.breaker.rating_a, run.line_size
    if rating is None or line is None or not tables.is_metric(line):
        return []
    rows, asked = [], ring_rating(rating) if is_ring(run) else rating
    try:
        kind, loaded = run.insulation or "thermoplastic", loaded_of(run.poles)
        method = reference_method(run, run.method)
        needed = sizing.smallest_metric_line(asked, kind, loaded, method)
        rows.append(_row(assumed, f"{run.id}.line_size", "Line", needed, line, run.line_material))
    except BadInput:
        pass  # past the table of capacities: there is no row to show
    if run.egc in ("wire", "both"):
        needed, path = sizing.protective_by_table(line), f"{run.id}.egc_size"
        label, share = "Protective conductor (by the table)", _use(study, run, path)
        small = run.egc_size and tables.area(run.egc_size) < tables.area(str(needed.value))
        if small and share and tables.is_metric(run.egc_size):
            by_heat = sizing.protective_by_use(run.egc_size, share)
            if tables.area(str(by_heat.value)) <= tables.area(run.egc_size):
                label, needed = "Protective conductor (by heat)", by_heat
        rows.append(_row(assumed, path, label, needed, run.egc_size, run.egc_material))
    return rows
