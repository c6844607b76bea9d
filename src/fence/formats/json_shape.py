"""What the JSON files have in common: errors in words, and the limits that the core's constructors enforce."""

from __future__ import annotations

import json
from typing import Any

from pydantic import TypeAdapter, ValidationError

from fence.core.words.address import MAX_UNIVERSE, SLOTS
from fence.formats.errors import FileError

_BOUNDS: dict[tuple[str, str], tuple[int, int]] = {
    ("Patch", "universe"): (1, MAX_UNIVERSE),
    ("Patch", "slot"): (1, SLOTS),
    ("Universe", "number"): (1, MAX_UNIVERSE),
    ("Desk", "universes"): (1, MAX_UNIVERSE),
    ("Desk", "page"): (1, SLOTS),
    ("Desk", "highest"): (1, SLOTS),
    ("TellTale", "slot"): (1, SLOTS),
    ("Part", "footprint"): (0, SLOTS),
    ("Range", "first"): (0, 255),
    ("Range", "last"): (0, 255),
    ("Channel", "default"): (0, 255),
    ("Channel", "highlight"): (0, 255),
    ("Setter", "switches"): (1, 16),
}


def refused(error: ValidationError, what: str) -> FileError:
    """The first thing that was wrong with a file, as the error to raise; ``what`` names what is accepted."""
    first = error.errors(include_url=False, include_input=False)[0]
    place = ".".join(str(piece) for piece in first["loc"]) or "the file"
    reason = first["msg"].removeprefix("Value error, ").rstrip(".")
    more = error.error_count() - 1
    rest = f" ({more} more like this.)" if more else ""
    return FileError(f"At {place}: {reason}. Accepted: {what}.{rest}")


def other_format(found: str, version: int, wanted: str, accepted: int) -> FileError:
    """The error for a file that calls itself something else."""
    return FileError(f"This says it is “{found[:40]}” version {version}: accepted is “{wanted}” version {accepted}.")


def schema_text(adapter: TypeAdapter[Any], name: str, version: int) -> str:
    """The JSON Schema of a file as it stands in the docs, with the limits that the core enforces."""
    schema = adapter.json_schema()
    schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    schema["properties"]["format"]["const"] = name
    schema["properties"]["version"]["const"] = version
    for (kind, key), (least, most) in _BOUNDS.items():
        field = schema["$defs"].get(kind, {}).get("properties", {}).get(key, {})
        for variant in field.get("anyOf", [field]):
            if variant.get("type") == "integer":
                variant.update(minimum=least, maximum=most)
    return json.dumps(schema, indent=2, ensure_ascii=False) + "\n"
