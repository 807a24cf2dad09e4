"""What counts: every electrode and pipe of a building, from *present* to its conductor, and what
the system of them still lacks. Both schools of the lone rod are told."""

from collections.abc import Iterator
from dataclasses import dataclass

from .. import tables
from ..network.soil import shapes_on_plan
from ..site import Electrode, Installation, Metal
from ..site.plan import names_on_plan
from ..study import SiteStudy
from ..tables import metal_name
from ..working import figures
from .checks.bonding import water_bond_needed
from .checks.electrodes import (
    LEAST_DEPTH_IN,
    LEAST_PIPE_FT,
    LEAST_PLATE_SQFT,
    LEAST_RING_FT,
    LEAST_ROD_FT,
    LEAST_STEEL_FT,
    PROVED_OHM,
)
from .registry import Evidence

MUST_BE_USED = ("water", "concrete", "ring")


@dataclass(frozen=True)
class CountedPart:
    """One line of an electrode's status: what is asked, the answer in words, met or not or not
    known (None)."""

    what: str
    says: str
    met: bool | None


@dataclass(frozen=True)
class CountedElectrode:
    """One electrode: ``counts`` None where a fact is missing; ``ohm`` alone, ``is_estimate`` unless
    measured; ``parts`` its status in order."""

    id: str
    name: str
    kind: str | None
    counts: bool | None
    why: str
    is_connected: bool | None
    ohm: float | None
    is_estimate: bool
    parts: tuple[CountedPart, ...]


@dataclass(frozen=True)
class ElectrodeSystem:
    """The electrodes of one building's panel. ``ohm`` of those that count and are connected, all
    together; ``missing`` what the system still lacks; ``schools`` both answers on a lone rod."""

    panel: str
    name: str
    electrodes: tuple[CountedElectrode, ...]
    pipes: tuple[CountedElectrode, ...]
    ohm: float | None
    missing: tuple[str, ...]
    schools: tuple[tuple[str, str, bool], ...]
    is_required: bool


def counted_for(electrode: Electrode) -> tuple[bool | None, str]:
    """Whether one electrode counts by itself, and why: by kind and measure."""
    length = electrode.length_ft
    if electrode.kind is None:
        return None, "which kind is it?"
    if electrode.kind == "several":
        return None, "name each of them"
    if electrode.kind in ("rod", "water", "concrete", "ring"):
        least, word = {
            "rod": (LEAST_ROD_FT, "in the soil"),
            "water": (LEAST_PIPE_FT, "of metal in the earth"),
            "concrete": (LEAST_STEEL_FT, "in the footing"),
            "ring": (LEAST_RING_FT, "of wire"),
        }[electrode.kind]
        if length is None:
            return None, f"how much of it is {word}? {least:g} ft count"
        if length < least:
            return False, f"{length:g} ft {word}: {least:g} ft count"
        return True, f"{length:g} ft {word}"
    area, depth = electrode.area_sqft, electrode.depth_in
    if area is None or depth is None:
        return None, f"how large and how deep? {LEAST_PLATE_SQFT:g} sq ft, {LEAST_DEPTH_IN:g} in"
    met = area >= LEAST_PLATE_SQFT and depth >= LEAST_DEPTH_IN
    return met, f"{area:g} sq ft, {depth:g} in deep"


def electrode_systems(evidence: Evidence) -> tuple[ElectrodeSystem, ...]:
    """The electrode system of each place that has or needs one, the service's first."""
    study: SiteStudy = evidence.study
    raw: Installation = evidence.site
    names = names_on_plan(raw)
    groups: dict[str, list[Electrode]] = {evidence.at_service: []}
    for electrode in raw.electrodes:
        here = electrode.panel if evidence.is_downstream(electrode.panel) else evidence.at_service
        groups.setdefault(here, []).append(electrode)
    for feeder in evidence.filled.feeders:
        if evidence.other_building(feeder) and feeder.to in evidence.panels:
            groups.setdefault(feeder.to, [])
    found = []
    for panel, electrodes in groups.items():
        rows = tuple(_electrode(evidence, e, names[e.id]) for e in electrodes)
        pipes = tuple(_pipes(evidence, panel, names))
        found.append(
            ElectrodeSystem(
                panel=panel,
                name=evidence.panels[panel].name or "Panel",
                electrodes=rows,
                pipes=pipes,
                ohm=_together(study, electrodes, rows),
                missing=tuple(_missing(rows, raw)),
                schools=_schools(rows, evidence),
                is_required=True,
            )
        )
    return tuple(found)


