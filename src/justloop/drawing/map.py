"""The map: source, service, panel with its bars and bond, circuit, case, and home.

Laid out by the program, left to right; the loop of the chosen circuit is lit from the source out
and back, with amperes on every leg. 860 × 440, never shrunk.

      coil ---- L1 bar --+            roof
        |       L2 bar   lever ------ case
        +------ neutral bar             |
                 | bond                 |
                ground bar -------------+
    ~~~~~~~~~~~~ earth line ~~~~~~~~~~~~~
"""

from dataclasses import dataclass

from returnpath import tables
from returnpath.conductor import method
from returnpath.study import FaultStudy, SiteStudy, Verdict
from returnpath.working import figures

from .scene import Scene

WIDTH, HEIGHT = 860, 440
COIL_X, COIL_TOP, TAP_Y, COIL_BOTTOM = 70, 112, 162, 212
TAP_OUT_X = 150
PANEL_LEFT, PANEL_RIGHT, PANEL_TOP, PANEL_BOTTOM = 296, 486, 78, 322
BAR_LEFT, BAR_RIGHT = 312, 470
L1_Y, L2_Y, NEUTRAL_Y, GROUND_Y = 112, 136, 240, 290
GROUND_LEFT = 344
LEVER_X, LEVER_OUT_Y = 452, 174
BOND_X = 372
CASE_LEFT, CASE_TOP, CASE_RIGHT, CASE_BOTTOM = 690, 128, 844, 262
RETURN_Y, RETURN_X = 238, 622
FLOOR_Y = 344
ELECTRODE_X = 326
NAME_LENGTH = 17


@dataclass(frozen=True)
class MapView:
    """What the map is drawn from: the studied site, the chosen loop, where links lead."""

    study: SiteStudy
    loop: FaultStudy | None
    href: dict[str, str]  # element id → address of its bench
    others: int = 0  # circuits that are not drawn
    others_href: str = "#circuits"


def map_scene(view: MapView) -> Scene:
    """The map of a site with one loop lit."""
    scene = Scene(WIDTH, HEIGHT, _label(view))
    _earth(scene)
    _roof(scene)
    _service_idle(scene, view)
    _panel(scene, view)
    _electrode(scene, view)
    if view.loop is not None:
        _circuit_idle(scene, view)
        _loop(scene, view)
        _case(scene, view)
    else:
        scene.text("t", 767, 200, "no circuit yet", "middle")
    _service_words(scene, view)
    _amps(scene, view)
    if view.others:
        scene.open_link(view.others_href)
        words = f"{view.others} more circuit{'s' if view.others > 1 else ''} below"
        scene.text("t-small", 767, 300, words, "middle", text_decoration="underline")
        scene.close_link()
    return scene


def _label(view: MapView) -> str:
    loop = view.loop
    if loop is None:
        return "Map of the service; no circuit yet"
    return f"Map of the service and the loop of {loop.circuit.name or 'a circuit'}: {loop.verdict}"


def _known(view: MapView, path: str) -> bool:
    return view.study.assumed.find(path) is None


def _words(scene: Scene, view, names, x, y, text, paths, anchor="middle") -> None:
    """Text, dotted under where any of ``paths`` is assumed."""
    scene.text(names, x, y, text, anchor)
    if all(_known(view, p) for p in paths):
        return
    width = len(text) * 6.1
    left = {"middle": x - width / 2, "start": x, "end": x - width}[anchor]
    scene.line("assumed-line", (left, y + 4), (left + width, y + 4))


def _earth(scene: Scene) -> None:
    scene.rect("ground-soil", 0, FLOOR_Y, WIDTH, HEIGHT - FLOOR_Y)
    scene.line("floor", (0, FLOOR_Y), (WIDTH, FLOOR_Y))


def _roof(scene: Scene) -> None:
    scene.line("roof", (272, 40), (272, 30), (565, 12), (852, 30), (852, 40))


