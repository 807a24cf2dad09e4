"""The one source of colour: themes, and what each drawing class looks like.

``stylesheet()`` writes static/justloop/themes.css (``script/palette``); ``literal()`` gives the
attributes of a class on paper, where no stylesheet reaches.
"""

from .palette_ground import GROUND

LIGHT = {
    "paper": "#f5f1e8",
    "card": "#fffdf7",
    "ink": "#1d2730",
    "rule": "#d9d2c2",
    "control": "#857c68",
    "copper": "#a8521c",
    "soil": "#efe6d6",
    "soil-edge": "#7a5c3e",
    "ember": "#d9480f",
    "ochre": "#a86a00",
    "brick": "#9c1c14",
    "moss": "#2f6b3c",
    "ember-text": "#b23808",
    "ochre-text": "#8a5600",
    "brick-text": "#9c1c14",
    "moss-text": "#2a6036",
    "copper-text": "#96481a",
    "muted": "#5b666e",
    "wash": "#f7e9dd",
    "danger-wash": "#f8e7e2",
    "band": "#dcdad2",
    "wire-hot": "#1d2730",
    "wire-hot2": "#b3261e",
    "wire-neutral": "#ffffff",
    "wire-ground": "#2f8a47",
    "wire-steel": "#8d979d",
    "casing": "#5b666e",
    "on-copper": "#ffffff",
}
ATTIC = {
    "paper": "#12171b",
    "card": "#1b2227",
    "ink": "#f3ecdd",
    "rule": "#3a444b",
    "control": "#7d8a92",
    "copper": "#e39a5f",
    "soil": "#2a2119",
    "soil-edge": "#b5895c",
    "ember": "#ff7a38",
    "ochre": "#e2a531",
    "brick": "#ff7d6c",
    "moss": "#6fc485",
    "ember-text": "#ff9660",
    "ochre-text": "#e9b653",
    "brick-text": "#ff9c8e",
    "moss-text": "#86d19a",
    "copper-text": "#eba877",
    "muted": "#a9b4ba",
    "wash": "#2c2620",
    "danger-wash": "#38201d",
    "band": "#3b454c",
    "wire-hot": "#0b0e10",
    "wire-hot2": "#e2574c",
    "wire-neutral": "#f4f1ea",
    "wire-ground": "#4fae68",
    "wire-steel": "#98a4ab",
    "casing": "#b9c2c7",
    "on-copper": "#12171b",
}
PRINT = LIGHT | {
    "paper": "#ffffff",
    "card": "#ffffff",
    "soil": "#f4f0e8",
    "wash": "#f6f2ea",
    "muted": "#4c565d",
}
THEMES = {"light": LIGHT, "attic": ATTIC, "print": PRINT}

#: Pairs (text, ground) that carry text of ordinary size: 4.5 to 1 in every theme, tested.
TEXT_PAIRS = [
    (text, ground)
    for text in (
        "ink",
        "muted",
        "ember-text",
        "ochre-text",
        "brick-text",
        "moss-text",
        "copper-text",
    )
    for ground in ("paper", "card")
] + [
    ("ink", "soil"),
    ("muted", "soil"),
    ("ink", "wash"),
    ("ink", "danger-wash"),
    ("brick-text", "danger-wash"),
    ("copper-text", "wash"),
    ("on-copper", "copper"),
]
#: Pairs that carry strokes, marks and large type: 3 to 1.
STROKE_PAIRS = [
    (stroke, "card")
    for stroke in ("ember", "ochre", "brick", "moss", "copper", "casing", "control", "soil-edge")
] + [("control", "paper"), ("soil-edge", "soil")]

TEXT_FONT = "Atkinson Next"
MONO_FONT = "Atkinson Mono"

