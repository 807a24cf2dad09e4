"""The Earth stage: the plan, what counts, a rod's test, the soil."""

from dataclasses import dataclass

from django.utils.safestring import mark_safe

from returnpath import earth
from returnpath.earth.soil import PROBE_SHARES
from returnpath.errors import BadInput
from returnpath.rules.electrode_system import ElectrodeSystem, electrode_systems
from returnpath.site import Electrode, Installation
from returnpath.site.plan import known_spot, names_on_plan, plan_of
from returnpath.study.ground import GroundStudy, ground_study
from returnpath.vocabulary.units import FOOT_M
from returnpath.working import Step, figures

from ..address import Address
from ..drawing.plan import PlanView, plan_scene
from ..drawing.surface import fall_scene, surface_scene
from ..solved import SolvedSite
from .fields import Typed
from .lists import grave_at, levels_by_place
from .panel_view import NamedLink

PARTS = {"": "Plan", "counts": "What counts", "test": "Test a rod", "soil": "Soil"}
STEPS = (("north", "↑", 0, 1), ("west", "←", -1, 0), ("east", "→", 1, 0), ("south", "↓", 0, -1))
MOST_TYPED = 1500


@dataclass(frozen=True)
class PlaceStep:
    """A button that moves the chosen thing by a foot."""

    way: str
    sign: str
    to: str


@dataclass(frozen=True)
class PlaceView:
    """The chosen thing on the plan: where it stands, and how to move it."""

    id: str
    name: str
    at: str
    is_assumed: bool
    steps: tuple[PlaceStep, ...]
    error: str
    text: str


@dataclass(frozen=True)
class PlanBox:
    """The drawing with what its script needs: pixels a foot, the corner's feet, its height."""

    svg: str
    scale: str
    x0: str
    y0: str
    height: int
    edge: int
    square_ft: int


@dataclass(frozen=True)
class CountRow:
    """One electrode with its status, as a list reads it."""

    href: str
    name: str
    says: str
    mark: str
    ohm: str
    is_estimate: bool
    level: str
    parts: tuple[tuple[str, str, str], ...]


@dataclass(frozen=True)
class SystemView:
    """The electrodes of one building."""

    name: str
    rows: tuple[CountRow, ...]
    ohm: str
    missing: tuple[str, ...]
    schools: tuple[tuple[str, str, bool], ...]


@dataclass(frozen=True)
class PoorPath:
    """120 V on one electrode alone: what flows, what the surface has."""

    name: str
    amps: str
    volts: str
    breaker: str
    svg: str
    step: str
    reach: str
    added: tuple[tuple[int, str, str], ...]
    soil: str
    is_assumed: bool


@dataclass(frozen=True)
class RodOption:
    """An electrode that can be tested."""

    id: str
    name: str
    is_chosen: bool


@dataclass(frozen=True)
class TestView:
    """A three-point or clamp test: where the probes go, what was typed, what it says."""

    rods: tuple[RodOption, ...]
    id: str
    name: str
    far: str
    typed: str
    probes: str
    towards: str
    svg: str
    says: str
    is_good: bool
    steps: tuple[Step, ...]
    error: str
    clamp: str
    clamp_says: str
    clamp_good: bool
    can_keep: str


@dataclass(frozen=True)
class SoilView:
    """Four-pin readings and the layers they give."""

    typed: str
    season: str
    seasons: tuple[tuple[str, str], ...]
    figure: str
    says: str
    steps: tuple[Step, ...]
    error: str
    rods: tuple[tuple[str, str, str], ...]
    now: str
    is_assumed: bool
    can_keep: str


@dataclass(frozen=True)
class EarthPage:
    """The Earth stage."""

    part: str
    parts: tuple[NamedLink, ...]
    plan: PlanBox | None
    place: PlaceView | None
    path: PoorPath | None
    systems: tuple[SystemView, ...]
    test: TestView | None
    soil: SoilView | None
    things: tuple[NamedLink, ...]


def earth_page(solved: SolvedSite, found, address: Address, typed: Typed) -> EarthPage:
    """The part of the stage that the address asks for."""
    part = address.show if address.show in PARTS else ""
    site = solved.site
    names = names_on_plan(site)
    return EarthPage(
        part=part,
        parts=tuple(
            NamedLink(words, address.to(show=key, q=""), key == part)
            for key, words in PARTS.items()
        ),
        plan=_plan(solved, found, address) if part == "" else None,
        place=_place(site, address, names, typed) if part == "" else None,
        path=_path(solved, address, names) if part == "" else None,
        systems=_systems(solved, found, address) if part == "counts" else (),
        test=_test(solved, address, names) if part == "test" else None,
        soil=_soil(site, address, typed) if part == "soil" else None,
        things=tuple(
            NamedLink(name, address.to(at=id_), id_ == address.at) for id_, name in names.items()
        ) if part == "" else (),
    )  # fmt: skip


