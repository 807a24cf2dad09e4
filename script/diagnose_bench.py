"""How often the diagnosis names a hidden defect: generated sites, each with one or none.

The truth is another place: the defect made by edits of the site (or by wires moved in its network),
every length, load and source a little otherwise than described, studied anew; a meter with an error
reads it. First a routine loop at one circuit, then only what the diagnosis proposes. Classes that
no reading tells apart count as one.

A joint in a line of a feeder or of the service is in the line that the loop of its circuit goes
through; with ``first-leg`` in the first one, whichever leg that circuit is on.

    script/diagnose_bench.py [SITES] [FIRST SEED] [-v] [uniform] [slips] [first-leg]
"""

import random
import sys
import time
from collections import Counter
from pathlib import Path

sys.path[:0] = [str(Path(__file__).parents[1] / "src"), str(Path(__file__).parent)]

import numpy as np  # noqa: E402
from made_site import made_site  # noqa: E402

from returnpath.diagnosis import Diagnoser, Given, nets_of  # noqa: E402
from returnpath.diagnosis.defects import priors  # noqa: E402
from returnpath.diagnosis.nets import MADE_OHM, OPEN_OHM, Net, Nets  # noqa: E402
from returnpath.diagnosis.probes import probe_of  # noqa: E402
from returnpath.meter import shown  # noqa: E402
from returnpath.network.solver import Branch, Network  # noqa: E402
from returnpath.readings import reading_kinds  # noqa: E402
from returnpath.site import Add, Set, apply  # noqa: E402
from returnpath.study import study  # noqa: E402

READINGS = 4
MERGE_D2 = 4.0


def described(seed: int):
    """A site as its electrician describes it."""
    rng = random.Random(seed)
    return made_site(1 + seed % 3, 2 + seed % 4, rng.randint(10, 60))


def asked_and_truth(site, seed: int, uniform: bool, old_leg: bool = False):
    """(the circuit read first, the class that is hidden there, its kind, the site with it, moves
    of wires in its network)."""
    rng = random.Random(seed * 7919 + 1)
    circuits = [c for c in site.circuits if c.poles in (None, 1) and c.length_ft]
    asked = rng.choice(circuits)
    own = rng.random() < 0.9
    circuit = asked if own else rng.choice(circuits)
    feeder = next((f for f in site.feeders if f.to == circuit.panel), None)
    legs = study(site).states[0].wiring.legs[circuit.id]
    line = "line1" if old_leg else f"line{legs[0]}"  # that its loop goes through
    kinds = list(priors())
    weights = [1.0 if uniform else priors()[k][0] for k in kinds]
    for _ in range(100):
        kind = rng.choices(kinds, weights)[0]
        made = _edits(site, kind, circuit, feeder, rng, line)
        if made is not None:
            key, edits, moves = (*made, None)[:3]
            truth = site
            for edit in edits:
                truth = apply(truth, edit)
            return asked.id, key, kind, truth, moves
    raise AssertionError("no defect fits")


def _joint(branch: str, ohm: float | None):
    how = {"open": "yes"} if ohm is None else {"ohm": ohm}
    return Add(to="joints", facts={"on": branch} | how)


def _opened(element: str, run):
    """Every way home of a run, open."""
    parts = {"wire": ("egc",), "raceway": ("raceway",), "both": ("egc", "raceway")}
    return [_joint(f"{element}.{part}", None) for part in parts.get(run.egc or "wire", ())]


