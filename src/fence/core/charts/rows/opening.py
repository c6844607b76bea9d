"""Whether a row opens a channel: the numbers at its front, and how they fit the run, the levels and the rows behind."""

from __future__ import annotations

import re
from dataclasses import dataclass

from fence.core.charts.headings import COUNT_BEHIND, MODE
from fence.core.charts.levels import spans_of
from fence.core.charts.notation import as_number
from fence.core.charts.shape import Row
from fence.core.charts.sheet import OWN_LABEL, Sheet
from fence.core.charts.words import ORDINALS, any_of
from fence.core.model.profile import Function

MOST_IN_A_SPAN = 64
"""Channels that one line without a label may speak of."""
MOST_GAP = 8
"""Numbers that a run without labels may leave out."""
TOP = 255
LOOK_AHEAD = 20
"""Rows that are looked at to tell a span of channels from levels."""
LONGEST_PROSE = 6
"""Words behind a number that can be a name; more of them are a sentence, unless one is known."""

LABEL = rf"(?:dmx[\s-]*)?(?:{any_of('channel', 'channels', 'offset', 'number_sign')})\.?"
_NUM = r"\d{1,3}"
_ANY = r"[\dlIO]{1,3}"
_AND = rf"(?:\s*(?:-|/|\+|&|,|~|\.\.|→)\s*|\s+(?:{any_of('up_to', 'joints')})\s+)"
OPENER = re.compile(
    rf"^[\[(]?(?:(?P<label>{LABEL})\s*[#.:]?\s*\+?(?P<l1>{_ANY})(?:{_AND}(?:{LABEL}\s*)?(?P<l2>{_ANY}))?(?![^\W_])"
    rf"|\#?(?P<n1>{_NUM})(?:{_AND}(?P<n2>{_NUM}))?(?![^\W_]|\.\d)(?P<ch>\s*-?(?:{any_of('channel')})\b(?!\w))?)"
    r"\s*[\])]?\s*(?P<sep>[:.)=|;,-]*)\s*(?P<rest>.*)$",
    re.I,
)
_GLUED = re.compile(r"^(?P<n>\d{1,3})\s*-?ch\s*[:.)-]?\s+(?P<rest>\S.*)$", re.I)
_LIST = re.compile(r"^\s*(?:ch\.?\s*)?(\d{1,3}(?:\s*[,/+&]\s*\d{1,3}){2,})[\s:.)-]+(?=\S)", re.I)
_ORDINAL = re.compile(
    rf"^(?:(?:{any_of('article')})\s+)?(?P<o>{'|'.join(ORDINALS)})\s+(?:{LABEL})\s*[:.=-]?\s*"
    r"(?P<rest>\S.*)$",
    re.I,
)


@dataclass(frozen=True, slots=True)
class Opener:
    """The numbers that a row may open channels with, and the words behind them.

    ``labelled``: they are called channels; ``doubtful``: letters were taken for digits; ``span``: two numbers.
    """

    first: int
    last: int
    labelled: bool
    rest: str
    doubtful: bool = False
    span: bool = False


def opener_of(sheet: Sheet, row: Row, text: str | None = None) -> Opener | None:
    """The numbers at the front of a row that may be those of channels."""
    words = row.words if text is None else text
    if (own := OWN_LABEL.match(words)) and own["label"].lower() in sheet.labels:
        words = f"CH{own['n']}{words[own.end() :]}"
    if ordinal := _ORDINAL.match(words):
        number = ORDINALS[ordinal["o"].lower()]
        return Opener(number, number, True, ordinal["rest"])
    if listed := _LIST.match(words):
        numbers = [int(word) for word in re.findall(r"\d{1,3}", listed[1])]
        if numbers == list(range(numbers[0], numbers[0] + len(numbers))):
            return Opener(numbers[0], numbers[-1], words[0].isalpha(), words[listed.end() :], span=True)
    glued = _GLUED.match(words)
    if glued and not MODE.match(glued["rest"]) and int(glued["n"]) in (sheet.expected, 1):
        return Opener(int(glued["n"]), int(glued["n"]), True, glued["rest"])
    found = OPENER.match(words)
    if not found:
        return None
    if found["label"]:
        if not found["rest"] and COUNT_BEHIND.search(words):
            return None
        first, last = as_number(found["l1"]), as_number(found["l2"]) if found["l2"] else None
        if first is None and len(found["l1"]) == 1:
            first = {"l": 1, "I": 1, "O": 0}.get(found["l1"])
        if first is None or (found["l2"] and last is None):
            return None
        scanned = not found["l1"].isdigit()
        return Opener(first, first if last is None else last, True, found["rest"], scanned, last is not None)
    first, last = int(found["n1"]), int(found["n2"] or found["n1"])
    if found["ch"] and (first != sheet.expected or not found["rest"] or MODE.match(found["rest"])):
        return None
    return Opener(first, last, found["ch"] is not None, found["rest"], span=found["n2"] is not None)


