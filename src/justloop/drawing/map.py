"""The map: sources, service, panels by building, the chosen case, and home.

``layout.py`` says where things stand, ``looks.py`` what is lit, ``map_parts.py`` draws panels,
earth and sources. Here: the order of drawing, the wires, and what is written on them.
"""

from collections import Counter
from dataclasses import dataclass, field

from returnpath import tables
from returnpath.armour import SWA
from returnpath.conductor import method
from returnpath.network.wiring import legs_of_circuits
from returnpath.rules import LEVELS
from returnpath.study import FaultStudy, SiteStudy, Verdict
from returnpath.vocabulary import BranchId, Level
from returnpath.working import figures

from . import layout as at
from . import map_parts
from .layout import SERVICE_W, Layout, lay_out, service_only
from .looks import Look, is_unknown, look_of
from .map_parts import short_size, words
from .scene import Scene, cut

NAME_LENGTH = 13
IDLE = {"hot": "wire-hot-thin", "hot2": "wire-hot2-thin", "neutral": "wire-neutral-thin",
        "ground": "wire-ground-thin", "steel": "wire-steel-thin"}  # fmt: skip
CORE = {"hot": "core-hot", "hot2": "core-hot2", "neutral": "core-neutral",
        "ground": "core-ground", "steel": "core-steel"}  # fmt: skip


@dataclass(frozen=True)
class MapView:
    """What the map is drawn from: the studied site, the chosen loop, where links lead."""

    study: SiteStudy
    loop: FaultStudy | None
    href: dict[str, str]  # element id → address of its bench
    at: str = ""  # the selected element
    look: str = "fault"
    worst: dict[str, str] = field(default_factory=dict)  # panel id → its worst level
    before: SiteStudy | None = None  # the site without the trial
    is_service: bool = False  # only from the source to the service disconnect

    def is_known(self, path: str) -> bool:
        """Whether somebody gave this fact."""
        return self.study.assumed.find(path) is None


def map_scene(view: MapView) -> Scene:
    """The map of a site with one loop lit."""
    site = view.study.assumed.site
    loop = view.loop
    panels = {p.id for p in site.panels}
    chosen = view.at if view.at in panels else ""
    circuit = loop.circuit if loop is not None and not chosen else None
    if view.is_service:
        return _drawn(view, lay_out(service_only(site), site.panel.id, None, False, {}, SERVICE_W))
    metal = loop.basis.place.panel if loop is not None and loop.basis else site.panel.id
    panel = chosen or (circuit.panel if circuit else metal)
    placed = lay_out(site, panel, circuit, bool(chosen), legs_of_circuits(site))
    return _drawn(view, placed, circuit, chosen)


def _drawn(view: MapView, placed: Layout, circuit=None, chosen: str = "") -> Scene:
    loop, look = view.loop, _look(view)
    scene = Scene(placed.width, placed.height, _label(view, look))
    map_parts.soil(scene, placed)
    map_parts.roofs(scene, view, placed)
    _idle(scene, placed, look)
    map_parts.sources(scene, view, placed)
    for column in placed.columns.values():
        map_parts.panel(scene, view, placed, column, look)
    map_parts.electrodes(scene, view, placed, look)
    map_parts.metals(scene, view, placed, look)
    _lit(scene, view, placed, look)
    for column in placed.columns.values():
        map_parts.bond(scene, view, column, look)
    map_parts.arrays(scene, view, placed)
    if circuit is not None:
        _case(scene, view, placed, look)
    if placed.list_left is not None:
        _list(scene, view, placed, chosen)
    elif loop is None and not view.is_service:
        scene.text("t", placed.width - 130, 200, "no circuit yet", "middle")
    _pills(scene, view, placed, look)
    if circuit is not None:
        _circuit_words(scene, view, placed)
    return scene


def _look(view: MapView) -> Look:
    before = None
    if view.before is not None:
        loop = None
        if view.loop is not None:
            place, was = view.loop.place, view.before
            loop = was.loops.get(place) or was.enclosures.get(place) or was.metals.get(place)
        before = look_of(view.look, view.before, loop)
    return look_of(view.look, view.study, view.loop, before)


def _label(view: MapView, look: Look) -> str:
    if view.loop is None:
        return "Map of the place; no circuit yet"
    return f"Map of the place. {look.title}: {view.loop.verdict}"


def _idle(scene: Scene, placed: Layout, look: Look) -> None:
    """Every conductor at rest: a casing, then its own colour."""
    for wire in placed.wires.values():
        if look.kind == "neutral" and wire.id == look.lost:
            scene.line("gap", *wire.points)
            continue
        scene.line("wire-casing", *wire.points)
        scene.line(IDLE[wire.kind], *wire.points)


