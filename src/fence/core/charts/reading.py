"""Reading a chart as it can be copied from a manual or a spreadsheet.

First the shape (``shape``), then what each column holds (``tables``), then row by row by the rules of ``rows``: a row
opens a channel only where its number fits the run of numbers, and levels are levels only where they fit those before.
Each line keeps what it was taken for; nothing is dropped unseen, and what is not certain is marked on its own line with
the reason.
"""

from __future__ import annotations

import itertools
import re
from collections import defaultdict
from collections.abc import Callable, Container, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from fence.core.charts.draft import Draft, LineReading, OtherReading, TableReading, Taken, finished
from fence.core.charts.headings import PAGE
from fence.core.charts.naming import Namer
from fence.core.charts.notation import FOOTNOTE, LONGEST_LINE
from fence.core.charts.rewriting import ways_of
from fence.core.charts.roles import Role
from fence.core.charts.rows.answers import Answer, answered
from fence.core.charts.rows.heading import heading
from fence.core.charts.rows.inline import inline, labelled_inside, listed
from fence.core.charts.rows.levels import levels_row, wrapped_row
from fence.core.charts.rows.numbered import behind_row, channel_row, unnumbered_row
from fence.core.charts.rows.own import exact_row, own_row
from fence.core.charts.rows.table import grid_row, table_head, table_row
from fence.core.charts.shape import Row, rows_of
from fence.core.charts.sheet import Answered, Sheet
from fence.core.charts.tables import Table
from fence.core.charts.weighing import BETTER, CLOSE, is_hardly_one, weight_of
from fence.core.model.profile import Function

MOST_CHARACTERS = 200_000
MOST_LINES = 5000
"""Lines that are read; a whole manual is shorter."""
MOST_WORDS = 200
"""Wordings of a person's own that are looked at."""
MOST_ANSWERS = 500
"""Answers of a person about lines that are looked at."""
MOST_OTHERS = 4
"""Other readings that are told of."""

DOUBTFUL = {"letters for figures"}
"""Ways in which what is read stays doubtful, however well it fits."""

RULES: tuple[Callable[[Sheet, Row], Answered | None], ...] = (
    own_row,
    exact_row,
    table_head,
    grid_row,
    labelled_inside,
    listed,
    inline,
    heading,
    table_row,
    channel_row,
    behind_row,
    levels_row,
    unnumbered_row,
    wrapped_row,
)
"""The rules in the order in which they are asked; the first that knows a row decides."""


def read_chart_text(
    text: str,
    *,
    words: Iterable[tuple[str, Function]] = (),
    answers: Mapping[int, Answer] | None = None,
    columns: Mapping[int, Mapping[int, Role]] | None = None,
    way: str | None = None,
) -> Draft:
    """Read a pasted chart. ``words`` are wordings of the person's own, with what they mean; ``answers`` say of lines
    what they are; ``columns`` what the columns of tables hold, by the table's place and the column's; ``way`` how the
    text is meant, where a person says so ("" as it stands; a way that finds nothing in the text is as none).

    Nonsense gives a draft without channels; every line of the text is in ``lines``.
    """
    given = dict(itertools.islice((answers or {}).items(), MOST_ANSWERS))
    texts = text[:MOST_CHARACTERS].replace("\r\n", "\n").replace("\r", "\n").split("\n")
    namer = Namer(tuple(itertools.islice(words, MOST_WORDS)))
    best, *others = _readings(texts[:MOST_LINES], namer, columns or {}, way)
    sheet = _read(best.rows, namer, columns or {}, given) if given else best.sheet
    hardly = is_hardly_one(sheet)
    if hardly:
        _doubt(sheet, "hardly a chart")
    elif best.way != way:
        _doubt_of_ways(best, others, sheet)
    guessed = {line for line, (taken, _) in sheet.readings.items() if taken is Taken.GUESS}
    modes = tuple(finished(mode, guessed) for mode in sheet.kept_modes())
    lines = [_line(number, row, sheet.readings.get(number)) for number, row in enumerate(texts[:MOST_LINES], 1)]
    if beyond := len(texts[MOST_LINES:]):
        said = f"{beyond} more lines are not read. Use {MOST_LINES}"
        lines.append(LineReading(MOST_LINES + 1, texts[MOST_LINES][:LONGEST_LINE], Taken.LOST, said))
    if len(text) > MOST_CHARACTERS:
        said = f"{len(text) - MOST_CHARACTERS} more characters are not read. Use {MOST_CHARACTERS}"
        lines.append(LineReading(len(texts) + 1, "", Taken.LOST, said))
    tables = tuple(_found(table) for table in sheet.tables)
    elsewise = _others_said(best, others)
    return Draft(modes, tuple(lines), tables, best.way, hardly, elsewise)


@dataclass(frozen=True, slots=True)
class _Reading:
    """The text as it is read in one way ("" as it stands), and how good a chart comes of it."""

    way: str
    rows: list[Row]
    sheet: Sheet
    weight: float

    @property
    def made(self) -> tuple[tuple[str, int], ...]:
        """The modes that come of it, with their channels."""
        return tuple((mode.name, max(mode.slots)) for mode in self.sheet.kept_modes())

    def on_lines(self) -> dict[int, set[tuple[object, ...]]]:
        """What each line says of channels."""
        found: dict[int, set[tuple[object, ...]]] = defaultdict(set)
        for place, mode in enumerate(self.sheet.kept_modes()):
            for number, slot in mode.slots.items():
                channel = slot.channel
                found[slot.line].add((place, number, channel.function, channel.byte, channel.cell))
        return found


