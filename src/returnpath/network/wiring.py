"""How circuits hang in a site: the lines of their panel, shared neutrals, other metal."""

from dataclasses import dataclass

from ..site import Circuit, Installation

THREE_LINES = ("120/208 wye", "120/240 high-leg", "400/230")


def lines_of(site: Installation) -> int:
    """Line conductors of the place: 1, 2 or 3."""
    system = site.supply.system or "120/240 split"
    if system == "230":
        return 1
    return 3 if system in THREE_LINES else 2


def legs_of_circuits(site: Installation) -> dict[str, tuple[int, ...]]:
    """circuit → the panel lines (1, 2, 3) its poles are on.

    By its space (two rows of spaces a line, in turn); circuits without one take the lines in
    turn. A shared-neutral partner without a space takes the next line.
    """
    lines = lines_of(site)
    turn: dict[str, int] = {}
    found: dict[str, tuple[int, ...]] = {}
    for circuit in site.circuits:
        poles = min(circuit.poles or 1, lines)
        if poles == lines and poles > 1:
            found[circuit.id] = tuple(range(1, lines + 1))
            continue
        if circuit.space is not None:
            first = (circuit.space - 1) // 2 % lines
        else:
            first = turn.get(circuit.panel, 0)
            turn[circuit.panel] = (first + poles) % lines
        found[circuit.id] = tuple((first + n) % lines + 1 for n in range(poles))
    return found


@dataclass(frozen=True)
class Wiring:
    """How circuits hang in a site as a whole: ``legs_of_circuits`` and ``shared_owners``."""

    legs: dict[str, tuple[int, ...]]
    owners: dict[str, str]

    def only(self, circuits) -> "Wiring":
        """The same of some circuits alone."""
        ids = {c.id for c in circuits}
        return Wiring(
            {k: v for k, v in self.legs.items() if k in ids},
            {k: v for k, v in self.owners.items() if k in ids},
        )


def wiring_of(site: Installation) -> Wiring:
    """The Wiring of every circuit."""
    return Wiring(legs_of_circuits(site), shared_owners(site))


def shared_owners(site: Installation) -> dict[str, str]:
    """circuit → the circuit whose neutral it uses, for the later one of each shared pair."""
    order = {c.id: n for n, c in enumerate(site.circuits)}
    found: dict[str, str] = {}
    for circuit in site.circuits:
        other = circuit.shares_with
        if other in order and other != circuit.id:
            first, second = sorted((circuit.id, other), key=order.get)
            found[second] = found.get(first, first)
    return found


def is_meshed(circuit: Circuit) -> bool:
    """Whether its case or neutral is joined to anything but its panel."""
    return circuit.outlet_bond == "yes" or bool(circuit.joined_to)
