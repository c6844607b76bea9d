"""Rows that hold several channels: a list behind a count, numbers and names in turn, a sentence."""

from __future__ import annotations

import re

from fence.core.charts.draft import Building
from fence.core.charts.headings import Heading, counts_in, heading_of
from fence.core.charts.rows.opening import LABEL
from fence.core.charts.shape import Row
from fence.core.charts.sheet import TOO_MANY, Answered, Sheet
from fence.core.charts.words import any_of

INSIDE = re.compile(
    rf"(?:^|[\s,;(])(?:{LABEL})\s*#?(\d{{1,3}})\s*"
    rf"(?:[:=)-]|(?:{any_of('verbs')})\b)?\s*",
    re.I,
)
INLINE = re.compile(r"(?:^|[\s,;|])(\d{1,3})[\s.:=)-]+(?=[^\W\d])")


def listed(sheet: Sheet, row: Row) -> Answered | None:
    """A mode and its channels on one line: ``5CH: Dimmer, Red, Green, Blue, Strobe``."""
    match = re.match(r"^([^:=]{1,40})[:=]\s*(\S.*)$", row.words)
    counts = counts_in(match[1]) if match else []
    names = [name.strip(" .") for name in re.split(r"[,;/]|\s-\s", match[2])] if match else []
    if match is None or len(counts) != 1 or len(names) != counts[0] or len(names) < 2:
        return None
    if not sheet.open(Building(match[1].strip()[:60], len(names), firm=True)):
        return TOO_MANY
    sheet.pending, sheet.columns, sheet.current = None, [], []
    return sheet.all_added(names, row)


def inline(sheet: Sheet, row: Row) -> Answered | None:
    """Channels one behind the other on a line: ``1 Red 2 Green 3 Blue``."""
    pieces = INLINE.split(row.words)
    numbers, names = [int(word) for word in pieces[1::2]], [name.strip(" ,;.|") for name in pieces[2::2]]
    first = sheet.expected
    if len(numbers) < 3 or pieces[0].strip() or numbers != list(range(first, first + len(numbers))):
        return None
    if not all(sheet.namer.knows(name) for name in names):
        return None
    if sheet.mode_for(first) is None:
        return TOO_MANY
    return sheet.all_added(names, row)


def labelled_inside(sheet: Sheet, row: Row) -> Answered | None:
    """Channels in a sentence: ``channel 1 is red, channel 2 is green``."""
    marks = list(INSIDE.finditer(row.words))
    numbers = [int(mark[1]) for mark in marks]
    start = sheet.expected
    if heading_of(row.words) is not None and row.words[: marks[0].start()].strip() if marks else False:
        start = 1
    alone = len(numbers) == 1 and start == 1 and counts_in(row.words[: marks[0].start()]) == (1,)
    if (len(numbers) < 2 and not alone) or numbers != list(range(start, start + len(numbers))):
        return None
    ends = [*(mark.start() for mark in marks[1:]), len(row.words)]
    names = [row.words[mark.end() : end] for mark, end in zip(marks, ends, strict=True)]
    names = [re.sub(r"\s*\(.*$", "", name) for name in names]
    names = [re.sub(rf"(?:,|;|\b(?:{any_of('joints')}))\s*$", "", name.strip(" .")).strip(" ,;.") for name in names]
    if not all(sheet.namer.knows(name) for name in names):
        return None
    lead = heading_of(row.words[: marks[0].start()].strip(" ,:;")) if marks[0].start() else None
    if lead is not None:
        sheet.pending = Heading(f"{lead.declared} channel" if lead.declared else lead.name, lead.declared, True)
    if sheet.mode_for(start) is None:
        return TOO_MANY
    return sheet.all_added(names, row)