def _plan(solved: SolvedSite, found, address: Address) -> PlanBox:
    site = solved.site
    levels = levels_by_place(found)
    worst = {id_: grave_at(levels, id_) for id_ in site.elements()}
    href = {id_: address.to(at=id_) for id_ in site.elements()}
    scene, frame = plan_scene(PlanView(site, plan_of(site), href, worst, address.at))
    # Scene escapes every text it is given.
    drawn = mark_safe(scene.svg())  # noqa: S308
    return PlanBox(drawn, f"{frame.scale:.4f}", f"{frame.x0:.3f}", f"{frame.y0:.3f}",
                   int(frame.height), 26, frame.square_ft)  # fmt: skip


def _place(site: Installation, address: Address, names: dict, typed: Typed) -> PlaceView | None:
    element = site.elements().get(address.at)
    if element is None or address.at not in names:
        return None
    plan = plan_of(site)
    spot = plan.spots.get(address.at) or plan.buildings.get(address.at)
    known = known_spot(element) is not None
    x, y = round(spot.x), round(spot.y)
    return PlaceView(
        id=address.at,
        name=names[address.at],
        at=f"{x}, {y}",
        is_assumed=not known,
        steps=tuple(PlaceStep(way, sign, f"{x + dx}, {y + dy}") for way, sign, dx, dy in STEPS),
        error=typed.errors.get("place", ""),
        text=typed.text.get("place", ""),
    )


def _chosen_electrode(site: Installation, at: str) -> Electrode:
    """The chosen electrode, else the first rod, else the first of all."""
    chosen = next((e for e in site.electrodes if e.id == at), None)
    rods = [e for e in site.electrodes if e.kind == "rod"]
    return chosen or next(iter(rods), site.electrodes[0])


def _path(solved: SolvedSite, address: Address, names: dict) -> PoorPath | None:
    study = solved.study
    if not study.states:
        return None
    electrode = _chosen_electrode(solved.site, address.at)
    ground: GroundStudy | None = ground_study(study.assumed, study.states[0], electrode.id)
    if ground is None:
        return None
    breaker = "No breaker is known to judge it by."
    if ground.breaker_a is not None:
        rating = f"{ground.breaker_a:g} A"
        breaker = "No breaker trips." if not ground.trips else f"Even so a {rating} one may."
    return PoorPath(
        name=names[electrode.id],
        amps=f"{figures(ground.amps)} A",
        volts=f"{ground.volts:.0f} V",
        breaker=breaker,
        # Scene escapes every text it is given.
        svg=mark_safe(surface_scene(ground).svg()),  # noqa: S308
        step=f"{ground.step_v:.0f} V",
        reach=f"{ground.reach_v:.0f} V",
        added=tuple((r.count, f"{figures(r.ohm)} Ω", f"{figures(r.amps)} A") for r in ground.added),
        soil=f"{ground.soil_ohm_m:g} Ω·m",
        is_assumed=ground.is_soil_assumed,
    )


MARKS = {True: "yes", False: "no", None: "ask"}


def _systems(solved: SolvedSite, found, address: Address) -> tuple[SystemView, ...]:
    levels = levels_by_place(found)
    made = electrode_systems(solved.evidence)
    return tuple(_system(one, address, levels) for one in made)


def _system(one: ElectrodeSystem, address: Address, levels: dict) -> SystemView:
    rows = tuple(
        CountRow(
            href=address.to(at=e.id, tab="facts"),
            name=e.name[:1].upper() + e.name[1:],
            says=e.why,
            mark="pipe" if e in one.pipes else MARKS[e.counts],
            ohm="–" if e.ohm is None or e.counts is False else f"{figures(e.ohm)} Ω",
            is_estimate=e.is_estimate,
            level=grave_at(levels, e.id),
            parts=tuple((p.what, p.says, MARKS[p.met]) for p in e.parts),
        )
        for e in (*one.electrodes, *one.pipes)
    )
    ohm = f"{figures(one.ohm)} Ω" if one.ohm is not None else "–"
    return SystemView(one.name, rows, ohm, one.missing, one.schools)