def opener_fits(sheet: Sheet, row: Row) -> bool:
    """Whether a row opens a channel, looked at by itself."""
    opener = opener_of(sheet, row)
    return opener is not None and is_channel(sheet, opener, row)


def is_channel(sheet: Sheet, opener: Opener, row: Row) -> bool:
    """Whether a row opens a channel: by its number, by what is beside it, and by the rows behind it."""
    first, last, expected = opener.first + sheet.base, opener.last + sheet.base, sheet.expected
    running = bool(sheet.modes and sheet.modes[-1].slots and not sheet.pending)
    zero = opener.first == 0 and not running
    if last < first or last > 512 or (first < 1 and not zero):
        return False
    if opener.labelled:
        return not running or first != sheet.expected - 1 or named(sheet, opener)
    if running and sheet.modes[-1].labelled and len(sheet.modes[-1].slots) > 1:
        return False
    declared = sheet.declared
    if last > first:
        return is_span(sheet, first, last, row)
    if zero:
        return named(sheet, opener, sure=True)
    if first == expected and (declared is None or first <= declared or named(sheet, opener, sure=True)):
        return _opens(sheet, opener, row, first)
    if first == 1 and running:
        return named(sheet, opener) and not _goes_up(sheet, first)
    if expected < first <= expected + MOST_GAP and running and (declared is None or first <= declared):
        return named(sheet, opener, sure=True) and not _goes_up(sheet, first)
    return False


def _opens(sheet: Sheet, opener: Opener, row: Row, first: int) -> bool:
    """Whether a row with the number that comes next is the next channel, and not a level of the one before."""
    if _goes_up(sheet, first) and sheet.current and sheet.current[-1].channel.ranges:
        if row.indent > sheet.indent + 1 and not named(sheet, opener, sure=True):
            return False
        return named(sheet, opener) or not _later(sheet, first)
    if not opener.rest:
        return False
    known = named(sheet, opener)
    begun = bool(sheet.modes and sheet.modes[-1].slots) or sheet.pending is not None or sheet.table is not None
    if known:
        return True
    sentence = len(opener.rest.split()) > LONGEST_PROSE or (opener.rest.endswith(".") and len(opener.rest.split()) > 3)
    return not sentence or (begun and bool(spans_of(opener.rest)))


def _goes_up(sheet: Sheet, first: int) -> bool:
    """Whether the number is also the level that comes next."""
    return bool(sheet.current) and first == sheet.following


def named(sheet: Sheet, opener: Opener, *, sure: bool = False) -> bool:
    """Whether the words behind the number speak of a function."""
    name = sheet.split(opener.rest)[0]
    if not name:
        return False
    named = sheet.namer.channel(name)
    return not named.doubt if sure else named.channel.function is not Function.OTHER or not named.doubt


def _later(sheet: Sheet, number: int) -> bool:
    """Whether one of the next rows opens the channel of that number."""
    for row in sheet.rows[sheet.place + 1 : sheet.place + LOOK_AHEAD]:
        opener = opener_of(sheet, row) if row.words else None
        if opener is not None and opener.first == number and (opener.labelled or opener.last == number):
            return True
    return False


def is_span(sheet: Sheet, first: int, last: int, row: Row) -> bool:
    """Whether ``4-6`` at the front of a row are channels and not levels."""
    expected, declared = sheet.expected, sheet.declared
    spans = first == expected and last - first < MOST_IN_A_SPAN and (declared is None or last <= declared)
    if not spans:
        return False
    level = bool(sheet.current) and last <= 255 and (first == sheet.following)
    if not level:
        return True
    reached = last
    for other in sheet.rows[sheet.place + 1 : sheet.place + LOOK_AHEAD]:
        opener = opener_of(sheet, other) if other.words else None
        if opener is None:
            continue
        alone = not opener.span
        if alone and opener.first == expected:
            return False  # the number is still to come
        if alone and opener.first == reached + 1:
            return True
        if opener.first == reached + 1:
            reached = opener.last
        if reached == TOP:
            return False  # levels end there, channels do not
    return row.indent <= sheet.indent
