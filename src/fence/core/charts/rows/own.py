"""Rows as Fence writes them: a channel a line, its levels below, in quotes what looks like something else."""

from __future__ import annotations

import re
from dataclasses import replace

from fence.core.charts.draft import Slot, Taken
from fence.core.charts.levels import PHYSICAL, spans_of, with_physical
from fence.core.charts.shape import Row
from fence.core.charts.sheet import TOO_MANY, Answered, Sheet
from fence.core.model.profile import Range

EXACT = re.compile(r'^(\d{1,3}) "((?:[^"]|"")*)"(.*)$')
"""A channel whose name is in quotes: it is taken as it stands, whatever it looks like."""
EXACT_RANGE = re.compile(r'^(\d{1,3})-(\d{1,3}) ("(?:[^"]|"")*".*)$')
QUOTED = re.compile(r'"((?:[^"]|"")*)"')
OWN_CHANNEL = re.compile(r"^(\d{1,3}) (\S.*)$")
OWN_RANGE = re.compile(r"^   (\d{1,3})-(\d{1,3}) (\S.*)$")


def own_row(sheet: Sheet, row: Row) -> Answered | None:
    """A line of a chart as Fence writes it, below its ``Mode:`` line."""
    text = row.text
    if not sheet.own:
        return None
    if sheet.current and (levels := OWN_RANGE.match(text)) and int(levels[1]) <= int(levels[2]) <= 255:
        return take_range(sheet, int(levels[1]), int(levels[2]), levels[3])
    if text.startswith(" ") or '"' in text:
        return None
    found = OWN_CHANNEL.match(text)
    if not found or int(found[1]) != sheet.expected or spans_of(found[2]) or PHYSICAL.search(found[2]):
        return None
    mode = sheet.mode_for(int(found[1]))
    if mode is None:
        return TOO_MANY
    sheet.table = None
    return sheet.added(mode, int(found[1]), found[2], (), row, "", alone=True)


def exact_row(sheet: Sheet, row: Row) -> Answered | None:
    """A channel or a range whose words are in quotes, as Fence writes it where they look like something else."""
    text = row.text.strip()
    if sheet.current and (levels := EXACT_RANGE.match(text)) and int(levels[1]) <= int(levels[2]) <= 255:
        return take_range(sheet, int(levels[1]), int(levels[2]), levels[3])
    match = EXACT.match(text)
    if not match or not 1 <= int(match[1]) <= 512:
        return None
    mode = sheet.mode_for(int(match[1]))
    if mode is None:
        return TOO_MANY
    if int(match[1]) in mode.slots:
        return Taken.LOST, f"channel {match[1]} is there already"
    channel = sheet.namer.channel(match[3]).channel
    sheet.current = [Slot(replace(channel, name=match[2].replace('""', '"')), row.lines[0])]
    sheet.columns = []
    mode.slots[int(match[1])] = sheet.current[0]
    return Taken.SURE, ""


def take_range(sheet: Sheet, first: int, last: int, words: str) -> Answered:
    """A range whose words are as Fence writes them; in quotes they are taken as they stand."""
    quoted = QUOTED.match(words.strip())
    found = with_physical(Range(first, last, words.strip(" ,;:-|\t") or "no words"))
    if quoted:  # only braces behind it say what it runs from and to
        spanned = with_physical(Range(first, last, "x" + words.strip()[quoted.end() :]))
        found = replace(spanned, meaning=quoted[1].replace('""', '"'))
    return sheet.put_range(found)
