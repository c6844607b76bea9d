"""Charts of any content, written in any shape, come back as they were written."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from fence.core.charts.reading import read_chart_text
from fence.core.model.profile import Function
from tests.examples import examples

NAMES = {
    "Pan": Function.PAN, "Tilt": Function.TILT, "Master dimmer": Function.DIMMER, "Red": Function.RED,
    "Green": Function.GREEN, "Blue": Function.BLUE, "White": Function.WHITE, "Amber": Function.AMBER,
    "Strobe": Function.SHUTTER, "Colour wheel": Function.COLOUR_WHEEL, "Gobo": Function.GOBO, "Zoom": Function.ZOOM,
    "Prism": Function.PRISM, "Focus": Function.FOCUS, "Programs": Function.PROGRAM, "Fan": Function.FAN,
    "Reset": Function.RESET, "Frost": Function.FROST, "Program speed": Function.FUNCTION_SPEED,
}  # fmt: skip
MEANINGS = [
    "off",
    "open",
    "slow to fast",
    "closed",
    "moss",
    "fern and reed",
    "gobos 1 to 7",
    "no function",
    "auto",
]

Level = tuple[int, int, str]


@dataclass(frozen=True)
class Line:
    """A channel as a manual has it: its name, and its levels (none for a plain 0-255)."""

    name: str
    levels: tuple[Level, ...]


@st.composite
def lines(draw: st.DrawFn) -> Line:
    """A channel with up to five levels that follow each other."""
    name = draw(st.sampled_from(sorted(NAMES)))
    ends = draw(st.lists(st.integers(1, 254), max_size=4, unique=True))
    if not ends:
        return Line(name, ())
    bounds = [0, *(end + 1 for end in sorted(ends)), 256]
    spans = [(first, last - 1) for first, last in pairwise(bounds)]
    return Line(
        name, tuple((first, last, draw(st.sampled_from(MEANINGS))) for first, last in spans)
    )


charts = st.lists(lines(), min_size=2, max_size=14, unique_by=lambda line: line.name)
HEAD = ("Channel", "Function", "Value", "Meaning")


def cells(chart: list[Line]) -> list[list[str]]:
    """The table of a chart: number, function, levels, meaning; further levels in rows of their
    own."""
    rows = []
    for number, line in enumerate(chart, 1):
        levels = line.levels or ((0, 255, ""),)
        for place, (first, last, meaning) in enumerate(levels):
            begin = [str(number), line.name] if place == 0 else ["", ""]
            rows.append([*begin, f"{first}-{last}", meaning])
    return rows


def parted_by(mark: str) -> Callable[[list[Line]], str]:
    return lambda chart: "\n".join(mark.join(row) for row in [list(HEAD), *cells(chart)])


def aligned(chart: list[Line]) -> str:
    rows = [list(HEAD), *cells(chart)]
    wide = [max(len(row[n]) for row in rows) + 3 for n in range(4)]
    return "\n".join(
        "".join(cell.ljust(wide[n]) for n, cell in enumerate(row)).rstrip() for row in rows
    )


def barred(chart: list[Line]) -> str:
    rows = [list(HEAD), ["---"] * 4, *cells(chart)]
    return "\n".join(f"| {' | '.join(row)} |" for row in rows)


def quoted(chart: list[Line]) -> str:
    out = io.StringIO()
    csv.writer(out, quoting=csv.QUOTE_ALL, lineterminator="\n").writerows(
        [list(HEAD), *cells(chart)]
    )
    return out.getvalue().rstrip("\n")


def one_a_line(chart: list[Line]) -> str:
    return "\n".join(cell for row in [list(HEAD), *cells(chart)] for cell in row if cell)


def from_and_to(chart: list[Line]) -> str:
    rows = [["Ch", "Function", "From", "To", "Effect"]]
    rows += [[*row[:2], *row[2].split("-"), row[3]] for row in cells(chart)]
    return "\n".join("\t".join(row) for row in rows)


def levels_first(chart: list[Line]) -> str:
    """The levels before the function, and the meaning behind it with a comma."""
    rows = ["Channel  Value      Function"]
    for number, line in enumerate(chart, 1):
        for place, (first, last, meaning) in enumerate(line.levels or ((0, 255, ""),)):
            words = (
                f"{line.name}, {meaning}"
                if place == 0 and meaning
                else line.name
                if place == 0
                else meaning
            )
            rows.append(f"{number if place == 0 else '':<9}{f'{first}-{last}':<11}{words}")
    return "\n".join(rows)


def labelled(chart: list[Line]) -> str:
    rows = []
    for number, line in enumerate(chart, 1):
        rows.append(f"CH{number} - {line.name}")
        rows += [f"{first:03}..{last:03} {meaning}" for first, last, meaning in line.levels]
    return "\n".join(rows)


def on_one_line(chart: list[Line]) -> str:
    rows = []
    for number, line in enumerate(chart, 1):
        levels = ", ".join(f"{first}-{last} {meaning}" for first, last, meaning in line.levels)
        rows.append(f"{number}. {line.name}: {levels}" if levels else f"{number}. {line.name}")
    return "\n".join(rows)


def german(chart: list[Line]) -> str:
    rows = []
    for number, line in enumerate(chart, 1):
        rows.append(f"Kanal {number} = {line.name}")
        rows += [f"  von {first} bis {last}: {meaning}" for first, last, meaning in line.levels]
    return f"{len(chart)}-Kanal-Modus\n" + "\n".join(rows)


SHAPES = {
    "tabs": parted_by("\t"), "semicolons": parted_by(";"), "aligned": aligned, "bars": barred, "quoted": quoted,
    "one a line": one_a_line, "from and to": from_and_to, "levels first": levels_first, "labelled": labelled,
    "on one line": on_one_line, "German": german,
}  # fmt: skip


@examples(100)
@given(charts, st.sampled_from(sorted(SHAPES)))
def test_a_chart_in_any_shape_is_read_as_it_was_written(chart: list[Line], shape: str) -> None:
    """Functions, their order, and all levels with their meanings; nothing is doubted, and no level
    is a channel."""
    draft = read_chart_text(SHAPES[shape](chart))
    assert len(draft.modes) == 1, SHAPES[shape](chart)
    read = [
        (c.function, tuple((r.first, r.last, r.meaning) for r in c.ranges))
        for c in draft.modes[0].channels
    ]
    assert read == [(NAMES[line.name], line.levels) for line in chart], SHAPES[shape](chart)


@examples(100)
@given(
    st.lists(charts, min_size=2, max_size=4),
    st.sampled_from(["\t", ";", "|", "   "]),
    st.booleans(),
)
def test_modes_in_columns_are_read_as_they_were_written(
    modes: list[list[Line]], mark: str, name_first: bool
) -> None:
    """A function a row, its number in each mode in a column of its own, a dash where a mode lacks
    it."""
    names = sorted({line.name for mode in modes for line in mode})
    places = [
        {line.name: number for number, line in enumerate(sorted(mode, key=lambda one: one.name), 1)}
        for mode in modes
    ]
    head = [f"{len(mode)}ch" for mode in modes]
    rows = [[str(place.get(name, "-")) for place in places] for name in names]
    table = [["Function", *head] if name_first else [*head, "Function"]]
    table += [
        [name, *row] if name_first else [*row, name] for name, row in zip(names, rows, strict=True)
    ]
    if mark.strip():
        text = "\n".join(mark.join(row) for row in table)
    else:
        wide = [max(len(row[n]) for row in table) + 3 for n in range(len(table[0]))]
        text = "\n".join(
            "".join(cell.ljust(wide[n]) for n, cell in enumerate(row)).rstrip() for row in table
        )
    draft = read_chart_text(text)
    read = [[channel.function for channel in mode.channels] for mode in draft.modes]
    assert read == [[NAMES[name] for name in sorted(place)] for place in places], text
