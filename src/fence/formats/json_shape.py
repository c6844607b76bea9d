"""What the JSON files have in common: errors in words, and the limits that the core's constructors
enforce."""

from __future__ import annotations

import json
from collections.abc import Callable
from typing import Any, Generic, TypeVar

from pydantic import TypeAdapter, ValidationError
from pydantic_core import SchemaValidator, from_json

from fence.core.model.address import MAX_UNIVERSE, SLOTS
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


MOST_VALUES = 2_000_000
"""Values that a file may hold: the largest that Fence writes itself, of 16 MB, holds a quarter of
that."""
MOST_IN_A_LIST, MOST_KEYS = 100_000, 1_000
"""Things of one kind, and names of fields of one thing."""

T = TypeVar("T")
Place = tuple[str | int, ...]
"""Where in a file something stands: names of fields, and places in lists from 0."""


def _as_it_is(text: str) -> str:
    return text


def _same_place(place: Place) -> Place:
    return place


class JsonFile(Generic[T]):
    """A kind of file: read within limits, and only as far as its first fault."""

    def __init__(
        self,
        adapter: TypeAdapter[T],
        what: str,
        *,
        prepared: Callable[[str], str] = _as_it_is,
        written: Callable[[Place], Place] = _same_place,
    ) -> None:
        """``prepared`` gives a text within limits the names of the types; ``written`` the place of
        a fault the names of the file."""
        self.adapter, self.what = adapter, what
        self._prepared, self._written = prepared, written
        self._validator = SchemaValidator(_fail_fast(adapter.core_schema))

    def read(self, text: str) -> T:
        """The file as a value; ``FileError`` says where and what was wrong."""
        _check_counts(text)
        try:
            prepared = self._prepared(text)
            found: T = self._validator.validate_json(prepared)
        except ValidationError as error:
            written = _same_place if prepared is text else self._written
            raise refused(error, self.what, written) from None
        return found


def _fail_fast(schema: Any) -> Any:
    """A schema whose lists are given up at their first fault: a million faults would all be
    kept."""
    if isinstance(schema, dict):
        made = {key: _fail_fast(value) for key, value in schema.items()}
        return (
            {**made, "fail_fast": True}
            if made.get("type") in ("list", "tuple", "set", "frozenset")
            else made
        )
    return [_fail_fast(one) for one in schema] if isinstance(schema, list) else schema


def _check_counts(text: str) -> None:
    """Refuse what holds more than any file of Fence could, before it is made into values."""
    if text.count(",") + text.count("[") + text.count("{") > MOST_VALUES:
        raise FileError(f"The file holds more than {MOST_VALUES:,} values: that many are accepted.")
    if text.count(",") < MOST_KEYS:
        return
    try:
        waiting = [from_json(text)]
    except ValueError:
        return  # it is told where it is read
    while waiting:
        value = waiting.pop()
        if isinstance(value, dict):
            if len(value) > MOST_KEYS:
                raise FileError(
                    f"Something in the file has {len(value):,} fields. Use up to {MOST_KEYS:,}."
                )
            waiting += [one for one in value.values() if isinstance(one, dict | list)]
        elif isinstance(value, list):
            if len(value) > MOST_IN_A_LIST:
                raise FileError(
                    f"A list in the file has {len(value):,} entries. Use up to {MOST_IN_A_LIST:,}."
                )
            waiting += [one for one in value if isinstance(one, dict | list)]


def refused(
    error: ValidationError, what: str, written: Callable[[Place], Place] = _same_place
) -> FileError:
    """The first thing that was wrong with a file, as the error to raise; ``what`` names what is
    accepted, ``written`` gives its place the names of the file."""
    first = error.errors(include_url=False, include_input=False)[0]
    place = ".".join(str(piece) for piece in written(first["loc"])) or "the file"
    reason = first["msg"].removeprefix("Value error, ").rstrip(".")
    more = error.error_count() - 1
    rest = f" ({more} more like this.)" if more else ""
    return FileError(f"At {place}: {reason}. Accepted: {what}.{rest}")


def other_format(found: str, version: int, wanted: str, accepted: int) -> FileError:
    """The error for a file that calls itself something else."""
    return FileError(
        f"This says it is “{found[:40]}” version {version}. Use “{wanted}” version {accepted}."
    )


def schema_text(
    adapter: TypeAdapter[Any],
    name: str,
    version: int,
    written: Callable[[dict[str, Any]], dict[str, Any]] | None = None,
) -> str:
    """The JSON Schema of a file as it stands in the docs, with the limits that the core enforces;
    ``written`` gives it the names of the file."""
    schema = adapter.json_schema()
    schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    schema["properties"]["format"]["const"] = name
    schema["properties"]["version"]["const"] = version
    for (kind, key), (least, most) in _BOUNDS.items():
        field = schema["$defs"].get(kind, {}).get("properties", {}).get(key, {})
        for variant in field.get("anyOf", [field]):
            if variant.get("type") == "integer":
                variant.update(minimum=least, maximum=most)
    if written is not None:
        schema = written(schema)
    return json.dumps(schema, indent=2, ensure_ascii=False) + "\n"
