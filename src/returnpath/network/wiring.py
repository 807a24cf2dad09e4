"""How circuits hang in a site: their lines, what they share, and the joints on their branches."""

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property

from ..site import Circuit, Installation, Joint, Panel
from ..site.branches import lines_of
from ..site.spaces import leg_of_space
from ..vocabulary import BranchId

__all__ = ["Joints", "Wiring", "has_strap", "legs_of_circuits", "lines_at",
           "lines_of", "wiring_of"]  # fmt: skip


def lines_at(site: Installation) -> dict[str, int]:
    """panel → the lines it has: fewer behind a feeder of fewer poles."""
    most = lines_of(site)
    feeds = {f.to: f for f in site.feeders}
    found: dict[str, int] = {}
    for panel in site.panels:
        way, here = [], panel.id
        while here in feeds and here not in found:
            way.append(here)
            here = feeds[here].source
        lines = found.setdefault(here, most)
        for below in reversed(way):
            lines = found[below] = min(lines, feeds[below].poles or most)
    return found


def legs_of_circuits(site: Installation) -> dict[str, tuple[int, ...]]:
    """circuit → the panel lines (1, 2, 3) its poles are on.

    By its space (the rows take the lines in turn); circuits without one take the lines in
    turn, but no 120 V circuit is taken to be on a high leg. A shared-neutral partner without a
    space takes the next line. Behind a one-pole feeder there is one line for all.
    """
    here = lines_at(site)
    high = site.supply.high_line
    panels = {p.id: p for p in site.panels}
    turn: dict[str, int] = {}
    found: dict[str, tuple[int, ...]] = {}
    for circuit in site.circuits:
        lines = here.get(circuit.panel, 1)
        poles = min(circuit.poles or 1, lines)
        if poles == lines:
            found[circuit.id] = tuple(range(1, lines + 1))
            continue
        if circuit.space is not None:
            first = leg_of_space(panels[circuit.panel], circuit.space, lines) - 1
        else:
            first = turn.get(circuit.panel, 0)
            if poles == 1 and first + 1 == high:
                first = (first + 1) % lines
            turn[circuit.panel] = (first + poles) % lines
        found[circuit.id] = tuple((first + n) % lines + 1 for n in range(poles))
    return found


class Joints:
    """The joints of a site by the branch they are on: several on one add in series.

    A shared neutral or EGC is one conductor: a joint on it is on every partner's.
    """

    def __init__(self, joints: tuple[Joint, ...], owners: dict[str, str], grounds: dict[str, str]):
        self._owners, self._grounds = owners, grounds
        self._ohm: dict[BranchId, float] = {}
        self._open: set[BranchId] = set()
        self.is_empty = not joints
        for joint in joints:
            branch = self._shared(joint.on)
            self._ohm[branch] = self._ohm.get(branch, 0.0) + (joint.ohm or 0.0)
            if joint.open == "yes":
                self._open.add(branch)

    def _shared(self, branch: str) -> BranchId:
        """The branch that stands for it: the owner's, where it is shared."""
        branch = BranchId(branch)
        owner = None
        if branch.part == "neutral":
            owner = self._owners.get(branch.element)
        elif branch.part in ("egc", "raceway"):
            owner = self._grounds.get(branch.element)
        return BranchId.of(owner, branch.part) if owner else branch

    def is_open(self, branch: str) -> bool:
        """Whether a joint on it is open."""
        return bool(self._open) and self._shared(branch) in self._open

    def ohm(self, branch: str) -> float:
        """Ohms of all its joints together."""
        return self._ohm.get(self._shared(branch), 0.0) if self._ohm else 0.0


@dataclass(frozen=True)
class Wiring:
    """How circuits hang in a site as a whole.

    ``legs`` the panel lines of each circuit; ``owners`` circuit → the circuit whose neutral it
    uses; ``grounds`` circuit → the circuit whose EGC it uses; ``no_ground`` those of them
    whose owner has none; ``apart`` the panels whose ground bar is not solidly on the case;
    ``feeding`` the circuits that a transformer of the place's own hangs on.
    """

    legs: dict[str, tuple[int, ...]]
    owners: dict[str, str]
    grounds: dict[str, str]
    no_ground: frozenset[str]
    apart: frozenset[str]
    joints: tuple[Joint, ...]
    feeding: frozenset[str] = frozenset()

    @cached_property
    def on(self) -> Joints:
        """The joints by branch."""
        return Joints(self.joints, self.owners, self.grounds)

    def only(self, circuits: Iterable[Circuit]) -> "Wiring":
        """The same of some circuits alone; who shares what is every circuit's matter."""
        ids = {c.id for c in circuits}
        return Wiring(
            {k: v for k, v in self.legs.items() if k in ids},
            self.owners,
            self.grounds,
            self.no_ground,
            self.apart,
            self.joints,
            self.feeding,
        )

    def is_meshed(self, circuit: Circuit) -> bool:
        """Whether its case or neutral is joined to anything but its panel, or its two ways home
        end on metal that is not one: it is then solved as a part of the network."""
        if circuit.neutral_on_frame or circuit.joined_to or circuit.id in self.feeding:
            return True
        return circuit.egc == "both" and circuit.panel in self.apart


def wiring_of(site: Installation) -> Wiring:
    """The Wiring of every circuit."""
    by_id = {c.id: c for c in site.circuits}
    grounds = _owners_of(site.circuits, "shares_egc_with")
    return Wiring(
        legs_of_circuits(site),
        _owners_of(site.circuits, "shares_with"),
        grounds,
        frozenset(c for c, owner in grounds.items() if by_id[owner].egc == "none"),
        frozenset(p.id for p in site.panels if not _is_one(p, site.joints)),
        site.joints,
        frozenset(u.fed_by for u in site.supplies if u.fed_by is not None),
    )


def _is_one(panel: Panel, joints: tuple[Joint, ...]) -> bool:
    """Whether its ground bar and enclosure are one metal."""
    return has_strap(panel) and all(j.on != f"{panel.id}.strap" for j in joints)


def has_strap(panel: Panel) -> bool:
    """Whether the EGCs' bar is on the case. Where there is no bar and they are not on the
    neutral's, they end on the case itself."""
    if panel.ground_bar == "none":
        return panel.grounds_on_neutral == "no"
    return panel.ground_bar == "on case"


def shared_owners(site: Installation) -> dict[str, str]:
    """circuit → the circuit whose neutral it uses, for the later one of each shared pair."""
    return _owners_of(site.circuits, "shares_with")


def _owners_of(circuits: tuple[Circuit, ...], fact: str) -> dict[str, str]:
    """circuit → the first circuit, in their order, of those that share a conductor with it. One
    that has no neutral shares none, whatever is said of it."""
    if fact == "shares_with":
        circuits = tuple(c for c in circuits if c.neutral != "no" and c.line_size is not None)
    order = {c.id: n for n, c in enumerate(circuits)}
    group = {c.id: c.id for c in circuits}

    def first(one: str) -> str:
        while group[one] != one:
            one = group[one]
        return one

    for circuit in circuits:
        other = getattr(circuit, fact)
        if other in order:
            a, b = sorted((first(circuit.id), first(other)), key=order.__getitem__)
            group[b] = a
    return {c.id: first(c.id) for c in circuits if first(c.id) != c.id}
