"""A display of seven segments as polygons, as it looks upright or turned by 180 degrees."""

from __future__ import annotations

from dataclasses import dataclass

from fence.core.setting.segments import WIDTH, lit_for

DIGIT_WIDTH, DIGIT_HEIGHT, GAP, THICK = 44, 76, 16, 9
MARGIN = 12

_MID = DIGIT_HEIGHT // 2
_BARS = {"a": 0, "g": _MID, "d": DIGIT_HEIGHT}
_POSTS = {"f": (0, 0), "b": (DIGIT_WIDTH, 0), "e": (0, _MID), "c": (DIGIT_WIDTH, _MID)}


@dataclass(frozen=True, slots=True)
class Segment:
    """One segment: which of its digit, its corners as an SVG polygon takes them, and whether it is
    lit."""

    name: str
    points: tuple[tuple[float, float], ...]
    lit: bool

    @property
    def path(self) -> str:
        """The corners as text."""
        return " ".join(f"{x:g},{y:g}" for x, y in self.points)


@dataclass(frozen=True, slots=True)
class Display:
    """A drawn display: its size, its segments, and what it says to whoever cannot see it."""

    width: int
    height: int
    segments: tuple[Segment, ...]
    words: str


def draw_display(digits: str, *, turned: bool = False, before: str = "") -> Display:
    """Draw the digits of a number, at least three places wide, behind the letters that stand
    ``before`` it, as the person at the fixture sees them."""
    digits = before.lower() + digits.rjust(WIDTH, "0")
    words = f"{digits}, seen upside down" if turned else digits
    return draw_lit(lit_for(digits), words, turned=turned)


def draw_lit(places: tuple[str, ...], words: str, *, turned: bool = False) -> Display:
    """Draw lit segments, place by place from left to right; ``turned`` draws all of it upside
    down."""
    width = 2 * MARGIN + len(places) * DIGIT_WIDTH + (len(places) - 1) * GAP
    height = 2 * MARGIN + DIGIT_HEIGHT
    segments = []
    for place, lit in enumerate(places):
        left = MARGIN + place * (DIGIT_WIDTH + GAP)
        for name in "abcdefg":
            corners = tuple((left + x, MARGIN + y) for x, y in _corners(name))
            if turned:
                corners = tuple((width - x, height - y) for x, y in corners)
            segments.append(Segment(name, corners, name in lit))
    return Display(width, height, tuple(segments), words)


def _corners(name: str) -> tuple[tuple[float, float], ...]:
    """The six corners of a segment within its digit."""
    half, tip = THICK / 2, 1.5
    if name in _BARS:
        y = _BARS[name]
        left, right = tip, DIGIT_WIDTH - tip
        return (
            (left, y),
            (left + half, y - half),
            (right - half, y - half),
            (right, y),
            (right - half, y + half),
            (left + half, y + half),
        )
    x, top = _POSTS[name]
    high, low = top + tip, top + _MID - tip
    return (
        (x, high),
        (x + half, high + half),
        (x + half, low - half),
        (x, low),
        (x - half, low - half),
        (x - half, high + half),
    )
