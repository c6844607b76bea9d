"""Ways in which the signs of a text may be meant: source of a page, letters for figures,
hexadecimal, no blanks."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from html import unescape

from fence.core.charts.notation import LOOKALIKES
from fence.core.charts.ways.lines import FEWEST, Line, Lines

_ROW_END, _CELL_END = (
    re.compile(r"</tr\s*>|<br\s*/?>|</li\s*>|</p\s*>", re.I),
    re.compile(r"</t[dh]\s*>", re.I),
)
_TAG = re.compile(r"<[^<>]*>")
_SOURCE = re.compile(r"<(?:tr|td|th|li)\b[^<>]*>", re.I)
_HEX = re.compile(
    r"(?<![\w.])(?:(?!\d[cC])([0-9A-Fa-f]{2})[hH](?!\w)|(?:0x|\$)([0-9A-Fa-f]{1,2})(?!\w))"
)
_CLOSED = re.compile(r"^\s*(\d{1,3})([^\W\d_][^\d]*?)(\d{1,3}\s*[-–]\s*\d{1,3}.*)?$")
_KEYED = re.compile(
    r"""\s*["'](?:ch)?(?P<n>\d{1,3})["']\s*:\s*["']?(?P<words>[^"']+?)["']?\s*,?\s*""", re.I
)
_SCANNED = re.compile(
    r"(?<![A-Za-z])(?=[0-9lIOoSsZzB|]*\d|[lIO|]{1,2}\s)[0-9lIOoSsZzB|]{1,3}(?![A-Za-z])"
)


def source(lines: Lines) -> Lines | None:
    """A page that was pasted as its source: a row of its tables is a line."""
    if sum(len(_SOURCE.findall(line.text)) for line in lines) < FEWEST:
        return None
    result: Lines = []
    held, of = "", []
    for line in lines:
        for piece, ends in _pieces(line.text):
            held += piece
            if line.of[0] not in of and piece.strip():
                of.append(line.of[0])
            if ends:
                result += _row(held, of)
                held, of = "", []
        held += " "
    return [*result, *_row(held, of)]


def _pieces(text: str) -> Iterator[tuple[str, bool]]:
    """A line up to each end of a row, and what is left."""
    at = 0
    for found in _ROW_END.finditer(text):
        yield text[at : found.end()], True
        at = found.end()
    yield text[at:], False


def _row(held: str, of: Sequence[int]) -> Lines:
    """A row of a table without its tags, its cells parted; none where nothing is in it."""
    text = unescape(_TAG.sub("", _CELL_END.sub("\t", held))).replace("\xa0", " ")
    cells = [" ".join(cell.split()) for cell in text.split("\t")]
    words = "\t".join(cells).rstrip("\t")
    return [Line(words, tuple(of))] if words.strip() and of else []


def scanned(lines: Lines) -> Lines | None:
    """Letters for figures, as a scan takes them, where a number must stand."""
    result = [Line(_SCANNED.sub(_figures, line.text), line.of) for line in lines]
    return result if any(a.text != b.text for a, b in zip(lines, result, strict=True)) else None


def _figures(found: re.Match[str]) -> str:
    read = found[0].translate(LOOKALIKES).translate(str.maketrans("Zz", "22"))
    return read if read.isdigit() else found[0]


def hexadecimal(lines: Lines) -> Lines | None:
    """``0Fh``, ``0x0F``, ``$0F``: numbers to the base of sixteen."""
    if sum(len(_HEX.findall(line.text)) for line in lines) < FEWEST:
        return None
    return [
        Line(_HEX.sub(lambda found: str(int(found[1] or found[2], 16)), line.text), line.of)
        for line in lines
    ]


def without_blanks(lines: Lines) -> Lines | None:
    """``1Dimmer0-255``: columns whose blanks vanished."""
    result = [Line(_CLOSED.sub(r"\1\t\2\t\3", line.text), line.of) for line in lines]
    changed = sum(a.text != b.text for a, b in zip(lines, result, strict=True))
    return result if changed >= FEWEST else None


def keys(lines: Lines) -> Lines | None:
    """``"1": "Red",``: keys and values, in quotation marks."""
    found = [_KEYED.fullmatch(line.text) for line in lines]
    if sum(one is not None for one in found) < FEWEST:
        return None
    return [
        Line(f"{one['n']}\t{one['words']}", line.of) if one else line
        for one, line in zip(found, lines, strict=True)
    ]
