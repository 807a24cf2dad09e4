"""Breaks lines of the dangerous modules one at a time, and tells which the core tests miss.

``script/mutate --sample 200 --jobs 2``; not a part of ``script/test``: half an hour. A mutant is
one changed operator, comparison, figure or branch. It dies when a test fails, when the tests take
far longer than they do, or when the module no longer imports. Survivors are listed; those in
``script/mutate.equivalent.txt`` change nothing that can be seen, each with its reason.
"""

import argparse
import ast
import copy
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor, as_completed
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
CORE = ROOT / "src" / "returnpath"
DANGEROUS = ("conductor.py", "device.py", "supply.py", "network", "study", "sizing")
#: What only words, drawings or workings are made from is not dangerous.
HARMLESS = ("study/workings.py", "study/compare.py", "study/__init__.py", "network/__init__.py")
EQUIVALENT = ROOT / "script" / "mutate.equivalent.txt"
#: Fastest and sharpest first.
ORDER = ("test_by_hand", "test_worked_examples", "test_sizes", "test_figures", "test_parts",
         "test_says_it_clears", "test_dangerous_lines", "test_sources", "test_nets",
         "test_network", "test_other_metal", "test_workings", "test_spine", "test_properties",
         "test_lines_that_matter", "test_small_lines", "test_segments",
         "test_checks_at_their_edges",
         "test_houses")  # fmt: skip
LIMIT_S = 200
#: Keywords that guard the code itself: no figure comes of them.
NO_FIGURE = ("frozen", "slots", "repr", "eq", "strict")

SWAPS = {
    ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq,
    ast.NotEq: ast.Eq, ast.Is: ast.IsNot, ast.IsNot: ast.Is, ast.In: ast.NotIn, ast.NotIn: ast.In,
    ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult, ast.Pow: ast.Mult,
    ast.And: ast.Or, ast.Or: ast.And,
}  # fmt: skip
TURNED = {ast.Lt: ast.GtE, ast.LtE: ast.Gt, ast.Gt: ast.LtE, ast.GtE: ast.Lt}
SOLVED = ("network", "study")
EDITIONS = range(1990, 2031)
NAMES = {"min": "max", "max": "min", "any": "all", "all": "any"}


@dataclass(frozen=True)
class Mutant:
    """One change: the file, the line, what it was and is, and the whole text with it."""

    file: str
    line: int
    what: str
    text: str

    @property
    def key(self) -> str:
        """How it is named in the list of equivalents."""
        return f"{self.file}: {self.what}"


def sites(tree: ast.AST) -> Iterator[ast.AST]:
    """Nodes that can be broken: no annotations, docstrings, messages or f-strings."""
    for node in ast.iter_child_nodes(tree):
        if isinstance(node, ast.JoinedStr | ast.Raise | ast.Assert) or _is_range(node):
            continue
        if isinstance(node, ast.keyword) and node.arg in NO_FIGURE:
            continue
        if isinstance(node, ast.FunctionDef):
            if node.name.startswith("__") and node.name != "__post_init__":
                continue
            for part in (*node.args.defaults, *node.args.kw_defaults, *node.body):
                if part is not None:
                    yield part
                    yield from sites(part)
            continue
        if isinstance(node, ast.AnnAssign):
            if node.value is not None:
                yield node.value
                yield from sites(node.value)
            continue
        yield node
        yield from sites(node)


def _is_range(node: ast.AST) -> bool:
    """Whether it says what may be typed: no figure of a study comes of it."""
    name = getattr(node.func, "id", "") if isinstance(node, ast.Call) else ""
    return name in ("number_in", "BadInput")


def changes(node: ast.AST, is_solved: bool = False) -> Iterator[ast.AST]:
    """The broken copies of one node. ``is_solved``: what is compared are solved figures, whose
    edge is nowhere: there a comparison is turned round, elsewhere its edge is moved."""
    made = copy.deepcopy(node)
    swaps = SWAPS | TURNED if is_solved else SWAPS
    if isinstance(made, ast.Compare) and type(made.ops[0]) in swaps:
        made.ops[0] = swaps[type(made.ops[0])]()
        yield made
    elif isinstance(made, ast.BinOp | ast.AugAssign | ast.BoolOp) and type(made.op) in SWAPS:
        made.op = SWAPS[type(made.op)]()
        yield made
    elif isinstance(made, ast.UnaryOp) and isinstance(made.op, ast.Not | ast.USub):
        yield made.operand
    elif isinstance(made, ast.Constant) and type(made.value) in (int, float):
        if isinstance(made.value, int):  # an edition's neighbour is three years away
            made.value += 3 if made.value in EDITIONS else 1
        else:
            made.value = made.value * 1.2 + 0.01
        yield made
    elif isinstance(made, ast.Constant) and isinstance(made.value, bool):
        made.value = not made.value
        yield made
    elif isinstance(made, ast.Call) and isinstance(made.func, ast.Name) and made.func.id in NAMES:
        made.func.id = NAMES[made.func.id]
        yield made
    elif isinstance(made, ast.IfExp):
        made.body, made.orelse = made.orelse, made.body
        yield made
    elif isinstance(made, ast.If):
        made.test = ast.UnaryOp(ast.Not(), made.test)
        yield made


