"""The registry of checks: one function a check, one file a family, or two that say so.

    @check("gec-small", "fix", topic="gec_size", looks="…", why="…",
           needs=("electrodes.gec_size",))
    def gec_small(s: Evidence):
        yield s.found(electrode, "8 AWG; 4 AWG is needed.", do="Run 4 AWG.")

The decorator knows what never changes (id, level, section, why); the function yields a place,
its figures and what to do. ``needs`` names every fact it reads (``list.fact``; ``study`` for the
solved network): what the site does not say of them is asked (``needs.py``), never guessed. Where
the lack itself is worth a finding, the check yields ``s.ask``.
"""

import importlib
import sys
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace
from functools import cache, cached_property

from .. import tables
from ..network.wiring import legs_of_circuits
from ..panels import DwellingLoad, dwelling_load
from ..site import Circuit, Edit, Feeder, Installation, Service
from ..site.arrangement import Arrangement, arrangement_at
from ..site.chain import Chain, Protected, Protection, chains, protections
from ..site.installation import name_of
from ..site.service import ahead_of_service, service_disconnects
from ..site.speech import names_in, rule_set_of
from ..study import SiteStudy
from ..vocabulary import Level
from ..words import RuleSet, spoken
from ..working import Working
from .finding import LEVELS, LOCAL, MAKER, PRACTICE, RULE, Authority, Finding
from .sizes import SizeRow, column_of_run, size_rows


def rule_authority(topic: str, edition: int) -> Authority:
    """A rule's section in ``edition``; one with “?” is to be checked locally."""
    section = tables.section(topic, edition)
    return Authority(RULE, f"{section.rstrip('?')} ({edition})", section.endswith("?"))


@dataclass(frozen=True)
class Check:
    """One entry: what the page of a finding says, and the function that looks."""

    id: str
    level: Level
    family: str
    looks: str
    why: str
    topic: str
    kind: str
    needs: tuple[str, ...]
    root: bool
    look: "Look"
    rules: RuleSet = RuleSet.US

    def serves(self, rule_set: RuleSet) -> bool:
        """Whether it looks in places of a rule set: its own, or both where it is physics."""
        return rule_set is self.rules or (rule_set is RuleSet.METRIC and self.id in shared())

    def authority(self, edition: int, rule_set: RuleSet = RuleSet.US) -> Authority:
        """What it rests on in ``edition``; a section with “?” is to be checked locally."""
        if self.kind != RULE:
            return Authority(self.kind, self.topic)
        if RuleSet.METRIC in (rule_set, self.rules):
            return metric_authority(shared().get(self.id, self.topic))
        return rule_authority(self.topic, edition)


@cache
def shared() -> dict[str, str]:
    """The checks of the United States' set that are physics and serve the metric one: id → its
    topic there."""
    return {r["id"]: r["topic"] for r in tables.rows("shared_checks")}


def metric_authority(topic: str) -> Authority:
    """A rule's clause in the metric rule set; one with “?” is to be checked locally. A topic
    without a clause is local practice's."""
    row = next(r for r in tables.rows("sections_iec") if r["topic"] == topic)
    clause = row["section"]
    if not clause:
        return Authority(PRACTICE, row["about"])
    return Authority(RULE, clause.rstrip("?"), clause.endswith("?"))


@dataclass(frozen=True)
class Yielded:
    """What a check's function gives for one place."""

    place: str
    name: str
    found: str
    do: str
    fix: tuple[Edit, ...] = ()
    parts: tuple[str, ...] = ()
    level: str | None = None
    asks: str = ""
    working: Working | None = None
    authority: Authority | None = None
    root: bool = False


#: What is to be done where only a fact is missing.
VERIFY = "Field verify, then enter it."

#: A check's function: what it finds in the evidence.
Look = Callable[["Evidence"], Iterable[Yielded]]
_CHECKS: dict[str, Check] = {}


def check(
    id: str,
    level: str,
    looks: str,
    why: str,
    topic: str,
    needs: tuple[str, ...],
    kind: str = RULE,
    root: bool = False,
    rules: RuleSet = RuleSet.US,
) -> Callable[[Look], Look]:
    """Enter a check. ``topic`` a key of sections.csv (with ``kind`` rule), else words;
    ``needs`` the facts it reads; ``root``: mending it may make others go, so they are folded
    under it."""
    assert level in LEVELS and kind in (RULE, LOCAL, MAKER, PRACTICE)

    def enter(function: Look) -> Look:
        module = sys.modules[function.__module__]
        family = getattr(module, "FAMILY", module.__name__.rsplit(".", 1)[-1])
        assert id not in _CHECKS, id
        _CHECKS[id] = Check(
            id, Level(level), family, looks, why, topic, kind, needs, root, function, rules
        )
        return function

    return enter


