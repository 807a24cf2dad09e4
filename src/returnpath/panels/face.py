"""The face of a panel: its spaces as they are numbered, odd on the left, each on its leg; the
breakers in them; what is free and what fits there."""

from dataclasses import dataclass

from ..network.wiring import lines_at
from ..site import Circuit, Feeder, Installation, Panel, name_of
from ..site.spaces import as_numbered, below, is_left, leg_of_space, row_of
from ..tables import size_name
from ..vocabulary import System

FEWEST, MOST_SPACES = 12, 84  # spaces where nobody has counted them
#: Words in a name that say that a circuit feeds in.
SOURCE_WORDS = {"inverter", "solar", "pv", "array", "battery", "generator", "inlet"}


@dataclass(frozen=True)
class Unit:
    """A breaker: the circuit it is of, its rating in amperes (None: not known), its spaces from
    the first, its poles; ``halves`` of a tandem stand in one space."""

    id: str
    name: str
    rating_a: float | None
    poles: int
    spaces: tuple[int, ...]
    is_tandem: bool
    partner: str = ""  # shares its neutral with
    is_source: bool = False  # feeds in: it stays where it is
    load_va: float | None = None
    is_multiwire: bool = False
    is_feeder: bool = False
    wire: str = ""  # the size of its lines, as the trade writes it
    protection: tuple[str, ...] = ()  # GFCI, AFCI: what it is said to have
    is_pinned: bool = False  # an interlock or a hold-down, or the office, keeps it in its space

    @property
    def can_move(self) -> bool:
        """Whether it may be put elsewhere: not what feeds in, nor what is said to stay."""
        return not (self.is_source or self.is_pinned)

    @property
    def first(self) -> int:
        """Its lowest space; 0 where it is not placed."""
        return self.spaces[0] if self.spaces else 0


@dataclass(frozen=True)
class Space:
    """One numbered space: its leg (1, 2, 3), and what is in it."""

    number: int
    leg: int
    units: tuple[Unit, ...]

    @property
    def is_free(self) -> bool:
        """Nothing is in it."""
        return not self.units

    @property
    def is_taken_twice(self) -> bool:
        """Two breakers are entered there that are no halves of a tandem."""
        return are_too_many([u.is_tandem for u in self.units])


@dataclass(frozen=True)
class Face:
    """A panel's spaces in order, and the breakers that have none yet."""

    panel: Panel
    lines: int
    spaces: tuple[Space, ...]
    unplaced: tuple[Unit, ...]
    is_counted: bool  # somebody said how many spaces there are
    high_leg: int = 0  # the line of a four-wire delta that is 208 V to neutral; 0: none
    volts: float = System.SPLIT.volts  # line to neutral

    @property
    def units(self) -> tuple[Unit, ...]:
        """Every placed breaker once, by its first space."""
        return tuple(dict.fromkeys(u for s in self.spaces for u in s.units))

    @property
    def free(self) -> tuple[int, ...]:
        """The numbers of the free spaces."""
        return tuple(s.number for s in self.spaces if s.is_free)

    def leg_of(self, space: int) -> int:
        """The leg that a space's stab is on."""
        return leg_of_space(self.panel, space, self.lines)

    def place_of(self, space: int) -> tuple[bool, int]:
        """(whether it is in the left column, its row from 0)."""
        return is_left(self.panel, space), row_of(self.panel, space)

    @property
    def rows(self) -> int:
        """How many rows of spaces it has."""
        return max(self.place_of(s.number)[1] for s in self.spaces) + 1

    def spaces_from(self, space: int, poles: int) -> tuple[int, ...] | None:
        """The spaces that so many poles take from one on, under each other; None where they do
        not fit."""
        found = [below(self.panel, space, n) for n in range(poles)]
        last = len(self.spaces)
        return None if any(n is None or n > last for n in found) else tuple(n for n in found if n)

    def halves(self, space: Space) -> dict[str, int]:
        """Which half of a shared space each of its breakers is in: 0 the upper, 1 the lower. Of a
        quad, the two poles in the middle are tied: the lower half of the first space and the upper
        one of the next; its single halves are outside."""
        found: dict[str, int] = {}
        for unit in sorted(space.units, key=lambda u: -u.poles):
            wanted = 1 if unit.poles > 1 and unit.first == space.number else 0
            taken = set(found.values())
            found[unit.id] = wanted if wanted not in taken else 1 - wanted
        return found


def spaces_of(panel: Panel, breaker: Circuit | Feeder, lines: int) -> tuple[int, ...]:
    """The spaces a breaker takes in a panel of so many lines, one under the other; none where it
    is not placed. A feeder's takes every line unless it is said."""
    usual = lines if isinstance(breaker, Feeder) else 1
    poles = min(breaker.poles or usual, lines)
    if not breaker.space:
        return ()
    found = (below(panel, breaker.space, n) for n in range(poles))
    return tuple(n for n in found if n is not None)


