"""Reading a chart as it can be copied from a manual or a spreadsheet.

First the shape (``shape``), then what each column holds (``tables``), then row by row: a row opens a channel only where
its number fits the run of numbers, and levels are levels only where they fit those before. Each line keeps what it was
taken for; nothing is dropped unseen, and what is not certain is marked on its own line with the reason.
"""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from fence.core.charts.draft import Building, Draft, LineReading, Slot, Taken, finished, meaningful
from fence.core.charts.headings import (
    CONTINUED,
    COUNT_BEHIND,
    EXACT_MODE,
    MODE,
    PAGE,
    Heading,
    cell_alone,
    counts_in,
    heading_of,
)
from fence.core.charts.levels import PHYSICAL, Span, ranged, ranges_of, spans_of, with_physical
from fence.core.charts.naming import DEFAULT, SAME, WITHOUT_CELL, Namer
from fence.core.charts.notation import LONGEST_LINE, as_number
from fence.core.charts.roles import Role
from fence.core.charts.shape import Row, rows_of
from fence.core.charts.tables import Entry, Table, entry_of, grid_of, numbers_in, table_of
from fence.core.charts.tongues import CHANNEL_WORDS, ORDINALS
from fence.core.words.profile import Byte, Channel, Function, Range

MOST_CHARACTERS = 200_000
MOST_LINES = 5000
"""Lines that are read; a whole manual is shorter."""
MOST_MODES = 100
MOST_CHANNELS = 4000
"""Channels, of all modes together, after which no further mode is begun."""
MOST_IN_A_SPAN = 64
"""Channels that one line without a label may speak of."""
MOST_GAP = 8
"""Numbers that a run without labels may leave out."""
MOST_DOUBTS = 12
"""Doubts about one mode that are told."""
MOST_WORDS = 200
"""Wordings of a person's own that are looked at."""
MOST_ANSWERS = 500
"""Answers of a person about lines that are looked at."""
LOOK_AHEAD = 14
"""Rows that are looked at to tell a span of channels from levels."""
LONGEST_PROSE = 6
"""Words behind a number that can be a name; more of them are a sentence, unless one is known."""


class Answer(StrEnum):
    """What a person says that a line is."""

    CHANNEL = "channel"
    LEVELS = "levels"
    ABOVE = "above"
    LEAVE = "leave out"


_LABEL = rf"(?:dmx[\s-]*)?(?:ch(?:an(?:nel)?)?s?|{CHANNEL_WORDS}|slots?|offset|byte|nr|no|num|n[°º])\.?"
_NUM = r"\d{1,3}"
_ANY = r"[\dlIO]{1,3}"
_AND = r"(?:\s*(?:-|/|\+|&|,|~|\.\.|→)\s*|\s+(?:to|and|bis|und|à|et|a|y|e|tot|t/m|en|até|al)\s+)"
OPENER = re.compile(
    rf"^[\[(]?(?:(?P<label>{_LABEL})\s*[#.:]?\s*\+?(?P<l1>{_ANY})(?:{_AND}(?:{_LABEL}\s*)?(?P<l2>{_ANY}))?(?![^\W_])"
    rf"|\#?(?P<n1>{_NUM})(?:{_AND}(?P<n2>{_NUM}))?(?![^\W_]|\.\d)(?P<ch>\s*-?ch(?:an(?:nel)?)?\b(?!\w))?)"
    r"\s*[\])]?\s*(?P<sep>[:.)=|;,-]*)\s*(?P<rest>.*)$",
    re.I,
)
_GLUED = re.compile(r"^(?P<n>\d{1,3})\s*-?ch\s*[:.)-]?\s+(?P<rest>\S.*)$", re.I)
_LIST = re.compile(r"^\s*(?:ch\.?\s*)?(\d{1,3}(?:\s*[,/+&]\s*\d{1,3}){2,})[\s:.)-]+(?=\S)", re.I)
_ORDINAL = re.compile(rf"^(?:the\s+)?(?P<o>{'|'.join(ORDINALS)})\s+(?:{_LABEL})\s*[:.=-]?\s*(?P<rest>\S.*)$", re.I)
BEHIND = re.compile(
    rf"^(?P<name>[^\W\d].{{0,60}}?)\s*[-(\[,:]*\s*(?:{_LABEL})\s*[#.:]?\s*(?P<n>\d{{1,3}})\s*[)\]:]*(?P<rest>(?:\s.*)?)$",
    re.I,
)
INSIDE = re.compile(
    rf"(?:^|[\s,;(])(?:{_LABEL})\s*#?(\d{{1,3}})\s*(?:[:=)-]|is\b|are\b|controls?\b|sets?\b|for\b|ist\b|est\b|es\b|è\b|é\b)?\s*",
    re.I,
)
INLINE = re.compile(r"(?:^|[\s,;|])(\d{1,3})[\s.:=)-]+(?=[^\W\d])")
EXACT = re.compile(r'^(\d{1,3}) "((?:[^"]|"")*)"(.*)$')
"""A channel whose name is in quotes: it is taken as it stands, whatever it looks like."""
EXACT_RANGE = re.compile(r'^(\d{1,3})-(\d{1,3}) ("(?:[^"]|"")*".*)$')
QUOTED = re.compile(r'"((?:[^"]|"")*)"')
OWN_CHANNEL = re.compile(r"^(\d{1,3}) (\S.*)$")
OWN_RANGE = re.compile(r"^   (\d{1,3})-(\d{1,3}) (\S.*)$")
_LEADERS = re.compile(r"(?<=[^\W\d])\s*(?:\.\s?){2,}\s*|\s*(?:\.\s?){5,}\s*|(?<=\w)\s*_{2,}\s*")
_EDGES = " \t,;:=|.-()[]→>"
_NUMBERED = re.compile(r"^[\[(]?\d")

TOO_MANY = (Taken.LOST, f"more than {MOST_MODES} modes or {MOST_CHANNELS} channels are not read")
JOINED = "belongs to the line above"

Answered = tuple[Taken, str]


