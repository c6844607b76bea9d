"""Tables: what each of their columns holds, and a row of one by its columns."""

from __future__ import annotations

import itertools
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from fence.core.charts.headings import mode_cell
from fence.core.charts.levels import spans_of
from fence.core.charts.notation import as_number
from fence.core.charts.roles import Role, is_head, role_of, roles_of
from fence.core.charts.shape import Cell, Row
from fence.core.charts.vocabulary import tidy_words
from fence.core.charts.words import any_of

MOST_MODES_BESIDE = 16
"""Modes that stand side by side in one table."""
LOOK_AHEAD = 8

TICKS = "✓✔√•●xX✗"
_CHANNELS = any_of("channel", "channels")
_ABBREVIATED = rf"(?:(?:{_CHANNELS})\.?\s?)?"
NOTHING = re.compile(rf"(?:-+|\.|/|{any_of('nothing')}|x|✗|—)?", re.I)
MARK = re.compile(
    rf"(?:{_ABBREVIATED}\d{{1,3}}(?:\s?[-/+]\s?{_ABBREVIATED}\d{{1,3}})?|"
    rf"-+|\.|/|{any_of('nothing')}|[{TICKS}])",
    re.I,
)
"""What can stand in the column of a mode: a number, two of them, a tick, or a sign for none."""
_SEVERAL = re.compile(rf"\s*(?:[-/+&,~→]|\b(?:{any_of('up_to', 'joints')})\b)\s*", re.I)
_SHORT_LABEL = re.compile(r"^[a-z]{1,3}[-.]?(?=\d)", re.I)
_LABEL = re.compile(rf"^(?:dmx\s*)?(?:(?:{any_of('channel', 'channels', 'offset')})\.?|#)\s*\+?", re.I)


@dataclass(frozen=True, slots=True)
class Column:
    """A column: what it holds, the words over it, where it stands; ``mode``: which of the modes it numbers."""

    role: Role | None
    head: str
    start: int
    end: int
    mode: int | None = None


@dataclass(frozen=True, slots=True)
class Table:
    """The columns of a table, the modes that some of them number, and the line of its head.

    ``crosses``: an x says that a mode has the channel, since no number stands below it.
    ``grid``: its head has no places, since single blanks part its words. ``ordered``: rows keep to its columns by their
    order and not by place.
    """

    columns: tuple[Column, ...]
    delimited: bool
    modes: tuple[tuple[str, int | None], ...] = ()
    line: int = 0
    grid: bool = False
    ordered: bool = False
    crosses: bool = False

    def has(self, role: Role) -> bool:
        """Whether a column holds that."""
        return any(column.role is role for column in self.columns)

    @property
    def name_first(self) -> bool:
        """Whether the function stands before the numbers of the modes."""
        first = next((c for c in self.columns if c.mode is not None or c.role is Role.NAME), None)
        return first is not None and first.mode is None

    @property
    def meaning_apart(self) -> bool:
        """Whether what levels mean has a column of its own."""
        return self.has(Role.MEANING)


@dataclass(slots=True)
class Entry:
    """A row of a table by its columns: texts by role, and the numbers of the channel in each mode (None: no marks)."""

    texts: dict[Role, str] = field(default_factory=dict)
    places: list[list[int] | None] = field(default_factory=list)

    def text(self, role: Role) -> str:
        """What the column of that role holds in this row."""
        return self.texts.get(role, "")


def table_of(row: Row, following: Sequence[Row], above: Row | None) -> Table | None:
    """The table whose head a row is; None where it is none. ``following`` are behind it, ``above`` before it."""
    cells = row.filled
    if len(cells) >= 2 and (found := _with_modes(row, following, above)):
        return found
    if len(cells) >= 2 and (is_head([cell.text for cell in cells]) or _nearly_head(row, following)):
        columns = _settled([Column(_role_in(c, row, following), c.text, c.start, c.end) for c in _all(row)])
        held = {column.role for column in columns}
        if held & {Role.CHANNEL, Role.NAME} or held >= {Role.FROM, Role.TO}:
            return Table(tuple(columns), row.delimited, line=row.lines[0], ordered=_ordered(row))
    if len(cells) <= 2 and not row.delimited:
        return _in_words(row, following)
    return None


