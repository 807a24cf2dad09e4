"""The loop unrolled: its legs from the source out and back, and what the answer rests on.

A leg's share is Re(V_leg·conj V_drive)/|V_drive|²; the shares add to 1 (method 4). The
legs follow the dominant way home; what runs beside a leg is listed with its part of the current.
"""

import math
from dataclasses import dataclass
from functools import cache

from .. import tables
from ..assume import Assumption
from ..device import Breaker
from ..network.solver import EARTH
from ..site import field_info
from ..vocabulary import BranchId, FactPath
from .port import FaultKind
from .verdict import Verdict

LEAST_EFFECT = 0.001


@dataclass(frozen=True, slots=True)
class Leg:
    """One leg: ``way`` is "out" or "home"; parallel branches with the share each carries.

    ``share`` of the loop's ohms (0 to 1), ``ohm`` the leg's part of them (0 where no current
    flows and there is no loop to part), ``volts`` across it at the steady hot fault;
    ``branches`` (branch id, name, share of the fault's current).
    """

    id: BranchId
    label: str
    way: str
    share: float
    ohm: float
    volts: float
    branches: tuple[tuple[BranchId, str, float], ...]


class _Unroller:
    """Walks from the source to the fault and home, node volts at hand."""

    def __init__(self, fault):
        self.fault, self.basis = fault, fault.basis
        self.site, self.supply, self.seen = (
            self.basis.site,
            self.basis.states.supply,
            self.basis.low,
        )
        self.amps = self.seen.amps()
        self.loop_ohm = fault.loop_ohm if fault.lowest_a else 0.0
        unit, seen = self.supply.id, self.seen
        self.top = f"{unit}.L{seen.leg}"
        is_line = self.basis.kind is FaultKind.LINE
        self.bottom = f"{unit}.L{seen.other_leg}" if is_line else f"{unit}.N"
        at = seen.solved.solution.at
        self.drive = at(self.top) - at(self.bottom)
        self.found: list[Leg] = []

    def node(self, name: str) -> complex:
        """Volts of a node during the fault."""
        circuit = self.basis.place.circuit
        if name == EARTH:
            return 0j
        if circuit is not None and not self.seen.solved.has(name):
            # The circuit hangs on its panel: its end is not in the network.
            if name == f"{circuit.id}.L{self.seen.pole}":
                return self.seen.volts(self.seen.port.a, self.amps) - (
                    self.amps * self.seen.line_ohm
                )
            return self.seen.case_volts(self.amps)
        return self.seen.volts(name, self.amps)

    def leg(self, id_: str, label: str, way: str, a: str, b: str, *branches) -> None:
        """The leg from node ``a`` to node ``b``."""
        self.put(id_, label, way, self.node(a) - self.node(b), *branches)

    def put(self, id_: str, label: str, way: str, across: complex, *branches) -> None:
        """A leg with its volts at hand; branches that are not there are left out."""
        share = (across * self.drive.conjugate()).real / abs(self.drive) ** 2
        currents = self.fault.currents
        low = self.fault.lowest_a or math.inf
        made = tuple(
            (BranchId(b), words, currents.get(b, 0.0) / low)
            for b, words in branches
            if b in currents or b in self.seen.solved.network.branches
        )
        ohm = share * self.loop_ohm
        self.found.append(Leg(BranchId(id_), label, way, share, ohm, abs(across), made))


def legs_of(fault) -> tuple[Leg, ...]:
    """The legs of a loop in the order the current meets them."""
    u = _Unroller(fault)
    place, kind, n = u.basis.place, u.basis.kind, u.seen.leg
    feeders, service = u.basis.states.chain(place.panel)
    if service is None or u.drive == 0:
        return ()
    kind_of = u.supply.kind
    word = "transformer" if kind_of == "utility" else kind_of
    if u.supply.ze_ohm is not None:
        word = "supply, Ze"
    u.put(u.supply.id, word, "out", u.drive - (u.node(u.top) - u.node(u.bottom)))
    u.leg(f"{service.id}.line", "service line", "out", u.top, f"{service.to}.L{n}",
          (f"{service.id}.line{n}", "service line"))  # fmt: skip
    for feeder in reversed(feeders):
        u.leg(f"{feeder.id}.line", f"{feeder.name or 'feeder'} line", "out",
              f"{feeder.source}.L{n}", f"{feeder.to}.L{n}",
              (f"{feeder.id}.line{n}", "line"))  # fmt: skip
    circuit, met = place.circuit, place.case_node
    if circuit is not None:
        end = f"{circuit.id}.L{u.seen.pole}"
        u.leg(f"{circuit.id}.line", "branch line", "out", f"{place.panel}.L{n}", end,
              (f"{circuit.id}.line{u.seen.pole}", "line wire"))  # fmt: skip
    if kind is FaultKind.NEUTRAL:
        _home_by_neutral(u, circuit, feeders, service)
    elif kind is FaultKind.LINE:
        _home_by_line(u, circuit, feeders, service)
    elif circuit is not None:
        _home_of_circuit(u, circuit, met, feeders, service)
    elif place.node:
        _home_of_metal(u, place, feeders, service)
    else:
        _home_of_panel(u, place.panel, met, feeders, service)
    return tuple(u.found)


