"""A display upright and upside down, held against the drawn polygons read by where they lie."""

from __future__ import annotations

import pytest

from fence.core.setting.segments import from_below, turned_readings
from fence.web.set.drawing import DIGIT_HEIGHT, DIGIT_WIDTH, GAP, MARGIN, Display, draw_display

CENTRES = {
    "a": (0.5, 0.0),
    "b": (1.0, 0.25),
    "c": (1.0, 0.75),
    "d": (0.5, 1.0),
    "e": (0.0, 0.75),
    "f": (0.0, 0.25),
    "g": (0.5, 0.5),
}
SHAPES = {
    frozenset("abcdef"): 0,
    frozenset("bc"): 1,
    frozenset("ef"): 1,
    frozenset("abdeg"): 2,
    frozenset("abcdg"): 3,
    frozenset("bcfg"): 4,
    frozenset("acdfg"): 5,
    frozenset("acdefg"): 6,
    frozenset("abc"): 7,
    frozenset("abcdefg"): 8,
    frozenset("abcdfg"): 9,
}


def read(display: Display, *, over: bool = False) -> str | None:
    """Read a drawing by the middles of its lit polygons, as it is or with the paper turned over."""
    places: list[set[str]] = [
        set() for _ in range(round((display.width - 2 * MARGIN + GAP) / (DIGIT_WIDTH + GAP)))
    ]
    for segment in display.segments:
        if not segment.lit:
            continue
        x = sum(point[0] for point in segment.points) / len(segment.points)
        y = sum(point[1] for point in segment.points) / len(segment.points)
        if over:
            x, y = display.width - x, display.height - y
        place = int((x - MARGIN + GAP / 2) // (DIGIT_WIDTH + GAP))
        across = (x - MARGIN - place * (DIGIT_WIDTH + GAP)) / DIGIT_WIDTH
        down = (y - MARGIN) / DIGIT_HEIGHT
        places[place].add(
            min(
                CENTRES,
                key=lambda name: (CENTRES[name][0] - across) ** 2 + (CENTRES[name][1] - down) ** 2,
            )
        )
    digits = [SHAPES.get(frozenset(place)) for place in places]
    return None if None in digits else "".join(map(str, digits))


@pytest.mark.parametrize("address", range(1, 513))
def test_a_display_reads_as_its_drawing_does(address: int) -> None:
    """Upright it is the number; turned over it is what the reading from below says, or no number at
    all."""
    digits = f"{address:03d}"
    upright, turned = draw_display(digits), draw_display(digits, turned=True)
    assert read(upright) == digits
    assert read(turned) == read(upright, over=True) == from_below(digits)
    assert read(turned, over=True) == digits
    assert (from_below(digits) is None) == bool(set(digits) & set("347"))
    below = from_below(digits)
    assert below is None or int(below) in turned_readings(address)


def test_a_number_without_its_zeros_is_turned_as_it_is_shown() -> None:
    """A display that leaves out leading zeros shows 91, which is 16 from below; with them it is
    160."""
    assert turned_readings(91) == {16, 160}
