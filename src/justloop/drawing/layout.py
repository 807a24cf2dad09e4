"""Where everything of the map stands, worked out from the site: no person drags anything.

Left to right: sources, the panels by building, the chosen case. Panels on the chosen way are
open (bars and levers), the rest are folded posts. Feeders run in one tray under the panels; below
it other metal, then the floor, then the electrodes in their soil.

      coil ---- L1 bar --+          roof          L1 bar --+
        |       L2 bar  lever     +----+          L2 bar  lever ---- case
        +------ neutral bar       | 7  |          neutral bar         |
                | bond            |post|                              |
               ground bar         +----+          ground bar ---------+
               line, neutral, ground in the tray ----+
    ~~~~~~~~~~~~ floor ~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~~
"""

from dataclasses import dataclass, field

from returnpath.site import Circuit, Feeder, Installation
from returnpath.site.branches import lines_of
from returnpath.site.service import ahead_of_service, service_disconnects

from .scene import cut

OPEN_W, POST_W = 112, 66
EXIT, ENTRY, GAP = 40, 44, 10
FIRST_LEFT, CHIPS_LEFT = 216, 160
LEAST_W, SERVICE_W = 860.0, 400.0
CASE_GAP, CASE_W, LIST_W = 124, 118, 214
PANEL_TOP, PANEL_BOTTOM = 84, 318
LINE_Y = {1: 108, 2: 128, 3: 148}
LEVER_Y, LEVER_OUT_Y, FEED_OUT_Y = 176, 176, 198
NEUTRAL_Y, GROUND_Y = 236, 286
TRAY = {"line": 340, "neutral": 356, "ground": 372}
LANE = {"line": 36, "neutral": 24, "ground": 12}
COIL_X, COIL_TOP, TAP_Y, COIL_BOTTOM, TAP_OUT_X = 70, 108, 162, 212, 112
CASE_TOP, CASE_BOTTOM, RETURN_Y = 124, 262, 240
METAL_Y, METAL_H = 412, 26
MARGIN = 14
POST_PILL_Y = 244


@dataclass(frozen=True)
class Column:
    """One panel: open or a post."""

    id: str
    left: float
    right: float
    is_open: bool

    @property
    def middle(self) -> float:
        """Its centre line."""
        return (self.left + self.right) / 2

    @property
    def bar_left(self) -> float:
        """Where its bars begin."""
        return self.left + 12

    @property
    def bar_right(self) -> float:
        """Where its bars end."""
        return self.right - 12

    @property
    def lever_x(self) -> float:
        """The lever of the way out."""
        return self.right - 24

    @property
    def bond_x(self) -> float:
        """The bridge between neutral and ground bar."""
        return self.left + 46


@dataclass(frozen=True)
class DrawnWire:
    """One drawn conductor: its branches (network ids), the leg it belongs to, its way."""

    id: str
    branches: tuple[str, ...]
    leg: str
    kind: str  # hot, hot2, neutral, ground, steel
    points: tuple[tuple[float, float], ...]
    pill: tuple[float, float]


@dataclass
class Layout:
    """The places of everything."""

    site: Installation
    columns: dict[str, Column] = field(default_factory=dict)
    roofs: list[tuple[str, float, float]] = field(default_factory=list)  # building, left, right
    wires: dict[str, DrawnWire] = field(default_factory=dict)
    chips: dict[str, tuple[float, float]] = field(default_factory=dict)  # metal → left, width
    electrodes: dict[str, float] = field(default_factory=dict)  # electrode → x
    case_left: float | None = None
    way_left: float = 0.0  # where the chosen circuit's way begins to be free of feeders
    list_left: float | None = None
    width: float = LEAST_W
    floor_y: float = 400
    height: float = 520


def order_of(site: Installation) -> list[str]:
    """Panels from the services outward, those of a building together."""
    seen: list[str] = []

    def walk(panel: str) -> None:
        if panel in seen:
            return
        seen.append(panel)
        for feeder in site.feeders:
            if feeder.source == panel:
                walk(feeder.to)

    for service in site.services:
        walk(service.to)
    for panel in site.panels:
        walk(panel.id)
    home = {p.id: p.building or "" for p in site.panels}
    groups: dict[str, list[str]] = {}
    for panel in seen:
        groups.setdefault(home[panel], []).append(panel)
    return [p for group in groups.values() for p in group]