def _home_by_neutral(u: _Unroller, circuit, feeders, service) -> None:
    """Along the neutrals to the source."""
    panel = u.basis.place.panel
    if circuit is not None:
        owner = u.seen.solved.wiring.owners.get(circuit.id, circuit.id)
        in_network = u.seen.solved.has(f"{circuit.id}.case")
        end = f"{owner if in_network else circuit.id}.N"
        branch = f"{owner if in_network else circuit.id}.neutral"
        u.leg(f"{circuit.id}.neutral", "branch neutral", "home", end, f"{panel}.N",
              (branch, "neutral"))  # fmt: skip
    for feeder in feeders:
        branch, words = f"{feeder.id}.neutral", f"{feeder.name or 'feeder'} neutral"
        u.leg(branch, words, "home", f"{feeder.to}.N", f"{feeder.source}.N", (branch, "neutral"))
    u.leg(f"{service.id}.neutral", "service neutral", "home", f"{service.to}.N", u.bottom,
          (f"{service.id}.neutral", "service neutral"), *_soil(u, service.to))  # fmt: skip


def _home_by_line(u: _Unroller, circuit, feeders, service) -> None:
    """Along the other line to the source."""
    panel, n = u.basis.place.panel, u.seen.other_leg
    if circuit is not None:
        branch = f"{circuit.id}.line{u.seen.other_pole}"
        u.leg(branch, "other branch line", "home", f"{circuit.id}.L{u.seen.other_pole}",
              f"{panel}.L{n}", (branch, "other line"))  # fmt: skip
    for feeder in feeders:
        branch, words = f"{feeder.id}.line{n}", f"{feeder.name or 'feeder'} other line"
        a, b = f"{feeder.to}.L{n}", f"{feeder.source}.L{n}"
        u.leg(branch, words, "home", a, b, (branch, "line"))
    u.leg(f"{service.id}.line{n}", "other service line", "home", f"{service.to}.L{n}", u.bottom,
          (f"{service.id}.line{n}", "service line"))  # fmt: skip


def _home_of_metal(u: _Unroller, place, feeders, service) -> None:
    """Other metal: by its bond or electrode conductor to its panel's bar, else as it can."""
    if place.tie is None:
        ways = ((f"{place.id}.{part}", word) for part, word in _METAL_WAYS.items())
        u.leg("soil", "no bond", "home", place.node, u.bottom, *ways)
        return
    branch, bar = place.tie
    label = "electrode conductor" if branch.part == "gec" else "its bond"
    u.leg(branch, label, "home", place.node, bar, (branch, label))
    _home_of_panel(u, place.panel, bar, feeders, service, bar.part == "N")


_METAL_WAYS = {"main": "shared main", "join": "other building", "earth": "soil"}


def _home_of_circuit(u: _Unroller, circuit, case, feeders, service) -> None:
    if not u.seen.home and not u.seen.solved.has(f"{circuit.id}.case"):
        u.leg("soil", "no path back", "home", case, u.bottom)
        return
    ground = f"{circuit.panel}.ground"
    joined = ((f"{circuit.id}.to_{m}", "other metal") for m in circuit.joined_to)
    u.leg(f"{circuit.id}.return", "return", "home", case, ground,
          (f"{circuit.id}.egc", "EGC"), (f"{circuit.id}.raceway", "raceway"),
          (f"{circuit.id}.bond", "its neutral"), *joined)  # fmt: skip
    _home_of_panel(u, circuit.panel, ground, feeders, service)


