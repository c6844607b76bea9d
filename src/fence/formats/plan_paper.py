"""Where fixtures hang, on paper: a page for each position, to scale, with addresses."""

from __future__ import annotations

from collections.abc import Sequence

from fence.core.model.fixture import Fixture
from fence.core.model.scene import Place
from fence.core.model.show import Show
from fence.formats.on_paper import Heading
from fence.formats.paper import LINE, MARGIN, SMALL, TEXT, Paper, clean

PAPERS = {"a4": (210, 297), "a3": (297, 420), "a2": (420, 594), "a1": (594, 841)}
"""Sizes of paper in millimetres, upright [ISO 216]."""
SCALES = (10, 20, 25, 50, 100, 200, 250, 500, 1000)
"""To one, the largest first."""
PICKET = 4.0
ROW = 5.0
COLUMNS = (
    ("No.", 14.0),
    ("Label", 50.0),
    ("Address", 40.0),
    ("Mode", 46.0),
    ("At x / y / z in metres", 60.0),
)


def plan_pdf(heading: Heading, show: Show, order: Sequence[str], size: str) -> bytes:
    """Each position that has fixtures with a place, in the order of the walk, on paper of a size
    from A4 to A1."""
    paper = Paper(heading, landscape=True)
    of: dict[str, list[Fixture]] = {}
    for fixture in show.fixtures:
        if fixture.at is not None:
            of.setdefault(fixture.position, []).append(fixture)
    for name in [one for one in (*order, "") if one in of]:
        paper.columns = ()
        paper.add_page("landscape", PAPERS[size])
        _bar(paper, name, of[name])
        _table(paper, of[name])
    return bytes(paper.output())


def _bar(paper: Paper, name: str, fixtures: Sequence[Fixture]) -> None:
    """The bar from its left end to its right one, with everything that hangs on it, to scale."""
    paper.set_font("Next", "B", 14)
    paper.set_x(MARGIN)
    paper.cell(paper.epw, 8, clean(name or "At no position"), new_x="LMARGIN", new_y="NEXT")
    along = _along([fixture.at for fixture in fixtures if fixture.at])
    length = max(along) or 1.0
    width = paper.epw - 30
    scale = next((one for one in SCALES if length * 1000 / one <= width), SCALES[-1])
    paper.set_font("Next", "", SMALL)
    paper.put(paper.epw, 5, f"Scale 1:{scale}, {length:g} m between the first and the last")
    top, left = paper.get_y() + 22, MARGIN + 15
    end = left + length * 1000 / scale
    paper.set_line_width(0.8)
    paper.line(left - 8, top, end + 8, top)
    paper.set_line_width(0.3)
    right = [-1.0, -1.0]
    for fixture, metres in sorted(zip(fixtures, along, strict=True), key=lambda one: one[1]):
        x = left + metres * 1000 / scale
        paper.rect(x - PICKET / 2, top, PICKET, PICKET * 1.6)
        words = (fixture.label, fixture.planned_at)
        paper.set_font("Next", "", SMALL)
        wide = max(paper.get_string_width(clean(word)) for word in words) + 1.5
        row = next((at for at, taken in enumerate(right) if x - wide / 2 > taken), None)
        if row is None:
            continue  # no room at this scale: it stands in the table below
        right[row] = x + wide / 2
        for at, word in enumerate(words):
            paper.set_xy(x - wide / 2, top + PICKET * 1.6 + 1 + row * 9 + at * 4)
            paper.put(wide, 4, clean(word), "C")
    paper.set_xy(MARGIN, top + PICKET * 1.6 + 24)


def _along(places: Sequence[Place]) -> list[float]:
    """How far along the bar each hangs, in metres from the end of the smallest x."""
    first = min(places, key=lambda at: (at.x, at.y, at.z))
    far = max(places, key=first.distance)
    length = first.distance(far) or 1.0
    way = tuple((b - a) / length for a, b in zip(_three(first), _three(far), strict=True))
    return [
        round(
            max(
                0.0,
                sum(w * (p - f) for w, p, f in zip(way, _three(at), _three(first), strict=True)),
            ),
            3,
        )
        for at in places
    ]


def _three(at: Place) -> tuple[float, float, float]:
    return at.x, at.y, at.z


def _table(paper: Paper, fixtures: Sequence[Fixture]) -> None:
    """Every fixture with its numbers; a new page where one is full."""
    paper.set_font("Next", "B", SMALL)
    for title, width in COLUMNS:
        paper.put(width, ROW, title)
    paper.ln(ROW)
    for fixture in fixtures:
        if paper.get_y() + ROW > paper.bottom:
            paper.add_page(same=True)
        at = fixture.at
        held = (
            "" if fixture.number is None else str(fixture.number),
            fixture.label,
            fixture.planned_at,
            fixture.mode,
            f"{at.x:g} / {at.y:g} / {at.z:g}" if at else "",
        )
        paper.set_x(MARGIN)
        paper.set_font("Next", "", TEXT)
        for text, (_, width) in zip(held, COLUMNS, strict=True):
            paper.put(width, LINE, paper.fitting(clean(text), width - 1))
        paper.ln(ROW)
