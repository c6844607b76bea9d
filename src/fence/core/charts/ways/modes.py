"""Other ways in which modes may be written: as sums and lists, as a column, as columns with names
or functions."""

from __future__ import annotations

import csv
import re
from collections.abc import Iterator

from fence.core.charts.notation import as_number
from fence.core.charts.roles import Role, role_of
from fence.core.charts.ways.lines import CHANNEL, FEWEST, MOST_CELLS, Line, Lines, blanks
from fence.core.charts.words import any_of

_SUM = re.compile(
    rf"\s*(?:(?:{any_of('mode')})\s*[:\-]?\s*)?(?P<n>\d{{1,3}})(?:\s*-)?\s*{CHANNEL}\b\.?"
    rf"(?:\s*(?:{any_of('mode')}))?"
    r"\s*[=:(]\s*(?P<rest>[^\W\d][^()]*)\)?\s*\.?",
    re.I,
)
_JOINTS = (r"\s*\+\s*", r"\s*[,;]\s*", r"\s*/\s*", r"\s+-\s+|\s*–\s*", r"\s+")
"""What stands between the functions of a sum, or a list."""
_NUMBERED = re.compile(rf"(?:{CHANNEL}\b\.?\s*#?\s*)?(\d{{1,3}})", re.I)
_WORDED = re.compile(rf"^\s*(?:(?:{CHANNEL}\.?\s*\d{{1,3}}|--?|–|—)\s+){{2,}}", re.I)
_LISTED = re.compile(r"\s*(?P<name>[^\s:=](?:[^:=]{0,38}[^\s:=])?)\s*[:=]\s*(?P<rest>\d.*)")
_ITEM = re.compile(r"(?P<n>\d{1,3}(?:\s*[/+&]\s*\d{1,3})*)\s*[.:=)]?\s*(?P<name>[^\d,;].*?)\.?\s*")
_MARK = re.compile(r"\d{1,3}\.?|[-–—/]+|")
"""A number in the column of a mode, or nothing there."""
_NUMBERS = {Role.CHANNEL, Role.VALUE, Role.FROM, Role.TO}
"""Columns of numbers that are none of a mode."""
_COUNT = re.compile(rf"(\d{{1,3}}\s*-?\s*{CHANNEL}\.?)", re.I)


def sums(lines: Lines) -> Lines | None:
    """``4-channel = Red + Green + Blue + White``, ``4CH: D R G B``: a mode on one line, as many as
    it says."""
    result: Lines = []
    changed = False
    for line in lines:
        found = _SUM.fullmatch(line.text)
        ways = [re.split(joint, found["rest"].strip(" .;")) for joint in _JOINTS] if found else []
        parts = next((made for made in ways if found and len(made) == int(found["n"])), [])
        if found is None or not parts or not all(parts):
            result.append(line)
            continue
        changed = True
        result.append(Line(f"{found['n']} channel mode", line.of))
        result += [Line(f"{at}\t{part}", line.of) for at, part in enumerate(parts, 1)]
    return result if changed else None


def mode_column(lines: Lines) -> Lines | None:
    """A table whose first column names the mode of each row: the name stands above its rows
    instead."""
    for at, line in enumerate(lines):
        for mark in ("\t", ";", ","):
            head = _cells(line.text, mark)
            if (
                len(head) >= FEWEST
                and role_of(head[0]) is Role.MODE
                and Role.CHANNEL in map(role_of, head[1:])
            ):
                return [
                    *lines[:at],
                    *_by_mode(lines[at + 1 :], mark, Line("\t".join(head[1:]), line.of)),
                ]
    return None


def _by_mode(lines: Lines, mark: str, head: Line) -> Iterator[Line]:
    held = None
    for line in lines:
        cells = _cells(line.text, mark)
        if len(cells) < 2:
            yield line
            continue
        if cells[0] and cells[0] != held:
            held = cells[0]
            yield Line(held, line.of)
            yield Line(head.text, head.of)
        yield Line("\t".join(cells[1:]), line.of)


def _cells(text: str, mark: str) -> list[str]:
    try:
        return [cell.strip() for cell in next(csv.reader([text], delimiter=mark), [])][:MOST_CELLS]
    except csv.Error:
        return []


def without_the_word(lines: Lines) -> Lines | None:
    """``CH1 CH1 CH2 Pan``: columns of modes that say of each number that it is a channel."""
    result = [Line(_WORDED.sub(_bare, line.text), line.of) for line in lines]
    changed = sum(a.text != b.text for a, b in zip(lines, result, strict=True))
    return result if changed >= FEWEST else None


def _bare(found: re.Match[str]) -> str:
    return re.sub(r"[A-Za-z]+\.?\s*(?=\d)", "", found[0])


