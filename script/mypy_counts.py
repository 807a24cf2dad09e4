"""Runs mypy (strict) and holds every file to the count of complaints it had: none gets worse.

It compares with ``script/mypy_counts.txt``; ``--write`` writes that anew. The vocabulary
and the public face have none and stay so.
"""

import re
import subprocess
import sys
from collections import Counter
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
KEPT = ROOT / "script" / "mypy_counts.txt"
CLEAN = ("src/returnpath/vocabulary/", "src/returnpath/face.py", "src/returnpath/__init__.py",
         "src/returnpath/errors.py", "src/returnpath/working.py")  # fmt: skip


def complaints() -> Counter[str]:
    """File → how many complaints mypy has of it."""
    done = subprocess.run(
        [sys.executable, "-m", "mypy"], cwd=ROOT, capture_output=True, text=True, check=False
    )
    if done.returncode not in (0, 1):
        raise SystemExit(done.stdout + done.stderr)
    print("\n".join(line for line in done.stdout.splitlines() if line.startswith(CLEAN)))
    return Counter(re.findall(r"^(src/[^:]+):\d+: error", done.stdout, re.M))


def kept() -> dict[str, int]:
    """What each file had."""
    rows = (line.split() for line in KEPT.read_text("utf-8").splitlines())
    return {name: int(count) for count, name in rows}


def main() -> int:
    """0 where no file got worse."""
    found = complaints()
    if "--write" in sys.argv:
        lines = [f"{count:4} {name}" for name, count in sorted(found.items())]
        KEPT.write_text("\n".join(lines) + "\n", "utf-8")
        return 0
    before, worse = kept(), []
    for name, count in sorted(found.items()):
        most = 0 if name.startswith(CLEAN) else before.get(name, 0)
        if count > most:
            worse.append(f"{name}: {count} complaints of mypy, {most} before")
    print("\n".join(worse) or f"{sum(found.values())} complaints in all, none new")
    return 1 if worse else 0


if __name__ == "__main__":
    sys.exit(main())
