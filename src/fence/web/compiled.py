"""Templates, compiled: kept where Python keeps its own compiled files, so that the first look at a
page after a start is as quick as any other."""

from __future__ import annotations

import sys
from contextlib import suppress
from pathlib import Path
from tempfile import TemporaryDirectory

from flask import Flask
from jinja2 import FileSystemBytecodeCache
from jinja2.bccache import Bucket

PLACE = Path(__file__).with_name("__pycache__")
"""A file for each template, by its name; one that was made from other words is made anew."""


class Compiled(FileSystemBytecodeCache):
    """Reads what was compiled; writes it as Python does: where it can, and unless told not to."""

    def dump_bytecode(self, bucket: Bucket) -> None:
        if not sys.dont_write_bytecode:
            with suppress(OSError):
                super().dump_bytecode(bucket)


def register(app: Flask) -> None:
    """Keep the compiled templates of an application."""
    app.jinja_env.bytecode_cache = Compiled(str(PLACE), "template-%s.compiled")


def compile_all() -> None:
    """Compile all templates, as ``compileall`` does modules."""
    from fence.web.app import create_app

    sys.dont_write_bytecode = False
    with TemporaryDirectory() as folder:
        app = create_app(Path(folder) / "none.db")
        for name in app.jinja_env.list_templates(extensions=["html"]):
            app.jinja_env.get_template(name)
