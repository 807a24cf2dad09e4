"""How often the diagnosis names a hidden defect: generated sites, each with one or none.

The truth is another place: the defect made by edits of the site, every length, load and source a
little otherwise than described, studied anew; a meter with an error reads it. First a routine loop
at one circuit, then only what the diagnosis proposes.
"""

import random
import sys
import time
from collections import Counter
from pathlib import Path

sys.path[:0] = [str(Path(__file__).parents[1] / "src"), str(Path(__file__).parent)]

import numpy as np  # noqa: E402
from made_site import made_site  # noqa: E402

from returnpath.diagnosis import Given, diagnose, nets_of  # noqa: E402
from returnpath.diagnosis.defects import priors  # noqa: E402
from returnpath.diagnosis.probes import MOST_OHM, probe_of  # noqa: E402
from returnpath.readings import reading_kinds  # noqa: E402
from returnpath.site import Add, Set, apply  # noqa: E402
from returnpath.study import study  # noqa: E402

READINGS = 4


def described(seed: int):
    """A site as its electrician describes it."""
    rng = random.Random(seed)
    return made_site(1 + seed % 3, 2 + seed % 4, rng.randint(10, 40))


def asked_and_truth(site, seed: int, uniform: bool):
    """(the circuit read first, the class that is hidden there, the site with it)."""
    rng = random.Random(seed * 7919 + 1)
    circuits = [c for c in site.circuits if c.poles in (None, 1) and c.length_ft]
    asked = rng.choice(circuits)
    own = rng.random() < 0.9
    circuit = asked if own else rng.choice(circuits)
    feeder = next((f for f in site.feeders if f.to == circuit.panel), None)
    kinds = [k for k in priors() if k not in ("electrode", "feeder-length", "path")]
    weights = [1.0 if uniform else priors()[k][0] for k in kinds]
    for _ in range(100):
        kind = rng.choices(kinds, weights)[0]
        made = _edits(site, kind, circuit, feeder, rng)
        if made is not None:
            key, edits = made
            truth = site
            for edit in edits:
                truth = apply(truth, edit)
            return asked.id, key, kind, truth
    raise AssertionError("no defect fits")


def _joint(branch: str, ohm: float | None):
    how = {"open": "yes"} if ohm is None else {"ohm": ohm}
    return Add(to="joints", facts={"on": branch} | how)


def _opened(element: str, run):
    """Every way home of a run, open."""
    parts = {"wire": ("egc",), "raceway": ("raceway",), "both": ("egc", "raceway")}
    return [_joint(f"{element}.{part}", None) for part in parts.get(run.egc or "wire", ())]


def _edits(site, kind, circuit, feeder, rng):
    ohm = round(float(np.exp(rng.uniform(np.log(0.1), np.log(10)))), 3)
    here, service = circuit.id, site.service.id
    simple = {
        "none": ("none", []),
        "egc": (f"{here}:egc", [_joint(f"{here}.egc", ohm)]),
        "neutral": (f"{here}:neutral", [_joint(f"{here}.neutral", ohm)]),
        "line": (f"{here}:line1", [_joint(f"{here}.line1", ohm)]),
        "service-neutral": (f"{service}:neutral", [_joint(f"{service}.neutral", ohm)]),
        "service-line": (f"{service}:line1", [_joint(f"{service}.line1", ohm)]),
        "egc-open": (f"{here}:open", _opened(here, circuit)),
        "outlet-bond": (f"{here}:outlet-bond", [Set(path=f"{here}.outlet_bond", value="yes")]),
    }
    if kind in simple:
        return simple[kind]
    panel = site.panel.id
    if kind == "bond-loose":
        return f"{panel}:bond", [_joint(f"{panel}.bond", ohm)]
    if kind == "bond-out":
        return f"{panel}:bond-out", [Set(path=f"{panel}.bond", value="out")]
    if kind == "length":
        factor = rng.choice([0.55, 0.7, 1.3, 1.5, 1.8])
        return f"{here}:length", [Set(path=f"{here}.length_ft", value=circuit.length_ft * factor)]
    if feeder is None:
        return None
    if kind == "bond-in":
        there = next(p for p in site.panels if p.id == feeder.to)
        if there.bond == "in":
            return None
        return f"{feeder.to}:bond-in", [Set(path=f"{feeder.to}.bond", value="in")]
    part = {"feeder-egc": "egc", "feeder-neutral": "neutral", "feeder-line": "line1"}.get(kind)
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


