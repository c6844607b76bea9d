"""The levels that a text speaks of, notation by notation."""

from __future__ import annotations

import pytest

from fence.core.charts.levels import spans_of

ALONE = [
    ("0 off, 1-255 on", [(0, 0, "0"), (1, 255, "1-255")]),
    ("0 off", []),
    ("0 off, 2-255 on", [(2, 255, "2-255")]),
    ("10-20 slow, 128 and above fast", [(10, 20, "10-20"), (128, 255, "128 and above")]),
    ("below 10 off, 10 and up on", [(0, 9, "below 10"), (10, 255, "10 and up")]),
    ("≤ 9 off, 10 and up 20-30", [(0, 9, "≤ 9"), (10, 255, "10 and up")]),
    ("O", []),
    ("O to l", []),
    ("I-9", [(1, 9, "I-9")]),
    ("5O = blue", [(50, 50, "5O = ")]),
    ("≥ 1OO open", [(100, 255, "≥ 1OO")]),
    ("2O and up", [(20, 255, "2O and up")]),
    ("0-9 a, 1O = b, 11-255 c", [(0, 9, "0-9"), (10, 10, "1O = "), (11, 255, "11-255")]),
    ("l0-2O blue", [(10, 20, "l0-2O")]),
    ("less than 10", [(0, 9, "less than 10")]),
    ("≤ 9 off", [(0, 9, "≤ 9")]),
    ("< 10 off", [(0, 9, "< 10")]),
    ("≥ 240 open", [(240, 255, "≥ 240")]),
    ("> 240 open", [(241, 255, "> 240")]),
    ("above 250", [(251, 255, "above 250")]),
    ("from 10 to 20", [(10, 20, "from 10 to 20")]),
    ("de 0 à 9", [(0, 9, "de 0 à 9")]),
    ("00h-0Ah", [(0, 10, "00h-0Ah")]),
    ("0x10-0x1F", [(16, 31, "0x10-0x1F")]),
    ("0..9", [(0, 9, "0..9")]),
    ("50% dim, 0-255 all", [(0, 255, "0-255")]),
    ("20-10", []),
    ("7-7", [(7, 7, "7-7")]),
    ("10 20 30", []),
    ("0-9 a, 10-19 b, 20 c, 21-255 d", [(0, 9, "0-9"), (10, 19, "10-19"), (20, 20, "20"), (21, 255, "21-255")]),
    ("5600 K", []),
    ("patterns 1 to 15", []),
    ("1.5 s", []),
    ("0,5 Hz", []),
    ("50 = blue", [(50, 50, "50 = ")]),
    ("200-300", []),
    ("255", []),
]  # fmt: skip


@pytest.mark.parametrize(("text", "levels"), ALONE, ids=[text for text, _ in ALONE])
def test_levels_of_a_text(text: str, levels: list[tuple[int, int, str]]) -> None:
    """Where they stand, from and to which."""
    assert [(s.first, s.last, text[s.start : s.end]) for s in spans_of(text)] == levels


@pytest.mark.parametrize(
    ("text", "levels"),
    [("255", [(255, 255)]), ("256", []), ("O", []), ("10 and up 20", [(10, 255)])],
)
def test_a_cell_of_levels(text: str, levels: list[tuple[int, int]]) -> None:
    """In a column of levels a number alone is one, up to 255."""
    assert [(s.first, s.last) for s in spans_of(text, value=True)] == levels


@pytest.mark.parametrize(("expected", "levels"), [(10, [(10, 10)]), (11, []), (None, [])])
def test_a_number_goes_on_with_the_levels(
    expected: int | None, levels: list[tuple[int, int]]
) -> None:
    """A number alone is a level where just that is due."""
    assert [(s.first, s.last) for s in spans_of("10 red", expected=expected)] == levels
