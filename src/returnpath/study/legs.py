"""The loop unrolled: its legs from the source out and back, and what the answer rests on.

A leg's share is Re(V_leg·conj V_drive)/|V_drive|²; the shares add to 1 (METHOD 4). The legs
follow the dominant way home; what runs beside a leg is listed with its part of the current.
"""

import math
from dataclasses import dataclass

from ..assume import Assumption
from ..device import Breaker
from ..network.solver import EARTH
from ..site import field_info
from ..tables import assumption_texts
from .verdict import Verdict

LEAST_EFFECT = 0.001


@dataclass(frozen=True, slots=True)
class Leg:
    """One leg: ``way`` is "out" or "home"; parallel branches with the share each carries.

    ``share`` of the loop's ohms (0 to 1), ``ohm`` the leg's part of them (0 where no current
    flows and there is no loop to part), ``volts`` across it at the steady hot fault;
    ``branches`` (branch id, name, share of the fault's current).
    """

    id: str
    label: str
    way: str
    share: float
    ohm: float
    volts: float
    branches: tuple[tuple[str, str, float], ...]


class _Unroller:
    """Walks from the source to the fault and home, node volts at hand."""

    def __init__(self, fault):
        self.fault, self.context = fault, fault.context
        self.states, self.seen = self.context.states, self.context.low
        self.amps = self.seen.amps()
        self.flows = bool(fault.lowest_a)
        self.loop_ohm = fault.loop_ohm if self.flows else 0.0
        unit = self.states.supply.id
        leg = self.context.leg
        self.top, self.bottom = f"{unit}.L{leg}", f"{unit}.N"
        if self.states.supply.system == "120/240 split" and leg == 2:
            self.drive = -self._drive()
        else:
            self.drive = self._drive(leg)
        self.found: list[Leg] = []

    def _drive(self, leg: int = 1) -> complex:
        """The open volts of the driven line against the source's neutral."""
        solution = self.seen.solved.solution
        return solution.at(f"{self.states.supply.id}.L{leg}") - solution.at(self.bottom)

    def node(self, name: str) -> complex:
        """Volts of a node during the fault."""
        circuit = self.context.place.circuit
        if circuit is not None and self.seen.home:
            if name == f"{circuit.id}.case":
                return self.seen.case_volts(self.amps)
            if name == f"{circuit.id}.L{self.context.pole}":
                return self.seen.volts(self.seen.port.a, self.amps) - (
                    self.amps * self.seen.line_ohm
                )
        floating = circuit is not None and name.startswith(f"{circuit.id}.")
        if floating and name not in self.seen.solved.network.nodes:  # nothing comes home
            return self.seen.case_volts(self.amps)
        return 0j if name == EARTH else self.seen.volts(name, self.amps)

    def leg(self, id_, label, way, a, b, *branches) -> None:
        """The leg from node ``a`` to node ``b``."""
        self.put(id_, label, way, self.node(a) - self.node(b), *branches)

    def put(self, id_, label, way, across: complex, *branches) -> None:
        """A leg with its volts at hand; branches that are not there are left out."""
        share = (across * self.drive.conjugate()).real / abs(self.drive) ** 2
        currents = self.fault.currents
        low = self.fault.lowest_a or math.inf
        made = tuple(
            (b, words, currents.get(b, 0.0) / low)
            for b, words in branches
            if b in currents or b in self.seen.solved.network.branches
        )
        self.found.append(Leg(id_, label, way, share, share * self.loop_ohm, abs(across), made))


