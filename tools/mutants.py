"""Do the tests notice? Small changes to the code, one at a time, each with the tests run against
it.

A change that no test fails for is printed: either it changes nothing that matters, or a test is
missing. Changes are made to a copy of the sources, so the work tree is never touched.

    python tools/mutants.py [FILE ...] [--most N] [--seed N] [--near]
"""

from __future__ import annotations

import ast
import copy
import os
import random
import shutil
import subprocess
import sys
from argparse import ArgumentParser
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from itertools import count
from pathlib import Path
from queue import Queue
from tempfile import mkdtemp

ROOT = Path(__file__).parents[1]
CORE = "src/fence/core/"
TESTS = {
    CORE + "model/space.py": ["tests/core/model"],
    CORE + "model/setter.py": ["tests/core/model"],
    CORE + "addressing/seating.py": [
        "tests/core/addressing/test_seating.py",
        "tests/core/addressing",
    ],
    CORE + "addressing/packing.py": ["tests/core/addressing/test_packing.py", "tests/core/modes"],
    CORE + "edits/difference.py": ["tests/core/edits"],
    CORE + "edits/prose.py": ["tests/core/edits"],
    CORE + "checks/single.py": ["tests/core/checks"],
    CORE + "checks/address.py": ["tests/core/checks", "tests/core/test_rich_rigs.py"],
    CORE + "checks/lines.py": [
        "tests/core/model/test_wiring.py",
        "tests/core/checks",
        "tests/promises/test_seen.py",
    ],
    CORE + "model/wiring.py": ["tests/core/model/test_wiring.py", "tests/core/lines"],
    CORE + "rdm/course.py": ["tests/promises/test_set_by_rdm.py", "tests/core/rdm/test_course.py"],
    CORE + "setting/readback.py": [
        "tests/promises/test_right.py",
        "tests/core/setting",
    ],
    CORE + "network/ports.py": [
        "tests/promises/test_proven.py",
        "tests/core/network/test_ports.py",
    ],
    CORE + "charts/levels.py": ["tests/core/charts"],
}
"""The files that are changed, and the tests that are asked first; then all of the core's."""

SWAPS: dict[type[ast.AST], type[ast.AST]] = {
    ast.Lt: ast.LtE,
    ast.LtE: ast.Lt,
    ast.Gt: ast.GtE,
    ast.GtE: ast.Gt,
    ast.Eq: ast.NotEq,
    ast.NotEq: ast.Eq,
    ast.Is: ast.IsNot,
    ast.IsNot: ast.Is,
    ast.In: ast.NotIn,
    ast.NotIn: ast.In,
    ast.Add: ast.Sub,
    ast.Sub: ast.Add,
    ast.Mult: ast.Add,
    ast.FloorDiv: ast.Mult,
    ast.Mod: ast.Mult,
    ast.BitAnd: ast.BitOr,
    ast.BitOr: ast.BitAnd,
    ast.LShift: ast.RShift,
    ast.RShift: ast.LShift,
    ast.And: ast.Or,
    ast.Or: ast.And,
}

BUDGET = 100
"""Numbers from here on are budgets and bounds of work: one more or less of them is no change that
could matter."""


@dataclass(frozen=True)
class Mutant:
    """A changed file: where, what was there, what is there now, and the whole text."""

    path: str
    line: int
    was: str
    now: str
    text: str


def annotations_of(node: ast.AST) -> list[ast.AST]:
    """The types that a node is annotated with: no code, so nothing to change."""
    return [
        part
        for name in ("annotation", "returns")
        if (part := getattr(node, name, None)) is not None
    ]


def places(tree: ast.AST) -> Iterator[tuple[ast.AST, int, str]]:
    """Every node that can be changed, with the number of the operator in it, and a name for the
    kind of change."""
    said = {
        id(inner)
        for outer in ast.walk(tree)
        for part in annotations_of(outer)
        for inner in ast.walk(part)
    }
    decorators = [
        dressed for outer in ast.walk(tree) for dressed in getattr(outer, "decorator_list", ())
    ]
    flags = {id(inner) for dressed in decorators for inner in ast.walk(dressed)}
    for node in ast.walk(tree):
        if id(node) in said:
            continue
        if isinstance(node, ast.Compare):
            yield from (
                (node, place, "compare") for place, op in enumerate(node.ops) if type(op) in SWAPS
            )
        elif isinstance(node, ast.BinOp | ast.BoolOp | ast.AugAssign) and type(node.op) in SWAPS:
            yield node, 0, "operator"
        elif isinstance(node, ast.Constant) and type(node.value) is int and node.value < BUDGET:
            yield node, 1, "number"
            yield node, -1, "number"
        elif (
            isinstance(node, ast.Constant)
            and isinstance(node.value, bool)
            and id(node) not in flags
        ):
            yield node, 0, "truth"
        elif isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not):
            yield node, 0, "not"
        elif isinstance(node, ast.If | ast.IfExp | ast.While):
            yield node, 0, "negate"
        elif isinstance(node, ast.Continue):
            yield node, 0, "break"