def read_chart_text(
    text: str, *, words: Iterable[tuple[str, Function]] = (), answers: Mapping[int, Answer] | None = None
) -> Draft:
    """Read a pasted chart. ``words`` are wordings of the person's own, with what they mean; ``answers`` say of lines
    (from 1) what they are, and the rest is read with that.

    Nonsense gives a draft without channels; every line of the text is in ``lines``.
    """
    given = dict(itertools.islice((answers or {}).items(), MOST_ANSWERS))
    texts = text[:MOST_CHARACTERS].replace("\r\n", "\n").replace("\r", "\n").split("\n")
    reader = _Reader(rows_of(texts[:MOST_LINES]), Namer(tuple(itertools.islice(words, MOST_WORDS))), given)
    reader.read()
    lines = [_line(number, row, reader.readings.get(number)) for number, row in enumerate(texts[:MOST_LINES], 1)]
    if beyond := len(texts[MOST_LINES:]):
        said = f"{beyond} more lines are not read: accepted are {MOST_LINES}"
        lines.append(LineReading(MOST_LINES + 1, texts[MOST_LINES][:LONGEST_LINE], Taken.LOST, said))
    if len(text) > MOST_CHARACTERS:
        said = f"{len(text) - MOST_CHARACTERS} more characters are not read: accepted are {MOST_CHARACTERS}"
        lines.append(LineReading(len(texts) + 1, "", Taken.LOST, said))
    return Draft(tuple(finished(mode) for mode in reader.kept_modes()), tuple(lines))


def _line(number: int, row: str, read: Answered | None) -> LineReading:
    taken, note = read if read is not None and row.strip() else (Taken.BLANK, "")
    if len(row) > LONGEST_LINE:
        rest = f"only its first {LONGEST_LINE} characters are read"
        note = f"{note}; {rest}" if note else rest
    return LineReading(number, row, taken, note)


@dataclass(frozen=True, slots=True)
class _Opener:
    """The numbers that a row may open channels with, and the words behind them."""

    first: int
    last: int
    labelled: bool
    rest: str
    doubtful: bool = False


