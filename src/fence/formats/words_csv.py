"""Taught wordings of manuals as CSV: what it says, and which function that means."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable

from fence.core.charts.reading import MOST_WORDS
from fence.core.charts.vocabulary import tidy_words
from fence.core.model.errors import EditError
from fence.core.model.profile import Function
from fence.formats.csv_cells import as_text
from fence.formats.csv_table import at_line, read_table

COLUMNS = ("wording", "means")
LONGEST_WORDING = 60


def write_words_csv(words: Iterable[tuple[str, Function]]) -> str:
    """Wordings as CSV text, lines ending in CR LF."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(COLUMNS)
    writer.writerows([as_text(wording), str(function)] for wording, function in words)
    return out.getvalue()


def read_words_csv(data: bytes) -> tuple[tuple[str, Function], ...]:
    """Read wordings; ``FileError`` says in which line something is not understood, and what is
    accepted."""
    found = []
    for row in read_table(data, COLUMNS, COLUMNS, MOST_WORDS):
        wording = tidy_words(row["wording"])
        if not wording or len(wording) > LONGEST_WORDING:
            raise at_line(
                row, EditError(f"A wording has 1 to {LONGEST_WORDING} letters and figures.")
            )
        found.append(
            (wording, Function(row.choice("means", [str(function) for function in Function], "")))
        )
    return tuple(found)
