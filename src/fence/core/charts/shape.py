"""The shape of a text before any word of it is read: rows and their cells, tables beside each other, cells that stand
one a line as a copy out of a PDF gives them.

A row knows the lines that it comes from, so that each line of the text can be told what it was taken for.
"""

from __future__ import annotations

import csv
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from fence.core.charts.levels import spans_of
from fence.core.charts.notation import LONGEST_LINE, as_number, plain
from fence.core.charts.roles import Role, is_head, role_of, roles_of
from fence.core.charts.words import any_of

MOST_CELLS = 64
"""Cells of a row; what stands behind them stays in the last one."""
MOST_BLOCKS = 4
"""Tables that stand side by side."""
MOST_HEADS = 20
"""Columns of a table that stand one a line."""
MOST_DUMPED = 600
"""Lines that a table of one cell a line may have."""


@dataclass(frozen=True, slots=True)
class Cell:
    """A cell of a row: its text, where it stands in the line, and which of the row's cells it is."""

    text: str
    start: int
    end: int
    index: int


@dataclass(frozen=True)
class Row:
    """A row: the lines that it comes from, its text, and its cells.

    ``delimited``: marks part the cells, so that the index of a cell is its column; else blanks do, and the place is.
    """

    lines: tuple[int, ...]
    text: str
    cells: tuple[Cell, ...]
    delimited: bool = False

    @cached_property
    def words(self) -> str:
        """The row without the blanks around it, and with two for any longer run of them."""
        return _RUNS.sub("  ", self.text.strip())

    @cached_property
    def indent(self) -> int:
        """Blanks before the first word; an empty cell at the front counts as some."""
        return len(self.text) - len(self.text.lstrip())

    @cached_property
    def filled(self) -> tuple[Cell, ...]:
        """The cells that hold something."""
        return tuple(cell for cell in self.cells if cell.text)


OWN_LINE = re.compile(r"\d{1,3} \S|   \d{1,3}-\d{1,3} \S")
_RUNS = re.compile(r"\s{3,}|\t+")
_GAPS = re.compile(r"\t+|\s{2,}")
_MODE_HEAD = (
    rf"(?:(?:{any_of('mode')})\s*)?\d{{1,3}}\s*-?\s*(?:{any_of('channel', 'channels')})\.?|"
    rf"(?:{any_of('mode')})\s*[A-Z0-9]"
)
_RULE = re.compile(r"[\s|:+=_.\-]*")


def rows_of(texts: Sequence[str]) -> list[Row]:
    """The lines as rows, in the order in which they are to be read: of tables side by side the left one first."""
    own = _own(texts)
    lines = [text[:LONGEST_LINE] if kept else plain(text) for text, kept in zip(texts, own, strict=True)]
    marks = ["" if kept else mark for mark, kept in zip(_marks(lines), own, strict=True)]
    rows = [_row(number, line, mark) for number, (line, mark) in enumerate(zip(lines, marks, strict=True), 1)]
    return _dumped(_side_by_side(rows))


def _own(texts: Sequence[str]) -> list[bool]:
    """Which lines are written as Fence writes them, below a line ``Mode: …``: they are taken as they stand."""
    result, inside = [], False
    for text in texts:
        inside = text.startswith("Mode: ") or (inside and OWN_LINE.match(text) is not None)
        result.append(inside)
    return result


def _marks(lines: list[str]) -> list[str]:
    """What parts the cells of each line: a tab, a bar, a semicolon, a comma, a comma with quotes, or blanks ("")."""
    marks = [_own_mark(line) for line in lines]
    for mark, least in ((";", 1), (",", 2)):
        counts = [line.count(mark) if not own else 0 for line, own in zip(lines, marks, strict=True)]
        run: list[int] = []
        for place in range(len(lines) + 1):
            count = counts[place] if place < len(lines) else 0
            if run and count != counts[run[0]]:
                if _is_run(mark, least, [lines[n] for n in run]):
                    for n in run:
                        marks[n] = mark
                run = []
            if count >= least:
                run.append(place)
    return marks


