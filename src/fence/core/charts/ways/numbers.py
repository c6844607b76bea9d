"""Ways in which numbers of channels may be meant: from 0, on lines of their own, as offsets,
repeated, behind."""

from __future__ import annotations

import re
from collections.abc import Sequence
from itertools import takewhile

from fence.core.charts.notation import as_number
from fence.core.charts.roles import Role, role_of
from fence.core.charts.ways.lines import CHANNEL, FEWEST, LEVELS, Line, Lines, blanks
from fence.core.charts.words import any_of

MOST_CELL = 60
"""Characters of a line that is a cell of a table by itself."""
_ALONE = re.compile(rf"[\s\-•*(\[]*(?:{CHANNEL}\b\.?\s*#?\s*)?(?P<n>\d{{1,3}})\s*[)\].:]?\s*", re.I)
"""A number that stands on a line of its own, also with the word for it."""
_FIRST = re.compile(
    rf"(?P<before>\s*(?:{CHANNEL}\b\.?\s*)?)(?P<n>\d{{1,3}})"
    r"(?P<behind>\s*(?:[:.)=|\t]|\s{1,}|-\s))",
    re.I,
)
"""A number at the front of a line that says more."""
_START = rf"\s*(?:[-•*]\s*)?(?:(?:{any_of('first')})\s*)?(?:dmx\s*)?"
_OFFSET = re.compile(
    rf"{_START}(?:(?:{any_of('address')}|s|n|a)\.?\s*)?"
    r"\+\s*(?P<n>\d{1,3})(?:\s+|\s*[:=)\-]\s+)(?P<rest>\S.*)",
    re.I,
)
_BASE = re.compile(rf"{_START}(?:{any_of('address')})\s*[:=]\s*(?P<rest>[^\W\d].*)", re.I)
"""The start address itself, with what stands on it."""
_BEHIND = re.compile(r"\s*(?P<name>[^\W\d][^:]*?)[\s.…_:\-]*[\s.…_:\-(\[](?P<n>\d{1,3})[)\]]?\s*")
"""A function, and behind it a number."""
_BOTH = re.compile(r"\s*(?P<less>\d{1,3})[\s|;,]+(?P<n>\d{1,3})[\s|;,]+(?=[^\W\d])")
_DASHED = re.compile(
    rf"\s*[-–•*]\s*{CHANNEL}\b\.?\s*(?P<n>\d{{1,3}})\s*[:.\-=]\s*(?P<rest>\S.*)", re.I
)
_MIDDLE = re.compile(
    r"\s*(?P<n>\d{1,3})\s+(?P<name>[^\d\s](?:[^\d]*?[^\d\s])?)\s+"
    r"(?P<rest>(?P<low>\d{1,3})\s*[-–~]\s*\d{1,3}\b.*)"
)


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
        if _ALONE.fullmatch(name) or LEVELS.match(name) or len(name.strip()) > MOST_CELL:
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
        if found is None or LEVELS.match(line.text):
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
    based = [
        Line(f"+0 {found['rest']}", line.of) if (found := _BASE.fullmatch(line.text)) else line
        for line in lines
    ]
    return _each(based, _OFFSET, 1)


def numbers_behind(lines: Lines) -> Lines | None:
    """``Dimmer ..... 1``: the number of each channel behind its function."""
    run: dict[int, Line] = {}
    for at, line in enumerate(lines):
        found = _BEHIND.fullmatch(line.text)
        if found is not None and int(found["n"]) in (len(run) + 1, 1):
            run[at] = Line(f"{found['n']}\t{found['name'].strip()}", line.of)
    return [run.get(at, line) for at, line in enumerate(lines)] if len(run) >= FEWEST else None


def single_levels(lines: Lines) -> Lines | None:
    """Levels of which only one is said, below their channel: ``0 white``, ``16 red``."""
    result: Lines = []
    changed, channel, level = False, 0, -1
    for line in lines:
        found = _FIRST.match(line.text)
        number = int(found["n"]) if found and not LEVELS.match(line.text) else None
        if number is None:
            result.append(line)
        elif number == channel + 1 and (number > level + 1 or channel == 0):
            channel, level = number, -1
            result.append(line)
        elif number > level and (number == 0 or level >= 0):
            changed, level = True, number
            result.append(
                Line(
                    f"\t{number}-{number} {line.text[found.end() :].strip()}" if found else "",
                    line.of,
                )
            )
        else:
            result.append(line)
    return result if changed else None


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


def number_repeated(lines: Lines) -> Lines | None:
    """The number of a channel on each row of its levels: all but the first say only levels."""
    result: Lines = []
    changed = 0
    held: list[tuple[Line, list[str]]] = []
    for line in [*lines, Line("", ())]:
        cells = blanks(line.text)
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
    """Rows of one number: the words that all have in common name the channel, the rows below it say
    its levels."""
    line, cells = held[0]
    at = next((at for at, cell in enumerate(cells) if at and re.match(r"[^\W\d]", cell)), 0)
    if len(held) == 1 or not at:
        return [one for one, _ in held]
    words = [row[at].split() if at < len(row) else [] for _, row in held]
    shared = list(takewhile(lambda word: all(word in row for row in words), words[0])) or words[0]
    name = " ".join(shared).rstrip(" 0123456789")
    return [
        Line("\t".join([cells[0], *[""] * (at - 1), name]), line.of),
        *(Line("\t" + "\t".join(row[1:]), one.of) for one, row in held),
    ]


def both_countings(lines: Lines) -> Lines | None:
    """``0 | 1 | Pan``: a channel counted from 0, and beside it from 1; only the second is kept."""
    result = [
        Line(_BOTH.sub(r"\g<n>\t", line.text), line.of)
        if (found := _BOTH.match(line.text)) and int(found["n"]) == int(found["less"]) + 1
        else line
        for line in lines
    ]
    changed = [at for at, (a, b) in enumerate(zip(lines, result, strict=True)) if a.text != b.text]
    if len(changed) < FEWEST:
        return None
    head = blanks(lines[changed[0] - 1].text) if changed[0] else []
    if len(head) > 2 and all(role_of(cell) is Role.CHANNEL for cell in head[:2]):
        result[changed[0] - 1] = Line("\t".join(head[1:]), lines[changed[0] - 1].of)
    return result


def bare_fine_bytes(lines: Lines) -> Lines | None:
    """A number alone behind a channel is its fine byte."""
    result: Lines = []
    changed, before = False, 0
    for line in lines:
        alone, opened = _ALONE.fullmatch(line.text), _FIRST.match(line.text)
        if alone and int(alone["n"]) == before + 1 and before:
            changed, before = True, before + 1
            result.append(Line(f"{before}\tfine", line.of))
            continue
        if opened and not alone:
            before = int(opened["n"])
        result.append(line)
    return result if changed else None


def number_in_the_middle(lines: Lines) -> Lines | None:
    """A number in the middle of its merged cell: its first levels stand above it."""
    result: Lines = []
    changed = False
    for line in lines:
        found = _MIDDLE.fullmatch(line.text)
        above: Lines = []
        while found and int(found["low"]) > 0 and result and LEVELS.match(result[-1].text):
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
