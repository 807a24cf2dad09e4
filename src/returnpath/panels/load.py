"""The load of a dwelling by the standard's methods, and the room left for a new load.

Three of them (article 220): an existing dwelling (220.83: the first 8,000 VA in full, the rest at
40 %; new heating or cooling beside it in full), the optional one for a dwelling of 100 A or more
(220.82: the first 10,000 VA), the standard one (part III, every kind of load by its own demand).
A vehicle's supply stands outside the 40 %. Everything on the service is counted as the dwelling's.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from ..network.wiring import legs_of_circuits
from ..site import Installation
from ..working import Step, figures, formula, given, note
from .demand import (
    SERVICE_V,
    Counted,
    LoadItem,
    figure,
    floor_area,
    lighting_demand,
    part_of,
    range_demand,
    small_appliance_va,
)
from .face import source_circuits


class LoadMethod(StrEnum):
    """How a dwelling's load is reckoned."""

    EXISTING = "existing"
    NEW = "new"
    STANDARD = "standard"


#: What each is called, and where it stands.
METHOD_WORDS = {
    LoadMethod.EXISTING: ("existing dwelling", "220.83"),
    LoadMethod.NEW: ("optional", "220.82"),
    LoadMethod.STANDARD: ("standard", "220 part III"),
}
CONDITIONED = (Counted.HEATING, Counted.COOLING)


@dataclass(frozen=True)
class DwellingLoad:
    """A dwelling's load: ``va`` and ``amps`` at 240 V, its ``rating_a`` and what is left of it;
    ``unknown`` the appliances whose nameplate nobody gave: the load is at least this. ``neutral_a``
    the most its neutral carries (220.61), with ``neutral_steps``."""

    method: LoadMethod
    va: float
    amps: float
    rating_a: float | None
    parts: tuple[LoadItem, ...]
    steps: tuple[Step, ...]
    unknown: tuple[str, ...]
    neutral_a: float
    neutral_steps: tuple[Step, ...]

    @property
    def room_a(self) -> float | None:
        """Amperes left of the service's rating; None while the rating or a nameplate is not
        known: what is at least so much leaves nobody knows how little."""
        if self.rating_a is None or self.unknown:
            return None
        return self.rating_a - self.amps

    @property
    def fits(self) -> bool | None:
        """Whether the service carries it; None while that is not known."""
        if self.rating_a is None:
            return None
        if self.amps > self.rating_a:
            return False
        return None if self.unknown else True

    @property
    def least_service_a(self) -> float:
        """The least rating of the service for it: never under that of a one-family dwelling."""
        return max(self.amps, figure("service_least"))


@dataclass(frozen=True)
class _Loads:
    """A dwelling's loads, sorted: VA of lighting and receptacles, of each kind of the rest."""

    area: float
    small: float
    parts: tuple[LoadItem, ...]
    added: LoadItem | None

    @property
    def general(self) -> float:
        """Lighting and receptacles by floor area, VA."""
        return figure("va_per_sqft") * self.area

    @property
    def circuits(self) -> float:
        """Lighting, receptacles, small appliances and laundry, VA."""
        return self.general + self.small + figure("laundry")

    def va(self, *kinds: Counted) -> float:
        """The nameplates of these kinds together, VA."""
        return sum(p.va for p in self.parts if p.counted in kinds)

    def conditioning(self) -> float:
        """The larger of heating and cooling, VA."""
        return max(self.va(Counted.HEATING), self.va(Counted.COOLING))


