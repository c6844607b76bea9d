"""A whole show as JSON, versioned. The shape is documented by ``docs/show.schema.json``."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace

from pydantic import ConfigDict, TypeAdapter, with_config
from pydantic_core import from_json, to_json

from fence.core.edits import free_names, with_places
from fence.core.model.show import Show
from fence.formats.errors import FileError, decoded
from fence.formats.json_shape import JsonFile, other_format, schema_text
from fence.formats.show_versions import as_types, as_written, place_written, schema_written

FORMAT = "fence-show"
VERSION = 6
READ = (1, 2, 3, 4, 5, 6)
"""Versions that are read, for good. The first had no lines and no nodes; the second called nodes
boxes; the third knew nothing of scenes, of places in metres, and of measured light; the fourth
nothing of batteries that are built in; the fifth nothing of days that differ and of letters before
the number on a display."""


WRITTEN_SO = (3, 4, 5, 6)
"""Versions that have the names of what people say."""


@with_config(ConfigDict(extra="forbid", strict=True))
@dataclass(frozen=True, slots=True)
class ShowFile:
    """The file: what it is, which version of it, and the show."""

    format: str
    version: int
    show: Show


_FILE = TypeAdapter(ShowFile)


def _prepared(text: str) -> str:
    """A file with the names of the types, whatever its version."""
    try:
        file = from_json(text)
    except ValueError:
        return text  # what is wrong with it is told where it is read
    if not isinstance(file, dict) or file.get("version") not in WRITTEN_SO:
        return text
    return to_json(as_types(file)).decode()


_READER = JsonFile(
    _FILE,
    f"a show file of format “{FORMAT}”, version {VERSION}",
    prepared=_prepared,
    written=place_written,
)


def write_show_json(show: Show) -> str:
    """The show as JSON text."""
    file = _FILE.dump_python(ShowFile(FORMAT, VERSION, show), mode="json", by_alias=True)
    return to_json(as_written(file), indent=2).decode() + "\n"


def read_show_json(data: bytes) -> Show:
    """Read a show; ``FileError`` says where and what was wrong."""
    file = _READER.read(decoded(data))
    if file.format != FORMAT or file.version not in READ:
        raise other_format(file.format, file.version, FORMAT, VERSION)
    return _sound(file.show)


def _sound(show: Show) -> Show:
    """The show with its counters and lists in order; ``FileError`` where ids are used twice."""
    _once("fixture id", [fixture.id for fixture in show.fixtures])
    _once("profile id", [profile.id for profile in show.profiles])
    _once("universe number", [universe.number for universe in show.universes])
    _once("position", [position.name for position in show.positions])
    _once("line id", [line.id for line in show.lines])
    _once("node id", [box.id for box in show.boxes])
    names = free_names(box.name for box in show.boxes)
    boxes = tuple(replace(box, name=name) for box, name in zip(show.boxes, names, strict=True))
    show = replace(show, boxes=boxes) if boxes != show.boxes else show
    highest = max((fixture.id for fixture in show.fixtures), default=0)
    if any(not 1 <= fixture.id < 2**53 for fixture in show.fixtures) or show.next_id >= 2**53:
        raise FileError("A fixture id is out of range. Use whole numbers from 1.")
    return with_places(replace(show, next_id=max(show.next_id, highest + 1, 1)))


def _once(what: str, keys: Sequence[object]) -> None:
    if len(set(keys)) < len(keys):
        twice = Counter(keys).most_common(1)[0][0]
        raise FileError(f"The {what} {twice!r} is used twice. Use each once.")


def show_schema() -> str:
    """The JSON Schema of the file, as it stands in the docs."""
    return schema_text(_FILE, FORMAT, VERSION, schema_written)
