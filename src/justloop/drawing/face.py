"""The face of a panel: spaces as they are numbered, breakers in them, two line bars between,
neutral and ground bar below."""

from dataclasses import dataclass

from returnpath.panels import Face, Space, Unit
from returnpath.study import Verdict
from returnpath.words import words

from .map_parts import mark
from .scene import Scene, cut

ROW, GAP, WIDE, HALF_GAP = 38, 4, 92, 2
NAME_W, BAR_W, EDGE = 142, 14, 10
TOP = 30
LEVELS = {"danger": "space-danger", "fix": "space-fix"}


def face_scene(
    face: Face, href: dict[str, str], levels: dict[str, str], verdicts: dict[str, Verdict],
    at: str = "",
) -> Scene:  # fmt: skip
    """The drawing: ``href`` circuit → its bench, ``levels`` circuit → the worst found there,
    ``verdicts`` circuit → its loop's, ``at`` the chosen circuit or panel."""
    rows = face.rows
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
    if face.high_leg:
        scene.text("t-bold", width - EDGE - 14, TOP - 9, f"L{face.high_leg} is the high leg", "end")
    drawn: set[str] = set()
    for space in face.spaces:
        is_left, row = face.place_of(space.number)
        x, y = left if is_left else right, TOP + 4 + row * (ROW + GAP)
        if space.is_free:
            _free(scene, x, y, space.number, is_left)
            continue
        halves = face.halves(space) if _is_shared(space) else {}
        for unit in space.units[:2]:
            if unit.id in drawn:
                continue
            drawn.add(unit.id)
            box = _half_box(x, y, unit, halves[unit.id]) if halves else _whole_box(x, y, unit)
            level = levels.get(unit.id, "")
            chosen = _Look(
                href[unit.id], level, unit.id == at, bool(halves), is_left, verdicts.get(unit.id)
            )
            _unit(scene, box, space.number, unit, chosen)
        if halves:
            _number(scene, x, y, space.number, is_left)
    _bars_below(scene, face, width, height)
    return scene


def _is_shared(space: Space) -> bool:
    """Whether its breakers are half as high as others: a tandem's halves, or two in one space."""
    return len(space.units) > 1 or any(u.is_tandem for u in space.units)


@dataclass(frozen=True)
class _Look:
    """How a breaker is drawn: where it leads, the worst found there, chosen, half as high, in the
    left column, its loop's verdict."""

    href: str
    level: str
    is_chosen: bool
    is_half: bool
    is_left: bool
    verdict: Verdict | None


def _whole_box(x: float, y: float, unit: Unit) -> tuple[float, float, float, float]:
    """(x, y, width, height) of a breaker in spaces of its own."""
    return x, y, WIDE, unit.poles * ROW + (unit.poles - 1) * GAP


def _half_box(
    x: float, y: float, unit: Unit, half: int
) -> tuple[float, float, float, float]:  # fmt: skip
    """The same of a tandem's half; of two tied halves, from the one to the other."""
    high = (ROW - HALF_GAP) / 2
    top = y + half * (high + HALF_GAP)
    tall = high if unit.poles == 1 else (ROW + GAP) * (unit.poles - 1) + high
    if unit.poles > 1 and half == 1:  # lower half of its first space to the upper one of its last
        tall = 2 * high + GAP + (unit.poles - 2) * (ROW + GAP)
    return x, top, WIDE, tall


def _free(scene: Scene, x: float, y: float, number: int, is_left: bool) -> None:
    scene.rect("space-free", x, y, WIDE, ROW, 5)
    _number(scene, x, y, number, is_left)


def _number(scene: Scene, x: float, y: float, number: int, is_left: bool) -> None:
    """A space's number, at its inner edge."""
    scene.text("t-small", x + WIDE - 5 if is_left else x + 5, y + 14, str(number),
               "end" if is_left else "start")  # fmt: skip


def _unit(
    scene: Scene, box: tuple[float, float, float, float], number: int, unit: Unit, look: _Look
) -> None:
    """One breaker with its handle's figure, and its name beside it."""
    x, y, wide, tall = box
    names = LEVELS.get(look.level, "space-taken") + (" space-chosen" if look.is_chosen else "")
    is_left = look.is_left
    scene.open_link(look.href)
    scene.rect(names, x, y, wide, tall, 5)
    if not look.is_half:
        _number(scene, x, y, number, is_left)
    rating = f"{unit.rating_a:g} A" if unit.rating_a else "? A"
    middle = y + tall / 2
    scene.text("t-small" if look.is_half else "t-bold", x + wide / 2,
               middle + (4 if look.is_half else 6), rating, "middle")  # fmt: skip
    if look.verdict is not None and not look.is_half:
        mark(scene, look.verdict, x + 4 if is_left else x + wide - 22, middle - 9)
    name_x, anchor = (x - 8, "end") if is_left else (x + WIDE + 8, "start")
    if look.is_half:
        scene.text("t-small", name_x, middle + 4, cut(unit.name, 21), anchor)
    else:
        more = _more(unit)
        scene.text("t-bold", name_x, middle + (0 if more else 5), cut(unit.name, 18), anchor)
        if more:
            scene.text("t-small", name_x, middle + 16, more, anchor)
    scene.close_link()


MOST_UNDER = 25  # letters under a name


def _more(unit: Unit) -> str:
    """What is said under a name: what it is, its wire, its protection; the wire where there is
    room."""
    what = ""
    if unit.is_source:
        what = "feeds in"
    elif unit.is_pinned:
        what = "stays here"
    elif unit.is_multiwire:
        what = "shares a neutral"
    elif unit.is_feeder:
        what = "feeder"
    whole = ", ".join(filter(None, (what, unit.wire, *unit.protection)))
    return whole if len(whole) <= MOST_UNDER else ", ".join(filter(None, (what, *unit.protection)))


def _bars_below(scene: Scene, face: Face, width: float, height: float) -> None:
    """Neutral bar, ground bar, and the bond between them as it is."""
    y, middle = height - 40, width / 2
    panel = face.panel
    scene.rect("bar-neutral", EDGE + 20, y, middle - EDGE - 52, 12, 4)
    bars = words("bar")
    scene.text("t-small", EDGE + 20, y - 5, bars["neutral"])
    if panel.ground_bar != "none":
        scene.rect("bar-ground", middle + 32, y, middle - EDGE - 52, 12, 4)
    scene.text("t-small", width - EDGE - 20, y - 5,
               bars.get(panel.ground_bar or "", bars["ground"]), "end")  # fmt: skip
    said = words("bond")[panel.bond or ""]
    if panel.bond == "in":
        scene.rect("bond-in", middle - 32, y, 64, 12)
    elif panel.bond is None:
        scene.rect("bond-unknown", middle - 32, y, 64, 12)
    scene.text("t-small", middle, y + 28, said, "middle")
