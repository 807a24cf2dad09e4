"""The loop unrolled: its legs from the source out and back, and what the answer rests on.

A leg's share is Re(V_leg·conj V_drive)/|V_drive|²; the shares add to 1 (METHOD 4).
"""

from dataclasses import dataclass

from ..assume import Assumed, Assumption
from ..device import Breaker
from ..network.solver import Fault
from ..site import Circuit, Installation
from ..tables import assumption_texts
from .heat import NO_CURRENT_A
from .states import Solved
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


def legs_of(site: Installation, circuit: Circuit, solved: Solved, fault: Fault) -> tuple[Leg, ...]:
    """The legs of a line-to-case loop in the order the current meets them."""
    unit, run, panel, at = site.supply.id, site.service.id, site.panel.id, circuit.id
    volts = {n: solved.solution.at(n, fault.volts) for n in solved.network.nodes}
    drive = complex(solved.state.volts)
    total = abs(fault.amps)
    loop_ohm = abs(fault.thevenin_ohm) if total > NO_CURRENT_A else 0.0

    def branch(name: str, words: str) -> tuple[str, str, float]:
        if total < NO_CURRENT_A:
            return name, words, 0.0
        return name, words, abs(solved.solution.current(name, fault.volts)) / total

    def leg(leg_id, label, way, across, *branches) -> Leg:
        share = (across * drive.conjugate()).real / abs(drive) ** 2
        made = tuple(branch(*b) for b in branches if b[0] in solved.network.branches)
        return Leg(leg_id, label, way, share, share * loop_ohm, abs(across), made)

    def drop(a: str, b: str) -> complex:
        return volts[a] - volts[b]

    case, ground, neutral = f"{at}.case", f"{panel}.ground", f"{panel}.N"
    soil = (f"{site.electrode.id}.gec", "soil")
    legs = [
        leg(unit, "transformer", "out", drive - drop(f"{unit}.L1", f"{unit}.N")),
        leg(
            f"{run}.line",
            "service line",
            "out",
            drop(f"{unit}.L1", f"{panel}.L1"),
            (f"{run}.line1", "service line"),
        ),
        leg(
            f"{at}.line",
            "branch line",
            "out",
            drop(f"{panel}.L1", f"{at}.L1"),
            (f"{at}.line1", "line wire"),
        ),
    ]
    if circuit.egc == "none":
        return (*legs, leg("soil", "no way home", "home", drop(case, f"{unit}.N")))
    legs.append(
        leg(
            f"{at}.return",
            "return",
            "home",
            drop(case, ground),
            (f"{at}.egc", "ground wire"),
            (f"{at}.raceway", "raceway"),
        )
    )
    if site.panel.bond == "in":
        bond = (f"{panel}.bond", "bond")
        legs.append(leg(f"{panel}.bond", "main bond", "home", drop(ground, neutral), bond))
        branches = ((f"{run}.neutral", "service neutral"), soil)
        home = drop(neutral, f"{unit}.N")
        legs.append(leg(f"{run}.neutral", "service neutral", "home", home, *branches))
    else:
        words = "soil" if site.electrode.lands == "ground bar" else "no way home"
        legs.append(leg("soil", words, "home", drop(ground, f"{unit}.N"), soil))
    return tuple(legs)


def rests_on(
    assumed: Assumed, circuit: Circuit, legs: tuple[Leg, ...], verdict: Verdict
) -> tuple[Assumption, ...]:
    """The assumptions that this loop's answer rests on, most effect first.

    The effect of an assumption is the share of the loop's ohms that it stands for.
    """
    share = {leg.id: max(leg.share, 0.0) for leg in legs}
    site, at = assumed.site, circuit.id
    unit, run = site.supply.id, site.service.id
    service = share.get(f"{run}.line", 0.0) + share.get(f"{run}.neutral", 0.0)
    branch = share.get(f"{at}.line", 0.0) + share.get(f"{at}.return", 0.0)
    effect = {
        f"{unit}.kva": share.get(unit, 0.0),
        f"{unit}.percent_z": share.get(unit, 0.0) * 0.99,
        f"{unit}.x_over_r": share.get(unit, 0.0) * 0.5,
        f"{run}.length_ft": service,
        f"{run}.run": service * 0.9,
        f"{run}.line_material": service * 0.8,
        f"{run}.line_size": share.get(f"{run}.line", 0.0),
        f"{run}.neutral_size": share.get(f"{run}.neutral", 0.0),
        f"{at}.length_ft": branch,
        f"{at}.method": branch * 0.05,
        f"{at}.line_material": branch * 0.4,
        f"{at}.line_size": share.get(f"{at}.line", 0.0),
        f"{at}.egc_size": share.get(f"{at}.return", 0.0),
        f"{at}.egc_material": share.get(f"{at}.return", 0.0) * 0.4,
        f"{at}.raceway_size": share.get(f"{at}.return", 0.0),
        f"{site.electrode.id}.ohm": share.get("soil", 0.0),
    }
    found = [a for a in assumed.assumptions if effect.get(a.path, 0.0) > LEAST_EFFECT]
    found.sort(key=lambda a: -effect[a.path])
    curve = _curve(circuit)
    if curve and verdict in (Verdict.AT_ONCE_IF_ASSUMED, Verdict.SLOW):
        return (curve, *found)
    return tuple(found)


def _curve(circuit: Circuit) -> Assumption | None:
    """The assumed magnetic trip as an assumption, where nobody gave the maker's."""
    device = circuit.breaker
    if device.magnetic == "none" or (device.lo is not None and device.hi is not None):
        return None
    words, why = assumption_texts()["breaker magnetic trip"]
    band = Breaker(device.rating_a)
    return Assumption(
        f"{circuit.id}.breaker.hi", band.band_hi, "breaker's magnetic trip", words, why
    )
