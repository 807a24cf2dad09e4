"""Site → network: nodes and branches named by the elements they stand for.

    u1.L1 --s1.line1-- p1.L1 ---- c.line1 ---- c.L1
    u1.N  --s1.neutral- p1.N ==p1.bond== p1.ground ==c.egc / c.raceway== c.case
      |                  or \\e1.gec-- earth (from either bar)
     u1.earth

Node and branch names are element ids with a part after the dot.
"""

from dataclasses import dataclass

from .. import conductor
from ..conductor import Wire
from ..site import Circuit, Installation
from ..supply import Transformer
from .solver import EARTH, Network, Winding


@dataclass(frozen=True, slots=True)
class State:
    """One way to solve a site: the source, conductor temperature, driving volts, utility earth.

    ``outdoor_c`` is the temperature of the service run; branch wiring is at ``temperature_c``.
    """

    source: Transformer
    temperature_c: float
    outdoor_c: float
    volts: float
    utility_earth_ohm: float


def service_wire(site: Installation, neutral: bool = False) -> Wire:
    """The service conductor as a Wire; the site's gaps must be filled."""
    service = site.service
    method = "triplex" if service.run == "overhead" else "lateral"
    size = service.neutral_size if neutral else service.line_size
    return Wire(size, service.line_material, method, sets=service.sets)


def line_wire(circuit: Circuit) -> Wire:
    """A circuit's line conductor as a Wire."""
    return Wire(
        circuit.line_size,
        circuit.line_material,
        circuit.method,
        insulation=circuit.insulation,
    )


def egc_wire(circuit: Circuit) -> Wire | None:
    """A circuit's ground wire as a Wire, None where it has none."""
    if circuit.egc not in ("wire", "both"):
        return None
    return Wire(
        circuit.egc_size,
        circuit.egc_material,
        circuit.method,
        insulation=circuit.insulation,
    )


def return_branches(circuit: Circuit, temperature_c: float, hz: float) -> dict[str, complex]:
    """The parallel branches home from the case: part name → ohms of the whole run."""
    found = {}
    if wire := egc_wire(circuit):
        found["egc"] = conductor.impedance(wire, circuit.length_ft, temperature_c, hz)
    if circuit.egc in ("raceway", "both"):
        kind = conductor.method(circuit.method).steel_return
        found["raceway"] = conductor.raceway_impedance(
            kind, circuit.raceway_size, circuit.length_ft
        )
    return found


def build(site: Installation, state: State) -> Network:
    """The network of a site whose gaps are filled (``assume``), in ``state``, loads off."""
    net = Network()
    hz = float(site.frequency_hz)
    unit, run, panel = site.supply.id, site.service, site.panel
    net.winding(
        Winding(
            unit,
            ((f"{unit}.L1", f"{unit}.N"), (f"{unit}.N", f"{unit}.L2")),
            state.volts,
            state.source.z0,
            state.source.z1,
        )
    )
    net.branch(f"{unit}.earth", f"{unit}.N", EARTH, state.utility_earth_ohm)
    line = conductor.impedance(service_wire(site), run.length_ft, state.outdoor_c, hz)
    neutral = conductor.impedance(service_wire(site, True), run.length_ft, state.outdoor_c, hz)
    for leg in ("1", "2"):
        net.branch(f"{run.id}.line{leg}", f"{unit}.L{leg}", f"{panel.id}.line_lug{leg}", line)
        net.branch(f"{panel.id}.main{leg}", f"{panel.id}.line_lug{leg}", f"{panel.id}.L{leg}")
    net.branch(f"{run.id}.neutral", f"{panel.id}.N", f"{unit}.N", neutral)
    if panel.bond == "in":
        net.branch(f"{panel.id}.bond", f"{panel.id}.ground", f"{panel.id}.N")
    lands = "N" if site.electrode.lands == "neutral bar" else "ground"
    net.branch(f"{site.electrode.id}.gec", f"{panel.id}.{lands}", EARTH, site.electrode.ohm)
    net.node(f"{panel.id}.ground")
    for circuit in site.circuits:
        if circuit.line_size is not None:
            _add_circuit(net, site, circuit, state.temperature_c, hz)
    return net


def _add_circuit(net: Network, site: Installation, circuit: Circuit, celsius, hz) -> None:
    panel, at = circuit.panel, circuit.id
    line = conductor.impedance(line_wire(circuit), circuit.length_ft, celsius, hz)
    for leg in ("1", "2")[: circuit.poles]:
        net.branch(f"{at}.line{leg}", f"{panel}.L{leg}", f"{at}.L{leg}", line)
    if circuit.neutral == "yes":
        net.branch(f"{at}.neutral", f"{at}.N", f"{panel}.N", line)
    net.node(f"{at}.case")
    for part, ohm in return_branches(circuit, celsius, hz).items():
        net.branch(f"{at}.{part}", f"{at}.case", f"{panel}.ground", ohm)