def _is_lit(wire, look: Look) -> bool:
    if look.kind in ("fault", "touch"):
        if is_unknown(look.loop):
            return False
        if wire.leg in look.legs_of_loop:
            part = BranchId(wire.id).part
            if part.startswith("line") and len(wire.branches) == 1:
                return look.of(wire.branches) >= look.least_a or look.loop.lowest_a == 0
            return True
        return look.of(wire.branches) >= look.least_a
    metal = wire.kind in ("ground", "steel")
    return metal and look.of(wire.branches) >= look.least_a


def _lit(scene: Scene, view: MapView, placed: Layout, look: Look) -> None:
    """Light what carries: ember casings first, then each conductor's own colour as its core."""
    lit = [w for w in placed.wires.values() if _is_lit(w, look)]
    for wire in lit:
        scene.line("loop-casing", *wire.points, data_leg=wire.leg)
    if look.kind == "fault" and lit:
        map_parts.coil_lit(scene, view, look)
    for wire in lit:
        scene.line(CORE[wire.kind], *wire.points, data_leg=wire.leg)
    for wire in lit:
        if wire.kind in ("hot", "hot2") and wire.leg.startswith(("c", "f")):
            x = next((x for x, y in wire.points if y in (at.LEVER_OUT_Y, at.FEED_OUT_Y)), None)
            if x is not None:
                scene.rect("lever-on", x - 4, 156, 8, 20, 3)
    if look.kind == "fault" and not is_unknown(look.loop):
        loop = look.loop
        if loop.circuit is not None and loop.circuit.egc in (None, "none"):
            column = placed.columns[loop.circuit.panel]
            case = placed.case_left
            if case is not None:
                down = [(case - 30, at.RETURN_Y), (case - 30, at.GROUND_Y)]
                end = (column.bar_right + 6, at.GROUND_Y)
                scene.line("gap", (case - 6, at.RETURN_Y), *down, end)


def _amps(look: Look, branches) -> str:
    now = look.of(branches)
    was = look.was(branches)
    if was is not None and abs(was - now) > 0.01 * max(was, now, 0.01):
        return f"{_figure(was)} → {_figure(now)} A"
    return f"{_figure(now)} A"


def _figure(amps: float) -> str:
    """Less than a milliampere is nothing on a map."""
    return figures(amps) if amps >= 0.001 else "0"


def _pills(scene: Scene, view: MapView, placed: Layout, look: Look) -> None:
    """Amperes on every lit leg; volts where the look is about volts."""
    if look.kind == "touch":
        map_parts.case_volts(scene, view, placed, look)
        return
    taken: list[tuple[float, float]] = []
    posts: dict[tuple[float, float], tuple[float, str, str]] = {}
    for wire in placed.wires.values():
        shown = _is_lit(wire, look) or (look.was(wire.branches) or 0) >= look.least_a
        if not shown or (look.kind != "fault" and wire.kind not in ("ground", "steel")):
            continue
        if look.loop is not None and look.loop.lowest_a is None and look.kind == "fault":
            continue
        x, y = wire.pill
        text = _amps(look, wire.branches)
        if y == at.POST_PILL_Y:  # one figure a post: its largest
            amps = max(look.of(wire.branches), look.was(wire.branches) or 0)
            posts[x, y] = max(posts.get((x, y), (0.0, "", "")), (amps, text, wire.leg))
            continue
        half = (len(text) * 8.5 + 18) / 2
        while any(abs(x - tx) < half + 34 and abs(y - ty) < 24 for tx, ty in taken):
            y += 25
        taken.append((x, y))
        scene.pill("pill", x, y, text, "t-amps", wire.leg)
    for (x, y), (_, text, leg) in posts.items():
        scene.pill("pill", x, y, text, "t-amps", leg)
    map_parts.soil_amps(scene, view, placed, look)
    if look.kind == "neutral":
        map_parts.leg_volts(scene, view, placed, look)
    stuck = look.kind == "fault" and look.loop is not None and look.loop.lowest_a == 0
    if stuck and placed.case_left:  # the service alone has no room for it: its pills say 0 A
        scene.text("t-danger", placed.way_left + 2, 110, "no way home: 0 A")


