"""The face of a panel: spaces as they are numbered, breakers in them, two line bars between,
neutral and ground bar below."""

from returnpath.panels import Face, Unit

from .scene import Scene, cut

ROW, GAP, WIDE = 38, 4, 92
NAME_W, BAR_W, EDGE = 142, 14, 10
TOP = 30
LEVELS = {"danger": "space-danger", "fix": "space-fix"}


def face_scene(face: Face, href: dict[str, str], levels: dict[str, str], at: str = "") -> Scene:
    """The drawing: ``href`` circuit → its bench, ``levels`` circuit → the worst found there,
    ``at`` the chosen circuit or panel."""
    rows = (len(face.spaces) + 1) // 2
    bars = BAR_W * face.lines + 8 * (face.lines - 1)
    left, right = EDGE + NAME_W, EDGE + NAME_W + WIDE + 12 + bars + 12
    width = right + WIDE + NAME_W + EDGE
    height = TOP + rows * (ROW + GAP) + 78
    scene = Scene(width, height, f"Face of {face.panel.name or 'the panel'}")
    scene.rect("panel-case", EDGE, 6, width - 2 * EDGE, height - 12, 12)
    for line in range(face.lines):
        x = left + WIDE + 12 + line * (BAR_W + 8)
        names = ("bar-hot", "bar-hot2", "bar-hot2")[line]
        scene.rect(names, x, TOP - 6, BAR_W, rows * (ROW + GAP) + 8, 3)
        scene.text("t-small", x + BAR_W / 2, TOP - 9, f"L{line + 1}", "middle")
    drawn: set[str] = set()
    for space in face.spaces:
        x = left if space.number % 2 else right
        y = TOP + 4 + (space.number - 1) // 2 * (ROW + GAP)
        if space.is_free:
            _free(scene, x, y, space.number)
            continue
        for unit in space.units[:2]:
            if unit.id in drawn:
                continue
            drawn.add(unit.id)
            shared = [s for s in face.spaces if len(s.units) > 1 and unit in s.units]
            half = max((s.units.index(unit) for s in shared), default=0)
            _unit(scene, x, y, space.number, unit, min(half, 1), 1 + bool(shared), href, levels, at)
    _bars_below(scene, face, width, height)
    return scene


def _free(scene: Scene, x: float, y: float, number: int) -> None:
    scene.rect("space-free", x, y, WIDE, ROW, 5)
    scene.text("t-small", x + WIDE - 6 if number % 2 else x + 6, y + 14, str(number),
               "end" if number % 2 else "start")  # fmt: skip


def _unit(
    scene: Scene, x: float, y: float, number: int, unit: Unit, half: int, of: int,
    href: dict[str, str], levels: dict[str, str], at: str,
) -> None:  # fmt: skip
    """One breaker with its handle's figure, and its name beside it."""
    tall = unit.poles * ROW + (unit.poles - 1) * GAP
    wide = WIDE if of == 1 else WIDE / 2 - 2
    x0 = x if half == 0 else x + WIDE / 2 + 2
    look = LEVELS.get(levels.get(unit.id, ""), "space-taken")
    is_left = number % 2 == 1
    scene.open_link(href[unit.id])
    scene.rect(look + (" space-chosen" if unit.id == at else ""), x0, y, wide, tall, 5)
    if half == 0:  # a second breaker in the space has no room for the number again
        scene.text("t-small", x0 + wide - 5 if is_left else x0 + 5, y + 13, str(number),
                   "end" if is_left else "start")  # fmt: skip
    rating = f"{unit.rating_a:g} A" if unit.rating_a else "? A"
    low = y + tall / 2 + 6 if of == 1 else y + tall - 6
    scene.text("t-bold" if of == 1 else "t-small", x0 + wide / 2, low, rating, "middle")
    if of == 1 or half == 0:
        name_x = x - 8 if is_left else x + WIDE + 8
        name = cut(unit.name, 19)
        scene.text("t-bold", name_x, y + tall / 2 + (0 if _more(unit) else 5),
                   name, "end" if is_left else "start")  # fmt: skip
        if more := _more(unit):
            scene.text("t-small", name_x, y + tall / 2 + 16, more, "end" if is_left else "start")
    scene.close_link()


def _more(unit: Unit) -> str:
    """What is said under a name."""
    if unit.is_source:
        return "feeds in"
    return "shares a neutral" if unit.is_multiwire else "feeder" if unit.is_feeder else ""


def _bars_below(scene: Scene, face: Face, width: float, height: float) -> None:
    """Neutral bar, ground bar, and the bond between them as it is."""
    y, middle = height - 40, width / 2
    panel = face.panel
    scene.rect("bar-neutral", EDGE + 20, y, middle - EDGE - 52, 12, 4)
    scene.text("t-small", EDGE + 20, y - 5, "neutral bar")
    if panel.ground_bar != "none":
        scene.rect("bar-ground", middle + 32, y, middle - EDGE - 52, 12, 4)
    words = {"isolated": "ground bar, not on the case", "none": "no ground bar"}
    scene.text("t-small", width - EDGE - 20, y - 5,
               words.get(panel.ground_bar or "", "ground bar"), "end")  # fmt: skip
    said = {"in": "bond in", "out": "bond out"}.get(panel.bond or "", "bond not known")
    if panel.bond == "in":
        scene.rect("bond-in", middle - 32, y, 64, 12)
    elif panel.bond is None:
        scene.rect("bond-unknown", middle - 32, y, 64, 12)
    scene.text("t-small", middle, y + 28, said, "middle")
