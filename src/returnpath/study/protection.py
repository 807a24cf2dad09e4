"""The devices in a fault's path, and the ground-fault protection beside them (method 5).

Each device is judged at its own share of the fault, read from the solved network. A GFCI or an
RCD sees only the sum of the currents through it.
"""

import math
from dataclasses import dataclass
from functools import cached_property, lru_cache

from .. import fuse
from ..device import (
    Breaker,
    ground_fault_interrupter_slow_s,
    residual_device_slow_s,
    widened,
)
from ..site import Circuit, Device, Installation, Supply
from ..site.chain import OPENS_NOTHING
from ..vocabulary import BranchId, FactPath
from .port import Seen


@dataclass(frozen=True)
class DeviceSet:
    """The devices in a fault's path, each with its share of the fault's current; the one that is
    judged first."""

    devices: tuple[tuple[Breaker, float], ...]
    residuals: tuple["Residual", ...] = ()

    def residual_s(self, amps: float) -> float:
        """Longest time of the residual-current devices that count as fault protection, s."""
        return min((r.slow_s(amps) for r in self.residuals), default=math.inf)

    def heat_s(self, amps: float, unproved: bool = False) -> float:
        """Longest time that heat is judged by: a class 3 breaker limits what it lets through."""
        least = self.residual_s(amps) if self.residuals else math.inf
        for device, share in self.soonest:
            hi = device.unproved_hi if unproved else None
            least = min(least, device.heat_s(amps * share, hi))
        return least

    @cached_property
    def soonest(self) -> tuple[tuple[Breaker, float], ...]:
        """Those that can be the first to open on their slow edges: a main behind the same fault,
        larger and with a later magnetic trip, never is."""
        found: list[tuple[Breaker, float]] = []
        for one in self.devices:
            if not any(_is_sooner(other, one) for other in found):
                found = [other for other in found if not _is_sooner(one, other)]
                found.append(one)
        return tuple(found)

    @cached_property
    def is_assumed(self) -> bool:
        """Whether any of them rests on an assumed curve: it is then judged again at 20 ×."""
        return any(device.is_assumed for device, _ in self.devices)

    def slow_s(self, amps: float, unproved: bool = False) -> float:
        """Longest time of the set: the least of the slow edges."""
        if self.residuals:
            return min(self.residual_s(amps), self.over_current_s(amps, unproved))
        return self.over_current_s(amps, unproved)

    def over_current_s(self, amps: float, unproved: bool = False) -> float:
        """Longest time of its over-current devices alone, s."""
        soonest = self.soonest
        if len(soonest) == 1:
            ((device, share),) = soonest
            return device.slow_s(amps * share, device.unproved_hi if unproved else None)
        least = math.inf
        for device, share in soonest:
            seconds = device.slow_s(amps * share, device.unproved_hi if unproved else None)
            if seconds < least:
                least = seconds
        return least

    def fast_s(self, amps: float) -> float:
        """Shortest time of the set: where bands overlap, either may open."""
        least = math.inf
        for device, share in self.devices:
            least = min(least, device.fast_s(amps * share))
        return least

    def steps(self, unproved: bool = False) -> tuple[float, ...]:
        """The fault currents at which a magnetic trip becomes certain, A."""
        return self._unproved_steps if unproved else self._steps

    def certain_from(self, unproved: bool) -> float:
        """The fault current from which the only device that counts trips instantaneously, on the
        curve in force or the unproved one, A; ``math.inf`` where several can be first."""
        return self._certain_unproved if unproved else self._certain

    @cached_property
    def _certain(self) -> float:
        return self._steps[0] if len(self.soonest) == 1 and self._steps else math.inf

    @cached_property
    def _certain_unproved(self) -> float:
        steps = self._unproved_steps
        return steps[0] if len(self.soonest) == 1 and steps else math.inf

    @cached_property
    def _steps(self) -> tuple[float, ...]:
        return self._steps_at([d.band_hi for d, _ in self.soonest])

    @cached_property
    def _unproved_steps(self) -> tuple[float, ...]:
        return self._steps_at([d.unproved_hi for d, _ in self.soonest])

    def _steps_at(self, tops: list[float]) -> tuple[float, ...]:
        pairs = zip(self.soonest, tops, strict=True)
        return tuple(hi * d.rating_a / s for (d, s), hi in pairs if math.isfinite(hi) and s > 0)