def chain_of(site: Installation, panel: str) -> list[str]:
    """The panels from ``panel`` back to the service, itself first."""
    feeds = {f.to: f.source for f in site.feeders}
    found = [panel]
    while found[-1] in feeds and feeds[found[-1]] not in found:
        found.append(feeds[found[-1]])
    return found


def service_only(site: Installation) -> Installation:
    """What of a site is the service: its sources and runs, the enclosures up to the service
    disconnect, and what is joined there."""
    kept = {*service_disconnects(site), *ahead_of_service(site), *(s.to for s in site.services)}
    return site.model_copy(
        update={
            "panels": tuple(p for p in site.panels if p.id in kept),
            "feeders": tuple(f for f in site.feeders if f.source in kept and f.to in kept),
            "electrodes": tuple(e for e in site.electrodes if e.panel in kept),
            "metals": tuple(m for m in site.metals if m.panel in kept),
            "circuits": (),
            "arrays": (),
        }
    )


def lay_out(
    site: Installation, panel: str, circuit: Circuit | None, listed: bool, legs,
    least: float = LEAST_W,
) -> Layout:  # fmt: skip
    """The layout with the way to ``panel`` open; a case for ``circuit``, or the panel's list.

    ``legs`` circuit id → its panel lines; at ``least`` so wide.
    """
    out = Layout(site, width=least)
    is_open = {*chain_of(site, panel), *(s.to for s in site.services)}
    _columns(out, is_open, panel, circuit, listed)
    _services(out)
    for feeder in site.feeders:
        _feeder(out, feeder)
    if circuit is not None and out.case_left is not None:
        _circuit(out, circuit, legs.get(circuit.id, (1,))[0])
    _underneath(out, is_narrow=least < LEAST_W)
    return out


def _columns(out: Layout, is_open, chosen, circuit, listed) -> None:
    site = out.site
    home = {p.id: p.building for p in site.panels}
    sources = {f.source for f in site.feeders}
    x, building, left = float(FIRST_LEFT), None, FIRST_LEFT
    for number, panel in enumerate(order_of(site)):
        if home[panel] != building or number == 0:
            if building is not None:
                out.roofs.append((building, left, x))
            building, left = home[panel], x
        here_open = panel in is_open
        if number and here_open:
            x += ENTRY
        elif number:
            x += GAP
        width = OPEN_W if here_open else POST_W
        out.columns[panel] = Column(panel, x, x + width, here_open)
        x += width
        if here_open and panel in sources:
            x += EXIT
        elif not here_open:
            x += GAP
        if panel == chosen and circuit is not None:
            out.way_left = x
            out.case_left = x + CASE_GAP
            x = out.case_left + CASE_W + GAP
        elif panel == chosen and listed:
            out.list_left = max(x, out.columns[panel].right + 16)
            x = out.list_left + LIST_W + GAP
    if building is not None:
        out.roofs.append((building, left, x))
    out.width = max(out.width, x + MARGIN)


def source_points(number: int) -> dict[str, tuple[float, float]]:
    """Where a supply's lines and neutral begin: the first is the utility's coil."""
    if number == 0:
        return {"top": (COIL_X, COIL_TOP), "bottom": (COIL_X, COIL_BOTTOM), "tap": (COIL_X, TAP_Y)}
    y = 274 + 56 * (number - 1)
    return {"top": (104, y), "bottom": (104, y), "tap": (104, y + 18)}


