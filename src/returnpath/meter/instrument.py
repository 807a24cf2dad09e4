"""What an instrument shows of a solved place, with its error. It solves the whole place as built;
what the diagnosis does with small changes has no part in it."""

import hashlib
import random
from functools import cached_property

from ..diagnosis.nets import Nets, nets_of
from ..diagnosis.probes import MOST_OHM, Probe, net_of, probe_of
from ..errors import BadInput
from ..readings import reading_kinds
from ..site import Circuit, Electrode
from ..study import SiteStudy, study
from .twin import Twin

ERROR_SHARE = 0.6  # of an instrument's bound: one standard deviation
#: Whole insulation, and a working ground-fault device.
SOUND_MOHM, TRIP_MS, TRIP_MA = 200.0, 24.0, 5.1
OPEN_LOOP = MOST_OHM


def shown(nets: Nets, probe: Probe, swapped: str = "") -> float:
    """A perfect instrument; ``swapped`` a receptacle that is wired hot for neutral."""
    net = net_of(nets, probe)
    a, b, z, v = probe.a, probe.b, net.z, net.v
    if swapped and probe.place == swapped:
        if probe.kind == "loop":
            return MOST_OHM  # it refuses: no volts to ground
        hot, neutral = net.index[f"{swapped}.L1"], net.index[f"{swapped}.N"]
        turn = {hot: neutral, neutral: hot}
        a, b = turn.get(a, a), turn.get(b, b)
    if probe.drive is None:
        value = abs(v[a] - v[b])
    elif probe.heater_ohm:
        p, q = probe.drive
        e = z[:, p] - z[:, q]
        value = abs((e[a] - e[b]) * abs(v[p] - v[q]) / (e[p] - e[q] + probe.heater_ohm))
    else:
        e = z[:, a] - z[:, b]
        ohm = e[a] - e[b]
        if probe.amps:
            return float(abs(v[a] - v[b]) / max(abs(ohm), 1e-6))
        return float(min(max(ohm.real, 0.0), MOST_OHM))
    if probe.branch:
        value /= abs(net.network.branches[probe.branch].ohm)
    return float(value)


def _spread(seed: bytes, sd: float) -> float:
    """The same for the same reading; nothing hangs on nobody guessing it."""
    return random.Random(seed).gauss(0, sd)  # noqa: S311


class TwinMeter:
    """Reads a twin. The same reading twice shows the same."""

    def __init__(self, twin: Twin):
        self.twin = twin

    @cached_property
    def _study(self) -> SiteStudy:
        return study(self.twin.site)

    @cached_property
    def _nets(self) -> Nets:
        if not self._study.states:
            raise BadInput("Nothing supplies this place.")
        return nets_of(self._study)

    def read(self, kind: str, place: str) -> float:
        """What is shown, with the instrument's error; BadInput where it cannot be read."""
        if kind not in reading_kinds():
            raise BadInput("no such kind of reading")
        if place not in self.twin.site.elements():
            raise BadInput("no such place")
        value = self._true(kind, place)
        if kind == "lamps":
            return value
        error = reading_kinds()[kind]
        sd = ERROR_SHARE * (error.error_share * abs(value) + error.error_abs)
        seed = hashlib.sha256(f"{self.twin.seed} {kind} {place}".encode()).digest()
        value = value if value >= MOST_OHM else value + _spread(seed, sd)
        return max(round(value, 3 if value < 1 else 2 if value < 100 else 1), 0.0)

    def _true(self, kind: str, place: str) -> float:
        element = self.twin.site.elements()[place]
        if kind == "lamps" and isinstance(element, Circuit):
            return self._lamps(element)
        if kind in ("three-point", "clamp-ohm") and isinstance(element, Electrode):
            ohm = getattr(self._study.assumed.site.elements()[place], "ohm", None)
            if ohm is not None:
                return float(ohm)
        fixed = {"insulation": SOUND_MOHM, "trip": TRIP_MS, "trip-ma": TRIP_MA}.get(kind)
        if fixed is not None and isinstance(element, Circuit):
            return fixed
        probe = probe_of(self._nets, kind, place)
        if probe is None:
            raise BadInput("that cannot be read there")
        swapped = place if isinstance(element, Circuit) and element.reversed == "yes" else ""
        return shown(self._nets, probe, swapped)

    def _lamps(self, circuit: Circuit) -> float:
        if circuit.reversed == "yes":
            return 4.0
        probe = probe_of(self._nets, "loop", circuit.id)
        is_open = probe is None or shown(self._nets, probe) >= OPEN_LOOP
        return 1.0 if is_open else 0.0
