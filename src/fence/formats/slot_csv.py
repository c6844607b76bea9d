"""A universe's slots as CSV, one row a slot."""

from __future__ import annotations

import csv
import io

from fence.core.addressing.sheet import slot_sheet
from fence.core.model.show import Show
from fence.formats.csv_cells import as_text

COLUMNS = ("universe", "slot", "fixture", "number", "function", "default", "kept")


def write_slot_csv(show: Show, universe: int) -> str:
    """All 512 slots: who listens, what the slot does, its default, and what a reserved one is kept
    for."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(COLUMNS)
    for row in slot_sheet(show, universe):
        numbers = " + ".join(map(str, row.numbers))
        default = "" if row.default is None else row.default
        words = [
            as_text(" + ".join(row.fixtures)),
            numbers,
            as_text(row.function),
            default,
            as_text(row.kept),
        ]
        writer.writerow([universe, row.slot, *words])
    return out.getvalue()
