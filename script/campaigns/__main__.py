"""Runs the parts, each in a process of its own, and says what each found.

``script/campaign`` all of it (about twenty minutes), ``--short`` in under a minute, ``--only
kills`` one part, ``--seed N`` other inputs (``--seed fresh``: new ones, told).
"""

import argparse
import os
import random
import subprocess
import sys
import tempfile
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
#: part → (how many at full length, how many when short)
PARTS = {
    "kills": (100, 1),
    "together": (40, 2),
    "roles": (1, 0),  # script/test walks the same matrix in tests/web
    "fuzz": (10_000, 150),
    "growth": (2_000, 40),
    "full": (60, 3),
    "locks": (200, 6),
    "promises": (1_500, 200),
}
LONGEST_S = 3_600


def main() -> int:
    """Run them; 1 where one found something."""
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--short", action="store_true")
    options.add_argument("--seed", default="1")
    options.add_argument("--only", choices=PARTS, action="append")
    chosen = options.parse_args()
    seed = str(random.SystemRandom().randrange(10**6)) if chosen.seed == "fresh" else chosen.seed
    print(f"seed {seed}", flush=True)
    wrong = 0
    parts = [p for p in chosen.only or PARTS if PARTS[p][chosen.short]]
    for part in parts:
        count = PARTS[part][chosen.short]
        begun = time.monotonic()
        with tempfile.TemporaryDirectory(prefix=f"campaign-{part}-") as folder:
            done = subprocess.run(
                [sys.executable, "-m", f"script.campaigns.{part}", str(count), seed],
                cwd=ROOT,
                env=environment(folder),
                timeout=LONGEST_S,
                check=False,
            )
        wrong += done.returncode != 0
        state = "found something" if done.returncode else "held"
        print(f"{part:<10} {state} ({time.monotonic() - begun:.0f} s)", flush=True)
    print(f"{len(parts) - wrong} passed, {wrong} failed")
    return int(wrong > 0)


def environment(folder: str) -> dict[str, str]:
    """The demo's settings on a folder of its own."""
    kept = {k: v for k, v in os.environ.items() if not k.startswith("JUSTLOOP")}
    return kept | {
        "JUSTLOOP_DATA": folder,
        "JUSTLOOP_DEMO": "1",
        "DJANGO_SETTINGS_MODULE": "justloop.settings",
        "PYTHONPATH": f"{ROOT / 'src'}{os.pathsep}{ROOT}",
    }


if __name__ == "__main__":
    sys.exit(main())
