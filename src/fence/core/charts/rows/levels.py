"""Rows that go on with the channel above: further levels, and words that a line was too short for."""

from __future__ import annotations

import re

from fence.core.charts.draft import Taken
from fence.core.charts.levels import Span, ranged, ranges_of, spans_of
from fence.core.charts.notation import as_number
from fence.core.charts.parting import EDGES, SCANNED_LEVELS
from fence.core.charts.rows.own import take_range
from fence.core.charts.shape import Row
from fence.core.charts.sheet import JOINED, Answered, Sheet


def levels_row(sheet: Sheet, row: Row) -> Answered | None:
    """Levels of the channel that is read, one or several on a line."""
    if not sheet.current:
        return None
    text = row.words.lstrip(";|,• \t")
    spans = spans_of(text, expected=sheet.following)
    if not spans:
        alone = as_number(text)
        single = re.match(r"^[\[(]?(\d{1,3})[\])]?\s*[:=]?\s+(\D.*)$", text)
        if (
            single
            and sheet.current[-1].channel.ranges
            and sheet.following <= int(single[1]) <= 255
            and row.indent > sheet.indent
        ):
            return take_range(sheet, int(single[1]), int(single[1]), single[2])
        return (Taken.LOST, "a number alone") if alone is not None and not _indented(sheet, row) else None
    if spans[0].start > 24 and len(spans) == 1:
        return None
    lead = text[: spans[0].start].strip(EDGES)
    ranges = ranges_of(text, spans)
    if lead and len(spans) == 1:
        if len(lead.split()) > 4 or not (row.indent > sheet.indent or _fits_next(sheet, spans[0])):
            return None
        if ranges[0].meaning == "no words":
            ranges = [ranged(spans[0], lead)]
    bare = [r for r in ranges if (r.first, r.last) == (0, 255) and r.meaning == "no words"]
    if len(bare) == len(ranges):
        return Taken.SURE, ""
    scanned = any(span.scanned for span in spans)
    held = sheet.current[-1].channel.ranges
    following = sheet.following
    plausible = (
        _fits_next(sheet, spans[0]) or spans[0].first == 0 or _indented(sheet, row) or spans[0].first > following
    )
    if not plausible and not held:
        return None
    worst: Answered = (Taken.SURE, "")
    for found in ranges:
        taken = sheet.put_range(found)
        if taken[0] is Taken.LOST or worst[0] is Taken.SURE:
            worst = taken
    if worst[0] is Taken.SURE and scanned:
        return Taken.GUESS, SCANNED_LEVELS
    if worst[0] is Taken.SURE and lead and len(spans) == 1:
        return Taken.GUESS, "the words before the levels are taken as their meaning"
    if worst[0] is Taken.SURE and ranges and ranges[0].first > following:
        return Taken.SURE, f"levels {following} to {ranges[0].first - 1} are said nothing of"
    sheet.joinable = True
    return worst


def _indented(sheet: Sheet, row: Row) -> bool:
    return row.indent > sheet.indent


def _fits_next(sheet: Sheet, span: Span) -> bool:
    return span.first == sheet.following


def wrapped_row(sheet: Sheet, row: Row) -> Answered | None:
    """Words that go on from the line above: they stand in by more than the channels do."""
    if not sheet.current or not sheet.joinable or not sheet.close(row) or row.indent < sheet.indent + 4:
        return None
    sheet.join_meaning(row.words)
    return Taken.SURE, JOINED
