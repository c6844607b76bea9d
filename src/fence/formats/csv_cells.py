"""Cells of CSV files that a spreadsheet would run.

A cell that begins with ``=``, ``+``, ``-``, ``@``, a tab or a line end is taken for a formula by
spreadsheets. Fence writes an apostrophe before it, which they take as "this is text", and takes it
away again when it reads. A text that itself begins with apostrophes before such a character gets
one more, so that every text comes back as it was.
"""

from __future__ import annotations

import csv
import io
import re
from enum import StrEnum

_RUN = re.compile(r"'*[=+\-@\t\r\n]")
_KEPT = re.compile(r"'+[=+\-@\t\r\n]")

MOST_COLUMNS = 200
"""Columns that a file may have."""


class Delimiter(StrEnum):
    """What parts the cells of a row: spreadsheets of different countries open different ones."""

    COMMA = "comma"
    SEMICOLON = "semicolon"
    TAB = "tab"

    @property
    def sign(self) -> str:
        """The character itself."""
        return {"comma": ",", "semicolon": ";", "tab": "\t"}[self]


def parted_by(text: str, delimiter: Delimiter) -> str:
    """A CSV text whose cells are parted by commas, with another delimiter."""
    if delimiter is Delimiter.COMMA:
        return text
    out = io.StringIO()
    rows = csv.reader(io.StringIO(text, newline=""))
    csv.writer(out, delimiter=delimiter.sign).writerows(rows)
    return out.getvalue()


def as_text(text: str) -> str:
    """The cell for a text, so that no program runs it."""
    return "'" + text if _RUN.match(text) else text


def from_text(cell: str) -> str:
    """The text of a cell that ``as_text`` may have written."""
    return cell[1:] if cell[:1] == "'" and _KEPT.match(cell) else cell
