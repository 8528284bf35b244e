"""Whether the tests bite: changes one condition of the core at a time and looks whether a test notices.

    python tools/mutants.py --count 40 --seed 7            # prints each change, and the share that was noticed

Every change is made in a copy of the tree, never here. The tests that import the changed module run first, then all
others of the core, the painting and the command line, until one fails. A seed gives the same changes again as long as
the code is the same; another seed gives others. The goal is 85 % noticed.
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
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import Queue

ROOT = Path(__file__).resolve().parent.parent
CORE = ROOT / "src" / "avelt" / "core"
_SECONDS = 240  # after which a change counts as noticed: it never ends
_SWAPPED: dict[type[ast.cmpop], str] = {
    ast.Lt: "<=",
    ast.LtE: "<",
    ast.Gt: ">=",
    ast.GtE: ">",
    ast.Eq: "!=",
    ast.NotEq: "==",
    ast.Is: "is not",
    ast.IsNot: "is",
    ast.In: "not in",
    ast.NotIn: "in",
}


@dataclass(frozen=True)
class Mutant:
    """One changed condition: the text from ``start`` to ``end`` of a file becomes ``new``."""

    path: Path
    line: int
    start: int
    end: int
    old: str
    new: str

    def __str__(self) -> str:
        return f"{self.path.relative_to(CORE)}:{self.line}: {self.old!r} -> {self.new!r}"


def mutants_of(path: Path) -> Iterator[Mutant]:
    """Every condition of a file that can be changed, each in one way."""
    text = path.read_text(encoding="utf-8")
    starts = [0]
    for row in text.splitlines(keepends=True):
        starts.append(starts[-1] + len(row.encode()))
    raw = text.encode()

    def at(node: ast.expr) -> tuple[int, int]:
        assert node.end_lineno is not None and node.end_col_offset is not None
        return starts[node.lineno - 1] + node.col_offset, starts[node.end_lineno - 1] + node.end_col_offset

    def made(node: ast.expr, start: int, end: int, new: str) -> Mutant:
        return Mutant(path, node.lineno, start, end, raw[start:end].decode(), new)

    for node in ast.walk(ast.parse(text)):
        if isinstance(node, ast.Compare):
            left = node.left
            for op, right in zip(node.ops, node.comparators, strict=True):
                yield made(node, at(left)[1], at(right)[0], f" {_SWAPPED[type(op)]} ")
                left = right
        elif isinstance(node, ast.BoolOp):
            word, other = ("and", "or") if isinstance(node.op, ast.And) else ("or", "and")
            first, second = node.values[0], node.values[1]
            between = raw[at(first)[1] : at(second)[0]].decode()
            yield made(node, at(first)[1], at(second)[0], between.replace(word, other))
        elif isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not):
            yield made(node, at(node)[0], at(node.operand)[0], "")
        elif isinstance(node, ast.If | ast.IfExp | ast.While) and isinstance(
            node.test, ast.Name | ast.Call | ast.Attribute
        ):
            start, end = at(node.test)
            yield made(node.test, start, end, f"not {raw[start:end].decode()}")


def usable(mutant: Mutant) -> bool:
    """Whether the changed file still is Python, and says something else."""
    raw = mutant.path.read_bytes()
    try:
        changed = ast.parse(raw[: mutant.start] + mutant.new.encode() + raw[mutant.end :])
    except SyntaxError:
        return False
    return ast.dump(changed) != ast.dump(ast.parse(raw))


def chosen(count: int, seed: int, only: str = "") -> list[Mutant]:
    """So many changes over the core (or files with ``only`` in their place), always the same for a seed."""
    files = [path for path in sorted(CORE.rglob("*.py")) if only in path.relative_to(CORE).as_posix()]
    every = [mutant for path in files for mutant in mutants_of(path)]
    random.Random(seed).shuffle(every)
    found: list[Mutant] = []
    for mutant in every:
        if len(found) < count and usable(mutant):
            found.append(mutant)
    return found


def tests_for(path: Path) -> list[list[str]]:
    """The test modules in two heaps: those that import the changed module, and the others."""
    module = ".".join(path.relative_to(ROOT / "src").with_suffix("").parts)
    package, _, name = module.rpartition(".")
    near: list[str] = []
    rest: list[str] = []
    for name_of_test in everything():
        test = ROOT / (name_of_test.replace(".", "/") + ".py")
        text = test.read_text(encoding="utf-8")
        direct = f"{module} import" in text or (f"from {package} import" in text and name in text)
        (near if direct else rest).append(name_of_test)
    return [heap for heap in (near, rest) if heap]


def everything() -> list[str]:
    """All test modules that are asked."""
    paths = [*ROOT.glob("tests/core/test_*.py"), *ROOT.glob("tests/paint/test_*.py"), ROOT / "tests/test_cli.py"]
    return [".".join(path.relative_to(ROOT).with_suffix("").parts) for path in sorted(paths)]


def failing(tree: Path, names: list[str]) -> bool:
    """Whether a test of a tree fails, or never ends."""
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "PYTHONPATH": str(tree / "src")}
    environment["PYTHONDONTWRITEBYTECODE"] = "1"
    command = [sys.executable, "-m", "tests.run", "--failfast", *names]
    try:
        return bool(
            subprocess.run(command, cwd=tree, env=environment, capture_output=True, timeout=_SECONDS).returncode
        )
    except subprocess.TimeoutExpired:
        return True


def noticed(mutant: Mutant, tree: Path) -> bool:
    """Make the change in a copy of the tree, run the tests, and take it back."""
    target = tree / mutant.path.relative_to(ROOT)
    raw = target.read_bytes()
    target.write_bytes(raw[: mutant.start] + mutant.new.encode() + raw[mutant.end :])
    try:
        return any(failing(tree, names) for names in tests_for(mutant.path))
    finally:
        target.write_bytes(raw)


def main() -> int:
    """Print every change and the share that was noticed; 1 when that is below the goal."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--count", type=int, default=40)
    parser.add_argument("--seed", type=int, default=7)
    parser.add_argument("--jobs", type=int, default=os.cpu_count() or 1)
    parser.add_argument("--only", default="", help="a part of the files' names in the core, as running/")
    args = parser.parse_args()
    wanted = chosen(args.count, args.seed, args.only)
    kept: list[Mutant] = []
    with tempfile.TemporaryDirectory() as folder:
        trees: Queue[Path] = Queue()
        for k in range(args.jobs):
            tree = Path(folder) / str(k)
            for part in ("src", "tests", "docs", "bench"):
                shutil.copytree(ROOT / part, tree / part, ignore=shutil.ignore_patterns("__pycache__", "*.egg-info"))
            shutil.copy(ROOT / "pyproject.toml", tree)
            trees.put(tree)

        first = trees.get()
        if failing(first, everything()):
            print("The tests fail without any change: that comes first.", file=sys.stderr)
            return 2
        trees.put(first)

        def judge(mutant: Mutant) -> None:
            tree = trees.get()
            try:
                bitten = noticed(mutant, tree)
            finally:
                trees.put(tree)
            if not bitten:
                kept.append(mutant)
            print(f"{'noticed ' if bitten else 'SURVIVED'} {mutant}", flush=True)

        with ThreadPoolExecutor(args.jobs) as pool:
            list(pool.map(judge, wanted))
    share = 1 - len(kept) / max(1, len(wanted))
    print(f"{len(wanted) - len(kept)} of {len(wanted)} changes noticed: {share:.0%} (goal 85 %, seed {args.seed})")
    return int(share < 0.85)


if __name__ == "__main__":
    sys.exit(main())