def _is_run(mark: str, least: int, lines: list[str]) -> bool:
    """Whether lines with one number of marks are rows of a table and not sentences."""
    count = lines[0].count(mark)
    if len(lines) < (2 if count > 1 else 3) or count < least:
        return False
    if len(lines) > 2 and count > 1 and not any(f"{mark} " in line for line in lines):
        return True
    if mark == ",":
        return all(", " not in line for line in lines)
    return any(is_head([cell.strip() for cell in line.split(mark)]) or line.startswith(mark) for line in lines) or (
        len(lines) >= 3 and all(as_number(line.split(mark)[0].strip()) is not None for line in lines[1:])
    )


def _own_mark(line: str) -> str:
    stripped = line.strip()
    if "\t" in stripped or line.startswith("\t"):
        return "\t"
    if stripped.startswith('"') and re.search(r'"[,;]', stripped):
        return '"'
    if stripped.startswith("|") or stripped.count("|") >= 2:
        return "|"
    return ""


def _row(number: int, line: str, mark: str) -> Row:
    if mark == "|" and _RULE.fullmatch(line):
        return Row((number,), "", ())
    if not mark:
        return _blank_row((number,), line)
    if mark == '"':
        parts = _quoted(line.strip())
    elif mark == "|":
        inner = line.rstrip()
        parts = inner.removeprefix("|").removesuffix("|").split("|", MOST_CELLS)
    else:
        parts = line.split(mark, MOST_CELLS)
    return delimited_row((number,), [re.sub(r"^[*_`\s]+|[*_`\s]+$", "", part) for part in parts])


def _quoted(line: str) -> list[str]:
    mark = ";" if line.count('";') > line.count('",') else ","
    try:
        return next(csv.reader([line], delimiter=mark))[:MOST_CELLS]
    except (csv.Error, StopIteration):
        return [line]


def delimited_row(lines: tuple[int, ...], parts: Sequence[str]) -> Row:
    """A row of cells that marks part: the index of a cell is its column."""
    cells: list[Cell] = []
    place = 0
    for index, part in enumerate(parts):
        text = part.strip()
        cells.append(Cell(text, place, place + len(text), index))
        place += len(text) + 2
    text = "  ".join(cell.text for cell in cells if cell.text)
    lead = "    " if cells and not cells[0].text and text else ""
    return Row(lines, lead + text, tuple(cells), delimited=True)


def _blank_row(lines: tuple[int, ...], line: str) -> Row:
    cells: list[Cell] = []
    place = 0
    for part in [*_GAPS.finditer(line), None]:
        end = part.start() if part else len(line)
        text = line[place:end]
        if text.strip() and len(cells) < MOST_CELLS:
            start = place + len(text) - len(text.lstrip())
            cells.append(Cell(text.strip(), start, start + len(text.strip()), len(cells)))
        place = part.end() if part else end
    return Row(lines, line.rstrip(), tuple(cells))


def _half(row: Row, first: Callable[[Cell], bool]) -> Row:
    """The cells of a row that belong to one of the tables side by side."""
    cells = [cell for cell in row.cells if first(cell)]
    if row.delimited:
        return delimited_row(row.lines, [cell.text for cell in cells])
    if not cells:
        return Row(row.lines, "", ())
    kept = [replace(cell, index=place) for place, cell in enumerate(cells)]
    return Row(row.lines, row.text[: cells[-1].end][cells[0].start :].rjust(cells[-1].end), tuple(kept))


def _repeats(row: Row) -> list[int]:
    """Which cells of a head begin a table of their own: the roles of its columns come twice or more."""
    roles = [roles_of(cell.text) for cell in row.filled]
    size = len(roles)
    for blocks in range(2, MOST_BLOCKS + 1):
        each = size // blocks
        if size % blocks or each < 2 or not all(roles):
            continue
        if all(roles[place] == roles[place % each] for place in range(size)) and Role.CHANNEL in roles[0]:
            return [row.filled[each * block].index for block in range(blocks)]
    return []


