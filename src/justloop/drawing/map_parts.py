"""The parts of the map: sources, panels, bonds, electrodes, other metal, arrays."""

from collections import Counter

from returnpath import tables
from returnpath.site.branches import lines_of
from returnpath.site.lengths import IN_ZE, run_length
from returnpath.study import Verdict
from returnpath.working import figures

from . import layout as at
from .layout import Column, Layout
from .marks import mark_paths
from .scene import Scene, cut

CHAR = 6.1  # the width of a small letter, px
ELECTRODE_WORDS = {
    "rod": "rod", "concrete": "footing steel", "water": "water pipe", "ring": "ring",
    "plate": "plate", "several": "several kinds", None: "not described",
}  # fmt: skip
METAL_WORDS = {"water": "water pipe", "gas": "gas pipe", "structure": "frame",
               "pool": "pool", "other": "metal", None: "metal"}  # fmt: skip


def words(scene: Scene, view, names, x, y, text, paths, anchor="middle") -> None:
    """Text, dotted under where any of ``paths`` is assumed."""
    scene.text(names, x, y, text, anchor)
    if all(view.is_known(p) for p in paths):
        return
    width = len(text) * CHAR
    left = {"middle": x - width / 2, "start": x, "end": x - width}[anchor]
    scene.line("assumed-line", (left, y + 4), (left + width, y + 4))


def label(scene: Scene, names: str, x: float, y: float, text: str) -> None:
    """Small text on a ground of its own, where wires pass behind it."""
    scene.rect("label-ground", x - 2, y - 12, len(text) * 6.4 + 4, 15, 2)
    scene.text(names, x, y, text)


def soil(scene: Scene, placed: Layout) -> None:
    """The earth under the floor."""
    scene.rect("ground-soil", 0, placed.floor_y, placed.width, placed.height - placed.floor_y)
    scene.line("floor", (0, placed.floor_y), (placed.width, placed.floor_y))


def roofs(scene: Scene, view, placed: Layout) -> None:
    """A roof line over the panels of each building, with its name."""
    buildings = {b.id: b for b in placed.site.buildings}
    for building, left, right in placed.roofs:
        a, b = left - 8, right - 2
        scene.line("roof", (a, 34), (a, 26), ((a + b) / 2, 10), (b, 26), (b, 34))
        element = buildings.get(building)
        if element is None:
            continue
        scene.open_link(view.href[element.id])
        room = max(int((b - a - 10) / 6.6), 5)
        scene.text("t-ink-small", (a + b) / 2, 42, cut(element.name or "Building", room), "middle")
        scene.close_link()


def sources(scene: Scene, view, placed: Layout) -> None:
    """The utility's coil and whatever else can feed the place, and the words of the service."""
    site = placed.site
    for number, unit in enumerate(site.supplies):
        scene.open_link(view.href[unit.id])
        if number == 0:
            _coil(scene)
            scene.text("t-bold", 20, 54, cut(unit.name or "Utility", 20))
            kva = f"{unit.kva:g} kVA" if unit.kva else "source not known"
            if unit.ze_ohm is not None:
                kva = f"{unit.earthing or ''} Ze {unit.ze_ohm:g} Ω".strip()
            words(scene, view, "t-small", 20, 72, kva, [f"{unit.id}.kva"], "start")
            if unit.percent_z:
                text = f"{unit.percent_z:g} %Z"
                words(scene, view, "t-small", 20, 88, text, [f"{unit.id}.percent_z"], "start")
        else:
            y = at.source_points(number)["top"][1]
            scene.rect("edge", 14, y - 12, 90, 42, 6)
            name = unit.name or (unit.kind or "source").capitalize()
            scene.text("t-ink-small", 59, y + 6, cut(name, 13), "middle")
            text = f"{unit.kva:g} kVA" if unit.kva else "? kVA"
            scene.text("t-small", 59, y + 22, text, "middle")
        scene.close_link()
    _utility_earth(scene, site, placed)
    _service_words(scene, view, site)


def _coil(scene: Scene) -> None:
    for top in (at.COIL_TOP, at.TAP_Y):
        step = (at.TAP_Y - at.COIL_TOP) / 3
        arcs = "".join(f" a9 {step / 2:.1f} 0 0 0 0 {step:.1f}" for _ in range(3))
        scene.path("coil", f"M{at.COIL_X} {top}{arcs}")
    x = at.COIL_X - 34
    scene.line("coil", (x, at.COIL_TOP), (x, at.COIL_BOTTOM))