def all_checks() -> dict[str, Check]:
    """Every check by id, in the order of the families."""
    importlib.import_module(f"{__package__}.checks")  # importing enters them
    return _CHECKS


class Evidence:
    """What a check may look at: the site as described and as filled, its study, its sizes."""

    def __init__(self, site: Installation, study: SiteStudy):
        self.site = site
        self.study = study
        self.filled = study.assumed.site
        self.practice = site.practice
        self.edition = site.practice.edition

    @cached_property
    def elements(self) -> dict:
        """Every element by id, gaps filled."""
        return self.filled.elements()

    @cached_property
    def sizes(self) -> dict[str, SizeRow]:
        """Needed against installed, by the path of the installed fact."""
        return {r.path: r for r in size_rows(self.site, self.study)}

    @cached_property
    def legs(self) -> dict[str, tuple[int, ...]]:
        """The panel lines of every circuit."""
        return legs_of_circuits(self.filled)

    @cached_property
    def panels(self) -> dict:
        """The panels by id, gaps filled."""
        return {p.id: p for p in self.filled.panels}

    @cached_property
    def feeder_to(self) -> dict:
        """panel → the feeder that feeds it."""
        return {f.to: f for f in self.filled.feeders}

    @cached_property
    def at_service(self) -> str:
        """The panel of the first service disconnect: no meter, and not marked as none."""
        return self.services[0]

    @cached_property
    def services(self) -> tuple[str, ...]:
        """Every service disconnect of the utility's."""
        return service_disconnects(self.filled)

    @cached_property
    def ahead(self) -> frozenset[str]:
        """The enclosures on the supply side of the service disconnect."""
        return ahead_of_service(self.filled)

    @cached_property
    def runs(self) -> tuple[Circuit | Feeder, ...]:
        """Circuits, then feeders, gaps filled."""
        return (*self.filled.circuits, *self.filled.feeders)

    @cached_property
    def outer_runs(self) -> tuple[Service | Feeder, ...]:
        """Service runs, then feeders, gaps filled."""
        return (*self.filled.services, *self.filled.feeders)

    @cached_property
    def chains(self) -> tuple[Chain, ...]:
        """The chain from every source that is drawn."""
        return chains(self.filled)

    @cached_property
    def protected(self) -> dict[str, Protected]:
        """What protects every conductor, by its id."""
        return protections(self.filled)

    @cached_property
    def dwelling(self) -> DwellingLoad | None:
        """The reckoned load of all that is on the service, as said; None with no floor area."""
        return dwelling_load(self.site)

    @cached_property
    def unit_loads(self) -> dict[str, DwellingLoad]:
        """feeder → the reckoned load of the building behind it, where it has one of its own."""
        found: dict[str, DwellingLoad] = {}
        for feeder in self.site.feeders:
            home = self.panels[feeder.to].building
            if home is None or home == self.panels[feeder.source].building or not self.chains:
                continue
            below = self.chains[0].below(feeder.to)
            own = self.site.model_copy(
                update={
                    "buildings": tuple(b for b in self.site.buildings if b.id == home),
                    "circuits": tuple(c for c in self.site.circuits if c.panel in below),
                }
            )
            if (load := dwelling_load(own)) is not None:
                found[feeder.id] = load
        return found

    def rating_of(self, run: Circuit | Feeder) -> float | None:
        """The device that protects a circuit or feeder, its own or the nearest ahead of it, A; None
        while nobody knows, and ahead of the service."""
        found = self.protected[run.id]
        return found.rating_a if found.how in (Protection.OWN, Protection.AHEAD) else None

    def is_downstream(self, panel: str) -> bool:
        """Whether the panel is on the load side of a service disconnect, or of the first enclosure
        of a source of the place's own."""
        tops = {*self.services, *self.own_roots}
        here, passed = panel, set()
        while here in self.feeder_to and here not in passed:
            passed.add(here)
            here = self.feeder_to[here].source
            if here in tops:
                return True
        return False

    @cached_property
    def own_roots(self) -> frozenset[str]:
        """The first enclosures of transformers of the place's own."""
        kinds = {u.id: u.kind for u in self.filled.supplies}
        runs = self.filled.services
        return frozenset(r.to for r in runs if kinds.get(r.supply) == "transformer")

    @cached_property
    def is_metric(self) -> bool:
        """Whether the metric rule set holds here."""
        return rule_set_of(self.filled) is RuleSet.METRIC

    @property
    def earthing_unknown(self) -> bool:
        """Whether a metric place's earthing system is still to be asked: nothing else of it is."""
        return self.is_metric and self.site.supply.earthing is None

    def has_no_return(self, panel: str) -> bool:
        """Whether a board has no metal way back by intent: TT and IT are judged by their own."""
        own = (Arrangement.TT, Arrangement.IT)
        return self.is_metric and arrangement_at(self.filled, panel) in own

    def other_building(self, feeder) -> bool:
        """Whether a feeder leads to another building."""
        a, b = (self.panels[p].building for p in (feeder.source, feeder.to))
        if a is None and b is not None:  # nobody said where the service is: not in a barn
            return b in self._outbuildings
        return a is not None and b is not None and a != b

    @cached_property
    def _outbuildings(self) -> frozenset[str]:
        """The buildings that are no dwelling by their permit."""
        kinds = ("dwelling accessory", "farm", "commercial")
        return frozenset(b.id for b in self.filled.buildings if b.permit in kinds)

    def column(self, run) -> int:
        """The ampacity column of a circuit or feeder, °C."""
        return column_of_run(self.filled, run)

    def has_supply_jumper(self, panel: str) -> bool:
        """Whether a bonding jumper beside the neutral reaches an enclosure ahead of the service."""
        runs = [r for r in self.filled.services if r.to == panel and r.egc_size]
        feeder = self.feeder_to.get(panel)
        return bool(runs) or (feeder is not None and feeder.egc in ("wire", "raceway", "both"))

    def load_amps(self, branch: str) -> float:
        """The most load current in a branch over the supplies drawn, A."""
        return max((s.currents.get(branch, 0.0) for s in self.study.loads.values()), default=0.0)

    def known(self, path: str) -> bool:
        """Whether somebody gave this fact."""
        return self.study.assumed.find(path) is None

    def found(self, element, found: str, do: str, **more) -> Yielded:
        """A finding at an element."""
        return Yielded(element.id, name_of(element), found, do, **more)

    def ask(self, element, path: str, question: str) -> Yielded:
        """A fact that would settle it, asked instead of guessed."""
        return Yielded(
            element.id,
            name_of(element),
            question,
            VERIFY,
            level="check",
            asks=path,
        )