def named_modes(lines: Lines) -> Lines | None:
    """Columns of modes that have names and no counts: ``Basic Extended Function``, below it ``1 1
    Pan``."""
    for at, line in enumerate(lines):
        heads = [cell for cell in blanks(line.text) if cell]
        heads = heads if len(heads) > 2 else line.text.split()
        ends = next((n for n, word in enumerate(heads) if role_of(word) is Role.NAME), 0)
        named = not {role_of(word) for word in heads[:ends]} & _NUMBERS
        if ends < 2 or not named or not all(role_of(word) for word in heads[ends:]):
            continue
        rows = [_numbers_first(held.text, ends) for held in lines[at + 1 :]]
        numbers = [row[0] for row in rows if row]
        if len(numbers) < FEWEST:
            continue
        counts = [max((row[n] or 0 for row in numbers), default=0) for n in range(ends)]
        counted = [f"{name} {count}CH" for name, count in zip(heads, counts, strict=False)]
        below = [
            Line("\t".join([*("-" if n is None else str(n) for n in row[0]), *row[1]]), held.of)
            if row
            else held
            for row, held in zip(rows, lines[at + 1 :], strict=True)
        ]
        return [*lines[:at], Line("\t".join([*counted, *heads[ends:]]), line.of), *below]
    return None


def _numbers_first(text: str, many: int) -> tuple[list[int | None], list[str]] | None:
    """A row's numbers in so many modes, None where it has none, and its other cells; None where it
    is no such row."""
    cells = (
        [cell.strip() for cell in text.split("\t")] if "\t" in text else text.split(maxsplit=many)
    )
    first, rest = cells[:many], [cell for cell in cells[many:] if cell]
    if (
        len(first) < many
        or not rest
        or not all(_MARK.fullmatch(cell) for cell in first)
        or not any(first)
    ):
        return None
    return [as_number(cell.rstrip(".")) for cell in first], rest


def across(lines: Lines) -> Lines | None:
    """Channels across and their functions below, a row each mode: ``Channel | 1 | 2``, ``Function |
    Red | Green``."""
    for at, line in enumerate(lines):
        head = [cell.strip("|").strip() for cell in _cells(line.text.strip(" |"), _mark(line.text))]
        found = [_NUMBERED.fullmatch(cell) for cell in head[1:]]
        if (
            len(found) < FEWEST
            or not all(found)
            or [int(one[1]) for one in found if one] != [*range(1, len(head))]
        ):
            continue
        result = lines[:at]
        for held in lines[at + 1 :]:
            cells = [cell.strip() for cell in _cells(held.text.strip(" |"), _mark(line.text))]
            if len(cells) < 2 or not any(re.search(r"[^\W\d]", cell) for cell in cells[1:]):
                result.append(held)
                continue
            if role_of(cells[0]) is None:
                result.append(Line(cells[0], held.of))
            result += [Line(f"{n}\t{cell}", held.of) for n, cell in enumerate(cells[1:], 1) if cell]
        return result
    return None


def _mark(text: str) -> str:
    """What parts the cells of a line."""
    return next((mark for mark in ("\t", "|", ";") if mark in text), ",")


def listed_modes(lines: Lines) -> Lines | None:
    """``16-bit: 1/2 Red, 3/4 Green``: a mode on one line, each channel with its number."""
    result: Lines = []
    changed = False
    for line in lines:
        found = _LISTED.fullmatch(line.text)
        items = (
            [_ITEM.fullmatch(item) for item in re.split(r"\s*[,;]\s*", found["rest"])]
            if found
            else []
        )
        kept = [item for item in items if item is not None]
        numbers = [int(n) for item in kept for n in re.findall(r"\d+", item["n"])]
        if (
            found is None
            or len(kept) != len(items)
            or len(kept) < FEWEST
            or numbers != list(range(1, len(numbers) + 1))
        ):
            result.append(line)
            continue
        changed = True
        result.append(Line(f"{found['name']} mode {len(numbers)} channels", line.of))
        for item in kept:
            for place, n in enumerate(re.findall(r"\d+", item["n"])):
                result.append(Line(f"{n}\t{item['name']}{' fine' if place else ''}", line.of))
    return result if changed else None


def functions_in_columns(lines: Lines) -> Lines | None:
    """``CH 3CH 5CH`` and below it ``1 Red Dimmer``: each column of a mode says what its channels
    do."""
    for at, line in enumerate(lines):
        head = blanks(line.text)
        modes = [found[1] for cell in head[1:] if (found := _COUNT.fullmatch(cell))]
        if len(modes) < 2 or len(modes) != len(head) - 1 or role_of(head[0]) is not Role.CHANNEL:
            continue
        rows = [(held, blanks(held.text)) for held in lines[at + 1 :]]
        rows = [(held, cells) for held, cells in rows if cells and as_number(cells[0]) is not None]
        named = [cell for _, cells in rows for cell in cells[1:] if cell]
        if len(rows) < FEWEST or sum(as_number(cell) is not None for cell in named) * 2 > len(
            named
        ):
            continue
        result = [*lines[:at]]
        for column, name in enumerate(head[1:], 1):
            result.append(Line(name, line.of))
            result += [
                Line(f"{cells[0]}\t{cells[column]}", held.of)
                for held, cells in rows
                if column < len(cells) and cells[column]
            ]
        return result
    return None
