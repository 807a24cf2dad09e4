"""Break and mend: a generated place with hidden defects, read as a person would walk.

Each reading costs minutes, a cover more, another panel a walk; opening a neutral under load ends
the round. The same seed is the same place.
"""

import random
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache

from ..diagnosis import Defect, Diagnoser, Given, edits_of
from ..diagnosis.defects import priors
from ..errors import BadInput
from ..meter import Twin, TwinMeter
from ..site import Building, Circuit, Device, Feeder, Installation, Panel, Service, Supply, apply
from ..site import Electrode as Rod
from ..study import study

#: Grade → (defects, minutes).
GRADES = {1: (1, 30), 2: (1, 40), 3: (2, 80)}
MINUTES = {"loop": 2, "loop-ln": 2, "ng": 2, "ln": 2, "lg": 2, "lamps": 1, "step-ng": 3,
           "step-drop": 3, "step-leg": 4, "step-clamp": 5, "clamp": 5, "r2": 6,
           "r1r2": 6}  # fmt: skip
WALK = 3  # to another panel
KINDS = {1: ("egc", "neutral", "line", "egc-open", "outlet-bond"),
         2: ("egc", "neutral", "line", "egc-open", "outlet-bond", "bond-in", "feeder-neutral",
             "service-neutral"),
         3: ("egc", "neutral", "line", "egc-open", "outlet-bond", "bond-in")}  # fmt: skip
NAMES = ("Kitchen", "Hall", "Bath", "Garage", "Porch", "Cellar", "Attic", "Laundry", "Studio",
         "Nook")  # fmt: skip
SIZES = {15: "14", 20: "12"}


def made_place(seed: int) -> Installation:
    """A house with a main panel and a sub-panel, eight circuits: the same for the same seed."""
    rng = random.Random(seed)  # noqa: S311 - a game's dice
    main = Panel(id="p3", name="Main", kind="service", building="b9", main=Device(rating_a=200),
                 bond="in")  # fmt: skip
    sub = Panel(id="p4", name="Back panel", kind="sub", building="b9", bond="out")
    feeder = Feeder(id="f5", name="Back feeder", source="p3", to="p4", poles=2, method="PVC",
                    breaker=Device(rating_a=60), length_ft=float(rng.randint(30, 90)),
                    line_size="6", neutral="yes", neutral_size="6", egc="wire",
                    egc_size="10")  # fmt: skip
    circuits = []
    for n, name in enumerate(rng.sample(NAMES, 8)):
        rating = rng.choice((15, 20))
        circuits.append(Circuit(
            id=f"c{n + 10}", name=name, panel="p3" if n % 2 else "p4", poles=1, neutral="yes",
            breaker=Device(rating_a=rating), method="NM", length_ft=float(rng.randint(20, 90)),
            line_size=SIZES[rating], egc="wire", egc_size=SIZES[rating], space=1 + n // 2 * 2,
            load_va=float(rng.randint(3, 12) * 100),
        ))  # fmt: skip
    rods = (Rod(id="e6", panel="p3", kind="rod"),
            Rod(id="e7", panel="p3", kind="rod", near="e6", spacing_ft=8.0))  # fmt: skip
    return Installation(
        supplies=(Supply(id="u1", kva=25, percent_z=1.7, x_over_r=1.6),),
        services=(Service(id="s2", supply="u1", to="p3", length_ft=60, line_size="4/0",
                          line_material="aluminium", neutral_size="4/0"),),
        buildings=(Building(id="b9", name="House", permit="dwelling"),),
        panels=(main, sub), feeders=(feeder,), electrodes=rods, circuits=tuple(circuits),
        last_id=20,
    )  # fmt: skip


