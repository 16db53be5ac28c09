"""Changes the program in small ways, one at a time in a copy, and tells which changes no test notices.

``mutate.py [--count N] [--seed N] [--tests PATH ...] FILE ...``: files below ``src/fairledger``, tests below ``tests``.
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
from pathlib import Path

from msgspec import Struct

ROOT = Path(__file__).parents[1]
OTHERS = {
    ast.Eq: "!=",
    ast.NotEq: "==",
    ast.Lt: "<=",
    ast.LtE: "<",
    ast.Gt: ">=",
    ast.GtE: ">",
    ast.In: "not in",
    ast.NotIn: "in",
    ast.Is: "is not",
    ast.IsNot: "is",
}
CORE = (
    *("exchange/exact.py", "exchange/weighing.py", "exchange/differ.py", "exchange/compare.py", "exchange/adopt.py"),
    *("delivery/prepare.py", "delivery/fill.py"),
    *("profiles/seed.py", "profiles/answers.py", "profiles/secrets.py"),
)
TESTS = ("tests/exchange", "tests/delivery", "tests/profiles", "tests/checks/test_noting.py")


class Mutation(Struct, frozen=True):
    """One change: the bytes from ``start`` to ``end`` of a file become ``new``."""

    file: Path
    start: int
    end: int
    new: str


class Finder:
    """Finds what can be changed in a file."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.source = path.read_bytes()
        self.starts = [0]
        for line in self.source.split(b"\n"):
            self.starts.append(self.starts[-1] + len(line) + 1)

    def mutations(self) -> Iterator[Mutation]:
        """Comparisons turned round, conditions fixed, sums and numbers moved, results lost."""
        tree = ast.parse(self.source)
        types = {id(inner) for one in ast.walk(tree) for inner in self.annotations(one)}
        for node in ast.walk(tree):
            for start, end, new in () if id(node) in types else self.changes(node):
                if self.source[start:end] != new.encode():
                    yield Mutation(self.path, start, end, new)

    def annotations(self, node: ast.AST) -> Iterator[ast.AST]:
        """What only speaks of types."""
        for field in ("annotation", "returns"):
            found = getattr(node, field, None)
            yield from ast.walk(found) if found is not None else ()

    def changes(self, node: ast.AST) -> Iterator[tuple[int, int, str]]:
        """What can become of a node."""
        if isinstance(node, ast.Compare) and len(node.ops) == 1:
            yield *self.between(node.left, node.comparators[0]), f" {OTHERS[type(node.ops[0])]} "
        elif isinstance(node, ast.BoolOp):
            start, end = self.between(node.values[0], node.values[1])
            joined = self.source[start:end].decode()
            yield start, end, joined.replace("and", "or") if "and" in joined else joined.replace("or", "and")
        elif isinstance(node, ast.If | ast.IfExp) and b":=" not in self.text(node.test):
            for new in ("False", "True"):
                yield *self.span(node.test), new
        elif isinstance(node, ast.BinOp) and isinstance(node.op, ast.Add | ast.Sub):
            start, end = self.between(node.left, node.right)
            sign = self.source[start:end].decode()
            yield start, end, sign.replace("+", "-") if "+" in sign else sign.replace("-", "+")
        elif isinstance(node, ast.Constant) and isinstance(node.value, bool | int):
            yield *self.span(node), str(not node.value if isinstance(node.value, bool) else node.value + 1)
        elif isinstance(node, ast.Return) and node.value is not None:
            yield *self.span(node.value), "None"

    def text(self, node: ast.expr) -> bytes:
        """A node as it stands there."""
        start, end = self.span(node)
        return self.source[start:end]

    def span(self, node: ast.expr) -> tuple[int, int]:
        """Where a node begins and ends."""
        assert node.end_lineno is not None
        assert node.end_col_offset is not None
        return self.starts[node.lineno - 1] + node.col_offset, self.starts[node.end_lineno - 1] + node.end_col_offset

    def between(self, one: ast.expr, other: ast.expr) -> tuple[int, int]:
        """What stands between two nodes."""
        return self.span(one)[1], self.span(other)[0]


def main() -> None:
    """Tries some of the changes, in an order that the seed decides."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("files", nargs="*", default=CORE)
    parser.add_argument("--count", type=int, default=40)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--tests", nargs="+", default=TESTS)
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as name:
        copy = Path(name) / "copy"
        shutil.copytree(ROOT, copy, ignore=shutil.ignore_patterns(".venv", ".git", "__pycache__", "docs"))
        (copy / "docs").symlink_to(ROOT / "docs")
        found = [one for file in options.files for one in Finder(copy / "src" / "fairledger" / file).mutations()]
        random.Random(options.seed).shuffle(found)  # noqa: S311 - nothing is to be secret
        survived = [one for one in found[: options.count] if not noticed(one, copy, options.tests)]
        print(f"{min(options.count, len(found))} of {len(found)} changes tried, {len(survived)} not noticed")


def noticed(one: Mutation, copy: Path, tests: list[str]) -> bool:
    """Whether a test fails with the change; it is told if none does."""
    before = one.file.read_bytes()
    one.file.write_bytes(before[: one.start] + one.new.encode() + before[one.end :])
    environment = {**os.environ, "PYTHONPATH": str(copy / "src"), "PYTHONDONTWRITEBYTECODE": "1"}
    command = [sys.executable, "-m", "pytest", "-x", "-q", "-n", "2", "-p", "no:cacheprovider", *tests]
    try:
        done = subprocess.run(command, cwd=copy, env=environment, capture_output=True, timeout=300, check=False)
        failed = done.returncode != 0
    except subprocess.TimeoutExpired:
        failed = True
    finally:
        one.file.write_bytes(before)
    if not failed:
        line = before[: one.start].count(b"\n") + 1
        old = before[one.start : one.end].decode().strip()
        where = one.file.relative_to(copy / "src" / "fairledger")
        print(f"{where}:{line}: {old!r} -> {one.new.strip()!r}", flush=True)
    return failed


if __name__ == "__main__":
    main()
