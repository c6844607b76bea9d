"""Files by their ending: reading a rig from CSV, JSON, a workbook or a scene, and writing one."""

from __future__ import annotations

from codecs import BOM_UTF8
from collections.abc import Mapping, Sequence
from pathlib import PurePath
from types import MappingProxyType

from fence.core.model.profile import Profile
from fence.core.model.show import Show
from fence.core.model.text import joined
from fence.formats.csv_cells import Delimiter
from fence.formats.errors import FileError
from fence.formats.rig_csv import RigReading, read_rig_csv, write_rig_csv

ENDINGS = (".csv", ".json", ".xlsx", ".mvr")


def read_rig(filename: str, data: bytes, *, known: Sequence[Profile] = ()) -> Show:
    """The show in a file whose every row is good; ``FileError`` names the first that is not."""
    ending, stem = ending_of(filename), PurePath(filename).stem or "Imported rig"
    # the packages of the others are slow to load, and CSV needs none of them
    if ending == ".json":
        from fence.formats.show_json import read_show_json

        return read_show_json(data)
    if ending == ".mvr":
        from fence.formats.mvr import read_mvr

        scene = read_mvr(data, name=stem, known=known)
        if scene.missing:
            names = joined([one.name for one in scene.missing], most=6)
            raise FileError(
                f"The scene lacks the types {names}, and no chart on the shelf has that name: "
                "import their .gdtf first."
            )
        return scene.show
    reading = read_table(filename, data, known=known)
    if reading.refused:
        first, more = reading.refused[0], len(reading.refused) - 1
        rest = f" ({more} more rows are refused.)" if more else ""
        reason = first.reason.rstrip(".")
        raise FileError(f"{reason}.{rest}", first.line)
    if not reading.understood:
        raise FileError("There is a header but no fixture below it. Accepted: at least one row.", 1)
    return reading.show


def read_table(
    filename: str,
    data: bytes,
    *,
    known: Sequence[Profile] = (),
    heads: Mapping[str, str] = MappingProxyType({}),
) -> RigReading:
    """A table of fixtures, row by row: CSV, or the first sheet of a workbook. ``heads`` are words
    for columns beside those that Fence knows."""
    if ending_of(filename) == ".xlsx":
        from fence.formats.rig_xlsx import table_of

        data = table_of(data)
    stem = PurePath(filename).stem or "Imported rig"
    return read_rig_csv(data, name=stem, known=known, heads=heads)


def write_rig(
    filename: str,
    show: Show,
    key: str = "",
    *,
    delimiter: Delimiter = Delimiter.COMMA,
    marked: bool = False,
) -> bytes:
    """A file with this ending. ``key`` is that of the show, for what identifies its fixtures in
    scenes; ``delimiter`` is for CSV, and so is ``marked``: with a byte order mark, by which
    spreadsheets know UTF-8."""
    ending = ending_of(filename)
    if ending == ".json":
        from fence.formats.show_json import write_show_json

        return write_show_json(show).encode("utf-8", "replace")
    if ending == ".xlsx":
        from fence.formats.rig_xlsx import write_rig_xlsx

        return write_rig_xlsx(show)
    if ending == ".mvr":
        from fence.formats.mvr import write_mvr

        return write_mvr(show, key or show.name)
    text = write_rig_csv(show, delimiter).encode("utf-8", "replace")
    return BOM_UTF8 + text if marked else text


def ending_of(filename: str) -> str:
    """``.csv``, ``.json``, ``.xlsx`` or ``.mvr``; ``FileError`` for any other."""
    ending = PurePath(filename).suffix.lower()
    if ending not in ENDINGS:
        raise FileError(
            f"“{PurePath(filename).name[:60]}” is neither .csv, .json, .xlsx nor .mvr: these are "
            "accepted."
        )
    return ending
