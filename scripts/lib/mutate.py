"""Mutation by package: change one thing in the code, run the tests that should notice.

Seeded and bounded; works on a copy of the tree, never on the tree itself. A mutant that the tests
let pass is printed with its place, so that a test can be written for it.
"""

from __future__ import annotations

import argparse
import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
import time
from copy import copy as copy_of
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
# each package of the core is held by the tests of its own folder
PACKAGES = {
    folder.name: [f"tests/core/{folder.name}"]
    for folder in sorted((ROOT / "src/tonleiter/core").iterdir())
    if (folder / "__init__.py").exists() and (ROOT / "tests/core" / folder.name).exists()
}
COMPARE = {
    ast.Lt: ast.GtE,
    ast.GtE: ast.Lt,
    ast.Gt: ast.LtE,
    ast.LtE: ast.Gt,
    ast.Eq: ast.NotEq,
    ast.NotEq: ast.Eq,
    ast.In: ast.NotIn,
    ast.NotIn: ast.In,
    ast.Is: ast.IsNot,
}
ARITHMETIC = {ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult}


@dataclass(frozen=True)
class Mutant:
    """A file with one thing changed: where, and the new text."""

    file: Path
    line: int
    what: str
    text: str


def places_of(file: Path) -> list[tuple[Path, int]]:
    """Where a file could be changed: comparisons, arithmetic, numbers, conditions, and/or."""
    nodes = ast.walk(ast.parse(file.read_text("utf-8")))
    # a shallow copy is changed, and so the tree is not
    return [(file, k) for k, node in enumerate(nodes) if _changed(copy_of(node))]


def mutant_at(file: Path, place: int) -> Mutant:
    """The file with one thing changed at a place of ``places_of``."""
    tree = ast.parse(file.read_text("utf-8"))
    node = next(n for k, n in enumerate(ast.walk(tree)) if k == place)
    what = _changed(node)
    return Mutant(file, getattr(node, "lineno", 0), what, ast.unparse(tree))


def _changed(node: ast.AST) -> str:
    """Change a node in place and say what; empty where nothing is to be changed."""
    match node:
        case ast.Compare(ops=[op]) if type(op) in COMPARE:
            node.ops = [COMPARE[type(op)]()]
            return f"{type(op).__name__} turned round"
        case ast.BinOp(op=op, left=left, right=right) if type(op) in ARITHMETIC and not (
            _is_text(left) or _is_text(right)
        ):
            node.op = ARITHMETIC[type(op)]()
            return f"{type(op).__name__} became {type(node.op).__name__}"
        case ast.Constant(value=value) if type(value) in (int, float):
            node.value = value + 1 if value == 0 else value * 1.5
            return f"{value} became {node.value}"
        case ast.BoolOp(op=ast.And()):
            node.op = ast.Or()
            return "and became or"
        case ast.BoolOp(op=ast.Or()):
            node.op = ast.And()
            return "or became and"
        case ast.UnaryOp(op=ast.Not(), operand=operand):
            node.op, node.operand = ast.Not(), ast.UnaryOp(ast.Not(), operand)
            return "not was dropped"
    return ""


def _is_text(node: ast.AST) -> bool:
    return isinstance(node, ast.JoinedStr) or (
        isinstance(node, ast.Constant) and isinstance(node.value, str)
    )


def main() -> int:
    """Print a line for each package: killed of tried."""
    parser = argparse.ArgumentParser(prog="scripts/mutate", description=__doc__)
    parser.add_argument("package", nargs="*", help=f"any of {', '.join(PACKAGES)}; default: all")
    parser.add_argument("--count", type=int, default=12, help="mutants of each package")
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--seconds", type=float, default=600.0, help="at most, for each package")
    options = parser.parse_args()
    with tempfile.TemporaryDirectory(prefix="tonleiter-mutate-") as folder:
        copy = Path(folder) / "tree"
        ignore = shutil.ignore_patterns(".git", ".venv", "__pycache__", ".*cache")
        shutil.copytree(ROOT, copy, ignore=ignore)
        for package in options.package or PACKAGES:
            _package(copy, package, options)
    return 0


def _package(copy: Path, package: str, options: argparse.Namespace) -> None:
    rng = random.Random(f"{options.seed} {package}")
    files = sorted((copy / "src/tonleiter/core" / package).rglob("*.py"))
    pool = [place for file in files for place in places_of(file)]
    chosen = [mutant_at(*place) for place in rng.sample(pool, min(options.count, len(pool)))]
    begun = time.monotonic()
    if not _passes(copy, PACKAGES[package], None):
        print(f"{package:<8} its tests fail without any change", flush=True)
        return
    # a change that never ends is noticed; one whose tests are only slow is not
    most_s = 30.0 + 5.0 * (time.monotonic() - begun)
    killed, survivors, begun = 0, [], time.monotonic()
    tried = 0
    for mutant in chosen:
        if time.monotonic() - begun > options.seconds:
            break
        tried += 1
        if _is_noticed(copy, mutant, PACKAGES[package], most_s):
            killed += 1
        else:
            survivors.append(mutant)
    share = killed / tried if tried else 0.0
    print(f"{package:<8} {killed} of {tried} noticed ({share:.0%})", flush=True)
    for mutant in survivors:
        print(f"         {mutant.file.relative_to(copy)}:{mutant.line}: {mutant.what}", flush=True)


def _is_noticed(copy: Path, mutant: Mutant, tests: list[str], most_s: float) -> bool:
    original = mutant.file.read_text("utf-8")
    mutant.file.write_text(mutant.text, "utf-8")
    try:
        return not _passes(copy, tests, most_s)
    finally:
        mutant.file.write_text(original, "utf-8")


def _passes(copy: Path, tests: list[str], most_s: float | None) -> bool:
    environment = dict(
        os.environ,
        PYTHONPATH=f"{copy / 'src'}:{copy}",
        PYTHONDONTWRITEBYTECODE="1",
        QT_QPA_PLATFORM="offscreen",
        OPENBLAS_NUM_THREADS="1",
    )
    beside = ["-n", "2", "--dist", "loadscope"]
    command = [
        sys.executable,
        "-m",
        "pytest",
        "-x",
        "-q",
        "-p",
        "no:cacheprovider",
        "--whole",
        *beside,
        *tests,
    ]
    try:
        done = subprocess.run(
            command, cwd=copy, env=environment, capture_output=True, check=False, timeout=most_s
        )
    except subprocess.TimeoutExpired:
        return False
    return done.returncode == 0


if __name__ == "__main__":
    sys.exit(main())
