"""Rows without a table: a number and a name, a name and its number, names that the heading has counted."""

from __future__ import annotations

import re

from fence.core.charts.draft import Taken
from fence.core.charts.headings import heading_of
from fence.core.charts.levels import ranges_of, spans_of
from fence.core.charts.naming import SAME
from fence.core.charts.parting import EDGES
from fence.core.charts.rows.opening import LABEL, is_channel, opener_of
from fence.core.charts.rows.table import same_again
from fence.core.charts.shape import Row
from fence.core.charts.sheet import TOO_MANY, Answered, Sheet
from fence.core.model.profile import Range

BEHIND = re.compile(
    rf"^(?P<name>[^\W\d].{{0,60}}?)\s*[-(\[,:]*\s*(?:{LABEL})\s*[#.:]?\s*(?P<n>\d{{1,3}})\s*[)\]:]*"
    r"(?P<rest>(?:\s.*)?)$",
    re.I,
)


def channel_row(sheet: Sheet, row: Row) -> Answered | None:
    """A number and the words of its channel."""
    opener = opener_of(sheet, row)
    if opener is None or not is_channel(sheet, opener, row):
        return None
    running = bool(sheet.modes and sheet.modes[-1].slots and not sheet.pending)
    if opener.first == 0 and not running:
        sheet.base = 1
    first, last = opener.first + sheet.base, opener.last + sheet.base
    base = sheet.base
    name, ranges, doubt = sheet.split(opener.rest)
    if ranges and running and first in sheet.modes[-1].slots and same_again(sheet, first, name):
        return sheet.more_levels(ranges)
    held = sheet.held if sheet.held is not None and sheet.adjacent(sheet.held, row) else None
    mode = sheet.mode_for(first)
    if mode is None:
        return TOO_MANY
    sheet.base = base
    if first in mode.slots:
        return Taken.LOST, f"channel {first} is there already"
    orderly = first == max(mode.slots, default=0) + 1
    if not mode.slots:
        mode.labelled = opener.labelled
    mode.labelled = mode.labelled and opener.labelled
    sheet.columns = []
    if sheet.table is not None and sheet.table.modes:
        sheet.table = None
    if held is not None and sheet.namer.knows(held.words) and (not name or sheet.namer.channel(name).doubt):
        claimed = sheet.claim(held)
        ranges = _reread(sheet, opener.rest, ranges)
        name = claimed
    sheet.indent = row.indent
    if last > first:
        alike = SAME.match(" " + opener.rest.lstrip(" -")) is not None
        words, levels = (opener.rest.lstrip(" -"), ()) if alike or not ranges else (name, ranges)
        return sheet.several(mode, first, last, words, levels, row, doubt)
    if opener.doubtful:
        doubt = doubt or "letters in the number are taken as digits"
    if not orderly and not opener.labelled:
        doubt = doubt or "its number is out of order"
    return sheet.added(mode, first, name, ranges, row, doubt)


def _reread(sheet: Sheet, rest: str, ranges: tuple[Range, ...]) -> tuple[Range, ...]:
    """The levels of a row whose name stands on the line before: all words behind them are their meaning."""
    spans = spans_of(rest)
    return (
        tuple(r for r in ranges_of(rest, spans) if (r.first, r.last) != (0, 255) or r.meaning != "no words") or ranges
    )


def behind_row(sheet: Sheet, row: Row) -> Answered | None:
    """A channel whose number stands behind its name: ``Dimmer (Ch. 1) 0-255``."""
    found = BEHIND.match(row.words)
    if not found or not sheet.namer.knows(found["name"]):
        return None
    number = int(found["n"])
    running = bool(sheet.modes and sheet.modes[-1].slots and not sheet.pending)
    if number != sheet.expected and not (number == 1 and running):
        return None
    mode = sheet.mode_for(number)
    if mode is None:
        return TOO_MANY
    _, ranges, doubt = sheet.split(f"x  {found['rest'].strip()}")
    return sheet.added(mode, number, found["name"].strip(EDGES), ranges, row, doubt)


def unnumbered_row(sheet: Sheet, row: Row) -> Answered | None:
    """A function without a number below a heading that says how many there are: the next channel."""
    declared = sheet.declared
    mode = sheet.modes[-1] if sheet.modes and not sheet.pending else None
    if declared is None or sheet.columns or (mode and len(mode.slots) >= declared):
        return None
    if mode is not None and mode.slots and not mode.unnumbered:
        return None
    if _numbered_next(sheet, row):
        return None
    name, ranges, _ = sheet.split(row.words)
    named = sheet.namer.channel(name)
    if not name or (named.doubt and not (_as_many(sheet, declared) and len(name.split()) <= 4)):
        return None
    mode = sheet.mode_for(1 if mode is None else max(mode.slots, default=0) + 1)
    if mode is None:
        return TOO_MANY
    mode.unnumbered = True
    sheet.added(mode, max(mode.slots, default=0) + 1, name, ranges, row, "")
    return Taken.GUESS, "taken as the next channel"


def _numbered_next(sheet: Sheet, row: Row) -> bool:
    """Whether the line behind this one has the number of the channel that this one names."""
    following = sheet.rows[sheet.place + 1] if sheet.place + 1 < len(sheet.rows) else None
    opener = opener_of(sheet, following) if following is not None and following.words else None
    return opener is not None and opener.first == sheet.expected and not sheet.namer.knows(opener.rest)


def _as_many(sheet: Sheet, declared: int) -> bool:
    """Whether just as many lines follow each other here as the heading says channels."""
    begin = sheet.place
    while begin and sheet.place - begin <= declared and _plain(sheet.rows[begin - 1]):
        begin -= 1
    end = sheet.place
    while end < len(sheet.rows) and _plain(sheet.rows[end]) and end - begin <= declared:
        end += 1
    return end - begin == declared


def _plain(row: Row) -> bool:
    """Whether a row is a short line of words and announces nothing."""
    return re.search(r"\w", row.words) is not None and len(row.words) <= 40 and heading_of(row.words) is None
