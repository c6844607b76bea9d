"""Labels for fixtures, and sheets for a position, as PDF: made here, with no network.

A label has the number, the name, universe and address, the mode, the switches, the position, the
plan's revision, and a code that opens the fixture's card.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence

import segno

from fence.core.model.errors import EditError
from fence.core.model.text import counted
from fence.formats.on_paper import Heading, Label, Stickers, TickLine
from fence.formats.paper import MARGIN, TEXT, Paper, clean, draw_switches

QUIET = 2
"""Modules left blank around a code. Four are the rule; the label's own edge gives the rest."""
DARK = re.compile(b"\x01+")
"""Dark modules side by side."""
CHEQUERED = 0
"""The mask over every code. Each of the eight can be read; to weigh them takes four fifths of the
time of a sheet of labels."""


def labels_pdf(heading: Heading, labels: Sequence[Label], on: Stickers, *, first: int = 1) -> bytes:
    """The labels on sheets of stickers, beginning at the ``first`` sticker, for a sheet that is
    used in part.

    Raises ``EditError`` where there is no such sticker.
    """
    if not 1 <= first <= on.each:
        raise EditError(f"Sticker {first} is not on this sheet. Use 1 to {on.each}.")
    paper = _bare(heading)
    for place, label in enumerate(labels, first - 1):
        if place % on.each == 0 or not paper.pages_count:
            paper.add_page()
        row, column = divmod(place % on.each, on.columns)
        left = on.left + column * (on.width + on.across)
        top = on.top + row * (on.height + on.down)
        _label(paper, label, left, top, on)
    if not labels:
        paper.add_page()
    return bytes(paper.output())


class _Bare(Paper):
    """Paper without a heading: stickers leave no room for one."""

    def header(self) -> None:
        """Nothing."""

    def footer(self) -> None:
        """Nothing."""


def _bare(heading: Heading) -> Paper:
    return _Bare(heading, landscape=False)


def _label(paper: Paper, label: Label, left: float, top: float, on: Stickers) -> None:
    """One label: the code on the right, the address largest, everything cut to the sticker."""
    edge = 2.0 if on.height < 30 else 2.8
    size = min(on.height - 2 * edge, on.width * 0.34, 34.0)
    _code(paper, label.code, left + on.width - edge - size, top + edge, size)
    x, y, width = left + edge, top + edge, on.width - 2 * edge - size - 1.5
    big = min(on.height * 0.62, 30.0)
    while big > 9:
        paper.set_font("Mono", "", big)
        if paper.get_string_width(clean(label.address)) <= width:
            break
        big -= 0.5
    name_size = min(max(on.height * 0.3, 8.5), 18.0)
    y = _line(
        paper,
        x,
        y,
        width,
        " ".join(filter(None, (label.number, label.name))),
        "Next",
        "B",
        name_size,
    )
    y = _line(paper, x, y, width, label.address, "Mono", "", big)
    small = min(max(on.height * 0.2, 6.2), 12.0)
    for words in (
        f"{label.mode}, {label.kind}",
        " · ".join(filter(None, (label.position, label.note))),
    ):
        if y + small * 0.42 <= top + on.height - edge:
            y = _line(paper, x, y, width, words, "Next", "", small)
    if label.switches and top + on.height - edge - y >= 8.2:
        draw_switches(paper, x, y + 0.4, label.switches, width=width)
    paper.set_font("Next", "", 5.5)
    revision = f"rev. {paper.heading.revision}"
    if on.height - 2 * edge - size >= 2.2:
        paper.set_xy(left + on.width - edge - size, top + edge + size)
        paper.put(size, 2.4, revision, "C")
    else:
        paper.set_xy(x, top + on.height - edge - 2.2)
        paper.put(width, 2.4, revision, "R")


def _line(
    paper: Paper, x: float, y: float, width: float, words: str, font: str, style: str, size: float
) -> float:
    """A line of text cut to its width; gives where the next one begins."""
    paper.set_font(font, style, size)
    height = size * 0.42
    paper.set_xy(x, y)
    paper.put(width, height, paper.fitting(clean(words), width))
    return y + height + 0.5