def _readings(
    texts: Sequence[str], namer: Namer, columns: Mapping[int, Mapping[int, Role]], way: str | None
) -> list[_Reading]:
    """The text in every way in which it may be meant. The first is the one that was asked for; else as it stands,
    unless another one is clearly better. The rest, the better ones first."""
    found = [_weighed("", rows_of(texts), namer, columns)]
    for name, lines in ways_of(texts):
        rows = [
            replace(row, lines=tuple(sorted({of for line in row.lines for of in lines[line - 1].of})))
            for row in rows_of([line.text for line in lines])
        ]
        found.append(_weighed(name, rows, namer, columns))
    first = next((one for one in found if one.way == way), None)
    first = first or max(found, key=lambda one: one.weight + (0 if one.way else BETTER))
    return [first, *sorted((one for one in found if one is not first), key=lambda one: -one.weight)]


def _weighed(way: str, rows: list[Row], namer: Namer, columns: Mapping[int, Mapping[int, Role]]) -> _Reading:
    sheet = _read(rows, namer, columns, {})
    return _Reading(way, rows, sheet, weight_of(sheet))


def _others_said(best: _Reading, others: Sequence[_Reading]) -> tuple[OtherReading, ...]:
    """The other readings that give something else, each of it once; as it stands even where little comes of it."""
    seen, said = [best.on_lines()], []
    for other in others:
        on_lines = other.on_lines()
        worth = not other.way or other.weight >= best.weight / 2
        if worth and other.made and on_lines not in seen:
            seen.append(on_lines)
            said.append(OtherReading(other.way, other.made, best.weight - other.weight))
    return tuple(said[:MOST_OTHERS])


def _doubt_of_ways(best: _Reading, others: Sequence[_Reading], sheet: Sheet) -> None:
    """Mark what would be something else if the text were meant otherwise, where that is nearly as good; and all of what
    needed letters for figures."""
    if best.way in DOUBTFUL:
        _doubt(sheet, f"read as {best.way}")
    mine = best.on_lines()
    for other in others:
        if best.weight - other.weight >= CLOSE:
            break
        differs = [line for line, said in other.on_lines().items() if said - mine.get(line, set())]
        _doubt(sheet, f"it would be something else as {other.way or 'it stands'}", differs)


def _doubt(sheet: Sheet, why: str, lines: Container[int] | None = None) -> None:
    """Mark what was sure, on all lines or on some."""
    for line, (taken, note) in sheet.readings.items():
        if taken is Taken.SURE and (lines is None or line in lines):
            sheet.readings[line] = (Taken.GUESS, f"{note}; {why}" if note else why)


def _found(table: Table) -> TableReading:
    """A table as a person is told of it."""
    holds = [
        table.modes[column.mode][0] if column.mode is not None else str(column.role or "") for column in table.columns
    ]
    return TableReading(table.line, tuple(zip((column.head for column in table.columns), holds, strict=True)))


def _line(number: int, row: str, read: Answered | None) -> LineReading:
    taken, note = read if read is not None and row.strip() else (Taken.BLANK, "")
    if len(row) > LONGEST_LINE:
        rest = f"only its first {LONGEST_LINE} characters are read"
        note = f"{note}; {rest}" if note else rest
    return LineReading(number, row, taken, note)


def _read(
    rows: list[Row], namer: Namer, columns: Mapping[int, Mapping[int, Role]], answers: Mapping[int, Answer]
) -> Sheet:
    """Read all rows; the modes and readings of the sheet hold what came of them."""
    sheet = Sheet(rows, namer, columns)
    for place, row in enumerate(sheet.rows):
        sheet.place = place
        taken, note = _take(sheet, row, answers)
        for line in row.lines:
            sheet.say(line, taken, note)
        if row.words and taken not in (Taken.LOST, Taken.LEFT, Taken.HEADING):
            sheet.held = None
            sheet.read_to = row.lines[-1] if taken is not Taken.BLANK else sheet.read_to
    return sheet


def _take(sheet: Sheet, row: Row, answers: Mapping[int, Answer]) -> Answered:
    if not row.words or not re.search(r"\w", row.words):
        return Taken.BLANK, ""
    if row.words.startswith(FOOTNOTE):
        return Taken.LEFT, "a note"
    answer = next((answers[line] for line in row.lines if line in answers), None)
    if answer is not None and answer is not Answer.RIGHT:
        return answered(sheet, row, answer)
    found = next((found for rule in RULES if (found := rule(sheet, row)) is not None), None)
    if answer is Answer.RIGHT and found is not None and found[0] is Taken.GUESS:
        return Taken.SURE, "right, as you said"
    return found or _kept_for_later(sheet, row)


def _kept_for_later(sheet: Sheet, row: Row) -> Answered:
    """What no rule reads is marked; the next row may take it for its name."""
    if PAGE.search(row.words):
        return Taken.LEFT, "page number or footer"
    if len(row.words) > LONGEST_LINE // 2:
        return Taken.LOST, "not a chart's line"
    sheet.held = row
    return Taken.LOST, "neither a channel nor a range of levels"