def dwelling_load(
    site: Installation, method: str = LoadMethod.EXISTING, area_sqft: float | None = None,
    add: LoadItem | None = None,
) -> DwellingLoad | None:  # fmt: skip
    """The load of a site's dwelling with ``add`` more; None where no floor area is known."""
    area = area_sqft or floor_area(site)
    if not area:
        return None
    feeding, legs = source_circuits(site), legs_of_circuits(site)
    circuits = [c for c in site.circuits if c.id not in feeding]
    # A circuit without a space is on no leg yet, whatever the study takes it to be on.
    placed = {c.id: legs.get(c.id, ()) for c in circuits if c.space}
    parts = [p for c in circuits if (p := part_of(c, placed.get(c.id, ()))) is not None]
    parts += [add] if add is not None else []
    loads = _Loads(area, small_appliance_va(circuits), tuple(parts), add)
    chosen = LoadMethod(method)
    va, steps = _BY_METHOD[chosen](loads)
    steps = [*_given(loads, METHOD_WORDS[chosen][1]), *steps]
    steps.append(formula(f"{va:,.0f} VA / {SERVICE_V:g} V = {figures(va / SERVICE_V)} A"))
    steps.append(note("everything on this service is counted as the dwelling's"))
    unknown = tuple(p.name for p in parts if not p.is_known)
    neutral, neutral_steps = _neutral(loads)
    return DwellingLoad(
        chosen, va, va / SERVICE_V, site.panel.main.rating_a, tuple(parts), tuple(steps),
        unknown, neutral, tuple(neutral_steps),
    )  # fmt: skip


def _given(loads: _Loads, section: str) -> Iterable[Step]:
    """What goes in, whatever the method."""
    yield formula(
        f"{loads.area:,.0f} sq ft × {figure('va_per_sqft'):g} VA = {loads.general:,.0f} VA",
        f"NEC {section}",
    )
    laundry = figure("laundry")
    yield given(f"small-appliance circuits {loads.small:,.0f} VA, laundry {laundry:,.0f} VA")
    for part in loads.parts:
        read = "" if part.is_known else ", not read: the least"
        yield given(f"{part.name}: {part.va:,.0f} VA{read}")


def _first_and_rest(counted: float, first_va: float) -> tuple[float, str]:
    first, share = min(counted, first_va), figure("optional_rest")
    text = f"{first:,.0f} + {share:.0%} of {counted - first:,.0f}".replace("%", " %")
    return first + share * (counted - first), text


def _existing(loads: _Loads) -> tuple[float, list[Step]]:
    """220.83: (A) everything; (B) where heating or cooling is added, that beside it in full."""
    vehicles = loads.va(Counted.VEHICLE)
    counted = loads.circuits + loads.va(Counted.APPLIANCE, Counted.RANGE, Counted.DRYER)
    is_added = loads.added is not None and loads.added.counted in CONDITIONED
    beside = loads.conditioning() if is_added else 0.0
    counted += 0.0 if is_added else loads.conditioning()
    va, text = _first_and_rest(counted, figure("existing_first"))
    va += vehicles + beside
    text += f" + heating or cooling, the larger, {beside:,.0f}" if beside else ""
    text += f" + vehicle {vehicles:,.0f}" if vehicles else ""
    return va, [formula(f"{text} = {va:,.0f} VA", f"NEC 220.83({'B' if is_added else 'A'})")]


def _optional(loads: _Loads) -> tuple[float, list[Step]]:
    """220.82: heating at its share or cooling in full beside the 40 %."""
    vehicles = loads.va(Counted.VEHICLE)
    counted = loads.circuits + loads.va(Counted.APPLIANCE, Counted.RANGE, Counted.DRYER)
    va, text = _first_and_rest(counted, figure("new_first"))
    va += vehicles
    text += f" + vehicle {vehicles:,.0f}" if vehicles else ""
    steps = [formula(f"{text} = {va:,.0f} VA", "NEC 220.82(B)")]
    heats = [p.va for p in loads.parts if p.counted is Counted.HEATING]
    many = len(heats) >= figure("many_heaters_count")
    share = figure("many_heaters" if many else "central_heat")
    cooling = loads.va(Counted.COOLING)
    if beside := max(cooling, share * sum(heats)):
        va += beside
        steps.append(formula(
            f"+ the larger of cooling {cooling:,.0f} and {100 * share:.0f} % of heating"
            f" {sum(heats):,.0f} = {va:,.0f} VA", "NEC 220.82(C)"))  # fmt: skip
    return va, steps


