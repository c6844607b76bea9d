"""Lists as PDF: what a crew takes along, readable at arm's length, with show, date and revision on
every page."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable, Sequence
from pathlib import Path

from fpdf import FPDF
from fpdf.enums import MethodReturnValue, PageOrientation
from fpdf.fonts import TTFFont

from fence.core.addressing.lists import ChannelLine, ListedFixture
from fence.core.model.dates import written_time
from fence.core.model.setter import Switch
from fence.core.model.text import counted, from_to, printable
from fence.formats.on_paper import Heading

FONTS = Path(__file__).parent / "fonts"
MARGIN = 12.0
LINE = 4.6
PORTRAIT_WIDTH = 210.0
SMALL = 8.0
TEXT = 9.5
MOST_LINES = 6
PAGES = "{nb}"
"""Stands for the number of pages until they are counted."""
WIDE = "wide"
"""The font for letters that the others lack."""
CLIP = 300
"""Characters of one cell; a list is no place for more."""

FIXTURE_COLUMNS = (
    ("No.", 12.0),
    ("Label", 46.0),
    ("Fixture and mode", 52.0),
    ("Ch.", 10.0),
    ("Address", 30.0),
    ("Switches, seen upright", 46.0),
    ("Position", 36.0),
    ("Note", 41.0),
)
"""Title and width in millimetres, together the width of a landscape A4 page."""

CHANNEL_COLUMNS = (("Slot", 19.0), ("Fixture", 33.0), ("Function", 27.0), ("Def.", 10.0))


class Paper(FPDF):
    """A list on A4 paper with the heading on every page."""

    def __init__(self, heading: Heading, *, landscape: bool) -> None:
        super().__init__("landscape" if landscape else "portrait", "mm", "A4")
        self.heading = heading
        self.columns: Sequence[tuple[str, float]] = ()
        self.columns_at: Sequence[float] = ()
        self.set_margin(MARGIN)
        self.set_auto_page_break(False)
        self.add_font("Next", "", FONTS / "AtkinsonHyperlegibleNext_400Regular.ttf")
        self.add_font("Next", "B", FONTS / "AtkinsonHyperlegibleNext_600SemiBold.ttf")
        self.add_font("Mono", "", FONTS / "AtkinsonHyperlegibleMono_700Bold.ttf")
        self.set_title(f"{heading.show}: {heading.title}")
        self.set_creator("Fence")
        self.set_creation_date(heading.made)

    def turn(self, *, landscape: bool) -> None:
        """The pages from here on lie or stand."""
        self.def_orientation = PageOrientation.LANDSCAPE if landscape else PageOrientation.PORTRAIT

    @property
    def bottom(self) -> float:
        """The lowest that a row may reach."""
        return float(self.h - MARGIN - 6)

    def header(self) -> None:
        """Show, title, revision and date, and below them the heads of the columns."""
        made = written_time(self.heading.made)
        facts = f"Revision {self.heading.revision} · {made}"
        self.set_font("Next", "", SMALL)
        width = self.get_string_width(facts) + 2
        self.set_xy(MARGIN, MARGIN - 4)
        self.set_font("Next", "B", 12)
        name = self.fitting(
            f"{clean(self.heading.show)} · {clean(self.heading.title)}", self.epw - width - 4
        )
        self.put(self.epw - width, 6, name)
        self.set_font("Next", "", SMALL)
        self.put(width, 6, facts, "R")
        self.set_draw_color(60)
        self.set_line_width(0.4)
        self.line(MARGIN, MARGIN + 3, self.w - MARGIN, MARGIN + 3)
        self.set_font("Next", "B", SMALL)
        for left in self.columns_at:
            self.set_xy(left, MARGIN + 3.5)
            for title, column in self.columns:
                self.put(column, 5, title)
        self.set_xy(MARGIN, MARGIN + 9)

    def footer(self) -> None:
        """Which page of how many."""
        self.set_font("Next", "", SMALL)
        self.set_xy(MARGIN, self.h - MARGIN - 3)
        self.put(self.epw, 5, f"Page {self.page_no()} of {PAGES}", "R")

    def put(self, width: float, height: float, text: str, align: str = "L") -> None:
        """A text in a box that begins here, and on to the right of that box: as ``cell`` does it,
        in a third of its time where the font that is set has all the letters."""
        length = self._length_in_font(text)
        if length is None:
            self.cell(width, height, text, align=align)
            return
        over = width - length
        indent = {"L": self.c_margin, "C": over / 2, "R": over - self.c_margin}
        if text:
            base = self.y + 0.5 * height + 0.3 * self.font_size
            self.text(self.x + indent[align], base, text)
        self.x += width

    def get_string_width(
        self,
        s: str,
        normalized: bool = False,
        markdown: bool = False,
    ) -> float:
        """The length of a text in the font that is set, in millimetres."""
        length = None if markdown else self._length_in_font(s)
        return super().get_string_width(s, normalized, markdown) if length is None else length

    def _length_in_font(self, text: str) -> float | None:
        """The length of a text in millimetres; None where the font that is set lacks a letter of
        it, or a number is put in later."""
        font = self.current_font
        if PAGES in text or not isinstance(font, TTFFont) or not has_letters(font, text):
            return None
        widths = font.cw
        return sum([widths[ord(letter)] for letter in text]) * self.font_size / 1000

    def normalize_text(self, text: str) -> str:
        """Asked of every text that is written. The first for which a font lacks a letter brings in
        one that has nearly all: reading that takes as long as fifty fixtures."""
        font = self.current_font
        if isinstance(font, TTFFont) and not has_letters(font, text) and WIDE not in self.fonts:
            self.add_font(WIDE, "", FONTS / "DejaVuSans.ttf")
            self.set_fallback_fonts([WIDE], exact_match=False)
        return str(super().normalize_text(text))

    def fill(
        self, left: float, top: float, size: float, boxes: Iterable[tuple[int, int, int]]
    ) -> None:
        """Fill boxes of a grid all at once: codes have hundreds, and one by one they take ten times
        as long. The grid begins at ``left`` and ``top``, its cells are ``size`` millimetres wide;
        of a box its column, its row and its width in cells. Boxes reach a little into the row below
        them, so that no hairline runs between."""
        cell = size * self.k
        drawn = (f"{column} {-row} {width} -1.02 re" for column, row, width in boxes)
        place = f"{cell:.4f} 0 0 {cell:.4f} {left * self.k:.2f} {(self.h - top) * self.k:.2f} cm"
        self._out(" ".join(("q", place, *drawn, "f Q")))

    def fitting(self, text: str, width: float) -> str:
        """The text cut to a width, with an ellipsis."""
        if self.get_string_width(text) <= width:
            return text
        most = bisect_right(
            range(1, len(text)), width, key=lambda count: self.get_string_width(text[:count] + "…")
        )
        return text[:most].rstrip() + "…"


def has_letters(font: TTFFont, text: str) -> bool:
    """Whether a font has all letters of a text."""
    return bool(font.cmap.keys() >= set(map(ord, text)))


def clean(text: str) -> str:
    """Text for paper: one line, without control characters, not endless."""
    return printable(text)[:CLIP]


def fixtures_pdf(heading: Heading, fixtures: Iterable[ListedFixture]) -> bytes:
    """The list by fixture, a row each, landscape. Rows are never broken over pages."""
    paper = Paper(heading, landscape=True)
    draw_fixtures(paper, fixtures)
    return bytes(paper.output())


def draw_fixtures(paper: Paper, fixtures: Iterable[ListedFixture]) -> None:
    """The list by fixture, from a page of its own on."""
    paper.turn(landscape=True)
    paper.columns, paper.columns_at = FIXTURE_COLUMNS, (MARGIN,)
    paper.add_page()
    count = 0
    for listed in fixtures:
        count += 1
        _fixture_row(paper, listed)
    if not count:
        paper.set_font("Next", "", TEXT)
        paper.put(paper.epw, 8, "No fixtures on this list.")


def draw_table(
    paper: Paper, columns: Sequence[tuple[str, float]], rows: Iterable[Sequence[str]]
) -> None:
    """A table, its first column in bold, from a page of its own on. Rows are never broken over
    pages."""
    paper.columns, paper.columns_at = columns, (MARGIN,)
    paper.add_page()
    for row in rows:
        wrapped = []
        for place, (text, (_, width)) in enumerate(zip(row, columns, strict=True)):
            _font(paper, "Next" if place else "Bold")
            wrapped.append(_wrapped(paper, clean(text), width - 1.5))
        height = LINE * max(1, *map(len, wrapped)) + 1.4
        if paper.get_y() + height > paper.bottom:
            paper.add_page()
        top, left = paper.get_y(), MARGIN
        for place, ((_, width), lines) in enumerate(zip(columns, wrapped, strict=True)):
            _font(paper, "Next" if place else "Bold")
            for number, line in enumerate(lines):
                paper.set_xy(left, top + 0.7 + number * LINE)
                paper.put(width, LINE, line)
            left += width
        paper.set_draw_color(190)
        paper.set_line_width(0.1)
        paper.line(MARGIN, top + height, paper.w - MARGIN, top + height)
        paper.set_xy(MARGIN, top + height)


def _fixture_row(paper: Paper, listed: ListedFixture) -> None:
    fixture = listed.fixture
    cells = [
        ("Next", "" if fixture.number is None else str(fixture.number)),
        ("Bold", fixture.label + (" (pinned)" if fixture.pinned else "")),
        ("Next", f"{listed.kind}, {fixture.mode or 'no mode'}"),
        ("Next", "?" if listed.channels is None else str(listed.channels)),
        ("Mono", listed.address or "none needed"),
        ("Next", ""),
        ("Next", fixture.position),
        ("Next", fixture.note + (f" Shares as {fixture.share}." if fixture.share else "")),
    ]
    wrapped = []
    for (font, text), (_, width) in zip(cells, FIXTURE_COLUMNS, strict=True):
        _font(paper, font)
        wrapped.append(_wrapped(paper, clean(text), width - 1.5))
    height = max(LINE * max(map(len, wrapped)), 9.5 if listed.switches else LINE) + 1.4
    if paper.get_y() + height > paper.bottom:
        paper.add_page()
    top, left = paper.get_y(), MARGIN
    for (font, _), (_, width), lines in zip(cells, FIXTURE_COLUMNS, wrapped, strict=True):
        _font(paper, font)
        for number, line in enumerate(lines):
            paper.set_xy(left, top + 0.7 + number * LINE)
            paper.put(width, LINE, line)
        left += width
    if listed.switches:
        draw_switches(
            paper,
            MARGIN + sum(width for _, width in FIXTURE_COLUMNS[:5]),
            top + 0.9,
            listed.switches,
        )
    paper.set_draw_color(190)
    paper.set_line_width(0.1)
    paper.line(MARGIN, top + height, paper.w - MARGIN, top + height)
    paper.set_xy(MARGIN, top + height)


def _wrapped(paper: Paper, text: str, width: float) -> list[str]:
    """The first lines of a text in the font that is set."""
    if not text or paper.get_string_width(text) < width - 2.5:
        return [text] if text else []
    lines = paper.multi_cell(width, LINE, text, dry_run=True, output=MethodReturnValue.LINES)
    assert isinstance(lines, list)
    return lines[:MOST_LINES]


def _font(paper: Paper, name: str) -> None:
    if name == "Mono":
        paper.set_font("Mono", "", 11)
    else:
        paper.set_font("Next", "B" if name == "Bold" else "", TEXT)


def draw_switches(
    paper: Paper, left: float, top: float, switches: Sequence[Switch], *, width: float = 44.0
) -> None:
    """A row of switches with their numbers: the knob stands up or down; filled is on."""
    step = min(4.2, width / len(switches))
    paper.set_line_width(0.2)
    paper.set_draw_color(60)
    paper.set_font("Next", "", 6)
    for place, switch in enumerate(switches):
        x = left + place * step
        paper.rect(x, top, step - 0.8, 5.4)
        paper.set_fill_color(0 if switch.on else 210)
        paper.rect(
            x + 0.4,
            top + (0.4 if switch.up else 2.8),
            step - 1.6,
            2.2,
            style="DF" if switch.on else "D",
        )
        paper.set_xy(x - 0.6, top + 5.5)
        paper.put(step + 0.4, 2.6, str(switch.number), "C")


def channels_pdf(heading: Heading, universes: Sequence[tuple[str, Sequence[ChannelLine]]]) -> bytes:
    """The list by channel, two columns a page, each universe on a page of its own.

    Free slots are one line; a fixture is named at its first slot and again at the top of a column.
    """
    paper = Paper(heading, landscape=False)
    draw_channels(paper, universes)
    return bytes(paper.output())


def draw_channels(paper: Paper, universes: Sequence[tuple[str, Sequence[ChannelLine]]]) -> None:
    """The list by channel, from a page of its own on."""
    paper.turn(landscape=False)
    width = sum(column for _, column in CHANNEL_COLUMNS)
    paper.columns = CHANNEL_COLUMNS
    paper.columns_at = (MARGIN, PORTRAIT_WIDTH - MARGIN - width)
    for title, lines in universes or [("", ())]:
        _universe_pages(paper, title, lines, width)


def _universe_pages(paper: Paper, title: str, lines: Sequence[ChannelLine], width: float) -> None:
    column, top = 2, 0.0
    for line in lines:
        head = column == 2 or paper.get_y() + LINE > paper.bottom
        if head:
            if column >= 1:
                paper.add_page()
                paper.set_font("Next", "B", 11)
                paper.put(paper.epw, 6, paper.fitting(clean(title), paper.epw))
                column, top = 0, paper.get_y() + 7
            else:
                column += 1
            paper.set_y(top)
        _channel_line(paper, line, paper.columns_at[column], width, named=head)


def _channel_line(
    paper: Paper, line: ChannelLine, left: float, width: float, *, named: bool
) -> None:
    y, row = paper.get_y(), line.row
    slots = from_to(line.first, line.last)
    paper.set_xy(left, y)
    paper.set_font("Mono", "", TEXT)
    if row is None:
        paper.set_font("Next", "", TEXT)
        paper.put(width, LINE, f"{slots}   {counted(line.last - line.first + 1, 'slot')} free")
    else:
        paper.put(CHANNEL_COLUMNS[0][1], LINE, slots)
        opens = row.opens or row.clash
        function = (row.function or row.kept) + (
            f" ({row.kept})" if row.function and row.kept else ""
        )
        cells = [
            (" + ".join(row.fixtures) if opens or named else "", "B" if opens else ""),
            (function, ""),
            ("" if row.default is None else str(row.default), ""),
        ]
        for (text, style), (_, column) in zip(cells, CHANNEL_COLUMNS[1:], strict=True):
            paper.set_font("Next", style, TEXT)
            paper.put(column, LINE, paper.fitting(clean(text), column - 1))
    if row is None or row.opens:
        paper.set_draw_color(190)
        paper.set_line_width(0.1)
        paper.line(left, y, left + width, y)
    paper.set_y(y + LINE)
