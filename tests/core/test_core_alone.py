"""The core stands alone."""

from __future__ import annotations

import subprocess
import sys

PROGRAM = """
import sys, pkgutil, importlib
import fence.core
for module in pkgutil.walk_packages(fence.core.__path__, "fence.core."):
    importlib.import_module(module.name)
loaded = {name.partition(".")[0] for name in sys.modules}
print(sorted(loaded & {"flask", "sqlalchemy", "pydantic", "click", "waitress", "jinja2"}),
      sorted(n for n in sys.modules if n.startswith("fence.") and not n.startswith("fence.core")))
"""


def test_the_core_brings_nothing_with_it() -> None:
    """Importing all of the core loads no package beyond the standard library and no other room."""
    done = subprocess.run([sys.executable, "-c", PROGRAM], capture_output=True, text=True, check=True)
    assert done.stdout.split() == ["[]", "[]"]
