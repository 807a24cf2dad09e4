"""Where a fault can be, and what a solved network looks like from there.

A circuit that hangs on its panel by its line and its return alone is seen through its panel's
port with its own ohms in series: exact, and the panel's solve serves all of its circuits. What is
joined to anything else is a part of the network.
"""

import itertools
from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property, lru_cache
from typing import Any

from ..network.build import return_branches, run_ohm
from ..network.wiring import lines_at
from ..site import Circuit, Installation, Panel, name_of
from ..site.chain import opens
from ..site.rings import is_ring
from ..vocabulary import BranchId, NodeId
from .solved import OPEN_OHM, Port, Solved


class FaultKind(StrEnum):
    """What a line meets."""

    CASE = "line-to-case"
    NEUTRAL = "line-to-neutral"
    LINE = "line-to-line"


class Side(StrEnum):
    """Which side of its own main an enclosure is faulted on; ANY where it has none."""

    ANY = ""
    LOAD = "load side"
    LINE = "line side"


@dataclass(frozen=True)
class Place:
    """Where faults are judged: a circuit's end, a panel's enclosure, or other metal.

    ``legs`` the panel lines of its poles; ``side`` of its own main, for an enclosure that has
    one; ``node`` of other metal (pipe, frame, electrode); ``tie`` (branch, bar) is what joins
    that to its panel, None where nothing does.
    """

    id: str
    name: str
    panel: str
    legs: tuple[int, ...] = ()
    circuit: Circuit | None = None
    enclosure: Panel | None = None
    side: Side = Side.ANY
    node: str = ""
    tie: tuple[BranchId, NodeId] | None = None

    @cached_property
    def case_node(self) -> NodeId:
        """The node of the metal, in the network where it is one."""
        return NodeId(self.node) if self.node else NodeId.of(self.id, "case")

    def line_node(self, leg: int) -> NodeId:
        """The panel's line bar, or its lug ahead of its main."""
        return self._line_nodes[leg]

    @cached_property
    def _line_nodes(self) -> tuple[NodeId, ...]:
        """By the line's number; none has 0."""
        part = "lug" if self.side is Side.LINE else "L"
        return tuple(node_of(self.panel, part, n) for n in range(4))

    def run_ohms(self, celsius: float, hz: float) -> tuple[complex, dict[str, complex]]:
        """(a line's ohms, the ohms of each way home) of its circuit's run at a temperature."""
        found = self._run_ohms.get((celsius, hz))
        if found is None:
            circuit = self.circuit
            line = run_ohm(circuit, celsius, hz)
            found = self._run_ohms[celsius, hz] = line, return_branches(circuit, celsius, hz)
        return found

    @cached_property
    def _run_ohms(self) -> dict[tuple[float, float], tuple[complex, dict[str, complex]]]:
        return {}

    @cached_property
    def outside(self) -> dict[Any, Any]:
        """The ohms of its own run, by kind of fault, temperature and poles."""
        return {}


class Seen:
    """A fault as one solved state sees it: the port used, and the ohms outside the port.

    ``line_ohm`` from the port to the fault, ``home_ohm`` back to the port; ``home`` the parts of
    the return as (part, ohms) for their split; ``pole`` of the place and panel line ``leg``, of
    a line to line fault the other ones too (0 where there is none). ``ohm`` Z_th of the fault,
    ``z`` its absolute value, ``volts_open`` that of the open volts. Made in thousands: no
    dataclass.
    """

    __slots__ = (
        "home", "home_ohm", "leg", "line_ohm", "ohm", "other_leg", "other_pole", "pole", "port",
        "solved", "volts_open", "z",
    )  # fmt: skip

    def __init__(
        self,
        solved: Solved,
        port: Port,
        poles: tuple[int, int, int, int],
        line_ohm: complex = 0j,
        home_ohm: complex = 0j,
        home: tuple[tuple[str, complex], ...] = (),
    ):
        self.solved, self.port = solved, port
        self.pole, self.leg, self.other_pole, self.other_leg = poles
        self.line_ohm, self.home_ohm, self.home = line_ohm, home_ohm, home
        self.ohm = port.ohm + line_ohm + home_ohm
        self.z, self.volts_open = abs(self.ohm), port.size

    def amps(self) -> complex:
        """Bolted fault current at the state's voltage."""
        return self.port.volts / self.ohm

    def case_volts(self, amps: complex) -> complex:
        """What the line meets, against remote earth."""
        return self.solved.volts(self.port.b, self.port, amps) + amps * self.home_ohm

    def volts(self, node: str, amps: complex) -> complex:
        """Any node of the network against remote earth."""
        return self.solved.volts(node, self.port, amps)


