"""What a person says of lines and columns while a chart is pasted.

An answer is about the words of a line and not its place: it goes with them when lines are put in
before.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from fence.core.charts.notation import LONGEST_LINE
from fence.core.charts.reading import MOST_ANSWERS, MOST_LINES
from fence.core.charts.roles import Role
from fence.core.charts.rows.answers import Answer

COLUMNS = {str(role): role for role in Role}
ANSWERS = {str(answer): answer for answer in Answer}


@dataclass(frozen=True, slots=True)
class ChartAnswers:
    """Answers by line, and what the columns of the table below a line hold."""

    lines: dict[int, Answer] = field(default_factory=dict)
    columns: dict[int, dict[int, Role]] = field(default_factory=dict)


def said_of(
    text: str,
    lines: Sequence[tuple[str, str, str]],
    columns: Sequence[tuple[str, str, str, str]],
) -> ChartAnswers:
    """The answers of a form for a text: (line, its words, answer), and (line, its words, column,
    what it holds).

    What is no answer, and answers about words that the text no longer has, are left out.
    """
    rows = text.replace("\r\n", "\n").replace("\r", "\n").split("\n")[:MOST_LINES]
    places: dict[str, list[int]] = {}
    for count, row in enumerate(rows, 1):
        places.setdefault(row[:LONGEST_LINE].strip(), []).append(count)
    said = ChartAnswers()
    for line, words, answer in lines[:MOST_ANSWERS]:
        number = _place(places, line, words)
        if number is not None and answer in ANSWERS:
            said.lines[number] = ANSWERS[answer]
    for line, words, column, holds in columns[:MOST_ANSWERS]:
        place = _place(places, line, words)
        if (
            place is not None
            and column.isascii()
            and column.isdigit()
            and len(column) < 4
            and holds in COLUMNS
        ):
            said.columns.setdefault(place, {})[int(column)] = COLUMNS[holds]
    return said


def _place(places: dict[str, list[int]], line: str, words: str) -> int | None:
    """The line that has these words now: the one that was meant, else the only one."""
    now = places.get(words[:LONGEST_LINE].strip(), [])
    if line.isascii() and line.isdigit() and len(line) < 8 and int(line) in now:
        return int(line)
    return now[0] if len(now) == 1 else None
