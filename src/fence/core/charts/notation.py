"""The many ways in which manuals write numbers, put into the one that the reader knows, before a line is read."""

from __future__ import annotations

import csv
import re

from fence.core.charts.tongues import UP_TO

_DASHES = str.maketrans(
    dict.fromkeys("‐‑‒–—−", "-")
    | {"…": "..", "→": " to ", "↔": " to ", "~": " to ", "～": " to ", "≥": ">=", "≤": "<="}
)
_BLANKS = re.compile(r"[\s\x00-\x1f\x7f-\x9f\ud800-\udfff]+")
MOST_TABS = 16
UP_TO_LEVEL = re.compile(rf"(?<=[\d%°])\s+{UP_TO}\s+(?=\d)", re.I)
HEX = r"(?:0x([0-9a-f]{1,2})|([0-9a-f]{1,2})h)"
HEX_RANGE = re.compile(rf"\b{HEX}\s*(?:-|to)\s*{HEX}\b", re.I)
BELOW = re.compile(r"(?:^|(?<=\s))(?:<|below |under |less than )(=?)\s*(\d{1,3})(?=\s+[^\W\d])(?!\s*ch)", re.I)
ABOVE = re.compile(
    r"(?:^|(?<=\s))(?:>|above |over |more than |from (?=\d+ (?:on|up)))(=?)\s*(\d{1,3})(?: on| up)?(?=\s+[^\W\d])", re.I
)
_LOOKALIKES = str.maketrans("OoQIl|SsB", "000111558")
SCANNED = re.compile(r"(?<![\w.])([0-9OoIlS]{1,3})\s*-\s*([0-9OoIlS]{1,3})(?![\w.])")
OFFSET = re.compile(r"^\s*offset\s*\+?\s*(\d{1,3})\b", re.I)
LONG_DASH = re.compile(r"(?<=\d)(\s?)-{2,}(\s?)(?=\d)")
LISTED = re.compile(r"^\s*(\d{1,3}(?:\s*,\s*\d{1,3}){2,})\s+(?=[^\W\d])")
ORDINALS = {
    word: number
    for number, word in enumerate(
        ["first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth", "tenth", "eleventh"], 1
    )
}
ORDINAL = re.compile(rf"^\s*(?:the\s+)?({'|'.join(ORDINALS)})\s+channel\b", re.I)


def plain(row: str) -> str:
    """The line with one kind of dash and of range, without bullets, with at most two blanks or ``MOST_TABS`` tabs in a
    row: two blanks part cells as well as twenty do; longer runs would only give the patterns more to try."""

    def shorter(found: re.Match[str]) -> str:
        run = found[0]
        if "\t" in run:
            return "\t" * min(run.count("\t"), MOST_TABS)
        return "  " if len(run) > 1 else " "

    line = _cells(_BLANKS.sub(shorter, row.translate(_DASHES).replace("<->", " to ")))
    line = BELOW.sub(_below, ABOVE.sub(_above, line))
    line = re.sub(r"^(\s*)[•●▪*·>|]\s*", r"\1", line)
    line = LISTED.sub(_span, LONG_DASH.sub("-", line))
    line = ORDINAL.sub(lambda found: f"CH {ORDINALS[found[1].lower()]}", line)
    line = OFFSET.sub(lambda found: f"CH {int(found[1]) + 1} ", line)
    return HEX_RANGE.sub(_decimal, UP_TO_LEVEL.sub(" - ", line))


def scanned(line: str) -> str:
    """The line with letters that a scan took for digits put right within levels; the same where there are none."""

    def digits(found: re.Match[str]) -> str:
        return f"{found[1].translate(_LOOKALIKES)}-{found[2].translate(_LOOKALIKES)}" if _odd(found) else found[0]

    return SCANNED.sub(digits, line)


def _odd(found: re.Match[str]) -> bool:
    """Letters among digits, and at least one digit to go by."""
    both = found[1] + found[2]
    return not both.isdigit() and any(character.isdigit() for character in both)


def _cells(line: str) -> str:
    """A row of quoted CSV as cells parted by tabs."""
    if not line.lstrip().startswith('"') or '","' not in line:
        return line
    try:
        return "\t".join(cell.replace("\t", " ") for cell in next(csv.reader([line.strip()])))
    except (csv.Error, StopIteration):
        return line


def _level(number: int) -> int:
    return min(255, max(0, number))


def _span(found: re.Match[str]) -> str:
    """Numbers of channels that follow each other, written out one by one, as a span."""
    numbers = [int(word) for word in found[1].split(",")]
    follow = numbers == list(range(numbers[0], numbers[0] + len(numbers)))
    return f"{numbers[0]}-{numbers[-1]} " if follow else found[0]


def _below(found: re.Match[str]) -> str:
    return f"0-{_level(int(found[2]) - (0 if found[1] else 1))}" if int(found[2]) <= 255 else found[0]


def _above(found: re.Match[str]) -> str:
    whole = found[1] or found[0].lower().startswith("from")
    return f"{_level(int(found[2]) + (0 if whole else 1))}-255" if int(found[2]) <= 255 else found[0]


def _decimal(found: re.Match[str]) -> str:
    return f"{int(found[1] or found[2], 16)}-{int(found[3] or found[4], 16)}"
