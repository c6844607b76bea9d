"""What templates receive: they know only names that are declared, and all of those are used."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, fields
from functools import cache
from pathlib import Path
from typing import get_type_hints

import pytest
from flask import Flask
from jinja2 import Environment, meta, nodes

import fence.web
from fence.web.showing import Part, Showing


def below(kind: type[Showing]) -> Iterator[type[Showing]]:
    """All that is declared."""
    for one in kind.__subclasses__():
        if one.__module__.startswith("fence.") and "template" in vars(one):
            yield one
        yield from below(one)


def names_of(kind: type[Part]) -> set[str]:
    """The names that it gives to its template, those of its parts among them."""
    hints = get_type_hints(kind)
    found = set[str]()
    for field in fields(kind):
        hint = hints[field.name]
        is_part = isinstance(hint, type) and issubclass(hint, Part)
        found |= names_of(hint) if is_part else {field.name}
    return found


@dataclass(frozen=True)
class Piece:
    """A template: what it refers to, the names that it wants, and those that it sets."""

    refers: tuple[str | None, ...]
    wants: frozenset[str]
    sets: frozenset[str]


@cache
def piece_of(env: Environment, name: str) -> Piece:
    """A template, read once for all pages that contain it."""
    assert env.loader is not None
    tree = env.parse(env.loader.get_source(env, name)[0])
    return Piece(
        tuple(meta.find_referenced_templates(tree)),
        frozenset(meta.find_undeclared_variables(tree)),
        frozenset(set_in(tree)),
    )


def pieces(env: Environment, name: str, met: set[str]) -> Iterator[Piece]:
    """A template, and all that it extends, includes or takes macros from."""
    if name in met:
        return
    met.add(name)
    piece = piece_of(env, name)
    yield piece
    frames = ("shared/show.html", "shared/plain.html")  # a page may choose between these
    for other in piece.refers:
        for one in frames if other is None else (other,):
            yield from pieces(env, one, met)


def set_in(tree: nodes.Template) -> set[str]:
    """The names that a template gives to those that it includes."""
    taken = [name for found in tree.find_all(nodes.FromImport) for name in found.names]
    return {
        *(found.name for found in tree.find_all(nodes.Name) if found.ctx in ("store", "param")),
        *(macro.name for macro in tree.find_all(nodes.Macro)),
        *(name if isinstance(name, str) else name[1] for name in taken),
    }


ALL = {(one.__module__, one.__qualname__): one for one in below(Showing)}
"""Each once: with slots a class is made a second time."""
KNOWN = {"request", "session", "loop", "caller", "kwargs", "super", "self"}
OPTIONAL = {"swap", "links", "aside"}
"""Said by whoever includes a piece that can do without."""


def pages_with(kind: type[Showing]) -> Iterator[type[Showing]]:
    """The pages that contain what a fragment shows."""
    for one in ALL.values():
        hints = get_type_hints(one)
        if issubclass(one, kind) or any(hints[field.name] is kind for field in fields(one)):
            yield one


@pytest.mark.parametrize("kind", ALL.values(), ids=lambda one: one.__name__)
def test_a_template_knows_what_is_declared_and_uses_it(
    application: Flask, kind: type[Showing]
) -> None:
    """No name comes from nowhere, and none is handed over for nothing: what a page needs may be
    declared with the fragment that the page contains."""
    env = application.jinja_env
    parts = list(pieces(env, kind.template, set()))
    wider = [part for page in pages_with(kind) for part in pieces(env, page.template, set())]
    given, made = names_of(kind), set[str]().union(*(part.sets for part in parts))
    wanted = set[str]().union(*(part.wants for part in parts))
    used = wanted.union(*(part.wants for part in wider))
    assert not wanted - given - made - KNOWN - OPTIONAL - set(env.globals), "not declared"
    assert not {field.name for field in fields(kind)} & given - used, "declared and not used"


def test_every_page_is_declared() -> None:
    """Nobody hands names to a template in another way."""
    views = Path(fence.web.__file__).parent.rglob("*.py")
    loose = [path.name for path in views if "render_template(" in path.read_text()]
    assert sorted(loose) == ["out.py", "showing.py"]  # the banner of what is sent has no names
    assert len(ALL) > 80