def _electrode(s: Evidence, electrode: Electrode, name: str) -> CountedElectrode:
    filled = next(e for e in s.filled.electrodes if e.id == electrode.id)
    counts, why = counted_for(electrode)
    connected = None if electrode.joined is None and electrode.gec_size is None else (
        electrode.joined != "no"
    )  # fmt: skip
    return CountedElectrode(
        id=electrode.id,
        name=name,
        kind=electrode.kind,
        counts=counts,
        why=why,
        is_connected=connected,
        ohm=electrode.proved_ohm or filled.ohm,
        is_estimate=electrode.proved_ohm is None and electrode.ohm is None,
        parts=tuple(_parts(s, electrode, counts, why, connected)),
    )


def _parts(
    s: Evidence, e: Electrode, counts: bool | None, why: str, connected: bool | None
) -> Iterator[CountedPart]:
    yield CountedPart("present", "yes" if e.kind else "not said", True if e.kind else None)
    if e.kind in MUST_BE_USED:
        yield CountedPart("must be used", "yes: it is there", connected)
    elif e.kind:
        yield CountedPart("must be used", "no: made electrodes add to the others", True)
    yield CountedPart("counts", why, counts)
    says = {True: "yes", False: "no: it stands apart", None: "not said"}[connected]
    yield CountedPart("connected", says, connected)
    row = s.sizes.get(f"{e.id}.gec_size")
    if row is not None:
        needed = f"{tables.size_name(row.needed)} {metal_name(row.needed_material)} needed"
        installed = tables.size_name(row.installed) if row.installed else "not said"
        yield CountedPart("its conductor", f"{installed}; {needed}", row.meets)
    elif e.gec_size:
        yield CountedPart("its conductor", tables.size_name(e.gec_size), None)
    yield from _fittings(e)


def _fittings(e: Electrode) -> Iterator[CountedPart]:
    small = e.gec_size is not None and not tables.is_metric(e.gec_size)
    small = small and tables.area(e.gec_size) < tables.area("6")
    if e.gec_exposed == "yes" and small:
        sleeved = e.gec_sleeve not in (None, "none")
        yield CountedPart("protection", e.gec_sleeve or "none, and under 6 AWG", sleeved)
    elif e.gec_exposed is not None:
        yield CountedPart("protection", "not needed", True)
    else:
        yield CountedPart("protection", "not said", None)
    good = {"none": True, "irreversible": True, "other": False, None: None}[e.gec_splice]
    yield CountedPart("splice", {"other": "can be undone"}.get(e.gec_splice or "",
                      e.gec_splice or "not said"), good)  # fmt: skip
    listed = {"listed": True, "not listed": False, None: None}[e.clamp]
    yield CountedPart("clamp", e.clamp or "not said", listed)
    if e.kind == "water" and e.entry_ft is not None:
        yield CountedPart("from the entry", f"{e.entry_ft:g} ft; 5 ft count", e.entry_ft <= 5)
    yield CountedPart("lands on", e.lands or "not said", None if e.lands is None else True)


def _together(
    study: SiteStudy, electrodes: list[Electrode], rows: tuple[CountedElectrode, ...]
) -> float | None:
    """Those that count (or may) and are connected, all together, Ω."""
    from .. import earth

    filled = study.assumed.site
    used = {r.id for r in rows if r.counts is not False and r.is_connected is not False}
    here = [e for e in filled.electrodes if e.id in used and e.ohm is not None]
    if not here:
        return None
    soil = filled.soil_ohm_m or tables.assumed_number("soil resistivity ohm-m")
    shapes = shapes_on_plan(filled.electrodes)
    placed = [shapes[e.id] for e in here if e.id in shapes]
    apart = [e.ohm for e in here if e.id not in shapes and e.ohm is not None]
    ohms = [earth.sum_of(placed, soil)] if placed else []
    return earth.parallel([*ohms, *apart])


