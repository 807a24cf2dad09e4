"""A panel's directory for its door, to be read at arm's length: every space with its full name."""

import textwrap
from dataclasses import dataclass

from returnpath.panels import Face, Space, Unit

from .scene import Scene, cut

WIDE, CELL, EDGE = 760, 36, 16
NUMBER_W = 78
MOST_LETTERS = 22  # of a name as large as that; a longer one takes two smaller lines
SMALL_LETTERS = 30
LINE_LETTERS = 104  # of a line of small print


@dataclass(frozen=True)
class CardWords:
    """What stands above and below the spaces: the panel, the lines under it, the small print."""

    title: str
    under: tuple[str, ...] = ()
    small: tuple[str, ...] = ()


def door_card_scene(face: Face, words: CardWords | None = None) -> Scene:
    """The card: odd spaces on the left, even ones on the right, as they are in the panel."""
    rows = face.rows
    below = words.small if words else ()
    small = [line for text in below for line in textwrap.wrap(text, LINE_LETTERS)]
    top = 0 if words is None else 52 + 22 * len(words.under)
    height = top + EDGE + rows * CELL + EDGE + 18 * len(small)
    scene = Scene(WIDE, height, f"Directory of {face.panel.name or 'the panel'}")
    if words is not None:
        scene.text("card-title", EDGE, 38, cut(words.title, 42))
        for n, line in enumerate(words.under):
            scene.text("card-line", EDGE, 66 + 22 * n, cut(line, 92))
    drawn: set[str] = set()
    for space in face.spaces:
        is_left, row = face.place_of(space.number)
        x, y = EDGE if is_left else WIDE / 2, top + row * CELL
        _cell(scene, x, y, face, space, drawn)
    bottom = top + rows * CELL
    for x in (EDGE, WIDE / 2, WIDE - EDGE):
        scene.line("card-rule", (x, top), (x, bottom))
    scene.line("card-rule", (EDGE, top), (WIDE - EDGE, top))
    scene.line("card-rule", (EDGE, bottom), (WIDE - EDGE, bottom))
    for n, line in enumerate(small):
        scene.text("t-small", EDGE, bottom + EDGE + 12 + 18 * n, line)
    return scene


def _cell(scene: Scene, x: float, y: float, face: Face, space: Space, drawn: set[str]) -> None:
    wide = WIDE / 2 - EDGE
    new = [u for u in space.units if u.id not in drawn]
    drawn.update(u.id for u in new)
    if not space.units or new:
        scene.line("card-rule", (x, y), (x + wide, y))
    if space.is_free:
        scene.text("card-number", x + 8, y + 25, str(space.number))
        scene.text("card-line", x + NUMBER_W, y + 24, "spare")
    elif len(space.units) > 1:
        halves = face.halves(space)
        scene.text("card-number", x + 8, y + 25, str(space.number))
        for unit in new:
            row = y + 15 + 16 * halves[unit.id]
            scene.text("card-line", x + NUMBER_W, row, f"{cut(unit.name, 34)}  {_rating(unit)}")
    else:
        for unit in new:
            _whole(scene, x, y, unit)


def _whole(scene: Scene, x: float, y: float, unit: Unit) -> None:
    numbers = "–".join(dict.fromkeys((str(unit.spaces[0]), str(unit.spaces[-1]))))
    middle = y + CELL * unit.poles / 2
    scene.text("card-number", x + 8, middle + 7, numbers)
    note = "feeds in" if unit.is_source else "shares a neutral" if unit.is_multiwire else ""
    lines = textwrap.wrap(f"{unit.name}{f' ({note})' if note else ''}", SMALL_LETTERS)
    if len(unit.name) <= MOST_LETTERS:
        scene.text("card-name", x + NUMBER_W, middle + (1 if note else 6), unit.name)
        if note:
            scene.text("t-small", x + NUMBER_W, middle + 15, note)
    elif len(lines) == 1:
        scene.text("card-line", x + NUMBER_W, middle + 6, lines[0])
    else:
        rest = cut(" ".join(lines[1:]), SMALL_LETTERS)
        scene.text("card-line", x + NUMBER_W, middle - 3, lines[0])
        scene.text("card-line", x + NUMBER_W, middle + 14, rest)
    scene.text("card-line", x + WIDE / 2 - EDGE - 8, middle + 6, _rating(unit), "end")


def _rating(unit: Unit) -> str:
    return f"{unit.rating_a:g} A" if unit.rating_a else "? A"