def findings(site: Installation, study: SiteStudy) -> tuple[Finding, ...]:
    """All findings of a studied site, worst first, in the order of the families within a level."""
    return findings_of(Evidence(site, study))


def findings_of(solved: Evidence) -> tuple[Finding, ...]:
    """The same, where the site's sizes are wanted as well."""
    rule_set = rule_set_of(solved.filled)
    looking = [c for c in all_checks().values() if c.serves(rule_set)]
    made = [_finding(c, y, solved.edition, rule_set) for c in looking for y in c.look(solved)]
    if rule_set is not RuleSet.US:
        names = names_in(solved.filled)
        made = [_spoken(f, rule_set, names) for f in made]
    return tuple(sorted(made, key=lambda f: LEVELS.index(f.level)))


def _spoken(finding: Finding, rule_set: RuleSet, names: frozenset[str]) -> Finding:
    """The finding in the words of the place's rule set."""

    def said(text: str) -> str:
        turned = spoken(text, rule_set, names)  # a word that begins the sentence still does
        return turned[:1].upper() + turned[1:] if text[:1].isupper() else turned

    return replace(
        finding,
        found=said(finding.found),
        why=said(finding.why),
        do=said(finding.do),
        parts=tuple(spoken(p, rule_set, names) for p in finding.parts),
    )


def _authority(entry: Check, given: Authority | None, edition: int, rule_set: RuleSet) -> Authority:
    """What a finding says of itself; a section of the other rule set is never told."""
    own = entry.authority(edition, rule_set)
    if given is None or (
        rule_set is RuleSet.METRIC and given.kind == RULE and entry.id in shared()
    ):
        return own
    return given


def _finding(entry: Check, given: Yielded, edition: int, rule_set: RuleSet) -> Finding:
    return Finding(
        id=entry.id,
        level=Level(given.level or entry.level),
        place=given.place,
        place_name=given.name,
        found=given.found,
        why=entry.why,
        do=given.do,
        authority=_authority(entry, given.authority, edition, rule_set),
        fix=given.fix,
        parts=given.parts,
        asks=given.asks,
        working=given.working,
        root=entry.root or given.root,
    )


def each_iterator(found: Iterable[Finding]) -> Iterator[Finding]:
    """Findings and those folded under them."""
    for one in found:
        yield one
        yield from each_iterator(one.folded)
