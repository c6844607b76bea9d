"""A channel's words parted: its name, and the levels behind or before it."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace

from fence.core.charts.levels import PHYSICAL, Span, ranged, ranges_of, spans_of, with_physical
from fence.core.charts.naming import Namer
from fence.core.model.profile import Range

_LEADERS = re.compile(r"(?<=[^\W\d])\s*(?:\.\s?){2,}\s*|\s*(?:\.\s?){5,}\s*|(?<=\w)\s*_{2,}\s*")
EDGES = " \t,;:=|.-()[]→>"
SCANNED_LEVELS = "letters among the levels are taken as digits"

Parted = tuple[str, tuple[Range, ...], str]
"""The name of a channel, its levels, and what to doubt about them."""


def parted(namer: Namer, words: str) -> tuple[str, tuple[Range, ...], str]:
    text = _LEADERS.sub("   ", words)
    spans = spans_of(text)
    if spans and (text[: spans[0].start].strip(EDGES) or text[spans[0].end :].strip(EDGES) or len(spans) > 1):
        doubt = SCANNED_LEVELS if any(span.scanned for span in spans) else ""
        name = text[: spans[0].start].strip(EDGES)
        if not re.search(r"[^\W\d]", name):
            return *_levels_then_name(namer, text, spans), doubt
        found = ranges_of(text, spans)
        part = (spans[0].first, spans[0].last) != (0, 255)
        if len(spans) == 1 and part and found[0].meaning == "no words" and "," in name:
            name, _, said = name.rpartition(",")
            found = [ranged(spans[0], said)]
        behind = text[spans[-1].end :].strip(EDGES)
        if len(spans) > 1 and not behind:
            pieces = re.split(r"[:|]|\s{2,}", text[: spans[0].start].strip(EDGES), maxsplit=1)
            name = pieces[0]
        name = _without_remark(namer, re.split(r"\s{2,}", name)[0])
        kept = tuple(r for r in found if (r.first, r.last) != (0, 255) or r.meaning != "no words")
        return name.strip(EDGES), kept, doubt
    if spans:
        name = text[: spans[0].start].strip(EDGES)
        return name, (), ""
    cells = [cell.strip() for cell in re.split(r"\t+|\s*\|\s*|\s{2,}|\s*;\s*", text) if cell.strip()]
    name = cells[0] if cells else ""
    physical = PHYSICAL.search(text)
    if physical and physical.start() > 0 and re.search(r"[^\W\d]", text[: physical.start()]):
        name = text[: physical.start()].strip(EDGES) if len(cells) == 1 else name
        return name.strip(EDGES), (with_physical(Range(0, 255, text[physical.start() : physical.end()])),), ""
    return _without_remark(namer, name), (), ""


def _without_remark(namer: Namer, name: str) -> str:
    """A name without the remark behind a comma or colon, where what stands before says what it is."""
    for mark in (":", ",", " (", " - "):
        head, found, tail = name.partition(mark)
        if not found or not head.strip():
            continue
        whole = namer.channel(name)
        short = namer.channel(head)
        if whole.doubt and not short.doubt and not (mark == "," and len(tail.split()) == 1 and namer.means(tail)):
            if mark == " (" and short.channel.byte is not whole.channel.byte:
                continue
            kept = namer.channel(f"{head} {tail}")
            if (kept.channel.byte, kept.channel.cell) == (short.channel.byte, short.channel.cell):
                return head.strip(EDGES)
    return name.strip(" \t,;:=|-")


def _levels_then_name(namer: Namer, text: str, spans: Sequence[Span]) -> tuple[str, tuple[Range, ...]]:
    """The words behind the levels where those stand first: the function, and what it does at them."""
    found = ranges_of(text, spans)
    cells = re.split(r"\s{2,}|\t", text[spans[0].end : spans[1].start if len(spans) > 1 else len(text)].strip(EDGES))
    name = name_and_meaning(namer, cells[0].strip(EDGES))
    kept = [replace(found[0], meaning=found[0].meaning), *found[1:]]
    if (kept[0].first, kept[0].last) == (0, 255):
        kept = kept[1:]
    elif name != cells[0].strip(EDGES):
        kept[0] = ranged(spans[0], cells[0].partition(",")[2] or cells[0])
    return name, tuple(kept)


def name_and_meaning(namer: Namer, name: str) -> str:
    """The function in the words of a level: what stands before the comma, if that is known."""
    head, comma, _ = name.partition(",")
    known = namer.means(head)
    return head if comma and known is not None and known.sure else name
