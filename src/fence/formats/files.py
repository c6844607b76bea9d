"""Files by their ending: reading a rig from CSV or JSON, and writing one."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import PurePath

from fence.core.model.profile import Profile
from fence.core.model.show import Show
from fence.formats.errors import FileError
from fence.formats.rig_csv import read_rig_csv, write_rig_csv

ENDINGS = (".csv", ".json")


def read_rig(filename: str, data: bytes, *, known: Sequence[Profile] = ()) -> Show:
    """The show in a file whose every row is good; ``FileError`` names the first that is not."""
    ending = ending_of(filename)
    if ending == ".json":
        # its packages are slow to load, and CSV needs none of them
        from fence.formats.show_json import read_show_json

        return read_show_json(data)
    reading = read_rig_csv(data, name=PurePath(filename).stem or "Imported rig", known=known)
    if reading.refused:
        first, more = reading.refused[0], len(reading.refused) - 1
        rest = f" ({more} more rows are refused.)" if more else ""
        reason = first.reason.rstrip(".")
        raise FileError(f"{reason}.{rest}", first.line)
    if not reading.understood:
        raise FileError("There is a header but no fixture below it. Accepted: at least one row.", 1)
    return reading.show


def write_rig(filename: str, show: Show) -> str:
    """The text of a file with this ending."""
    if ending_of(filename) == ".json":
        from fence.formats.show_json import write_show_json

        return write_show_json(show)
    return write_rig_csv(show)


def ending_of(filename: str) -> str:
    """``.csv`` or ``.json``; ``FileError`` for any other."""
    ending = PurePath(filename).suffix.lower()
    if ending not in ENDINGS:
        raise FileError(
            f"“{PurePath(filename).name[:60]}” is neither .csv nor .json: these two are accepted."
        )
    return ending
