"""Ranking: what each defect would read, the uncertainty that readings share, Bayes. method 14."""

import math
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..readings import TypedReading, reading_kinds
from ..site import name_of
from ..study import SiteStudy
from .apart import Apart
from .defects import Defect, defects_of, name_of_defect, pairs_of
from .doubt import Unknowns
from .likelihood import Likelihood, Weighed
from .nets import Nets, nets_of
from .prior import log_prior
from .probes import Probe, probe_of
from .propose import Learnt, Proposal, propose
from .shift import Shift

MOST_LISTED = 8
#: Two defects at once are looked for where the best single one is off by more than this beyond
#: what the readings' number alone would do.
POOR_FIT, MOST_IN_PAIRS = 6.0, 12
PAIR_SHARE = 0.05


@dataclass(frozen=True)
class Given:
    """A reading that is to be explained: its kind, place and value; the instrument's own error
    (share, absolute) where it is known better than by the kind."""

    kind: str
    place: str
    value: float
    error: tuple[float, float] | None = None


@dataclass(frozen=True)
class Candidate:
    """One class of defects: words with its likeliest size, its share of belief, the classes that
    no reading that can be taken tells from it."""

    key: str
    kind: str
    element: str
    words: str
    share: float
    size: float
    same: tuple[str, ...]
    defect: Defect


@dataclass(frozen=True)
class Diagnosis:
    """Candidates, the likeliest first; what to read next; readings that could not be used (in
    words, and their place in the list given); those that look like a slip (their place); the
    circuits that no reading went to, and the belief that what is wrong stands at one of them."""

    candidates: tuple[Candidate, ...]
    next_reading: Proposal | None
    unused: tuple[str, ...]
    slips: tuple[int, ...] = ()
    unread: tuple[str, ...] = ()
    unread_share: float = 0.0
    unused_at: tuple[int, ...] = ()