def _code(paper: Paper, text: str, left: float, top: float, size: float) -> None:
    """A square code as filled cells, rows of them joined, so that no hairline runs through it."""
    code = segno.make(text, error="m", micro=False, mask=CHEQUERED)
    cell = size / (len(code.matrix) + 2 * QUIET)
    paper.set_fill_color(0)
    paper.fill(
        left + QUIET * cell,
        top + QUIET * cell,
        cell,
        (
            (dark.start(), row, dark.end() - dark.start())
            for row, cells in enumerate(code.matrix)
            for dark in DARK.finditer(cells)
        ),
    )


SHEET_COLUMNS = (
    ("", 9.0),
    ("No.", 11.0),
    ("Fixture", 44.0),
    ("Address", 30.0),
    ("Mode and how", 58.0),
    ("It says", 22.0),
    ("Note", 12.0),
)
"""Title and width in millimetres of a sheet to tick, together the width of an A4 page."""


def sheets_pdf(heading: Heading, places: Iterable[tuple[str, str, Sequence[TickLine]]]) -> bytes:
    """Sheets for those without a phone: a page or more a position, with a box to tick for each
    fixture.

    Each place is its name, its height in words, and its fixtures in the order of the walk.
    """
    paper = Paper(heading, landscape=False)
    paper.columns, paper.columns_at = SHEET_COLUMNS, (MARGIN,)
    empty = True
    for name, height, lines in places:
        empty = False
        paper.add_page()
        _place_head(paper, name, height, len(lines))
        for line in lines:
            _tick_line(paper, line, name)
    if empty:
        paper.add_page()
        paper.set_font("Next", "", TEXT)
        paper.put(paper.epw, 8, "Nothing is to be set here.")
    return bytes(paper.output())


def _place_head(paper: Paper, name: str, height: str, count: int) -> None:
    paper.set_font("Next", "B", 14)
    paper.cell(
        paper.epw, 8, paper.fitting(clean(" · ".join(filter(None, (name, height)))), paper.epw)
    )
    paper.ln(8)
    paper.set_font("Next", "", 8)
    words = (
        "Secondary safety bond on. Isolate power before a cover is opened. Local rules and "
        "competent people first."
    )
    paper.put(paper.epw, 4, f"{counted(count, 'fixture')}. {words}")
    paper.ln(6)


def _tick_line(paper: Paper, line: TickLine, place: str) -> None:
    label = line.label
    height = 15.5 if label.switches else 10.5
    if paper.get_y() + height > paper.bottom:
        paper.add_page()
        paper.set_font("Next", "B", TEXT)
        paper.put(paper.epw, 6, paper.fitting(clean(f"{place}, continued"), paper.epw))
        paper.ln(6)
    top, left = paper.get_y(), MARGIN
    paper.set_draw_color(60)
    paper.set_line_width(0.35)
    paper.rect(left + 1, top + 1.6, 5.6, 5.6)
    columns = [width for _, width in SHEET_COLUMNS]
    cells = (
        (label.number, "Next", "", TEXT, 1.4),
        (label.name, "Next", "B", TEXT, 1.4),
        (label.address, "Mono", "", 13, 1.0),
        (f"{label.mode}, {label.kind}", "Next", "", TEXT, 1.4),
    )
    x = left + columns[0]
    for (words, font, style, size, down), width in zip(cells, columns[1:5], strict=True):
        paper.set_font(font, style, size)
        paper.set_xy(x, top + down)
        paper.put(width, 5, paper.fitting(clean(words), width - 1))
        x += width
    paper.set_font("Next", "", 7.5)
    paper.set_xy(left + columns[0] + columns[1], top + 5.9)
    paper.cell(
        columns[2] + columns[3], 3.6, paper.fitting(clean(line.state), columns[2] + columns[3] - 2)
    )
    across = left + sum(columns[:4])
    if label.switches:
        draw_switches(paper, across, top + 6.2, label.switches, width=columns[4] - 2)
    else:
        paper.set_xy(across, top + 5.9)
        paper.put(columns[4], 3.6, paper.fitting(clean(line.how), columns[4] - 1))
    paper.set_draw_color(150)
    paper.line(left + sum(columns[:5]) + 2, top + 7.6, left + sum(columns[:6]) - 2, top + 7.6)
    paper.set_draw_color(190)
    paper.set_line_width(0.1)
    paper.line(MARGIN, top + height, paper.w - MARGIN, top + height)
    paper.set_xy(MARGIN, top + height)
