"""Runs every check and test, then says how many passed: the whole of ``script/test``.

Each stage is a process of its own. The last line is “N passed, N failed”; the exit code is 1
when anything failed.
"""

import os
import re
import subprocess
import sys
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
BIN = ROOT / ".venv" / "bin"
PYTHON = str(BIN / "python")
DJANGO_TEST = [PYTHON, "manage.py", "test", "--settings=tests.settings", "--noinput"]


def _browser(views: bool) -> list[str]:
    """The browser tests that look at every page, or all the others: two stages of one length."""
    found = sorted((ROOT / "tests" / "browser").glob("test_*.py"))
    return [f"tests.browser.{p.stem}" for p in found if p.stem.startswith("test_every") is views]


#: The core's tests that take longest: a stage of their own, beside the others.
LONG = ("test_nets", "test_any_site", "test_vocabulary", "test_workings",
        "test_command")  # fmt: skip


def _core(long: bool) -> list[str]:
    """The core's test modules: the long ones, or all the others."""
    found = sorted((ROOT / "tests" / "core").glob("test_*.py"))
    return [f"tests.core.{p.stem}" for p in found if (p.stem in LONG) is long]


STAGES = {
    "format": [str(BIN / "ruff"), "format", "--check", "."],
    "lint": [str(BIN / "ruff"), "check", "."],
    "layers": [str(BIN / "lint-imports")],
    "types": [PYTHON, "script/mypy_counts.py"],
    "core": [PYTHON, "-m", "unittest", *_core(long=False)],
    "nets": [PYTHON, "-m", "unittest", *_core(long=True)],
    "web": [*DJANGO_TEST, "tests.web"],
    "campaign": [PYTHON, "-m", "script.campaigns", "--short"],
    "views": [*DJANGO_TEST, *_browser(views=True)],
    "browser": [*DJANGO_TEST, *_browser(views=False)],
}


#: About how long each takes, s: the longest first, each to the lane that has least to do.
USUAL_S = {"views": 320, "browser": 270, "web": 230, "core": 70, "campaign": 70, "nets": 60,
           "types": 20, "lint": 1, "layers": 1, "format": 1}  # fmt: skip
LANES = 2
#: What a name on the command line stands for.
PARTS = {"core": ("core", "nets")}
_printing = threading.Lock()


def run(name: str, command: list[str]) -> tuple[int, int]:
    """(passed, failed) of one stage; its output is shown when it ends."""
    environment = os.environ | {
        "PYTHONPATH": f"{ROOT / 'src'}{os.pathsep}{ROOT}",
        "DJANGO_ALLOW_ASYNC_UNSAFE": "1",
        "PYTHONWARNINGS": "default::ResourceWarning",
    }
    for key in ("JUSTLOOP_DATA", "JUSTLOOP_SECRET_KEY", "JUSTLOOP_HTTPS", "JUSTLOOP_DEBUG"):
        environment.pop(key, None)
    started = time.monotonic()
    done = subprocess.run(
        command,
        cwd=ROOT,
        env=environment,
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
        check=False,
    )
    with _printing:
        print(f"\n== {name}\n{done.stdout}   {time.monotonic() - started:.0f} s", flush=True)
    return counts(done.stdout, done.returncode)


def counts(output: str, code: int) -> tuple[int, int]:
    """(passed, failed) from a unittest summary; a linter counts as one."""
    ran = re.search(r"^Ran (\d+) tests?", output, re.M)
    if ran is None:
        return (1, 0) if code == 0 else (0, 1)
    total = int(ran[1])
    bad = sum(int(n) for n in re.findall(r"(?:failures|errors|unexpected successes)=(\d+)", output))
    skipped = sum(int(n) for n in re.findall(r"skipped=(\d+)", output))
    if total == 0 or (code and not bad):
        bad = max(bad, 1)
    return max(total - bad - skipped, 0), bad


def lanes_of(wanted: list[str]) -> list[list[str]]:
    """The stages in as many lanes as there are, of about one length; short ones begin a lane, so
    that a slip is told at once."""
    lanes: list[list[str]] = [[] for _ in range(LANES)]
    for name in sorted(wanted, key=lambda n: -USUAL_S[n]):
        min(lanes, key=lambda lane: sum(USUAL_S[n] for n in lane)).append(name)
    return [sorted(lane, key=lambda n: USUAL_S[n]) for lane in lanes]


def main() -> int:
    """Run the stages named on the command line, or all, in two lanes."""
    asked = sys.argv[1:] or list(STAGES)
    wanted = list(dict.fromkeys(s for name in asked for s in PARTS.get(name, (name,))))

    def lane(names: list[str]) -> list[tuple[int, int]]:
        return [run(name, STAGES[name]) for name in names]

    with ThreadPoolExecutor(LANES) as pool:
        results = [one for done in pool.map(lane, lanes_of(wanted)) for one in done]
    passed, failed = (sum(r[n] for r in results) for n in (0, 1))
    print(f"\n{passed} passed, {failed} failed")
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