def _service_idle(scene: Scene, view: MapView) -> None:
    """Coil, both lines and the neutral at rest, under the lit loop."""
    unit = view.study.assumed.site.supply.id
    scene.open_link(view.href[unit], "Supply")
    for top in (COIL_TOP, TAP_Y):
        step = (TAP_Y - COIL_TOP) / 3
        arcs = "".join(f" a9 {step / 2:.1f} 0 0 0 0 {step:.1f}" for _ in range(3))
        scene.path("coil", f"M{COIL_X} {top}{arcs}")
    scene.line("coil", (COIL_X - 34, COIL_TOP), (COIL_X - 34, COIL_BOTTOM))
    scene.close_link()
    line2 = [(COIL_X, COIL_BOTTOM), (236, COIL_BOTTOM), (236, L2_Y), (BAR_LEFT, L2_Y)]
    scene.line("wire-casing", *line2)
    scene.line("wire-hot2-thin", *line2)
    scene.line("idle", (120, TAP_Y), (120, FLOOR_Y + 44))
    scene.line("rod", (120, FLOOR_Y), (120, FLOOR_Y + 46))
    for points, core in (
        ([(COIL_X, COIL_TOP), (BAR_LEFT, L1_Y)], "wire-hot-thin"),
        (_neutral_points(), "wire-neutral-thin"),
    ):
        scene.line("wire-casing", *points)
        scene.line(core, *points)


def _neutral_points() -> list[tuple[float, float]]:
    return [(BAR_LEFT, NEUTRAL_Y), (TAP_OUT_X, NEUTRAL_Y), (TAP_OUT_X, TAP_Y), (COIL_X, TAP_Y)]


def _panel(scene: Scene, view: MapView) -> None:
    site = view.study.assumed.site
    panel = site.panel
    scene.open_link(view.href[panel.id])
    scene.text("t-bold", 391, 54, _cut(panel.name or "Service panel", 24), "middle")
    rating = f"{panel.main.rating_a:g} A main"
    _words(scene, view, "t-small", 391, 71, rating, [f"{panel.id}.main.rating_a"])
    scene.rect("edge", PANEL_LEFT, PANEL_TOP, PANEL_RIGHT - PANEL_LEFT, PANEL_BOTTOM - PANEL_TOP, 8)
    length = BAR_RIGHT - BAR_LEFT
    scene.rect("bar-hot", BAR_LEFT, L1_Y - 5, length, 10, 2)
    scene.rect("bar-hot2", BAR_LEFT, L2_Y - 5, length, 10, 2)
    for x in (332, 352, 372, 392, 412, 432):
        scene.rect("lever", x - 7, 158, 14, 32, 3)
        scene.rect("lever-on", x - 3, 164, 6, 12, 2)
    scene.rect("bar-neutral", BAR_LEFT, NEUTRAL_Y - 6, length, 12, 3)
    scene.rect("bar-ground", GROUND_LEFT, GROUND_Y - 6, BAR_RIGHT - GROUND_LEFT, 12, 3)
    scene.text("t-small", BAR_LEFT, NEUTRAL_Y - 12, "neutral bar")
    scene.text("t-small", BAR_RIGHT, GROUND_Y + 22, "ground bar", "end")
    _bond(scene, view)
    scene.close_link()


def _bond(scene: Scene, view: MapView) -> None:
    """The bond: a copper bridge when in, a visible gap when out, a question when not known."""
    bond = view.study.assumed.site.panel.bond
    top, bottom = NEUTRAL_Y + 6, GROUND_Y - 6
    if bond == "in":
        scene.rect("bridge", BOND_X - 7, top, 14, bottom - top)
        scene.text("t-ink-small", BOND_X + 16, 269, "bond in")
        return
    scene.rect("stub", BOND_X - 7, top, 14, 7)
    scene.rect("stub", BOND_X - 7, bottom - 7, 14, 7)
    scene.line("gap", (BOND_X, top + 8), (BOND_X, bottom - 8))
    words = "bond out" if bond == "out" else "bond in?"
    scene.text("t-danger", BOND_X + 14, 270, words)


