"""Other ways in which a text may be meant: each gives its lines anew, and says which lines of the
text each of them comes from.

A way that finds nothing of its kind in a text gives nothing. Whether one is right is not decided
here: the readings that come of them are weighed (``weighing``).
"""

from __future__ import annotations

import csv
import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from html import unescape
from itertools import takewhile

from fence.core.charts.notation import LOOKALIKES, as_number
from fence.core.charts.roles import Role, role_of
from fence.core.charts.tongues import CELL_WORDS, CHANNEL_WORDS, EACH_WORDS, UP_TO

FEWEST = 3
"""Channels that a run of numbers must have to be one."""
MOST_CELLS = 64
MOST_CELL = 60
"""Characters of a line that is a cell of a table by itself."""


@dataclass(frozen=True, slots=True)
class Line:
    """A line of a rewritten text, and the lines of the text that it comes from, counted from 1."""

    text: str
    of: tuple[int, ...]


Lines = list[Line]
_CHANNEL = rf"(?:channels?|chan|ch|{CHANNEL_WORDS}|dmx|slot)"
_ALONE = re.compile(rf"[\s\-•*(\[]*(?:{_CHANNEL}\b\.?\s*#?\s*)?(?P<n>\d{{1,3}})\s*[)\].:]?\s*", re.I)
"""A number that stands on a line of its own, also with the word for it."""
_FIRST = re.compile(
    rf"(?P<before>\s*(?:{_CHANNEL}\b\.?\s*)?)(?P<n>\d{{1,3}})(?P<behind>\s*(?:[:.)=|\t]|\s{{1,}}|-\s))", re.I
)
"""A number at the front of a line that says more."""
_OFFSET = re.compile(
    r"\s*[-•*]?\s*(?:(?:start(?:ing)?|base|first)?\s*(?:dmx\s*)?(?:address|adresse|addr|startadresse|s|n|a)?\.?\s*)"
    r"\+\s*(?P<n>\d{1,3})\s*[:=)\-]?\s+(?P<rest>\S.*)",
    re.I,
)
_DASHED = re.compile(rf"\s*[-–•*]\s*{_CHANNEL}\b\.?\s*(?P<n>\d{{1,3}})\s*[:.\-=]\s*(?P<rest>\S.*)", re.I)
_SUM = re.compile(
    rf"\s*(?:(?:mode|modus|modo)\s*[:\-]?\s*)?(?P<n>\d{{1,3}})\s*-?\s*{_CHANNEL}\b\.?(?:\s*(?:mode|modus|modo))?"
    r"\s*[=:]\s*(?P<rest>[^+]+(?:\+[^+]+)+)",
    re.I,
)
_ROW_END, _CELL_END = re.compile(r"</tr\s*>|<br\s*/?>|</li\s*>|</p\s*>", re.I), re.compile(r"</t[dh]\s*>", re.I)
_TAG = re.compile(r"<[^<>]*>")
_SOURCE = re.compile(r"<(?:tr|td|th|li)\b[^<>]*>", re.I)
_LEVELS = re.compile(r"\s*\d{1,3}\s*(?:[-–~→]|to|bis|a|à)\s*\d{1,3}\b")
_HEX = re.compile(r"(?<![\w.])(?:(?!\d[cC])([0-9A-Fa-f]{2})[hH](?!\w)|(?:0x|\$)([0-9A-Fa-f]{1,2})(?!\w))")
_WORDED = re.compile(rf"^\s*(?:(?:{_CHANNEL}\.?\s*\d{{1,3}}|--?|–|—)\s+){{2,}}", re.I)
_SPREAD = re.compile(r"\s*(?P<a>\d{1,3})\s*[-–~]\s*(?P<b>\d{1,3})\s*[:.]?\s+(?P<rest>\S+(?:[\s,;/]+\S+)+)\s*")
_LISTED = re.compile(r"\s*(?P<name>[^:=]{1,40}?)\s*[:=]\s*(?P<rest>\d.*)")
_ITEM = re.compile(r"(?P<n>\d{1,3}(?:\s*[/+&]\s*\d{1,3})*)\s*[.:=)]?\s*(?P<name>[^\d,;].*?)\.?\s*")
_COUNT = re.compile(rf"(\d{{1,3}}\s*-?\s*{_CHANNEL}\.?)", re.I)
_CLOSED = re.compile(r"^\s*(\d{1,3})([^\W\d_][^\d]*?)(\d{1,3}\s*[-–]\s*\d{1,3}.*)?$")
_EACH = re.compile(
    rf"\s*(?P<a>\d{{1,3}})\s*[-–~]\s*(?P<b>\d{{1,3}})\s*[:.=]?\s+(?:{CELL_WORDS})s?\.?\s*(?P<c>\d{{1,3}})\s*"
    rf"(?:[-–~]|{UP_TO})\s*(?P<d>\d{{1,3}})\s*[,:;]?\s*(?P<names>.*?)\s*(?:\b(?:{EACH_WORDS})\b)?\s*",
    re.I,
)
_MIDDLE = re.compile(r"\s*(?P<n>\d{1,3})\s+(?P<name>[^\d]+?)\s+(?P<rest>(?P<low>\d{1,3})\s*[-–~]\s*\d{1,3}\b.*)")
_SCANNED = re.compile(r"(?<![A-Za-z])(?=[0-9lIOoSsZzB|]*\d|[lIO|]{1,2}\s)[0-9lIOoSsZzB|]{1,3}(?![A-Za-z])")


