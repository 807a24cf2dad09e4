"""What an experiment measures of a solved place, by a few words (docs/experiments.md).

fault c15          A of a line-to-case fault at a circuit
times c15          the same over its breaker's rating
verdict c15        what its breaker does
through e10.gec c15   A in a branch while that fault stands; share … in percent
earth c15          V of its case over the remote earth, while that fault stands
hand 1000          A through so many ohms at the place's volts
heavier p4         V of the leg with more load; lighter … of the other
touch c15          V of its case over the service's ground bar, while that fault stands
load f7.egc        A in a branch with every load on
volts p5.N p5.case    V between two points with every load on
leg p4 2           V of a leg with every load on
tester c15         what a plug-in tester's lamps show
metal p1.ground    V of a point over the remote earth with every load on
loop c15           Ω round the loop, conductors cold
person c15         V over a hand on the case, with every load on
"""

from collections.abc import Callable
from functools import cached_property

from ..diagnosis.nets import Net, Nets, nets_of
from ..errors import BadInput
from ..meter import Twin, TwinMeter
from ..readings import figure_of
from ..site import Installation
from ..study import SiteStudy, study


class Measured:
    """One place, solved when something is asked of it."""

    def __init__(self, site: Installation):
        self.site = site

    @cached_property
    def study(self) -> SiteStudy:
        """The whole study."""
        return study(self.site)

    @cached_property
    def _nets(self) -> Nets:
        return nets_of(self.study)

    def value(self, words: str) -> float | str:
        """What ``words`` ask for; BadInput where they ask for nothing known."""
        parts = words.split()
        known: dict[str, Callable[..., float | str]] = {
            "fault": self._fault, "times": self._times, "verdict": self._verdict,
            "through": self._through, "share": self._share, "touch": self._touch,
            "load": self._load, "volts": self._volts, "leg": self._leg, "tester": self._tester,
            "person": self._person, "earth": self._earth, "hand": self._hand,
            "array": self._array, "array-times": self._array_times,
            "metal": self._metal, "loop": self._loop,
            "heavier": self._heavier, "lighter": self._lighter,
        }  # fmt: skip
        found = known.get(parts[0] if parts else "")
        try:
            if found is None:
                raise BadInput(f"“{words}” measures nothing.")
            return found(*parts[1:])
        except (
            KeyError,
            TypeError,
            IndexError,
            ZeroDivisionError,
            ValueError,
            StopIteration,
        ) as error:
            raise BadInput(f"“{words}” cannot be measured here: {error}.") from None

    def _drive(self, circuit: str) -> tuple[Net, complex, complex]:
        """(the net, the loop's ohms, its volts)."""
        net = self._nets.loops
        a, b = net.index[f"{circuit}.L1"], net.index[f"{circuit}.case"]
        z = net.z[a, a] - net.z[a, b] - net.z[b, a] + net.z[b, b]
        return net, complex(z), complex(net.v[a] - net.v[b])

    def _fault(self, circuit: str) -> float:
        _, z, v = self._drive(circuit)
        return float(abs(v / z))

    def _times(self, circuit: str) -> float:
        rating = self.study.assumed.site.circuit(circuit).breaker.rating_a
        return self._fault(circuit) / float(rating or 1)

    def _verdict(self, circuit: str) -> str:
        return str(self.study.loops[circuit].verdict.value)

    def _through(self, branch: str, circuit: str) -> float:
        net, z, v = self._drive(circuit)
        a, b = net.index[f"{circuit}.L1"], net.index[f"{circuit}.case"]
        e = net.z[:, a] - net.z[:, b]
        p, q = net.ends(branch)
        return float(abs((e[p] - e[q]) / net.network.branches[branch].ohm * (v / z)))

    def _share(self, branch: str, circuit: str) -> float:
        return 100 * self._through(branch, circuit) / self._fault(circuit)

    def _touch(self, circuit: str) -> float:
        net, z, v = self._drive(circuit)
        a, b = net.index[f"{circuit}.L1"], net.index[f"{circuit}.case"]
        e = net.z[:, a] - net.z[:, b]
        bar = net.index[f"{self.site.panel.id}.ground"]
        return float(abs((e[b] - e[bar]) * (v / z)))

    def _earth(self, circuit: str) -> float:
        net, z, v = self._drive(circuit)
        a, b = net.index[f"{circuit}.L1"], net.index[f"{circuit}.case"]
        return float(abs(net.v[b] - (net.z[b, a] - net.z[b, b]) * (v / z)))

    def _metal(self, node: str) -> float:
        net = self._nets.loaded
        return float(abs(net.v[net.index[node]]))

    def _loop(self, circuit: str) -> float:
        return abs(self._drive(circuit)[1])

    def _hand(self, ohm: str) -> float:
        return self.study.states[0].volts / float(ohm)

    def _legs(self, panel: str) -> list[float]:
        return [self._leg(panel, leg) for leg in ("1", "2")]

    def _heavier(self, panel: str) -> float:
        return min(self._legs(panel))

    def _lighter(self, panel: str) -> float:
        return max(self._legs(panel))

    def _array(self, array: str) -> float:
        return next(a.fault_a for a in self.study.arrays if a.array == array)

    def _array_times(self, array: str) -> float:
        site = self.study.assumed.site
        element = next(a for a in site.arrays if a.id == array)
        rating = element.device_a or site.circuit(str(element.circuit)).breaker.rating_a
        return self._array(array) / float(rating or 1)

    def _load(self, branch: str) -> float:
        net = self._nets.loaded
        if branch not in net.network.branches:
            return 0.0  # nothing is there to carry a current
        p, q = net.ends(branch)
        return float(abs((net.v[p] - net.v[q]) / net.network.branches[branch].ohm))

    def _volts(self, one: str, other: str) -> float:
        net = self._nets.loaded
        return float(abs(net.v[net.index[one]] - net.v[net.index[other]]))

    def _leg(self, panel: str, leg: str) -> float:
        return self._volts(f"{panel}.L{leg}", f"{panel}.N")

    def _tester(self, circuit: str) -> str:
        meter = TwinMeter(Twin("", self.site, 0))
        return figure_of("lamps", meter.read("lamps", circuit))

    def _person(self, circuit: str) -> float:
        return self._volts(f"{circuit}.case", f"{self.site.panel.id}.ground")
