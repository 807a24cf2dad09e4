"""The plan to scale: buildings from above, electrodes with their reach, pipes, feeders, the way of
each electrode conductor. North is up; one square is five or ten feet."""

import math
from dataclasses import dataclass
from itertools import pairwise

from returnpath import tables
from returnpath.site import Electrode, Installation
from returnpath.site.plan import Footprint, Plan, Spot, names_on_plan

from .scene import Scene, cut

WIDTH, MOST_HIGH, LEAST_HIGH, EDGE = 812, 430, 300, 26
MOST_PER_FT = 11.0
ENTRY_FT = 5.0
USUAL_ROD_FT = 8.0
LETTER = 7.0  # px a letter takes, at most
DELTA = {"north": (0, 1), "east": (1, 0), "south": (0, -1), "west": (-1, 0)}


@dataclass(frozen=True)
class Frame:
    """How feet become pixels: x = left + (east − x0)·scale, y = bottom − (north − y0)·scale."""

    scale: float
    x0: float
    y0: float
    height: float

    def x(self, east: float) -> float:
        """Pixels from the left."""
        return EDGE + (east - self.x0) * self.scale

    def y(self, north: float) -> float:
        """Pixels from the top."""
        return self.height - EDGE - (north - self.y0) * self.scale

    @property
    def square_ft(self) -> int:
        """Feet of one square of the grid."""
        return 5 if self.scale >= 5 else 10 if self.scale >= 2.2 else 50


@dataclass(frozen=True)
class PlanView:
    """What a plan is drawn from: ``href`` id → its bench, ``levels`` id → the worst found there,
    ``at`` the chosen one."""

    site: Installation
    plan: Plan
    href: dict[str, str]
    levels: dict[str, str]
    at: str = ""


def frame_of(view: PlanView) -> Frame:
    """A frame that holds everything, with the reach of the rods."""
    xs, ys = [0.0, 40.0], [0.0, 26.0]
    for b in view.plan.buildings.values():
        xs += [b.x - 4, b.x + b.wide + 4]
        ys += [b.y - 4, b.y + b.deep + 4]
    for electrode in view.site.electrodes:
        spot = view.plan.spots[electrode.id]
        reach = _reach(electrode)
        xs += [spot.x - reach, spot.x + reach]
        ys += [spot.y - reach, spot.y + reach]
    for metal in view.site.metals:
        spot = view.plan.spots[metal.id]
        xs.append(spot.x)
        ys.append(spot.y)
    wide, high = max(xs) - min(xs), max(ys) - min(ys)
    scale = min((WIDTH - 2 * EDGE) / wide, (MOST_HIGH - 2 * EDGE) / high, MOST_PER_FT)
    height = min(max(high * scale + 2 * EDGE, LEAST_HIGH), MOST_HIGH)
    return Frame(scale, min(xs), min(ys), round(height))


def _reach(electrode: Electrode) -> float:
    return (electrode.length_ft or USUAL_ROD_FT) if electrode.kind == "rod" else 3.0