class Diagnoser:
    """A place made ready for readings: its networks and its catalogue, solved once."""

    def __init__(self, study: SiteStudy, nets: Nets | None = None):
        self.study = study
        self.nets = nets or nets_of(study)
        self.defects = defects_of(self.nets)
        self.shifts = {
            name: Shift(net, self.defects)
            for name, net in zip(("loops", "loaded", "dead"), self.nets.each(), strict=True)
        }
        self.unknowns = Unknowns(self.nets)
        self.apart = Apart(self.nets, self.unknowns)
        self._columns: dict[Probe, np.ndarray] = {}

    def column(self, probe: Probe) -> np.ndarray:
        """What every defect would read at a probe, kept."""
        if probe not in self._columns:
            self._columns[probe] = self.shifts[probe.net].columns([probe])[:, 0]
        return self._columns[probe]

    def diagnose(self, readings: Sequence[Given], further: bool = True) -> Diagnosis:
        """Rank the defects that would explain the readings, and propose the next one."""
        used: list[tuple[Probe, Given]] = []
        unused: list[str] = []
        numbers: list[int] = []
        for number, given in enumerate(readings):
            probe = probe_of(self.nets, given.kind, given.place)
            if probe is None:
                unused.append(f"{given.kind} at {given.place}")
            else:
                used.append((probe, given))
                numbers.append(number)
        defects = self.defects
        belief = log_prior(self.nets, defects, [p.place for p, _ in used])
        slips: tuple[int, ...] = ()
        learnt = Learnt(np.zeros((0, 0)), np.zeros(0), np.zeros((len(defects), 0)))
        if used:
            probes, taken_ones = [p for p, _ in used], [g for _, g in used]
            table = np.column_stack([self.column(p) for p in probes])
            weigher = Likelihood(self.unknowns, self.shifts, probes, taken_ones)
            weighed = weigher.weigh(table, belief)
            poor = weighed.misfit(belief) > len(used) + POOR_FIT
            if poor and len(used) > 1:
                pairs, of_pairs, belief, weighed = self._with_pairs(
                    probes, taken_ones, belief, weighed
                )
                defects, table = [*defects, *pairs], np.vstack([table, of_pairs])
            learnt = Learnt(weigher.null_rows, weigher.own(table[:1])[0], weigher.residual(table))
            belief = belief + weighed.log
            slips = tuple(numbers[n] for n in weighed.slips(belief))
        share = np.exp(belief - belief.max())
        share /= share.sum()
        candidates = self._by_class(defects, share)
        taken = {(p.kind, p.place) for p, _ in used}
        proposal = None
        if further:
            proposal = self._once_more(used, [numbers.index(n) for n in slips], candidates)
        if further and proposal is None:
            proposal = propose(self.nets, self.unknowns, defects, share, taken, learnt)
            if proposal is not None and used:
                proposal = replace(proposal, answers=self._answers(proposal, candidates))
        unread = self._unread({place for _, place in taken})
        elsewhere = [d.element in unread for d in defects]
        return Diagnosis(candidates, proposal, tuple(unused), slips, tuple(unread),
                         float(share[elsewhere].sum()),
                         tuple(n for n in range(len(readings)) if n not in numbers))  # fmt: skip

    def _unread(self, read: set[str]) -> dict[str, None]:
        """The circuits that none of the readings was taken at: no other reading moves by what is
        loose or open there."""
        there = self.nets.loops.network.branches
        return {c.id: None for c in self.study.assumed.site.circuits
                if c.id not in read and f"{c.id}.line1" in there}  # fmt: skip

    def _once_more(self, used: list[tuple[Probe, Given]], slips: list[int],
                   found: tuple[Candidate, ...]) -> Proposal | None:  # fmt: skip
        """What looks like a slip is read again before anything else is: the figure that it should
        have shown, or the same again, which is no slip."""
        for n in slips:
            probe, given = used[n]
            if sum(p == probe for p, _ in used) > 1:
                continue
            label = reading_kinds()[probe.kind].label
            place = name_of(self.study.assumed.site.elements()[probe.place])
            again = self.diagnose([*(g for _, g in used), given], further=False)
            proposal = Proposal(probe.kind, probe.place, f"{label} at {place}, once more", 1.0)
            expected = self._answers(proposal, found[:1])
            said = [(f"it was a slip: {words}", value) for words, value in expected]
            said.append((f"it is no slip: {again.candidates[0].words}", given.value))
            return replace(proposal, answers=tuple(said))
        return None

    def _with_pairs(
        self, probes: list[Probe], given: list[Given], belief: np.ndarray, weighed: Weighed
    ) -> tuple[list[Defect], np.ndarray, np.ndarray, Weighed]:
        """The likeliest pairs, for what no single one explains; what each would read; belief and
        weight of the single ones and of these."""
        both = belief + weighed.log
        best: dict[str, int] = {}
        for n in np.argsort(-both):
            best.setdefault(self.defects[n].key, int(n))
            if len(best) > MOST_IN_PAIRS:
                break
        # Beside the likeliest, those that explain one reading each.
        for column in range(len(probes)):
            for n in np.argsort(-(weighed.one_by_one[:, column] + belief))[:60]:
                best.setdefault(self.defects[n].key, int(n))
                if len(best) > MOST_IN_PAIRS + 4 * (column + 1):
                    break
        chosen = [n for n in best.values() if self.defects[n].kind != "none"]
        pairs, prior = pairs_of(self.defects, chosen, belief)
        if not pairs:
            return [], np.zeros((0, len(probes))), belief, weighed
        shifts = {k: Shift(s.net, pairs) for k, s in self.shifts.items()}
        prior = np.concatenate([belief, prior + math.log(PAIR_SHARE)])
        extra = np.column_stack([shifts[p.net].columns([p])[:, 0] for p in probes])
        weigher = Likelihood(self.unknowns, shifts, probes, given)
        more = weigher.weigh(extra, prior[len(self.defects) :])
        return pairs, extra, prior, weighed.and_also(more)

    def _by_class(self, defects: list[Defect], share: np.ndarray) -> tuple[Candidate, ...]:
        total: dict[str, float] = defaultdict(float)
        best: dict[str, int] = {}
        for n, d in enumerate(defects):
            total[d.key] += float(share[n])
            if d.key not in best or share[n] > share[best[d.key]]:
                best[d.key] = n
        order = sorted(total, key=lambda k: -total[k])[:MOST_LISTED]
        chosen = [defects[best[k]] for k in order]
        alike = self.apart.alike(chosen) if total[order[0]] < 0.99 else {}
        return tuple(
            Candidate(d.key, d.kind, d.element, name_of_defect(self.study, d), total[d.key],
                      d.size, alike.get(d.key, ()), d)
            for d in chosen
        )  # fmt: skip

    def _answers(self, proposal: Proposal, found: tuple[Candidate, ...]
                 ) -> tuple[tuple[str, float], ...]:  # fmt: skip
        """(words of a candidate, what the proposed reading would be) for the likeliest three."""
        probe = probe_of(self.nets, proposal.kind, proposal.place)
        if probe is None:
            return ()
        some = [c for c in found if c.share >= 0.02][:3] or list(found[:2])
        shift = Shift(self.shifts[probe.net].net, [c.defect for c in some])
        values = shift.columns([probe])[:, 0]
        return tuple((c.words, float(v)) for c, v in zip(some, values, strict=True))


def diagnose(
    study: SiteStudy, readings: Sequence[Given], nets: Nets | None = None, further: bool = True
) -> Diagnosis:
    """The same for one set of readings of a place that is not kept ready."""
    return Diagnoser(study, nets).diagnose(readings, further)


def given_of(reading: TypedReading) -> Given:
    """A typed reading as what is to be explained."""
    return Given(reading.kind, reading.place, reading.value)
