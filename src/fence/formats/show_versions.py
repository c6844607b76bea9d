"""The names of things in show files, version by version.

The types that a file is read into have names of their own. Version 3 says in the file what people
say: ``nodes``, the ``devices`` of a line, what is ``accepted``. Versions 1 and 2 have the names of
the types themselves.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from fence.formats.errors import FileError

Things = dict[str, Any]


def _of(thing: Things, key: str) -> Iterator[tuple[str, Things]]:
    """The things that stand under a key, one or a list of them, each with its place."""
    held = thing.get(key)
    if isinstance(held, dict):
        yield key, held
    if isinstance(held, list):
        for at, one in enumerate(held):
            if isinstance(one, dict):
                yield f"{key}.{at}", one


def _show(file: Things) -> Iterator[tuple[str, Things]]:
    yield from _of(file, "show")


def _lines(file: Things) -> Iterator[tuple[str, Things]]:
    for place, show in _show(file):
        for below, line in _of(show, "lines"):
            yield f"{place}.{below}", line


def _sources(file: Things) -> Iterator[tuple[str, Things]]:
    for place, line in _lines(file):
        for below, source in _of(line, "from"):
            yield f"{place}.{below}", source


def _stops(file: Things) -> Iterator[tuple[str, Things]]:
    """Those of a file that has the names of the types."""
    for place, line in _lines(file):
        for below, stop in _of(line, "stops"):
            yield f"{place}.{below}", stop


@dataclass(frozen=True, slots=True)
class Name:
    """That a field of a type is called something else in the file."""

    type: str
    field: str
    written: str
    where: Callable[[Things], Iterator[tuple[str, Things]]]


NAMES = (
    Name("Show", "boxes", "nodes", _show),
    Name("Show", "waivers", "accepted", _show),
    Name("Line", "stops", "devices", _lines),
    Name("Source", "box", "node", _sources),
    Name("Stop", "device", "kind", _stops),
)
"""In an order in which each can be found once those before it have the names of the types."""


def as_types(file: Things) -> Things:
    """A file of version 3 with the names of the types; ``FileError`` for a name of before."""
    for name in NAMES:
        for place, thing in name.where(file):
            if name.field in thing:
                here = ".".join(map(str, place_written(tuple(place.split(".")))))
                raise FileError(
                    f"At {here}: “{name.field}” is not a field of version 3. "
                    f"Use “{name.written}”, or version 2 with the names of before."
                )
            if name.written in thing:
                thing[name.field] = thing.pop(name.written)
    return file


def as_written(file: Things) -> Things:
    """A file with the names of the types as version 3 has it; the order of fields stays."""
    for name in reversed(NAMES):
        for _, thing in name.where(file):
            held = dict(thing)
            thing.clear()
            for key, value in held.items():
                thing[name.written if key == name.field else key] = value
    return file


def place_written(place: tuple[str | int, ...]) -> tuple[str | int, ...]:
    """The place of a fault as version 3 calls it."""
    told: list[str | int] = []
    for piece in place:
        here = "Stop" if "devices" in told else "Source" if "from" in told else None
        names = [n for n in NAMES if n.field == piece and n.type in (here, "Show", "Line")]
        told.append(names[0].written if names else piece)
    return tuple(told)


def schema_written(schema: Things) -> Things:
    """The schema of the types as version 3 has it."""
    for name in NAMES:
        found = schema["$defs"][name.type]
        found["properties"] = {
            name.written if key == name.field else key: value
            for key, value in found["properties"].items()
        }
        if "title" in found["properties"][name.written]:
            found["properties"][name.written]["title"] = name.written.capitalize()
        if name.field in found.get("required", ()):
            found["required"] = [
                name.written if key == name.field else key for key in found["required"]
            ]
    return schema