class _Labels:
    """Puts words where no other words are, and no line where that can be."""

    def __init__(self, scene: Scene, frame: Frame):
        self.scene, self.frame = scene, frame
        self.taken: list[tuple[float, float, float, float]] = []
        self.lines: list[tuple[float, float, float, float]] = []

    def block(self, x: float, y: float, wide: float, high: float) -> None:
        """Nothing is written on this box."""
        self.taken.append((x, y, x + wide, y + high))

    def along(self, a: tuple[float, float], b: tuple[float, float], thick: float = 4.0) -> None:
        """Nothing is written on this line."""
        steps = max(int(math.hypot(b[0] - a[0], b[1] - a[1]) / 7), 1)
        for n in range(steps + 1):
            x, y = a[0] + (b[0] - a[0]) * n / steps, a[1] + (b[1] - a[1]) * n / steps
            half = thick / 2
            self.lines.append((x - half, y - half, x + half, y + half))

    def put(self, names: str, x: float, y: float, text: str, away: float = 9.0) -> None:
        """Beside a point: right, left, above, below, whichever is free first."""
        text = cut(text, 34)
        wide = len(text) * LETTER
        spots = [
            (x + away, y + 4, "start"), (x - away, y + 4, "end"),
            (x, y - away - 2, "middle"), (x, y + away + 12, "middle"),
            (x + away, y + 19, "start"), (x - away, y + 19, "end"),
            (x + away, y - 12, "start"), (x - away, y - 12, "end"),
            (x, y - away - 17, "middle"), (x, y + away + 27, "middle"),
            (x + away, y + 34, "start"), (x - away, y + 34, "end"),
            (x, y + away + 42, "middle"), (x, y - away - 32, "middle"),
            (x + away, y + 49, "start"), (x - away, y + 49, "end"),
            (x + away, y - 27, "start"), (x - away, y - 27, "end"),
        ]  # fmt: skip
        # Where every spot has a line under it, words on a line are better than none.
        tried = [(spot, clear) for clear in (True, False) for spot in spots]
        for (at_x, at_y, anchor), clear in tried:
            left = at_x - {"start": 0.0, "middle": wide / 2, "end": wide}[anchor]
            box = (left, at_y - 12, left + wide, at_y + 4)
            if self._is_free(box, clear):
                self.taken.append(box)
                self.scene.text(names, at_x, at_y, text, anchor)
                return

    def _is_free(self, box: tuple[float, float, float, float], clear: bool) -> bool:
        if box[0] < 4 or box[2] > WIDTH - 4 or box[1] < 4 or box[3] > self.frame.height - 4:
            return False
        kept_off = (*self.taken, *self.lines) if clear else self.taken
        return all(
            box[2] <= t[0] or box[0] >= t[2] or box[3] <= t[1] or box[1] >= t[3] for t in kept_off
        )


def plan_scene(view: PlanView) -> tuple[Scene, Frame]:
    """The drawing and its frame."""
    frame = frame_of(view)
    scene = Scene(WIDTH, frame.height, "Plan from above, north is up")
    scene.rect("ground-soil", 0, 0, WIDTH, frame.height, 8)
    _grid(scene, frame)
    labels = _Labels(scene, frame)
    names = names_on_plan(view.site)
    for id_, building in view.plan.buildings.items():
        _building(scene, frame, labels, view, id_, building, names[id_])
    for electrode in view.site.electrodes:
        _reach_circle(scene, frame, view, electrode)
    feeders = _feeders(scene, frame, labels, view)
    _conductors(scene, frame, labels, view)
    apart = _apart(scene, frame, labels, view)
    metals = [m for m in view.site.metals if m.material != "none"]
    for metal in metals:
        _metal(scene, frame, labels, view, metal, names[metal.id])
    for panel in view.site.panels:
        _panel(scene, frame, labels, view, panel.id, names[panel.id])
    for electrode in view.site.electrodes:
        _electrode(scene, frame, labels, view, electrode)
    # Every shape stands: now the words, where nothing is.
    for classes, x, y, text in apart:
        labels.put(classes, x, y, text, 8)
    for electrode in view.site.electrodes:
        _electrode_name(frame, labels, view, electrode, names[electrode.id])
    for panel in view.site.panels:
        spot = view.plan.spots[panel.id]
        labels.put("t-small", frame.x(spot.x), frame.y(spot.y), names[panel.id], 11)
    for metal in metals:
        spot = view.plan.spots[metal.id]
        labels.put("t-ink-small", frame.x(spot.x), frame.y(spot.y), names[metal.id], 9)
    for x, y, text in feeders:
        labels.put("t-small", x, y, text, 6)
    return scene, frame


def _grid(scene: Scene, frame: Frame) -> None:
    step = frame.square_ft * frame.scale
    x = EDGE - math.floor(EDGE / step) * step
    while x < WIDTH:
        scene.line("plan-grid", (x, 0), (x, frame.height))
        x += step
    y = frame.height - EDGE - math.floor((frame.height - EDGE) / step) * step
    while y < frame.height:
        scene.line("plan-grid", (0, y), (WIDTH, y))
        y += step