def _electrode(scene: Scene, view: MapView) -> None:
    site = view.study.assumed.site
    electrode = site.electrode
    x = ELECTRODE_X
    start = (x, NEUTRAL_Y + 6)
    if electrode.lands == "ground bar":
        start = (x, GROUND_Y)
        scene.line("gec", (GROUND_LEFT, GROUND_Y), start)
    scene.open_link(view.href[electrode.id])
    scene.line("gec", start, (x, FLOOR_Y + 14))
    kind = electrode.kind
    if kind in ("concrete", "several"):
        scene.rect("edge", x - 6, FLOOR_Y + 16, 74, 18, 2)
        scene.line("gec", (x, FLOOR_Y + 14), (x, FLOOR_Y + 25), (x + 60, FLOOR_Y + 25))
    elif kind in ("water", "ring", "plate"):
        scene.line("rod", (x - 30, FLOOR_Y + 26), (x + 50, FLOOR_Y + 26))
        scene.line("gec", (x, FLOOR_Y + 14), (x, FLOOR_Y + 26))
    if kind in ("rod", "several"):
        left = x - 22 if kind == "several" else x
        scene.line("gec", (left, FLOOR_Y + 8), (x, FLOOR_Y + 8))
        scene.line("rod", (left, FLOOR_Y + 2), (left, FLOOR_Y + 56))
    if kind is None:
        scene.line("gap", (x, FLOOR_Y + 16), (x, FLOOR_Y + 50))
    labels = {
        "rod": "ground rods",
        "concrete": "concrete-encased",
        "water": "metal water pipe",
        "ring": "ground ring",
        "plate": "plate",
        "several": "several electrodes",
    }
    name = labels.get(kind, "electrode not described")
    scene.text("t-ink-small", x + 84, FLOOR_Y + 30, name)
    ohms = f"{figures(electrode.ohm)} Ω to earth"
    if electrode.ohm is None:
        ohms = "length not known: counts for nothing"
    _words(scene, view, "t-small", x + 84, FLOOR_Y + 48, ohms, [f"{electrode.id}.ohm"], "start")
    scene.close_link()


def _service_words(scene: Scene, view: MapView) -> None:
    site = view.study.assumed.site
    unit, run = site.supply, site.service
    scene.text("t-bold", 24, 54, "Utility")
    kva = f"{unit.kva:g} kVA"
    _words(scene, view, "t-small", 24, 71, kva, [f"{unit.id}.kva"], "start")
    percent = f"{unit.percent_z:g} %Z"
    _words(scene, view, "t-small", 24, 88, percent, [f"{unit.id}.percent_z"], "start")
    if run.line_size is None:
        return
    metal = "Al" if run.line_material == "aluminium" else "Cu"
    scene.open_link(view.href[run.id])
    sets = f"{run.sets} × " if run.sets > 1 else ""
    _words(
        scene, view, "t-small", 200, 75, f"{sets}{run.line_size} {metal}", [f"{run.id}.line_size"]
    )
    kind = "drop" if run.run == "overhead" else "lateral"
    _words(
        scene,
        view,
        "t-small",
        200,
        92,
        f"{run.length_ft:g} ft {kind}",
        [f"{run.id}.length_ft", f"{run.id}.run"],
    )
    _words(
        scene,
        view,
        "t-small",
        230,
        NEUTRAL_Y + 28,
        f"neutral {run.neutral_size} {metal}",
        [f"{run.id}.neutral_size"],
    )
    scene.close_link()
    ohms = unit.earth_ohm
    words = f"{figures(ohms)} Ω" if ohms is not None else "0.2 or 25 Ω"
    scene.text("t-small", 24, FLOOR_Y + 72, f"utility earth {words}")
    if ohms is None:
        scene.line("assumed-line", (24, FLOOR_Y + 76), (166, FLOOR_Y + 76))


def _return_lines(loop: FaultStudy) -> list[tuple[str, str, float]]:
    """(branch part, core class, offset) of each parallel way from the case to the bar."""
    egc = loop.circuit.egc
    found = []
    if egc in ("wire", "both"):
        found.append(("egc", "core-ground", 0))
    if egc in ("raceway", "both"):
        found.append(("raceway", "core-steel", 16 if egc == "both" else 0))
    return found


def _return_points(offset: float) -> list[tuple[float, float]]:
    across = RETURN_X + offset
    return [
        (CASE_LEFT, RETURN_Y + offset),
        (across, RETURN_Y + offset),
        (across, GROUND_Y + offset * 0.6),
        (BAR_RIGHT - 4, GROUND_Y + offset * 0.6),
    ]