def _test(solved: SolvedSite, address: Address, names: dict) -> TestView:
    site = solved.site
    electrode = _chosen_electrode(site, address.at)
    plan = plan_of(site)
    at = plan.spots[electrode.id]
    same = [e for e in site.electrodes if e.panel == electrode.panel]
    spread = [plan.distance_ft(e.id, electrode.id) for e in same]
    largest = max([electrode.length_ft or 8.0, *spread])
    others = [(s.x, s.y) for id_, s in plan.spots.items() if id_ != electrode.id]
    line = earth.probe_line((at.x, at.y), min(largest, 400.0), others)
    far, readings, clamp = _split(address.q)
    far = far or f"{line.far_ft:g}"
    try:
        out_ft = min(max(float(far), 1.0), 5000.0)
    except ValueError:
        out_ft = line.far_ft
    svg, says, good, steps, error, keep = "", "", False, (), "", ""
    if readings:
        try:
            points = earth.read_fall(readings)
            test = earth.three_point_test(points, float(far))
            svg = mark_safe(fall_scene(test).svg())  # noqa: S308 - Scene escapes every text
            good = test.ohm is not None
            says = f"{figures(test.ohm)} Ω" if good else "The current probe is too near"
            steps = earth.three_point_working(points, float(far)).steps()
            keep = f"{test.ohm:.4g}" if good else ""
        except (BadInput, ValueError) as wrong:
            error = getattr(wrong, "sentence", "Write the distance in feet: 100.")
    clamp_says, clamp_good = "", False
    if clamp:
        try:
            clamp_says, clamp_good = _clamp(solved, electrode, float(clamp))
        except ValueError:
            error = "Write what the clamp shows, in Ω: 18.5."
        except BadInput as wrong:
            error = wrong.sentence
    return TestView(
        rods=tuple(
            RodOption(e.id, names[e.id], e.id == electrode.id) for e in site.electrodes
        ),
        id=electrode.id, name=names[electrode.id], far=far,
        typed=readings.replace(";", "\n"),
        probes=" · ".join(f"{share * out_ft:.0f} ft" for share in PROBE_SHARES),
        towards=line.towards,
        svg=svg, says=says, is_good=good, steps=tuple(steps), error=error, clamp=clamp,
        clamp_says=clamp_says, clamp_good=clamp_good, can_keep=keep,
    )  # fmt: skip


def _split(text: str) -> tuple[str, str, str]:
    """(current probe's feet, readings, clamp) of an address's ``q``: ``100|52 24;62 25|18``."""
    far, _, rest = text[:MOST_TYPED].partition("|")
    readings, _, clamp = rest.partition("|")
    return far.strip(), readings.strip(), clamp.strip()


def _clamp(solved: SolvedSite, electrode: Electrode, ohm: float) -> tuple[str, bool]:
    """What a clamp on this electrode's conductor reads of, with the way back as computed."""
    study = solved.study
    ground = ground_study(study.assumed, study.states[0], electrode.id) if study.states else None
    rest = ground.rest_ohm if ground else None
    own = ground.ohm if ground else None
    judged = earth.clamp_reading(ohm, rest, own)
    good = judged.most_ohm is not None
    words = f"at most {figures(judged.most_ohm)} Ω: {judged.why}" if good else judged.why
    return words[:1].upper() + words[1:], good


def _soil(site: Installation, address: Address, typed: Typed) -> SoilView:
    season, readings, _ = _split(address.q)
    figure, says, steps, rods, keep = "", "", (), (), ""
    error = typed.errors.get("soil", "")
    if readings.strip():
        try:
            pins = earth.read_pins(readings)
            made, fit = earth.soil_working(pins, season), earth.fit(pins)
        except BadInput as wrong:
            error = wrong.sentence
        else:
            layers = fit.layers
            figure = f"{figures(float(str(made.value)))} Ω·m"
            says = "One layer."
            if fit.is_two and layers.lower_ohm_m and layers.depth_m:
                says = (
                    f"{figures(layers.upper_ohm_m)} Ω·m over {figures(layers.lower_ohm_m)} Ω·m,"
                    f" from {layers.depth_m / FOOT_M:.1f} ft down."
                )
                if not fit.is_depth_known:
                    says += " The depth is not determined by these readings."
            steps, keep = made.steps(), f"{float(str(made.value)):.4g}"
            factor = {s: f for s, f, _ in earth.seasons()}.get(season, 0.0)
            rods = tuple(
                (f"{ft:g} ft", f"{figures(ohm)} Ω", f"{figures(ohm * factor)} Ω" if factor else "")
                for ft, ohm in earth.rods_of(layers)
            )
    soil = site.soil_ohm_m
    return SoilView(
        typed=readings.replace(";", "\n"),
        season=season,
        seasons=tuple((s, w) for s, _, w in earth.seasons()),
        figure=figure,
        says=says,
        steps=tuple(steps),
        error=error,
        rods=rods,
        now=f"{soil:g}" if soil else "100",
        is_assumed=soil is None,
        can_keep=keep,
    )