def coil_lit(scene: Scene, view, look) -> None:
    """The half of the coil that drives the fault."""
    site = view.study.assumed.site
    if look.loop is None or look.loop.state != site.supply.id or not look.loop.lowest_a:
        return
    leg = look.loop.basis.low.leg if look.loop.basis else 1
    top, bottom = (at.COIL_TOP, at.TAP_Y) if leg == 1 else (at.TAP_Y, at.COIL_BOTTOM)
    scene.path("loop-casing", f"M{at.COIL_X} {bottom} V{top}", data_leg=site.supply.id)


def _utility_earth(scene: Scene, site, placed: Layout) -> None:
    unit, floor = site.supply, placed.floor_y
    scene.line("idle", (at.TAP_OUT_X, at.TAP_Y), (at.TAP_OUT_X - 14, at.TAP_Y),
               (at.TAP_OUT_X - 14, 256), (124, 256), (124, floor))  # fmt: skip
    scene.line("rod", (124, floor), (124, floor + 40))
    ohms = unit.earth_ohm
    scene.text("t-small", 20, floor + 60, "utility earth")
    text = f"{figures(ohms)} Ω" if ohms is not None else "0.2 or 25 Ω"
    scene.text("t-small", 20, floor + 76, text)
    if ohms is None:
        scene.line("assumed-line", (20, floor + 80), (20 + len(text) * CHAR, floor + 80))


def _service_words(scene: Scene, view, site) -> None:
    run = site.service
    if run.line_size is None:
        return
    metal = "Al" if run.line_material == "aluminium" else "Cu"
    scene.open_link(view.href[run.id])
    sets = f"{run.sets} × " if (run.sets or 1) > 1 else ""
    words(
        scene,
        view,
        "t-small",
        152,
        72,
        f"{sets}{short_size(run.line_size)} {metal}",
        [f"{run.id}.line_size"],
    )
    kind = "drop" if run.run == "overhead" else "lateral"
    paths = [f"{run.id}.length_ft", f"{run.id}.run"]
    length = run_length(run)
    run_words = length if length == IN_ZE else f"{length} {kind}"
    words(scene, view, "t-small", 152, 88, run_words, paths)
    if run.neutral_size:
        text = f"neutral {short_size(run.neutral_size)}"
        words(scene, view, "t-small", 170, at.NEUTRAL_Y + 26, text, [f"{run.id}.neutral_size"])
    scene.close_link()


def short_size(size) -> str:
    """A size as a drawing has room for it: AWG bare, square millimetres with their unit."""
    return tables.size_name(size) if tables.is_metric(size) else str(size)


def panel(scene: Scene, view, placed: Layout, column: Column, look) -> None:
    """A panel: open with bars and levers, or a folded post."""
    element = next(p for p in placed.site.panels if p.id == column.id)
    scene.open_link(view.href[column.id])
    if column.is_open:
        _open_panel(scene, view, element, column)
    else:
        _post(scene, view, placed, element, column)
    if view.at == column.id:
        left, top = column.left - 4, at.PANEL_TOP - 4
        width, height = column.right - column.left + 8, at.PANEL_BOTTOM - at.PANEL_TOP + 8
        scene.rect("chosen", left, top, width, height, 10)
    scene.close_link()


MOST_BREAKERS = 42  # more are not told apart
BREAKER_W, BREAKERS_Y, BREAKERS_H = 12, 162, 30


