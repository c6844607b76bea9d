"""Numbers on a display of seven segments, upright and seen from below.

The segments go round from the top: a top, b upper right, c lower right, d bottom, e lower left, f
upper left; g is the bar in the middle. Turned by 180 degrees a and d, b and e, c and f change
places, and so does the order of the digits.
"""

from __future__ import annotations

DIGITS = ("abcdef", "bc", "abdeg", "abcdg", "bcfg", "acdfg", "acdefg", "abc", "abcdefg", "abcdfg")
"""The lit segments of 0 to 9."""

LETTERS = {
    "a": "abcefg",
    "b": "cdefg",
    "c": "deg",
    "d": "bcdeg",
    "e": "adefg",
    "f": "aefg",
    "h": "cefg",
    "l": "def",
    "n": "ceg",
    "o": "cdeg",
    "p": "abefg",
    "r": "eg",
    "t": "defg",
    "u": "bcdef",
    "-": "g",
}
"""The lit segments of the letters that stand before a number on some displays."""

TURNED = str.maketrans("abcdef", "defabc")

_READ = {frozenset(lit): digit for digit, lit in enumerate(DIGITS)} | {frozenset("ef"): 1}
"""The digit that lit segments are read as. A 1 is one wherever it stands."""

WIDTH = 3
"""Digits of the display of a fixture: addresses go to 512."""


def lit_for(digits: str, *, turned: bool = False) -> tuple[str, ...]:
    """The lit segments of each place from left to right, as they are seen: upright or turned by 180
    degrees. Letters are those of ``LETTERS``."""
    lit = [LETTERS.get(digit) or DIGITS[int(digit)] for digit in digits]
    if not turned:
        return tuple(lit)
    return tuple("".join(sorted(segments.translate(TURNED))) for segments in reversed(lit))


def read_segments(lit: tuple[str, ...]) -> str | None:
    """The digits that lit segments are read as; None where one of them is no digit (3, 4 and 7
    upside down)."""
    read = [_READ.get(frozenset(segments)) for segments in lit]
    return None if None in read else "".join(map(str, read))


def from_below(digits: str) -> str | None:
    """What a number looks like when its display is upside down, such as 160 for 091; None where it
    looks like none."""
    return read_segments(lit_for(digits, turned=True))


def turned_readings(number: int) -> set[int]:
    """The numbers that ``number`` may be read as upside down: with its leading zeros and
    without."""
    written = {str(number), f"{number:0{WIDTH}d}"}
    return {int(read) for digits in written if (read := from_below(digits)) is not None}