def _services(out: Layout) -> None:
    numbers = {s.id: n for n, s in enumerate(out.site.supplies)}
    for service in out.site.services:
        column = out.columns.get(service.to)
        if column is None or not column.is_open:
            continue
        number = numbers.get(service.supply, 0)
        at, run, left = source_points(number), service.id, column.bar_left
        top, bottom, tap = at["top"], at["bottom"], at["tap"]
        if number == 0:
            lines = {
                1: (top, (left, LINE_Y[1])),
                2: (bottom, (180, COIL_BOTTOM), (180, LINE_Y[2]), (left, LINE_Y[2])),
                3: (bottom, (166, COIL_BOTTOM), (166, LINE_Y[3]), (left, LINE_Y[3])),
            }
            neutral = ((column.bond_x, NEUTRAL_Y), (TAP_OUT_X, NEUTRAL_Y), (TAP_OUT_X, TAP_Y), tap)
            pills = {1: (144, LINE_Y[1]), 2: (144, COIL_BOTTOM), 3: (144, COIL_BOTTOM)}
            home = (158, NEUTRAL_Y)
        else:
            x = FIRST_LEFT - 26
            lines = {n: (top, (x, top[1]), (x, LINE_Y[n]), (left, LINE_Y[n])) for n in (1, 2, 3)}
            neutral = ((column.bond_x, NEUTRAL_Y), (x - 10, NEUTRAL_Y), (x - 10, tap[1]), tap)
            pills = dict.fromkeys((1, 2, 3), (148, top[1] - 6))
            home = (148, tap[1] + 8)
        for n, points in list(lines.items())[: lines_of(out.site)]:
            kind = "hot" if n == 1 else "hot2"
            out.wires[f"{run}.line{n}"] = DrawnWire(
                f"{run}.line{n}", (f"{run}.line{n}",), f"{run}.line", kind, points, pills[n]
            )
        out.wires[f"{run}.neutral"] = DrawnWire(
            f"{run}.neutral", (f"{run}.neutral",), f"{run}.neutral", "neutral", neutral, home
        )


def _feeder(out: Layout, feeder: Feeder) -> None:
    """Its line, neutral and return, from an open panel to an open one or to a post."""
    a, b = out.columns.get(feeder.source), out.columns.get(feeder.to)
    if a is None or b is None:
        return
    at = feeder.id
    pill_x = b.left - LANE["line"] + 2
    first = (f"{at}.line1", f"{at}.line2", f"{at}.line3")
    _tray(out, "line", a, b, first, f"{at}.line", "hot", pill_x)
    if feeder.neutral != "no":
        names = (f"{at}.neutral",)
        _tray(out, "neutral", a, b, names, f"{at}.neutral", "neutral", pill_x)
    if feeder.egc in ("wire", "raceway", "both"):
        kind = "steel" if feeder.egc == "raceway" else "ground"
        names = (f"{at}.egc", f"{at}.raceway")
        _tray(out, "ground", a, b, names, f"{at}.return", kind, pill_x)


def _tray(out: Layout, lane: str, a: Column, b: Column, branches, leg: str, kind, pill_x) -> None:
    """One conductor of a feeder through the tray."""
    y, step = TRAY[lane], LANE[lane]
    up = {"line": LINE_Y[1], "neutral": NEUTRAL_Y, "ground": GROUND_Y}[lane]
    if a.is_open:
        leave = {
            "line": [
                (a.bar_left, LINE_Y[1]),
                (a.lever_x, LINE_Y[1]),
                (a.lever_x, FEED_OUT_Y),
                (a.right + step, FEED_OUT_Y),
            ],
            "neutral": [(a.bond_x, NEUTRAL_Y), (a.right + step, NEUTRAL_Y)],
            "ground": [(a.bond_x, GROUND_Y), (a.right + step, GROUND_Y)],
        }[lane]
        leave.append((a.right + step, y))
    else:
        leave = [(a.middle - step / 3, PANEL_BOTTOM), (a.middle - step / 3, y)]
    if b.is_open:
        end = {"line": b.bar_left, "neutral": b.bond_x, "ground": b.bar_right - 10}[lane]
        come = [(b.left - step, y), (b.left - step, up), (end, up)]
    else:
        come = [(b.middle + step / 3, y), (b.middle + step / 3, PANEL_BOTTOM)]
    points = (*leave, *come)
    pill = (pill_x, y) if b.is_open else (b.middle, POST_PILL_Y)  # a post carries its own figure
    out.wires[leg] = DrawnWire(leg, tuple(branches), leg, kind, points, pill)