def _out_points() -> list[tuple[float, float]]:
    return [
        (COIL_X, COIL_TOP),
        (LEVER_X, L1_Y),
        (LEVER_X, LEVER_OUT_Y),
        (CASE_LEFT, LEVER_OUT_Y),
    ]


def _circuit_idle(scene: Scene, view: MapView) -> None:
    circuit = view.loop.circuit
    scene.rect("lever", LEVER_X - 7, 158, 14, 32, 3)
    if circuit.neutral == "yes":
        points = [(BAR_RIGHT, NEUTRAL_Y), (560, NEUTRAL_Y), (560, 206), (CASE_LEFT, 206)]
        scene.line("wire-casing", *points)
        scene.line("wire-neutral-thin", *points)


def _loop(scene: Scene, view: MapView) -> None:
    """Light the loop: ember casing first, then each conductor's own colour as its core."""
    loop, site = view.loop, view.study.assumed.site
    run, panel, at = site.service.id, site.panel.id, loop.circuit.id
    closes = bool(loop.lowest_a) and site.panel.bond == "in"
    unknown = loop.verdict is Verdict.NOT_KNOWN
    coil = f"M{COIL_X} {TAP_Y} V{COIL_TOP}"
    out = _out_points()
    if not unknown:
        scene.path("loop-casing", coil, data_leg=site.supply.id)
        scene.line("loop-casing", *out, data_leg=f"{run}.line")
        for _, _, offset in _return_lines(loop):
            scene.line("loop-casing", *_return_points(offset), data_leg=f"{at}.return")
    if closes:
        home = [(BAR_RIGHT - 4, GROUND_Y), (BOND_X, GROUND_Y), (BOND_X, NEUTRAL_Y)]
        scene.line("loop-casing", *home, data_leg=f"{panel}.bond")
        tail = [(BOND_X, NEUTRAL_Y), *_neutral_points()]
        scene.line("loop-casing", *tail, data_leg=f"{run}.neutral")
        scene.line("core-ground", *home[:2])
        scene.line("core-neutral", *tail, data_leg=f"{run}.neutral")
        scene.rect("bridge", BOND_X - 3.5, NEUTRAL_Y + 4, 7, GROUND_Y - NEUTRAL_Y - 8)
    service = [out[0], (BAR_LEFT + 60, L1_Y)]
    scene.line("core-hot", *service, data_leg=f"{run}.line")
    scene.line("core-hot", service[1], *out[1:], data_leg=f"{at}.line")
    scene.rect("lever-on", LEVER_X - 4, 150, 8, 22, 3)
    for part, core, offset in _return_lines(loop):
        scene.line(core, *_return_points(offset), data_leg=f"{at}.return", data_part=part)
    if loop.circuit.egc in (None, "none"):
        scene.line(
            "gap",
            (CASE_LEFT - 8, RETURN_Y),
            (RETURN_X, RETURN_Y),
            (RETURN_X, GROUND_Y),
            (BAR_RIGHT + 8, GROUND_Y),
        )
    if _soil_a(view) >= 0.001:
        scene.path(
            "soil-path",
            f"M{ELECTRODE_X} {FLOOR_Y + 52} Q220 {FLOOR_Y + 96} 120 {FLOOR_Y + 46}",
            data_leg="soil",
        )


def _case(scene: Scene, view: MapView) -> None:
    loop = view.loop
    circuit = loop.circuit
    never = loop.verdict is Verdict.MAY_NEVER_OPEN
    scene.open_link(view.href[circuit.id])
    scene.rect(
        "case-live" if never else "case-box",
        CASE_LEFT,
        CASE_TOP,
        CASE_RIGHT - CASE_LEFT,
        CASE_BOTTOM - CASE_TOP,
        8,
    )
    middle = (CASE_LEFT + CASE_RIGHT) / 2
    scene.text(
        "t-bold", middle, CASE_TOP + 26, _cut(circuit.name or "Unnamed", NAME_LENGTH), "middle"
    )
    if loop.touch_earth_v is not None:
        names = "t-danger-big" if never else "t-amps"
        volts = loop.touch_earth_v if never else loop.touch_bar_v
        scene.text(names, middle, CASE_TOP + 76, f"{figures(volts)} V", "middle")
        scene.text(
            "t-small",
            middle,
            CASE_TOP + 96,
            "on the case, to earth" if never else "above the service bar",
            "middle",
        )
        scene.text(
            "t-danger" if never else "t-small",
            middle,
            CASE_TOP + 114,
            "and nothing opens" if never else "until it opens",
            "middle",
        )
    else:
        scene.text("t-small", middle, CASE_TOP + 76, "not known yet", "middle")
    scene.close_link()
    if loop.verdict is Verdict.NOT_KNOWN:
        return
    spark = f"M{CASE_LEFT - 2} {LEVER_OUT_Y - 14} l10 9 l-4 2 l10 10 l-16 -7 l4 -2 z"
    scene.path("spark", spark)