def _nearly_head(row: Row, following: Sequence[Row]) -> bool:
    """Whether a row is a head although a word or two of it are not known: the numbers of channels stand below it."""
    cells = row.filled
    known = [roles_of(cell.text) for cell in cells]
    unknown = sum(not roles for roles in known)
    if not 1 <= unknown <= max(1, len(cells) // 3) or len(cells) < 3 or re.search(r"\d", row.words):
        return False
    number = next((cell for cell, roles in zip(cells, known, strict=True) if Role.CHANNEL in roles), None)
    if number is None:
        return False
    below = [text for other in following[:LOOK_AHEAD] if (text := _below(number, row, other)) is not None]
    return len([text for text in below if numbers_in(text)]) >= 2


def _role_in(cell: Cell, row: Row, following: Sequence[Row]) -> Role | None:
    """What the column of a head's cell holds; where its word is not known, by what stands below it."""
    role = role_of(cell.text) if cell.text else None
    if role is not None or not cell.text:
        return role
    below = [text for other in following[:LOOK_AHEAD] if (text := _below(cell, row, other)) is not None]
    levels = sum(bool(spans_of(text, value=True)) for text in below)
    return Role.VALUE if below and levels * 2 > len(below) else Role.MEANING if below else None


def told(table: Table, said: Mapping[int, Role]) -> Table:
    """The table with what a person says that its columns hold, by their number from 0; those of modes stay."""
    columns = [
        replace(column, role=said[place]) if place in said and column.mode is None else column
        for place, column in enumerate(table.columns)
    ]
    return replace(table, columns=tuple(columns)) if said else table


def _all(row: Row) -> tuple[Cell, ...]:
    return row.cells if row.delimited else row.filled


def _settled(columns: list[Column]) -> list[Column]:
    """Columns whose heads stand twice: the first one holds it; a name without a head of its own is what is left."""
    result: list[Column] = []
    seen: set[Role] = set()
    for column in columns:
        role = column.role
        if role in seen and role is Role.VALUE:
            role = Role.ASIDE
        elif role in seen:
            role = next((other for other in roles_of(column.head) if other not in seen), Role.MEANING)
        if role is not None:
            seen.add(role)
        result.append(replace(column, role=role))
    if Role.NAME not in seen and Role.MEANING in seen:
        place = next(n for n, column in enumerate(result) if column.role is Role.MEANING)
        result[place] = replace(result[place], role=Role.NAME)
    elif Role.NAME not in seen:
        place = next((n for n, column in enumerate(result) if column.role is None), -1)
        if place >= 0:
            result[place] = replace(result[place], role=Role.NAME)
    if Role.MODE in seen and Role.CHANNEL not in seen:
        result = [
            replace(c, role=Role.NAME if Role.NAME not in seen else None) if c.role is Role.MODE else c for c in result
        ]
    return result


def _with_modes(row: Row, following: Sequence[Row], above: Row | None) -> Table | None:
    """A head that names modes, one a column, by their counts or by words below which numbers, dashes or ticks stand."""
    cells = _all(row)
    named = [mode_cell(cell.text) if cell.text else None for cell in cells]
    known = [roles_of(cell.text) for cell in cells]
    numbered = [n for n, one in enumerate(named) if one is not None]
    has_name = any(Role.NAME in roles or Role.MEANING in roles for roles in known)
    if len(numbered) == 1 and not (
        has_name and all(known[n] for n in range(len(cells)) if n != numbered[0] and cells[n].text)
    ):
        return None
    if len(numbered) < 1:
        numbered = _worded(cells, known)
        if not numbered:
            return None
    elif len(numbered) == 1 and any(Role.CHANNEL in roles for roles in known):
        return None
    others = [n for n in range(len(cells)) if n not in numbered and cells[n].text and not known[n]]
    if len(numbered) > MOST_MODES_BESIDE or len(others) > 2:
        return None
    if not _marked(numbered, cells, row, following):
        return None
    modes: list[tuple[str, int | None]] = []
    columns: list[Column] = []
    for place, cell in enumerate(cells):
        if place in numbered:
            name, declared = named[place] or (cell.text[:40], None)
            name = _named_above(cell, name, above, row)
            columns.append(Column(None, cell.text, cell.start, cell.end, len(modes)))
            modes.append((name, declared))
        else:
            columns.append(Column(role_of(cell.text), cell.text, cell.start, cell.end))
    beside = [column for column in columns if column.mode is None]
    plain = _settled([_named_not_numbered(column, row, following) for column in beside])
    rest = iter(plain)
    columns = [column if column.mode is not None else next(rest) for column in columns]
    if not any(column.role is Role.NAME for column in columns) and not row.delimited:
        columns = [replace(c, role=Role.NAME) if c.role is Role.CHANNEL else c for c in columns]
    if not any(column.role is Role.NAME for column in columns) and columns[0].mode is not None and not row.delimited:
        lead = min(cell.start for cell in cells)
        if lead > 8:
            columns.insert(0, Column(Role.NAME, "", 0, lead - 4))
    crosses = _crossed(numbered, cells, row, following)
    return Table(tuple(columns), row.delimited, tuple(modes), row.lines[0], ordered=_ordered(row), crosses=crosses)


def _crossed(numbered: Sequence[int], cells: Sequence[Cell], row: Row, following: Sequence[Row]) -> bool:
    """Whether the columns of modes are marked with an x and never with a number."""
    below = [text for other in following for n in numbered if (text := _below(cells[n], row, other)) is not None]
    return any(text in ("x", "X") for text in below) and not any(re.search(r"\d", text) for text in below)


def _named_not_numbered(column: Column, row: Row, following: Sequence[Row]) -> Column:
    """A column that says channel and holds their names, where the modes have the numbers."""
    if column.role is not Role.CHANNEL:
        return column
    head = Cell(
        column.head, column.start, column.end, row.cells.index(next(c for c in row.cells if c.start == column.start))
    )
    below = [text for other in following[:LOOK_AHEAD] if (text := _below(head, row, other)) is not None]
    numbers = sum(numbers_in(text) is not None for text in below)
    return column if numbers * 2 > len(below) else replace(column, role=Role.NAME)


def _ordered(row: Row) -> bool:
    """Whether only the least gaps part the words of a head: then cells need not stand below them."""
    return not row.delimited and not any(b.start - a.end > 2 for a, b in itertools.pairwise(row.filled))


def _named_above(cell: Cell, name: str, above: Row | None, row: Row) -> str:
    """The name of a mode with the word that stands over its count in the line before."""
    if above is None or len(above.filled) < 2 or not re.fullmatch(rf"[\W\d_]*(?:{_CHANNELS})?\W*", name, re.I):
        return name
    middle = (cell.start + cell.end) / 2
    if above.delimited and row.delimited:
        near = [other for other in above.filled if other.index == cell.index]
    else:
        near = [other for other in above.filled if other.start - 3 <= middle <= other.end + 3]
    return f"{near[0].text} ({name})"[:60] if len(near) == 1 and near[0].text != name else name


def _worded(cells: Sequence[Cell], known: Sequence[tuple[Role, ...]]) -> list[int]:
    """The cells of a head that name modes by words: those beside the function that no head is known for."""
    place = next((n for n, roles in enumerate(known) if Role.NAME in roles), None)
    if place is None or len(cells) < 3:
        return []
    best: list[int] = []
    for side in (range(place - 1, -1, -1), range(place + 1, len(cells))):
        run = []
        for n in side:
            telling = set(known[n]) - {Role.DEFAULT, Role.MODE, Role.ASIDE}
            if not re.match(r"[^\W\d]", cells[n].text) or telling or len(cells[n].text) > 20:
                break
            run.append(n)
        if len(run) > len(best) and any(not known[n] for n in run):
            best = sorted(run)
    return best if len(best) >= 2 else []


def _marked(numbered: Sequence[int], cells: Sequence[Cell], row: Row, following: Sequence[Row]) -> bool:
    """Whether numbers, dashes or ticks stand below the cells of a head."""
    hits = misses = 0
    for below in following[:LOOK_AHEAD]:
        if not below.filled:
            continue
        for n in numbered:
            text = _below(cells[n], row, below)
            if text is not None:
                hits += bool(MARK.fullmatch(text)) and bool(re.search(rf"[\d{TICKS}]", text))
                misses += not MARK.fullmatch(text)
        run = re.match(rf"^\s*(?:{MARK.pattern}\s+){{{len(numbered)}}}\S", below.text, re.I)
        hits += len(numbered) * (run is not None)
        tail = re.search(rf"(?:\s+{MARK.pattern}){{{len(numbered)}}}\s*$", below.text[-120:], re.I)
        hits += len(numbered) * (tail is not None and len(numbered) > 1)
    return hits >= 2 and hits >= misses


def _below(head: Cell, row: Row, below: Row) -> str | None:
    """What stands below a cell of a head in one of the rows behind it; None for nothing, or for several things."""
    if row.delimited:
        return next((cell.text for cell in below.cells if cell.index == head.index and cell.text), None)
    near = [cell for cell in below.filled if cell.start <= head.end + 1 and cell.end >= head.start - 1]
    return near[0].text if len(near) == 1 else None


def _in_words(row: Row, following: Sequence[Row]) -> Table | None:
    """A head whose words only single blanks part: it has no places, but says what there is."""
    words = row.words.split()
    if not 2 <= len(words) <= 14:
        return None
    pieces: list[str] = []
    for word in words:
        joined = f"{pieces[-1]} {word}" if pieces else ""
        if pieces and re.fullmatch(r"\d{1,3}", pieces[-1]) and mode_cell(joined):
            pieces[-1] = joined
        else:
            pieces.append(word)
    modes = [found for piece in pieces if (found := mode_cell(piece)) is not None]
    rest = [piece for piece in pieces if mode_cell(piece) is None]
    if not all(roles_of(piece) for piece in rest) or not rest or re.search(r"\d", " ".join(rest)):
        return None
    roles = [role_of(piece) for piece in rest]
    if modes:
        marked = [
            below
            for below in following[:LOOK_AHEAD]
            if re.match(rf"^\s*(?:{MARK.pattern}\s+){{{len(modes)}}}\S", below.text, re.I)
            or re.search(rf"(?:\s+{MARK.pattern}){{{len(modes)}}}\s*$", below.text[-120:], re.I)
        ]
        if len(modes) < 2 or not marked:
            return None
        first = next(n for n, piece in enumerate(pieces) if mode_cell(piece))
        columns = [Column(Role.NAME, "", 0, 0)] if first else []
        columns += [Column(None, name, 0, 0, n) for n, (name, _) in enumerate(modes)]
        return Table(tuple(columns), False, tuple(modes), row.lines[0], grid=True)
    if Role.CHANNEL not in roles and roles.count(Role.NAME) + roles.count(Role.VALUE) < 2:
        return None
    columns = [Column(role, piece, 0, 0) for role, piece in zip(roles, rest, strict=True)]
    return Table(tuple(columns), False, line=row.lines[0], grid=True)


def entry_of(table: Table, row: Row) -> Entry | None:
    """A row by the columns of its table; None where it does not keep to them."""
    if table.grid:
        return _loose(table, row) if table.modes else None
    if row.delimited != table.delimited:
        return _loose(table, row) if table.modes else None
    entry = Entry(places=[None] * len(table.modes))
    ordered = table.ordered and (not table.modes or len(row.filled) == len(table.columns))
    if ordered and len(row.filled) > len(table.columns):
        return None
    skipped = len(table.columns) - len(row.filled) if ordered and row.indent and table.has(Role.FROM) else 0
    for cell in row.filled:
        column = table.columns[cell.index + skipped] if ordered else _column_of(table, cell)
        if column is None:
            return None
        if column.mode is not None:
            if not _place(entry, column.mode, cell.text, crosses=table.crosses):
                return _loose(table, row)
        elif column.role is not None:
            held = entry.texts.get(column.role, "")
            entry.texts[column.role] = f"{held}  {cell.text}" if held else cell.text
    return entry if _fits(table, entry) else (_loose(table, row) if table.modes else None)


def _fits(table: Table, entry: Entry) -> bool:
    """Whether the cells of a row hold what their columns do."""
    if table.ordered and not table.modes and table.columns[0].role is Role.CHANNEL and not entry.text(Role.CHANNEL):
        return as_number(entry.text(Role.FROM)) is not None and as_number(entry.text(Role.TO)) is not None
    if table.has(Role.CHANNEL):
        number = entry.text(Role.CHANNEL)
        if number and numbers_in(number) is None:
            return False
    if table.modes and any(place for place in entry.places if place) and not entry.text(Role.NAME):
        return False
    return bool(entry.texts) or any(entry.places)


def numbers_in(text: str) -> list[int] | None:
    """The channel number of a cell, or first and last of several: ``CH4``, ``3/4``, ``1, 2``. None where it is none."""
    text = _SHORT_LABEL.sub("", text.strip())
    words = _SEVERAL.split(_LABEL.sub("", text.strip(" .:)([]")).strip())
    numbers = [as_number(_LABEL.sub("", word).strip(" .:)")) for word in words]
    if not numbers or any(number is None or not 0 <= number <= 512 for number in numbers):
        return None
    found = [number for number in numbers if number is not None]
    if len(found) == 1:
        return found
    fits = found == list(range(found[0], found[0] + len(found))) or (len(found) == 2 and found[0] < found[1])
    return [found[0], found[-1]] if fits else None


def _place(entry: Entry, mode: int, text: str, *, crosses: bool) -> bool:
    """Note the number that stands in the column of a mode; False where it holds something else."""
    if text in TICKS and (text not in "xX✗" or (crosses and text in "xX")):
        entry.places[mode] = []
        return True
    if NOTHING.fullmatch(text):
        entry.places[mode] = None if text == "" else entry.places[mode]
        return True
    numbers = numbers_in(text)
    if numbers is None or not numbers[0]:
        return False
    entry.places[mode] = list(range(numbers[0], numbers[-1] + 1))
    return True


def _column_of(table: Table, cell: Cell) -> Column | None:
    """The column that a cell stands in."""
    if table.delimited:
        return table.columns[cell.index] if cell.index < len(table.columns) else Column(Role.MEANING, "", 0, 0)
    exact = [column for column in table.columns if abs(column.start - cell.start) <= 1]
    if exact:
        return exact[0]
    over = [
        (min(column.end, cell.end) - max(column.start, cell.start), -abs(column.start - cell.start), place)
        for place, column in enumerate(table.columns)
        if column.start < cell.end and cell.start < column.end
    ]
    inside = [column for column in table.columns if column.start - 2 <= cell.start]
    if over:
        chosen = table.columns[max(over)[2]]
        if chosen.start > cell.start + 2 and inside and cell.end - chosen.start < (cell.end - cell.start) / 2:
            return inside[-1]
        return chosen
    return inside[-1] if inside else table.columns[0]


def _loose(table: Table, row: Row) -> Entry | None:
    """A row of a table with modes where the places of its cells do not tell: numbers first, or the function first."""
    count = len(table.modes)
    text = row.words
    if table.name_first:
        pattern = (
            rf"^(?P<name>\S.*?)\s+(?P<marks>(?:{MARK.pattern}\s+){{{count - 1}}}{MARK.pattern})(?:\s+(?P<rest>.*))?$"
        )
    else:
        pattern = rf"^(?P<marks>(?:{MARK.pattern}\s+){{{count}}})(?P<name>\S.*)$"
    found = re.match(pattern, text, re.I)
    if not found or not re.search(r"[^\W\d]", found["name"]):
        return None
    marks = [m[0] for m in MARK.finditer(found["marks"])]
    if len(marks) != count:
        return None
    entry = Entry(places=[None] * count)
    for mode, mark in enumerate(marks):
        if not _place(entry, mode, mark, crosses=table.crosses):
            return None
    if not any(place is not None for place in entry.places):
        return None
    rest = found["rest"] if table.name_first else None
    entry.texts[Role.NAME] = found["name"] + (f"  {rest}" if rest else "")
    return entry


def grid_of(row: Row) -> tuple[str, ...] | None:
    """The colours of a head such as ``Segment  Red  Green  Blue``; None where it is no such head."""
    cells = [cell.text for cell in row.filled]
    if len(cells) < 3 or not re.fullmatch(rf"(?:{any_of('cell')})s?", tidy_words(cells[0]), re.I):
        return None
    return tuple(cells[1:])
