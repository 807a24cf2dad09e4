"""A reading against its prediction: a line, the band that fits, a tick where it was read."""

import math

from .scene import Scene

WIDTH, HEIGHT, MIDDLE = 220, 26, 13
ROOM = 1.25


def band_scene(value: float, low: float, high: float, fits: bool, words: str) -> Scene:
    """Shared scale from nothing to a quarter beyond the larger of both; ``high`` may be endless."""
    most = max(value, low if math.isinf(high) else high, 1e-9) * ROOM
    scene = Scene(WIDTH, HEIGHT, words)

    def x(of: float) -> float:
        return round(min(max(of / most, 0.0), 1.0) * (WIDTH - 12) + 6, 1)

    scene.line("band-line", (6, MIDDLE), (WIDTH - 6, MIDDLE))
    left, right = x(low), x(most if math.isinf(high) else high)
    scene.rect("band-fits", left - 2, MIDDLE - 7, max(right - left + 4, 8), 14, 4)
    mark = "band-mark" if fits else "band-mark-off"
    at = x(value)
    if fits:
        scene.line(mark, (at, 3), (at, HEIGHT - 3))
    else:  # by shape too: a tick with a head
        scene.line(mark, (at, 2), (at, HEIGHT - 2))
        scene.line(mark, (at - 5, 2), (at + 5, 2))
    return scene
