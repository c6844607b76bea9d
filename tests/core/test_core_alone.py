"""The core stands alone: what it may import is a list, and all else is none of it."""

from __future__ import annotations

import ast
import subprocess
import sys
from pathlib import Path

import fence.core

ROOT = Path(fence.core.__file__).parent
ALLOWED = {
    "construct": {"rdm/packet.py", "rdm/values.py"},
    "numpy": {
        "simulation/many.py",
        "simulation/practice.py",
        "troubleshooting/asking.py",
        "troubleshooting/belief.py",
    },
}
"""Packages beyond the standard library, and where each may be imported."""

PROGRAM = """
import sys, pkgutil, importlib
before = {name.partition(".")[0] for name in sys.modules}
import fence.core
LATER = (
    "fence.core.simulation.many",
    "fence.core.troubleshooting",
    "fence.core.practising.hidden",
)
for module in pkgutil.walk_packages(fence.core.__path__, "fence.core."):
    if not module.name.startswith(LATER):
        importlib.import_module(module.name)
loaded = {name.partition(".")[0] for name in sys.modules} - before - set(sys.stdlib_module_names)
print(sorted(name for name in loaded if not name.startswith("_")),
      sorted(n for n in sys.modules if n.startswith("fence.") and not n.startswith("fence.core")))
"""


def imported(path: Path) -> set[str]:
    """The names that a file imports, wherever in it."""
    found: set[str] = set()
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if isinstance(node, ast.Import):
            found |= {name.name for name in node.names}
        elif isinstance(node, ast.ImportFrom):
            assert not node.level, f"{path}: relative imports hide what they import"
            found.add(node.module or "")
    return found


def test_the_core_imports_what_is_on_the_list() -> None:
    """The standard library, the core itself, and each package that is allowed just where it is;
    none is on the list in vain."""
    met: dict[str, set[str]] = {name: set() for name in ALLOWED}
    for path in ROOT.rglob("*.py"):
        place = path.relative_to(ROOT).as_posix()
        for name in imported(path):
            package = name.partition(".")[0]
            if package in met:
                met[package].add(place)
            elif package == "fence":
                assert name.startswith("fence.core"), (place, name)
            else:
                assert package in sys.stdlib_module_names, (place, name)
    assert met == ALLOWED


def test_the_core_brings_nothing_with_it() -> None:
    """Importing all of the core loads what reads and writes bytes on the wire, and no other room;
    what reckons with large rigs is loaded where there is one."""
    done = subprocess.run(
        [sys.executable, "-c", PROGRAM], capture_output=True, text=True, check=True
    )
    packages, rooms = done.stdout.strip().rsplit(" [", 1)
    assert ast.literal_eval(packages) == ["construct", "fence"]
    assert rooms == "]"