def number_then_name(lines: Lines) -> Lines | None:
    """The number of a channel on a line of its own, its function on the next."""
    return _paired(lines, name_first=False)


def name_then_number(lines: Lines) -> Lines | None:
    """A function on a line of its own, the number of its channel on the next."""
    return _paired(lines, name_first=True)


def _paired(lines: Lines, *, name_first: bool) -> Lines | None:
    """Numbers and names of one line each, put together where the numbers run from 1 (or 0)."""
    filled = [at for at, line in enumerate(lines) if line.text.strip()]
    joined: dict[int, int] = {}
    expected: int | None = None
    for place, at in enumerate(filled):
        found = _ALONE.fullmatch(lines[at].text)
        if found is None:
            continue
        number = int(found["n"])
        if number not in ((0, 1) if expected is None else (expected, 0, 1)):
            continue
        other = place - 1 if name_first else place + 1
        if not 0 <= other < len(filled) or filled[other] in joined.values():
            continue
        name = lines[filled[other]].text
        if _ALONE.fullmatch(name) or _LEVELS.match(name) or len(name.strip()) > MOST_CELL:
            continue
        joined[at] = filled[other]
        expected = number + 1
    if len(joined) < FEWEST:
        return None
    gone = set(joined.values())
    result: Lines = []
    for at, line in enumerate(lines):
        if at in gone:
            continue
        if at not in joined:
            result.append(line)
            continue
        found = _ALONE.fullmatch(line.text)
        assert found is not None
        name_line = lines[joined[at]]
        of = tuple(sorted((*line.of, *name_line.of)))
        result.append(Line(f"{int(found['n'])}\t{name_line.text.strip()}", of))
    return result


def counted_from_zero(lines: Lines) -> Lines | None:
    """Numbers at the front of lines that run from 0: each is one more."""
    runs: list[list[int]] = []
    for at, line in enumerate(lines):
        found = _FIRST.match(line.text)
        if found is None or _LEVELS.match(line.text):
            continue
        number = int(found["n"])
        if number == 0:
            runs.append([at])
        elif runs and number == len(runs[-1]):
            runs[-1].append(at)
    zero = {at for run in runs if len(run) >= FEWEST for at in run}
    if not zero:
        return None
    return [_one_more(line) if at in zero else line for at, line in enumerate(lines)]


def _one_more(line: Line) -> Line:
    found = _FIRST.match(line.text)
    assert found is not None
    rest = line.text[found.end() :]
    return Line(f"{found['before']}{int(found['n']) + 1}{found['behind']}{rest}", line.of)


def offsets(lines: Lines) -> Lines | None:
    """``Start address + 0``, ``S+0``, ``+0``: the number of the channel is one more."""
    return _each(lines, _OFFSET, 1)


def dashed(lines: Lines) -> Lines | None:
    """``- Ch. 1: Red``: a list whose items say that they are channels."""
    return _each(lines, _DASHED, 0)