def _is_sooner(one: tuple[Breaker, float], other: tuple[Breaker, float]) -> bool:
    """Whether ``one`` is on its slow edge at every current at least as soon as ``other``.

    Of one kind, the calibration's times grow with the rating; the magnetic steps must be in the
    same order, on the curve in force and on the unproved one.
    """
    (a, share_a), (b, share_b) = one, other
    if a.is_mcb or b.is_mcb or a.rating_a > b.rating_a or not a.magnetic:
        return False
    in_a, in_b = a.rating_a / share_a, b.rating_a / share_b
    return (
        in_a <= in_b
        and in_a * a.band_hi <= in_b * b.band_hi
        and in_a * a.unproved_hi <= in_b * b.unproved_hi
    )


@dataclass(frozen=True, slots=True)
class Residual:
    """A residual-current device in a fault's path: where it is, its rating, and the part of each
    ampere of the fault that it sees."""

    path: FactPath
    rated_ma: float
    delayed: bool
    share: float
    type: str = ""

    def slow_s(self, amps: float) -> float:
        """Its longest time at a fault of ``amps``, s; ``math.inf`` where it sees too little."""
        return residual_device_slow_s(amps * self.share, self.rated_ma, self.delayed)


@dataclass(frozen=True, slots=True)
class Placed:
    """A device in the network: ``branch`` it breaks, without its line's number; where it is
    described; the breaker."""

    element: str
    part: str
    path: FactPath
    breaker: Breaker

    def branches(self) -> tuple[BranchId, ...]:
        """The branch of each line it breaks."""
        return tuple(BranchId.of(self.element, self.part, n) for n in (1, 2, 3))


def placed_devices(site: Installation, supply: Supply) -> list[Placed]:
    """Every device upstream of the circuits: mains, a source's own, feeders'."""
    found = []
    for panel in site.panels:
        if made := breaker_of(panel.main):
            found.append(Placed(panel.id, "main", FactPath.of(panel.id, "main"), made))
    for run in site.services:
        if run.supply == supply.id and (made := breaker_of(supply.breaker)):
            found.append(Placed(run.id, "line", FactPath.of(supply.id, "breaker"), made))
    for feeder in site.feeders:
        if made := breaker_of(feeder.breaker):
            found.append(Placed(feeder.id, "line", FactPath.of(feeder.id, "breaker"), made))
    return found


def breaker_of(device: Device) -> Breaker | None:
    """The core's breaker for a described one; None while its rating is not known."""
    if device.rating_a is None or device.kind in OPENS_NOTHING:
        return None
    return _breaker(
        device.rating_a,
        device.kind,
        device.magnetic,
        device.lo,
        device.hi,
        device.magnetic_nominal,
        device.energy_class,
    )


@lru_cache(maxsize=512)
def _breaker(rating_a, kind, magnetic, lo, hi, nominal, energy) -> Breaker:
    """The one Breaker of these facts: a site has few kinds and many of each. A stated end of the
    band goes before what a nominal figure gives."""
    if kind in ("B", "C", "D"):
        return Breaker(rating_a, kind=kind, energy_class=energy or 1)
    if kind == fuse.KIND:
        return fuse.Fuse(rating_a)
    if magnetic == "none":
        return Breaker(rating_a, magnetic=False)
    if nominal is not None:
        least, most = widened(nominal)
        hi = most if hi is None else hi
        lo = min(least, hi) if lo is None else lo
    if lo is not None and hi is not None and lo > hi:
        lo = hi  # a nominal figure under the stated lower end: refused where both are stated
    return Breaker(rating_a, lo, hi)


def residual_share(circuit: Circuit, seen: Seen) -> float:
    """What a device at the circuit's start sees of each ampere of a line-to-case fault: the sum
    of the currents in its lines and neutral. All of it, unless the case is tied to the neutral."""
    if not seen.solved.has(f"{circuit.id}.case"):
        return 1.0  # it hangs on its panel: nothing comes back by its neutral
    wiring, port = seen.solved.wiring, seen.port
    owner = wiring.owners.get(circuit.id, circuit.id)
    lines = sum(seen.solved.flow(f"{circuit.id}.line{n}", port) for n in (1, 2, 3))
    # Lines are counted away from the panel, the neutral towards it.
    return abs(lines - seen.solved.flow(f"{owner}.neutral", port))


def second_line_s(circuit: Circuit | None, amps: float, seen: Seen) -> float | None:
    """A GFCI or an RCD at this fault: a second line of defence, never merged in. None where there
    is none; ``math.inf`` where it sees too little."""
    if circuit is None or (circuit.rcd_ma is None and circuit.gfci != "yes"):
        return None
    residual = amps * residual_share(circuit, seen)
    if circuit.rcd_ma is not None:
        return residual_device_slow_s(residual, circuit.rcd_ma, circuit.rcd_delayed == "yes")
    return ground_fault_interrupter_slow_s(residual)
