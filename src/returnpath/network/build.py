"""Site → network: nodes and branches named by the elements they stand for.

    u1.L1 --s1.line1-- p1.lug1 --p1.main1-- p1.L1 ---- c2.line1 ---- c2.L1
    u1.N  --s1.neutral- p1.N ==p1.bond== p1.case ==p1.strap== p1.ground ==c2.egc== c2.case
      |                  or \\e1.gec-- e1.top --e1.soil-- earth      c2.raceway: p1.case
     u1.earth

Node and branch names are element ids with a part after the dot. A joint changes the branch it
is on; an open one leaves it out.
"""

import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from .. import armour, conductor, earth, tables
from ..conductor import Wire
from ..site import Circuit, Electrode, Feeder, Installation, Service
from ..site.rings import is_ring, ring_shares
from ..supply import Source
from ..vocabulary import System
from .soil import near_groups, row_ohms, shapes_on_plan
from .solver import CLOSED_OHM, EARTH, Coupled, Network, coupled
from .wiring import Wiring, has_strap, lines_of, wiring_of

LEAST_LOAD_VA = 0.01


@dataclass(frozen=True, slots=True)
class State:
    """One way to solve a site: which supply drives it and how, conductor temperature, loads.

    ``outdoor_c`` is the temperature of the service runs; ``factor`` scales the driving voltage;
    ``earth_ohm`` of the utility's neutral where the site does not say.
    """

    supply: str
    source: Source
    temperature_c: float
    outdoor_c: float
    factor: float
    earth_ohm: float = 25.0
    loads: bool = False


@lru_cache(maxsize=4096)
def _wire(
    size: Any,
    material: Any,
    method: Any,
    sets: Any = 1,
    solid: Any = None,
    insulation: Any = "thermoplastic",
) -> Wire:
    """The one Wire of these facts: a site has few kinds of wire and many runs."""
    return Wire(size, material, method, sets, solid, insulation)


_SOLID = {"yes": True, "no": False}


def service_wire(service: Service, neutral: bool = False) -> Wire:
    """The service conductor as a Wire; the site's gaps must be filled."""
    method = "triplex" if service.run == "overhead" else "lateral"
    size = service.neutral_size if neutral else service.line_size
    insulation = service.insulation or "thermoplastic"
    return _wire(size, service.line_material, method, service.sets, None, insulation)


def supply_side_wire(service: Service) -> Wire:
    """The bonding wire beside a service run: of its lines' metal where it is made in it."""
    size, metal = service.egc_size, service.line_material
    if not tables.is_metric(size) and size not in tables.sizes(metal):
        metal = "copper"
    return _wire(size, metal, "triplex")


def line_wire(run: Circuit | Feeder) -> Wire:
    """A circuit's or feeder's line conductor as a Wire."""
    if isinstance(run, Circuit):
        sets, solid = 1, _SOLID.get(run.solid)
    else:
        sets, solid = run.sets, None
    return _wire(run.line_size, run.line_material, run.method, sets, solid, run.insulation)


def neutral_wire(run: Circuit | Feeder) -> Wire:
    """Its neutral: a circuit's is its line's size."""
    if isinstance(run, Circuit):
        return line_wire(run)
    size = run.neutral_size or run.line_size
    return _wire(size, run.line_material, run.method, run.sets, None, run.insulation)


def egc_wire(run: Circuit | Feeder) -> Wire | None:
    """Its EGC as a Wire, None where it has none."""
    if run.egc not in ("wire", "both") or run.egc_size is None:
        return None
    return _wire(run.egc_size, run.egc_material, run.method, 1, None, run.insulation)


def wire_ohm(wire: Wire, feet: float, celsius: float, hz: float) -> complex:
    """Impedance of a run at the study's temperature, metric wires at theirs."""
    return conductor.impedance_per_kft(wire, celsius, hz) * feet / 1000.0


def run_ohm(run: Circuit | Feeder, celsius: float, hz: float, neutral: bool = False) -> complex:
    """Impedance of a run's line or neutral: its segments one after another, where it has any; of
    a ring's at the point where a fault sees most ohms."""
    if not run.segments:
        wire = neutral_wire(run) if neutral else line_wire(run)
        whole = wire_ohm(wire, run.length_ft, celsius, hz)
        if not isinstance(run, Circuit) or not is_ring(run):
            return whole
        shares = ring_shares(run)
        spur = wire_ohm(wire, run.spur_ft or 0.0, celsius, hz)
        return whole * (shares.neutral if neutral else shares.line) + spur
    sets = getattr(run, "sets", None) or 1
    whole = getattr(run, "neutral_size", None) if neutral else None
    total = 0j
    for one in run.segments:
        size = whole or one.line_size
        wire = _wire(size, one.line_material, one.method, sets, None, run.insulation)
        total += wire_ohm(wire, one.length_ft, celsius, hz)
    return total


