"""Mutation by package: change one thing in the code, run the tests that should notice.

Seeded and bounded; works on a copy of the tree, never on the tree itself. First each test module of
the package's folder runs by itself and is seen to pass; which lines it runs is kept, and a mutant
is given only to modules that come by its place, the quick ones first. A mutant that the tests let
pass is printed with its place, so that a test can be written for it.

Figures are counted apart from logic: half as much again of a bound that somebody chose is another
choice, which no test of behaviour can tell from this one.
"""

from __future__ import annotations

import argparse
import ast
import json
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
PACKAGES = tuple(
    folder.name
    for folder in sorted((ROOT / "src/tonleiter/core").iterdir())
    if (folder / "__init__.py").exists() and (ROOT / "tests/core" / folder.name).exists()
)
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
    """A file with one thing changed: in which lines, what, whether a figure, and the new text."""

    file: Path
    line: int
    lines: frozenset[int]
    what: str
    text: str
    is_figure: bool


@dataclass(frozen=True)
class Module:
    """A test module: where, how long it takes, and the lines it runs by file of the package."""

    path: Path
    took_s: float
    runs: dict[str, frozenset[int]]


def places_of(file: Path) -> list[tuple[Path, int]]:
    """Where a file could be changed: comparisons, arithmetic, numbers, conditions, and/or."""
    nodes = ast.walk(ast.parse(file.read_text("utf-8")))
    # a shallow copy is changed, and so the tree is not
    return [(file, k) for k, node in enumerate(nodes) if _changed(copy_of(node))]


def mutant_at(file: Path, place: int) -> Mutant:
    """The file with one thing changed at a place of ``places_of``."""
    tree = ast.parse(file.read_text("utf-8"))
    node = next(n for k, n in enumerate(ast.walk(tree)) if k == place)
    lines = _lines_around(tree, node)
    what = _changed(node)
    is_figure = isinstance(node, ast.Constant)
    return Mutant(file, getattr(node, "lineno", 0), lines, what, ast.unparse(tree), is_figure)


def _lines_around(tree: ast.AST, node: ast.AST) -> frozenset[int]:
    """Lines of the innermost statement that a node stands in, without statements inside that."""
    inner: ast.stmt | None = None
    for statement in ast.walk(tree):
        if isinstance(statement, ast.stmt) and any(n is node for n in ast.walk(statement)):
            inner = statement
    if inner is None:
        return frozenset()
    below = [n.lineno for n in ast.walk(inner) if isinstance(n, ast.stmt) and n is not inner]
    last = min(below) - 1 if below else inner.end_lineno or inner.lineno
    return frozenset(range(inner.lineno, max(last, inner.lineno) + 1))


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
    source = copy / "src/tonleiter/core" / package
    pool = [place for file in sorted(source.rglob("*.py")) for place in places_of(file)]
    chosen = [mutant_at(*place) for place in rng.sample(pool, min(options.count, len(pool)))]
    modules = []
    for path in sorted((copy / "tests/core" / package).rglob("test_*.py")):
        module = _seen_to_pass(copy, path, source)
        if module is None:
            print(f"{package:<8} {path.name} fails without any change", flush=True)
            return
        modules.append(module)
    modules.sort(key=lambda module: module.took_s)
    tried: list[Mutant] = []
    survivors, begun = [], time.monotonic()
    for mutant in chosen:
        if time.monotonic() - begun > options.seconds:
            break
        tried.append(mutant)
        name = str(mutant.file.relative_to(copy))
        near = [m for m in modules if m.runs.get(name, frozenset()) & mutant.lines]
        if not _is_noticed(copy, mutant, near):
            survivors.append((mutant, name, bool(near)))
    passed = [mutant for mutant, _, _ in survivors]
    parts = []
    for what, figures in (("logic", False), ("figures", True)):
        of = [m for m in tried if m.is_figure == figures]
        noticed = sum(m not in passed for m in of)
        parts.append(f"{what} {noticed} of {len(of)}")
    print(f"{package:<8} {', '.join(parts)} noticed", flush=True)
    for mutant, name, is_run in survivors:
        by_none = "" if is_run else ", a line that none of them runs"
        print(f"         {name}:{mutant.line}: {mutant.what}{by_none}", flush=True)


def _seen_to_pass(copy: Path, path: Path, source: Path) -> Module | None:
    """Run a test module as it is; None if it fails."""
    out = copy / "lines.json"
    cover = ["slipcover", "--source", str(source), "--json", "--out", str(out), "-m"]
    begun = time.monotonic()
    if not _passes(copy, [path], None, cover):
        return None
    took_s = time.monotonic() - begun
    files = json.loads(out.read_text("utf-8"))["files"]
    names = {str((copy / name).relative_to(copy)): f for name, f in files.items()}
    return Module(path, took_s, {n: frozenset(f["executed_lines"]) for n, f in names.items()})


def _is_noticed(copy: Path, mutant: Mutant, modules: list[Module]) -> bool:
    original = mutant.file.read_text("utf-8")
    mutant.file.write_text(mutant.text, "utf-8")
    try:
        # a change that never ends is noticed; one whose tests are only slow is not
        return any(not _passes(copy, [m.path], 30.0 + 5.0 * m.took_s, []) for m in modules)
    finally:
        mutant.file.write_text(original, "utf-8")


def _passes(copy: Path, tests: list[Path], most_s: float | None, cover: list[str]) -> bool:
    environment = dict(
        os.environ,
        PYTHONPATH=f"{copy / 'src'}:{copy}",
        # what is compiled of the code as it is stays; of a mutant nothing is kept
        PYTHONDONTWRITEBYTECODE="" if cover else "1",
        QT_QPA_PLATFORM="offscreen",
        OPENBLAS_NUM_THREADS="1",
    )
    options = ["-x", "-q", "-p", "no:cacheprovider", "--whole"]
    options += ["-W", "ignore::pytest.PytestAssertRewriteWarning"]
    command = [sys.executable, "-m", *cover, "pytest", *options, *map(str, tests)]
    try:
        done = subprocess.run(
            command, cwd=copy, env=environment, capture_output=True, check=False, timeout=most_s
        )
    except subprocess.TimeoutExpired:
        return False
    return done.returncode == 0


if __name__ == "__main__":
    sys.exit(main())