def _side_by_side(rows: list[Row]) -> list[Row]:
    """The rows with tables that stand side by side one below the other."""
    result: list[Row] = []
    place = 0
    while place < len(rows):
        starts = _repeats(rows[place])
        if not starts:
            result.append(rows[place])
            place += 1
            continue
        end = place + 1
        while end < len(rows) and (rows[end].filled or (end + 1 < len(rows) and _goes_on(rows[place], rows[end + 1]))):
            end += 1
        above: list[Row] = []
        while result and len(above) < 2 and len(result[-1].filled) in (0, len(starts)):
            above.insert(0, result.pop())
            if above[0].filled:
                break
        if not (above and above[0].filled):
            result += above
            above = []
        head = rows[place]
        begins = [next(cell for cell in head.cells if cell.index == start) for start in starts]
        for number, begin in enumerate(begins):
            until = begins[number + 1] if number + 1 < len(begins) else None
            for row in above:
                if row.filled:
                    named = row.filled[number]
                    result.append(Row(row.lines, named.text, (replace(named, start=0, end=len(named.text), index=0),)))
            result += [_half(row, _between(row, begin, until)) for row in rows[place:end]]
        place = end
    return result


def _between(row: Row, begin: Cell, until: Cell | None) -> Callable[[Cell], bool]:
    if row.delimited:
        return lambda cell: begin.index <= cell.index and (until is None or cell.index < until.index)
    low = begin.start - 2 if begin.index else -1
    return lambda cell: low <= cell.start and (until is None or cell.start < until.start - 2)


def _goes_on(head: Row, row: Row) -> bool:
    """Whether a row behind an empty line still belongs to tables side by side."""
    return len(row.filled) >= 2 and as_number(row.filled[0].text) is not None and len(row.filled) % 2 == 0


# A table that was copied with one cell a line: its head first, then its cells, or one column behind the other.


def _dumped(rows: list[Row]) -> list[Row]:
    """The rows with tables of one cell a line put together."""
    result: list[Row] = []
    place = 0
    while place < len(rows):
        heads = _heads_from(rows, place)
        made = _columns(rows, place) or (_cycles(rows, place, heads) if len(heads) >= 2 else None)
        if made is None:
            result.append(rows[place])
            place += 1
        else:
            found, place = made
            result += found
    return result


def _heads_from(rows: list[Row], place: int) -> list[Row]:
    """The heads of columns that stand one a line from here on, counts of modes among them."""
    heads: list[Row] = []
    while place + len(heads) < len(rows) and len(heads) < MOST_HEADS:
        row = rows[place + len(heads)]
        if len(row.filled) != 1 or not (role_of(row.words) or _is_mode_head(row.words)) or len(row.words) > 24:
            break
        heads.append(row)
    marks = [_is_mode_head(row.words) for row in heads]
    if sum(marks) == 1:  # one count alone is the name of the mode above the table
        heads = heads[marks.index(True) + 1 :] if marks[0] else []
        return [] if marks[0] else heads
    return heads if any(role_of(row.words) is Role.CHANNEL for row in heads) or sum(marks) >= 2 else []


def _is_mode_head(words: str) -> bool:
    return re.fullmatch(_MODE_HEAD, words, re.I) is not None


def _body(rows: list[Row], place: int) -> int:
    """Where the lines of one cell each end."""
    end = place
    while end < len(rows) and end - place < MOST_DUMPED and len(rows[end].filled) == 1 and len(rows[end].words) <= 60:
        end += 1
    return end


def _columns(rows: list[Row], place: int) -> tuple[list[Row], int] | None:
    """A table copied column after column: ``Channel``, 1, 2, 3, then ``Function`` and as many names."""
    if role_of(rows[place].words) is not Role.CHANNEL:
        return None
    columns: list[list[Row]] = []
    end = _body(rows, place)
    at = place
    while at < end and role_of(rows[at].words):
        column = [rows[at]]
        at += 1
        while at < end and not (role_of(rows[at].words) and len(column) > 1):
            if columns and len(column) == len(columns[0]):
                break
            column.append(rows[at])
            at += 1
        columns.append(column)
    if len(columns) < 2 or len(columns[0]) < 3:
        return None
    numbers = [as_number(row.words) for row in columns[0][1:]]
    if numbers != list(range(1, len(numbers) + 1)):
        return None
    full = [column for column in columns if len(column) == len(columns[0])]
    if len(full) < 2:
        return None
    table = [
        delimited_row(tuple(line for column in full for line in column[n].lines), [column[n].words for column in full])
        for n in range(len(full[0]))
    ]
    left = [row for column in columns if column not in full for row in column]
    return table + left, at


