"""What the map lights up in each look: fault, load, lost neutral, touch."""

from dataclasses import dataclass, field

from returnpath.site.arrangement import Arrangement, arrangement_at
from returnpath.study import FaultStudy, SiteStudy, Verdict
from returnpath.vocabulary import BranchId
from returnpath.working import figures

LOOKS = {
    "fault": "Fault",
    "load": "Load",
    "neutral": "Lost neutral",
    "touch": "Touch",
}
LEAST_A = 0.005
METAL = ("egc", "raceway", "gec", "soil", "main", "join", "bond", "tie", "return")


@dataclass(frozen=True)
class Look:
    """``amps`` by branch, of what is lit; ``volts`` on each panel's enclosure; ``legs`` of a panel.

    ``before`` the amperes without the trial, where one is on.
    """

    kind: str
    title: str
    loop: FaultStudy | None = None
    amps: dict[str, float] = field(default_factory=dict)
    volts: dict[str, float] = field(default_factory=dict)
    legs: dict[str, dict[str, float]] = field(default_factory=dict)
    lost: str = ""
    least_a: float = LEAST_A
    before: dict[str, float] | None = None

    def of(self, branches: tuple[str, ...]) -> float:
        """Amperes of a drawn conductor: parallel branches add, poles do not."""
        found = [self.amps.get(b, 0.0) for b in branches]
        if branches and BranchId(branches[0]).kind == "line":
            return max(found, default=0.0)
        return sum(found)

    def was(self, branches: tuple[str, ...]) -> float | None:
        """The same before the trial."""
        if self.before is None:
            return None
        found = [self.before.get(b, 0.0) for b in branches]
        if branches and BranchId(branches[0]).kind == "line":
            return max(found, default=0.0)
        return sum(found)

    @property
    def legs_of_loop(self) -> set[str]:
        """The ids of the legs that the chosen loop goes by."""
        if self.loop is None or self.kind not in ("fault", "touch"):
            return set()
        return {leg.id for leg in self.loop.legs}


def look_of(kind: str, study: SiteStudy, loop: FaultStudy | None, before=None) -> Look:
    """The look called ``kind``; ``before`` is the same look of the site without the trial."""
    made = {"load": _load, "neutral": _neutral, "touch": _touch}.get(kind, _fault)(study, loop)
    if before is None:
        return made
    return Look(**{**made.__dict__, "before": before.amps})


def _fault(study: SiteStudy, loop: FaultStudy | None) -> Look:
    if loop is None or loop.lowest_a is None:
        return Look("fault", "What a fault would do", loop)
    least = max(LEAST_A, 0.005 * loop.lowest_a)
    title = f"Line to enclosure at {loop.place_name}, lowest current"
    return Look("fault", title, loop, loop.currents, least_a=least)


def _supply(study: SiteStudy) -> str:
    return next(iter(study.loads), "")


def _load(study: SiteStudy, loop) -> Look:
    done = study.loads.get(_supply(study))
    if done is None:
        return Look("load", "Where load current rides", loop)
    strays = [s for s in done.strays if s.amps >= 0.01]
    if strays:
        title = f"{figures(strays[0].amps)} A of load rides on metal that should carry none"
    else:
        title = "No load current on metal"
    return Look("load", title, loop, done.currents, least_a=0.01)


def _neutral(study: SiteStudy, loop) -> Look:
    done = study.open_neutrals.get(_supply(study))
    if done is None:
        return Look("neutral", "There is no service neutral to lose", loop)
    site = study.assumed.site
    legs = {p.id: done.legs(p.id) for p in site.panels}
    worst = max((v for each in legs.values() for v in each.values()), default=0.0)
    title = f"Service neutral lost: up to {figures(worst)} V on a leg"
    volts = {p.id: done.volts.get(f"{p.id}.case", 0.0) for p in site.panels}
    if arrangement_at(site, site.panel.id) is Arrangement.TN_C_S:
        title = f"PEN lost: {figures(volts[site.panel.id])} V on every bonded metal"
    return Look("neutral", title, loop, done.currents, volts, legs, done.lost, 0.01)


def _touch(study: SiteStudy, loop: FaultStudy | None) -> Look:
    site = study.assumed.site
    if loop is None or loop.lowest_a is None or loop.basis is None:
        done = study.loads.get(_supply(study))
        volts = {p.id: done.volts.get(f"{p.id}.case", 0.0) for p in site.panels} if done else {}
        return Look("touch", "Hand on an enclosure, feet on the earth, no fault", loop, {}, volts)
    seen = loop.basis.low
    amps = seen.amps()
    nodes = seen.solved.network.nodes
    volts = {
        p.id: abs(seen.volts(f"{p.id}.case", amps)) for p in site.panels if f"{p.id}.case" in nodes
    }
    title = f"Fault at {loop.place_name}: {figures(loop.body_ma)} mA through a hand on it"
    return Look(
        "touch", title, loop, loop.currents, volts, least_a=max(LEAST_A, loop.lowest_a / 200)
    )


def is_unknown(loop: FaultStudy | None) -> bool:
    """Whether there is nothing to light."""
    return loop is None or (loop.verdict is Verdict.NOT_KNOWN and loop.lowest_a is None)