def circuit_places(site: Installation, legs: dict[str, tuple[int, ...]]) -> list[Place]:
    """The end of every circuit."""
    return [
        Place(c.id, c.name or "Unnamed circuit", c.panel, legs[c.id], circuit=c)
        for c in site.circuits
    ]


def enclosure_places(site: Installation) -> list[Place]:
    """Every enclosure; one with its own main on both sides of it. An insulating one has no metal
    that a hand could touch; but a fault to the protective conductor that its feeder brings puts all
    metal behind it at that voltage, and is to be cleared (IEC 60364-4-41, 411.3.2.1)."""
    lines, found = lines_at(site), []
    protected = {f.to for f in site.feeders if f.egc not in (None, "none")}
    for panel in site.panels:
        name, legs = panel.name or "Panel", tuple(range(1, lines[panel.id] + 1))
        if panel.insulated == "yes" and panel.id not in protected:
            continue
        sides = (
            (Side.LOAD, Side.LINE) if opens(panel.main) or panel.rcd_ma is not None else (Side.ANY,)
        )
        for side in sides:
            found.append(Place(panel.id, name, panel.id, legs, enclosure=panel, side=side))
    return found


def metal_places(site: Installation) -> list[Place]:
    """Pipes, frames and electrodes: a line of their panel meets them."""
    first, lines, found = site.panel.id, lines_at(site), []
    for metal in site.metals:
        if metal.material in ("plastic", "none"):
            continue
        panel = metal.panel or first
        tied = metal.bonded == "yes" and metal.panel and metal.past_repair != "yes"
        tie = (BranchId.of(metal.id, "bond"), NodeId.of(panel, "ground")) if tied else None
        node = NodeId.of(metal.id, "metal")
        found.append(Place(metal.id, name_of(metal), panel, (1,), node=node, tie=tie))
    for electrode in site.electrodes:
        if electrode.ohm is None or electrode.joined == "no":
            continue
        panel = electrode.panel
        bar = NodeId.of(panel, "N" if electrode.lands == "neutral bar" else "ground")
        tie, node = (BranchId.of(electrode.id, "gec"), bar), NodeId.of(electrode.id, "top")
        found.append(Place(electrode.id, name_of(electrode), panel, (1,), node=node, tie=tie))
    return [p for p in found if lines[p.panel]]


Way = tuple[int, int, int, int]


@lru_cache(maxsize=256)
def ways_of(legs: tuple[int, ...], kind: FaultKind) -> tuple[Way, ...]:
    """(pole, panel line, the other pole, its line) of each way a fault of ``kind`` can be at a
    place with poles on these lines: on each of them, or between each two."""
    poles = list(enumerate(legs, 1))
    if kind is FaultKind.LINE:
        return tuple((*one, *other) for one, other in itertools.combinations(poles, 2))
    return tuple((*one, 0, 0) for one in poles)


def ports_of(places: Iterable[Place]) -> set[tuple[NodeId, NodeId]]:
    """The ports of their panels that faults at these places are seen from."""
    found: set[tuple[NodeId, NodeId]] = set()
    for at in {(p.panel, p.side, p.legs): p for p in places}.values():
        lines = [at.line_node(leg) for leg in at.legs]
        ends = [node_of(at.panel, part) for part in ("ground", "case", "N")]
        found.update((line, end) for line in lines for end in ends)
        found.update(itertools.combinations(lines, 2))
    return found


