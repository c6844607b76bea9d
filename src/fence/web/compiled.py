"""Templates, compiled: kept where Python keeps its own compiled files, so that the first look at a
page after a start is as quick as any other; and without the indentation that they are written with,
which would be half of what is sent."""

from __future__ import annotations

import re
import sys
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path
from tempfile import TemporaryDirectory

from flask import Flask
from jinja2 import FileSystemBytecodeCache
from jinja2.bccache import Bucket
from jinja2.ext import Extension
from jinja2.lexer import Token, TokenStream

PLACE = Path(__file__).with_name("__pycache__")
"""A file for each template, by its name; one that was made from other words is made anew."""


INDENTED = re.compile(r"[ \t]*\n\s*")
"""The end of a line with the indentation of the next one, and empty lines between."""


class Lean(Extension):
    """Leaves of the white space between two lines of a template only that there was some: to a
    browser it is the same. What is put in by an expression stays as it is."""

    def filter_stream(self, stream: TokenStream) -> Iterator[Token]:
        for token in stream:
            if token.type == "data":
                yield Token(token.lineno, "data", INDENTED.sub("\n", token.value))
            else:
                yield token


class Compiled(FileSystemBytecodeCache):
    """Reads what was compiled; writes it as Python does: where it can, and unless told not to."""

    def dump_bytecode(self, bucket: Bucket) -> None:
        if not sys.dont_write_bytecode:
            with suppress(OSError):
                super().dump_bytecode(bucket)


def register(app: Flask) -> None:
    """Keep the compiled templates of an application."""
    app.jinja_env.add_extension(Lean)
    app.jinja_env.bytecode_cache = Compiled(str(PLACE), "lean-%s.compiled")


def compile_all() -> None:
    """Compile all templates, as ``compileall`` does modules."""
    from fence.web.app import create_app

    sys.dont_write_bytecode = False
    with TemporaryDirectory() as folder:
        app = create_app(Path(folder) / "none.db")
        for name in app.jinja_env.list_templates(extensions=["html"]):
            app.jinja_env.get_template(name)