def _fastened(loads: _Loads, one_pole: bool = False) -> tuple[float, float]:
    """(VA of fastened appliances, the share of them that counts): four or more of 500 VA or more
    at 75 %. ``one_pole``: of those between a line and the neutral alone."""
    every = [p for p in loads.parts if p.counted is Counted.APPLIANCE]
    large = [p for p in every if p.va >= figure("fastened_least")]
    few = len(large) < figure("fastened_count")
    va = sum(p.va for p in every if not one_pole or p.poles == 1)
    return va, 1.0 if few else figure("fastened_share")


def _standard(loads: _Loads) -> tuple[float, list[Step]]:
    """Article 220, part III: every kind of load by its own demand."""
    lighting = lighting_demand(loads.circuits)
    fastened, share = _fastened(loads)
    ranges = range_demand([p.va for p in loads.parts if p.counted is Counted.RANGE])
    dryers, vehicles = loads.va(Counted.DRYER), loads.va(Counted.VEHICLE)
    beside = loads.conditioning()
    is_cold = loads.va(Counted.COOLING) >= loads.va(Counted.HEATING)
    motors = [
        p.va for p in loads.parts
        if p.is_motor and (p.counted is not Counted.COOLING or is_cold)
    ]  # fmt: skip
    motor = figure("motor_more") * max(motors, default=0.0)
    steps = [
        formula(f"lighting and receptacles {loads.circuits:,.0f} VA:"
                f" {figure('standard_first'):,.0f} in full, the rest at"
                f" {100 * figure('standard_second'):g} % = {lighting:,.0f} VA", "NEC 220.45")
    ]  # fmt: skip
    if fastened:
        text = f"fastened appliances {fastened:,.0f} VA × {share:g} = {share * fastened:,.0f} VA"
        steps.append(formula(text, "NEC 220.53"))
    for words, va, section in (
        ("ranges, ovens and cooktops", ranges, "220.55"), ("dryers", dryers, "220.54"),
        ("heating or cooling, the larger", beside, "220.60"), ("vehicle", vehicles, "220.57"),
        ("a quarter of the largest motor", motor, "220.50"),
    ):  # fmt: skip
        if va:
            steps.append(formula(f"{words}: {va:,.0f} VA", f"NEC {section}"))
    va = lighting + share * fastened + ranges + dryers + beside + vehicles + motor
    steps.append(formula(f"together {va:,.0f} VA"))
    return va, steps


_BY_METHOD = {
    LoadMethod.EXISTING: _existing,
    LoadMethod.NEW: _optional,
    LoadMethod.STANDARD: _standard,
}


def _neutral(loads: _Loads) -> tuple[float, list[Step]]:
    """220.61: the larger leg of what is between a line and the neutral, ranges and dryers at 70 %
    of their demand, the part over 200 A at 70 %; what needs two lines alone counts nothing. An
    appliance that is on no leg yet counts on the one that has most."""
    lighting = lighting_demand(loads.circuits) / SERVICE_V
    _, share = _fastened(loads)
    per_leg, loose = [0.0, 0.0, 0.0], 0.0
    for part in loads.parts:
        if part.poles == 1:
            counts = share if part.counted is Counted.APPLIANCE else 1.0
            amps = counts * part.va / (SERVICE_V / 2)
            if part.legs:
                per_leg[part.legs[0] - 1] += amps
            else:
                loose += amps
    single = max(per_leg) + loose
    ranges = range_demand([p.va for p in loads.parts if p.counted is Counted.RANGE])
    heavy = figure("neutral_heavy") * (ranges + loads.va(Counted.DRYER)) / SERVICE_V
    whole = lighting + single + heavy
    steps = [
        formula(f"lighting and receptacles {figures(lighting)} A", "NEC 220.61(A)"),
        formula(f"120 V appliances on the larger leg {figures(single)} A"),
        formula(f"ranges and dryers at {100 * figure('neutral_heavy'):g} %: {figures(heavy)} A",
                "NEC 220.61(B)"),
    ]  # fmt: skip
    over = figure("neutral_over")
    amps = min(whole, over) + figure("neutral_over_share") * max(whole - over, 0.0)
    if whole > over:
        percent = 100 * figure("neutral_over_share")
        steps.append(formula(f"{over:g} + {percent:g} % of {figures(whole - over)} A"))
    steps.append(formula(f"the neutral carries {figures(amps)} A"))
    return amps, steps
