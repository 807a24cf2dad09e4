"""What a dwelling's loads count for: each circuit as an item, and the figures that the methods of
article 220 take (``tables/dwelling_demand.csv``, ``range_demand.csv``)."""

import math
import re
from dataclasses import dataclass
from enum import StrEnum
from functools import cache

from .. import tables
from ..errors import BadInput, number_in
from ..site import Circuit, Installation, name_of
from ..site.serves import dwelling_words_in, load_kind_in, places_of

SERVICE_V = 240.0
MOST_VA = 100_000  # as much as a circuit's load can be


class Counted(StrEnum):
    """How a load is counted."""

    APPLIANCE = "appliance"
    RANGE = "range"
    DRYER = "dryer"
    VEHICLE = "vehicle"
    HEATING = "heating"
    COOLING = "cooling"


@cache
def figure(key: str) -> float:
    """A figure of dwelling_demand.csv."""
    return next(float(r["value"]) for r in tables.rows("dwelling_demand") if r["key"] == key)


@dataclass(frozen=True)
class LoadItem:
    """One load: its name, volt-amperes, how it is counted, whether somebody gave the figure; its
    poles and the legs they are on (none where it is not placed); whether it is a motor."""

    name: str
    va: float
    counted: Counted
    is_known: bool
    poles: int = 2
    legs: tuple[int, ...] = ()
    is_motor: bool = False


def part_of(circuit: Circuit, legs: tuple[int, ...] = ()) -> LoadItem | None:
    """How a circuit counts beside lighting and receptacles; None for those."""
    name = circuit.name or ""
    kind, va = circuit.load_kind or load_kind_in(name), circuit.load_va
    words = dwelling_words_in(name)
    least = 0.0
    if "EV" in places_of(circuit):
        counted, least = Counted.VEHICLE, figure("vehicle_least")
    elif kind == "cooling":
        counted = Counted.COOLING
    elif "heating" in words:
        counted = Counted.HEATING
    elif kind == "dryer":
        counted, least = Counted.DRYER, figure("dryer_least")
    elif kind == "range":
        counted = Counted.RANGE
    elif kind or "appliance" in words or (circuit.poles or 1) > 1:
        counted = Counted.APPLIANCE
    else:
        return None
    return LoadItem(
        name_of(circuit), max(va or 0.0, least), counted, va is not None,
        circuit.poles or 1, legs, kind in ("motor", "cooling"),
    )  # fmt: skip


_TYPED = re.compile(r"\s*(\d+(?:\.\d+)?)\s*(kva|kw|va|amps?|a|w)?\b\s*(.*)", re.I)
CHARGER = "vehicle charger"  # what a bare figure is: the load that is asked for most


def typed_item(text: str) -> LoadItem:
    """A load typed as spoken: ``48`` (a vehicle charger), ``50 A hot tub``, ``5 kW heat pump``;
    amperes at 240 V. BadInput where it has no figure."""
    found = _TYPED.fullmatch(text)
    if found is None or (found[3] and not found[2]):  # “1.5 hp pump” is not 1.5 A
        raise BadInput("Type its amperes or kilowatts, then what it is: 50 A hot tub.")
    amount, unit, name = float(found[1]), (found[2] or "a").lower(), found[3].strip()
    name = CHARGER if name.lower() in ("", "charger") else name
    va = amount * (1000 if unit[0] == "k" else SERVICE_V if unit[0] == "a" else 1)
    number_in(va, "The load", 0, MOST_VA, "VA", above_low=True)
    circuit = Circuit(id="c1", panel="p1", name=name, load_va=va, poles=2)
    made = part_of(circuit)
    assert made is not None  # two poles always count
    return made


def small_appliance_va(circuits: list[Circuit]) -> float:
    """The small-appliance circuits, at least two."""
    count = sum(_is_small_appliance(c) for c in circuits)
    return figure("small_appliance") * max(count, figure("small_appliance_circuits"))


def _is_small_appliance(circuit: Circuit) -> bool:
    """A 20 A receptacle circuit of kitchen, pantry or dining room."""
    is_kitchen = "small appliance" in dwelling_words_in(circuit.name or "")
    return circuit.breaker.rating_a == 20 and is_kitchen and part_of(circuit) is None


def floor_area(site: Installation) -> float | None:
    """The floor area of the dwelling, square feet."""
    homes = [b for b in site.buildings if b.permit in (None, "dwelling")]
    known = [b.floor_area_sqft for b in homes if b.floor_area_sqft]
    return sum(known) if known else None


def lighting_demand(va: float) -> float:
    """The demand of lighting, receptacles, small appliances and laundry by the standard method:
    the first 3,000 VA in full, to 120,000 at 35 %, above at 25 %."""
    first, second_to = figure("standard_first"), figure("standard_second_to")
    second = max(min(va, second_to) - first, 0.0)
    rest = max(va - second_to, 0.0)
    return min(va, first) + figure("standard_second") * second + figure("standard_rest") * rest


def range_demand(nameplates: list[float]) -> float:
    """The demand of ranges, ovens and cooktops (table 220.55), VA: column C over 8¾ kW (5 % more
    for each kW, or the larger part of one, over 12), column B from 3½ kW, column A under it."""
    over_b, over_c = figure("range_column_b_from"), figure("range_column_c_over")
    large = [max(va, figure("range_column_c_to")) for va in nameplates if va > over_c]
    middle = [va for va in nameplates if over_b <= va <= over_c]
    small = [va for va in nameplates if 0 < va < over_b]
    found = _share(middle, "column_b_pct") + _share(small, "column_a_pct")
    if large:
        # Of unequal ones their mean counts (note 2); half a kW is the larger part of one.
        over = sum(large) / len(large) - figure("range_column_c_to")
        steps = math.floor(over / 1000 + 0.5)
        column = 1000 * float(_row(len(large))["column_c_kw"])
        found += column * (1 + figure("range_over_step") * steps)
    return found


def _share(nameplates: list[float], column: str) -> float:
    if not nameplates:
        return 0.0
    return sum(nameplates) * float(_row(len(nameplates))[column]) / 100


def _row(count: int) -> dict[str, str]:
    """The row of so many ranges; the last for more than it has."""
    rows = tables.rows("range_demand")
    return rows[min(count, len(rows)) - 1]
