"""The figures of the examples and of random places, kept so that none moves unseen.

``script/figures`` writes ``tests/core/fixtures/figures.json`` anew, with the engine's number; a
test compares. Where a figure moves, ``ENGINE_VERSION`` is raised: solved results are kept by it.
"""

import json
import math
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path[:0] = [str(ROOT / "src"), str(ROOT)]
KEPT = ROOT / "tests" / "core" / "fixtures" / "figures.json"
WHAT = ("lowest_a", "highest_a", "loop_ohm", "slow_s", "heat_used", "touch_earth_v", "body_ma",
        "longest_run_ft")  # fmt: skip
CLOSE, LEAST, PLACES = 1e-4, 1e-3, 40


def figures_now() -> dict[str, list]:
    """Place and kind → its verdict and figures, of every fault."""
    from returnpath import read, study
    from tests.core.any_place import any_place

    sites = {f"example {n}": read(ROOT / "examples" / f"{n}.json") for n in (
        "larkfield", "millrace", "pebblewick")}  # fmt: skip
    sites |= {f"place {seed}": any_place(seed) for seed in range(PLACES)}
    found = {}
    for name, site in sites.items():
        for fault in study(site).faults:
            key = " ".join(p for p in (name, fault.place, fault.kind, fault.state, fault.side) if p)
            found[key] = [str(fault.verdict), *(_plain(getattr(fault, w)) for w in WHAT)]
    return found


def _plain(value: float | None) -> float | str | None:
    if value is None:
        return None
    return "never" if math.isinf(value) else float(f"{value:.5g}")


def moved(before: dict[str, list], now: dict[str, list]) -> list[str]:
    """What is no longer as it was."""
    found = sorted(before.keys() ^ now.keys())
    for key in before.keys() & now.keys():
        for what, a, b in zip(("verdict", *WHAT), before[key], now[key], strict=True):
            numbers = isinstance(a, float) and isinstance(b, float)
            apart = abs(a - b) > max(CLOSE * abs(a), LEAST) if numbers else a != b
            if apart:
                found.append(f"{key}: {what} {a} → {b}")
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