def _segments_home(run: Circuit | Feeder, celsius: float, hz: float) -> dict[str, complex]:
    """The way home of a run of segments: each its wire and its raceway side by side."""
    total = 0j
    for one in run.segments or ():
        ways = []
        if one.egc in ("wire", "both") and one.egc_size:
            metal = one.egc_material or one.line_material
            wire = _wire(one.egc_size, metal, one.method, 1, None, run.insulation)
            ways.append(wire_ohm(wire, one.length_ft, celsius, hz))
        if one.egc in ("raceway", "both"):
            kind = conductor.method(one.method).steel_return
            ways.append(conductor.raceway_impedance(kind, one.raceway_size or "1/2", one.length_ft))
        if not ways:
            return {}
        total += 1 / sum(1 / w for w in ways)
    return {"raceway" if run.egc == "raceway" else "egc": total}


def steel_home(run: Circuit | Feeder, celsius: float) -> complex:
    """Ohms of a run's conduit wall or armour over its length."""
    kind = conductor.method(run.method).steel_return
    if kind == armour.SWA:
        own = conductor.METRIC_C.get(celsius, celsius)
        return armour.armour_ohm(run.line_size, armour.cores_of(run), run.length_ft, own)
    return conductor.raceway_impedance(kind, run.raceway_size, run.length_ft)


def steel_i2t(run: Circuit | Feeder) -> float:
    """The ampere-squared-seconds a run's conduit wall or armour lives through."""
    kind = conductor.method(run.method).steel_return
    if kind == armour.SWA:
        return armour.armour_i2t(run.line_size, armour.cores_of(run), run.insulation)
    return conductor.raceway_i2t(kind, run.raceway_size)


def return_branches(run: Circuit | Feeder, celsius: float, hz: float) -> dict[str, complex]:
    """The parallel branches home from the far end: part name → ohms of the whole run.

    A measured return replaces what kind and length give; armour and flexible metal count as a
    way home only with one.
    """
    if run.return_ohm is not None and (run.egc != "none" or getattr(run, "relied_on", None)):
        return {"egc" if run.egc in ("wire", "both") else "raceway": complex(run.return_ohm)}
    if run.segments:
        return _segments_home(run, celsius, hz)
    found = {}
    if wire := egc_wire(run):
        found["egc"] = wire_ohm(wire, run.length_ft, celsius, hz)
        if isinstance(run, Circuit) and is_ring(run):
            spur = wire_ohm(wire, run.spur_ft or 0.0, celsius, hz)
            found["egc"] = found["egc"] * ring_shares(run).egc + spur
    if run.egc in ("raceway", "both"):
        found["raceway"] = steel_home(run, celsius)
    return found


