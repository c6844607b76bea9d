"""Charts as files: JSON for one chart or a whole library, CSV with a row for each channel or range.

The JSON says everything that a chart holds. The CSV holds channels and ranges only, as a
spreadsheet would; a chart read from it gets what else there is to say in the editor.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from pydantic import ConfigDict, TypeAdapter, with_config

from fence.core.model.profile import Profile
from fence.formats.channel_csv import read_channels_csv
from fence.formats.errors import FileError, decoded
from fence.formats.json_shape import JsonFile, other_format, schema_text

FORMAT = "fence-charts"
VERSION = 4
READ = (1, 2, 3, 4)
"""Versions that are read, for good. The first knew nothing of measured light and of RDM models, the
second of batteries that are built in, the third of letters before the number on a display."""


@with_config(ConfigDict(extra="forbid", strict=True))
@dataclass(frozen=True, slots=True)
class ChartsFile:
    """The file: what it is, which version of it, and the charts."""

    format: str
    version: int
    charts: tuple[Profile, ...]


_FILE = TypeAdapter(ChartsFile)
_READER = JsonFile(_FILE, f"a charts file of format “{FORMAT}”, version {VERSION}")


def write_charts_json(charts: Iterable[Profile]) -> str:
    """Charts as JSON text."""
    return _FILE.dump_json(ChartsFile(FORMAT, VERSION, tuple(charts)), indent=2).decode() + "\n"


def read_charts_json(data: bytes) -> tuple[Profile, ...]:
    """Read charts; ``FileError`` says where and what was wrong."""
    file = _READER.read(decoded(data))
    if file.format != FORMAT or file.version not in READ:
        raise other_format(file.format, file.version, FORMAT, VERSION)
    seen: set[str] = set()
    for chart in file.charts:
        if chart.id in seen:
            raise FileError(f"The chart id “{chart.id[:60]}” is used twice. Use each once.")
        if not chart.modes:
            raise FileError(f"{chart.title} lacks a mode. Use charts with at least one.")
        seen.add(chart.id)
    return file.charts


def charts_schema() -> str:
    """The JSON Schema of the file, as it stands in the docs."""
    return schema_text(_FILE, FORMAT, VERSION)


def read_charts(filename: str, data: bytes) -> Sequence[Profile]:
    """The charts of a .json, .csv or .gdtf file; ``FileError`` for any other ending."""
    stem, _, ending = filename.rpartition(".")
    if ending.casefold() == "json":
        return read_charts_json(data)
    if ending.casefold() == "csv":
        return read_channels_csv(data, name=stem or "Imported")
    if ending.casefold() == "gdtf":
        return [profile for profile, _ in read_with_notes(filename, data)]
    raise FileError(f"“{filename[:60]}” is neither .json, .csv nor .gdtf: these are accepted.")


def read_with_notes(
    filename: str, data: bytes, known: Sequence[Profile] = ()
) -> list[tuple[Profile, tuple[str, ...]]]:
    """The charts of a file, each with what there is to say of how it was read. ``known`` are those
    on the shelf: a fixture type that is one of them keeps what only the shelf knows."""
    if not filename.casefold().endswith(".gdtf"):
        return [(profile, ()) for profile in read_charts(filename, data)]
    from fence.formats.gdtf.reading import read_gdtf  # its packages are slow to load
    from fence.formats.gdtf.shelf import beside

    read = read_gdtf(data, [profile.id for profile in known])
    held = next((one for one in known if one.id == read.profile.id), None)
    profile = beside(read.profile, held) if held else read.profile
    of_modes = (f"{mode}: {note}" for mode, notes in read.of_modes.items() for note in notes)
    return [(profile, (*read.notes, *of_modes))]