def legs_of(fault) -> tuple[Leg, ...]:
    """The legs of a line-to-case loop in the order the current meets them."""
    u = _Unroller(fault)
    states, context = u.states, u.context
    unit, n, place = states.supply.id, context.leg, context.place
    feeders, service = states.chain(place.panel)
    if service is None:
        return ()
    u.put(
        unit,
        "transformer" if states.supply.kind == "utility" else states.supply.kind,
        "out",
        u.drive - (u.node(u.top) - u.node(u.bottom)),
    )
    root = service.to
    u.leg(
        f"{service.id}.line",
        "service line",
        "out",
        u.top,
        f"{root}.L{n}",
        (f"{service.id}.line{n}", "service line"),
    )
    for feeder in reversed(feeders):
        u.leg(
            f"{feeder.id}.line",
            f"{feeder.name or 'feeder'} line",
            "out",
            f"{feeder.source}.L{n}",
            f"{feeder.to}.L{n}",
            (f"{feeder.id}.line{n}", "line"),
        )
    circuit = place.circuit
    case = place.case_node
    if circuit is not None:
        end = f"{circuit.id}.L{context.pole}"
        u.leg(
            f"{circuit.id}.line",
            "branch line",
            "out",
            f"{place.panel}.L{n}",
            end,
            (f"{circuit.id}.line{context.pole}", "line wire"),
        )
        _home_of_circuit(u, circuit, case, feeders, service)
    elif place.node:
        _home_of_metal(u, place, feeders, service)
    else:
        _home_of_panel(u, place.panel, case, feeders, service)
    return tuple(u.found)


def _home_of_metal(u: _Unroller, place, feeders, service) -> None:
    """Other metal: by its bond or electrode conductor to its panel's bar, else as it can."""
    if place.tie is None:
        ways = ((f"{place.id}.{part}", word) for part, word in _METAL_WAYS.items())
        u.leg("soil", "no bond", "home", place.node, u.bottom, *ways)
        return
    branch, bar = place.tie
    label = "electrode conductor" if branch.endswith(".gec") else "its bond"
    u.leg(branch, label, "home", place.node, bar, (branch, label))
    _home_of_panel(u, place.panel, bar, feeders, service, bar.endswith(".N"))


_METAL_WAYS = {"main": "shared main", "join": "other building", "earth": "soil"}


def _home_of_circuit(u: _Unroller, circuit, case, feeders, service) -> None:
    if not u.seen.home and not _is_meshed_home(u, circuit):
        u.leg("soil", "no way home", "home", case, u.bottom)
        return
    ground = f"{circuit.panel}.ground"
    u.leg(
        f"{circuit.id}.return",
        "return",
        "home",
        case,
        ground,
        (f"{circuit.id}.egc", "ground wire"),
        (f"{circuit.id}.raceway", "raceway"),
    )
    _home_of_panel(u, circuit.panel, ground, feeders, service)


def _is_meshed_home(u: _Unroller, circuit) -> bool:
    return f"{circuit.id}.case" in u.seen.solved.network.nodes


def _home_of_panel(u: _Unroller, panel: str, here: str, feeders, service, on_neutral=False) -> None:
    """Up the panels: by the ground side while a feeder has one, by the neutral once bonded."""
    panels = {p.id: p for p in u.states.site.panels}
    at = panel
    for feeder in feeders:
        if not on_neutral and feeder.egc in ("wire", "raceway", "both"):
            nxt = f"{feeder.source}.ground"
            u.leg(
                f"{feeder.id}.return",
                f"{feeder.name or 'feeder'} return",
                "home",
                here,
                nxt,
                (f"{feeder.id}.egc", "ground wire"),
                (f"{feeder.id}.raceway", "raceway"),
                (f"{feeder.id}.neutral", "neutral"),
            )
        else:
            if not on_neutral:
                if panels[at].bond != "in":
                    u.leg("soil", "soil", "home", here, u.bottom, *_soil(u, at))
                    return
                u.leg(f"{at}.bond", "bond", "home", here, f"{at}.N", (f"{at}.bond", "bond"))
                here, on_neutral = f"{at}.N", True
            nxt = f"{feeder.source}.N"
            u.leg(
                f"{feeder.id}.neutral",
                f"{feeder.name or 'feeder'} neutral",
                "home",
                here,
                nxt,
                (f"{feeder.id}.neutral", "neutral"),
            )
        here, at = nxt, feeder.source
    _home_of_service(u, at, here, on_neutral, panels, service)


