"""Rows of tables: heads, rows by their columns, channels that several modes number."""

from __future__ import annotations

import re
from dataclasses import replace

from fence.core.charts.draft import Building, Slot, Taken
from fence.core.charts.headings import Heading, counts_in, heading_of
from fence.core.charts.levels import PHYSICAL, Span, ranged, ranges_of, spans_of, with_physical
from fence.core.charts.notation import as_number
from fence.core.charts.parting import SCANNED_LEVELS, name_and_meaning
from fence.core.charts.roles import Role
from fence.core.charts.rows.opening import MOST_GAP, is_span
from fence.core.charts.shape import Row
from fence.core.charts.sheet import JOINED, TOO_MANY, Answered, Sheet, is_whole
from fence.core.charts.tables import Entry, Table, entry_of, grid_of, numbers_in, table_of, told
from fence.core.model.profile import Byte, Channel, Range

MOST_TABLES = 60
"""Tables of one text that a person can say the columns of."""
_NUMBERED = re.compile(r"^[\[(]?\d")


def table_head(sheet: Sheet, row: Row) -> Answered | None:
    """The head of a table: what its columns hold, and the modes that they number."""
    grid = grid_of(row)
    if grid is not None:
        meanings = [sheet.namer.means(cell) for cell in grid]
        functions = tuple(meaning.function for meaning in meanings if meaning and meaning.sure)
        if len(functions) == len(grid):
            sheet.grid, sheet.current, sheet.table = functions, [], None
            return Taken.HEADING, "cells against colours"
    if _NUMBERED.match(row.words) and len(counts_in(row.words)) < 2 and not row.delimited:
        return None
    following = sheet.rows[sheet.place + 1 : sheet.place + 12]
    above = sheet.rows[sheet.place - 1] if sheet.place else None
    table = table_of(row, following, above)
    if table is None:
        return None
    table = told(table, sheet.columns_said.get(table.line, {}))
    if len(sheet.tables) < MOST_TABLES:
        sheet.tables.append(table)
    again = sheet.table is not None and sheet.table.modes == table.modes and bool(sheet.columns) and bool(table.modes)
    sheet.table, sheet.grid, sheet.joinable = table, (), False
    if again:
        return Taken.HEADING, "head, once more"
    if table.modes:
        pending = sheet.pending
        columns = [
            Building(_column_name(name, declared, pending, len(table.modes)), declared, firm=True)
            for name, declared in table.modes
        ]
        if not sheet.open(*columns):
            return TOO_MANY
        sheet.pending, sheet.columns, sheet.current = None, columns, []
        return Taken.HEADING, f"{len(columns)} modes, one a column" if len(columns) > 1 else "head"
    return Taken.HEADING, "head"


def _column_name(name: str, declared: int | None, pending: Heading | None, count: int) -> str:
    """The name of a mode over a column; where it is the only one, that of the heading before."""
    return pending.name if count == 1 and pending is not None and pending.declared in (None, declared) else name


def grid_row(sheet: Sheet, row: Row) -> Answered | None:
    """The channels of one cell, a number below each colour."""
    if not sheet.grid:
        return None
    numbers = [as_number(cell) for cell in re.split(r"[\s|;]+", row.words)]
    given = [number for number in numbers if number is not None]
    if len(given) != len(numbers) or len(given) != len(sheet.grid) + 1:
        sheet.grid = ()
        return None
    mode = sheet.mode_for(given[1])
    if mode is None or not all(1 <= offset <= 512 and offset not in mode.slots for offset in given[1:]):
        return None
    for function, offset in zip(sheet.grid, given[1:], strict=True):
        mode.slots[offset] = Slot(Channel(function, cell=given[0]), row.lines[0])
    sheet.current = []
    return Taken.SURE, ""


