"""How many small errors in a module its tests find: python benchmarks/mutants.py MODULE TEST... [--sample N]

Changes the module in one place at a time (a comparison, a sign, a number, a condition, what is returned ...)
and runs the tests on each of these mutants, in a process of its own. Tells the share that some test fails on,
and where the others are: there is something that no test asks for.
"""

from __future__ import annotations

import argparse
import ast
import copy
import importlib.abc
import importlib.util
import io
import os
import random
import signal
import sys
import unittest
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path
from types import ModuleType

ROOT = Path(__file__).parent.parent
# Loaded once, and not by each mutant.
HEAVY = (
    "numpy",
    "scipy.optimize",
    "scipy.stats",
    "rapidfuzz",
    "pandas",
    "lxml.html",
    "pikepdf",
    "click.testing",
)
# A mutant that runs for so long (s) is found: it would never come to an end.
PATIENCE = 60
SWAPPED: dict[type[ast.AST], type[ast.AST]] = {
    ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq,
    ast.In: ast.NotIn, ast.NotIn: ast.In, ast.Is: ast.IsNot, ast.IsNot: ast.Is, ast.Add: ast.Sub,
    ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult, ast.FloorDiv: ast.Mult, ast.And: ast.Or,
    ast.Or: ast.And, ast.BitAnd: ast.BitOr, ast.BitOr: ast.BitAnd, ast.Break: ast.Continue,
}  # fmt: skip


def main() -> None:
    """Make the mutants, run the tests, and tell."""
    parser = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    parser.add_argument("module")
    parser.add_argument("tests", nargs="+")
    parser.add_argument("--sample", type=int)
    parser.add_argument("--workers", type=int, default=os.cpu_count() or 1)
    options = parser.parse_args()
    sys.path.insert(0, str(ROOT))
    for name in HEAVY:
        importlib.import_module(name)
    found = importlib.util.find_spec(options.module.rpartition(".")[0])
    assert found is not None and found.submodule_search_locations is not None
    path = Path(found.submodule_search_locations[0]) / f"{options.module.rpartition('.')[2]}.py"
    for name in [name for name in sys.modules if name.partition(".")[0] == "wennak"]:
        del sys.modules[name]
    tree = ast.parse(path.read_text(encoding="utf-8"))
    if not survives(tree, options):
        sys.exit("The tests fail on the module as it is.")
    mutants = list(mutated(tree))
    if options.sample and options.sample < len(mutants):
        mutants = random.Random(0).sample(mutants, options.sample)
    with ThreadPoolExecutor(options.workers) as threads:
        alive = list(threads.map(lambda mutant: survives(mutant[1], options), mutants))
    lines = path.read_text(encoding="utf-8").splitlines()
    for (node, _), lives in sorted(zip(mutants, alive, strict=True), key=lambda x: x[0][0].lineno):
        if lives:
            print(f"{node.lineno:4d} {type(node).__name__:10} {lines[node.lineno - 1].strip()[:90]}")
    killed = len(mutants) - sum(alive)
    print(f"{options.module}: {killed} of {len(mutants)} mutants found ({killed / len(mutants):.1%})")


def mutated(tree: ast.Module) -> Iterator[tuple[ast.expr | ast.stmt, ast.Module]]:
    """Yield each changed module with the place where it is changed."""
    skipped = {id(n) for part in unmeant(tree) for n in ast.walk(part)}
    places = [node for node in ast.walk(tree) if id(node) not in skipped]
    for index, node in enumerate(places):
        if not isinstance(node, (ast.expr, ast.stmt)):
            continue
        for number in range(len(changes(node))):
            twin = copy.deepcopy(tree)
            again = {id(n) for part in unmeant(twin) for n in ast.walk(part)}
            same = [n for n in ast.walk(twin) if id(n) not in again][index]
            assert isinstance(same, (ast.expr, ast.stmt))
            for field, value in changes(same)[number].items():
                setattr(same, field, value)
            yield node, ast.fix_missing_locations(twin)


def unmeant(tree: ast.Module) -> Iterator[ast.AST]:
    """Yield the parts that are not changed: docstrings, annotations, decorators, imports."""
    for node in ast.walk(tree):
        if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant):
            yield node
        if isinstance(node, (ast.Import, ast.ImportFrom)):
            yield node
        if isinstance(node, (ast.AnnAssign, ast.arg)) and node.annotation:
            yield node.annotation
        if isinstance(node, (ast.FunctionDef, ast.ClassDef)):
            yield from node.decorator_list
        if isinstance(node, ast.FunctionDef) and node.returns:
            yield node.returns
        if isinstance(node, ast.Raise) and node.exc:
            yield node.exc


def changes(node: ast.expr | ast.stmt) -> list[dict[str, object]]:
    """Return the ways to change a node, each as new values of its fields."""
    if isinstance(node, ast.Compare):
        swapped = [(k, SWAPPED[type(op)]()) for k, op in enumerate(node.ops) if type(op) in SWAPPED]
        return [{"ops": [*node.ops[:k], op, *node.ops[k + 1 :]]} for k, op in swapped]
    if isinstance(node, (ast.BinOp, ast.BoolOp, ast.AugAssign)) and type(node.op) in SWAPPED:
        return [{"op": SWAPPED[type(node.op)]()}]
    if isinstance(node, ast.Constant):
        return [{"value": value} for value in others(node.value)]
    if isinstance(node, ast.Return) and not (node.value is None or is_none(node.value)):
        return [{"value": ast.Constant(None)}]
    if isinstance(node, (ast.If, ast.IfExp, ast.While)):
        return [{"test": ast.UnaryOp(ast.Not(), node.test)}]
    return []


def is_none(node: ast.expr) -> bool:
    """Return whether an expression is None."""
    return isinstance(node, ast.Constant) and node.value is None


def others(value: object) -> list[object]:
    """Return what a constant may be changed into."""
    if isinstance(value, bool):
        return [not value]
    if isinstance(value, int):
        return [value + 1]
    if isinstance(value, float):
        return [value * 1.5 + 0.1]
    if isinstance(value, str):
        return [f"{value}x"]
    return []


class Mutant(importlib.abc.MetaPathFinder, importlib.abc.Loader):
    """Loads one module from a changed tree."""

    def __init__(self, name: str, tree: ast.Module) -> None:
        self._name, self._tree = name, tree

    def find_spec(
        self, name: str, path: object = None, target: object = None
    ) -> importlib.machinery.ModuleSpec | None:
        """Say that the module is found here."""
        return importlib.util.spec_from_loader(name, self) if name == self._name else None

    def exec_module(self, module: ModuleType) -> None:
        """Run the changed module."""
        exec(compile(self._tree, f"<mutant of {self._name}>", "exec"), module.__dict__)


def survives(tree: ast.Module, options: argparse.Namespace) -> bool:
    """Return whether the tests pass on a changed module."""
    child = os.fork()
    if child == 0:
        signal.alarm(PATIENCE)
        os._exit(0 if passed(tree, options) else 1)
    return os.waitstatus_to_exitcode(os.waitpid(child, 0)[1]) == 0


def passed(tree: ast.Module, options: argparse.Namespace) -> bool:
    """Run the tests on a changed module in this process."""
    sys.meta_path.insert(0, Mutant(options.module, tree))
    said = io.StringIO()
    with redirect_stdout(said), redirect_stderr(said):
        try:
            suite = unittest.defaultTestLoader.loadTestsFromNames(options.tests)
            return unittest.TextTestRunner(said, failfast=True).run(suite).wasSuccessful()
        except BaseException:
            return False


if __name__ == "__main__":
    main()