def _circuit(out: Layout, circuit: Circuit, leg: int) -> None:
    column, at, case = out.columns[circuit.panel], circuit.id, out.case_left
    y = LINE_Y.get(leg, LINE_Y[1])
    middle = (out.way_left + case) / 2
    out.wires[f"{at}.line"] = DrawnWire(
        f"{at}.line",
        tuple(f"{at}.line{n}" for n in (1, 2, 3)),
        f"{at}.line",
        "hot" if leg == 1 else "hot2",
        (
            (column.bar_left, y),
            (column.lever_x, y),
            (column.lever_x, LEVER_OUT_Y),
            (case, LEVER_OUT_Y),
        ),
        (middle, LEVER_OUT_Y),
    )
    if circuit.neutral == "yes":
        points = ((case, 208), (out.way_left + 40, 208), (out.way_left + 40, NEUTRAL_Y),
                  (column.bond_x, NEUTRAL_Y))  # fmt: skip
        out.wires[f"{at}.neutral"] = DrawnWire(
            f"{at}.neutral", (f"{at}.neutral",), f"{at}.neutral", "neutral", points, (middle, 212)
        )
    ways = []
    if circuit.egc in ("wire", "both"):
        ways.append(("egc", "ground", 0))
    if circuit.egc in ("raceway", "both") or circuit.relied_on:
        ways.append(("raceway", "steel", 14 if circuit.egc == "both" else 0))
    panel = next(p for p in out.site.panels if p.id == circuit.panel)
    feeds = any(f.to == circuit.panel and f.egc not in (None, "none") for f in out.site.feeders)
    end = column.bond_x if panel.bond == "in" and not feeds else column.bar_left + 4
    for part, kind, offset in ways:
        x = case - 30 + offset
        down = GROUND_Y + offset * 0.6
        points = ((case, RETURN_Y + offset), (x, RETURN_Y + offset), (x, down),
                  (end if not offset else column.bar_right - 4, down))  # fmt: skip
        pill = (middle - 12, GROUND_Y) if not offset else (case - 36, 256)
        if circuit.egc == "both" and not offset:
            pill = (out.way_left + 34, GROUND_Y)
        wire = DrawnWire(f"{at}.{part}", (f"{at}.{part}",), f"{at}.return", kind, points, pill)
        out.wires[wire.id] = wire


ARRAY_LEFT = 42  # where an array's words begin, past its cells


def array_words(array, inverter) -> str:
    """An array and the inverter it feeds; what is not said is asked."""
    name = cut(array.name or "Array", 20)
    return f"{name} → {cut(inverter.name or 'inverter', 20)}" if inverter else f"{name} → ?"


def _underneath(out: Layout, is_narrow: bool) -> None:
    """Other metal in a row under the tray, then the floor, then electrodes under their panels.
    Of the service alone the row begins right of the utility's earth: it has less room."""
    site = out.site
    shown = [m for m in site.metals if m.material != "none"]
    cursor = float(CHIPS_LEFT if is_narrow else FIRST_LEFT)
    for metal in shown:
        column = out.columns.get(metal.panel or "")
        tied = metal.bonded == "yes" and metal.past_repair != "yes"
        words = len(cut(metal.name or "other metal", 24)) + (8 if tied else 11)
        width = words * 6.2 + 14
        if not is_narrow:
            cursor = max(cursor, column.left if column else cursor)
        out.chips[metal.id] = (cursor, width)
        cursor += width + 10
    inverters = {c.id: c for c in site.circuits}
    for array in site.arrays:
        inverter = inverters.get(array.circuit or "")
        column = out.columns.get(inverter.panel) if inverter else None
        width = ARRAY_LEFT + len(array_words(array, inverter)) * 6.6 + 10
        cursor = max(cursor, column.left if column else cursor)
        out.chips[array.id] = (cursor, width)
        cursor += width + 10
    if out.chips:
        out.width = max(out.width, cursor + MARGIN)
        out.floor_y = METAL_Y + METAL_H + 18
    for column in out.columns.values():
        own = [e for e in site.electrodes if e.panel == column.id]
        room = (OPEN_W if column.is_open else POST_W) / max(len(own), 1)
        for n, electrode in enumerate(own):
            out.electrodes[electrode.id] = column.left + room * (n + 0.5)
    out.height = out.floor_y + 122
