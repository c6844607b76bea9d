"""Ways in which one line says several things: many channels, the same for each cell, levels before
the name."""

from __future__ import annotations

import re

from fence.core.charts.notation import as_number
from fence.core.charts.ways.lines import FEWEST, LEVELS, Line, Lines, blanks
from fence.core.charts.words import any_of

MOST_CHANNELS = 512
_SPREAD = re.compile(
    r"\s*(?P<a>\d{1,3})\s*[-–~]\s*(?P<b>\d{1,3})\s*[:.]?\s+(?P<rest>\S+(?:[\s,;/]+\S+)+)\s*"
)
_EACH = re.compile(
    rf"\s*(?P<a>\d{{1,3}})\s*[-–~]\s*(?P<b>\d{{1,3}})\s*[:.=]?\s+(?:{any_of('cell')})s?\.?\s*"
    r"(?P<c>\d{1,3})\s*"
    rf"(?:[-–~]|{any_of('up_to')})\s*(?P<d>\d{{1,3}})\s*[,:;]?\s*(?P<names>.*?)\s*"
    rf"(?:\b(?:{any_of('each')})\b)?\s*",
    re.I,
)
AND_SO_ON = (
    rf"(?:\.{{2,}}|…|⋮|:|\||(?:{any_of('and_so_on')})\b\.?(?:\s*(?:{any_of('up_to_this')}))?)"
)
_SO_ON = re.compile(rf"\s*{AND_SO_ON}\s*", re.I)
_NAMES = re.compile(rf"\s*(?:[,;/+&]|\b(?:{any_of('joints')})\b)\s*")
_BESIDE = re.compile(r"(?:\s{2,}|\t+)(?=\d{1,3}[\s.:)=]+[^\W\d])")
_OPENED = re.compile(r"\d{1,3}[\s.:)=]+[^\W\d]")
_LEADERS = re.compile(r"\s*\.{4,}\s*|\s+\.{3,}\s+")
_WORDS_FIRST = re.compile(r"^(\s*)([^\d\s][^\t]*)\t(\d{1,3}\s*[-–]\s*\d{1,3})\s*$")
_CELL_ROW = re.compile(r"\s*(?P<n>\d{1,3})[\s.:)=-]+(?P<name>\S.*?)[\s_.#-]*(?P<cell>\d{1,3})\s*")
"""A channel whose name ends in the number of its cell."""


def spread(lines: Lines) -> Lines | None:
    """``3-5 R1 G1 B1``: as many functions as channels on one line, each on a line of its own."""
    result: Lines = []
    changed = False
    for line in lines:
        found = _SPREAD.fullmatch(line.text)
        first, last = (int(found["a"]), int(found["b"])) if found else (0, 0)
        parts = re.split(r"\s*[,;/]\s*|\s+", found["rest"].strip()) if found else []
        if (
            last <= first
            or len(parts) != last - first + 1
            or not any(part.isalnum() for part in parts)
        ):
            result.append(line)
            continue
        changed = True
        result += [Line(f"{first + at}\t{part}", line.of) for at, part in enumerate(parts)]
    return result if changed else None


def cells_each(lines: Lines) -> Lines | None:
    """``11-34 pixel 1 to 8, red, green, blue each``: the same functions for each of some cells."""
    result: Lines = []
    changed = False
    for line in lines:
        found = _EACH.fullmatch(line.text)
        names = _NAMES.split(found["names"]) if found else []
        names = [name for name in names if name]
        first, last = (int(found["a"]), int(found["b"])) if found else (0, 0)
        low, high = (int(found["c"]), int(found["d"])) if found else (0, 0)
        if not names or (high - low + 1) * len(names) != last - first + 1 or last <= first:
            result.append(line)
            continue
        changed = True
        number = first
        for cell in range(low, high + 1):
            for name in names:
                result.append(Line(f"{number}\tcell {cell} {name}", line.of))
                number += 1
    return result if changed else None


def and_so_on(lines: Lines) -> Lines | None:
    """Cells that are left out, between the first ones and the last: they go on as they began."""
    for at, line in enumerate(lines):
        if at < 2 or at + 1 >= len(lines) or not _SO_ON.fullmatch(line.text):
            continue
        run = [found for held in lines[:at] if (found := _CELL_ROW.fullmatch(held.text))]
        last = _CELL_ROW.fullmatch(lines[at + 1].text)
        if last is None or len(run) < 2:
            continue
        cell, number = int(run[-1]["cell"]), int(run[-1]["n"])
        group = [row for row in run if int(row["cell"]) == cell]
        many = (int(last["cell"]) - cell) * len(group)
        goal = (int(last["n"]), last["name"].casefold())
        made = [
            (number + 1 + step, group[step % len(group)]["name"], cell + 1 + step // len(group))
            for step in range(min(many, MOST_CHANNELS))
        ]
        place = next((n for n, row in enumerate(made) if (row[0], row[1].casefold()) == goal), None)
        if place is None or made[place][2] != int(last["cell"]):
            continue
        added = [Line(f"{n}\t{name} {of}", line.of) for n, name, of in made[:place]]
        return [*lines[:at], *added, *lines[at + 1 :]]
    return None


def name_behind_levels(lines: Lines) -> Lines | None:
    """The first levels and their meaning before the name of their channel: ``1 | 0-10 closed |
    Shutter``."""
    result: Lines = []
    changed = False
    for line in lines:
        cells = blanks(line.text)
        levels = (
            LEVELS.match(cells[1]) if len(cells) == 3 and as_number(cells[0]) is not None else None
        )
        if (
            levels is None
            or levels.end() == len(cells[1])
            or LEVELS.match(cells[2])
            or not cells[2]
        ):
            result.append(line)
            continue
        changed = True
        result += [Line(f"{cells[0]}\t{cells[2]}", line.of), Line(f"\t{cells[1]}", line.of)]
    return result if changed else None


def side_by_side(lines: Lines) -> Lines | None:
    """Channels beside each other: ``1 Dimmer     4 Blue``; those on the right come after those on
    the left."""
    columns: list[Lines] = []
    changed = 0
    for line in lines:
        parts = [part for part in _BESIDE.split(line.text.strip()) if part]
        if len(parts) < 2 or not all(_OPENED.match(part) for part in parts):
            parts = [line.text]
        changed += len(parts) > 1
        for column, part in enumerate(parts):
            while len(columns) <= column:
                columns.append([])
            columns[column].append(Line(part, line.of))
    return [line for column in columns for line in column] if changed >= FEWEST else None


def leaders(lines: Lines) -> Lines | None:
    """Dots that lead the eye from words to their levels: ``Open ........ 0 - 7``."""
    result = [Line(_LEADERS.sub("\t", line.text), line.of) for line in lines]
    swapped = [Line(_WORDS_FIRST.sub(r"\1\3 \2", line.text), line.of) for line in result]
    return swapped if any(a.text != b.text for a, b in zip(lines, result, strict=True)) else None