#: Drawing classes: attribute → value; a value beginning with @ is a colour of the theme.
CLASSES: dict[str, dict[str, str]] = {
    "edge": {"fill": "@card", "stroke": "@ink", "stroke-width": "2"},
    "thin": {"fill": "none", "stroke": "@rule", "stroke-width": "1"},
    "roof": {"fill": "none", "stroke": "@muted", "stroke-width": "2"},
    "ground-soil": {"fill": "@soil"},
    "floor": {"fill": "none", "stroke": "@soil-edge", "stroke-width": "3"},
    "rod": {"fill": "none", "stroke": "@soil-edge", "stroke-width": "5"},
    "gec": {"fill": "none", "stroke": "@soil-edge", "stroke-width": "2.5"},
    "idle": {"fill": "none", "stroke": "@casing", "stroke-width": "3"},
    "coil": {"fill": "none", "stroke": "@ink", "stroke-width": "2.5"},
    "case-box": {"fill": "@card", "stroke": "@ink", "stroke-width": "2.5"},
    "case-live": {"fill": "@danger-wash", "stroke": "@brick", "stroke-width": "3"},
    "bar-hot": {"fill": "@wire-hot", "stroke": "@casing", "stroke-width": "1.5"},
    "bar-hot2": {"fill": "@wire-hot2", "stroke": "@casing", "stroke-width": "1.5"},
    "bar-neutral": {"fill": "@wire-neutral", "stroke": "@casing", "stroke-width": "1.5"},
    "bar-ground": {"fill": "@wire-ground", "stroke": "@casing", "stroke-width": "1.5"},
    "panel-case": {"fill": "none", "stroke": "@ink", "stroke-width": "2.5"},
    "space-free": {
        "fill": "none",
        "stroke": "@control",
        "stroke-width": "1.5",
        "stroke-dasharray": "4 4",
    },
    "space-taken": {"fill": "@paper", "stroke": "@ink", "stroke-width": "1.8"},
    "space-danger": {"fill": "@danger-wash", "stroke": "@brick", "stroke-width": "3"},
    "space-fix": {
        "fill": "@paper",
        "stroke": "@ochre",
        "stroke-width": "2.6",
        "stroke-dasharray": "7 3",
    },
    "space-chosen": {"stroke": "@ember", "stroke-width": "4", "stroke-dasharray": "none"},
    "bond-in": {"fill": "@copper"},
    "bond-unknown": {
        "fill": "none",
        "stroke": "@copper",
        "stroke-width": "2",
        "stroke-dasharray": "4 3",
    },
    "lever": {"fill": "@card", "stroke": "@ink", "stroke-width": "1.5"},
    "lever-on": {"fill": "@ink"},
    "bridge": {"fill": "@copper"},
    "gap": {"fill": "none", "stroke": "@brick", "stroke-width": "3", "stroke-dasharray": "3 4"},
    "stub": {"fill": "@copper"},
    "loop-casing": {
        "fill": "none",
        "stroke": "@ember",
        "stroke-width": "11",
        "stroke-linejoin": "round",
        "stroke-linecap": "round",
    },
    "core-hot": {"fill": "none", "stroke": "@wire-hot", "stroke-width": "5"},
    "core-hot2": {"fill": "none", "stroke": "@wire-hot2", "stroke-width": "5"},
    "core-neutral": {
        "fill": "none",
        "stroke": "@wire-neutral",
        "stroke-width": "5",
        "stroke-dasharray": "10 4",
    },
    "core-ground": {
        "fill": "none",
        "stroke": "@wire-ground",
        "stroke-width": "5",
        "stroke-dasharray": "10 4",
    },
    "core-steel": {
        "fill": "none",
        "stroke": "@wire-steel",
        "stroke-width": "5",
        "stroke-dasharray": "3 3",
    },
    "wire-casing": {"fill": "none", "stroke": "@casing", "stroke-width": "6"},
    "wire-hot-thin": {"fill": "none", "stroke": "@wire-hot", "stroke-width": "3"},
    "wire-hot2-thin": {"fill": "none", "stroke": "@wire-hot2", "stroke-width": "3"},
    "wire-neutral-thin": {"fill": "none", "stroke": "@wire-neutral", "stroke-width": "3"},
    "wire-ground-thin": {"fill": "none", "stroke": "@wire-ground", "stroke-width": "3"},
    "wire-steel-thin": {"fill": "none", "stroke": "@wire-steel", "stroke-width": "3"},
    "gec-lit": {"fill": "none", "stroke": "@ember", "stroke-width": "4"},
    "gap-quiet": {
        "fill": "none",
        "stroke": "@casing",
        "stroke-width": "2",
        "stroke-dasharray": "2 4",
    },
    "bridge-lit": {"fill": "@ember"},
    "bar-apart": {
        "fill": "@card",
        "stroke": "@brick",
        "stroke-width": "2",
        "stroke-dasharray": "4 3",
    },
    "lever-rest": {"fill": "@casing"},
    "post": {"fill": "@card", "stroke": "@casing", "stroke-width": "1.5"},
    "chosen": {
        "fill": "none",
        "stroke": "@copper",
        "stroke-width": "3",
        "stroke-dasharray": "7 4",
    },
    "row-box": {"fill": "@card", "stroke": "@rule", "stroke-width": "1"},
    "chip": {"fill": "@card", "stroke": "@soil-edge", "stroke-width": "1.5"},
    "chip-lit": {"fill": "@card", "stroke": "@ember", "stroke-width": "3"},
    "chip-apart": {
        "fill": "@card",
        "stroke": "@brick",
        "stroke-width": "1.5",
        "stroke-dasharray": "4 3",
    },
    "cell": {"fill": "@ink"},
    "soil-path": {
        "fill": "none",
        "stroke": "@soil-edge",
        "stroke-width": "2",
        "stroke-dasharray": "2 6",
        "stroke-linecap": "round",
    },
    "pill": {"fill": "@card", "stroke": "@ember", "stroke-width": "1.5"},
    "pill-soil": {"fill": "@card", "stroke": "@soil-edge", "stroke-width": "1.5"},
    "spark": {"fill": "@ember"},
    "card-title": {
        "fill": "@ink",
        "font-size": "32",
        "font-weight": "700",
        "font-family": TEXT_FONT,
    },
    "card-name": {
        "fill": "@ink",
        "font-size": "18",
        "font-weight": "700",
        "font-family": TEXT_FONT,
    },
    "card-number": {
        "fill": "@ink",
        "font-size": "18",
        "font-weight": "700",
        "font-family": MONO_FONT,
    },
    "card-line": {"fill": "@ink", "font-size": "15", "font-family": TEXT_FONT},
    "card-rule": {"fill": "none", "stroke": "@ink", "stroke-width": "1.2"},
    "t": {"fill": "@ink", "font-size": "13", "font-family": TEXT_FONT},
    "t-bold": {
        "fill": "@ink",
        "font-size": "14",
        "font-weight": "700",
        "font-family": TEXT_FONT,
    },
    "t-small": {"fill": "@muted", "font-size": "12", "font-family": TEXT_FONT},
    "t-ink-small": {"fill": "@ink", "font-size": "12", "font-family": TEXT_FONT},
    "t-danger": {
        "fill": "@brick-text",
        "font-size": "14",
        "font-weight": "700",
        "font-family": TEXT_FONT,
    },
    "t-danger-small": {
        "fill": "@brick-text",
        "font-size": "12",
        "font-weight": "700",
        "font-family": TEXT_FONT,
    },
    "t-fix": {
        "fill": "@ochre-text",
        "font-size": "12",
        "font-weight": "700",
        "font-family": TEXT_FONT,
    },
    "t-post": {
        "fill": "@ink",
        "font-size": "22",
        "font-weight": "700",
        "font-family": MONO_FONT,
    },
    "t-danger-big": {
        "fill": "@brick-text",
        "font-size": "22",
        "font-weight": "700",
        "font-family": MONO_FONT,
    },
    "t-amps": {
        "fill": "@ember-text",
        "font-size": "14",
        "font-weight": "700",
        "font-family": MONO_FONT,
    },
    "t-soil": {
        "fill": "@ink",
        "font-size": "13",
        "font-weight": "700",
        "font-family": MONO_FONT,
    },
    "t-axis": {"fill": "@muted", "font-size": "12", "font-family": MONO_FONT},
    "t-moss": {
        "fill": "@moss-text",
        "font-size": "12",
        "font-weight": "700",
        "font-family": TEXT_FONT,
    },
    "t-ember": {
        "fill": "@ember-text",
        "font-size": "12",
        "font-weight": "700",
        "font-family": TEXT_FONT,
    },
    "assumed-line": {
        "fill": "none",
        "stroke": "@muted",
        "stroke-width": "1.5",
        "stroke-dasharray": "1.5 2.5",
    },
    "label-ground": {"fill": "@card"},
    "frame": {"fill": "none", "stroke": "@casing", "stroke-width": "1"},
    "grid": {"fill": "none", "stroke": "@rule", "stroke-width": "1"},
    "band": {"fill": "@band"},
    "band-edge": {"fill": "none", "stroke": "@ink", "stroke-width": "1.8"},
    "band-assumed": {
        "fill": "none",
        "stroke": "@ink",
        "stroke-width": "1.8",
        "stroke-dasharray": "2 3.5",
    },
    "range": {"fill": "@ember", "fill-opacity": "0.22"},
    "range-edge": {"fill": "none", "stroke": "@ember", "stroke-width": "2.5"},
    "heat": {"fill": "none", "stroke": "@moss", "stroke-width": "2.5", "stroke-dasharray": "8 4"},
    "dot": {"fill": "@ember", "stroke": "@card", "stroke-width": "2"},
    "seg-out": {"fill": "@ink", "stroke": "@card", "stroke-width": "2"},
    "seg-home": {"fill": "@moss", "stroke": "@card", "stroke-width": "2"},
    "seg-source": {"fill": "@muted", "stroke": "@card", "stroke-width": "2"},
    "seg-soil": {"fill": "@soil-edge", "stroke": "@card", "stroke-width": "2"},
    "t-seg": {
        "fill": "@card",
        "font-size": "13",
        "font-weight": "700",
        "font-family": MONO_FONT,
    },
    "mark": {
        "fill": "none",
        "stroke": "@ink",
        "stroke-width": "3",
        "stroke-linecap": "round",
        "stroke-linejoin": "round",
    },
    "mark-arrow": {
        "fill": "none",
        "stroke": "@ember",
        "stroke-width": "3",
        "stroke-linecap": "round",
        "stroke-linejoin": "round",
    },
    "mark-dotted": {
        "fill": "none",
        "stroke": "@ember",
        "stroke-width": "3",
        "stroke-dasharray": "0.5 4.5",
        "stroke-linecap": "round",
    },
    "mark-bad": {
        "fill": "none",
        "stroke": "@brick",
        "stroke-width": "3",
        "stroke-linecap": "round",
        "stroke-linejoin": "round",
    },
    "mark-unknown": {
        "fill": "none",
        "stroke": "@muted",
        "stroke-width": "3",
        "stroke-dasharray": "0.5 5",
        "stroke-linecap": "round",
    },
}
CLASSES |= GROUND


