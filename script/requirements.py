"""Writes requirements/*.txt from *.in: every package pinned, transitive ones too, each file by its
hash.

``script/requirements`` keeps what is pinned; ``--upgrade`` takes the newest that *.in admits.
``--check`` writes nothing and fails where a file would change.
"""

import argparse
import json
import os
import re
import subprocess
import sys
import tempfile
import urllib.request
from pathlib import Path

FOLDER = Path(__file__).resolve().parents[1] / "requirements"
INDEX = os.environ.get("PIP_INDEX_URL", "https://pypi.org/simple").rstrip("/")
_PIN = re.compile(r"^([A-Za-z0-9._-]+)==([^\s\\;]+)", re.MULTILINE)


def pinned(name: str) -> dict[str, str]:
    """package → version of a written file; nothing where there is none."""
    path = FOLDER / f"{name}.txt"
    return dict(_PIN.findall(path.read_text("utf-8"))) if path.exists() else {}


def resolved(files: list[Path], keep: dict[str, str]) -> dict[str, str]:
    """package → version of everything that the files need, as pip resolves it."""
    with tempfile.TemporaryDirectory() as folder:
        report, limits = Path(folder) / "report.json", Path(folder) / "limits.txt"
        limits.write_text("".join(f"{n}=={v}\n" for n, v in keep.items()), "utf-8")
        asked = [word for file in files for word in ("-r", str(file))]
        subprocess.run(
            [sys.executable, "-m", "pip", "install", "--quiet", "--dry-run", "--ignore-installed",
             "--report", str(report), "-c", str(limits), *asked],
            check=True, stdout=subprocess.DEVNULL,
        )  # fmt: skip
        found = json.loads(report.read_text("utf-8"))["install"]
    return {one["metadata"]["name"]: one["metadata"]["version"] for one in found}


def hashes(name: str, version: str) -> list[str]:
    """SHA-256 of every file of a version, for each system and Python it is made for."""
    plain = re.sub(r"[-_.]+", "-", name).lower()
    call = urllib.request.Request(
        f"{INDEX}/{plain}/", headers={"Accept": "application/vnd.pypi.simple.v1+json"}
    )
    with urllib.request.urlopen(call, timeout=60) as answer:
        files = json.load(answer)["files"]
    stem = re.compile(
        rf"^{re.sub(r'-', '[-_.]+', plain)}-{re.escape(version)}(-|\.tar\.gz$|\.zip$)",
        re.IGNORECASE,
    )
    return sorted({f["hashes"]["sha256"] for f in files if stem.match(f["filename"])})


def text_of(name: str, pins: dict[str, str], first: str = "") -> str:
    """The file."""
    lines = [f"# Pinned with hashes, transitive ones too: script/requirements, from {name}.in."]
    lines += [first] if first else []
    for package in sorted(pins, key=str.lower):
        version = pins[package]
        found = hashes(package, version)
        if not found:
            raise SystemExit(f"The index has no file of {package} {version}.")
        lines.append(
            " \\\n".join([f"{package}=={version}", *(f"    --hash=sha256:{h}" for h in found)])
        )
    return "\n".join(lines) + "\n"


def main() -> int:
    """Write both files; 1 where ``--check`` finds another."""
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--upgrade", action="store_true")
    options.add_argument("--check", action="store_true")
    chosen = options.parse_args()
    keep = {} if chosen.upgrade else pinned("base") | pinned("dev")
    base = resolved([FOLDER / "base.in"], keep)
    both = resolved([FOLDER / "base.in", FOLDER / "dev.in"], keep | base)
    dev = {n: v for n, v in both.items() if n not in base}
    written = {"base": text_of("base", base), "dev": text_of("dev", dev, "-r base.txt")}
    other = [n for n, text in written.items() if (FOLDER / f"{n}.txt").read_text("utf-8") != text]
    for name in other:
        print(f"{name}.txt {'would change' if chosen.check else 'written'}")
        if not chosen.check:
            (FOLDER / f"{name}.txt").write_text(written[name], "utf-8")
    return int(bool(other) and chosen.check)


if __name__ == "__main__":
    sys.exit(main())