def mutants(path: Path) -> list[Mutant]:
    """Every mutant of a file."""
    text = path.read_text("utf-8")
    name = str(path.relative_to(CORE))
    found = []
    for node in sites(ast.parse(text)):
        if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant):
            continue
        for made in changes(node, name.split("/")[0] in SOLVED):
            segment = ast.get_source_segment(text, node)
            if isinstance(node, ast.If):
                was, now = f"if {ast.unparse(node.test)}", f"if {ast.unparse(made.test)}"
                node, made = node.test, made.test
                segment = ast.get_source_segment(text, node)
            else:
                was, now = ast.unparse(node), ast.unparse(made)
            if segment is None or was == now:
                continue
            start = _offset(text, node.lineno, node.col_offset)
            end = _offset(text, node.end_lineno, node.end_col_offset)
            whole = f"{text[:start]}({ast.unparse(made)}){text[end:]}"
            if isinstance(node, ast.AugAssign):
                whole = f"{text[:start]}{ast.unparse(made)}{text[end:]}"
            try:
                ast.parse(whole)
            except SyntaxError:
                continue
            what = f"{was[:90]}  →  {now[:90]}".replace("\n", " ")
            found.append(Mutant(name, node.lineno, what, whole))
    return found


def _offset(text: str, line: int, column: int) -> int:
    lines = text.splitlines(keepends=True)
    before = lines[line - 1].encode()[:column].decode()
    return sum(map(len, lines[: line - 1])) + len(before)


def all_mutants() -> list[Mutant]:
    """Every mutant of the dangerous modules."""
    files = []
    for name in DANGEROUS:
        path = CORE / name
        files += sorted(path.rglob("*.py")) if path.is_dir() else [path]
    wanted = [f for f in files if str(f.relative_to(CORE)) not in HARMLESS]
    return [m for f in wanted for m in mutants(f)]


RUNNER = """
import os, sys, unittest
os.environ["JUSTLOOP_MUTATE"] = "1"
failed = False
for name in sys.argv[1:]:
    suite = unittest.defaultTestLoader.loadTestsFromName("tests.core." + name)
    result = unittest.TextTestRunner(stream=open(os.devnull, "w"), failfast=True).run(suite)
    if not result.wasSuccessful():
        print("killed by", name)
        sys.exit(1)
"""


def try_one(mutant: Mutant) -> tuple[Mutant, str]:
    """(the mutant, what killed it or “survived”)."""
    with tempfile.TemporaryDirectory(prefix="mutant-") as folder:
        there = Path(folder)
        shutil.copytree(ROOT / "src" / "returnpath", there / "src" / "returnpath")
        shutil.copytree(ROOT / "tests", there / "tests", ignore=shutil.ignore_patterns("browser"))
        for name in ("script", "docs", "examples", "README.md", "requirements", "pyproject.toml"):
            (there / name).symlink_to(ROOT / name)
        (there / "src" / "returnpath" / mutant.file).write_text(mutant.text, "utf-8")
        tests = [t for t in ORDER if (there / "tests" / "core" / f"{t}.py").exists()]
        environment = os.environ | {"PYTHONPATH": f"{there / 'src'}:{there}"}
        try:
            done = subprocess.run(
                [sys.executable, "-c", RUNNER, *tests], cwd=there, env=environment,
                capture_output=True, text=True, timeout=LIMIT_S, check=False,
            )  # fmt: skip
        except subprocess.TimeoutExpired:
            return mutant, "killed by time"
        if done.returncode == 0:
            return mutant, "survived"
        return mutant, done.stdout.strip() or "killed at import"


def equivalents() -> set[str]:
    """The mutants that are argued to change nothing, by their key."""
    if not EQUIVALENT.exists():
        return set()
    lines = EQUIVALENT.read_text("utf-8").splitlines()
    return {line for line in lines if line and not line.startswith(("#", " "))}


def main() -> int:
    """Try a sample; 0 where at least 95 % of what is not equivalent died."""
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--sample", type=int, default=200)
    options.add_argument("--seed", type=int, default=1)
    options.add_argument("--jobs", type=int, default=2)
    options.add_argument("--only", default="", help="mutants whose key has this in it")
    options.add_argument("--list", action="store_true", help="only list them")
    chosen = options.parse_args()
    found = [m for m in all_mutants() if chosen.only in m.key]
    known = equivalents()
    random.Random(chosen.seed).shuffle(found)
    sample = [m for m in found if m.key not in known][: chosen.sample]
    print(f"{len(found)} mutants, {len(sample)} tried", flush=True)
    if chosen.list:
        print("\n".join(f"{m.file}:{m.line} {m.what}" for m in sample))
        return 0
    survived = 0
    with ThreadPoolExecutor(chosen.jobs) as pool:
        for done in as_completed([pool.submit(try_one, m) for m in sample]):
            mutant, how = done.result()
            if how == "survived":
                survived += 1
            print(f"{how:<34} {mutant.file}:{mutant.line} {mutant.what}", flush=True)
    killed = len(sample) - survived
    print(f"{killed} of {len(sample)} died: {killed / max(len(sample), 1):.1%}")
    return int(killed < 0.95 * len(sample))


if __name__ == "__main__":
    sys.exit(main())