def _edits(site, kind, circuit, feeder, rng, line):
    ohm = round(float(np.exp(rng.uniform(np.log(0.1), np.log(10)))), 3)
    way = round(float(np.exp(rng.uniform(np.log(0.01), np.log(2)))), 4)
    factor = rng.choice([0.55, 0.7, 1.3, 1.5, 1.8])
    here, service, panel = circuit.id, site.service.id, site.panel.id
    simple = {
        "none": ("none", []),
        "egc": (f"{here}:egc", [_joint(f"{here}.egc", ohm)]),
        "neutral": (f"{here}:neutral", [_joint(f"{here}.neutral", ohm)]),
        "line": (f"{here}:line1", [_joint(f"{here}.line1", ohm)]),
        "service-neutral": (f"{service}:neutral", [_joint(f"{service}.neutral", ohm)]),
        "service-line": (f"{service}:{line}", [_joint(f"{service}.{line}", ohm)]),
        "egc-open": (f"{here}:open", _opened(here, circuit)),
        "outlet-bond": (f"{here}:outlet-bond", [Set(path=f"{here}.outlet_bond", value="yes")]),
        "bond-loose": (f"{panel}:bond", [_joint(f"{panel}.bond", ohm)]),
        "bond-out": (f"{panel}:bond-out", [Set(path=f"{panel}.bond", value="out")]),
        "path": (f"{here}:path", [], [(None, f"{here}.case", f"{panel}.ground", way)]),
        "reversed": (f"{here}:reversed", [], "swap"),
        "exchanged": (f"{here}:exchanged", [], [
            (f"{here}.neutral", f"{here}.N", f"{circuit.panel}.ground", None),
            (f"{here}.egc", f"{here}.case", f"{circuit.panel}.N", None)]),
    }  # fmt: skip
    if kind == "outlet-bond" and circuit.outlet_bond == "yes":
        return None
    if kind in simple:
        return simple[kind]
    if kind == "length":
        return f"{here}:length", [Set(path=f"{here}.length_ft", value=circuit.length_ft * factor)]
    if kind == "electrode":
        one = rng.choice(site.electrodes)
        return f"{one.id}:electrode", [_joint(f"{one.id}.gec", None)]
    if feeder is None:
        return None
    if kind == "panel-path":
        return f"{feeder.to}:path", [], [(None, f"{feeder.to}.ground", f"{panel}.ground", way)]
    if kind == "feeder-length":
        longer = Set(path=f"{feeder.id}.length_ft", value=feeder.length_ft * factor)
        return f"{feeder.id}:length", [longer]
    if kind == "bond-in":
        there = next(p for p in site.panels if p.id == feeder.to)
        if there.bond == "in":
            return None
        return f"{feeder.to}:bond-in", [Set(path=f"{feeder.to}.bond", value="in")]
    part = {"feeder-egc": "egc", "feeder-neutral": "neutral", "feeder-line": line}.get(kind)
    if part:
        return f"{feeder.id}:{part}", [_joint(f"{feeder.id}.{part}", ohm)]
    if kind == "feeder-egc-open":
        return f"{feeder.id}:open", _opened(feeder.id, feeder)
    return None


def shaken(site, seed: int):
    """The same with every length, load and source a little otherwise than described."""
    rng = np.random.default_rng(seed + 17)
    circuits = tuple(
        c.model_copy(
            update={
                "length_ft": c.length_ft * float(rng.normal(1, 0.058)) if c.length_ft else None,
                "load_va": c.load_va * float(np.exp(rng.normal(0, 0.3))) if c.load_va else None,
            }
        )
        for c in site.circuits
    )
    feeders = tuple(
        f.model_copy(update={"length_ft": f.length_ft * float(rng.normal(1, 0.058))})
        for f in site.feeders
    )
    supply = site.supply
    percent = (supply.percent_z or 1.7) * float(np.exp(rng.normal(0, 0.2)))
    supply = supply.model_copy(update={"percent_z": round(min(max(percent, 0.8), 5), 2)})
    return site.model_copy(update={"circuits": circuits, "feeders": feeders,
                                   "supplies": (supply, *site.supplies[1:])})  # fmt: skip


def rewired(nets: Nets, moves) -> Nets:
    """The networks with wires moved or added, solved anew."""

    def one(net: Net) -> Net:
        branches = dict(net.network.branches)
        for name, a, b, ohm in moves:
            old = branches.get(name) if name else None
            made = complex(ohm) if ohm is not None else old.ohm if old else complex(OPEN_OHM)
            key = name or f"{a}.moved"
            branches[key] = Branch(key, a, b, made if abs(made) > MADE_OHM else complex(MADE_OHM))
        return Net(Network(branches, net.network.couplings, net.network.nodes))

    return Nets(*(one(net) for net in nets.each()), nets.study)


class Truth:
    """The place as it is, and a meter."""

    def __init__(self, nets: Nets, swapped: str, rng):
        self.nets, self.swapped, self.rng = nets, swapped, rng

    def value(self, kind: str, place: str) -> float | None:
        """What a perfect meter would show; None where there is no such path."""
        probe = probe_of(self.nets, kind, place)
        if probe is None:
            return 0.0 if kind.endswith("clamp") else None  # nothing there to carry a current
        return shown(self.nets, probe, self.swapped)

    def read(self, kind: str, place: str, slip: bool = False) -> float:
        """With the meter's error; a slip is a digit or a place wrong."""
        value = self.value(kind, place)
        if value is None:
            return 1e5
        if slip:
            return value * float(self.rng.choice([0.1, 10, 0.3, 3])) + 0.05
        k = reading_kinds()[kind]
        error = 0.6 * (k.error_share * value + k.error_abs)
        return max(float(value + self.rng.normal(0, error)), 0.0)


