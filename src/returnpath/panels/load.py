"""The load of a dwelling by the standard's optional methods, and the room left for a new load.

A new dwelling of 100 A or more (NEC 220.82): the first 10,000 VA in full, the rest at 40 %, of
lighting and receptacles by floor area, small-appliance and laundry circuits and every nameplate;
heating or cooling beside it. An existing one (220.83): the first 8,000 VA in full. A vehicle's
supply stands outside the 40 %. Everything on the service is counted as the dwelling's.
"""

from dataclasses import dataclass

from ..site import Circuit, Installation, name_of
from ..site.serves import dwelling_words_in, load_kind_in, places_of
from ..working import Step, figures, formula, given, note
from .face import source_circuits

VA_A_SQFT, SMALL_VA, SMALL_AT_LEAST, LAUNDRY_VA = 3.0, 1500.0, 2, 1500.0
FIRST = {"existing": 8_000.0, "new": 10_000.0}
REST = 0.40
DRYER_AT_LEAST, VEHICLE_AT_LEAST = 5_000.0, 7_200.0
CENTRAL_HEAT, MANY_HEATERS, MANY = 0.65, 0.40, 4
SERVICE_V, LEAST_SERVICE_A = 240.0, 100.0
SECTION = {"existing": "220.83", "new": "220.82"}


@dataclass(frozen=True)
class LoadItem:
    """One load: its name, volt-amperes, how it is counted, whether somebody gave the figure."""

    name: str
    va: float
    counted: str  # general, appliance, vehicle, heating, cooling
    is_known: bool


@dataclass(frozen=True)
class DwellingLoad:
    """A dwelling's load: ``va`` and ``amps`` at 240 V, its ``rating_a`` and what is left of it;
    ``unknown`` the appliances whose nameplate nobody gave: the load is at least this."""

    method: str
    va: float
    amps: float
    rating_a: float | None
    parts: tuple[LoadItem, ...]
    steps: tuple[Step, ...]
    unknown: tuple[str, ...]

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


def floor_area(site: Installation) -> float | None:
    """The floor area of the dwelling, square feet."""
    homes = [b for b in site.buildings if b.permit in (None, "dwelling")]
    known = [b.floor_area_sqft for b in homes if b.floor_area_sqft]
    return sum(known) if known else None


def dwelling_load(
    site: Installation, method: str = "existing", area_sqft: float | None = None,
    add: LoadItem | None = None,
) -> DwellingLoad | None:  # fmt: skip
    """The load of a site's dwelling with ``add`` more; None where no floor area is known."""
    area = area_sqft or floor_area(site)
    if not area:
        return None
    feeding = source_circuits(site)
    loads = [c for c in site.circuits if c.id not in feeding]
    parts = [p for c in loads if (p := part_of(c)) is not None]
    if add is not None:
        parts.append(add)
    general = VA_A_SQFT * area
    kitchens = sum(_is_small_appliance(c) for c in loads)
    small = SMALL_VA * max(kitchens, SMALL_AT_LEAST)
    appliances = sum(p.va for p in parts if p.counted == "appliance")
    vehicles = sum(p.va for p in parts if p.counted == "vehicle")
    heats = [p.va for p in parts if p.counted == "heating"]
    cooling = sum(p.va for p in parts if p.counted == "cooling")
    source = f"NEC {SECTION[method]}"
    steps = [
        formula(f"{area:,.0f} sq ft × {VA_A_SQFT:g} VA = {general:,.0f} VA", source),
        given(f"small-appliance circuits {small:,.0f} VA, laundry {LAUNDRY_VA:,.0f} VA"),
        *(given(f"{p.name}: {p.va:,.0f} VA{'' if p.is_known else ', not read: the least'}")
          for p in parts),
    ]  # fmt: skip
    counted = general + small + LAUNDRY_VA + appliances
    if method == "existing":
        counted += max(sum(heats), cooling)
    first = min(counted, FIRST[method])
    va = first + REST * (counted - first) + vehicles
    steps.append(formula(
        f"{first:,.0f} + 40 % of {counted - first:,.0f}"
        + (f" + vehicle {vehicles:,.0f}" if vehicles else "") + f" = {va:,.0f} VA",
        source))  # fmt: skip
    if method == "new":
        share = MANY_HEATERS if len(heats) >= MANY else CENTRAL_HEAT
        beside = max(cooling, share * sum(heats))
        va += beside
        if beside:
            steps.append(formula(
                f"+ the larger of cooling {cooling:,.0f} and {share:.0%} of heating"
                f" {sum(heats):,.0f} = {va:,.0f} VA", "NEC 220.82(C)"))  # fmt: skip
    steps.append(formula(f"{va:,.0f} VA / {SERVICE_V:g} V = {figures(va / SERVICE_V)} A"))
    steps.append(note("everything on this service is counted as the dwelling's"))
    main = site.panel.main.rating_a
    unknown = tuple(p.name for p in parts if not p.is_known)
    return DwellingLoad(method, va, va / SERVICE_V, main, tuple(parts), tuple(steps), unknown)


def part_of(circuit: Circuit) -> LoadItem | None:
    """How a circuit counts beside lighting and receptacles; None for those."""
    name = circuit.name or ""
    kind, va = circuit.load_kind or load_kind_in(name), circuit.load_va
    label = name_of(circuit)
    if "EV" in places_of(circuit):
        return LoadItem(label, max(va or 0.0, VEHICLE_AT_LEAST), "vehicle", va is not None)
    if kind == "cooling":
        return LoadItem(label, va or 0.0, "cooling", va is not None)
    words = dwelling_words_in(name)
    if "heating" in words:
        return LoadItem(label, va or 0.0, "heating", va is not None)
    if kind == "dryer":
        return LoadItem(label, max(va or 0.0, DRYER_AT_LEAST), "appliance", va is not None)
    if kind or "appliance" in words or (circuit.poles or 1) > 1:
        return LoadItem(label, va or 0.0, "appliance", va is not None)
    return None


def _is_small_appliance(circuit: Circuit) -> bool:
    """A 20 A receptacle circuit of kitchen, pantry or dining room."""
    is_kitchen = "small appliance" in dwelling_words_in(circuit.name or "")
    return circuit.breaker.rating_a == 20 and is_kitchen and part_of(circuit) is None
