"""What a person says that a line is; the rest is read with that."""

from __future__ import annotations

from enum import StrEnum

from fence.core.charts.draft import Taken
from fence.core.charts.levels import ranges_of, spans_of
from fence.core.charts.rows.opening import opener_of
from fence.core.charts.shape import Row
from fence.core.charts.sheet import JOINED, TOO_MANY, Answered, Sheet


class Answer(StrEnum):
    """What a person says that a line is."""

    RIGHT = "right"
    CHANNEL = "channel"
    LEVELS = "levels"
    ABOVE = "above"
    LEAVE = "leave out"


def answered(sheet: Sheet, row: Row, answer: Answer) -> Answered:
    """A line as the person says that it is; ``RIGHT`` is not asked here, since it changes nothing."""
    if answer is Answer.LEAVE:
        return Taken.LEFT, "left out, as you said"
    if answer is Answer.ABOVE:
        if not sheet.current:
            return Taken.LOST, "there is no channel above that it could belong to"
        if sheet.current[-1].channel.ranges:
            sheet.join_meaning(row.words)
        else:
            sheet.join_name(row.words)
        return Taken.SURE, f"{JOINED}, as you said"
    if answer is Answer.LEVELS:
        spans = spans_of(row.words, value=True, expected=sheet.following) or spans_of(row.words, value=True)
        if not spans or not sheet.current:
            return Taken.LOST, "no levels are in it" if sheet.current else "there is no channel above for its levels"
        taken, note = sheet.more_levels(tuple(ranges_of(row.words, spans)))
        return taken, note or "levels, as you said"
    opener = opener_of(sheet, row)
    first = opener.first if opener and opener.first >= 1 else sheet.expected
    mode = sheet.mode_for(first)
    if mode is None:
        return TOO_MANY
    offset = first if first not in mode.slots else max(mode.slots) + 1
    rest = opener.rest if opener and first == opener.first else row.words
    name, ranges, _ = sheet.split(rest)
    sheet.columns = []
    taken, note = sheet.added(mode, min(offset, 512), name, ranges, row, "")
    return taken, note or "a channel, as you said"
