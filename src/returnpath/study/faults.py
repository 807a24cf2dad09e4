"""A fault and what it amounts to: figures kept, the rest worked out when asked
(method 4 to 8)."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from html import escape
from typing import Any

from ..assume import Assumption
from ..device import Breaker
from ..site import Circuit
from ..vocabulary import FactPath
from ..working import Working, figures
from . import longest, workings
from . import loop as unrolled
from .basis import Basis
from .heat import HeatUse
from .port import FaultKind, Side, all_seen
from .shock import c1_ma
from .spine import LOWEST_VOLTS
from .verdict import (
    Criterion,
    Verdict,
    criteria,
)

NOWHERE = FactPath("")


#: The heads of ``html_cells``.
HTML_HEAD = "".join(
    f"<th>{word}</th>"
    for word in ("place", "verdict", "lowest current", "of its breaker", "trips by", "touch volts")
)


@dataclass(frozen=True, repr=False)
class FaultStudy:
    """What one kind of fault at one place does, with one supply driving it.

    Amperes, ohms, seconds, volts, feet. ``lacks`` names the facts without which there is no
    answer, ``remark`` says why where it is no fact; the figures are then None. ``math.inf``
    seconds: may not trip. ``by_rcd``: only a residual-current device is soon enough. ``side`` of
    its own main, for an enclosure that has one. What is looked at seldom (legs, heat of every
    conductor, workings) is computed when asked for.
    """

    place: str
    place_name: str
    kind: FaultKind
    state: str
    verdict: Verdict
    side: Side = Side.ANY
    circuit: Circuit | None = None
    lacks: tuple[FactPath, ...] = ()
    remark: str = ""
    device_at: FactPath = NOWHERE
    device: Breaker | None = None
    lowest_a: float | None = None
    highest_a: float | None = None
    loop_ohm: float | None = None
    slow_s: float | None = None
    touch_earth_v: float | None = None
    touch_bar_v: float | None = None
    touch_bar_highest_v: float | None = None
    touch_reach_v: dict[str, float] | None = None
    body_v: float | None = None
    person_ohm: float | None = None
    second_line_s: float | None = None
    by_rcd: bool = False
    basis: Basis | None = None

    @classmethod
    def _made(cls, *parts: dict[str, Any]) -> "FaultStudy":
        """One of these facts, the rest as the fields' defaults say. Made by the hundred at every
        change: a frozen class of thirty fields takes ten times as long through its own door."""
        made = object.__new__(cls)
        for part in parts:
            made.__dict__.update(part)
        return made

    def __repr__(self) -> str:
        """What it is and what it does, in one line."""
        where = f"{self.place_name}{f', {self.side}' if self.side else ''}"
        text = f"FaultStudy({where}, {self.kind} on {self.state}: {self.verdict}"
        if self.lowest_a is None:
            return f"{text}; {', '.join(self.lacks) or self.remark})"
        text += f", {figures(self.lowest_a)} A"
        if self.device is None:
            return f"{text})"
        text += f", {figures(self.multiple)} × its {self.device.name}"
        return f"{text}{'' if math.isinf(self.slow_s) else f', up to {figures(self.slow_s)} s'})"

    def html_cells(self) -> str:
        """Its row of a table: place, verdict, amperes, multiple, seconds, touch volts."""
        known = self.lowest_a is not None and self.device is not None
        cells = [self.place_name, str(self.verdict)]
        cells += [
            f"{figures(self.lowest_a)} A" if self.lowest_a is not None else "",
            f"{figures(self.multiple)} ×" if known else "",
            f"{figures(self.slow_s)} s" if known and not math.isinf(self.slow_s) else "",
            f"{figures(self.touch_earth_v)} V" if self.touch_earth_v is not None else "",
        ]
        return "".join(f"<td>{escape(cell)}</td>" for cell in cells)

    def _repr_html_(self) -> str:
        return f"<table><tr>{HTML_HEAD}</tr><tr>{self.html_cells()}</tr></table>"

    @property
    def multiple(self) -> float | None:
        """Lowest current over the device's rating."""
        if self.lowest_a is None or self.device is None:
            return None
        return self.lowest_a / self.device.rating_a

    @cached_property
    def heat(self) -> tuple[HeatUse, ...]:
        """Every conductor's use on the curve in force."""
        return self._heat(unproved=False)

    @cached_property
    def heat_unproved(self) -> tuple[HeatUse, ...]:
        """Every conductor's use if the magnetic trip only began at 20 ×."""
        return self._heat(unproved=True)

    def _heat(self, unproved: bool) -> tuple[HeatUse, ...]:
        return self.basis.heat(self.lowest_a, self.highest_a, unproved) if self.basis else ()

    @property
    def worst_heat(self) -> HeatUse | None:
        """The conductor that is used most, on the curve in force."""
        return max(self.heat, key=_by_use, default=None)

    @property
    def worst_heat_unproved(self) -> HeatUse | None:
        """The conductor that is used most if the magnetic trip only began at 20 ×."""
        return max(self.heat_unproved, key=_by_use, default=None)

    @cached_property
    def heat_hot(self) -> float | None:
        """Worst use again with this circuit's wires at their limit, where a quarter is used."""
        return self.basis.heat_hot(self.heat_used, self.highest_a) if self.basis else None

    @property
    def is_wet(self) -> bool:
        """Whether its place is said to be wet."""
        return self.circuit is not None and self.circuit.wet == "yes"

    @property
    def body_ma(self) -> float | None:
        """Milliamperes through a person from the enclosure to earth, as a branch of the network."""
        return None if self.person_ohm is None else self.body_v / self.person_ohm * 1000

    @property
    def body_limit_ma(self) -> float | None:
        """Curve c1 at the slow clearing time, mA."""
        return None if self.slow_s is None else c1_ma(self.slow_s)

    @cached_property
    def criteria(self) -> dict[str, Criterion]:
        """The clearing criteria side by side, by name."""
        basis = self.basis
        if basis is None or self.device is None:
            return {}
        ohm = basis.return_ohm() if self.lowest_a else math.inf
        limit = basis.time_limit()
        metal = basis.other_metal_share()
        is_us = not basis.spine.is_metric
        return criteria(self.device, self.lowest_a, self.slow_s, ohm, metal, limit, is_us)

    @cached_property
    def fast_s(self) -> float | None:
        """The shortest time of the devices, at the highest current, s."""
        devices = self.basis.devices if self.basis else None
        return None if devices is None else devices.fast_s(self.highest_a)

    @cached_property
    def heat_used(self) -> float | None:
        """The share of its limit that the worst wire uses on the curve in force."""
        return self._slow_and_heat(unproved=False)[1]

    @property
    def slow_s_unproved(self) -> float | None:
        """The longest time if the magnetic trip only began at 20 ×, s."""
        return self._unproved[0]

    @property
    def heat_used_unproved(self) -> float | None:
        """The heat of the worst wire if the magnetic trip only began at 20 ×."""
        return self._unproved[1]

    @cached_property
    def _unproved(self) -> tuple[float | None, float | None]:
        return self._slow_and_heat(unproved=True)

    def _slow_and_heat(self, unproved: bool) -> tuple[float | None, float | None]:
        """(the longest time, s; the share of its limit that the worst wire uses)."""
        basis, low, high = self.basis, self.lowest_a, self.highest_a
        if basis is None or basis.devices is None or low is None or high is None:
            return None, None
        slow, through = _slow_and_through(basis, low, max(low, high), unproved)
        ratio = basis.worst_ratio()
        return slow, through * ratio if ratio else 0.0

    @property
    def longest_run_ft(self) -> float | None:
        """The longest run of its circuit that still clears, on the curve in force."""
        return self._runs[0]

    @property
    def longest_run_unproved_ft(self) -> float | None:
        """The same if the magnetic trip only began at 20 ×."""
        return self._runs[1]

    @property
    def _runs(self) -> tuple[float | None, float | None]:
        """Both, kept with the figures: every study of the same fault has them then."""
        if self.kind is not FaultKind.CASE or self.basis is None or self.device is None:
            return None, None
        kept = self.__dict__.setdefault("_runs_kept", [])
        if not kept:
            kept.append(_longest(self.basis))
        return kept[0]

    @property
    def deciding(self) -> Criterion | None:
        """The criterion that local practice chooses."""
        return self.criteria.get(self.basis.site.practice.clearing) if self.basis else None

    @cached_property
    def legs(self) -> tuple["unrolled.Leg", ...]:
        """The dominant loop, leg by leg."""
        return unrolled.legs_of(self) if self.basis else ()

    @cached_property
    def currents(self) -> dict[str, float]:
        """Amperes of every branch that carries a part, at the lowest current, by branch id."""
        return self.basis.currents(self.lowest_a) if self.basis else {}

    @cached_property
    def earth_share(self) -> float:
        """How much of the fault comes back through the soil."""
        return self.basis.low.solved.earth_share(self.basis.low.port) if self.basis else 0.0

    @cached_property
    def rests_on(self) -> tuple[Assumption, ...]:
        """The assumptions the answer rests on, most effect first."""
        return unrolled.rests_on(self) if self.basis else ()

    @property
    def workings(self) -> Mapping[str, Working]:
        """The working of each figure, by its name. Made when asked for: kept, its recipes would
        hold the fault that holds them, and only a collector could take such a ring apart."""
        return workings.Workings(self) if self.basis and self.lowest_a is not None else {}


