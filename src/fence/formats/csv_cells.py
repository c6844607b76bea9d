"""Cells of CSV files that a spreadsheet would run.

A cell that begins with ``=``, ``+``, ``-``, ``@``, a tab or a line end is taken for a formula by
spreadsheets. Fence writes an apostrophe before it, which they take as "this is text", and takes it
away again when it reads. A text that itself begins with apostrophes before such a character gets
one more, so that every text comes back as it was.
"""

from __future__ import annotations

import re

_RUN = re.compile(r"'*[=+\-@\t\r\n]")
_KEPT = re.compile(r"'+[=+\-@\t\r\n]")

MOST_COLUMNS = 200
"""Columns that a file may have."""


def as_text(text: str) -> str:
    """The cell for a text, so that no program runs it."""
    return "'" + text if _RUN.match(text) else text


def from_text(cell: str) -> str:
    """The text of a cell that ``as_text`` may have written."""
    return cell[1:] if cell[:1] == "'" and _KEPT.match(cell) else cell
