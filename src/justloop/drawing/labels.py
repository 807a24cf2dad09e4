"""Labels to cut out, at their own size: 96 units are an inch."""

from collections.abc import Sequence

from returnpath.solar import LabelCount

from .scene import Scene

INCH, WIDTH, HEIGHT, MARGIN, GAP = 96, 720, 912, 6, 10
LETTER = 0.66  # of the letters' height, the widest a capital takes
PADDING = 16


def labels_scene(counts: Sequence[LabelCount], one_of_each: bool = False) -> list[Scene]:
    """Sheets with every label as often as it is needed; at least one sheet."""
    sheets = [Scene(WIDTH, HEIGHT, "Labels to cut out")]
    y = float(MARGIN)
    for one in counts:
        lines, size = _lines(one.label.text, one.label.height_in)
        high = len(lines) * size * 1.25 + 2 * PADDING
        for _ in range(1 if one_of_each else one.count):
            if y + high > HEIGHT - MARGIN:
                sheets.append(Scene(WIDTH, HEIGHT, "Labels to cut out"))
                y = float(MARGIN)
            scene = sheets[-1]
            scene.rect("label-box", MARGIN, y, WIDTH - 2 * MARGIN, high, 4)
            for n, line in enumerate(lines):
                at = y + PADDING + size * (1 + 1.25 * n)
                scene.text("label-text", WIDTH / 2, at, line, "middle", font_size=size)
            y += high + GAP
    return sheets


def _lines(text: str, height_in: float) -> tuple[list[str], float]:
    """(the text in lines that fit, the size of its letters): capitals of the height asked for."""
    size = height_in * INCH / 0.7  # a capital is seven tenths of its font's size
    most = int((WIDTH - 2 * MARGIN - 2 * PADDING) / (size * LETTER))
    lines: list[str] = []
    for word in text.split():
        if lines and len(lines[-1]) + 1 + len(word) <= most:
            lines[-1] += f" {word}"
        else:
            lines.append(word)
    return lines, size