def _each(lines: Lines, pattern: re.Pattern[str], added: int) -> Lines | None:
    found = [pattern.fullmatch(line.text) for line in lines]
    if sum(one is not None for one in found) < FEWEST:
        return None
    return [
        Line(f"{int(one['n']) + added}\t{one['rest'].strip()}", line.of) if one else line
        for line, one in zip(lines, found, strict=True)
    ]


def sums(lines: Lines) -> Lines | None:
    """``4-channel = Red + Green + Blue + White``: a mode on one line, as many as it says."""
    result: Lines = []
    changed = False
    for line in lines:
        found = _SUM.fullmatch(line.text)
        parts = [part.strip() for part in found["rest"].split("+")] if found else []
        if found is None or len(parts) != int(found["n"]):
            result.append(line)
            continue
        changed = True
        result.append(Line(f"{found['n']} channel mode", line.of))
        result += [Line(f"{at}\t{part}", line.of) for at, part in enumerate(parts, 1)]
    return result if changed else None


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
    return [Line(_HEX.sub(lambda found: str(int(found[1] or found[2], 16)), line.text), line.of) for line in lines]


def mode_column(lines: Lines) -> Lines | None:
    """A table whose first column names the mode of each row: the name stands above its rows instead."""
    for at, line in enumerate(lines):
        for mark in ("\t", ";", ","):
            head = _cells(line.text, mark)
            if len(head) >= FEWEST and role_of(head[0]) is Role.MODE and Role.CHANNEL in map(role_of, head[1:]):
                return [*lines[:at], *_by_mode(lines[at + 1 :], mark, Line("\t".join(head[1:]), line.of))]
    return None


def _by_mode(lines: Lines, mark: str, head: Line) -> Iterator[Line]:
    held = None
    for line in lines:
        cells = _cells(line.text, mark)
        if len(cells) < 2:
            yield line
            continue
        if cells[0] and cells[0] != held:
            held = cells[0]
            yield Line(held, line.of)
            yield Line(head.text, head.of)
        yield Line("\t".join(cells[1:]), line.of)


def _cells(text: str, mark: str) -> list[str]:
    try:
        return [cell.strip() for cell in next(csv.reader([text], delimiter=mark), [])][:MOST_CELLS]
    except csv.Error:
        return []


def without_the_word(lines: Lines) -> Lines | None:
    """``CH1 CH1 CH2 Pan``: columns of modes that say of each number that it is a channel."""
    result = [Line(_WORDED.sub(_bare, line.text), line.of) for line in lines]
    changed = sum(a.text != b.text for a, b in zip(lines, result, strict=True))
    return result if changed >= FEWEST else None


def _bare(found: re.Match[str]) -> str:
    return re.sub(r"[A-Za-z]+\.?\s*(?=\d)", "", found[0])


def spread(lines: Lines) -> Lines | None:
    """``3-5 R1 G1 B1``: as many functions as channels on one line, each on a line of its own."""
    result: Lines = []
    changed = False
    for line in lines:
        found = _SPREAD.fullmatch(line.text)
        first, last = (int(found["a"]), int(found["b"])) if found else (0, 0)
        parts = re.split(r"\s*[,;/]\s*|\s+", found["rest"].strip()) if found else []
        if last <= first or len(parts) != last - first + 1 or not any(part.isalnum() for part in parts):
            result.append(line)
            continue
        changed = True
        result += [Line(f"{first + at}\t{part}", line.of) for at, part in enumerate(parts)]
    return result if changed else None


def named_modes(lines: Lines) -> Lines | None:
    """Columns of modes that have names and no counts: ``Basic Extended Function``, below it ``1 1 Pan``."""
    for at, line in enumerate(lines):
        words = line.text.split()
        ends = next((n for n, word in enumerate(words) if role_of(word) is Role.NAME), 0)
        if ends < 2 or not all(role_of(word) for word in words[ends:]):
            continue
        pattern = re.compile(rf"\s*((?:(?:\d{{1,3}}|-+|–|—)\s+){{{ends}}})(.*)")
        rows = [pattern.fullmatch(held.text) for held in lines[at + 1 :]]
        numbers = [[as_number(cell) for cell in row[1].split()] for row in rows if row]
        if len(numbers) < FEWEST:
            continue
        counts = [max((row[n] or 0 for row in numbers), default=0) for n in range(ends)]
        heads = [f"{name} {count}CH" for name, count in zip(words, counts, strict=False)]
        below = [
            Line("\t".join([*row[1].split(), row[2]]), held.of) if row else held
            for row, held in zip(rows, lines[at + 1 :], strict=True)
        ]
        return [*lines[:at], Line("\t".join([*heads, words[ends]]), line.of), *below]
    return None


