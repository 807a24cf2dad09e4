"""The ohm strip: the loop unrolled, a segment a leg, as wide as its share of the ohms."""

from returnpath.study import FaultStudy
from returnpath.working import figures

from .scene import Scene

WIDTH, HEIGHT = 820, 44
LEAST_FOR_FIGURE = 76  # px


def strip_scene(loop: FaultStudy, figured: bool = True) -> Scene:
    """The strip of a loop that is closed; widths by share, figures where they fit.

    Not ``figured`` where it is drawn so small that nobody could read them.
    """
    scene = Scene(WIDTH, HEIGHT, f"{figures(loop.loop_ohm)} Ω round the loop, leg by leg")
    x = 0.0
    total = sum(max(leg.share, 0.0) for leg in loop.legs) or 1.0
    for leg in loop.legs:
        width = max(leg.share, 0.0) / total * WIDTH
        if width < 0.5:
            continue
        scene.rect(_names(leg), x, 2, width, HEIGHT - 4, 3, data_leg=leg.id)
        if figured and width >= LEAST_FOR_FIGURE:
            scene.text(
                "t-seg", x + width / 2, 27, f"{figures(leg.ohm)} Ω", "middle", data_leg=leg.id
            )
        x += width
    return scene


def _names(leg) -> str:
    if leg.id == "soil":
        return "seg-soil"
    if leg.way == "home":
        return "seg-home"
    return "seg-out" if leg.branches else "seg-source"