def _soil_a(view: MapView) -> float:
    loop, site = view.loop, view.study.assumed.site
    return loop.currents.get(f"{site.electrode.id}.gec", 0.0) if loop else 0.0


def _amps(scene: Scene, view: MapView) -> None:
    """Amperes on every leg, and what each wire is."""
    loop = view.loop
    if loop is None:
        return
    circuit, site = loop.circuit, view.study.assumed.site
    at, run, panel = circuit.id, site.service.id, site.panel.id
    middle = 585
    if circuit.line_size is not None:
        metal = "Al" if circuit.line_material == "aluminium" else "Cu"
        words = f"{circuit.line_size} {metal}, {method(circuit.method).label}"
        _words(scene, view, "t-small", middle, 134, words, [f"{at}.line_size", f"{at}.method"])
        _words(
            scene,
            view,
            "t-small",
            middle,
            151,
            f"{circuit.length_ft:g} ft one way",
            [f"{at}.length_ft"],
        )
    _return_words(scene, view)
    if loop.lowest_a is None:
        return

    def amps(branch: str) -> str:
        return f"{figures(loop.currents.get(branch, 0.0))} A"

    def line_amps(element: str) -> str:
        # The line drawn is the one that feeds the fault: a circuit may stand on any leg.
        return amps(
            max((f"{element}.line{n}" for n in (1, 2, 3)), key=lambda b: loop.currents.get(b, 0.0))
        )

    scene.pill("pill", 200, COIL_TOP, line_amps(run), "t-amps", f"{run}.line")
    scene.pill("pill", middle, LEVER_OUT_Y, line_amps(at), "t-amps", f"{at}.line")
    for part, _, offset in _return_lines(loop):
        y = GROUND_Y + offset * 0.6 if offset == 0 else RETURN_Y + offset + 14
        x = 545 if offset == 0 else RETURN_X + offset + 4
        scene.pill("pill", x, y, amps(f"{at}.{part}"), "t-amps", f"{at}.return")
    if site.panel.bond == "in" and loop.lowest_a:
        scene.pill("pill", 225, NEUTRAL_Y, amps(f"{run}.neutral"), "t-amps", f"{run}.neutral")
    soil = _soil_a(view)
    if soil >= 0.001:
        scene.pill("pill-soil", 222, FLOOR_Y + 62, f"{figures(soil)} A soil", "t-soil", "soil")
    if panel and loop.lowest_a == 0:
        scene.text("t-danger", middle, 100, "no way home: 0 A", "middle")


def _return_words(scene: Scene, view: MapView) -> None:
    circuit = view.loop.circuit
    at = circuit.id
    y = GROUND_Y + 34
    if circuit.egc in ("wire", "both"):
        size = tables.size_name(circuit.egc_size) if circuit.egc_size else "size not known"
        _words(scene, view, "t-small", 560, y, f"ground wire {size}", [f"{at}.egc_size"])
    elif circuit.egc == "raceway":
        kind = method(circuit.method).steel_return
        _words(
            scene,
            view,
            "t-small",
            560,
            y,
            f"{circuit.raceway_size} in {kind} alone",
            [f"{at}.raceway_size"],
        )
    elif circuit.egc == "none":
        scene.text("t-danger", 560, y, "no return conductor", "middle")
    else:
        scene.text("t-danger", 560, y, "return not known", "middle")


def _cut(text: str, length: int) -> str:
    return text if len(text) <= length else text[: length - 1].rstrip() + "…"
