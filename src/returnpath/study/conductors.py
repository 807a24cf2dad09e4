"""Every conductor that a fault can flow in, with the heat it lives through (method 6).

Found by the branch it is in the solved network: whatever carries a part of a fault is judged,
whether or not anybody meant it to.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from .. import armour, conductor
from ..conductor import Wire
from ..network.build import (
    egc_wire,
    line_wire,
    neutral_wire,
    service_wire,
    steel_i2t,
    supply_side_wire,
)
from ..site import Circuit, Feeder, Installation
from ..vocabulary import BranchId, FactPath

LINES = (1, 2, 3)


@dataclass(frozen=True, slots=True)
class Conductor:
    """``branch`` of the network, ``path`` of the fact that says its size, its name, and the
    ampere-squared-seconds it lives through."""

    branch: BranchId
    path: FactPath
    label: str
    i2t: float


def conductors_of(site: Installation) -> list[Conductor]:
    """Every conductor of a filled site whose size is known or assumed."""
    found: list[Conductor] = []
    found += _services(site)
    for feeder in site.feeders:
        if feeder.line_size is not None:
            found += _run(feeder, "feeder ")
    for circuit in site.circuits:
        if circuit.line_size is not None:
            found += _run(circuit, "")
    found += _bonds(site)
    return found


def _made(element: str, part: str, fact: str, label: str, wire: Wire, n: int = 0) -> Conductor:
    limit = conductor.withstand_i2t(wire)
    return Conductor(BranchId.of(element, part, n), FactPath.of(element, fact), label, limit)


def _services(site: Installation) -> Iterator[Conductor]:
    for run in site.services:
        if run.line_size is not None:
            for n in LINES:
                yield _made(run.id, "line", "line_size", "service line", service_wire(run), n)
            neutral = service_wire(run, True)
            yield _made(run.id, "neutral", "neutral_size", "service neutral", neutral)
        if run.egc_size is not None:
            wire = supply_side_wire(run)
            yield _made(run.id, "egc", "egc_size", "supply-side bonding jumper", wire)


def _run(run: Circuit | Feeder, word: str) -> Iterator[Conductor]:
    """The conductors of a circuit or feeder."""
    for n in LINES:
        label = f"{word}line" if word else "line wire"
        yield _made(run.id, "line", "line_size", label, line_wire(run), n)
    if run.neutral == "yes":
        fact = "neutral_size" if isinstance(run, Feeder) else "line_size"
        yield _made(run.id, "neutral", fact, f"{word}neutral", neutral_wire(run))
    if wire := egc_wire(run):
        yield _made(run.id, "egc", "egc_size", f"{word}EGC", wire)
    if run.egc in ("raceway", "both") and (run.raceway_size or has_armour(run)):
        yield Conductor(
            BranchId.of(run.id, "raceway"),
            FactPath.of(run.id, "line_size" if has_armour(run) else "raceway_size"),
            f"{word}{steel_name(run)}",
            steel_i2t(run),
        )


def steel_kind(run: Circuit | Feeder) -> str:
    """What of its wiring method brings a fault home: ``"EMT"``, ``"SWA"``; empty for none."""
    return conductor.method(run.method or "").steel_return or ""


def has_armour(run: Circuit | Feeder) -> bool:
    """Whether its steel is a cable's armour, whose size is its lines'."""
    return steel_kind(run) == armour.SWA


def steel_name(run: Circuit | Feeder) -> str:
    """``"EMT wall"`` or ``"armour"``."""
    return "armour" if has_armour(run) else f"{steel_kind(run)} wall"


def _bonds(site: Installation) -> Iterator[Conductor]:
    """Bonding jumpers, electrode conductors and the bonds of other metal."""
    for panel in site.panels:
        if panel.bond == "in" and panel.bond_kind == "wire" and panel.bond_size:
            wire = Wire(panel.bond_size, "copper", "PVC")
            yield _made(panel.id, "bond", "bond_size", "bonding jumper", wire)
    for electrode in site.electrodes:
        if electrode.gec_size:
            wire = Wire(electrode.gec_size, electrode.gec_material or "copper", "SE")
            yield _made(electrode.id, "gec", "gec_size", "electrode conductor", wire)
    for metal in site.metals:
        if metal.bonded == "yes" and metal.bond_size:
            wire = Wire(metal.bond_size, metal.bond_material or "copper", "SE")
            words = {"structure": "structure bond", "pool": "pool bond"}
            label = words.get(metal.kind or "", "pipe bond")
            yield _made(metal.id, "bond", "bond_size", label, wire)