def _by_use(use: HeatUse) -> tuple[float, float]:
    """Most used first; where nothing opens, the one that reaches its limit soonest."""
    return use.fraction, -use.limit_s


def _slow_and_through(basis: Basis, low: float, top: float, unproved: bool) -> tuple[float, float]:
    """(longest time at the lowest current, s; the most the set lets through between the lowest
    and the highest current, A²s)."""
    devices = basis.devices
    assert devices is not None
    return devices.slow_s(low, unproved), basis.through(low, top, unproved)[0]


def _longest(basis: Basis) -> tuple[float | None, float | None]:
    """Longest run on the curve in force, and if the magnetic trip only began at 20 ×."""
    place, spine = basis.place, basis.spine
    assert basis.devices is not None
    circuit = place.circuit
    feet = circuit.length_ft or 0.0 if circuit is not None else 0.0
    if feet < longest.LEAST_FT or not basis.low.home:
        return None, None
    search = longest.RunSearch(
        hot=all_seen(spine.hot, place, basis.kind),
        cold=all_seen(spine.cold, place, basis.kind),
        place=place,
        arc_v=float(spine.site.practice.arc_v),
        lowest_volts=LOWEST_VOLTS,
        limit_a=spine.sources.highest.limit_a,
        devices=basis.devices,
        ratio=basis.worst_ratio(),
    )
    practice = spine.site.practice.clearing
    seconds = basis.time_limit().seconds
    run = search.run(practice, seconds, unproved=False)
    if not basis.devices.devices[0][0].is_assumed:
        return run, run
    return run, search.run(practice, seconds, unproved=True)