def _building(scene, frame, labels, view: PlanView, id_: str, b: Footprint, name: str) -> None:
    x, y = frame.x(b.x), frame.y(b.y + b.deep)
    wide, high = b.wide * frame.scale, b.deep * frame.scale
    scene.open_link(view.href[id_])
    chosen = " plan-chosen" if view.at == id_ else ""
    scene.rect(("plan-guess" if b.is_assumed else "edge") + chosen, x, y, wide, high, 2)
    text = cut(name, max(int(wide / LETTER) - 2, 3))
    scene.text("t-bold", x + 9, y + 20, text)
    scene.close_link()
    labels.block(x + 4, y + 4, len(text) * 8 + 8, 22)
    corners = ((x, y), (x + wide, y), (x + wide, y + high), (x, y + high), (x, y))
    for one, other in pairwise(corners):
        labels.along(one, other, 3)


def _feeders(scene, frame, labels, view: PlanView) -> list[tuple[float, float, str]]:
    """(x, y, words) of the feeders between buildings."""
    found = []
    homes = {p.id: p.building for p in view.site.panels}
    for feeder in view.site.feeders:
        a, b = homes.get(feeder.source), homes.get(feeder.to)
        if a == b or a not in view.plan.buildings or b not in view.plan.buildings:
            continue
        one, other = view.plan.spots[feeder.source], view.plan.spots[feeder.to]
        start, end = (frame.x(one.x), frame.y(one.y)), (frame.x(other.x), frame.y(other.y))
        scene.line("plan-feeder", start, end)
        said = [f"{feeder.length_ft:g} ft" if feeder.length_ft else "length not known"]
        if feeder.cover_in is not None:
            said.append(f"{feeder.cover_in:g} in deep")
        labels.along(start, end)
        found.append(
            ((start[0] + end[0]) / 2, (start[1] + end[1]) / 2, f"feeder, {', '.join(said)}")
        )
    return found


def _conductors(scene, frame, labels, view: PlanView) -> None:
    """Each electrode's conductor: to its panel, or on to the next electrode."""
    spots = view.plan.spots
    fed = {e.goes_on_to: e.id for e in view.site.electrodes if e.goes_on_to}
    for electrode in view.site.electrodes:
        if electrode.joined == "no":
            continue
        home = spots.get(fed.get(electrode.id, "")) or spots.get(electrode.panel)
        here = _middle(view, electrode)
        if home is not None:
            ends = (frame.x(home.x), frame.y(home.y)), (frame.x(here.x), frame.y(here.y))
            scene.line("gec", *ends)
            labels.along(*ends)


def _middle(view: PlanView, electrode: Electrode) -> Spot:
    return view.plan.spots[electrode.id]


def _panel(scene, frame, labels, view: PlanView, id_: str, name: str) -> None:
    spot = view.plan.spots[id_]
    x, y = frame.x(spot.x), frame.y(spot.y)
    scene.open_link(view.href[id_], name)
    names = "space-danger" if view.levels.get(id_) == "danger" else "case-box"
    chosen = " plan-chosen" if view.at == id_ else ""
    scene.rect(names + chosen, x - 8, y - 10, 16, 20, 2, data_place=id_)
    scene.close_link()
    labels.block(x - 9, y - 11, 18, 22)


def _reach_circle(scene, frame, view: PlanView, electrode: Electrode) -> None:
    if electrode.kind != "rod":
        return
    spot = view.plan.spots[electrode.id]
    bad = view.levels.get(electrode.id) in ("danger", "fix")
    radius = (electrode.length_ft or USUAL_ROD_FT) * frame.scale
    names = "plan-reach-bad" if bad else "plan-reach"
    scene.circle(names, frame.x(spot.x), frame.y(spot.y), radius)