def _breakers(scene: Scene, column: Column, count: int) -> None:
    """As many levers as the panel has breakers, in one row or, of many, in two or three."""
    count = min(count, MOST_BREAKERS)
    rows = 1 if count <= 8 else 2 if count <= 22 else 3
    each = max(-(-count // rows), 4)
    pitch = (column.bar_right - column.bar_left) / each
    wide, tall = min(BREAKER_W, pitch - 2), (BREAKERS_H - 3 * (rows - 1)) / rows
    for n in range(count):
        row, place = divmod(n, each)
        x = column.bar_left + pitch * (place + 0.5)
        y = BREAKERS_Y + row * (tall + 3)
        scene.rect("lever", x - wide / 2, y, wide, tall, 2)
        scene.rect("lever-rest", x - wide / 4, y + tall * 0.6, wide / 2, tall * 0.3, 1)


def _open_panel(scene: Scene, view, element, column: Column) -> None:
    x, left, right = column.middle, column.left, column.right
    scene.text("t-bold", x, 58, cut(element.name or "Panel", 17), "middle")
    rating = f"{element.main.rating_a:g} A main" if element.main.rating_a else "no main"
    words(scene, view, "t-small", x, 75, rating, [f"{column.id}.main.rating_a"])
    scene.rect("edge", left, at.PANEL_TOP, right - left, at.PANEL_BOTTOM - at.PANEL_TOP, 8)
    length = column.bar_right - column.bar_left
    lines = lines_of(view.study.assumed.site)
    for n in range(1, lines + 1):
        name = "bar-hot" if n == 1 else "bar-hot2"
        scene.rect(name, column.bar_left, at.LINE_Y[n] - 4, length, 8, 2)
    site = view.study.assumed.site  # the whole one: a map of the service alone leaves feeders out
    breakers = [c for c in site.circuits if c.panel == column.id]
    feeders = [f for f in site.feeders if f.source == column.id]
    _breakers(scene, column, len(breakers) + len(feeders))
    scene.rect("bar-neutral", column.bar_left, at.NEUTRAL_Y - 5, length, 10, 3)
    apart = element.ground_bar == "isolated"
    name = "bar-apart" if apart else "bar-ground"
    scene.rect(name, column.bar_left, at.GROUND_Y - 5, length, 10, 3)


def _post(scene: Scene, view, placed: Layout, element, column: Column) -> None:
    x, left, right = column.middle, column.left, column.right
    scene.text("t-ink-small", x, 75, cut(element.name or "Panel", 11), "middle")
    scene.rect("post", left, at.PANEL_TOP, right - left, at.PANEL_BOTTOM - at.PANEL_TOP, 8)
    count = Counter(c.panel for c in placed.site.circuits)[column.id]
    scene.text("t-post", x, 130, str(count), "middle")
    scene.text("t-small", x, 148, "circuit" if count == 1 else "circuits", "middle")
    loops = [f for f in view.study.loops.values() if f.circuit and f.circuit.panel == column.id]
    order = list(Verdict)
    if loops:
        worst = max(loops, key=lambda f: order.index(f.verdict)).verdict
        mark(scene, worst, x - 12, 164, 24)
    level = view.worst.get(column.id, "")
    if level in ("danger", "fix", "check"):
        names = {"danger": "t-danger", "fix": "t-fix", "check": "t-small"}[level]
        scene.text(names, x, 210, level, "middle")
    if element.bond == "in" and not column.is_open:
        scene.rect("bridge", x - 5, 272, 10, 22)
        scene.text("t-small", x, 309, "bonded", "middle")


def mark(scene: Scene, verdict, x: float, y: float, size: float = 18) -> None:
    """A verdict's mark inside the map."""
    scale = size / 24
    for names, d in mark_paths(verdict):
        scene.path(names, d, transform=f"translate({x:g} {y:g}) scale({scale:g})")


def bond(scene: Scene, view, column: Column, look) -> None:
    """The bond: a copper bridge when in, a visible gap when out, a question when not known."""
    if not column.is_open:
        return
    element = next(p for p in view.study.assumed.site.panels if p.id == column.id)
    x = column.bond_x
    top, bottom = at.NEUTRAL_Y + 5, at.GROUND_Y - 5
    label(scene, "t-small", column.bar_left, at.NEUTRAL_Y - 11, "neutral")
    apart = element.ground_bar == "isolated"
    text = "off the enclosure" if apart else "ground"
    label(scene, "t-danger-small" if apart else "t-small", column.bar_left, at.GROUND_Y + 21, text)
    if element.grounds_on_neutral == "yes":
        scene.rect("bridge", column.bar_right - 14, top, 6, bottom - top)
    if element.bond == "in":
        branch = f"{column.id}.bond"
        least = look.least_a if look.kind == "fault" else 0.01
        if look.kind != "touch" and look.of((branch,)) >= least:
            scene.rect("bridge-lit", x - 9, top - 2, 18, bottom - top + 4, data_leg=branch)
        scene.rect("bridge", x - 6, top, 12, bottom - top)
        label(scene, "t-ink-small", x + 13, 266, "bond in")
        return
    scene.rect("stub", x - 6, top, 12, 6)
    scene.rect("stub", x - 6, bottom - 6, 12, 6)
    scene.line("gap" if _must_bond(view, element) else "gap-quiet", (x, top + 8), (x, bottom - 8))
    text = "bond out" if element.bond == "out" else "bond ?"
    wrong = element.bond is None or _must_bond(view, element)
    label(scene, "t-danger-small" if wrong else "t-small", x + 13, 266, text)


def _must_bond(view, element) -> bool:
    """Whether a bond is missed here: at the panel that the service reaches."""
    return any(s.to == element.id for s in view.study.assumed.site.services)


def electrodes(scene: Scene, view, placed: Layout, look) -> None:
    """Electrodes under their panels, each with its conductor; their words once a panel."""
    site, floor = placed.site, placed.floor_y
    for electrode in site.electrodes:
        x = placed.electrodes.get(electrode.id)
        column = placed.columns.get(electrode.panel)
        if x is None or column is None:
            continue
        amps = look.of((f"{electrode.id}.gec",))
        lit = amps >= look.least_a and look.kind != "touch"
        scene.open_link(view.href[electrode.id], _electrode_name(electrode))
        y = at.NEUTRAL_Y if electrode.lands == "neutral bar" else at.GROUND_Y
        start = (x, y + 5) if column.is_open else (x, at.PANEL_BOTTOM)
        names = "gec-lit" if lit else "gec"
        if electrode.joined == "no":
            scene.line("gap", (x, floor - 22), (x, floor - 4))
        else:
            scene.line(names, start, (x, floor + 8))
        _electrode_shape(scene, electrode.kind, x, floor)
        scene.close_link()
    for column in placed.columns.values():
        _electrode_words(scene, view, placed, column)


def _electrode_name(electrode) -> str:
    return electrode.name or ELECTRODE_WORDS[electrode.kind]


def _electrode_shape(scene: Scene, kind, x, floor) -> None:
    if kind in ("concrete", "several"):
        scene.rect("edge", x - 11, floor + 10, 22, 16, 2)
        scene.line("gec", (x - 7, floor + 18), (x + 7, floor + 18))
    elif kind in ("water", "ring", "plate"):
        scene.line("rod", (x - 11, floor + 18), (x + 11, floor + 18))
        scene.line("gec", (x, floor + 8), (x, floor + 18))
    elif kind == "rod":
        scene.line("rod", (x, floor + 4), (x, floor + 42))
    else:
        scene.line("gap", (x, floor + 10), (x, floor + 40))


def _electrode_words(scene: Scene, view, placed: Layout, column: Column) -> None:
    own = [e for e in placed.site.electrodes if e.panel == column.id]
    if not own:
        return
    kinds = Counter(ELECTRODE_WORDS[e.kind] for e in own)
    text = ", ".join(f"{n} {w}s" if n > 1 else w for w, n in kinds.items())
    room = 29 if column.is_open else 12
    ohms = [e.ohm for e in own if e.ohm is not None and e.joined != "no"]
    paths = [f"{e.id}.ohm" for e in own]
    y = placed.floor_y + 60
    scene.open_link(view.href[own[0].id])
    scene.text("t-ink-small", column.middle, y + 4, cut(text, room), "middle")
    scene.close_link()
    if not ohms and any(e.kind for e in own):
        scene.text("t-small", column.middle, y + 21, "length not known", "middle")
    if ohms:
        least = 1 / sum(1 / o for o in ohms)
        words(scene, view, "t-small", column.middle, y + 21, f"about {figures(least)} Ω"
              if column.is_open else f"{figures(least)} Ω", paths)  # fmt: skip


def metals(scene: Scene, view, placed: Layout, look) -> None:
    """Other metal as chips, tied to the panel it is bonded at, or visibly not."""
    for metal in placed.site.metals:
        if metal.id not in placed.chips:
            continue
        left, width = placed.chips[metal.id]
        column = placed.columns.get(metal.panel or "")
        branches = (f"{metal.id}.bond", f"{metal.id}.main", f"{metal.id}.join")
        amps = max(look.amps.get(b, 0.0) for b in branches)
        lit = amps >= look.least_a and look.kind != "touch"
        tied = metal.bonded == "yes" and metal.past_repair != "yes"
        if tied and column is not None:
            x = min(max(left + 14, column.left + 10), column.right - 10)
            top = at.GROUND_Y + 5 if column.is_open else at.PANEL_BOTTOM
            y = at.METAL_Y - 8
            scene.line("gec-lit" if lit else "gec", (x, top), (x, y), (left + 14, y),
                       (left + 14, at.METAL_Y))  # fmt: skip
        scene.open_link(view.href[metal.id])
        name = "chip-lit" if lit else ("chip" if tied else "chip-apart")
        scene.rect(name, left, at.METAL_Y, width, at.METAL_H, 5)
        said = cut(metal.name or METAL_WORDS[metal.kind], 24)
        if lit:
            said += f" {figures(amps)} A"
        elif metal.bonded is None and metal.material != "plastic":
            said += " bonded?"
        elif not tied and metal.material != "plastic":
            said += " cut off" if metal.past_repair == "yes" else " not bonded"
        scene.text("t-ink-small", left + 8, at.METAL_Y + 17, said)
        scene.close_link()
        loop = look.loop if look.kind == "fault" else None
        if loop is not None and loop.place == metal.id and loop.lowest_a is not None:
            scene.path(
                "spark", f"M{left + width - 6} {at.METAL_Y - 8} l10 9 l-4 2 l10 10 l-16 -7 l4 -2 z"
            )


def arrays(scene: Scene, view, placed: Layout) -> None:
    """Each array with its inverter as a chip, tied to the panel that the inverter feeds."""
    circuits = {c.id: c for c in placed.site.circuits}
    for array in placed.site.arrays:
        left, width = placed.chips[array.id]
        inverter = circuits.get(array.circuit or "")
        column = placed.columns.get(inverter.panel) if inverter else None
        if column is not None:
            x = min(max(left + 14, column.left + 26), column.right - 26)
            y = at.METAL_Y - 16
            scene.line("idle", (left + 14, at.METAL_Y), (left + 14, y), (x, y),
                       (x, at.PANEL_BOTTOM))  # fmt: skip
        scene.open_link(view.href[array.id])
        scene.rect("edge", left, at.METAL_Y, width, at.METAL_H, 5)
        for k in range(3):
            scene.rect("cell", left + 10 + k * 8, at.METAL_Y + 6, 6, 14, 1)
        words = at.array_words(array, inverter)
        scene.text("t-ink-small", left + at.ARRAY_LEFT, at.METAL_Y + 17, words)
        scene.close_link()


def soil_amps(scene: Scene, view, placed: Layout, look) -> None:
    """The share that goes through the soil, as one dotted way and one figure."""
    floor, total = placed.floor_y, 0.0
    for electrode in placed.site.electrodes:
        amps = look.of((f"{electrode.id}.gec",))
        x = placed.electrodes.get(electrode.id)
        if amps < look.least_a or x is None:
            continue
        total += amps
        scene.line("soil-path", (x, floor + 28), (x, floor + 47), (124, floor + 47),
                   (124, floor + 40), data_leg="soil")  # fmt: skip
    if total:
        scene.pill("pill-soil", 152, floor + 102, f"{figures(total)} A soil", "t-soil", "soil")


def leg_volts(scene: Scene, view, placed: Layout, look) -> None:
    """What each leg of an open panel would see."""
    for column in placed.columns.values():
        legs = look.legs.get(column.id)
        if not legs or not column.is_open:
            continue
        for n, (leg, volts) in enumerate(legs.items()):
            text = f"{leg} {figures(volts)} V"
            scene.pill("pill", column.middle, at.LINE_Y[1] + n * 26, text, "t-amps")


def case_volts(scene: Scene, view, placed: Layout, look) -> None:
    """Volts of each panel's enclosure to earth."""
    for column in placed.columns.values():
        volts = look.volts.get(column.id)
        if volts is None:
            continue
        y = 204 if column.is_open else 240
        scene.pill("pill", column.middle, y, f"{figures(volts)} V", "t-amps")