def table_row(sheet: Sheet, row: Row) -> Answered | None:
    """A row by the columns of its table."""
    table = sheet.table
    if table is None:
        return None
    entry = entry_of(table, row)
    if entry is None:
        return None
    if table.modes and sheet.columns:
        if any(place is not None for place in entry.places):
            return _columns_row(sheet, entry, row)
        return _below_row(sheet, entry, table, row)
    if not table.has(Role.CHANNEL) or table.modes:
        return None
    number = numbers_in(entry.text(Role.CHANNEL)) if entry.text(Role.CHANNEL) else None
    if number is None:
        return _below_row(sheet, entry, table, row)
    if number[0] > sheet.expected + MOST_GAP and number[0] == sheet.following:
        return None  # a level that stands too far left
    if number[-1] > number[0] and not is_span(sheet, number[0] + sheet.base, number[-1] + sheet.base, row):
        return None
    if table.has(Role.MODE) and entry.text(Role.MODE) and not _go_to(sheet, entry.text(Role.MODE)):
        return TOO_MANY
    return _numbered_entry(sheet, entry, table, number, row)


def _go_to(sheet: Sheet, name: str) -> bool:
    """Go on in the mode of that name, or begin it: a table may say the mode in every row."""
    held = next((mode for mode in sheet.modes if mode.name == name[:60]), None)
    sheet.pending = None
    if held is None:
        sheet.current = []
        return sheet.open(Building(name[:60], firm=True))
    if held is not sheet.modes[-1]:
        sheet.modes.remove(held)
        sheet.modes.append(held)
        sheet.current = []
    return True


def _words_of(sheet: Sheet, entry: Entry, table: Table) -> tuple[str, tuple[Range, ...], str]:
    """The name and the levels of a table's row, and what to doubt about them."""
    name, doubt = entry.text(Role.NAME), ""
    value, meaning = entry.text(Role.VALUE), entry.text(Role.MEANING)
    if table.has(Role.FROM) and table.has(Role.TO):
        low, high = as_number(entry.text(Role.FROM)), as_number(entry.text(Role.TO))
        if low is not None and high is not None and low <= high <= 255:
            below = "" if entry.text(Role.CHANNEL) else name
            return name, _single(low, high, meaning if table.meaning_apart else below), doubt
    if not value and (spans := spans_of(name)) and spans[0].start > 0:
        name, value = name[: spans[0].start], name[spans[0].start :]
    elif not value and not table.has(Role.VALUE) and (spans := spans_of(meaning)):
        value, meaning = meaning, ""
    spans = spans_of(value, value=True, expected=sheet.following if not name else None)
    if not spans:
        if physical := PHYSICAL.search(value) or PHYSICAL.search(meaning):
            return name, (with_physical(Range(0, 255, physical[0])),), doubt
        if value and not is_whole(value) and meaning and (spans := spans_of(meaning)):
            return name, tuple(ranges_of(meaning, spans)), doubt
        return name, (), doubt
    if any(span.scanned for span in spans):
        doubt = SCANNED_LEVELS
    found = ranges_of(value, spans)
    inner = [r for r in found if r.meaning != "no words"]
    if len(found) == 1 and not inner:
        opening = bool(entry.text(Role.CHANNEL))
        words = meaning
        if not meaning and not table.meaning_apart and _levels_first(table):
            words = _meaning_in(sheet, name) if opening else name
        bare = (found[0].first, found[0].last) == (0, 255) and not meaning
        found = [ranged(spans[0], words)] if words and not bare else [replace(found[0], meaning="no words")]
    elif len(found) == 1 and meaning:
        found = [ranged(spans[0], f"{found[0].meaning} {meaning}")]
    return name, tuple(r for r in found if (r.first, r.last) != (0, 255) or r.meaning != "no words"), doubt


def _meaning_in(sheet: Sheet, words: str) -> str:
    """What levels do that stand before the function: the words behind a comma where a function is before it."""
    name = name_and_meaning(sheet.namer, words)
    return words if name == words else words.partition(",")[2].strip()


def _levels_first(table: Table) -> bool:
    """Whether the levels stand before the function, which then is their meaning too."""
    roles = [column.role for column in table.columns]
    return Role.VALUE in roles and Role.NAME in roles and roles.index(Role.VALUE) < roles.index(Role.NAME)


def _single(low: int, high: int, meaning: str) -> tuple[Range, ...]:
    """Levels whose first and last stand in columns of their own."""
    if (low, high) == (0, 255) and not meaning.strip():
        return ()
    return (ranged(Span(0, 0, low, high), meaning),)