def all_seen(states: Iterable[Solved], place: Place, kind: FaultKind) -> list[Seen]:
    """A fault of ``kind`` at ``place`` in every state, each way it can be."""
    found, ways = [], ways_of(place.legs, kind)
    circuit = place.circuit
    for solved in states:
        if circuit is None:
            for way in ways:
                end = _enclosure_end(place, kind, way)
                found.append(Seen(solved, solved.port(place.line_node(way[1]), end), way))
        elif solved.has(f"{circuit.id}.case"):
            for way in ways:
                end = _circuit_end(solved, circuit, kind, way)
                port = solved.port(f"{circuit.id}.L{way[0]}", end)
                found.append(Seen(solved, port, way))
        else:
            for way in ways:
                # It hangs on its panel: the panel's port, its own run in series.
                end, line, home, parts = _outside(solved, place, kind, way)
                port = solved.port(place.line_node(way[1]), end)
                found.append(Seen(solved, port, way, line, home, parts))
    return found


def _enclosure_end(place: Place, kind: FaultKind, way: Way) -> str:
    """What a line of an enclosure, or of other metal's panel, meets."""
    if kind is FaultKind.CASE:
        return place.case_node
    return node_of(place.panel, "N") if kind is FaultKind.NEUTRAL else place.line_node(way[3])


def _circuit_end(solved: Solved, circuit: Circuit, kind: FaultKind, way: Way) -> str:
    """What a line of a circuit that is a part of the network meets."""
    if kind is FaultKind.CASE:
        return f"{circuit.id}.case"
    if kind is FaultKind.NEUTRAL:
        return f"{solved.wiring.owners.get(circuit.id, circuit.id)}.N"
    return f"{circuit.id}.L{way[2]}"


def _outside(
    solved: Solved, place: Place, kind: FaultKind, way: Way
) -> tuple[str, complex, complex, tuple[tuple[str, complex], ...]]:
    """(the panel's node its way back ends at, line ohms, ohms home, the parts of the way home) of
    a hanging circuit: the same in every state of one temperature."""
    key = (kind, solved.state.temperature_c, way)
    found = place.outside.get(key)
    if found is None:
        circuit: Any = place.circuit
        plain, back = place.run_ohms(solved.state.temperature_c, solved.hz)
        has_joints = not solved.wiring.on.is_empty
        line = solved.jointed(f"{circuit.id}.line{way[0]}", plain) if has_joints else plain
        if kind is FaultKind.CASE:
            parts = home_parts(solved, circuit, back)
            on_case = parts and all(p == "raceway" for p, _ in parts)
            end = node_of(place.panel, "case" if on_case else "ground")
        elif kind is FaultKind.NEUTRAL:
            celsius, hz = solved.state.temperature_c, solved.hz
            own = run_ohm(circuit, celsius, hz, neutral=True) if is_ring(circuit) else plain
            parts = (("neutral", solved.jointed(f"{circuit.id}.neutral", own)),)
            end = node_of(place.panel, "N")
        else:
            branch = f"line{way[2]}"
            parts = ((branch, solved.jointed(f"{circuit.id}.{branch}", plain)),)
            end = place.line_node(way[3])
        home = parts[0][1] if len(parts) == 1 else parallel(z for _, z in parts)
        found = place.outside[key] = end, line, home, parts
    return found


@lru_cache(maxsize=4096)
def node_of(element: str, part: str, number: int = 0) -> NodeId:
    """The one NodeId of these: a site has few and asks often."""
    return NodeId.of(element, part, number)


def home_parts(solved: Solved, circuit: Circuit, back) -> tuple[tuple[str, complex], ...]:
    """(part, ohms with its joints) of the ways home that are not open."""
    found, has_joints = [], not solved.wiring.on.is_empty
    for part, ohm in back.items():
        if part == "egc" and circuit.id in solved.wiring.no_ground:
            continue
        whole = solved.jointed(f"{circuit.id}.{part}", ohm) if has_joints else ohm
        if abs(whole) < OPEN_OHM:
            found.append((part, whole))
    return tuple(found)


def parallel(branches: Iterable[complex]) -> complex:
    """Ohms of parallel branches; OPEN_OHM for none."""
    ohms = list(branches)
    if len(ohms) == 1:
        return ohms[0]
    if not ohms:
        return complex(OPEN_OHM)
    if any(z == 0 for z in ohms):
        return 0j
    return 1 / sum(1 / z for z in ohms)
