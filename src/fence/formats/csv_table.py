"""A small table as CSV: comma, semicolon or tab, the first line naming the columns in any order."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator, Sequence

from fence.core.model.errors import FenceError
from fence.core.model.former import FORMER
from fence.formats.csv_cells import MOST_COLUMNS, from_text
from fence.formats.errors import FileError, decoded

FORMER_COLUMNS = {"box": "node"}
"""What columns were called before."""


class Row(dict[str, str]):
    """The cells of a row by column, and its line in the file. A column that the file lacks is
    empty."""

    def __init__(self, line: int, cells: dict[str, str]) -> None:
        super().__init__(cells)
        self.line = line

    def __missing__(self, key: str) -> str:
        return ""

    def number(self, column: str, *, whole: bool = False) -> float | None:
        """The number in a cell, a comma for a point allowed; None for an empty one, else
        ``FileError``."""
        words = self[column].removesuffix("m").strip() if column == "length" else self[column]
        if not words:
            return None
        try:
            value = float(words.replace(",", "."))
            if whole and value != int(value):
                raise ValueError
        except (ValueError, OverflowError):
            kind = "whole number" if whole else "number"
            raise FileError(f"“{words[:40]}” is not a {kind} for {column}.", self.line) from None
        return value

    def whole(self, column: str) -> int | None:
        """The whole number in a cell; None for an empty one, else ``FileError``."""
        value = self.number(column, whole=True)
        return None if value is None else int(value)

    def choice(self, column: str, words: Sequence[str], default: str = "") -> str:
        """One of some words, whatever its case, or what such a word was before; ``FileError`` names
        what is accepted."""
        found = self[column].casefold() or default
        found = FORMER.get(found, found)
        for word in words:
            if found == word.casefold():
                return word
        raise FileError(
            f"“{self[column][:40]}” does not fit the column {column}. Use {', '.join(words)}.",
            self.line,
        )

    def yes(self, column: str, *, default: bool) -> bool:
        """Yes or no; empty is the default."""
        words = self[column].casefold()
        if not words:
            return default
        if words in ("yes", "y", "true", "1", "x"):
            return True
        if words in ("no", "n", "false", "0", "-"):
            return False
        raise FileError(f"“{self[column][:40]}” is neither yes nor no for {column}.", self.line)


def read_table(
    data: bytes, columns: Sequence[str], required: Sequence[str], most: int
) -> Iterator[Row]:
    """The rows of a table. Raises ``FileError``, which says where and what is accepted."""
    text = decoded(data).lstrip("\r\n")
    head = text.splitlines()[0]
    accepted = (
        f"Accepted: a first line naming columns, any of {', '.join(columns)}; needed are "
        f"{', '.join(required)}."
    )
    delimiter = max(",;\t", key=head.count)
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, strict=True)
    names: list[str] = []
    try:
        for count, cells in enumerate(reader):
            if not names:
                names = ["_".join(cell.casefold().split()) for cell in cells]
                names = [FORMER_COLUMNS.get(name, name) for name in names]
                if len(names) > MOST_COLUMNS or not set(required) <= set(names):
                    raise FileError(
                        f"This line lacks {', '.join(set(required) - set(names))}. {accepted}", 1
                    )
                if twice := [name for name in columns if names.count(name) > 1]:
                    raise FileError(f"The column {twice[0]} is there twice. {accepted}", 1)
                continue
            if count > most:
                raise FileError(
                    f"The file has more than {most} rows: that many are accepted.", reader.line_num
                )
            if any(cell.strip() for cell in cells):
                held = zip(names, cells, strict=False)
                yield Row(
                    reader.line_num,
                    {name: from_text(cell.strip()) for name, cell in held if name in columns},
                )
    except csv.Error as error:
        raise FileError(
            f"This is not CSV ({error}). Accepted: CSV with quotes closed.", reader.line_num
        ) from None


def at_line(row: Row, error: FenceError) -> FileError:
    """An error of the core as one of the file, with the line where it stands."""
    return error if isinstance(error, FileError) else FileError(str(error), row.line)