def change(node: ast.AST, place: int, kind: str) -> None:
    """Change a node in place."""
    match kind:
        case "compare":
            assert isinstance(node, ast.Compare)
            node.ops[place] = SWAPS[type(node.ops[place])]()  # type: ignore[assignment]
        case "operator":
            node.op = SWAPS[type(node.op)]()  # type: ignore[attr-defined]
        case "number":
            node.value += place  # type: ignore[attr-defined]
        case "truth":
            node.value = not node.value  # type: ignore[attr-defined]
        case "not":
            node.op, node.operand = ast.UAdd(), ast.Call(ast.Name("bool"), [node.operand], [])  # type: ignore[attr-defined]
        case "negate":
            node.test = ast.UnaryOp(ast.Not(), node.test)  # type: ignore[attr-defined]
        case "break":
            node.__class__ = ast.Break  # type: ignore[assignment]


def mutants_of(path: str) -> list[Mutant]:
    """Every small change to a file. Docstrings and annotations are left alone: they are no code."""
    source = (ROOT / path).read_text()
    tree = ast.parse(source)
    found = []
    for number in count():
        fresh = copy.deepcopy(tree)
        spots = [spot for spot in places(fresh) if hasattr(spot[0], "lineno")]
        if number >= len(spots):
            return found
        node, place, kind = spots[number]
        was = ast.unparse(node).splitlines()[0]
        line = node.lineno  # type: ignore[attr-defined]
        change(node, place, kind)
        ast.fix_missing_locations(fresh)
        found.append(Mutant(path, line, was, ast.unparse(node).splitlines()[0], ast.unparse(fresh)))
    return found


def lives(mutant: Mutant, home: Path, near: bool) -> bool:
    """Whether no test fails with the change made in a copy of the sources: of those ``near`` to the
    file, or of all."""
    target = home / mutant.path
    kept = target.read_text()
    target.write_text(mutant.text)
    environment = {**os.environ, "PYTHONPATH": str(home / "src"), "PYTHONDONTWRITEBYTECODE": "1"}
    try:
        for tests in (TESTS[mutant.path],) if near else (TESTS[mutant.path], ["tests/core"]):
            command = [
                sys.executable,
                "-m",
                "pytest",
                "-x",
                "-q",
                "-p",
                "no:cacheprovider",
                "-p",
                "no:randomly",
                *tests,
            ]
            try:
                done = subprocess.run(
                    command,
                    cwd=home,
                    env=environment,
                    capture_output=True,
                    timeout=150,
                    check=False,
                )
            except subprocess.TimeoutExpired:
                return False
            if done.returncode:
                return False
        return True
    finally:
        target.write_text(kept)


def main() -> None:
    parser = ArgumentParser(description=__doc__)
    parser.add_argument("files", nargs="*", default=list(TESTS))
    parser.add_argument(
        "--most", type=int, default=30, help="changes tried in each file, chosen by chance"
    )
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument(
        "--near",
        action="store_true",
        help="run the tests named for a file alone, not all of the core's",
    )
    options = parser.parse_args()
    homes: Queue[Path] = Queue()
    for _ in range(os.cpu_count() or 1):
        home = Path(mkdtemp(prefix="fence-mutants-"))
        for folder in ("src", "tests", "docs", "bench"):
            shutil.copytree(
                ROOT / folder,
                home / folder,
                ignore=shutil.ignore_patterns("__pycache__", "screenshots"),
            )
        shutil.copy(ROOT / "pyproject.toml", home)
        homes.put(home)

    def tried(mutant: Mutant) -> bool:
        home = homes.get()
        try:
            return lives(mutant, home, options.near)
        finally:
            homes.put(home)

    for path in options.files:
        every = mutants_of(path)
        chosen = random.Random(options.seed).sample(every, min(options.most, len(every)))
        with ThreadPoolExecutor(homes.qsize()) as pool:
            survivors = [
                mutant
                for mutant, alive in zip(chosen, pool.map(tried, chosen), strict=True)
                if alive
            ]
        noticed = len(chosen) - len(survivors)
        print(
            f"{path}: {noticed} of {len(chosen)} noticed ({100 * noticed / len(chosen):.0f} %)",
            flush=True,
        )
        for mutant in sorted(survivors, key=lambda mutant: mutant.line):
            print(f"  line {mutant.line}: {mutant.was}  ->  {mutant.now}", flush=True)
    while not homes.empty():
        shutil.rmtree(homes.get(), ignore_errors=True)


if __name__ == "__main__":
    main()
