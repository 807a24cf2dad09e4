"""Things to try on a site: each a list of Edits, to be looked at before anything is changed."""

from collections.abc import Iterator
from dataclasses import dataclass

from ..site import Add, Circuit, Edit, Electrode, Feeder, Installation, Panel, Remove, Set
from ..site.installation import name_of

LOOSE_OHM = 0.5
LONGER = 2.0
GENERATOR_KVA = 8.0


@dataclass(frozen=True, slots=True)
class WhatIf:
    """One thing to try: ``key`` names it in a form, ``words`` say it, ``edits`` make it."""

    key: str
    words: str
    edits: tuple[Edit, ...]


def whatifs(site: Installation, at: str = "", loop: str = "") -> tuple[WhatIf, ...]:
    """What can be tried at the selected element and on the chosen circuit, then on the service."""
    elements = site.elements()
    found: dict[str, WhatIf] = {}
    for chosen in dict.fromkeys((at, loop)):
        element = elements.get(chosen)
        for one in _of_element(site, element):
            found.setdefault(one.key, one)
    for one in _of_service(site):
        found.setdefault(one.key, one)
    return tuple(found.values())


def _of_element(site: Installation, element) -> Iterator[WhatIf]:
    if isinstance(element, Circuit):
        yield from _of_circuit(element)
    elif isinstance(element, Panel):
        yield from _of_bond(element)
        for feeder in site.feeders:
            if feeder.to == element.id:
                yield from _of_feeder(feeder)
    elif isinstance(element, Feeder):
        yield from _of_feeder(element)
    elif isinstance(element, Electrode) and len(site.electrodes) > 1:
        name = name_of(element).lower()
        yield WhatIf(f"lose-{element.id}", f"Lose the {name}", (Remove(id=element.id),))


def _of_bond(panel: Panel) -> Iterator[WhatIf]:
    path, name = f"{panel.id}.bond", name_of(panel)
    if panel.bond != "out":
        yield WhatIf(
            f"open-{panel.id}", f"Take the bond out at {name}", (Set(path=path, value="out"),)
        )
    if panel.bond != "in":
        yield WhatIf(f"close-{panel.id}", f"Put a bond in at {name}", (Set(path=path, value="in"),))


def _of_circuit(circuit: Circuit) -> Iterator[WhatIf]:
    at, name = circuit.id, name_of(circuit)
    if circuit.egc not in (None, "none"):
        drop = Set(path=f"{at}.egc", value="none")
        yield WhatIf(f"drop-{at}", f"Drop the EGC of {name}", (drop,))
        part = "raceway" if circuit.egc == "raceway" else "egc"
        yield _loose(f"{at}.{part}", f"the ground of {name}")
    if circuit.length_ft:
        feet = round(circuit.length_ft * LONGER)
        longer = Set(path=f"{at}.length_ft", value=float(feet))
        yield WhatIf(f"longer-{at}", f"Make {name} {feet} ft", (longer,))


def _of_feeder(feeder: Feeder) -> Iterator[WhatIf]:
    at, name = feeder.id, name_of(feeder)
    if feeder.egc not in (None, "none"):
        drop = Set(path=f"{at}.egc", value="none")
        yield WhatIf(f"drop-{at}", f"Drop the ground of {name}", (drop,))
    if feeder.neutral != "no":
        yield _lost(f"{at}.neutral", f"the neutral of {name}")


def _of_service(site: Installation) -> Iterator[WhatIf]:
    yield from _of_bond(site.panel)
    run = site.service.id
    yield _lost(f"{run}.neutral", "the service neutral")
    yield _loose(f"{run}.neutral", "the service neutral")
    if all(s.kind != "generator" for s in site.supplies):
        yield _generator(site)


def _lost(branch: str, what: str) -> WhatIf:
    joint = Add(to="joints", facts={"on": branch, "open": "yes"})
    return WhatIf(f"lose-{branch}", f"Lose {what}", (joint,))


def _loose(branch: str, what: str) -> WhatIf:
    joint = Add(to="joints", facts={"on": branch, "ohm": LOOSE_OHM})
    return WhatIf(f"loose-{branch}", f"A loose joint, {LOOSE_OHM:g} Ω, in {what}", (joint,))


def _generator(site: Installation) -> WhatIf:
    """A portable generator on an inlet at the service, its neutral not bonded in its frame."""
    supply = f"u{site.last_id + 1}"
    return WhatIf(
        "generator",
        f"Switch to a generator, {GENERATOR_KVA:g} kVA",
        (
            Add(
                to="supplies",
                facts={
                    "name": "Generator",
                    "kind": "generator",
                    "kva": GENERATOR_KVA,
                    "bond": "out",
                    "breaker": {"rating_a": 30},
                },
            ),
            Add(
                to="services",
                facts={
                    "supply": supply,
                    "to": site.panel.id,
                    "length_ft": 25.0,
                    "line_size": "10",
                    "line_material": "copper",
                    "neutral_size": "10",
                },
            ),
        ),
    )