class Builder:
    """Gathers a site's network in one state."""

    def __init__(self, site: Installation, state: State, wiring: Wiring):
        self.site, self.state = site, state
        self.net = Network()
        self.hz = float(self.site.frequency_hz)
        self.wiring, self.legs, self.owners = wiring, wiring.legs, wiring.owners
        self.lines = lines_of(self.site)

    def add(self, branch_id: str, a: str, b: str, ohm: complex = CLOSED_OHM) -> None:
        """A branch, with all the joints that are on it."""
        if self.wiring.on.is_open(branch_id):
            self.net.node(a)
            self.net.node(b)
            return
        self.net.branch(branch_id, a, b, ohm + self.wiring.on.ohm(branch_id))

    def backbone(self) -> None:
        """Everything but the branch circuits."""
        for supply in self.site.supplies:
            self._supply(supply)
        for service in self.site.services:
            if service.line_size is not None:
                self._service(service)
        for panel in self.site.panels:
            self._panel(panel)
        for feeder in self.site.feeders:
            if feeder.line_size is not None:
                self._feeder(feeder)
        self._electrodes()
        for metal in self.site.metals:
            self._metal(metal)

    def _supply(self, supply: Any) -> None:
        unit, state = supply.id, self.state
        if unit == state.supply:
            for suffix, ports, volts, common, own in state.source.ports(unit, state.factor):
                self.net.couple(coupled(unit + suffix, ports, volts, common, own))
        self.net.node(f"{unit}.N")
        self.net.node(f"{unit}.case")
        if supply.kind == "utility":
            ohm = supply.earth_ohm if supply.earth_ohm is not None else state.earth_ohm
            self.add(f"{unit}.earth", f"{unit}.N", EARTH, ohm)
            if supply.earthing != "IT":
                self.add(f"{unit}.bond", f"{unit}.N", f"{unit}.case")
        else:
            if supply.earth_ohm is not None:
                self.add(f"{unit}.earth", f"{unit}.case", EARTH, supply.earth_ohm)
            if supply.bond == "in":
                self.add(f"{unit}.bond", f"{unit}.N", f"{unit}.case")
            if supply.fed_by is not None:
                self.add(f"{unit}.primary", f"{unit}.case", f"{supply.fed_by}.case")

    def _service(self, service: Any) -> None:
        unit, run, panel = service.supply, service.id, service.to
        supply = next(s for s in self.site.supplies if s.id == unit)
        line, neutral = (self._service_ohm(service, n) for n in (False, True))
        active = unit == self.state.supply
        if active:
            for n in range(1, self.lines + 1):
                self.add(f"{run}.line{n}", f"{unit}.L{n}", f"{panel}.lug{n}", line)
        if active or supply.neutral_switched != "yes":
            self.add(f"{run}.neutral", f"{panel}.N", f"{unit}.N", neutral)
        if service.egc_size is not None:
            ohm = wire_ohm(
                supply_side_wire(service), service.length_ft, self.state.outdoor_c, self.hz
            )
            self.add(f"{run}.egc", f"{panel}.ground", f"{unit}.case", ohm)

    def _service_ohm(self, service: Any, neutral: bool) -> complex:
        wire = service_wire(service, neutral)
        ohm = wire_ohm(wire, service.length_ft, self.state.outdoor_c, self.hz)
        if service.spacing_in is None:
            return ohm
        per_kft = conductor.open_wire_reactance_per_kft(wire, service.spacing_in, self.hz)
        return complex(ohm.real, per_kft * service.length_ft / 1000)

    def _panel(self, panel: Any) -> None:
        at = panel.id
        for n in range(1, self.lines + 1):
            self.add(f"{at}.main{n}", f"{at}.lug{n}", f"{at}.L{n}")
        for part in ("N", "ground", "case"):
            self.net.node(f"{at}.{part}")
        if has_strap(panel):
            self.add(f"{at}.strap", f"{at}.ground", f"{at}.case")
        if panel.grounds_on_neutral == "yes":
            self.add(f"{at}.tie", f"{at}.ground", f"{at}.N")
        if panel.bond == "in":
            self.add(f"{at}.bond", f"{at}.case", f"{at}.N", panel.bond_ohm or CLOSED_OHM)

    def _feeder(self, feeder: Any) -> None:
        at, a, b, c = feeder.id, feeder.source, feeder.to, self.state.temperature_c
        line = run_ohm(feeder, c, self.hz)
        for n in range(1, min(feeder.poles, self.lines) + 1):
            self.add(f"{at}.line{n}", f"{a}.L{n}", f"{b}.lug{n}", line)
        if feeder.neutral == "yes":
            ohm = run_ohm(feeder, c, self.hz, neutral=True)
            self.add(f"{at}.neutral", f"{b}.N", f"{a}.N", ohm)
        ends = {"egc": "ground", "raceway": "case"}
        for part, ohm in return_branches(feeder, c, self.hz).items():
            self.add(f"{at}.{part}", f"{b}.{ends[part]}", f"{a}.{ends[part]}", ohm)

    def _electrodes(self) -> None:
        """Each electrode; near rods as one port matrix."""
        near = near_groups(self.site.electrodes)
        for electrode in self.site.electrodes:
            if electrode.ohm is None or electrode.joined == "no":
                continue
            at = electrode.id
            bar = "N" if electrode.lands == "neutral bar" else "ground"
            ohm: complex = CLOSED_OHM
            if electrode.gec_length_ft and electrode.gec_size:
                wire = Wire(electrode.gec_size, electrode.gec_material, "SE")
                ohm = wire_ohm(wire, electrode.gec_length_ft, self.state.temperature_c, self.hz)
            self.add(f"{at}.gec", f"{electrode.panel}.{bar}", f"{at}.top", ohm)
            if at not in near:
                self.net.branch(f"{at}.soil", f"{at}.top", EARTH, electrode.ohm)
        for group in {id(g): g for g in near.values()}.values():
            self._near(group)

    def _near(self, group: list[Electrode]) -> None:
        """Rods close enough to share soil: their mutual matrix as coupled ports."""
        soil = self.site.soil_ohm_m or tables.assumed_number("soil resistivity ohm-m")
        shapes = shapes_on_plan(self.site.electrodes)
        if all(e.id in shapes for e in group):
            ohms = earth.matrix([shapes[e.id] for e in group], soil)
            self._share(group, tuple(tuple(complex(v) for v in row) for row in ohms))
            return
        usual = tables.assumed_number("rod length ft")
        order = {e.id: n for n, e in enumerate(group)}
        rods = tuple(
            (e.ohm, e.length_ft or usual, e.spacing_ft, order.get(e.near or "")) for e in group
        )
        self._share(group, row_ohms(soil, rods))

    def _share(self, group: list[Electrode], ohms: tuple[tuple[complex, ...], ...]) -> None:
        ports = tuple((f"{e.id}.top", EARTH) for e in group)
        self.net.couple(Coupled(f"{group[0].id}.soil", ports, (0j,) * len(group), ohms))

    def _metal(self, metal: Any) -> None:
        at = metal.id
        self.net.node(f"{at}.metal")
        if metal.material in ("plastic", "none"):
            return
        if metal.bonded == "yes" and metal.panel and metal.past_repair != "yes":
            self.add(f"{at}.bond", f"{at}.metal", f"{metal.panel}.ground")
        if metal.earth_ohm is not None:
            self.add(f"{at}.earth", f"{at}.metal", EARTH, metal.earth_ohm)
        if metal.shared_main == "yes":
            utility = next((s.id for s in self.site.supplies if s.kind == "utility"), None)
            if utility:
                self.add(f"{at}.main", f"{at}.metal", f"{utility}.N", metal.main_ohm)
        if metal.also_joins:
            self.add(f"{at}.join", f"{at}.metal", f"{metal.also_joins}.ground", metal.join_ohm)

    def neutral_node(self, circuit: Circuit) -> str:
        """Where a circuit's neutral ends: a shared one ends where its first circuit's does."""
        return f"{self.owners.get(circuit.id, circuit.id)}.N"

    def circuit(self, circuit: Circuit) -> None:
        """A branch circuit's conductors, and its load where loads are on."""
        if circuit.line_size is None:
            return
        at, panel, celsius = circuit.id, circuit.panel, self.state.temperature_c
        line = run_ohm(circuit, celsius, self.hz)
        for n, leg in enumerate(self.legs[at], 1):
            self.add(f"{at}.line{n}", f"{panel}.L{leg}", f"{at}.L{n}", line)
        neutral = self.neutral_node(circuit)
        if circuit.neutral == "yes" and neutral == f"{at}.N":
            back = run_ohm(circuit, celsius, self.hz, neutral=True) if is_ring(circuit) else line
            self.add(f"{at}.neutral", neutral, f"{panel}.N", back)
        self.net.node(f"{at}.case")
        ends = {"egc": "ground", "raceway": "case"}
        for part, ohm in return_branches(circuit, celsius, self.hz).items():
            if part == "egc" and at in self.wiring.no_ground:
                continue  # the wire it is said to share is not there
            self.add(f"{at}.{part}", f"{at}.case", f"{panel}.{ends[part]}", ohm)
        if circuit.neutral_on_frame and circuit.neutral == "yes":
            self.add(f"{at}.bond", neutral, f"{at}.case")
        for other in circuit.joined_to:
            self.add(f"{at}.to_{other}", f"{at}.case", f"{other}.metal")
        if self.state.loads:
            self._load(circuit, neutral)

    def _load(self, circuit: Circuit, neutral: str) -> None:
        """V²/S at rated voltage and the power factor given. A load made for two lines, behind a
        feeder that brings one, does not run."""
        if not circuit.load_va or circuit.load_va < LEAST_LOAD_VA:
            return
        at, legs = circuit.id, self.legs[circuit.id]
        system: System = self.state.source.system
        if len(legs) < min(circuit.poles or 1, system.lines):
            return
        volts = system.rated_volts(len(legs))
        angle = math.acos(min(circuit.power_factor or 1.0, 1.0))
        turn = complex(math.cos(angle), math.sin(angle))
        if len(legs) == 1:
            if circuit.neutral != "yes":
                return
            self.add(f"{at}.load", f"{at}.L1", neutral, volts**2 / circuit.load_va * turn)
        elif len(legs) == 2:
            self.add(f"{at}.load", f"{at}.L1", f"{at}.L2", volts**2 / circuit.load_va * turn)
        else:
            ohm = 3 * volts**2 / circuit.load_va * turn  # a delta of three equal loads
            for n in (1, 2, 3):
                self.add(f"{at}.load{n}", f"{at}.L{n}", f"{at}.L{n % 3 + 1}", ohm)


def build(
    site: Installation, state: State, circuits: Any = None, wiring: Wiring | None = None
) -> Network:
    """The network of a site whose gaps are filled, with ``circuits`` (all unless given)."""
    builder = Builder(site, state, wiring or wiring_of(site))
    builder.backbone()
    for circuit in site.circuits if circuits is None else circuits:
        builder.circuit(circuit)
    return builder.net
