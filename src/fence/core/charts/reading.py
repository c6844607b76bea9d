"""Reading a chart as it can be copied from a manual or a spreadsheet.

First the shape (``shape``), then what each column holds (``tables``), then row by row by the rules of ``rows``: a row
opens a channel only where its number fits the run of numbers, and levels are levels only where they fit those before.
Each line keeps what it was taken for; nothing is dropped unseen, and what is not certain is marked on its own line with
the reason.
"""

from __future__ import annotations

import itertools
import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import replace

from fence.core.charts.draft import Draft, LineReading, TableReading, Taken, finished
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
from fence.core.charts.weighing import BETTER, is_hardly_one, weight_of
from fence.core.model.profile import Function

MOST_CHARACTERS = 200_000
MOST_LINES = 5000
"""Lines that are read; a whole manual is shorter."""
MOST_WORDS = 200
"""Wordings of a person's own that are looked at."""
MOST_ANSWERS = 500
"""Answers of a person about lines that are looked at."""

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
) -> Draft:
    """Read a pasted chart. ``words`` are wordings of the person's own, with what they mean; ``answers`` say of lines
    what they are; ``columns`` what the columns of tables hold, by the table's place and the column's.

    Nonsense gives a draft without channels; every line of the text is in ``lines``.
    """
    given = dict(itertools.islice((answers or {}).items(), MOST_ANSWERS))
    texts = text[:MOST_CHARACTERS].replace("\r\n", "\n").replace("\r", "\n").split("\n")
    namer = Namer(tuple(itertools.islice(words, MOST_WORDS)))
    read_as, rows = _best_way(texts[:MOST_LINES], namer, columns or {})
    sheet = Sheet(rows, namer, columns or {})
    _read(sheet, given)
    hardly = is_hardly_one(sheet)
    if read_as in DOUBTFUL or hardly:
        _doubt(sheet, f"read as {read_as}" if read_as else "hardly a chart")
    modes = tuple(finished(mode) for mode in sheet.kept_modes())
    lines = [_line(number, row, sheet.readings.get(number)) for number, row in enumerate(texts[:MOST_LINES], 1)]
    if beyond := len(texts[MOST_LINES:]):
        said = f"{beyond} more lines are not read. Use {MOST_LINES}"
        lines.append(LineReading(MOST_LINES + 1, texts[MOST_LINES][:LONGEST_LINE], Taken.LOST, said))
    if len(text) > MOST_CHARACTERS:
        said = f"{len(text) - MOST_CHARACTERS} more characters are not read. Use {MOST_CHARACTERS}"
        lines.append(LineReading(len(texts) + 1, "", Taken.LOST, said))
    return Draft(modes, tuple(lines), tuple(_found(table) for table in sheet.tables), read_as, hardly)


def _best_way(texts: Sequence[str], namer: Namer, columns: Mapping[int, Mapping[int, Role]]) -> tuple[str, list[Row]]:
    """The rows of the way in which a text makes the best chart, and what that way is called; as it stands, with no
    name, unless another one is clearly better."""
    best_name, best_rows = "", rows_of(texts)
    others = list(ways_of(texts))
    if not others:
        return best_name, best_rows
    best = _weighed(best_rows, namer, columns) + BETTER
    for name, lines in others:
        rows = [
            replace(row, lines=tuple(sorted({of for line in row.lines for of in lines[line - 1].of})))
            for row in rows_of([line.text for line in lines])
        ]
        weight = _weighed(rows, namer, columns)
        if weight > best:
            best, best_name, best_rows = weight, name, rows
    return best_name, best_rows


def _weighed(rows: list[Row], namer: Namer, columns: Mapping[int, Mapping[int, Role]]) -> float:
    sheet = Sheet(rows, namer, columns)
    _read(sheet, {})
    return weight_of(sheet)


def _doubt(sheet: Sheet, why: str) -> None:
    """Mark all that was sure: it would be something else if the text were not meant so."""
    for line, (taken, note) in sheet.readings.items():
        if taken is Taken.SURE:
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


def _read(sheet: Sheet, answers: Mapping[int, Answer]) -> None:
    """Read all rows of a sheet; its modes and readings hold what came of them."""
    for place, row in enumerate(sheet.rows):
        sheet.place = place
        taken, note = _take(sheet, row, answers)
        for line in row.lines:
            sheet.say(line, taken, note)
        if row.words and taken not in (Taken.LOST, Taken.LEFT, Taken.HEADING):
            sheet.held = None
            sheet.read_to = row.lines[-1] if taken is not Taken.BLANK else sheet.read_to


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