def listed_modes(lines: Lines) -> Lines | None:
    """``16-bit: 1/2 Red, 3/4 Green``: a mode on one line, each channel with its number."""
    result: Lines = []
    changed = False
    for line in lines:
        found = _LISTED.fullmatch(line.text)
        items = [_ITEM.fullmatch(item) for item in re.split(r"\s*[,;]\s*", found["rest"])] if found else []
        kept = [item for item in items if item is not None]
        numbers = [int(n) for item in kept for n in re.findall(r"\d+", item["n"])]
        if (
            found is None
            or len(kept) != len(items)
            or len(kept) < FEWEST
            or numbers != list(range(1, len(numbers) + 1))
        ):
            result.append(line)
            continue
        changed = True
        result.append(Line(f"{found['name']} mode {len(numbers)} channels", line.of))
        for item in kept:
            for place, n in enumerate(re.findall(r"\d+", item["n"])):
                result.append(Line(f"{n}\t{item['name']}{' fine' if place else ''}", line.of))
    return result if changed else None


def functions_in_columns(lines: Lines) -> Lines | None:
    """``CH 3CH 5CH`` and below it ``1 Red Dimmer``: each column of a mode says what its channels do."""
    for at, line in enumerate(lines):
        head = _blanks(line.text)
        modes = [found[1] for cell in head[1:] if (found := _COUNT.fullmatch(cell))]
        if len(modes) < 2 or len(modes) != len(head) - 1 or role_of(head[0]) is not Role.CHANNEL:
            continue
        rows = [(held, _blanks(held.text)) for held in lines[at + 1 :]]
        rows = [(held, cells) for held, cells in rows if cells and as_number(cells[0]) is not None]
        named = [cell for _, cells in rows for cell in cells[1:] if cell]
        if len(rows) < FEWEST or sum(as_number(cell) is not None for cell in named) * 2 > len(named):
            continue
        result = [*lines[:at]]
        for column, name in enumerate(head[1:], 1):
            result.append(Line(name, line.of))
            result += [
                Line(f"{cells[0]}\t{cells[column]}", held.of)
                for held, cells in rows
                if column < len(cells) and cells[column]
            ]
        return result
    return None


def _blanks(text: str) -> list[str]:
    """The cells of a line, parted by tabs, else by two blanks or more."""
    parts = text.split("\t") if "\t" in text else re.split(r"\s{2,}", text.strip())
    return [part.strip() for part in parts][:MOST_CELLS]


def without_blanks(lines: Lines) -> Lines | None:
    """``1Dimmer0-255``: columns whose blanks vanished."""
    result = [Line(_CLOSED.sub(r"\1\t\2\t\3", line.text), line.of) for line in lines]
    changed = sum(a.text != b.text for a, b in zip(lines, result, strict=True))
    return result if changed >= FEWEST else None


def cells_each(lines: Lines) -> Lines | None:
    """``11-34 pixel 1 to 8, red, green, blue each``: the same functions for each of some cells."""
    result: Lines = []
    changed = False
    for line in lines:
        found = _EACH.fullmatch(line.text)
        names = re.split(r"\s*(?:[,;/+&]|\band\b|\bund\b)\s*", found["names"]) if found else []
        names = [name for name in names if name]
        first, last = (int(found["a"]), int(found["b"])) if found else (0, 0)
        low, high = (int(found["c"]), int(found["d"])) if found else (0, 0)
        if not names or (high - low + 1) * len(names) != last - first + 1 or last <= first:
            result.append(line)
            continue
        changed = True
        number = first
        for cell in range(low, high + 1):
            for name in names:
                result.append(Line(f"{number}\tcell {cell} {name}", line.of))
                number += 1
    return result if changed else None


