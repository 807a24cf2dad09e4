"""The allowed loop impedances on paper: a table to hang beside a board."""

import itertools
from dataclasses import dataclass
from typing import Any

from django.views.decorators.http import require_safe

from returnpath import sizing
from returnpath.working import figures

from ..jobs.access import job_of
from .views import paper


@dataclass(frozen=True)
class ZsLine:
    """One device in words."""

    name: str
    amps: str
    hot: str
    cold: str
    fifths: str


@dataclass(frozen=True)
class ZsGroup:
    """The devices of one kind and one time."""

    title: str
    rows: tuple[ZsLine, ...]


@dataclass
class ZsPage:
    """The sheet."""

    job: Any
    volts: str
    groups: tuple[ZsGroup, ...]
    colours: Any = None
    static: str = ""
    firm: Any = None


def zs_groups(volts: float) -> tuple[ZsGroup, ...]:
    """Types B, C, D and gG, for 0.4 and for 5 s."""
    found = []
    table = sizing.allowed_table(volts)
    for (seconds, kind), rows in itertools.groupby(table, lambda r: (r.seconds, r.kind)):
        what = "Fuses gG" if kind == "gG" else f"Type {kind}"
        lines = tuple(
            ZsLine(f"{r.rating_a:g} A", figures(r.operating_a), figures(r.hot_ohm),
                   figures(r.cold_ohm), figures(r.four_fifths_ohm))
            for r in rows
        )  # fmt: skip
        found.append(ZsGroup(f"{what}, within {seconds:g} s", lines))
    return tuple(found)


@require_safe
def allowed_zs(request, pk: int):
    """The sheet as PDF."""
    job = job_of(request, pk)
    system = job.latest.site.supply.system
    volts = system.volts if system is not None and system.is_metric else 230.0
    page = ZsPage(job, f"{volts:g}", zs_groups(volts))
    return paper(request, job, "reports/zs.html", page, "allowed Zs on paper", "-zs")
