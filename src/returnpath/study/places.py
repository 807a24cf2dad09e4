"""The places a fault can be: every exposed metal part, and the ends of every circuit.

A circuit that hangs on its panel by its line and its return alone is seen through its panel's
port with its own ohms in series: exact, and the panel's solve serves all of its circuits.
"""

from dataclasses import dataclass
from functools import cached_property

from ..network.build import line_wire, return_branches, wire_ohm
from ..network.wiring import is_meshed
from ..site import Circuit, Installation, Panel, name_of
from .solved import OPEN_OHM, Port, Solved
from .states import States


@dataclass(frozen=True)
class Seen:
    """A fault as one solved state sees it: the port used, and the ohms outside the port.

    ``line_ohm`` from the port to the fault, ``home_ohm`` from the case back to the port; parts
    of the return as {"egc": ohms, "raceway": ohms} for their split.
    """

    solved: Solved
    port: Port
    line_ohm: complex = 0j
    home_ohm: complex = 0j
    home: tuple[tuple[str, complex], ...] = ()

    @property
    def ohm(self) -> complex:
        """|Z_th| of the fault."""
        return self.port.ohm + self.line_ohm + self.home_ohm

    def amps(self) -> complex:
        """Bolted fault current at the state's voltage."""
        return self.port.volts / self.ohm

    def case_volts(self, amps: complex) -> complex:
        """The faulted case against remote earth."""
        return self.solved.volts(self.port.b, self.port, amps) + amps * self.home_ohm

    def volts(self, node: str, amps: complex) -> complex:
        """Any backbone node against remote earth."""
        return self.solved.volts(node, self.port, amps)


@dataclass(frozen=True)
class Place:
    """Where a fault to metal is judged: a circuit's case, a panel's enclosure, or other metal.

    ``node`` of other metal (pipe, frame, electrode); ``tie`` (branch, bar) is what joins it to
    its panel, None where nothing does.
    """

    id: str
    name: str
    panel: str
    circuit: Circuit | None = None
    enclosure: Panel | None = None
    node: str = ""
    tie: tuple[str, str] | None = None

    @cached_property
    def case_node(self) -> str:
        """The node of the metal, in the network where it is one."""
        return self.node or f"{self.id}.case"

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


def places(states: States, panel_legs: dict[str, int]) -> list[Place]:
    """Every circuit, then every enclosure that has line bars to fault."""
    site = states.site
    found = [Place(c.id, c.name or "Unnamed circuit", c.panel, circuit=c) for c in site.circuits]
    found += [
        Place(p.id, p.name or "Panel", p.id, enclosure=p)
        for p in site.panels
        if panel_legs.get(p.id)
    ]
    return found


def metal_places(site: Installation) -> list[Place]:
    """Pipes, frames and electrodes: a line of their panel meets them."""
    first, found = site.panel.id, []
    for metal in site.metals:
        if metal.material in ("plastic", "none"):
            continue
        tied = metal.bonded == "yes" and metal.panel and metal.past_repair != "yes"
        panel = metal.panel or first
        tie = (f"{metal.id}.bond", f"{panel}.ground") if tied else None
        found.append(Place(metal.id, name_of(metal), panel, node=f"{metal.id}.metal", tie=tie))
    for electrode in site.electrodes:
        if electrode.ohm is None or electrode.joined == "no":
            continue
        bar = "N" if electrode.lands == "neutral bar" else "ground"
        tie = (f"{electrode.id}.gec", f"{electrode.panel}.{bar}")
        node = f"{electrode.id}.top"
        found.append(Place(electrode.id, name_of(electrode), electrode.panel, node=node, tie=tie))
    return found


def seen_from(solved: Solved, place: Place, leg: int, pole: int) -> Seen:
    """A line-to-case fault of ``place`` on its ``pole`` (panel line ``leg``)."""
    circuit = place.circuit
    if circuit is None:
        return Seen(solved, solved.port(f"{place.panel}.L{leg}", place.case_node))
    if is_meshed(circuit):
        return Seen(solved, solved.port(f"{circuit.id}.L{pole}", f"{circuit.id}.case"))
    plain, back = place.run_ohms(solved.state.temperature_c, solved.hz)
    line = solved.jointed(f"{circuit.id}.line{pole}", plain)
    parts = []
    for part, ohm in back.items():
        parts.append((part, solved.jointed(f"{circuit.id}.{part}", ohm)))
    parts = [(p, z) for p, z in parts if abs(z) < OPEN_OHM]
    end = "case" if parts and all(p == "raceway" for p, _ in parts) else "ground"
    port = solved.port(f"{circuit.panel}.L{leg}", f"{circuit.panel}.{end}")
    home = parallel(z for _, z in parts)
    return Seen(solved, port, line, home, tuple(parts))


def parallel(ohms) -> complex:
    """Ohms of parallel branches; OPEN_OHM for none."""
    ohms = list(ohms)
    if not ohms:
        return complex(OPEN_OHM)
    if any(z == 0 for z in ohms):
        return 0j
    return 1 / sum(1 / z for z in ohms)