def _case(scene: Scene, view: MapView, placed: Layout, look: Look) -> None:
    loop, left = view.loop, placed.case_left
    circuit = loop.circuit
    never = loop.verdict is Verdict.MAY_NEVER_OPEN
    scene.open_link(view.href[circuit.id])
    names = "case-live" if never else "case-box"
    scene.rect(names, left, at.CASE_TOP, at.CASE_W, at.CASE_BOTTOM - at.CASE_TOP, 8)
    middle = left + at.CASE_W / 2
    scene.text("t-bold", middle, at.CASE_TOP + 26, cut(circuit.name or "Unnamed", NAME_LENGTH),
               "middle")  # fmt: skip
    small = "t-danger" if never else "t-small"
    if loop.touch_earth_v is None:
        scene.text("t-small", middle, at.CASE_TOP + 76, "not known yet", "middle")
    elif look.kind in ("fault", "touch"):
        volts = loop.touch_earth_v if never or look.kind == "touch" else loop.touch_bar_v
        big = "t-danger-big" if never else "t-amps"
        scene.text(big, middle, at.CASE_TOP + 72, f"{figures(volts)} V", "middle")
        earth = never or look.kind == "touch"
        scene.text("t-small", middle, at.CASE_TOP + 92,
                   "enclosure to earth" if earth else "over service bar", "middle")  # fmt: skip
        scene.text(small, middle, at.CASE_TOP + 112, "nothing opens" if never else "until it opens",
                   "middle")  # fmt: skip
    else:
        amps = look.amps.get(f"{circuit.id}.line1", 0.0)
        scene.text("t-small", middle, at.CASE_TOP + 76, f"load {figures(amps)} A", "middle")
    scene.close_link()
    if look.kind == "fault" and not is_unknown(loop):
        y = at.LEVER_OUT_Y
        scene.path("spark", f"M{left - 2} {y - 14} l10 9 l-4 2 l10 10 l-16 -7 l4 -2 z")
    others = [c for c in view.study.assumed.site.circuits if c.panel == circuit.panel]
    if len(others) > 1:
        scene.open_link(view.href[circuit.panel])
        more = len(others) - 1
        text = f"{more} more circuit{'s' if more > 1 else ''}"
        scene.text("t-small", middle, 282, text, "middle", text_decoration="underline")
        scene.close_link()


def _list(scene: Scene, view: MapView, placed: Layout, panel: str) -> None:
    """The circuits of an opened panel, a row each."""
    left, y = placed.list_left, 104
    own = [c for c in view.study.assumed.site.circuits if c.panel == panel]
    room = 9 if len(own) > 10 else 10
    for circuit in own[:room]:
        study = view.study.loops.get(circuit.id)
        scene.open_link(view.href[circuit.id])
        rating = f"{circuit.breaker.rating_a:g} A" if circuit.breaker.rating_a else "? A"
        scene.rect("row-box", left, y - 15, at.LIST_W, 21, 3)
        if study is not None:
            map_parts.mark(scene, study.verdict, left + 3, y - 13)
        scene.text("t-ink-small", left + 26, y, cut(circuit.name or "Unnamed", 21))
        scene.text("t-small", left + at.LIST_W - 6, y, rating, "end")
        scene.close_link()
        y += 22
    if len(own) > room:
        scene.open_link(view.href.get("prove", "#circuits"))
        scene.text(
            "t-small", left + 26, y, f"and {len(own) - room} more", text_decoration="underline"
        )
        scene.close_link()
    if not own:
        scene.text("t-small", left, y, "no circuit here yet")


def _circuit_words(scene: Scene, view: MapView, placed: Layout) -> None:
    """What the chosen circuit's wires are, beside them."""
    circuit = view.study.assumed.site.circuit(view.loop.circuit.id)
    one = circuit.id
    middle = (placed.way_left + placed.case_left) / 2
    if circuit.line_size is not None:
        metal = "Al" if circuit.line_material == "aluminium" else "Cu"
        ring = " ring" if circuit.ring == "yes" else ""
        size = f"{short_size(circuit.line_size)} {metal}{ring}, {circuit.length_ft:g} ft"
        kind = cut(method(circuit.method).label, 19)
        words(scene, view, "t-small", middle, 132, kind, [f"{one}.method"])
        words(scene, view, "t-small", middle, 150, size, [f"{one}.line_size", f"{one}.length_ft"])
    y = at.GROUND_Y + 25
    if circuit.egc in ("wire", "both"):
        size = tables.size_name(circuit.egc_size) if circuit.egc_size else "size not known"
        words(scene, view, "t-small", middle, y, f"EGC {size}", [f"{one}.egc_size"])
    elif circuit.egc == "raceway":
        kind = method(circuit.method).steel_return
        text = "armour alone" if kind == SWA else f"{circuit.raceway_size} in {kind} alone"
        words(scene, view, "t-small", middle, y, text, [f"{one}.raceway_size"])
    elif circuit.egc == "none":
        scene.text("t-danger", middle, y, "no return wire", "middle")
    else:
        scene.text("t-danger", middle, y, "return not known", "middle")


def worst_of(findings, site) -> dict[str, str]:
    """panel → the worst level of what is found at it and on its circuits."""
    home = {c.id: c.panel for c in site.circuits} | {p.id: p.id for p in site.panels}
    home |= {f.id: f.to for f in site.feeders} | {e.id: e.panel for e in site.electrodes}
    found: dict[str, str] = {}
    for finding in findings:
        panel = home.get(finding.place)
        if panel is not None:
            found[panel] = min(found.get(panel, Level.NOTE), finding.level, key=LEVELS.index)
    return found


def counts(site) -> Counter:
    """panel → how many circuits."""
    return Counter(c.panel for c in site.circuits)
