"""An array as it lies on the roof: frames, rails, and every joint of their bonding as a dot."""

from dataclasses import dataclass

from returnpath.site.roof import RAIL_MODULES, is_wired, name_of_frame, name_of_joint, size_of
from returnpath.study.roof import JointStudy, RoofStudy

from .scene import Scene

LEFT, TOP, WIDE_MOST, GAP, ROW_GAP = 92, 22, 86, 8, 40
WIDTH = 812


@dataclass(frozen=True)
class RoofLook:
    """``href`` joint → its own page, the ``chosen`` one, ``odd`` joints with the wrong hardware."""

    href: dict[str, str]
    chosen: JointStudy | None
    odd: set[str]


def roof_scene(roof: RoofStudy, look: RoofLook) -> Scene:
    """The drawing of an array's frames, rails and joints."""
    rows, columns = size_of(roof.array)
    wide = min((WIDTH - LEFT - 60) / columns - GAP, WIDE_MOST)
    high = min(max(wide * 0.62, 30), 52)
    height = TOP + rows * (high + ROW_GAP) + 74
    scene = Scene(WIDTH, round(height), f"Roof: {rows} rows of {columns} modules")
    floats, hangs = set(roof.floating), set(look.chosen.hangs) if look.chosen else set()
    by_part = {j.joint.part: j for j in roof.joints}
    for r in range(1, rows + 1):
        y = TOP + (r - 1) * (high + ROW_GAP)
        scene.text("t-small", 10, y + high / 2 + 4, f"row {r}")
        _rail(scene, by_part, look, r, columns, y + high + 12, wide, is_wired(roof.array))
        for c in range(1, columns + 1):
            x = LEFT + (c - 1) * (wide + GAP)
            frame = f"{r}m{c}"
            names = "frame-good"
            if frame in floats:
                names = "frame-floats"
            elif frame in hangs:
                names = "frame-hangs"
            part = f"frame{frame}"
            state = ", floats" if frame in floats else ""
            scene.open_link(look.href[part], f"{name_of_frame(frame)}: its joint{state}")
            scene.rect(names, x, y, wide, high, 3)
            if wide > 30:
                says = "floats" if frame in floats and wide > 48 else str(c)
                danger = "t-danger-small" if frame in floats else "t-small"
                scene.text(danger, x + wide / 2, y + high / 2 + 4, says, "middle")
            _dot(scene, by_part[part], look, x + wide / 2, y + high + 12, 6)
            scene.close_link()
        if r < rows:
            _jumper(scene, by_part, look, r, y + high + 12, high)
    _below(scene, by_part, look, TOP + high + 12, height)
    return scene


def _dot(scene: Scene, joint: JointStudy, look: RoofLook, x: float, y: float, r: float) -> None:
    chosen = look.chosen
    names = "joint-good"
    if joint.is_open:
        names = "joint-bad"
    elif joint.joint.part in look.odd or joint.ohm > 0.1:
        names = "joint-odd"
    if chosen is not None and chosen.joint.part == joint.joint.part:
        names += " plan-chosen"
    if joint.is_open:  # a shape besides the colour
        scene.rect(names, x - r, y - r, 2 * r, 2 * r, 1)
    else:
        scene.circle(names, x, y, r)


def _rail(
    scene: Scene, by_part, look: RoofLook, r: int, columns: int, y: float, wide: float, wired: bool
) -> None:
    for c in range(1, columns + 1):
        x = LEFT + (c - 1) * (wide + GAP)
        section = (c - 1) // RAIL_MODULES
        splice = by_part.get(f"splice{r}s{section}") if not wired and section else None
        begins = section > 0 and (c - 1) % RAIL_MODULES == 0 and splice is not None
        scene.line("rail", (x, y), (x + wide + (0 if _ends(c) else GAP), y))
        if begins:
            part = splice.joint.part
            scene.open_link(look.href[part], name_of_joint(part))
            scene.line("rail-off" if splice.is_open else "rail", (x - GAP, y), (x, y))
            _dot(scene, splice, look, x - GAP / 2, y, 6)
            scene.close_link()
    if columns:
        scene.line("rail", (LEFT - 14, y), (LEFT, y))


def _ends(column: int) -> bool:
    return column % RAIL_MODULES == 0


def _jumper(scene: Scene, by_part, look: RoofLook, r: int, y: float, high: float) -> None:
    joint = by_part[f"jumper{r}"]
    below = y + high + ROW_GAP
    scene.open_link(look.href[joint.joint.part], name_of_joint(joint.joint.part))
    scene.line("rail-off" if joint.is_open else "gec", (LEFT - 14, y), (LEFT - 14, below))
    _dot(scene, joint, look, LEFT - 14, (y + below) / 2, 7)
    scene.close_link()


def _below(scene: Scene, by_part, look: RoofLook, rail: float, height: float) -> None:
    """The EGC from the first row's rail down: lug, box, disconnect, inverter, panel."""
    y, x = height - 30, 62.0
    scene.line("gec", (LEFT - 14, rail), (x, rail))
    scene.line("gec", (x, rail), (x, y))
    scene.line("gec", (x, y), (WIDTH - 130, y))
    for n, part in enumerate(p for p in ("lug", "box", "disconnect", "inverter") if p in by_part):
        at = x + 60 + n * 160
        scene.open_link(look.href[part], name_of_joint(part))
        _dot(scene, by_part[part], look, at, y, 8)
        scene.text("t-ink-small", at, y - 14, name_of_joint(part), "middle")
        scene.close_link()
    scene.text("t-small", WIDTH - 122, y + 4, "EGC to the panel")