def read(nets, kind: str, place: str, rng) -> float | None:
    """What the meter shows of the truth; nothing where there is no such path."""
    probe = probe_of(nets, kind, place)
    if probe is None:
        return 0.0 if kind == "clamp" else None  # nothing there to carry a current
    net = {"loops": nets.loops, "loaded": nets.loaded, "dead": nets.dead}[probe.net]
    if probe.net == "loaded":
        value = abs(net.v[probe.a] - net.v[probe.b])
        if probe.branch:
            value /= abs(net.network.branches[probe.branch].ohm)
    else:
        e = net.z[:, probe.a] - net.z[:, probe.b]
        value = min((e[probe.a] - e[probe.b]).real, MOST_OHM)
    k = reading_kinds()[kind]
    error = 0.6 * (k.error_share * value + k.error_abs)
    return max(float(value + rng.normal(0, error)), 0.0)


def one(seed: int, uniform: bool):
    """(kind, the rank of the true class with what it cannot be told from, top share, seconds)."""
    site = described(seed)
    asked, key, kind, truth = asked_and_truth(site, seed, uniform)
    done, real = study(site), nets_of(study(shaken(truth, seed)))
    nets = nets_of(done)
    rng = np.random.default_rng(seed + 99)
    given = [Given("loop", asked, read(real, "loop", asked, rng) or 0.0)]
    started = time.perf_counter()
    found = diagnose(done, given, nets)
    taken = time.perf_counter() - started
    for _ in range(READINGS - 1):
        step = found.next_reading
        if step is None:
            break
        value = read(real, step.kind, step.place, rng)
        given.append(Given(step.kind, step.place, value if value is not None else 1e5))
        found = diagnose(done, given, nets)
    rank = 99
    for n, c in enumerate(found.candidates):
        if c.key == key or key in c.same:
            rank = n
            break
    return kind, rank, found.candidates[0], key, taken, given


def main() -> int:
    """Print the figures and the confusions."""
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 500
    uniform = "uniform" in sys.argv
    first = three = 0
    wrong: Counter[tuple[str, str]] = Counter()
    by_kind: dict[str, list[int]] = {}
    times, calibrated = [], []
    for seed in range(count):
        kind, rank, top, key, taken, given = one(seed, uniform)
        first += rank == 0
        three += rank < 3
        by_kind.setdefault(kind, []).append(rank)
        times.append(taken)
        calibrated.append((top.share, rank == 0))
        if rank:
            wrong[kind, top.kind] += 1
            if "-v" in sys.argv:
                print(seed, kind, key, rank, top.words, f"{top.share:.2f}",
                      [(g.kind, g.place, round(g.value, 3)) for g in given])  # fmt: skip
    said = f"first {first / count:.1%}, of three {three / count:.1%}"
    print(f"{count} sites, {READINGS} readings: {said}")
    print(f"ranking and proposal after one reading: median {np.median(times) * 1000:.0f} ms")
    for low, high in ((0.6, 0.8), (0.8, 0.9), (0.9, 1.01)):
        some = [ok for s, ok in calibrated if low <= s < high]
        if some:
            print(
                f"  claimed {low:.0%}–{min(high, 1):.0%}: right {np.mean(some):.0%} of {len(some)}"
            )
    for kind, ranks in sorted(by_kind.items()):
        print(f"  {kind:16} {np.mean([r == 0 for r in ranks]):5.0%} of {len(ranks)}")
    for (kind, said), n in wrong.most_common(12):
        print(f"  {kind} taken for {said}: {n}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