def _numbered_entry(sheet: Sheet, entry: Entry, table: Table, number: list[int], row: Row) -> Answered | None:
    """A table's row with the number of its channel."""
    first, last = number[0], number[-1]
    if first == 0 and not (sheet.modes and sheet.modes[-1].slots and not sheet.pending):
        sheet.base = 1
    first, last = first + sheet.base, last + sheet.base
    name, ranges, doubt = _words_of(sheet, entry, table)
    if _levels_first(table) and not table.meaning_apart and ranges:
        name = name_and_meaning(sheet.namer, name)
    if (
        ranges
        and not sheet.pending
        and sheet.modes
        and first in sheet.modes[-1].slots
        and same_again(sheet, first, name)
    ):
        return sheet.more_levels(ranges)
    mode = sheet.mode_for(first)
    if mode is None or first < 1 or last > 512:
        return TOO_MANY if mode is None else None
    if first in mode.slots:
        return Taken.LOST, f"channel {first} is there already"
    if not name and sheet.held is not None and sheet.adjacent(sheet.held, row):
        name = sheet.claim(sheet.held)
    if entry.text(Role.DEFAULT) and (level := re.match(r"(\d{1,3})\s*(%?)", entry.text(Role.DEFAULT))):
        name = f"{name} default {level[1]}{level[2]}"
    if cell := re.search(r"\d{1,3}", entry.text(Role.CELL)):
        name = f"{name} cell {cell[0]}"
    if last > first:
        return sheet.several(mode, first, last, name, ranges, row, doubt)
    orderly = first == max(mode.slots, default=0) + 1
    return sheet.added(mode, first, name, ranges, row, doubt or ("" if orderly else "its number is out of order"))


def same_again(sheet: Sheet, number: int, name: str) -> bool:
    """Whether a row repeats the number of the channel that is read, to say more of its levels."""
    slot = sheet.modes[-1].slots[number]
    return slot in sheet.current and (not name or slot.said.split("  ")[0].startswith(name[:12]) or name in slot.said)


def _columns_row(sheet: Sheet, entry: Entry, row: Row) -> Answered | None:
    """A channel that several modes number, each in a column of its own."""
    assert sheet.table is not None
    name, ranges, doubt = _words_of(sheet, entry, sheet.table)
    if sheet.table.grid and not ranges:
        name, ranges, doubt = sheet.split(name)
    if not name:
        return None
    sheet.current, taken = [], (Taken.SURE, "")
    for mode, place in zip(sheet.columns, entry.places, strict=False):
        if place is None:
            continue
        numbers = place or [max(mode.slots, default=0) + 1]
        if len(numbers) > 2 or (len(numbers) == 2 and sheet.namer.several(name, 2, []) is not None):
            found = sheet.several(mode, numbers[0], numbers[-1], name, ranges, row, doubt, keep=True)
            taken = found if found[0] is not Taken.SURE else taken
            continue
        for offset in numbers:
            byte = None if len(numbers) == 1 else (Byte.COARSE if offset == numbers[0] else Byte.FINE)
            found = sheet.added(mode, offset, name, ranges, row, doubt, byte=byte, keep=True)
            taken = found if found[0] is not Taken.SURE else taken
    sheet.joinable = True
    return taken


def _below_row(sheet: Sheet, entry: Entry, table: Table, row: Row) -> Answered | None:
    """A table's row without a number: further levels, or words that go on from the line above."""
    if not sheet.current:
        return None
    name, ranges, doubt = _words_of(sheet, entry, table)
    apart = table.meaning_apart or not _levels_first(table)
    if ranges or is_whole(entry.text(Role.VALUE)):
        if name and apart and table.has(Role.VALUE) and entry.text(Role.VALUE):
            sheet.join_name(name)
        taken = sheet.more_levels(ranges)
        if doubt and taken[0] is Taken.SURE:
            return Taken.GUESS, doubt
        return taken
    if not entry.texts or not sheet.joinable or not sheet.close(row):
        return None
    only = row.filled[0].start if row.filled else 0
    if name and not row.delimited and only <= sheet.indent:
        return None
    if name and not sheet.namer.knows(name) and heading_of(row.words) is not None:
        return None
    if name:
        sheet.join_name(name)
    if meaning := entry.text(Role.MEANING) or entry.text(Role.VALUE):
        sheet.join_meaning(meaning)
    return Taken.SURE, JOINED
