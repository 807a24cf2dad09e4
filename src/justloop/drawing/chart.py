"""The time–current chart: the breaker's band, the fault's range, the return's heat limit."""

import math

from returnpath.study import FaultStudy
from returnpath.working import figures

from .scene import Scene

WIDTH, HEIGHT = 326, 300
LEFT, RIGHT, TOP, BOTTOM = 58, 316, 32, 256
SHORTEST_S, LONGEST_S = 0.004, 10_000.0
SAMPLES = 90


class _Axes:
    """Log axes: amperes across, seconds up."""

    def __init__(self, low_a: float, high_a: float):
        self.low, self.high = low_a, high_a

    def x(self, amps: float) -> float:
        amps = min(max(amps, self.low), self.high)
        return LEFT + (RIGHT - LEFT) * math.log(amps / self.low) / math.log(self.high / self.low)

    def y(self, seconds: float) -> float:
        seconds = min(max(seconds, SHORTEST_S), LONGEST_S)
        part = math.log(seconds / SHORTEST_S) / math.log(LONGEST_S / SHORTEST_S)
        return BOTTOM - (BOTTOM - TOP) * part

    def amps(self) -> list[float]:
        step = (self.high / self.low) ** (1 / SAMPLES)
        return [self.low * step**i for i in range(SAMPLES + 1)]


def chart_scene(loop: FaultStudy) -> Scene:
    """The chart of one loop's breaker and fault."""
    device = loop.device
    scene = Scene(WIDTH, HEIGHT, _label(loop))
    top_a = max(loop.highest_a * 1.6, device.rating_a * 30)
    axes = _Axes(device.rating_a, top_a)
    _grid(scene, axes)
    _band(scene, axes, device)
    _fault(scene, axes, loop)
    _heat(scene, axes, loop)
    scene.rect("frame", LEFT, TOP, RIGHT - LEFT, BOTTOM - TOP)
    return scene


def _label(loop: FaultStudy) -> str:
    opens = "may not trip" if math.isinf(loop.slow_s) else f"trips by {figures(loop.slow_s)} s"
    return (
        f"Time against current: {loop.device.rating_a:g} A breaker, fault"
        f" {figures(loop.lowest_a)} to {figures(loop.highest_a)} A, {opens}"
    )


def _grid(scene: Scene, axes: _Axes) -> None:
    for power in range(-2, 5):
        seconds = 10.0**power
        y = axes.y(seconds)
        scene.line("grid", (LEFT, y), (RIGHT, y))
        scene.text("t-axis", LEFT - 6, y + 4, f"{seconds:g}", "end")
    scene.text("t-axis", LEFT - 6, TOP - 12, "seconds", "end")
    last = -100.0
    for amps in (m * 10**p for p in range(5) for m in (1, 2, 5)):
        if axes.low <= amps <= axes.high:
            x = axes.x(amps)
            scene.line("grid", (x, TOP), (x, BOTTOM))
            if x - last > 40 and x < RIGHT - 14:
                scene.text("t-axis", x, BOTTOM + 17, f"{amps:g}", "middle")
                last = x
    scene.text("t-small", RIGHT, BOTTOM + 38, "amperes", "end")


def _edge(axes: _Axes, seconds_of, steps) -> list[tuple[float, float]]:
    """Points of one edge, doubled where it drops."""
    at = sorted({*axes.amps(), *(s for s in steps if axes.low < s < axes.high)})
    points = []
    for amps in at:
        if amps in steps:
            points.append((axes.x(amps), axes.y(seconds_of(amps * (1 - 1e-9)))))
        points.append((axes.x(amps), axes.y(seconds_of(amps))))
    return points


def _band(scene: Scene, axes: _Axes, device) -> None:
    """Filled between the edges; what rests on an assumed magnetic trip is dotted."""
    lo, hi = device.band_lo * device.rating_a, device.band_hi * device.rating_a
    slow = _edge(axes, device.slow_s, [hi])
    fast = _edge(axes, device.fast_s, [lo])
    outline = slow + fast[::-1]
    d = "M" + " L".join(f"{x:.1f} {y:.1f}" for x, y in outline) + " Z"
    scene.path("band", d)
    for points, step in ((slow, hi), (fast, lo)):
        edge_x = axes.x(step) if math.isfinite(step) else RIGHT + 1
        known = [p for p in points if p[0] < edge_x]
        if known:
            scene.line("band-edge", *known)
        rest = [known[-1], *(p for p in points if p[0] >= edge_x)] if known else points
        if len(rest) > 1:
            scene.line("band-assumed" if device.is_assumed else "band-edge", *rest)
    if device.is_assumed:
        late = device.unproved_hi
        tail = _edge(axes, lambda a: device.slow_s(a, late), [late * device.rating_a])
        scene.line("band-assumed", *(p for p in tail if p[0] >= axes.x(hi)))
    scene.text("t-ink-small", LEFT + 8, BOTTOM - 10, f"{device.rating_a:g} A breaker")
    note = "fast to slow; dotted: assumed" if device.is_assumed else "fast to slow"
    scene.text("t-small", LEFT, BOTTOM + 38, note)


def _heat(scene: Scene, axes: _Axes, loop: FaultStudy) -> None:
    home = [h.carrier for h in loop.heat if h.carrier.label in ("EGC",)] or [
        h.carrier for h in loop.heat if h.carrier.label.endswith("wall")
    ]
    if not home or home[0].share <= 0:
        return
    carrier = home[0]

    def limit(amps: float) -> float:
        return carrier.i2t / (amps * carrier.share) ** 2

    points = [
        (axes.x(a), axes.y(limit(a))) for a in axes.amps() if SHORTEST_S <= limit(a) <= LONGEST_S
    ]
    if len(points) > 1:
        scene.line("heat", *points)
        words = f"{carrier.label}’s heat limit"
        width = len(words) * 6.6
        scene.rect("label-ground", RIGHT - 8 - width, TOP + 6, width + 4, 20, 4)
        scene.text("t-moss", RIGHT - 8, TOP + 21, words, "end")


def _fault(scene: Scene, axes: _Axes, loop: FaultStudy) -> None:
    if loop.highest_a < axes.low:
        scene.text("t-ember", LEFT, TOP - 8, f"fault {figures(loop.highest_a)} A: under the rating")
        return
    left, right = axes.x(loop.lowest_a), axes.x(loop.highest_a)
    scene.rect("range", left, TOP, max(right - left, 2), BOTTOM - TOP)
    scene.line("range-edge", (left, TOP), (left, BOTTOM))
    words = f"fault {figures(loop.lowest_a)} to {figures(loop.highest_a)} A"
    half = len(words) * 3.4
    middle = min(max((left + right) / 2, LEFT + half), RIGHT - half)
    scene.text("t-ember", middle, TOP - 8, words, "middle")
    if math.isfinite(loop.slow_s):
        scene.circle("dot", left, axes.y(loop.slow_s), 6)
