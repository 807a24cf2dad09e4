"""Runs every check and test, then says how many passed: the whole of ``script/test``.

Each stage is a process of its own. The last line is “N passed, N failed”; the exit code is 1
when anything failed.
"""

import os
import re
import subprocess
import sys
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
BIN = ROOT / ".venv" / "bin"
PYTHON = str(BIN / "python")
DJANGO_TEST = [PYTHON, "manage.py", "test", "--settings=tests.settings", "--noinput"]
STAGES = {
    "format": [str(BIN / "ruff"), "format", "--check", "."],
    "lint": [str(BIN / "ruff"), "check", "."],
    "layers": [str(BIN / "lint-imports")],
    "core": [PYTHON, "-m", "tests.core"],
    "web": [*DJANGO_TEST, "tests.web"],
    "browser": [*DJANGO_TEST, "tests.browser"],
}


def run(name: str, command: list[str]) -> tuple[int, int]:
    """(passed, failed) of one stage; its output is shown as it comes."""
    print(f"\n== {name}", flush=True)
    environment = os.environ | {
        "PYTHONPATH": f"{ROOT / 'src'}{os.pathsep}{ROOT}",
        "DJANGO_ALLOW_ASYNC_UNSAFE": "1",
        "PYTHONWARNINGS": "default::ResourceWarning",
    }
    for key in ("JUSTLOOP_DATA", "JUSTLOOP_SECRET_KEY", "JUSTLOOP_HTTPS", "JUSTLOOP_DEBUG"):
        environment.pop(key, None)
    started = time.monotonic()
    process = subprocess.Popen(
        command,
        cwd=ROOT,
        env=environment,
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
    )
    lines = []
    for line in process.stdout:
        print(line, end="", flush=True)
        lines.append(line)
    code = process.wait()
    print(f"   {time.monotonic() - started:.0f} s", flush=True)
    return counts("".join(lines), code)


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


def main() -> int:
    """Run the stages named on the command line, or all."""
    wanted = sys.argv[1:] or list(STAGES)
    passed = failed = 0
    for name in wanted:
        good, bad = run(name, STAGES[name])
        passed += good
        failed += bad
    print(f"\n{passed} passed, {failed} failed")
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