def _home_of_panel(u: _Unroller, panel: str, here: str, feeders, service, on_neutral=False) -> None:
    """Up the panels: by the ground side while a feeder has one, by the neutral once bonded."""
    at = panel
    for feeder in feeders:
        if not on_neutral and feeder.egc in ("wire", "raceway", "both"):
            nxt = f"{feeder.source}.ground"
            u.leg(f"{feeder.id}.return", f"{feeder.name or 'feeder'} return", "home", here, nxt,
                  (f"{feeder.id}.egc", "EGC"), (f"{feeder.id}.raceway", "raceway"),
                  (f"{feeder.id}.neutral", "neutral"))  # fmt: skip
        else:
            if not on_neutral:
                joint = _to_neutral(u, at)
                if joint is None:
                    u.leg("soil", "soil", "home", here, u.bottom, *_soil(u, at))
                    return
                u.leg(joint, "bond", "home", here, f"{at}.N", (joint, "bond"))
                here, on_neutral = f"{at}.N", True
            nxt = f"{feeder.source}.N"
            u.leg(f"{feeder.id}.neutral", f"{feeder.name or 'feeder'} neutral", "home", here, nxt,
                  (f"{feeder.id}.neutral", "neutral"))  # fmt: skip
        here, at = nxt, feeder.source
    _home_of_service(u, at, here, on_neutral, service)


def _to_neutral(u: _Unroller, panel: str) -> str | None:
    """The branch by which a panel's grounds meet its neutral; None where they do not."""
    found = next(p for p in u.site.panels if p.id == panel)
    if found.bond == "in":
        return f"{panel}.bond"
    return f"{panel}.tie" if found.grounds_on_neutral == "yes" else None


def _home_of_service(u: _Unroller, at, here, on_neutral, service) -> None:
    run, joint = service.id, _to_neutral(u, at)
    if not on_neutral and joint is not None:
        u.leg(joint, "main bond", "home", here, f"{at}.N", (joint, "bond"))
        here, on_neutral = f"{at}.N", True
    if on_neutral:
        u.leg(f"{run}.neutral", "service neutral", "home", here, u.bottom,
              (f"{run}.neutral", "service neutral"), *_soil(u, at))  # fmt: skip
        return
    if service.egc_size is not None and u.supply.bond != "out":
        u.leg(f"{run}.egc", "supply-side jumper", "home", here, u.bottom, (f"{run}.egc", "wire"))
        return
    electrodes = [e for e in u.site.electrodes if e.panel == at and e.ohm is not None]
    lands = any(e.lands == "ground bar" for e in electrodes)
    u.leg("soil", "soil" if lands else "no path back", "home", here, u.bottom, *_soil(u, at))


def _soil(u: _Unroller, panel: str) -> list[tuple[str, str]]:
    return [(f"{e.id}.gec", "soil") for e in u.site.electrodes if e.panel == panel]


def rests_on(fault) -> tuple[Assumption, ...]:
    """The assumptions that this loop's answer rests on, most effect first.

    The effect of an assumption is the share of the loop's ohms that it stands for.
    """
    states = fault.basis.states
    effect: dict[str, float] = {}
    for leg in fault.legs:
        share = max(leg.share, 0.0)
        part = leg.id.kind or "source"
        for name, weight in effects(part).items():
            path = FactPath.of(leg.id.element, name)
            effect[path] = effect.get(path, 0.0) + share * weight
        if leg.id == "soil":
            for electrode in states.site.electrodes:
                effect[FactPath.of(electrode.id, "ohm")] = share
    found = [a for a in states.assumed.assumptions if effect.get(a.path, 0.0) > LEAST_EFFECT]
    found.sort(key=lambda a: -effect[a.path])
    curve = _curve(fault)
    if curve and fault.verdict in (Verdict.AT_ONCE_IF_ASSUMED, Verdict.SLOW):
        return (curve, *found)
    return tuple(found)


@cache
def effects(part: str) -> dict[str, float]:
    """What of its element a leg of this kind rests on, and how much of the leg's share each stands
    for (leg_effects.csv: judgement, for the order in which they are shown)."""
    rows = tables.rows("leg_effects")
    return {row["fact"]: float(row["weight"]) for row in rows if row["part"] == part}


def _curve(fault) -> Assumption | None:
    """The assumed magnetic trip as an assumption, where nobody gave the manufacturer's."""
    device = fault.device
    if device is None or not device.is_assumed:
        return None
    _, why = tables.assumption_texts()["breaker magnetic trip"]
    path = FactPath.of(fault.device_at, "hi")
    element = fault.basis.site.elements()[path.element]
    info = field_info(element, path.fact)
    return Assumption(path, Breaker(device.rating_a, device.lo).band_hi, info, why)