class _Reader:
    """Reads row after row, knowing the mode and the channel that it is in."""

    def __init__(self, rows: list[Row], namer: Namer, answers: dict[int, Answer]) -> None:
        self.rows, self.namer, self.answers = rows, namer, answers
        self.readings: dict[int, Answered] = {}
        self.modes: list[Building] = []
        self.pending: Heading | None = None
        self.title = ""
        self.current: list[Slot] = []
        self.columns: list[Building] = []
        self.table: Table | None = None
        self.grid: tuple[Function, ...] = ()
        self.cell: int | None = None
        self.held: Row | None = None
        self.place = 0
        self.base = 0
        self.indent = 0
        self.own = False
        self.joinable = False
        self.last_split: tuple[str, tuple[str, tuple[Range, ...], str]] = ("", ("", (), ""))

    # --- the rows, one after the other ---

    def read(self) -> None:
        """Read all rows; ``modes`` and ``readings`` hold what came of them."""
        for place, row in enumerate(self.rows):
            self.place = place
            taken, note = self._take(row)
            for line in row.lines:
                self._say(line, taken, note)
            if row.words and taken not in (Taken.LOST, Taken.HEADING):
                self.held = None

    def _say(self, line: int, taken: Taken, note: str) -> None:
        """What a line was taken for; of several readings of one line the least sure."""
        order = [Taken.LOST, Taken.GUESS, Taken.SURE, Taken.HEADING, Taken.LEFT, Taken.BLANK]
        held = self.readings.get(line)
        if held is None or order.index(taken) < order.index(held[0]):
            self.readings[line] = (taken, note)

    def kept_modes(self) -> list[Building]:
        """The modes with channels. A run of numbers that no function is known in is no mode where there are others."""
        filled = [mode for mode in self.modes if mode.slots]
        telling = [mode for mode in filled if meaningful(mode)]
        if telling:
            for mode in filled:
                if mode in telling or mode.firm:
                    continue
                for slot in mode.slots.values():
                    self.readings[slot.line] = (Taken.LOST, "a list of something else, with no function in it")
            return [mode for mode in filled if mode in telling or mode.firm]
        return filled

    def _take(self, row: Row) -> Answered:
        words = row.words
        if not words or not re.search(r"\w", words):
            return Taken.BLANK, ""
        answer = next((self.answers[line] for line in row.lines if line in self.answers), None)
        if answer is not None:
            return self._answered(row, answer)
        if self.own and (found := self._own_row(row)) is not None:
            return found
        for attempt in (
            self._exact_row,
            self._table_head,
            self._grid_row,
            self._labelled_inside,
            self._listed,
            self._inline,
            self._heading,
            self._table_row,
            self._channel_row,
            self._levels_row,
            self._behind_row,
            self._unnumbered_row,
            self._wrapped_row,
        ):
            found = attempt(row)
            if found is not None:
                return found
        return self._kept_for_later(row)

    def _kept_for_later(self, row: Row) -> Answered:
        """What no rule reads is marked; the next row may take it for its name."""
        if PAGE.search(row.words) or (len(row.words) > LONGEST_LINE // 2):
            return Taken.LOST, "page number or footer" if PAGE.search(row.words) else "not a chart's line"
        self.held = row
        return Taken.LOST, "neither a channel nor a range of levels"

    # --- modes ---

    @property
    def mode(self) -> Building:
        """The mode that is read, begun where there is none yet."""
        if not self.modes:
            self._open(self._fresh())
        return self.modes[-1]

    @property
    def expected(self) -> int:
        """The number of the next channel."""
        return max(self.modes[-1].slots, default=0) + 1 if self.modes and not self.pending else 1

    def _open(self, *modes: Building) -> bool:
        """Begin modes; False where there are too many already."""
        held = sum(len(mode.slots) for mode in self.modes)
        if len(self.modes) + len(modes) > MOST_MODES or held > MOST_CHANNELS:
            return False
        self.modes += modes
        self.cell, self.base = None, 0
        return True

    def _fresh(self) -> Building:
        """A mode of the heading that was read last."""
        heading, self.pending = self.pending, None
        title, self.title = self.title, ""
        if heading is None:
            return Building(title)
        return Building(heading.name, heading.declared, firm=heading.firm)

    def _mode_for(self, first: int) -> Building | None:
        """The mode that a channel of this number belongs to; None where there are too many.

        A heading that is repeated on a further page opens nothing: the numbers go on.
        """
        held = self.modes[-1] if self.modes else None
        if self.pending is not None:
            going = held is not None and held.slots and first > 1 and first == max(held.slots) + 1 and not self.columns
            alike = self.pending.declared is None or held is None or self.pending.declared == held.declared
            if going and alike and held is not None and (held.declared is None or first <= held.declared):
                self.pending = None
                return held
            return self.modes[-1] if self._open(self._fresh()) else None
        if held is None or self.columns or (first == 1 and held.slots):
            self.columns = []
            return self.modes[-1] if self._open(self._fresh()) else None
        return held

    def _heading(self, row: Row) -> Answered | None:
        """The name of a mode, the cell that is spoken of, or the sign that a table goes on."""
        words = row.words
        if (cell := cell_alone(words)) is not None and len(words) < 24:
            self.cell = cell
            return Taken.HEADING, f"cell {cell}"
        if CONTINUED.search(words) and len(words) < 90 and not self._opener_fits(row):
            return Taken.HEADING, "goes on"
        found = heading_of(words)
        if found is None:
            return None
        opener = self._opener(row)
        exact = EXACT_MODE.match(words) is not None
        if not exact and opener is not None and self._is_channel(opener, row):
            return None
        if not exact and spans_of(words, expected=None) and not found.firm:
            return None
        held = self.pending
        bare = re.fullmatch(r"[\W\d]*(?:dmx[\s-]*)?\w*[\W\d]*", found.name.replace("DMX", "")) is not None
        if held is not None and held.firm and held.declared is None and found.declared is not None and bare:
            found = Heading(f"{held.name} ({found.declared} channels)", found.declared, True)
        elif held is not None and held.declared is not None and found.declared is None and self.held is None:
            found = Heading(f"{found.name} ({held.declared} channels)", held.declared, True)
        self.pending, self.own = found, exact
        self.current, self.columns, self.grid, self.joinable = [], [], (), False
        self.cell = None
        if self.table is not None and self.table.modes:
            self.table = None
        return Taken.HEADING, f"mode {found.name}"

    # --- as Fence writes it ---

    def _own_row(self, row: Row) -> Answered | None:
        """A line of a chart as Fence writes it, below its ``Mode:`` line."""
        text = row.text
        if self.current and (levels := OWN_RANGE.match(text)) and int(levels[1]) <= int(levels[2]) <= 255:
            return self._take_range(int(levels[1]), int(levels[2]), levels[3])
        if text.startswith(" ") or '"' in text:
            return None
        found = OWN_CHANNEL.match(text)
        if not found or int(found[1]) != self.expected or spans_of(found[2]) or PHYSICAL.search(found[2]):
            return None
        mode = self._mode_for(int(found[1]))
        if mode is None:
            return TOO_MANY
        self.table = None
        return self._added(mode, int(found[1]), found[2], (), row, "", alone=True)

    def _exact_row(self, row: Row) -> Answered | None:
        """A channel or a range whose words are in quotes, as Fence writes it where they look like something else."""
        text = row.text.strip()
        if self.current and (levels := EXACT_RANGE.match(text)) and int(levels[1]) <= int(levels[2]) <= 255:
            return self._take_range(int(levels[1]), int(levels[2]), levels[3])
        match = EXACT.match(text)
        if not match or not 1 <= int(match[1]) <= 512:
            return None
        mode = self._mode_for(int(match[1]))
        if mode is None:
            return TOO_MANY
        if int(match[1]) in mode.slots:
            return Taken.LOST, f"channel {match[1]} is there already"
        channel = self.namer.channel(match[3]).channel
        self.current = [Slot(replace(channel, name=match[2].replace('""', '"')), row.lines[0])]
        self.columns = []
        mode.slots[int(match[1])] = self.current[0]
        return Taken.SURE, ""

    # --- tables ---

    def _table_head(self, row: Row) -> Answered | None:
        """The head of a table: what its columns hold, and the modes that they number."""
        grid = grid_of(row)
        if grid is not None:
            meanings = [self.namer.means(cell) for cell in grid]
            functions = tuple(meaning.function for meaning in meanings if meaning and meaning.sure)
            if len(functions) == len(grid):
                self.grid, self.current, self.table = functions, [], None
                return Taken.HEADING, "cells against colours"
        if _NUMBERED.match(row.words) and len(counts_in(row.words)) < 2 and not row.delimited:
            return None
        following = self.rows[self.place + 1 : self.place + 12]
        above = self.rows[self.place - 1] if self.place else None
        table = table_of(row, following, above)
        if table is None:
            return None
        again = self.table is not None and self.table.modes == table.modes and bool(self.columns) and bool(table.modes)
        self.table, self.grid, self.joinable = table, (), False
        if again:
            return Taken.HEADING, "head, once more"
        if table.modes:
            pending = self.pending
            columns = [
                Building(self._column_name(name, declared, pending, len(table.modes)), declared, firm=True)
                for name, declared in table.modes
            ]
            if not self._open(*columns):
                return TOO_MANY
            self.pending, self.columns, self.current = None, columns, []
            return Taken.HEADING, f"{len(columns)} modes, one a column" if len(columns) > 1 else "head"
        return Taken.HEADING, "head"

    def _column_name(self, name: str, declared: int | None, pending: Heading | None, count: int) -> str:
        return pending.name if count == 1 and pending is not None and pending.declared in (None, declared) else name

    def _grid_row(self, row: Row) -> Answered | None:
        """The channels of one cell, a number below each colour."""
        if not self.grid:
            return None
        numbers = [as_number(cell) for cell in re.split(r"[\s|;]+", row.words)]
        given = [number for number in numbers if number is not None]
        if len(given) != len(numbers) or len(given) != len(self.grid) + 1:
            self.grid = ()
            return None
        mode = self._mode_for(given[1])
        if mode is None or not all(1 <= offset <= 512 and offset not in mode.slots for offset in given[1:]):
            return None
        for function, offset in zip(self.grid, given[1:], strict=True):
            mode.slots[offset] = Slot(Channel(function, cell=given[0]), row.lines[0])
        self.current = []
        return Taken.SURE, ""

    def _table_row(self, row: Row) -> Answered | None:
        """A row by the columns of its table."""
        table = self.table
        if table is None:
            return None
        entry = entry_of(table, row)
        if entry is None:
            return None
        if table.modes and self.columns:
            if any(place is not None for place in entry.places):
                return self._columns_row(entry, row)
            return self._below_row(entry, table, row)
        if not table.has(Role.CHANNEL) or table.modes:
            return None
        number = numbers_in(entry.text(Role.CHANNEL)) if entry.text(Role.CHANNEL) else None
        if number is None:
            return self._below_row(entry, table, row)
        if number[-1] > number[0] and not self._is_span(number[0] + self.base, number[-1] + self.base, row):
            return None
        if table.has(Role.MODE) and entry.text(Role.MODE) and not self._go_to(entry.text(Role.MODE)):
            return TOO_MANY
        return self._numbered_entry(entry, table, number, row)

    def _go_to(self, name: str) -> bool:
        """Go on in the mode of that name, or begin it: a table may say the mode in every row."""
        held = next((mode for mode in self.modes if mode.name == name[:60]), None)
        self.pending = None
        if held is None:
            self.current = []
            return self._open(Building(name[:60], firm=True))
        if held is not self.modes[-1]:
            self.modes.remove(held)
            self.modes.append(held)
            self.current = []
        return True

    def _words_of(self, entry: Entry, table: Table) -> tuple[str, tuple[Range, ...], str]:
        """The name and the levels of a table's row, and what to doubt about them."""
        name, doubt = entry.text(Role.NAME), ""
        value, meaning = entry.text(Role.VALUE), entry.text(Role.MEANING)
        if table.has(Role.FROM) and table.has(Role.TO):
            low, high = as_number(entry.text(Role.FROM)), as_number(entry.text(Role.TO))
            if low is not None and high is not None and low <= high <= 255:
                return name, self._single(low, high, meaning if table.meaning_apart else ""), doubt
        if not value and (spans := spans_of(name)) and spans[0].start > 0:
            name, value = name[: spans[0].start], name[spans[0].start :]
        elif not value and not table.has(Role.VALUE) and (spans := spans_of(meaning)):
            value, meaning = meaning, ""
        spans = spans_of(value, value=True, expected=self._following if not name else None)
        if not spans:
            if physical := PHYSICAL.search(value) or PHYSICAL.search(meaning):
                return name, (with_physical(Range(0, 255, physical[0])),), doubt
            if value and not _whole(value) and meaning and (spans := spans_of(meaning)):
                return name, tuple(ranges_of(meaning, spans)), doubt
            return name, (), doubt
        if any(span.scanned for span in spans):
            doubt = "letters among the levels are taken as digits"
        found = ranges_of(value, spans)
        inner = [r for r in found if r.meaning != "no words"]
        if len(found) == 1 and not inner:
            words = meaning or (name if not table.meaning_apart and self._levels_first(table) else "")
            found = [ranged(spans[0], words)] if words else [replace(found[0], meaning="no words")]
        elif len(found) == 1 and meaning:
            found = [ranged(spans[0], f"{found[0].meaning} {meaning}")]
        return name, tuple(r for r in found if (r.first, r.last) != (0, 255) or r.meaning != "no words"), doubt

    def _levels_first(self, table: Table) -> bool:
        """Whether the levels stand before the function, which then is their meaning too."""
        roles = [column.role for column in table.columns]
        return Role.VALUE in roles and Role.NAME in roles and roles.index(Role.VALUE) < roles.index(Role.NAME)

    def _single(self, low: int, high: int, meaning: str) -> tuple[Range, ...]:
        if (low, high) == (0, 255) and not meaning.strip():
            return ()
        return (ranged(Span(0, 0, low, high), meaning),)

    def _numbered_entry(self, entry: Entry, table: Table, number: list[int], row: Row) -> Answered | None:
        """A table's row with the number of its channel."""
        first, last = number[0], number[-1]
        if first == 0 and not (self.modes and self.modes[-1].slots and not self.pending):
            self.base = 1
        first, last = first + self.base, last + self.base
        name, ranges, doubt = self._words_of(entry, table)
        if self._levels_first(table) and not table.meaning_apart and ranges:
            name = self._name_and_meaning(name)
        if (
            ranges
            and not self.pending
            and self.modes
            and first in self.modes[-1].slots
            and self._same_again(first, name)
        ):
            return self._more_levels(ranges, row)
        mode = self._mode_for(first)
        if mode is None or first < 1 or last > 512:
            return TOO_MANY if mode is None else None
        if first in mode.slots:
            return Taken.LOST, f"channel {first} is there already"
        if not name and self.held is not None and self._adjacent(self.held, row):
            name = self._claim(self.held)
        if entry.text(Role.DEFAULT) and (level := re.match(r"(\d{1,3})\s*(%?)", entry.text(Role.DEFAULT))):
            name = f"{name} default {level[1]}{level[2]}"
        if cell := re.search(r"\d{1,3}", entry.text(Role.CELL)):
            name = f"{name} cell {cell[0]}"
        if last > first:
            return self._several(mode, first, last, name, ranges, row, doubt)
        orderly = first == max(mode.slots, default=0) + 1
        return self._added(mode, first, name, ranges, row, doubt or ("" if orderly else "its number is out of order"))

    def _name_and_meaning(self, name: str) -> str:
        """The function in the words of a level: what stands before the comma, if that is known."""
        head, comma, _ = name.partition(",")
        known = self.namer.means(head)
        return head if comma and known is not None and known.sure else name

    def _same_again(self, number: int, name: str) -> bool:
        """Whether a row repeats the number of the channel that is read, to say more of its levels."""
        slot = self.modes[-1].slots[number]
        return slot in self.current and (
            not name or slot.said.split("  ")[0].startswith(name[:12]) or name in slot.said
        )

    def _more_levels(self, ranges: tuple[Range, ...], row: Row) -> Answered:
        worst: Answered = (Taken.SURE, "")
        for found in ranges:
            taken = self._put_range(found)
            worst = taken if taken[0] is not Taken.SURE else worst
        return worst

    def _columns_row(self, entry: Entry, row: Row) -> Answered | None:
        """A channel that several modes number, each in a column of its own."""
        assert self.table is not None
        name, ranges, doubt = self._words_of(entry, self.table)
        if self.table.grid and not ranges:
            name, ranges, doubt = self._split(name)
        if not name:
            return None
        self.current, taken = [], (Taken.SURE, "")
        for mode, place in zip(self.columns, entry.places, strict=False):
            if place is None:
                continue
            numbers = place or [max(mode.slots, default=0) + 1]
            if len(numbers) > 2 or (len(numbers) == 2 and self.namer.several(name, 2, []) is not None):
                self._several(mode, numbers[0], numbers[-1], name, ranges, row, doubt, keep=True)
                continue
            for offset in numbers:
                byte = None if len(numbers) == 1 else (Byte.COARSE if offset == numbers[0] else Byte.FINE)
                found = self._added(mode, offset, name, ranges, row, doubt, byte=byte, keep=True)
                taken = found if found[0] is not Taken.SURE else taken
        self.joinable = True
        return taken

    def _below_row(self, entry: Entry, table: Table, row: Row) -> Answered | None:
        """A table's row without a number: further levels, or words that go on from the line above."""
        if not self.current:
            return None
        name, ranges, doubt = self._words_of(entry, table)
        apart = table.meaning_apart or not self._levels_first(table)
        if ranges or _whole(entry.text(Role.VALUE)):
            if name and apart and table.has(Role.VALUE) and entry.text(Role.VALUE):
                self._join_name(name, row)
            elif name and ranges and not apart:
                pass
            taken = self._more_levels(ranges, row)
            if doubt and taken[0] is Taken.SURE:
                return Taken.GUESS, doubt
            return taken
        if not entry.texts or not self.joinable or not self._close(row):
            return None
        only = row.filled[0].start if row.filled else 0
        if name and not row.delimited and only <= self.indent:
            return None
        if name and not self.namer.knows(name) and heading_of(row.words) is not None:
            return None
        if name:
            self._join_name(name, row)
        if meaning := entry.text(Role.MEANING) or entry.text(Role.VALUE):
            self._join_meaning(meaning)
        return Taken.SURE, JOINED

    def _close(self, row: Row) -> bool:
        """Whether the row stands right behind one that was read."""
        before = self.rows[self.place - 1] if self.place else None
        return before is not None and bool(before.words) and row.lines[0] - before.lines[-1] <= 1

    def _join_name(self, name: str, row: Row) -> None:
        for slot in self.current:
            slot.said = f"{slot.said} {name}"
            named = self.namer.channel(slot.said)
            fresh = named.channel
            slot.channel = replace(
                slot.channel, function=fresh.function, name=fresh.name, cell=slot.channel.cell or fresh.cell,
                byte=fresh.byte if slot.channel.byte is Byte.WHOLE else slot.channel.byte,
            )  # fmt: skip
            taken = (Taken.GUESS, named.doubt) if named.doubt else (Taken.SURE, "")
            for line in slot.lines or (slot.line,):
                if self.readings.get(line, (Taken.SURE, ""))[0] in (Taken.SURE, Taken.GUESS):
                    self.readings[line] = taken

    def _join_meaning(self, words: str) -> None:
        for slot in self.current:
            if slot.channel.ranges:
                last = slot.channel.ranges[-1]
                known = "" if last.meaning == "no words" else f"{last.meaning} "
                joined = with_physical(replace(last, meaning=f"{known}{' '.join(words.split())}"))
                slot.channel = replace(slot.channel, ranges=(*slot.channel.ranges[:-1], joined))

    # --- rows without a table ---

    def _opener(self, row: Row, text: str | None = None) -> _Opener | None:
        """The numbers at the front of a row that may be those of channels."""
        words = row.words if text is None else text
        if ordinal := _ORDINAL.match(words):
            number = ORDINALS[ordinal["o"].lower()]
            return _Opener(number, number, True, ordinal["rest"])
        if listed := _LIST.match(words):
            numbers = [int(word) for word in re.findall(r"\d{1,3}", listed[1])]
            if numbers == list(range(numbers[0], numbers[0] + len(numbers))):
                return _Opener(numbers[0], numbers[-1], words[0].isalpha(), words[listed.end() :])
        glued = _GLUED.match(words)
        if glued and not MODE.match(glued["rest"]) and int(glued["n"]) in (self.expected, 1):
            return _Opener(int(glued["n"]), int(glued["n"]), True, glued["rest"])
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
            return _Opener(first, first if last is None else last, True, found["rest"], scanned)
        first, last = int(found["n1"]), int(found["n2"] or found["n1"])
        if found["ch"] and (first != self.expected or not found["rest"] or MODE.match(found["rest"])):
            return None
        return _Opener(first, last, found["ch"] is not None, found["rest"])

    def _opener_fits(self, row: Row) -> bool:
        opener = self._opener(row)
        return opener is not None and self._is_channel(opener, row)

    @property
    def _following(self) -> int:
        """The level that comes next in the channel that is read."""
        held = self.current[-1].channel.ranges if self.current else ()
        return held[-1].last + 1 if held else 0

    def _is_channel(self, opener: _Opener, row: Row) -> bool:
        """Whether a row opens a channel: by its number, by what is beside it, and by the rows behind it."""
        first, last, expected = opener.first + self.base, opener.last + self.base, self.expected
        running = bool(self.modes and self.modes[-1].slots and not self.pending)
        zero = opener.first == 0 and not running
        if last < first or last > 512 or (first < 1 and not zero):
            return False
        if opener.labelled:
            return not running or first != self.expected - 1 or self._named(opener)
        if running and self.modes[-1].labelled and len(self.modes[-1].slots) > 1:
            return False
        declared = self._declared
        if last > first:
            return self._is_span(first, last, row)
        if zero:
            return self._named(opener, sure=True)
        if first == expected and (declared is None or first <= declared or self._named(opener, sure=True)):
            return self._opens(opener, row, first)
        if first == 1 and running:
            return self._named(opener) and not self._goes_up(first)
        if expected < first <= expected + MOST_GAP and running and (declared is None or first <= declared):
            return self._named(opener, sure=True) and not self._goes_up(first)
        return False

    @property
    def _declared(self) -> int | None:
        return self.pending.declared if self.pending else (self.modes[-1].declared if self.modes else None)

    def _opens(self, opener: _Opener, row: Row, first: int) -> bool:
        """Whether a row with the number that comes next is the next channel, and not a level of the one before."""
        if self._goes_up(first) and self.current and self.current[-1].channel.ranges:
            if row.indent > self.indent + 1 and not self._named(opener, sure=True):
                return False
            return self._named(opener) or not self._later(first)
        if not opener.rest:
            return False
        known = self._named(opener)
        begun = bool(self.modes and self.modes[-1].slots) or self.pending is not None or self.table is not None
        if known:
            return True
        sentence = len(opener.rest.split()) > LONGEST_PROSE or (
            opener.rest.endswith(".") and len(opener.rest.split()) > 3
        )
        return begun or not sentence if spans_of(opener.rest) else not sentence

    def _goes_up(self, first: int) -> bool:
        return bool(self.current) and first == self._following

    def _named(self, opener: _Opener, *, sure: bool = False) -> bool:
        """Whether the words behind the number speak of a function."""
        name = self._split(opener.rest)[0]
        if not name:
            return False
        named = self.namer.channel(name)
        return not named.doubt if sure else named.channel.function is not Function.OTHER or not named.doubt

    def _later(self, number: int) -> bool:
        """Whether one of the next rows opens the channel of that number."""
        for row in self.rows[self.place + 1 : self.place + LOOK_AHEAD]:
            opener = self._opener(row) if row.words else None
            if opener is not None and opener.first == number and (opener.labelled or opener.last == number):
                return True
        return False

    def _is_span(self, first: int, last: int, row: Row) -> bool:
        """Whether ``4-6`` at the front of a row are channels and not levels."""
        expected, declared = self.expected, self._declared
        spans = first == expected and last - first < MOST_IN_A_SPAN and (declared is None or last <= declared)
        if not spans:
            return False
        level = bool(self.current) and last <= 255 and (first == self._following)
        if not level:
            return True
        for other in self.rows[self.place + 1 : self.place + LOOK_AHEAD]:
            opener = self._opener(other) if other.words else None
            if opener is None:
                continue
            if opener.first == last + 1:
                return opener.last == opener.first or opener.last - opener.first < MOST_IN_A_SPAN // 2
            if opener.first == expected and opener.last == opener.first:
                return False
        return row.indent <= self.indent

    def _channel_row(self, row: Row) -> Answered | None:
        """A number and the words of its channel."""
        opener = self._opener(row)
        if opener is None or not self._is_channel(opener, row):
            return None
        running = bool(self.modes and self.modes[-1].slots and not self.pending)
        if opener.first == 0 and not running:
            self.base = 1
        first, last = opener.first + self.base, opener.last + self.base
        base = self.base
        name, ranges, doubt = self._split(opener.rest)
        if ranges and running and first in self.modes[-1].slots and self._same_again(first, name):
            return self._more_levels(ranges, row)
        held = self.held if self.held is not None and self._adjacent(self.held, row) else None
        mode = self._mode_for(first)
        if mode is None:
            return TOO_MANY
        self.base = base
        if first in mode.slots:
            return Taken.LOST, f"channel {first} is there already"
        orderly = first == max(mode.slots, default=0) + 1
        if not mode.slots:
            mode.labelled = opener.labelled
        mode.labelled = mode.labelled and opener.labelled
        self.columns = []
        if self.table is not None and self.table.modes:
            self.table = None
        if held is not None and self.namer.knows(held.words) and (not name or self.namer.channel(name).doubt):
            claimed = self._claim(held)
            ranges = self._reread(opener.rest, ranges)
            name = claimed
        self.indent = row.indent
        if last > first:
            alike = SAME.match(" " + opener.rest.lstrip(" -")) is not None
            words, levels = (opener.rest.lstrip(" -"), ()) if alike or not ranges else (name, ranges)
            return self._several(mode, first, last, words, levels, row, doubt)
        if opener.doubtful:
            doubt = doubt or "letters in the number are taken as digits"
        if not orderly and not opener.labelled:
            doubt = doubt or "its number is out of order"
        return self._added(mode, first, name, ranges, row, doubt)

    def _reread(self, rest: str, ranges: tuple[Range, ...]) -> tuple[Range, ...]:
        """The levels of a row whose name stands on the line before: all words behind them are their meaning."""
        spans = spans_of(rest)
        return (
            tuple(r for r in ranges_of(rest, spans) if (r.first, r.last) != (0, 255) or r.meaning != "no words")
            or ranges
        )

    def _adjacent(self, held: Row, row: Row) -> bool:
        return 0 < row.lines[0] - held.lines[-1] <= 1

    def _claim(self, held: Row) -> str:
        """The words of a line that stood alone, as the name of the channel behind it."""
        for line in held.lines:
            self.readings[line] = (Taken.SURE, "name of the next line")
        self.held = None
        return held.words

    def _added(
        self,
        mode: Building,
        offset: int,
        name: str,
        ranges: tuple[Range, ...],
        row: Row,
        doubt: str,
        *,
        byte: Byte | None = None,
        keep: bool = False,
        alone: bool = False,
    ) -> Answered:
        """Put a channel into a mode, and say how sure that is. ``alone``: its words say all, whatever is before it."""
        if offset in mode.slots:
            if len(mode.doubts) < MOST_DOUBTS:
                mode.doubts.append(f"Line {row.lines[0]} speaks of channel {offset} once more.")
            return Taken.GUESS, f"channel {offset} is there already"
        before = None if alone else mode.slots.get(offset - 1)
        named = self.namer.channel(name, ranges, byte, before.channel if before else None)
        channel = named.channel
        if channel.cell is None and self.cell is not None and channel.function not in WITHOUT_CELL:
            channel = replace(channel, cell=self.cell)
        slot = Slot(channel, row.lines[0], name, row.lines)
        mode.slots[offset] = slot
        self.current = [*self.current, slot] if keep else [slot]
        self.joinable = True
        said = named.doubt or doubt
        return (Taken.GUESS, said) if said else (Taken.SURE, "")

    def _several(
        self, mode: Building, first: int, last: int, words: str, ranges: tuple[Range, ...], row: Row, doubt: str,
        *, keep: bool = False,
    ) -> Answered:  # fmt: skip
        """A row that speaks of several channels: a pair of bytes, or colours for each cell."""
        count = last - first + 1
        before = [mode.slots[n].channel for n in range(1, first) if n in mode.slots]
        aligned = before if len(before) == first - 1 else []
        made = self.namer.several(words, count, aligned)
        if made is None:
            made = [self.namer.channel(words).channel] * count, f"taken as {count} channels of one kind"
        channels, said = made
        if aligned and channels and (channels[0].cell or 0) > 1:
            self._first_cell(mode, first, channels)
        slots = []
        for offset, channel in enumerate(channels, first):
            if channel.cell is None and self.cell is not None and channel.function not in WITHOUT_CELL:
                channel = replace(channel, cell=self.cell)
            if offset not in mode.slots:
                mode.slots[offset] = Slot(channel, row.lines[0], words, row.lines)
                slots.append(mode.slots[offset])
        if ranges and slots:
            slots[0].channel = replace(slots[0].channel, ranges=ranges)
        pair = count == 2 and channels[1].byte is Byte.FINE
        self.current = [*(self.current if keep else []), *(slots[:1] if pair else slots)]
        self.joinable = True
        said = said or doubt
        return (Taken.GUESS, said) if said else (Taken.SURE, "")

    def _first_cell(self, mode: Building, first: int, channels: list[Channel]) -> None:
        """The channels that later cells are like are those of the cell before, where none is named."""
        size = sum(channel.cell == channels[0].cell for channel in channels)
        cell = (channels[0].cell or 1) - 1
        before = [mode.slots[n] for n in range(first - size, first) if n in mode.slots]
        alike = [slot.channel.function for slot in before] == [channel.function for channel in channels[:size]]
        if alike and cell == 1 and all(slot.channel.cell is None for slot in before):
            for slot in before:
                slot.channel = replace(slot.channel, cell=1)

    def _split(self, words: str) -> tuple[str, tuple[Range, ...], str]:
        """The name of a channel and the levels behind it, and what to doubt about them."""
        if self.last_split[0] != words:
            name, ranges, doubt = self._parted(words)
            if (default := DEFAULT.search(words)) and not DEFAULT.search(name):
                name = f"{name} {default[0]}"
            self.last_split = words, (name, ranges, doubt)
        return self.last_split[1]

    def _parted(self, words: str) -> tuple[str, tuple[Range, ...], str]:
        text = _LEADERS.sub("   ", words)
        spans = spans_of(text)
        if spans and (text[: spans[0].start].strip(_EDGES) or text[spans[0].end :].strip(_EDGES) or len(spans) > 1):
            doubt = "letters among the levels are taken as digits" if any(span.scanned for span in spans) else ""
            name = text[: spans[0].start].strip(_EDGES)
            if not re.search(r"[^\W\d]", name):
                return *self._levels_then_name(text, spans), doubt
            found = ranges_of(text, spans)
            behind = text[spans[-1].end :].strip(_EDGES)
            if len(spans) > 1 and not behind:
                pieces = re.split(r"[:|]|\s{2,}", text[: spans[0].start].strip(_EDGES), maxsplit=1)
                name = pieces[0]
            name = self._without_remark(re.split(r"\s{2,}", name)[0])
            kept = tuple(r for r in found if (r.first, r.last) != (0, 255) or r.meaning != "no words")
            return name.strip(_EDGES), kept, doubt
        if spans:
            name = text[: spans[0].start].strip(_EDGES)
            return name, (), ""
        cells = [cell.strip() for cell in re.split(r"\t+|\s*\|\s*|\s{2,}|\s*;\s*", text) if cell.strip()]
        name = cells[0] if cells else ""
        physical = PHYSICAL.search(text)
        if physical and physical.start() > 0 and re.search(r"[^\W\d]", text[: physical.start()]):
            name = text[: physical.start()].strip(_EDGES) if len(cells) == 1 else name
            return name.strip(_EDGES), (with_physical(Range(0, 255, text[physical.start() : physical.end()])),), ""
        return self._without_remark(name), (), ""

    def _without_remark(self, name: str) -> str:
        """A name without the remark behind a comma or colon, where what stands before says what it is."""
        for mark in (":", ",", " (", " - "):
            head, found, tail = name.partition(mark)
            if not found or not head.strip():
                continue
            whole = self.namer.channel(name)
            short = self.namer.channel(head)
            if (
                whole.doubt
                and not short.doubt
                and not (mark == "," and len(tail.split()) == 1 and self.namer.means(tail))
            ):
                if mark == " (" and short.channel.byte is not whole.channel.byte:
                    continue
                kept = self.namer.channel(f"{head} {tail}")
                if (kept.channel.byte, kept.channel.cell) == (short.channel.byte, short.channel.cell):
                    return head.strip(_EDGES)
        return name.strip(" \t,;:=|-")

    def _levels_then_name(self, text: str, spans: Sequence[Span]) -> tuple[str, tuple[Range, ...]]:
        """The words behind the levels where those stand first: the function, and what it does at them."""
        found = ranges_of(text, spans)
        cells = re.split(
            r"\s{2,}|\t", text[spans[0].end : spans[1].start if len(spans) > 1 else len(text)].strip(_EDGES)
        )
        name = self._name_and_meaning(cells[0].strip(_EDGES))
        kept = [replace(found[0], meaning=found[0].meaning), *found[1:]]
        if (kept[0].first, kept[0].last) == (0, 255):
            kept = kept[1:]
        elif name != cells[0].strip(_EDGES):
            kept[0] = ranged(spans[0], cells[0].partition(",")[2] or cells[0])
        return name, tuple(kept)

    # --- levels ---

    def _levels_row(self, row: Row) -> Answered | None:
        """Levels of the channel that is read, one or several on a line."""
        if not self.current:
            return None
        text = row.words.lstrip(";|,• \t")
        spans = spans_of(text, expected=self._following)
        if not spans:
            alone = as_number(text)
            single = re.match(r"^[\[(]?(\d{1,3})[\])]?\s*[:=]?\s+(\D.*)$", text)
            if (
                single
                and self.current[-1].channel.ranges
                and self._following <= int(single[1]) <= 255
                and row.indent > self.indent
            ):
                return self._take_range(int(single[1]), int(single[1]), single[2])
            return (Taken.LOST, "a number alone") if alone is not None and not self._indented(row) else None
        if spans[0].start > 24 and len(spans) == 1:
            return None
        lead = text[: spans[0].start].strip(_EDGES)
        ranges = ranges_of(text, spans)
        if lead and len(spans) == 1:
            if len(lead.split()) > 4 or not (row.indent > self.indent or self._fits_next(spans[0])):
                return None
            if ranges[0].meaning == "no words":
                ranges = [ranged(spans[0], lead)]
        if not lead and spans[0].first > spans[0].last:
            return None
        bare = [r for r in ranges if (r.first, r.last) == (0, 255) and r.meaning == "no words"]
        if len(bare) == len(ranges):
            return Taken.SURE, ""
        scanned = any(span.scanned for span in spans)
        held = self.current[-1].channel.ranges
        following = self._following
        plausible = (
            self._fits_next(spans[0]) or spans[0].first == 0 or self._indented(row) or spans[0].first > following
        )
        if not plausible and not held:
            return None
        worst: Answered = (Taken.SURE, "")
        for found in ranges:
            taken = self._put_range(found)
            if taken[0] is Taken.LOST or worst[0] is Taken.SURE:
                worst = taken
        if worst[0] is Taken.SURE and scanned:
            return Taken.GUESS, "letters among the levels are taken as digits"
        if worst[0] is Taken.SURE and lead and len(spans) == 1:
            return Taken.GUESS, "the words before the levels are taken as their meaning"
        if worst[0] is Taken.SURE and ranges and ranges[0].first > following:
            return Taken.SURE, f"levels {following} to {ranges[0].first - 1} are said nothing of"
        self.joinable = True
        return worst

    def _indented(self, row: Row) -> bool:
        return row.indent > self.indent

    def _fits_next(self, span: Span) -> bool:
        return span.first == self._following

    def _put_range(self, found: Range) -> Answered:
        for slot in self.current:
            held = slot.channel.ranges
            if any(r.first <= found.last and found.first <= r.last for r in held):
                return Taken.LOST, f"levels {found.first} to {found.last} are taken already"
            slot.channel = replace(slot.channel, ranges=tuple(sorted((*held, found), key=lambda r: r.first)))
        return Taken.SURE, ""

    def _take_range(self, first: int, last: int, words: str) -> Answered:
        """A range whose words are as Fence writes them; in quotes they are taken as they stand."""
        quoted = QUOTED.match(words.strip())
        found = with_physical(Range(first, last, words.strip(" ,;:-|\t") or "no words"))
        if quoted:  # only braces behind it say what it runs from and to
            spanned = with_physical(Range(first, last, "x" + words.strip()[quoted.end() :]))
            found = replace(spanned, meaning=quoted[1].replace('""', '"'))
        return self._put_range(found)

    # --- several on a line, names without numbers, words that go on ---

    def _listed(self, row: Row) -> Answered | None:
        """A mode and its channels on one line: ``5CH: Dimmer, Red, Green, Blue, Strobe``."""
        match = re.match(r"^([^:=]{1,40})[:=]\s*(\S.*)$", row.words)
        counts = counts_in(match[1]) if match else []
        names = [name.strip(" .") for name in re.split(r"[,;/]|\s-\s", match[2])] if match else []
        if match is None or len(counts) != 1 or len(names) != counts[0] or len(names) < 2:
            return None
        if not self._open(Building(match[1].strip()[:60], len(names), firm=True)):
            return TOO_MANY
        self.pending, self.columns, self.current = None, [], []
        return self._all_added(names, row)

    def _all_added(self, names: list[str], row: Row) -> Answered:
        taken: Answered = (Taken.SURE, "")
        first = max(self.mode.slots, default=0) + 1
        for place, name in enumerate(names, first):
            added = self._added(self.mode, place, name, (), row, "")
            taken = added if added[0] is not Taken.SURE else taken
        self.current = []
        return taken

    def _inline(self, row: Row) -> Answered | None:
        """Channels one behind the other on a line: ``1 Red 2 Green 3 Blue``."""
        pieces = INLINE.split(row.words)
        numbers, names = [int(word) for word in pieces[1::2]], [name.strip(" ,;.|") for name in pieces[2::2]]
        first = self.expected
        if len(numbers) < 3 or pieces[0].strip() or numbers != list(range(first, first + len(numbers))):
            return None
        if not all(self.namer.knows(name) for name in names):
            return None
        if self._mode_for(first) is None:
            return TOO_MANY
        return self._all_added(names, row)

    def _labelled_inside(self, row: Row) -> Answered | None:
        """Channels in a sentence: ``channel 1 is red, channel 2 is green``."""
        marks = list(INSIDE.finditer(row.words))
        numbers = [int(mark[1]) for mark in marks]
        start = self.expected
        if heading_of(row.words) is not None and row.words[: marks[0].start()].strip() if marks else False:
            start = 1
        if len(numbers) < 2 or numbers != list(range(start, start + len(numbers))):
            return None
        ends = [*(mark.start() for mark in marks[1:]), len(row.words)]
        names = [row.words[mark.end() : end] for mark, end in zip(marks, ends, strict=True)]
        names = [
            re.sub(r"(?:,|;|\band|\bund|\bet|\by|\be|\ben)\s*$", "", name.strip(" .")).strip(" ,;.") for name in names
        ]
        if not all(self.namer.knows(name) for name in names):
            return None
        lead = heading_of(row.words[: marks[0].start()].strip(" ,:;")) if marks[0].start() else None
        if lead is not None:
            self.pending = Heading(f"{lead.declared} channel" if lead.declared else lead.name, lead.declared, True)
        if self._mode_for(start) is None:
            return TOO_MANY
        return self._all_added(names, row)

    def _behind_row(self, row: Row) -> Answered | None:
        """A channel whose number stands behind its name: ``Dimmer (Ch. 1) 0-255``."""
        found = BEHIND.match(row.words)
        if not found or not self.namer.knows(found["name"]):
            return None
        number = int(found["n"])
        running = bool(self.modes and self.modes[-1].slots and not self.pending)
        if number != self.expected and not (number == 1 and running):
            return None
        mode = self._mode_for(number)
        if mode is None:
            return TOO_MANY
        _, ranges, doubt = self._split(f"x  {found['rest'].strip()}")
        return self._added(mode, number, found["name"].strip(_EDGES), ranges, row, doubt)

    def _unnumbered_row(self, row: Row) -> Answered | None:
        """A function without a number below a heading that says how many there are: the next channel."""
        declared = self._declared
        mode = self.modes[-1] if self.modes and not self.pending else None
        if declared is None or self.columns or (mode and len(mode.slots) >= declared):
            return None
        if mode is not None and mode.slots and not mode.unnumbered:
            return None
        if self._numbered_next(row):
            return None
        name, ranges, _ = self._split(row.words)
        named = self.namer.channel(name)
        if not name or (named.doubt and not (self._as_many(declared) and len(name.split()) <= 4)):
            return None
        mode = self._mode_for(1 if mode is None else max(mode.slots, default=0) + 1)
        if mode is None:
            return TOO_MANY
        mode.unnumbered = True
        self._added(mode, max(mode.slots, default=0) + 1, name, ranges, row, "")
        return Taken.GUESS, "taken as the next channel"

    def _numbered_next(self, row: Row) -> bool:
        """Whether the line behind this one has the number of the channel that this one names."""
        following = self.rows[self.place + 1] if self.place + 1 < len(self.rows) else None
        opener = self._opener(following) if following is not None and following.words else None
        return opener is not None and opener.first == self.expected and not self.namer.knows(opener.rest)

    def _as_many(self, declared: int) -> bool:
        """Whether just as many lines follow each other here as the heading says channels."""
        begin = self.place
        while begin and self.place - begin <= declared and self._plain(self.rows[begin - 1]):
            begin -= 1
        end = self.place
        while end < len(self.rows) and self._plain(self.rows[end]) and end - begin <= declared:
            end += 1
        return end - begin == declared

    def _plain(self, row: Row) -> bool:
        return (
            bool(row.words)
            and len(row.words) <= 40
            and heading_of(row.words) is None
            and bool(re.search(r"\w", row.words))
        )

    def _wrapped_row(self, row: Row) -> Answered | None:
        """Words that go on from the line above: they stand in by more than the channels do."""
        if not self.current or not self.joinable or not self._close(row) or row.indent < self.indent + 4:
            return None
        self._join_meaning(row.words)
        return Taken.SURE, JOINED

    # --- what a person says ---

    def _answered(self, row: Row, answer: Answer) -> Answered:
        """A line as the person says that it is."""
        if answer is Answer.LEAVE:
            return Taken.LEFT, "left out, as you said"
        if answer is Answer.ABOVE:
            if not self.current:
                return Taken.LOST, "there is no channel above that it could belong to"
            if self.current[-1].channel.ranges:
                self._join_meaning(row.words)
            else:
                self._join_name(row.words, row)
            return Taken.SURE, f"{JOINED}, as you said"
        if answer is Answer.LEVELS:
            spans = spans_of(row.words, value=True, expected=self._following) or spans_of(row.words, value=True)
            if not spans or not self.current:
                return Taken.LOST, "no levels are in it" if self.current else "there is no channel above for its levels"
            taken, note = self._more_levels(tuple(ranges_of(row.words, spans)), row)
            return taken, note or "levels, as you said"
        opener = self._opener(row)
        first = opener.first if opener and opener.first >= 1 else self.expected
        mode = self._mode_for(first)
        if mode is None:
            return TOO_MANY
        offset = first if first not in mode.slots else max(mode.slots) + 1
        rest = opener.rest if opener and first == opener.first else row.words
        name, ranges, _ = self._split(rest)
        self.columns = []
        taken, note = self._added(mode, min(offset, 512), name, ranges, row, "")
        return taken, note or "a channel, as you said"


def _whole(value: str) -> bool:
    """Whether a cell says all levels and no more: ``0-255``, ``0-100 %``."""
    spans = spans_of(value, value=True)
    return len(spans) == 1 and (spans[0].first, spans[0].last) == (0, 255)
