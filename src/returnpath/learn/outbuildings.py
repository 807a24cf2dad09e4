"""Questions of a building's own grounding (250.32), answered by the same checks as a job's."""

import random
from dataclasses import dataclass

from ..face import judge
from ..rules import pairs
from ..site import Set
from ..vocabulary import Level

REMAINS = "It may remain; bars together there"
NOTHING = "Nothing: it is as it should be"
#: The finding that says so → what is to do, the gravest first.
OF_FINDING = {
    "three-wire-existing": "It may not remain: run an EGC first",
    "three-wire-new": "Four wires were asked for when it was run",
    "bonded-with-egc": "Take the bond out over there",
    "electrode-required": "It needs an electrode of its own",
}
ANSWERS = (REMAINS, *OF_FINDING.values(), NOTHING)
#: What may be the case at a workshop: its wires, and what is wrong or right with them.
CASES = ("remains", *OF_FINDING, "nothing")


@dataclass(frozen=True)
class Outbuilding:
    """A question, its answer, one of ``ANSWERS``, and why."""

    ask: str
    right: str
    working: tuple[str, ...]


def outbuilding(rng: random.Random) -> Outbuilding:
    """A workshop on a feeder, as it was run; what the checks say of it."""
    case = rng.choice(CASES)
    three = case == "remains" or case.startswith("three")
    year = rng.randint(2009, 2024) if case == "three-wire-new" else rng.randint(1965, 2006)
    broken = rng.choice(("metal", "guard", "neutral")) if case == "three-wire-existing" else ""
    bonded = three or case == "bonded-with-egc"
    neutral = "12" if broken == "neutral" else "6"
    facts: dict[str, object] = {
        "f8.egc": "none" if three else "wire",
        "f8.year": year,
        "f8.metal_paths": "yes" if broken == "metal" else "no",
        "f8.ground_fault_protected": "yes" if broken == "guard" else "no",
        "f8.neutral_size": neutral,
        "p6.bond": "in" if bonded else "out",
    }
    edits = [Set(path=path, value=value) for path, value in facts.items()]
    if case == "electrode-required":
        own = (e for e in pairs.base().electrodes if e.panel == "p6")
        edits += [Set(path=f"{e.id}.joined", value="no") for e in own]
    return Outbuilding(_words(facts, case == "electrode-required"), *_found(edits))


def _words(facts: dict[str, object], bare: bool) -> str:
    wires = "three wires, no EGC" if facts["f8.egc"] == "none" else "four wires"
    bond = "bonded" if facts["p6.bond"] == "in" else "not bonded"
    metal = "a metal pipe joins" if facts["f8.metal_paths"] == "yes" else "no metal joins"
    guard = "is" if facts["f8.ground_fault_protected"] == "yes" else "is no"
    rods = "no electrode" if bare else "two rods"
    return (
        f"A workshop's 60 A feeder, run in {facts['f8.year']}: {wires}, neutral"
        f" {facts['f8.neutral_size']} AWG copper; the neutral is {bond} there, {rods} there;"
        f" {metal} the buildings, there {guard} ground-fault protection upstream. What is to do?"
    )


def _found(edits: list[Set]) -> tuple[str, tuple[str, ...]]:
    """(the answer, the finding's own words) of the place with these facts."""
    listed = [f for f in judge(pairs.edited(list(edits))) if f.place in ("b3", "f8", "p6")]
    found = {f.id: f for f in (*listed, *(g for f in listed for g in f.folded))}
    for id, words in OF_FINDING.items():
        if finding := found.get(id):
            is_right = finding.level is Level.NOTE
            return REMAINS if is_right else words, (finding.found, finding.do, finding.why)
    return NOTHING, ("No check finds anything at this feeder.",)