def _pipes(s: Evidence, panel: str, names: dict[str, str]) -> Iterator[CountedElectrode]:
    """The pipes and metal of a building: no electrodes by themselves, but bonded or not."""
    for metal in s.site.metals:
        home = metal.panel if metal.panel and s.is_downstream(metal.panel) else s.at_service
        if home != panel or metal.material == "none":
            continue
        if metal.material == "plastic":
            why, bonded = "plastic: nothing to bond", True
        else:
            why = {"yes": "bonded", "no": "not bonded"}.get(metal.bonded or "", "bonded?")
            bonded = metal.bonded == "yes"
        if metal.past_repair == "yes":
            why, bonded = "a plastic repair cuts it off from its bond", False
        known = metal.bonded is not None or metal.material == "plastic"
        yield CountedElectrode(
            id=metal.id,
            name=names[metal.id],
            kind=metal.kind,
            counts=False,
            why=f"{metal.material or 'metal'} pipe, no electrode here: {why}"
            if metal.kind in ("water", "gas")
            else why,
            is_connected=bonded if known else None,
            ohm=None,
            is_estimate=False,
            parts=tuple(_pipe_parts(s, metal, bonded if known else None, why)),
        )


def _pipe_parts(s: Evidence, metal: Metal, bonded: bool | None, why: str) -> Iterator[CountedPart]:
    yield CountedPart("made of", metal.material or "not said", metal.material is not None or None)
    yield CountedPart("bonded", why, bonded)
    if metal.kind == "water" and metal.material != "plastic":
        needed = water_bond_needed(s, metal)
        size = tables.size_name(metal.bond_size) if metal.bond_size else "not said"
        if needed is not None:
            meets = None
            if metal.bond_size and not tables.is_metric(metal.bond_size):
                meets = tables.area(metal.bond_size) >= tables.area(str(needed.value))
            words = f"{size}; {tables.size_name(str(needed.value))} needed"
            yield CountedPart("its bond", words, meets)
    if metal.shared_main == "yes":
        yield CountedPart(
            "shared main", "carries the neighbors' current; hides a lost neutral", None
        )


def _missing(rows: tuple[CountedElectrode, ...], site: Installation) -> Iterator[str]:
    if not rows:
        yield "no electrode is described: drive two rods, 6 ft apart, or connect what is there"
        return
    used = [r for r in rows if r.counts is not False and r.is_connected is not False]
    for r in rows:
        if r.kind in MUST_BE_USED and r.is_connected is False:
            yield f"{r.name} is there: it must be connected"
    if not used:
        yield "nothing here counts and is connected: two rods, 6 ft apart"
    kinds = [r.kind for r in used]
    if kinds and all(k == "water" for k in kinds):
        yield "a water pipe needs another electrode beside it"


def _schools(rows: tuple[CountedElectrode, ...], s: Evidence) -> tuple[tuple[str, str, bool], ...]:
    """(school, its answer, whether it is followed here) where one rod or plate stands alone."""
    used = [r for r in rows if r.counts is not False and r.is_connected is not False]
    made = [r for r in used if r.kind in ("rod", "plate")]
    others = [r for r in used if r.kind not in ("rod", "plate", "water")]
    if len(made) != 1 or others:
        return ()
    electrode = next(e for e in s.site.electrodes if e.id == made[0].id)
    proved = electrode.proved_ohm
    if proved is None:
        alone = "measure it: 25 Ω or less may stand alone"
    elif proved <= PROVED_OHM:
        alone = f"measured {figures(proved)} Ω: it may stand alone"
    else:
        alone = f"measured {figures(proved)} Ω, over 25: a second one"
    return (
        ("always two", "drive a second one, 6 ft away", s.practice.electrode == "two"),
        ("one proved at 25 Ω", alone, s.practice.electrode == "prove"),
    )