def _panel_of(site: Installation, panel: str) -> Panel:
    """A panel of a site as it is numbered, or usually is."""
    system = site.supply.system
    element = next(p for p in site.panels if p.id == panel)
    return as_numbered(element, system is not None and system.is_metric)


def taken_spaces(site: Installation, panel: str) -> dict[int, list[Circuit | Feeder]]:
    """space → the breakers entered there, in the order of the spaces."""
    lines = lines_at(site).get(panel, 2)
    element = _panel_of(site, panel)
    taken: dict[int, list[Circuit | Feeder]] = {}
    here: list[Circuit | Feeder] = [c for c in site.circuits if c.panel == panel]
    for breaker in (*here, *(f for f in site.feeders if f.source == panel)):
        for space in spaces_of(element, breaker, lines):
            taken.setdefault(space, []).append(breaker)
    return dict(sorted(taken.items()))


def are_too_many(tandems: list[bool]) -> bool:
    """Whether so many breakers are too many for one space: more than one or two half-size ones."""
    return len(tandems) > (2 if all(tandems) else 1)


def face_of(site: Installation, panel: str) -> Face:
    """The face of a panel of a site: its circuits' breakers and those of the feeders it feeds."""
    element = _panel_of(site, panel)
    lines = max(lines_at(site).get(panel, 2), 1)
    shared = {c.shares_with for c in site.circuits if c.shares_with}
    sources = source_circuits(site)
    units = [
        _unit(element, c, lines, c.id in shared, c.id in sources)
        for c in site.circuits
        if c.panel == panel
    ]
    units += [_feeder(element, f, lines) for f in site.feeders if f.source == panel]
    used = max((s for u in units for s in u.spaces), default=0)
    count = max(element.spaces or min(max(FEWEST, used + used % 2 + 2), MOST_SPACES), used)
    spaces = tuple(
        Space(n, leg_of_space(element, n, lines), tuple(u for u in units if n in u.spaces))
        for n in range(1, count + 1)
    )
    unplaced = tuple(u for u in units if not u.spaces)
    system = site.supply.system or System.SPLIT
    high, counted = site.supply.high_line if lines == 3 else 0, element.spaces is not None
    return Face(element, lines, spaces, unplaced, counted, high, system.volts)


def _feeder(panel: Panel, feeder: Feeder, lines: int) -> Unit:
    """A feeder's breaker: what hangs on it is not a load of this panel's legs alone."""
    poles = min(feeder.poles or lines, lines)
    return Unit(feeder.id, name_of(feeder), feeder.breaker.rating_a, poles,
                spaces_of(panel, feeder, lines), False, is_feeder=True,
                wire=size_name(feeder.line_size) if feeder.line_size else "")  # fmt: skip


def source_circuits(site: Installation) -> set[str]:
    """The circuits that feed in: an array's inverter hangs on them, or their name says so."""
    named = {c.id for c in site.circuits if set((c.name or "").lower().split()) & SOURCE_WORDS}
    return named | {a.circuit for a in site.arrays if a.circuit}


def _unit(panel: Panel, circuit: Circuit, lines: int, is_shared: bool, is_source: bool) -> Unit:
    poles = min(circuit.poles or 1, lines)
    spaces = spaces_of(panel, circuit, lines)
    return Unit(
        circuit.id, name_of(circuit), circuit.breaker.rating_a, poles, spaces,
        circuit.tandem == "yes", circuit.shares_with or "",
        is_source, circuit.load_va, is_shared or bool(circuit.shares_with),
        wire=size_name(circuit.line_size) if circuit.line_size else "",
        protection=tuple(word for word, has in (("GFCI", circuit.gfci), ("AFCI", circuit.afci))
                         if has == "yes"),
        is_pinned=circuit.stays == "yes",
    )  # fmt: skip


def rooms(face: Face, poles: int) -> tuple[int, ...]:
    """The first spaces at which a breaker of so many poles could be put in."""
    free = set(face.free)
    return tuple(n for n in face.free if free.issuperset(face.spaces_from(n, poles) or {0}))


def swaps(face: Face, unit: Unit) -> tuple[Unit, ...]:
    """The breakers that one could change places with: whole ones of as many poles, no feeders',
    that may both move."""
    if unit.is_feeder or unit.is_tandem or not (unit.can_move and unit.spaces):
        return ()
    return tuple(
        other for other in face.units
        if other.id != unit.id and other.poles == unit.poles
        and other.can_move and not (other.is_feeder or other.is_tandem)
    )  # fmt: skip


def fits(face: Face, unit: Unit) -> tuple[int, ...]:
    """The first spaces at which a breaker could stand instead: all its spaces free or its own."""
    if unit.is_pinned and unit.spaces:
        return ()
    free = {*face.free, *unit.spaces}
    return tuple(
        n
        for n in sorted(free)
        if n != unit.first and free.issuperset(face.spaces_from(n, unit.poles) or {0})
    )
