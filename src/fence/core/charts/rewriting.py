"""Other ways in which a text may be meant: each gives its lines anew, and says which lines of the
text each of them comes from.

A way that finds nothing of its kind in a text gives nothing. Whether one is right is not decided
here: the readings that come of them are weighed (``weighing``).
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

from fence.core.charts.notation import LONGEST_LINE
from fence.core.charts.ways.cells import and_so_on, cells_each, leaders, name_behind_levels, side_by_side, spread
from fence.core.charts.ways.lines import Line, Lines
from fence.core.charts.ways.modes import (
    across,
    functions_in_columns,
    listed_modes,
    mode_column,
    named_modes,
    sums,
    without_the_word,
)
from fence.core.charts.ways.numbers import (
    bare_fine_bytes,
    both_countings,
    counted_from_zero,
    dashed,
    name_then_number,
    number_in_the_middle,
    number_repeated,
    number_then_name,
    numbers_behind,
    offsets,
    single_levels,
)
from fence.core.charts.ways.signs import hexadecimal, keys, scanned, source, without_blanks

Rewriting = Callable[[Lines], Lines | None]
WAYS: tuple[tuple[str, tuple[Rewriting, ...]], ...] = (
    ("a page as its source", (source,)),
    ("numbers above their functions", (number_then_name,)),
    ("functions above their numbers", (name_then_number,)),
    ("counted from 0", (counted_from_zero,)),
    ("numbers above their functions, counted from 0", (number_then_name, counted_from_zero)),
    ("counted from 0 and from 1", (both_countings,)),
    ("offsets from the start address", (offsets,)),
    ("a list of channels", (dashed,)),
    ("modes as sums", (sums,)),
    ("letters for figures", (scanned,)),
    ("numbers to the base of sixteen", (hexadecimal,)),
    ("a column of modes", (mode_column,)),
    ("columns of channels", (without_the_word,)),
    ("columns of modes with names", (named_modes,)),
    ("columns of channels in modes with names", (without_the_word, named_modes)),
    ("several channels on a line", (spread,)),
    ("modes as lists", (listed_modes,)),
    ("functions in the columns of modes", (functions_in_columns,)),
    ("columns without blanks", (without_blanks,)),
    ("the same for each cell", (cells_each,)),
    ("a number on each row of levels", (number_repeated,)),
    ("numbers in the middle of their levels", (number_in_the_middle,)),
    ("names behind their first levels", (name_behind_levels,)),
    ("numbers alone as fine bytes", (bare_fine_bytes,)),
    ("numbers behind their functions", (numbers_behind,)),
    ("levels of one number each", (single_levels,)),
    ("channels across, functions below", (across,)),
    ("channels beside each other", (side_by_side,)),
    ("keys and values", (keys,)),
    ("levels behind dots", (leaders,)),
    ("going on as it began", (and_so_on,)),
    ("a page as its source, numbers above their functions", (source, number_then_name)),
)
"""Each way by its name, as what is done one after the other."""


def ways_of(texts: Sequence[str]) -> Iterator[tuple[str, Lines]]:
    """The text as every way has it that finds something of its kind in it. Of a line as much is looked at as is read of
    it; only the source of a page may stand on longer ones."""
    whole = [Line(text, (number,)) for number, text in enumerate(texts, 1)]
    cut = _cut(whole)
    for name, steps in WAYS:
        lines: Lines | None = whole if steps[0] is source else cut
        for step in steps:
            lines = step(lines) if lines is not None else None
        if lines is not None:
            yield name, _cut(lines)


def _cut(lines: Lines) -> Lines:
    return [line if len(line.text) <= LONGEST_LINE else Line(line.text[:LONGEST_LINE], line.of) for line in lines]
