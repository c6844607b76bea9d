"""Rows that say what follows: a mode, a cell, a table that goes on."""

from __future__ import annotations

import re

from fence.core.charts.draft import Taken
from fence.core.charts.headings import CONTINUED, EXACT_MODE, TOTAL, Heading, cell_alone, heading_of
from fence.core.charts.levels import spans_of
from fence.core.charts.rows.opening import is_channel, opener_fits, opener_of
from fence.core.charts.shape import Row
from fence.core.charts.sheet import Answered, Sheet


def heading(sheet: Sheet, row: Row) -> Answered | None:
    """The name of a mode, the cell that is spoken of, or the sign that a table goes on."""
    words = row.words
    if (cell := cell_alone(words)) is not None and len(words) < 24:
        sheet.cell = cell
        return Taken.HEADING, f"cell {cell}"
    if CONTINUED.search(words) and len(words) < 90 and not opener_fits(sheet, row):
        return Taken.HEADING, "goes on"
    found = heading_of(words)
    if found is None:
        return None
    if TOTAL.match(words) and sheet.modes and sheet.modes[-1].slots and not sheet.pending:
        return Taken.LEFT, "how many there were"
    opener = opener_of(sheet, row)
    exact = EXACT_MODE.match(words) is not None
    if not exact and opener is not None and is_channel(sheet, opener, row):
        return None
    if not exact and spans_of(words, expected=None) and not found.firm:
        return None
    if not exact and sheet.goes_on(found):
        return Taken.HEADING, "goes on"
    held = sheet.pending
    bare = re.fullmatch(r"[\W\d]*(?:dmx[\s-]*)?\w*[\W\d]*", found.name.replace("DMX", "")) is not None
    if held is not None and held.firm and held.declared is None and found.declared is not None and bare:
        found = Heading(f"{held.name} ({found.declared} channels)", found.declared, True)
    elif held is not None and held.declared is not None and found.declared is None and sheet.held is None:
        found = Heading(f"{found.name} ({held.declared} channels)", held.declared, True)
    sheet.pending, sheet.own = found, exact
    sheet.current, sheet.columns, sheet.grid, sheet.joinable = [], [], (), False
    sheet.cell = None
    if sheet.table is not None and sheet.table.modes:
        sheet.table = None
    return Taken.HEADING, f"mode {found.name}"
