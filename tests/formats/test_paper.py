"""What is written on paper: the quick way writes what the library's own writes."""

from __future__ import annotations

from datetime import UTC, datetime

import pypdfium2
import pytest

from fence.formats.on_paper import Heading
from fence.formats.paper import MARGIN, Paper

HEADING = Heading("Glasshouse After Dark", "letters", 7, datetime(2026, 11, 28, tzinfo=UTC))
TEXTS = ("", "Vine 12 (pinned)", "U2 117 … 134", "½ “quoted” — ÄÖÜ", "Ωmega №", "page {nb}", "(\\)")
FONTS = (("Next", "", 9.5), ("Next", "B", 14.0), ("Mono", "", 11.0))


def written(align: str, *, quick: bool) -> tuple[bytes, float]:
    """All texts in all fonts as they look, and where the last one ends."""
    paper = Paper(HEADING, landscape=False)
    paper.add_page()
    for row, text in enumerate(TEXTS):
        paper.set_fill_color(0 if row % 2 else 210)
        paper.set_xy(MARGIN, 40 + 9 * row)
        for font, style, size in FONTS:
            paper.set_font(font, style, size)
            if quick:
                paper.put(58, 7, text, align)
            else:
                paper.cell(58, 7, text, align=align)
    page = pypdfium2.PdfDocument(bytes(paper.output()))[0]
    return page.render(scale=2).to_pil().tobytes(), paper.x


@pytest.mark.parametrize("align", ["L", "C", "R"])
def test_a_text_is_put_where_a_cell_has_it(align: str) -> None:
    """Also one with letters that the font lacks, and one of no letters."""
    assert written(align, quick=True) == written(align, quick=False)


def test_lengths_are_those_of_the_library() -> None:
    """In every font and size; texts with letters of two fonts as well."""
    paper = Paper(HEADING, landscape=False)
    paper.add_page()
    for font, style, size in FONTS:
        paper.set_font(font, style, size)
        for text in TEXTS:
            own = super(Paper, paper).get_string_width(text)
            assert paper.get_string_width(text) == pytest.approx(own)
    assert paper.output()  # which closes the fonts