def one(seed: int, uniform: bool, slips: bool, old_leg: bool = False):
    """What came of one place."""
    site = described(seed)
    asked, key, kind, truth, moves = asked_and_truth(site, seed, uniform, old_leg)
    done, real = study(site), nets_of(study(shaken(truth, seed)))
    swapped = key.split(":")[0] if moves == "swap" else ""
    if isinstance(moves, list):
        real = rewired(real, moves)
    meter = Truth(real, swapped, np.random.default_rng(seed + 99))
    slip_at = seed % READINGS if slips else -1
    started = time.perf_counter()
    ready = Diagnoser(done)
    given = [Given("loop", asked, meter.read("loop", asked, slip_at == 0))]
    found = ready.diagnose(given)
    taken = time.perf_counter() - started
    for n in range(1, READINGS + slips):
        step = found.next_reading
        if step is None:
            break
        value = meter.read(step.kind, step.place, slip_at == n)
        given.append(Given(step.kind, step.place, value))
        found = ready.diagnose(given)
    some = [d for d in ready.defects if d.key == key]
    size = _size_of(site, truth, moves, some)
    true = min(some, key=lambda d: abs(np.log(max(d.size, 1e-9) / size))) if some else None
    alike, seen = {key}, True
    if true is not None:
        others = [c.defect for c in found.candidates if not c.defect.both]
        chosen = [true, ready.defects[0], *others]
        far = ready.apart.distances(chosen)[0]
        alike |= {d.key for d, d2 in zip(chosen, far, strict=True) if d2 < MERGE_D2}
        seen = kind == "none" or far[1] >= MERGE_D2
    rank = 99
    for n, c in enumerate(found.candidates):
        if c.key in alike:
            rank = n
            break
    return kind, rank, found, key, taken, given, seen, size


def _size_of(site, truth, moves, some) -> float:
    if some and some[0].kind.endswith("length"):
        run = some[0].element
        return truth.elements()[run].length_ft / site.elements()[run].length_ft
    if isinstance(moves, list) and moves[0][3]:
        return moves[0][3]
    joints = [j for j in truth.joints if j.ohm]
    if joints:
        return joints[-1].ohm
    return max(some[0].size, 1e-9) if some else 1.0


def _is_reached(key: str, given) -> bool:
    """Whether the defect is not at a circuit that none of the readings went to."""
    element = key.split(":")[0]
    return not element.startswith("c") or element in {g.place for g in given}


def main() -> int:
    """Print the figures and the confusions."""
    numbers = [int(a) for a in sys.argv[1:] if a.isdigit()]
    count = numbers[0] if numbers else 500
    first_seed = numbers[1] if len(numbers) > 1 else 0
    uniform, slips, old_leg = (word in sys.argv for word in ("uniform", "slips", "first-leg"))
    rows = []
    wrong: Counter[tuple[str, str]] = Counter()
    for seed in range(first_seed, first_seed + count):
        kind, rank, found, key, taken, given, seen, size = one(seed, uniform, slips, old_leg)
        top = found.candidates[0]
        sure = top.share + sum(c.share for c in found.candidates if c.key in top.same)
        reached = _is_reached(key, given)
        rows.append((kind, rank, sure, taken, seen, size, reached))
        if rank:
            wrong[kind, top.kind] += 1
            if "-v" in sys.argv:
                said = [(g.kind, g.place, round(g.value, 3)) for g in given]
                print(seed, kind, key, f"{size:.2f}", rank, "seen" if seen else "unseen",
                      top.words, f"{top.share:.2f}", said, flush=True)  # fmt: skip
    said = lambda some, most: f"{np.mean([r[1] < most for r in some] or [0]):.1%}"  # noqa: E731
    seen = [r for r in rows if r[4]]
    joints = [r for r in rows if r[0] in JOINTS and r[5] >= 0.2]
    print(f"{count} sites, {READINGS} readings: first {said(rows, 1)}, of three {said(rows, 3)}")
    print(f"  that a reading can see, or none ({len(seen)}): first {said(seen, 1)},"
          f" of three {said(seen, 3)}")  # fmt: skip
    near = [r for r in seen if r[6]]
    print(f"  of these where a reading went there or by ({len(near)}): first {said(near, 1)},"
          f" of three {said(near, 3)}")  # fmt: skip
    print(f"  joints of 0.2 ohm and more ({len(joints)}): first {said(joints, 1)}")
    times = [r[3] for r in rows]
    print(f"made ready, ranked and proposed: median {np.median(times) * 1000:.0f} ms,"
          f" most {max(times) * 1000:.0f}")  # fmt: skip
    for low, high in ((0.3, 0.6), (0.6, 0.8), (0.8, 0.9), (0.9, 1.01)):
        some = [r for r in rows if low <= r[2] < high]
        if some:
            print(f"  claimed {low:.0%}–{min(high, 1):.0%}: right {said(some, 1)} of {len(some)}")
    for kind in sorted({r[0] for r in rows}):
        some = [r for r in rows if r[0] == kind]
        print(f"  {kind:16} {said(some, 1):>6} of {len(some)}, {said(some, 3)} among three")
    for (kind, named), n in wrong.most_common(14):
        print(f"  {kind} taken for {named}: {n}")
    return 0


JOINTS = {"egc", "neutral", "line", "feeder-egc", "feeder-neutral", "feeder-line",
          "service-neutral", "service-line", "bond-loose"}  # fmt: skip

if __name__ == "__main__":
    sys.exit(main())