def number_repeated(lines: Lines) -> Lines | None:
    """The number of a channel on each row of its levels: all but the first say only levels."""
    result: Lines = []
    changed = 0
    held: list[tuple[Line, list[str]]] = []
    for line in [*lines, Line("", ())]:
        cells = _blanks(line.text)
        numbered = len(cells) > 1 and as_number(cells[0]) is not None
        if held and not (numbered and cells[0] == held[0][1][0]):
            changed += len(held) > 1
            result += _levels_below(held)
            held = []
        if numbered:
            held.append((line, cells))
        elif line.of:
            result.append(line)
    return result if changed > 0 else None


def _levels_below(held: Sequence[tuple[Line, list[str]]]) -> Lines:
    """Rows of one number: the words that all have in common name the channel, the rows below it say its levels."""
    line, cells = held[0]
    at = next((at for at, cell in enumerate(cells) if at and cell and not _LEVELS.match(cell)), 0)
    if len(held) == 1 or not at:
        return [one for one, _ in held]
    words = [row[at].split() if at < len(row) else [] for _, row in held]
    shared = list(takewhile(lambda word: all(word in row for row in words), words[0])) or words[0]
    name = " ".join(shared).rstrip(" 0123456789")
    return [
        Line("\t".join([cells[0], *[""] * (at - 1), name]), line.of),
        *(Line("\t" + "\t".join(row[1:]), one.of) for one, row in held),
    ]


def number_in_the_middle(lines: Lines) -> Lines | None:
    """A number in the middle of its merged cell: its first levels stand above it."""
    result: Lines = []
    changed = False
    for line in lines:
        found = _MIDDLE.fullmatch(line.text)
        above: Lines = []
        while found and int(found["low"]) > 0 and result and _LEVELS.match(result[-1].text):
            above.insert(0, result.pop())
            if re.match(r"\s*0+\s*\D", above[0].text):
                break
        if not found or not above or not re.match(r"\s*0+\s*\D", above[0].text):
            result += [*above, line]
            continue
        changed = True
        head = Line(f"{found['n']}\t{found['name'].strip()}", line.of)
        result += [head, *(Line(f"\t{one.text.strip()}", one.of) for one in above)]
        result.append(Line(f"\t{found['rest'].strip()}", line.of))
    return result if changed else None


Rewriting = Callable[[Lines], Lines | None]
WAYS: tuple[tuple[str, tuple[Rewriting, ...]], ...] = (
    ("a page as its source", (source,)),
    ("numbers above their functions", (number_then_name,)),
    ("functions above their numbers", (name_then_number,)),
    ("counted from 0", (counted_from_zero,)),
    ("numbers above their functions, counted from 0", (number_then_name, counted_from_zero)),
    ("offsets from the start address", (offsets,)),
    ("a list of channels", (dashed,)),
    ("modes as sums", (sums,)),
    ("letters for figures", (scanned,)),
    ("numbers to the base of sixteen", (hexadecimal,)),
    ("a column of modes", (mode_column,)),
    ("columns of channels", (without_the_word,)),
    ("columns of modes with names", (named_modes,)),
    ("columns of channels in modes with names", (without_the_word, named_modes)),
    ("several channels on a line", (spread,)),
    ("modes as lists", (listed_modes,)),
    ("functions in the columns of modes", (functions_in_columns,)),
    ("columns without blanks", (without_blanks,)),
    ("the same for each cell", (cells_each,)),
    ("a number on each row of levels", (number_repeated,)),
    ("numbers in the middle of their levels", (number_in_the_middle,)),
    ("a page as its source, numbers above their functions", (source, number_then_name)),
)
"""Each way by its name, as what is done one after the other."""


def ways_of(texts: Sequence[str]) -> Iterator[tuple[str, Lines]]:
    """The text as every way has it that finds something of its kind in it."""
    plain = [Line(text, (number,)) for number, text in enumerate(texts, 1)]
    for name, steps in WAYS:
        lines: Lines | None = plain
        for step in steps:
            lines = step(lines) if lines is not None else None
        if lines is not None:
            yield name, lines
