"""The figures of the examples and of random places, kept so that none moves unseen.

``script/figures`` writes ``tests/core/fixtures/figures.json`` anew, with the engine's number; a
test compares. Where a figure moves, ``ENGINE_VERSION`` is raised: solved results are kept by it.
"""

import hashlib
import json
import math
import re
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path[:0] = [str(ROOT / "src"), str(ROOT)]
KEPT = ROOT / "tests" / "core" / "fixtures" / "figures.json"
WHAT = (
    "lowest_a", "highest_a", "loop_ohm", "fast_s", "slow_s", "slow_s_unproved", "heat_used",
    "heat_used_unproved", "heat_hot", "touch_earth_v", "touch_bar_v", "touch_bar_highest_v",
    "body_ma", "body_limit_ma", "longest_run_ft", "longest_run_unproved_ft", "second_line_s",
    "earth_share",
)  # fmt: skip
CLOSE, LEAST, PLACES = 1e-4, 1e-3, 30


def figures_now() -> dict[str, list]:
    """Place and kind → its verdict and figures, of every fault."""
    from returnpath import read, study
    from tests.core.any_place import any_metric_place, any_place

    sites = {f"example {n}": read(ROOT / "examples" / f"{n}.json") for n in (
        "larkfield", "millrace", "pebblewick", "foxglove", "thistle")}  # fmt: skip
    sites |= {f"place {seed}": any_place(seed) for seed in range(PLACES)}
    sites |= {f"metric place {seed}": any_metric_place(seed) for seed in range(PLACES // 2)}
    found = {}
    for name, site in sites.items():
        done = study(site)
        for fault in done.faults:
            key = " ".join(p for p in (name, fault.place, fault.kind, fault.state, fault.side) if p)
            found[key] = [str(fault.verdict), *(_plain(getattr(fault, w)) for w in WHAT)]
            found[f"{key} more"] = _more(fault)
        found |= {f"{name} {what}": row for what, row in _of_site(done).items()}
    return found


def _more(fault) -> list:
    """Legs, criteria, carriers, what is in reach."""
    row = [int(c.met) for c in fault.criteria.values()]
    row += [_plain(leg.share) for leg in fault.legs] + [_plain(leg.ohm) for leg in fault.legs]
    row += [_plain(use.carrier.share) for use in fault.heat]
    row += [_plain(use.fraction) for use in fault.heat]
    row += [_plain(v) for v in (fault.touch_reach_v or {}).values()]
    return [*row, len(fault.rests_on), str(fault.device_at), fault.remark[:12], _words(fault)]


def _words(fault) -> str:
    """What is said of it: its legs with what carries them, what is lacking, its row of a table."""
    legs = [(str(x.id), x.label, x.way, [b[:2] for b in x.branches]) for x in fault.legs]
    heat = [use.carrier.label for use in fault.heat]
    said = repr((legs, heat, [str(p) for p in fault.lacks], fault.html_cells()))
    said = re.sub(r"\d+(?:\.\d+)?", "#", said)  # figures are compared above, and may round
    return hashlib.sha256(said.encode()).hexdigest()[:10]


def _of_site(done) -> dict[str, list]:
    """What is not of one fault."""
    rows = {"available": [_plain(a) for a in done.available.values()]}
    rows["loops"] = [f"{at} {loop.state} {loop.side}" for at, loop in done.loops.items()]
    rows["judged"] = [f"{s.supply.id} {place.id}" for s, place in done.judged_at]
    for load in (*done.loads.values(), *done.lost_neutrals, *done.shared_neutrals):
        key = f"{load.what} {load.supply} {load.lost}"
        rows[key] = [_plain(v) for legs in load.panel_legs.values() for v in legs.values()]
        rows[key] += [_plain(s.amps) for s in load.strays[:12]]
        rows[key] += [_plain(v) for v in getattr(load, "across", {}).values()]
    rows["drops"] = [_plain(x) for d in done.drops for x in (d.amps, d.volts, d.share)]
    rows["arrays"] = [
        _plain(x) for a in done.arrays for x in (a.fault_a, a.frame_v, a.egc_ohm, a.body_a)
    ] + [x for a in done.arrays for x in (a.cleared_by, a.device_opens, a.egc_for_a)]
    for id_, fault in done.metals.items():
        rows[f"metal {id_}"] = [str(fault.verdict), _plain(fault.lowest_a), *_more(fault)]
    return rows


def _plain(value: float | None) -> float | str | None:
    if value is None:
        return None
    if abs(value) < LEAST / 10:
        return 0.0
    return "never" if math.isinf(value) else float(f"{value:.5g}")


def moved(before: dict[str, list], now: dict[str, list]) -> list[str]:
    """What is no longer as it was."""
    found = sorted(before.keys() ^ now.keys())
    for key in before.keys() & now.keys():
        if len(before[key]) != len(now[key]):
            found.append(f"{key}: {len(before[key])} → {len(now[key])} figures")
            continue
        for n, (a, b) in enumerate(zip(before[key], now[key], strict=True)):
            numbers = isinstance(a, float) and isinstance(b, float)
            apart = abs(a - b) > max(CLOSE * abs(a), LEAST) if numbers else a != b
            if apart:
                found.append(f"{key}: figure {n} {a} → {b}")
    return found


def main() -> None:
    """Write what is now."""
    from returnpath import ENGINE_VERSION

    rows = figures_now()
    body = ",\n".join(
        f" {json.dumps(k, ensure_ascii=False)}: {json.dumps(v)}" for k, v in rows.items()
    )
    KEPT.write_text(f'{{"engine": "{ENGINE_VERSION}", "figures": {{\n{body}\n}}}}\n', "utf-8")


if __name__ == "__main__":
    main()
