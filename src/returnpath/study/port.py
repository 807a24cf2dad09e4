"""Where a fault can be, and what a solved network looks like from there.

A circuit that hangs on its panel by its line and its return alone is seen through its panel's
port with its own ohms in series: exact, and the panel's solve serves all of its circuits. What is
joined to anything else is a part of the network.
"""

import itertools
from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property

from ..network.build import line_wire, return_branches, wire_ohm
from ..network.wiring import lines_at
from ..site import Circuit, Installation, Panel, name_of
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
        return NodeId.of(self.panel, "lug" if self.side is Side.LINE else "L", leg)

    def run_ohms(self, celsius: float, hz: float) -> tuple[complex, dict[str, complex]]:
        """(a line's ohms, the ohms of each way home) of its circuit's run at a temperature."""
        found = self._run_ohms.get((celsius, hz))
        if found is None:
            circuit = self.circuit
            line = wire_ohm(line_wire(circuit), circuit.length_ft, celsius, hz)
            found = self._run_ohms[celsius, hz] = line, return_branches(circuit, celsius, hz)
        return found

    @cached_property
    def _run_ohms(self) -> dict:
        return {}


@dataclass(frozen=True)
class Seen:
    """A fault as one solved state sees it: the port used, and the ohms outside the port.

    ``line_ohm`` from the port to the fault, ``home_ohm`` back to the port; ``home`` the parts of
    the return as (part, ohms) for their split; ``pole`` of the place and panel line ``leg``, of
    a line to line fault the other ones too (0 where there is none).
    """

    solved: Solved
    port: Port
    pole: int
    leg: int
    other_pole: int = 0
    other_leg: int = 0
    line_ohm: complex = 0j
    home_ohm: complex = 0j
    home: tuple[tuple[str, complex], ...] = ()

    @property
    def ohm(self) -> complex:
        """Z_th of the fault."""
        return self.port.ohm + self.line_ohm + self.home_ohm

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
    """Every enclosure; one with its own main on both sides of it."""
    lines, found = lines_at(site), []
    for panel in site.panels:
        name, legs = panel.name or "Panel", tuple(range(1, lines[panel.id] + 1))
        sides = (Side.LOAD, Side.LINE) if panel.main.rating_a is not None else (Side.ANY,)
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


def seen_from(solved: Solved, place: Place, kind: FaultKind) -> Iterator[Seen]:
    """A fault of ``kind`` on each line of ``place``, or between each two."""
    poles = list(enumerate(place.legs, 1))
    if kind is FaultKind.LINE:
        for one, other in itertools.combinations(poles, 2):
            yield _seen(solved, place, kind, one, other)
        return
    for one in poles:
        yield _seen(solved, place, kind, one, (0, 0))


def _seen(
    solved: Solved, place: Place, kind: FaultKind, one: tuple[int, int], other: tuple[int, int]
) -> Seen:
    """``one`` and ``other``: (pole, panel line)."""
    circuit, (pole, leg) = place.circuit, one
    if circuit is None:
        end = {
            FaultKind.CASE: place.case_node,
            FaultKind.NEUTRAL: NodeId.of(place.panel, "N"),
            FaultKind.LINE: place.line_node(other[1]),
        }[kind]
        return Seen(solved, solved.port(place.line_node(leg), end), pole, leg, *other)
    if solved.has(f"{circuit.id}.case"):
        owner = solved.wiring.owners.get(circuit.id, circuit.id)
        end = {
            FaultKind.CASE: f"{circuit.id}.case",
            FaultKind.NEUTRAL: f"{owner}.N",
            FaultKind.LINE: f"{circuit.id}.L{other[0]}",
        }[kind]
        return Seen(solved, solved.port(f"{circuit.id}.L{pole}", end), pole, leg, *other)
    return _hanging(solved, place, kind, one, other)


def _hanging(
    solved: Solved, place: Place, kind: FaultKind, one: tuple[int, int], other: tuple[int, int]
) -> Seen:
    """A circuit that hangs on its panel: the panel's port, its own run in series."""
    circuit, (pole, leg) = place.circuit, one
    plain, back = place.run_ohms(solved.state.temperature_c, solved.hz)
    line = solved.jointed(f"{circuit.id}.line{pole}", plain)
    if kind is FaultKind.CASE:
        parts = home_parts(solved, circuit, back)
        end = "case" if parts and all(p == "raceway" for p, _ in parts) else "ground"
    elif kind is FaultKind.NEUTRAL:
        parts, end = (("neutral", solved.jointed(f"{circuit.id}.neutral", plain)),), "N"
    else:
        branch = f"line{other[0]}"
        parts, end = ((branch, solved.jointed(f"{circuit.id}.{branch}", plain)),), f"L{other[1]}"
    port = solved.port(place.line_node(leg), NodeId.of(circuit.panel, end))
    home = parallel(z for _, z in parts)
    return Seen(solved, port, pole, leg, *other, line, home, parts)


def home_parts(solved: Solved, circuit: Circuit, back) -> tuple[tuple[str, complex], ...]:
    """(part, ohms with its joints) of the ways home that are not open."""
    found = []
    for part, ohm in back.items():
        if part == "egc" and circuit.id in solved.wiring.no_ground:
            continue
        whole = solved.jointed(f"{circuit.id}.{part}", ohm)
        if abs(whole) < OPEN_OHM:
            found.append((part, whole))
    return tuple(found)


def parallel(ohms) -> complex:
    """Ohms of parallel branches; OPEN_OHM for none."""
    ohms = list(ohms)
    if not ohms:
        return complex(OPEN_OHM)
    if any(z == 0 for z in ohms):
        return 0j
    return 1 / sum(1 / z for z in ohms)