def _electrode(scene, frame, labels, view: PlanView, electrode: Electrode) -> None:
    spot = view.plan.spots[electrode.id]
    x, y = frame.x(spot.x), frame.y(spot.y)
    bad = view.levels.get(electrode.id) in ("danger", "fix")
    names = "plan-rod-bad" if bad else "plan-rod"
    chosen = " plan-chosen" if view.at == electrode.id else ""
    scene.open_link(view.href[electrode.id], names_on_plan(view.site)[electrode.id])
    if electrode.kind in ("water", "concrete"):
        kind = "plan-pipe" if electrode.kind == "water" else "plan-steel"
        dx, dy = _along(view, electrode)
        feet = min(electrode.length_ft or 10.0, 60.0)
        far = x + dx * feet * frame.scale, y - dy * feet * frame.scale
        scene.line(kind, (x, y), far)
        labels.along((x, y), far, 10)
        if electrode.kind == "water":  # the first five feet inside, where a connection counts
            back = ENTRY_FT * frame.scale
            scene.line("plan-entry", (x, y), (x - dx * back, y + dy * back))
    elif electrode.kind == "ring":
        radius = (electrode.length_ft or 60.0) / (2 * math.pi) * frame.scale
        scene.circle("plan-steel", x, y, radius)
    scene.circle(names + chosen, x, y, 7, data_place=electrode.id)
    scene.close_link()
    labels.block(x - 8, y - 8, 16, 16)


def _along(view: PlanView, electrode: Electrode) -> tuple[float, float]:
    """The way a pipe or footing runs; a pipe nobody said it of runs away from its building."""
    if electrode.runs:
        return DELTA[electrode.runs]
    return (-1, 0) if electrode.kind == "water" else (1, 0)


def _electrode_name(frame, labels, view: PlanView, electrode: Electrode, name: str) -> None:
    spot = view.plan.spots[electrode.id]
    size = f", {tables.size_name(electrode.gec_size)}" if electrode.gec_size else ""
    names = "t-bold" if view.at == electrode.id else "t-ink-small"
    labels.put(names, frame.x(spot.x), frame.y(spot.y), f"{name}{size}", 10)


def _apart(scene, frame, labels, view: PlanView) -> list[tuple[str, float, float, str]]:
    """Feet between neighbouring rods: (class, x, y, words)."""
    found = []
    spots = view.plan.spots
    rods = [e for e in view.site.electrodes if e.kind == "rod"]
    for n, rod in enumerate(rods):
        others = rods[:n]
        if not others:
            continue
        near = min(others, key=lambda o: view.plan.distance_ft(o.id, rod.id))
        feet = view.plan.distance_ft(near.id, rod.id)
        if feet > 40:
            continue
        a, b = spots[near.id], spots[rod.id]
        scene.line("plan-apart", (frame.x(a.x), frame.y(a.y)), (frame.x(b.x), frame.y(b.y)))
        bad = view.levels.get(rod.id) in ("danger", "fix")
        classes = "t-danger-small" if bad else "t-ember"
        x, y = frame.x((a.x + b.x) / 2), frame.y((a.y + b.y) / 2)
        found.append((classes, x, y, f"{feet:.3g} ft"))
    return found


def _metal(scene, frame, labels, view: PlanView, metal, name: str) -> None:
    spot = view.plan.spots[metal.id]
    x, y = frame.x(spot.x), frame.y(spot.y)
    scene.open_link(view.href[metal.id], name)
    chosen = " plan-chosen" if view.at == metal.id else ""
    dx, dy = DELTA[metal.runs or "west"]
    kind = "plan-plastic" if metal.material in ("plastic", "mixed") else "plan-pipe"
    scene.line(kind, (x, y), (x + dx * 5 * frame.scale, y - dy * 5 * frame.scale))
    scene.rect(f"chip{chosen}", x - 6, y - 6, 12, 12, 2, data_place=metal.id)
    scene.close_link()
    labels.block(x - 7, y - 7, 14, 14)
    labels.along((x, y), (x + dx * 5 * frame.scale, y - dy * 5 * frame.scale), 8)