def _cycles(rows: list[Row], place: int, heads: list[Row]) -> tuple[list[Row], int] | None:
    """A table copied row after row: its cells behind each other, always in the order of its heads."""
    begin = place + len(heads)
    end = next((n for n in range(begin, _body(rows, place)) if _opens_again(rows[n], heads)), _body(rows, place))
    roles = [None if _is_mode_head(row.words) else role_of(row.words) for row in heads]
    head = delimited_row(tuple(line for row in heads for line in row.lines), [row.words for row in heads])
    cells = rows[begin:end]
    if roles.count(None) >= 2 or Role.CHANNEL not in roles:
        size = len(heads)
        made = []
        marks = [n for n, role in enumerate(roles) if role is None]
        for start in range(0, len(cells) - size + 1, size):
            group = cells[start : start + size]
            if not all(re.fullmatch(r"[-.x✓]|\d{1,3}", group[n].words) for n in marks):
                break
            made.append(_joined(group, [row.words for row in group]))
        return ([head, *made], begin + size * len(made)) if len(made) >= 2 else None
    return _records(head, roles, cells, begin)


def _opens_again(row: Row, heads: list[Row]) -> bool:
    """Whether a further table begins: by its first head once more, or by the name of a mode."""
    return row.words == heads[0].words or (_is_mode_head(row.words) and not row.words.isdigit())


def _joined(rows: Sequence[Row], parts: Sequence[str]) -> Row:
    return delimited_row(tuple(line for row in rows for line in row.lines), parts)


def _records(head: Row, roles: Sequence[Role | None], cells: list[Row], begin: int) -> tuple[list[Row], int] | None:
    """Rows that begin with the number of the channel; levels open a further row where theirs is filled."""
    if roles[0] is not Role.CHANNEL or not cells or as_number(cells[0].words) != 1:
        return None
    made: list[Row] = []
    parts: list[str] = [""] * len(roles)
    held: list[Row] = []
    at, expected, used = 0, 1, 0

    def close() -> None:
        if held:
            made.append(_joined(tuple(held), list(parts)))

    for cell in cells:
        number = as_number(cell.words)
        spans = spans_of(cell.words, value=True)
        level = bool(spans) and spans[0].start == 0 and spans[0].end == len(cell.words)
        if number == expected and not (level and spans and at and roles[at - 1] is Role.CHANNEL):
            close()
            parts, held, at = [cell.words, *[""] * (len(roles) - 1)], [cell], 1
            expected += 1
        else:
            place = _free_column(roles, parts, at, level, further=not parts[0])
            if place is None and level:
                close()
                parts, held = [""] * len(roles), []
                place = _free_column(roles, parts, 1, True, further=True)
            if place is None:
                place = next((n for n in range(len(roles) - 1, 0, -1) if parts[n]), len(roles) - 1)
            parts[place] = f"{parts[place]} {cell.words}".strip()
            held.append(cell)
            at = place + 1
        used += 1
    close()
    return ([head, *made], begin + used) if expected > 2 else None


def _free_column(
    roles: Sequence[Role | None], parts: Sequence[str], at: int, level: bool, *, further: bool
) -> int | None:
    """The next column that a cell fits: levels below levels, words below words; those of further levels say what they
    mean where a column is for that."""
    if further and not level and Role.MEANING in roles and not parts[roles.index(Role.MEANING)]:
        return roles.index(Role.MEANING)
    for place in range(at, len(roles)):
        if parts[place]:
            continue
        if level == (roles[place] in (Role.VALUE, Role.FROM, Role.TO, Role.DEFAULT)):
            return place
        if level and roles[place] is Role.MEANING:
            return place
    return None