def literal(names: str, theme: str = "print") -> dict[str, str]:
    """The attributes of the classes ``names``, colours written out."""
    colours = THEMES[theme]
    found: dict[str, str] = {}
    for name in names.split():
        for attribute, value in CLASSES.get(name, {}).items():
            found[attribute] = colours[value[1:]] if value.startswith("@") else value
    return found


def stylesheet() -> str:
    """The themes as CSS variables, and the drawing classes."""
    parts = ["/* Written by script/palette from drawing/palette.py. */"]
    for theme, colours in (("light", LIGHT), ("attic", ATTIC)):
        selector = ":root" if theme == "light" else f':root[data-theme="{theme}"]'
        body = "".join(f"--{k}:{v};" for k, v in colours.items())
        parts.append(f"{selector}{{{body}}}")
    dark = "".join(f"--{k}:{v};" for k, v in ATTIC.items())
    parts.append(f'@media (prefers-color-scheme:dark){{:root[data-theme="system"]{{{dark}}}}}')
    printed = "".join(f"--{k}:{v};" for k, v in PRINT.items())
    parts.append(f"@media print{{:root,:root[data-theme]{{{printed}}}}}")
    for name, attributes in CLASSES.items():
        body = "".join(f"{k}:{_css(k, v)};" for k, v in attributes.items())
        parts.append(f"svg .{name}{{{body}}}")
    return "\n".join(parts) + "\n"


def _css(attribute: str, value: str) -> str:
    if value.startswith("@"):
        return f"var(--{value[1:]})"
    if attribute == "font-size":
        return f"{value}px"
    if attribute == "font-family":
        return f'"{value}",sans-serif' if value == TEXT_FONT else f'"{value}",monospace'
    return value


def contrast(one: str, other: str) -> float:
    """Contrast ratio of two #rrggbb colours (WCAG 2)."""

    def luminance(colour: str) -> float:
        channels = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
        linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in channels]
        return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]

    light, dark = sorted((luminance(one), luminance(other)), reverse=True)
    return (light + 0.05) / (dark + 0.05)
