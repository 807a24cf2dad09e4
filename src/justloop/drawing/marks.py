"""The mark, and the verdict marks drawn from it: a line that leaves, turns and comes home.

24 × 24. A loop with an arrow home; the same with a dotted arrow; a loop with a gap; a broken
loop; a dotted loop.
"""

from functools import cache

from returnpath.study import Verdict

from .scene import Scene

_LOOP = "M15 5 H9 A7 7 0 0 0 9 19 H15"
_ARROW = "M15 19 H21 M18 15.5 L21.5 19 L18 22.5"
_NAMES = {
    Verdict.AT_ONCE: "at-once",
    Verdict.AT_ONCE_IF_ASSUMED: "at-once-if-assumed",
    Verdict.SLOW: "slow",
    Verdict.MAY_NEVER_OPEN: "never",
    Verdict.NOT_KNOWN: "unknown",
}


def mark_paths(verdict: Verdict) -> list[tuple[str, str]]:
    """(class, path) of a verdict's mark, on 24 × 24."""
    if verdict is Verdict.AT_ONCE:
        return [("mark", _LOOP), ("mark-arrow", _ARROW)]
    if verdict is Verdict.AT_ONCE_IF_ASSUMED:
        return [
            ("mark", "M15 5 H9 A7 7 0 0 0 8 18.9"),
            ("mark-dotted", "M12 19 H18"),
            ("mark-arrow", "M18 15.5 L21.5 19 L18 22.5"),
        ]
    if verdict is Verdict.SLOW:
        return [("mark", "M15 5 H9 A7 7 0 0 0 9 19"), ("mark-arrow", "M16 19 H20")]
    if verdict is Verdict.MAY_NEVER_OPEN:
        return [
            ("mark-bad", "M15 5 H9 A7 7 0 0 0 3 9"),
            ("mark-bad", "M7 18.5 Q8 19 9 19 H12 M16 15 L21 21 M21 15 L16 21"),
        ]
    return [("mark-unknown", _LOOP)]


def verdict_scene(verdict: Verdict) -> Scene:
    """The mark of a verdict."""
    scene = Scene(24, 24, str(verdict))
    for names, d in mark_paths(verdict):
        scene.path(names, d)
    return scene


@cache
def verdict_svg(verdict: Verdict, size: int = 24, paper: bool = False) -> str:
    """The mark as SVG; the words beside it say the same, so it is hidden from readers."""
    svg = verdict_scene(verdict).svg(paper)
    name = _NAMES[verdict]
    return svg.replace(
        '<svg xmlns="http://www.w3.org/2000/svg" width="24" height="24"',
        f'<svg xmlns="http://www.w3.org/2000/svg" class="verdict-mark {name}" aria-hidden="true"'
        f' focusable="false" width="{size}" height="{size}"',
    ).replace(f' role="img" aria-label="{verdict}"', "")