@dataclass(frozen=True)
class HiddenPlace:
    """A round: the place as it is told, as it really is, what is hidden."""

    seed: int
    grade: int
    site: Installation

    @property
    def called_for(self) -> str:
        """The circuit that somebody called about: one with something hidden, where one has."""
        own = [d.element for d in self.hidden if d.element.startswith("c")]
        return own[0] if own else self.site.circuits[0].id

    @cached_property
    def ready(self) -> Diagnoser:
        """The place made ready to explain readings."""
        return Diagnoser(study(self.site))

    @cached_property
    def hidden(self) -> tuple[Defect, ...]:
        """What is hidden: of different classes, sized so that it can be felt."""
        rng = random.Random(f"{self.seed} {self.grade}")  # noqa: S311
        count, _ = GRADES[self.grade]
        by_key: dict[str, list[Defect]] = {}
        for d in self.ready.defects:
            if d.kind in KINDS[self.grade] and edits_of(self.site, d):
                by_key.setdefault(d.key, []).append(d)
        found: list[Defect] = []
        keys = sorted(by_key)
        while len(found) < count:
            key = rng.choice(keys)
            if any(d.element == by_key[key][0].element for d in found):
                continue
            sizes = [d for d in by_key[key] if d.kind != "egc" or d.size >= 0.3]
            felt = [d for d in sizes if d.size >= 0.3 or not priors()[d.kind][2]] or sizes
            found.append(rng.choice(felt))
        return tuple(found)

    @cached_property
    def meter(self) -> TwinMeter:
        """Reads the place as it really is."""
        site = self.site
        for defect in self.hidden:
            for edit in edits_of(self.site, defect):
                site = apply(site, edit)
        return TwinMeter(Twin("", site, self.seed))

    @cached_property
    def mended(self) -> TwinMeter:
        """Reads the place as it is told: everything is mended."""
        return TwinMeter(Twin("", self.site, self.seed + 1))

    @cached_property
    def par(self) -> "Par":
        """How the engine goes about it."""
        return _par_of(self)

    @property
    def minutes(self) -> int:
        """What the round has."""
        return GRADES[self.grade][1]


@lru_cache(maxsize=16)
def hidden_place(seed: int, grade: int) -> HiddenPlace:
    """A round of a seed, kept ready while it is played; BadInput for a grade that is none."""
    if grade not in GRADES:
        raise BadInput(f"Grade {grade} is none; {', '.join(map(str, GRADES))} are.")
    return HiddenPlace(seed, grade, made_place(seed))


def cost_of(place: HiddenPlace, kind: str, at: str, was: str) -> int:
    """Minutes of a reading, the walk from where one was included."""
    return MINUTES.get(kind, 5) + (WALK if _panel(place, at) != _panel(place, was) and was else 0)


def _panel(place: HiddenPlace, at: str) -> str:
    element = place.site.elements().get(at)
    return str(getattr(element, "panel", None) or getattr(element, "to", None) or at)


@dataclass(frozen=True)
class Par:
    """The engine's own way: its readings, the minutes, whether it named what is hidden."""

    readings: tuple[Given, ...]
    minutes: int
    named: bool


def _par_of(place: HiddenPlace) -> Par:
    """Begin with the loop that somebody called about, then read what the diagnosis proposes, while
    minutes last. Where more than one thing is hidden: every loop first, panel by panel, as a person
    would walk; what is found is taken as known, and the readings are looked at again without it."""
    first = place.called_for
    ahead = [("loop", first)]
    if len(place.hidden) > 1:
        ahead += _walk(place, first)
    given: list[Given] = []
    keys: list[str] = []
    spent, was, ready, site = 0, "", place.ready, place.site
    while ahead:
        step = ahead.pop(0)
        cost = cost_of(place, *step, was)
        if spent + cost > place.minutes:
            break
        spent, was = spent + cost, step[1]
        given.append(Given(*step, place.meter.read(*step)))
        if ahead:
            continue
        found = ready.diagnose(given)
        best = found.candidates[0]
        if best.share > SURE and best.kind != "none":
            keys += [best.key, *best.same]
            if is_named(place, keys):
                break
            for edit in edits_of(site, best.defect):
                site = apply(site, edit)
            ready = Diagnoser(study(site))
            found = ready.diagnose(given)
        if found.next_reading is not None:
            ahead.append((found.next_reading.kind, found.next_reading.place))
        elif len(place.hidden) > 1:
            ahead += _unread(place, given)[:1]
    return Par(tuple(given), spent, is_named(place, keys))


SURE = 0.8


def _unread(place: HiddenPlace, given: Sequence[Given]) -> list[tuple[str, str]]:
    """What is not read yet of the neutrals: a loop sees only hot and ground."""
    read = {(g.kind, g.place) for g in given}
    return [("loop-ln", c.id) for c in place.site.circuits if ("loop-ln", c.id) not in read]


def _walk(place: HiddenPlace, first: str) -> list[tuple[str, str]]:
    """The loops of the other circuits, those of the same panel first."""
    here = _panel(place, first)
    others = [c for c in place.site.circuits if c.id != first]
    return [("loop", c.id) for c in sorted(others, key=lambda c: c.panel != here)]


def is_named(place: HiddenPlace, keys: Sequence[str]) -> bool:
    """Whether what somebody says is what is hidden, or what nothing tells from it."""
    said = {part for key in keys for part in key.split(" + ")}
    return all(d.key in said for d in place.hidden)
