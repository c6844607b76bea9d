"""A whole show as JSON, versioned. The shape is documented by ``docs/show.schema.json``."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from pydantic import ConfigDict, TypeAdapter, ValidationError, with_config

from fence.core.address import MAX_UNIVERSE, SLOTS
from fence.core.edits import with_places
from fence.core.show import Show
from fence.formats.errors import FileError, decoded

FORMAT = "fence-show"
VERSION = 1


@with_config(ConfigDict(extra="forbid", strict=True))
@dataclass(frozen=True, slots=True)
class ShowFile:
    """The file: what it is, which version of it, and the show."""

    format: str
    version: int
    show: Show


_FILE = TypeAdapter(ShowFile)

_BOUNDS: dict[tuple[str, str], tuple[int, int]] = {
    ("Patch", "universe"): (1, MAX_UNIVERSE),
    ("Patch", "slot"): (1, SLOTS),
    ("Universe", "number"): (1, MAX_UNIVERSE),
    ("Desk", "universes"): (1, MAX_UNIVERSE),
    ("Desk", "page"): (1, SLOTS),
    ("Desk", "highest"): (1, SLOTS),
    ("Part", "footprint"): (0, SLOTS),
    ("Range", "first"): (0, 255),
    ("Range", "last"): (0, 255),
    ("Channel", "default"): (0, 255),
    ("Channel", "highlight"): (0, 255),
    ("Setter", "switches"): (1, 16),
}
"""Limits that the core's constructors enforce, for readers of the schema."""


def write_show_json(show: Show) -> str:
    """The show as JSON text."""
    return _FILE.dump_json(ShowFile(FORMAT, VERSION, show), indent=2).decode() + "\n"


def read_show_json(data: bytes) -> Show:
    """Read a show; ``FileError`` says where and what was wrong."""
    text = decoded(data)
    try:
        file = _FILE.validate_json(text)
    except ValidationError as error:
        raise FileError(_in_words(error)) from None
    if file.format != FORMAT or file.version != VERSION:
        raise FileError(
            f"This says it is “{file.format[:40]}” version {file.version}: accepted is “{FORMAT}” version {VERSION}."
        )
    return _sound(file.show)


def _sound(show: Show) -> Show:
    """The show with its counters and lists in order; ``FileError`` where ids are used twice."""
    _once("fixture id", [fixture.id for fixture in show.fixtures])
    _once("profile id", [profile.id for profile in show.profiles])
    _once("universe number", [universe.number for universe in show.universes])
    _once("position", [position.name for position in show.positions])
    highest = max((fixture.id for fixture in show.fixtures), default=0)
    if any(not 1 <= fixture.id < 2**53 for fixture in show.fixtures) or show.next_id >= 2**53:
        raise FileError("A fixture id is out of range: accepted are whole numbers from 1.")
    return with_places(replace(show, next_id=max(show.next_id, highest + 1, 1)))


def _once(what: str, keys: Sequence[object]) -> None:
    if len(set(keys)) < len(keys):
        twice = Counter(keys).most_common(1)[0][0]
        raise FileError(f"The {what} {twice!r} is used twice: accepted is each once.")


def _in_words(error: ValidationError) -> str:
    first = error.errors(include_url=False, include_input=False)[0]
    place = ".".join(str(piece) for piece in first["loc"]) or "the file"
    reason = first["msg"].removeprefix("Value error, ").rstrip(".")
    more = error.error_count() - 1
    rest = f" ({more} more like this.)" if more else ""
    return f"At {place}: {reason}. Accepted: a show file of format “{FORMAT}”, version {VERSION}.{rest}"


def show_schema() -> dict[str, Any]:
    """The JSON Schema of the file, with the limits that the core enforces."""
    schema = _FILE.json_schema()
    schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    schema["properties"]["format"]["const"] = FORMAT
    schema["properties"]["version"]["const"] = VERSION
    for (kind, name), (least, most) in _BOUNDS.items():
        field = schema["$defs"][kind]["properties"][name]
        for variant in field.get("anyOf", [field]):
            if variant.get("type") == "integer":
                variant.update(minimum=least, maximum=most)
    return schema


def schema_text() -> str:
    """The JSON Schema as it stands in the docs."""
    return json.dumps(show_schema(), indent=2, ensure_ascii=False) + "\n"
