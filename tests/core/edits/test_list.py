"""The list of all edits, as it is loaded and as type checkers read it."""

from __future__ import annotations

import ast
import subprocess
import sys
from importlib import import_module
from pathlib import Path

import pytest

from fence.core import edits


def test_both_lists_say_the_same() -> None:
    """Each edit stands where both say, and is what the package gives under its name."""
    stub = ast.parse(Path(str(edits.__file__)).with_suffix(".pyi").read_text(encoding="utf-8"))
    said = {
        (name.name, str(node.module))
        for node in stub.body
        if isinstance(node, ast.ImportFrom)
        for name in node.names
    }
    listed = {(n, f"{edits.__name__}.{m}") for m, names in edits.EDITS.items() for n in names}
    assert said == listed
    assert dir(edits) == sorted(name for name, _ in listed)
    for name, module in listed:
        assert getattr(edits, name) is getattr(import_module(module), name)
    with pytest.raises(AttributeError, match="no edit fly"):
        edits.fly  # noqa: B018


def test_none_is_loaded_before_it_is_asked_for() -> None:
    """Importing the package loads no module of it."""
    program = (
        "import sys; from fence.core import edits; edits.pin; "
        "print(*(name for name in sys.modules if name.startswith('fence.core.edits.')))"
    )
    done = subprocess.run(
        [sys.executable, "-c", program], capture_output=True, text=True, check=True
    )
    assert set(done.stdout.split()) == {"fence.core.edits.placing", "fence.core.edits.records"}