def _home_of_service(u: _Unroller, at, here, on_neutral, panels, service) -> None:
    run = service.id
    if not on_neutral and panels[at].bond == "in":
        label = "main bond"
        u.leg(f"{at}.bond", label, "home", here, f"{at}.N", (f"{at}.bond", "bond"))
        here, on_neutral = f"{at}.N", True
    if on_neutral:
        u.leg(
            f"{run}.neutral",
            "service neutral",
            "home",
            here,
            u.bottom,
            (f"{run}.neutral", "service neutral"),
            *_soil(u, at),
        )
        return
    if service.egc_size is not None and u.states.supply.bond != "out":
        u.leg(f"{run}.egc", "supply-side jumper", "home", here, u.bottom, (f"{run}.egc", "wire"))
        return
    electrodes = [e for e in u.states.site.electrodes if e.panel == at and e.ohm is not None]
    lands = any(e.lands == "ground bar" for e in electrodes)
    u.leg("soil", "soil" if lands else "no way home", "home", here, u.bottom, *_soil(u, at))


def _soil(u: _Unroller, panel: str) -> list[tuple[str, str]]:
    return [(f"{e.id}.gec", "soil") for e in u.states.site.electrodes if e.panel == panel]


def rests_on(fault) -> tuple[Assumption, ...]:
    """The assumptions that this loop's answer rests on, most effect first.

    The effect of an assumption is the share of the loop's ohms that it stands for.
    """
    states = fault.context.states
    effect: dict[str, float] = {}
    for leg in fault.legs:
        element_id, _, part = leg.id.partition(".")
        share = max(leg.share, 0.0)
        for name, weight in _WEIGHTS.get(part, _WEIGHTS["line"] if part else _SOURCE).items():
            path = f"{element_id}.{name}"
            effect[path] = effect.get(path, 0.0) + share * weight
        if leg.id == "soil":
            for electrode in states.site.electrodes:
                effect[f"{electrode.id}.ohm"] = share
    found = [a for a in states.assumed.assumptions if effect.get(a.path, 0.0) > LEAST_EFFECT]
    found.sort(key=lambda a: -effect[a.path])
    curve = _curve(fault)
    if curve and fault.verdict in (Verdict.AT_ONCE_IF_ASSUMED, Verdict.SLOW):
        return (curve, *found)
    return tuple(found)


#: leg part → what of its element it rests on, and how much of the leg's share each stands for.
_SOURCE = {"kva": 1.0, "percent_z": 0.99, "x_over_r": 0.5, "r1_ohm": 1.0, "x1_ohm": 0.5}
_WEIGHTS = {
    "line": {
        "length_ft": 1.0,
        "run": 0.9,
        "line_material": 0.4,
        "line_size": 0.95,
        "sets": 0.5,
        "method": 0.05,
    },
    "return": {
        "length_ft": 1.0,
        "egc_size": 0.95,
        "egc_material": 0.4,
        "raceway_size": 0.95,
        "method": 0.05,
    },
    "neutral": {"length_ft": 1.0, "run": 0.9, "line_material": 0.4, "neutral_size": 0.95},
    "bond": {},
    "egc": {"length_ft": 1.0},
}


def _curve(fault) -> Assumption | None:
    """The assumed magnetic trip as an assumption, where nobody gave the maker's."""
    device = fault.device
    if device is None or not device.is_assumed:
        return None
    _, why = assumption_texts()["breaker magnetic trip"]
    element_id, _, inner = fault.device_at.partition(".")
    element = fault.context.site.elements()[element_id]
    info = field_info(element, f"{inner}.hi")
    return Assumption(f"{fault.device_at}.hi", Breaker(device.rating_a).band_hi, info, why)
