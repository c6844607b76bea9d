"""Reading a chart as it can be copied from a manual or a spreadsheet.

Manuals write charts in many ways. The reader goes line by line, keeps what it took each line for, and never drops one:
what it is not sure of is marked as a guess, what it cannot read as not understood.
"""

from __future__ import annotations

import itertools
import math
import re
from collections.abc import Iterable, Iterator
from dataclasses import replace

from fence.core.charts.draft import Building, Draft, LineReading, Slot, Taken, finished
from fence.core.charts.notation import plain, scanned
from fence.core.charts.tongues import CHANNEL_WORDS, FINE_WORDS, HEADERS, MODE_WORDS
from fence.core.charts.vocabulary import CLUSTERS, COLOURS, Meaning, meaning_of, tidy_words
from fence.core.words.profile import Byte, Channel, Function, Range

MOST_CHARACTERS = 200_000
MOST_LINES = 5000
"""Lines that are read; a whole manual is shorter."""
LONGEST_LINE = 300
"""Characters of a line that are read; no row of a table is longer."""
MOST_MODES = 100
MOST_CHANNELS = 4000
"""Channels, of all modes together, after which no further mode is begun."""
MOST_COLUMNS = 16
"""Modes that stand side by side in one table."""
MOST_IN_A_SPAN = 64
"""Channels that one line without a label may speak of."""
MOST_REST = 8
"""Words beside the counts in a header that names modes by counts alone."""
MOST_DOUBTS = 12
"""Doubts about one mode that are told."""
MOST_WORDS = 200
"""Wordings of a person's own that are looked at."""

RANGE = re.compile(r"(?<![\d.])(\d{1,3})\s*(%?)\s*(?:-|to|\.\.|~)\s*(\d{1,3})(?![\d.])\s*(%?)\s*[:=]?\s*", re.I)
NAMED_MODE = re.compile(
    rf"^(?:mode\s*[\w-]{{1,12}}\s*:?|(?:{MODE_WORDS})\s*#?(?:\d{{1,2}}|[A-H]|[IVX]{{1,4}})\s*(?:[-:(]\s*[^\W\d].{{0,60}})?)$",
    re.I,
)
CONTINUED = re.compile(
    r"\b(?:continued|cont\.|contd|fortsetzung|suite|continuaci[oó]n|continua|segue|vervolg|cont\.?)(?:\W|$)", re.I
)
FROM_TO = (("from", "to"), ("von", "bis"), ("min", "max"), ("de", "a"), ("van", "tot"))
"""Headings of two columns that hold the first and the last level."""
BESIDE = re.compile(
    r"(^\s*\d{1,3}(?:\s{2,}|\t|\s*[|;]\s*)(?=\d{1,3}(?:\s{2,}|\t|\s*[|;]\s*)\d)|)(?<![\d-])(\d{1,3})(?:\s{2,}|\t|\s*[|;]\s*)(\d{1,3})(?=\s|$|[|;])"
)
CELL_WORDS = r"(?:cell|pixel|segment|zone|head|led|section|part|eye|ring)"
REPEAT = re.compile(r"^(?:repeat|same|as|like|wie|comme|come|como)\b\D{0,24}(\d{1,3})\s*(?:-|to)\s*(\d{1,3})", re.I)
WITHOUT_CELL = {Function.RESET, Function.PROGRAM, Function.SOUND, Function.FUNCTION_SPEED, Function.OUTPUT}
FUNCTION_WORDS = {"function", "functions", "feature", "parameter", "funktion", "fonction", "funcion", "funzione"}
TICKS = "✓✔√•●"
MARK = re.compile(rf"(?<![^\s|;])(?:(?:ch\s?)?\d{{1,3}}|[-–—.x{TICKS}])(?![^\s|;])", re.I)
"""A number, a dash or a tick that stands alone below the name of a mode."""
DEFAULT_WORDS = {"default", "defaults", "home", "grundwert", "standard", "initial"}
CHANNEL_HEADING = rf"ch|channels?|slot|{CHANNEL_WORDS}"
NUMBER_LAST = re.compile(r"^\s*(.*\S)(?:\s{2,}|\t|\s*[|;]\s*)(\d{1,3})\s*$")
SUM = re.compile(r"^([rgbwa])\d{1,3}(?:\s*\+\s*\1\d{1,3})+$", re.I)
"""Several cells of one colour together: ``R1+R2``."""
UNIT = r"(K|Hz|%|°|deg(?:rees?)?)"
AMOUNT = r"(\d{1,7}(?:\.\d{1,6})?)"
PHYSICAL = re.compile(rf"{AMOUNT}\s*{UNIT}?\s*(?:-|to|\.\.|~)\s*{AMOUNT}\s*{UNIT}(?![a-z])", re.I)
CHANNEL = re.compile(
    rf"^(?:dmx\s*)?(?:ch(?:annel|an)?s?\.?|{CHANNEL_WORDS}|slot|no\.?|#)?\s*[#.:]?\s*(\d{{1,3}})"
    r"(?:\s*(?:[-/+&,]|to)\s*(?:ch\s*)?(\d{1,3}))?\s*(?:ch\b)?\s*[:.)=|;,\t-]*\s*(.*)$",
    re.I,
)
LABELLED = re.compile(rf"^(?:dmx\s*)?(?:ch(?:annel|an)?s?\b\.?|ch(?=\d)|(?:{CHANNEL_WORDS})(?=\W*\d)|slot|#)", re.I)
COUNT = re.compile(rf"(\d{{1,3}})\s*-?\s*(?:ch(?:an(?:nel)?s?)?|dmx channels?|{CHANNEL_WORDS})\b", re.I)
MODE = re.compile(rf"\b(?:{MODE_WORDS})\b", re.I)
HEADER_WORDS = {
    "channel", "channels", "ch", "no", "function", "functions", "value", "values", "dmx", "description", "range",
    "percent", "setting", "settings", "default", "feature", "name", "parameter", "details", "type", "level", "mode",
    "chart", "and", "from", "to",
    "home", "initial", "defaults", "grundwert", "min", "max",
} | HEADERS  # fmt: skip
DEFAULT = re.compile(r"\b(?:default|home)\s*[:=]?\s*(\d{1,3})(?:\s*(%)|\b)", re.I)
HIGHLIGHT = re.compile(r"\bhighlight\s*[:=]?\s*(\d{1,3})\b", re.I)
QUOTED = re.compile(r'"((?:[^"]|"")*)"')
EXACT_RANGE = re.compile(r'^(\d{1,3})-(\d{1,3}) ("(?:[^"]|"")*".*)$')
EXACT = re.compile(r'^(\d{1,3}) "((?:[^"]|"")*)"(.*)$')
"""A channel whose name is in quotes: it is taken as it stands, whatever it looks like."""
NAMED = re.compile(r"\[([a-z/ ]+)\]", re.I)
BRACED = re.compile(r"\s?\{(-?\d{1,9}(?:\.\d{1,9})?) to (-?\d{1,9}(?:\.\d{1,9})?)(?: (\S*))?\}$")
FINE = re.compile(rf"\(?\b(fine|lsb|low byte|16\s*-?\s*bit|2/2|trimming|fine tuning|low?$|{FINE_WORDS})\b\)?", re.I)
COARSE = re.compile(r"\(?\b(coarse|msb|high byte|1/2|hi(?:gh)?$)\b\)?", re.I)
CELL = re.compile(rf"\(?\b{CELL_WORDS}\s*#?\s*(\d{{1,3}})\b\)?", re.I)
LETTER_CELL = re.compile(r"^([rgbwa])\s?(\d{1,3})$", re.I)
TAIL_NUMBER = re.compile(r"^(.*[a-z])\s*#?(\d{1,3})$", re.I)


def read_chart_text(text: str, *, words: Iterable[tuple[str, Function]] = ()) -> Draft:
    """Read a pasted chart. ``words`` are wordings of the person's own, with what they mean.

    Nonsense gives a draft without channels; every line of the text is in ``lines``.
    """
    reader = _Reader(tuple(itertools.islice(words, MOST_WORDS)))
    rows = text[:MOST_CHARACTERS].replace("\r\n", "\n").replace("\r", "\n").split("\n")
    for number, row in _blocks(rows[:MOST_LINES]):
        reader.read(number, row)
    reader.lines = _one_a_line(reader.lines, rows)
    if beyond := len(rows[MOST_LINES:]):
        said = f"{beyond} more lines are not read: accepted are {MOST_LINES}"
        reader.lines.append(LineReading(MOST_LINES + 1, rows[MOST_LINES][:LONGEST_LINE], Taken.LOST, said))
    if len(text) > MOST_CHARACTERS:
        said = f"{len(text) - MOST_CHARACTERS} more characters are not read: accepted are {MOST_CHARACTERS}"
        reader.lines.append(LineReading(len(rows) + 1, "", Taken.LOST, said))
    return Draft(tuple(finished(mode) for mode in reader.modes if mode.slots), tuple(reader.lines))


def _cut_of(row: str) -> int | None:
    """Where a second table begins in a header whose first word stands in it twice, both times over a column."""
    cells = [(found.start(), tidy_words(found[0])) for found in re.finditer(r"[^\s|;\t]+(?: [^\s|;\t]+)*", row)]
    if len(cells) < 4 or not cells[0][1] or not set(cells[0][1].split()) <= HEADER_WORDS:
        return None
    again = [start for start, words in cells[1:] if words == cells[0][1]]
    if len(again) != 1 or len([start for start, _ in cells if start < again[0]]) < 2:
        return None
    before = row[: again[0]].rstrip()
    return len(before) if before.endswith("|") else again[0]


def _blocks(rows: list[str]) -> Iterator[tuple[int, str]]:
    """The lines with their numbers; of tables that stand side by side first the left one, then the right one."""
    place = 0
    while place < len(rows):
        header = next((n for n in range(place, min(place + 2, len(rows))) if _cut_of(rows[n]) is not None), None)
        cut = _cut_of(rows[header]) if header is not None else None
        if header is None or cut is None or not rows[place][cut:].strip():
            yield place + 1, rows[place]
            place += 1
            continue
        end = header + 1
        while end < len(rows) and rows[end].strip():
            end += 1
        for half in (slice(0, cut), slice(cut, None)):
            yield from ((number + 1, rows[number][half]) for number in range(place, end))
        place = end


def _one_a_line(read: list[LineReading], rows: list[str]) -> list[LineReading]:
    """One reading for each line of the text: the least sure of those of its halves."""
    order = [Taken.LOST, Taken.GUESS, Taken.SURE, Taken.HEADING, Taken.BLANK]
    found: dict[int, LineReading] = {}
    for line in read:
        held = found.get(line.number)
        if held is None or order.index(line.taken) < order.index(held.taken):
            found[line.number] = replace(line, text=rows[line.number - 1])
    return [found[number] for number in sorted(found)]


TOO_MANY = (Taken.LOST, f"more than {MOST_MODES} modes or {MOST_CHANNELS} channels are not read")


class _Reader:
    """Reads line after line, knowing the mode and the channel that it is in."""

    def __init__(self, words: tuple[tuple[str, Function], ...]) -> None:
        self.words = words
        self.modes: list[Building] = [Building()]
        self.lines: list[LineReading] = []
        self.columns: list[Building] = []
        self.name_first = False
        self.current: list[Slot] = []
        self.raw = ""
        self.from_to = self.number_last = self.default_column = self.commas = self.mode_column = False
        self.cell: int | None = None
        self.spots: list[tuple[int, int]] = []
        self.grid: tuple[Function, ...] = ()

    def read(self, number: int, row: str) -> None:
        self.raw = row[:LONGEST_LINE]
        line = plain(self.raw)
        fixed = scanned(line)
        if self.commas and "," in fixed:
            fixed = line = fixed.replace(",", "\t")
        if self.number_last and (turned := NUMBER_LAST.match(fixed)):
            fixed = line = f"{turned[2]}  {turned[1]}"
        if self.from_to:
            fixed = line = BESIDE.sub(r"\1\2-\3", fixed, count=1)
        taken, note = self._take(number, fixed)
        if fixed != line and taken is Taken.SURE:
            taken, note = Taken.GUESS, "letters among the levels are taken as digits"
        if len(row) > LONGEST_LINE:
            rest = f"only its first {LONGEST_LINE} characters are read"
            note = f"{note}; {rest}" if note else rest
        self.lines.append(LineReading(number, row, taken, note))

    def _open(self, *modes: Building) -> bool:
        """Begin modes; False where there are too many already."""
        held = sum(len(mode.slots) for mode in self.modes)
        if len(self.modes) + len(modes) > MOST_MODES or held > MOST_CHANNELS:
            return False
        self.modes += modes
        self.cell = None
        return True

    def _take(self, number: int, line: str) -> tuple[Taken, str]:
        text = line.strip()
        if not text or not re.search(r"\w", text):
            return Taken.BLANK, ""
        if self.mode_column and (row := re.match(r"^([^\t|;]{1,40}?)(?:\s{2,}|\t|\s*[|;]\s*)(\d{1,3}\b.*)$", text)):
            if not self._go_to(row[1].strip()):
                return TOO_MANY
            line = text = row[2]
        if (listed := self._listed(number, text) or self._inline(number, text)) is not None:
            return listed
        for attempt in (
            self._exact_row,
            self._mode_columns,
            self._grid_header,
            self._grid_row,
            self._word_columns,
            self._heading,
            self._column_row,
            self._range_row,
            self._channel_row,
            self._unnumbered_row,
        ):
            found = attempt(number, line, text)
            if found is not None:
                return found
        return Taken.LOST, "neither a channel nor a range of levels"

    def _exact_row(self, number: int, _line: str, text: str) -> tuple[Taken, str] | None:
        """A channel or a range as Fence writes it where its name could be taken for something else."""
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
        rest = match[3]
        channel, _ = self._channel(rest, (), None)
        name = match[2].replace('""', '"')
        self.current, self.columns = [Slot(replace(channel, name=name), number)], []
        mode.slots[int(match[1])] = self.current[0]
        return Taken.SURE, ""

    def _mode_columns(self, _number: int, line: str, text: str) -> tuple[Taken, str] | None:
        """A header that names several modes, one a column, such as ``4ch  7ch  Function``."""
        counts = list(COUNT.finditer(text))
        if not 2 <= len(counts) <= MOST_COLUMNS or re.search(r"\d\s*-\s*\d", text):
            return None
        rest = tidy_words(COUNT.sub(" ", text)).split()
        alone = [cell for cell in re.split(r"\s{2,}|\t|[|;]", text) if COUNT.fullmatch(cell.strip())]
        if not set(rest) <= HEADER_WORDS and (len(alone) < len(counts) or len(rest) > MOST_REST):
            return None
        before = tidy_words(text[: counts[0].start()])
        columns = [Building(count[0].strip(), int(count[1])) for count in counts]
        if not self._open(*columns):
            return TOO_MANY
        self.name_first = bool(before)
        self.columns, self.current = columns, []
        self.spots = [found.span() for found in COUNT.finditer(self.raw)]
        return Taken.HEADING, f"{len(counts)} modes, one a column"

    def _word_columns(self, _number: int, _line: str, _text: str) -> tuple[Taken, str] | None:
        """A header that names modes by words, one a column, beside that of the function."""
        cells = [(found[0].strip(), found.span()) for found in re.finditer(r"[^\t|;]+?(?=\s{2,}|[\t|;]|$)", self.raw)]
        cells = [(words, (span[1] - len(words), span[1])) for words, span in cells if words]
        place = next((n for n, (words, _) in enumerate(cells) if tidy_words(words) in FUNCTION_WORDS), None)
        if place is None or len(cells) < 3:
            return None
        sides = [cells[:place], cells[place + 1 :]]
        named = next((side for side in sides if len(side) >= 2 and _name_modes([word for word, _ in side])), None)
        if named is None or len(named) > MOST_COLUMNS:
            return None
        columns = [Building(words[:60]) for words, _ in named]
        if not self._open(*columns):
            return TOO_MANY
        self.name_first = named is sides[1]
        self.columns, self.current, self.spots = columns, [], [span for _, span in named]
        return Taken.HEADING, f"{len(named)} modes, one a column"

    def _grid_header(self, _number: int, line: str, _text: str) -> tuple[Taken, str] | None:
        """A header of cells against colours, such as ``Segment  Red  Green  Blue``."""
        cells = [cell for cell in re.split(r"\s{2,}|\t|[|;]", line.strip()) if cell.strip()]
        if len(cells) < 3 or not re.fullmatch(CELL_WORDS, cells[0].strip(), re.I):
            return None
        meanings = [meaning_of(cell, self.words) for cell in cells[1:]]
        functions = tuple(meaning.function for meaning in meanings if meaning and meaning.sure)
        if len(functions) < len(meanings):
            return None
        self.grid, self.columns, self.current = functions, [], []
        return Taken.HEADING, "cells against colours"

    def _grid_row(self, number: int, _line: str, text: str) -> tuple[Taken, str] | None:
        """The channels of one cell, a number below each colour."""
        numbers = [int(word) for word in re.split(r"[\s|;]+", text) if re.fullmatch(r"[0-9]{1,3}", word)]
        cells = [word for word in re.split(r"[\s|;]+", text) if word]
        if not self.grid or len(numbers) != len(cells) or len(numbers) != len(self.grid) + 1:
            self.grid = self.grid if not cells else ()
            return None
        if not all(1 <= offset <= 512 and offset not in self.modes[-1].slots for offset in numbers[1:]):
            return None
        for function, offset in zip(self.grid, numbers[1:], strict=True):
            self.modes[-1].slots[offset] = Slot(Channel(function, cell=numbers[0]), number)
        self.current = []
        return Taken.SURE, ""

    def _placed_cells(self) -> tuple[list[list[int]], str] | None:
        """The offsets in each mode where cells are empty or ticked: by the place of each mark below the header."""
        rows: list[list[int]] = [[] for _ in self.columns]
        rest, hit = self.raw, False
        for found in MARK.finditer(self.raw):
            middle = (found.start() + found.end()) / 2
            near = [n for n, (left, right) in enumerate(self.spots) if left - 2 <= middle <= right + 2]
            if len(near) != 1:
                continue
            hit = True
            rest = rest[: found.start()] + " " * len(found[0]) + rest[found.end() :]
            if found[0] in TICKS:
                rows[near[0]] = [max(self.columns[near[0]].slots, default=0) + 1]
            elif digits := re.search(r"\d+", found[0]):
                rows[near[0]] = [int(digits[0])] if 1 <= int(digits[0]) <= 512 else []
        wording = plain(rest).strip(" |;\t")
        return (rows, wording) if hit and any(rows) and re.match(r"[^\W\d]", wording) else None

    def _heading(self, _number: int, line: str, text: str) -> tuple[Taken, str] | None:
        """The name of a mode, or the header of a table."""
        words = tidy_words(text).split()
        if set(words) <= HEADER_WORDS:
            pair = next((pair for pair in FROM_TO if set(pair) <= set(words)), None)
            self.from_to = pair is not None
            self.commas = text.count(",") >= 2 and not re.search(r"\t|\s{2,}|[|;]", text)
            self.mode_column = len(words) > 2 and words[0] == "mode" and bool(re.fullmatch(CHANNEL_HEADING, words[1]))
            self.default_column = bool(set(words) & DEFAULT_WORDS)
            self.number_last = len(words) > 2 and re.fullmatch(CHANNEL_HEADING, words[-1]) is not None
            return Taken.HEADING, "header"
        if found := re.fullmatch(rf"[\W_]*{CELL_WORDS}\s*#?\s*(\d{{1,3}})[\W_]*", text, re.I):
            self.cell = int(found[1])
            return Taken.HEADING, f"cell {self.cell}"
        if exact := re.match(r"^mode:\s*(\S.*)$", text, re.I):
            count = COUNT.search(exact[1])
            if not self._open(Building(exact[1][:60], int(count[1]) if count else None)):
                return TOO_MANY
            self.columns, self.current = [], []
            return Taken.HEADING, f"mode {exact[1][:60]}"
        count = COUNT.search(text)
        named = MODE.search(text)
        alone = count and len(tidy_words(COUNT.sub(" ", text)).split()) <= 1
        if LABELLED.match(text) and not named:
            return None
        if CONTINUED.search(text) and (named or count or len(text.split()) <= 3):
            return Taken.HEADING, "goes on"
        if (count and (named or alone)) or NAMED_MODE.match(text):
            name = re.sub(r"^[\[(=\-\s]+|[\])=:\-\s]+$", "", text)
            if not self._open(Building(name[:60], int(count[1]) if count else None)):
                return TOO_MANY
            self.columns, self.current = [], []
            return Taken.HEADING, f"mode {name[:60]}"
        return None

    def _column_row(self, number: int, line: str, text: str) -> tuple[Taken, str] | None:
        if not self.columns or self._goes_on(text):
            return None
        found = self._column_cells(line, text) or self._placed_cells()
        if found is None:
            return None
        places, wording = found
        name, ranges, sure = self._split(wording)
        if not name:
            return None
        self.current = []
        for mode, place in zip(self.columns, places, strict=False):
            for offset in place:
                byte = None if len(place) == 1 else (Byte.COARSE if offset == place[0] else Byte.FINE)
                sure = self._add(mode, offset, name, ranges, number, byte) and sure
        return (Taken.SURE, "") if sure else (Taken.GUESS, f"taken as {self._said()}")

    def _goes_on(self, text: str) -> bool:
        """Whether a row begins with the levels that come next, and not with numbers of channels."""
        levels = re.match(r"^(\d{1,3}) ?- ?(\d{1,3})\s", text)
        if not levels or not self.current:
            return False
        held = self.current[-1].channel.ranges
        return int(levels[1]) == (held[-1].last + 1 if held else 0) and int(levels[1]) < int(levels[2])

    def _column_cells(self, line: str, text: str) -> tuple[list[list[int]], str] | None:
        """The offsets in each mode (none for a dash or an empty cell), and the words of the row."""
        count = len(self.columns)
        separator = next((mark for mark in ("\t", "|", ";", ",") if line.count(mark) >= count), None)
        if separator:
            cells = [cell.strip() for cell in line.strip("\n|").split(separator)]
            cells = cells[1:] + cells[:1] if self.name_first else cells
            if len(cells) < count + 1:
                return None
            others = [cells[-1], *cells[count:-1]] if self.name_first else cells[count:]
            places, wording = cells[:count], "  ".join(others)
        else:
            mark = r"(?:(?:ch\s?)?\d{1,3}(?:[-/]\d{1,3})?|-+|\.|x|/|n/?a)"
            pattern = (
                rf"^(.+?)\s+((?:{mark}\s+){{{count - 1}}}{mark})$"
                if self.name_first
                else (rf"^((?:{mark}\s+){{{count}}})(.+)$")
            )
            match = re.match(pattern, text, re.I)
            if not match:
                return None
            wording, numbers = (match[1], match[2]) if self.name_first else (match[2], match[1])
            places = numbers.split()
        if not any(any(c.isdigit() for c in place) for place in places):
            return None
        offsets = []
        for place in places:
            numbers_in = [int(piece) for piece in re.findall(r"\d{1,3}", place)]
            offsets.append([n for n in numbers_in if 1 <= n <= 512])
        return offsets, wording

    def _range_row(self, _number: int, line: str, text: str) -> tuple[Taken, str] | None:
        if not self.current:
            return None
        text = text.lstrip(";|, \t")
        match = re.match(
            r"^[(\[]?(\d{1,3})\s*(%?)\s*(?:-|to|\.\.)\s*(\d{1,3})\s*(%?)[)\]]?\s*[:=,|\t-]*\s*(.*)$", text, re.I
        )
        held = self.current[-1].channel.ranges
        following = held[-1].last + 1 if held else 0
        if match is None:
            single = re.match(r"^(\d{1,3})\s*[:=\s|,\t-]\s*(.*\w.*)$", text)
            begun = held or following == 0
            if single and begun and int(single[1]) == following and following <= 255 and not self._is_next(following):
                return self._take_range(int(single[1]), int(single[1]), single[2])
            return None
        first, last = int(match[1]), int(match[3])
        indented = line[:1].isspace()
        continues = first == following
        plausible = first == 0 or continues or indented or not self._is_next(first)
        if not plausible or last > 255 or first > last:
            return None
        if match[2] or match[4]:
            first, last = _from_percent(first, last)
            continues = first == following
        if not match[5] and first == 0 and last == 255:
            return Taken.SURE, ""
        taken, note = self._take_range(first, last, match[5])
        if taken is Taken.LOST or continues or not held:
            return taken, note
        if first > following:
            return taken, f"levels {following} to {first - 1} are said nothing of"
        return Taken.GUESS, "ranges do not follow each other"

    def _take_range(self, first: int, last: int, words: str) -> tuple[Taken, str]:
        meaning = words.strip(" ,;:-|\t") or "no words"
        quoted = QUOTED.match(words.strip())
        for slot in self.current:
            if any(r.first <= last and first <= r.last for r in slot.channel.ranges):
                return Taken.LOST, f"levels {first} to {last} are taken already"
            found = _with_physical(Range(first, last, meaning))
            if quoted:  # as it stands; only braces behind it say what it runs from and to
                spanned = _with_physical(Range(first, last, "x" + words.strip()[quoted.end() :]))
                found = replace(spanned, meaning=quoted[1].replace('""', '"'))
            slot.channel = replace(slot.channel, ranges=(*slot.channel.ranges, found))
        return Taken.SURE, ""

    def _is_next(self, number: int) -> bool:
        """Whether the number is the channel that would come next."""
        return bool(self.modes[-1].slots) and number == max(self.modes[-1].slots) + 1

    def _channel_row(self, number: int, _line: str, text: str) -> tuple[Taken, str] | None:
        match = CHANNEL.match(text)
        if not match or not re.search(r"[a-z]", match[3], re.I) or not 1 <= int(match[1]) <= 512:
            return None
        first, last = int(match[1]), int(match[2] or match[1])
        name, ranges, sure = self._split(match[3])
        if not name or last < first or last > 512:
            return None
        mode = self._mode_for(first)
        if mode is None:
            return TOO_MANY
        orderly = first == (max(mode.slots) + 1 if mode.slots else 1)
        labelled = LABELLED.match(text) is not None
        if mode.labelled and len(mode.slots) > 1 and not labelled:
            return None
        mode.labelled = labelled and (mode.labelled or not mode.slots)
        if last > first and not labelled and (not orderly or last - first >= MOST_IN_A_SPAN):
            return None  # levels of nobody, rather than channels that fit no run
        if not labelled and not orderly and mode.declared is not None and last > mode.declared:
            return None
        if not orderly and not mode.slots and not labelled and meaning_of(name, self.words) is None:
            return None
        if first in mode.slots:
            return Taken.LOST, f"channel {first} is there already"
        self.current, self.columns = [], []
        if last > first:
            return self._several(mode, first, last, name, ranges, number, match[3])
        known = self._add(mode, first, name, ranges, number, None)
        if known and sure and orderly:
            return Taken.SURE, ""
        return Taken.GUESS, f"taken as {self._said()}" if not known else "the order of channels is unusual"

    def _unnumbered_row(self, number: int, _line: str, text: str) -> tuple[Taken, str] | None:
        """A function without a number below a heading that says how many there are: the next channel."""
        mode = self.modes[-1]
        if mode.declared is None or self.columns or len(mode.slots) >= mode.declared:
            return None
        if mode.slots and not mode.unnumbered:
            return None
        name, ranges, _ = self._split(text)
        if not self._channel(name, ranges, None)[1]:
            return None
        mode.unnumbered = True
        self.current = []
        self._add(mode, len(mode.slots) + 1, name, ranges, number, None)
        return Taken.GUESS, "taken as the next channel"

    def _go_to(self, name: str) -> bool:
        """Go on in the mode of that name, or begin it: a table may say the mode in every row."""
        held = next((mode for mode in self.modes if mode.name == name), None)
        if held is None:
            return self._open(Building(name[:60]))
        self.modes.remove(held)
        self.modes.append(held)
        return True

    def _inline(self, number: int, text: str) -> tuple[Taken, str] | None:
        """Channels one behind the other on a line: ``1 Red 2 Green 3 Blue``."""
        pieces = re.split(r"(?:^|[\s,;])(\d{1,3})[\s.:=]+(?=[^\W\d])", text)
        numbers, names = [int(word) for word in pieces[1::2]], [name.strip(" ,;") for name in pieces[2::2]]
        first = max(self.modes[-1].slots, default=0) + 1
        if len(numbers) < 3 or pieces[0].strip() or numbers != list(range(first, first + len(numbers))):
            return None
        if not all(self._channel(name, (), None)[1] for name in names):
            return None
        self.columns, self.current = [], []
        for offset, name in zip(numbers, names, strict=True):
            self._add(self.modes[-1], offset, name, (), number, None)
        return Taken.SURE, ""

    def _listed(self, number: int, text: str) -> tuple[Taken, str] | None:
        """A mode and its channels on one line: ``5CH: Dimmer, Red, Green, Blue, Strobe``."""
        match = re.match(r"^([^:]{1,40}):\s*(\S.*)$", text)
        count = COUNT.search(match[1]) if match else None
        names = [name.strip(" .") for name in re.split(r"[,;]", match[2])] if match else []
        if match is None or count is None or len(names) != int(count[1]) or len(names) < 2:
            return None
        if not self._open(Building(match[1].strip()[:60], len(names))):
            return TOO_MANY
        self.columns, self.current = [], []
        known = [self._add(self.modes[-1], place, name, (), number, None) for place, name in enumerate(names, 1)]
        return (Taken.SURE, "") if all(known) else (Taken.GUESS, f"taken as {len(names)} channels")

    def _mode_for(self, first: int) -> Building | None:
        """The current mode; a new one where the count starts again at 1, None where there are too many.

        A heading that is repeated on a further page opens nothing: the numbers go on.
        """
        if len(self.modes) > 1 and not self.modes[-1].slots and (held := self.modes[-2]).slots:
            alike = self.modes[-1].declared in (None, held.declared)
            if first > 1 and first == max(held.slots) + 1 and alike:
                self.modes.pop()
                return held
        if self.columns or (first == 1 and self.modes[-1].slots):
            return self.modes[-1] if self._open(Building()) else None
        return self.modes[-1]

    def _several(
        self, mode: Building, first: int, last: int, name: str, ranges: tuple[Range, ...], line: int, words: str
    ) -> tuple[Taken, str]:
        """A line that speaks of several channels: a 16-bit pair, or colours repeated for each cell."""
        count = last - first + 1
        if (again := REPEAT.match(words)) and self._repeated(mode, first, last, int(again[1]), int(again[2]), line):
            return Taken.SURE, ""
        cluster = next((CLUSTERS[word] for word in tidy_words(words).split() if word in CLUSTERS), None)
        if cluster is None:
            cluster = self._colours_named(words, count)
        if cluster and count % len(cluster) == 0:
            for step in range(count):
                function = cluster[step % len(cluster)]
                cell = step // len(cluster) + 1 if count > len(cluster) else self._cell(words, numbered=False)[0]
                mode.slots[first + step] = Slot(Channel(function, cell=cell), line)
            return Taken.SURE, ""
        if count == 2:
            known = self._add(mode, first, name, ranges, line, Byte.COARSE)
            self._add(mode, last, name, (), line, Byte.FINE)
            self.current = self.current[:1]
            return (Taken.SURE, "") if known else (Taken.GUESS, f"taken as {self._said()}")
        for step in range(count):
            self._add(mode, first + step, f"{name} {step + 1}", (), line, None)
        return Taken.GUESS, f"taken as {count} channels of one kind"

    def _colours_named(self, words: str, count: int) -> tuple[Function, ...] | None:
        """The functions of a span that are named one by one, such as ``R G B`` or ``red, green and blue``."""
        _, rest = self._cell(words, numbered=False)
        found = [meaning_of(word, self.words) for word in tidy_words(rest).split() if word not in ("and", "und", "et")]
        functions = tuple(meaning.function for meaning in found if meaning and meaning.sure)
        return functions if len(functions) == len(found) == count else None

    def _repeated(self, mode: Building, first: int, last: int, low: int, high: int, line: int) -> bool:
        """Channels like others before them, once or several times: those of the next cells."""
        size, held = high - low + 1, [mode.slots.get(number) for number in range(low, high + 1)]
        if size < 1 or (last - first + 1) % size or None in held or high >= first:
            return False
        for step in range(last - first + 1):
            like = held[step % size]
            assert like is not None
            if like.channel.cell is None:
                like.channel = replace(like.channel, cell=1)
            cell = (like.channel.cell or 1) + step // size + 1
            mode.slots[first + step] = Slot(replace(like.channel, cell=cell), line)
        return True

    def _add(
        self, mode: Building, offset: int, name: str, ranges: tuple[Range, ...], line: int, byte: Byte | None
    ) -> bool:
        """Put a channel into a mode; gives whether its function is known for sure."""
        channel, sure = self._channel(name, ranges, byte)
        if channel.cell is None and self.cell is not None and channel.function not in WITHOUT_CELL:
            channel = replace(channel, cell=self.cell)
        if offset in mode.slots:
            if len(mode.doubts) < MOST_DOUBTS:
                mode.doubts.append(f"Line {line} speaks of channel {offset} once more.")
            return False
        slot = Slot(channel, line)
        mode.slots[offset] = slot
        self.current.append(slot)
        return sure

    def _channel(self, name: str, ranges: tuple[Range, ...], byte: Byte | None) -> tuple[Channel, bool]:
        default, highlight, named = DEFAULT.search(name), HIGHLIGHT.search(name), NAMED.search(name)
        wording = NAMED.sub(" ", HIGHLIGHT.sub(" ", DEFAULT.sub(" ", name)))
        fine, coarse = FINE.search(wording), COARSE.search(wording)
        if byte is None:
            byte = Byte.FINE if fine else Byte.COARSE if coarse else Byte.WHOLE
        wording = COARSE.sub(" ", FINE.sub(" ", wording))
        given = next((f for f in Function if named and tidy_words(named[1]) == tidy_words(f)), None)
        cell, wording = self._cell(wording, numbered=given is None)
        wording = wording.strip(" -:,;()[]|\t.")
        meaning = Meaning(given, sure=True) if given else meaning_of(wording, self.words)
        function = meaning.function if meaning else Function.OTHER
        kept = "" if tidy_words(wording) == tidy_words(function) else " ".join(wording.lower().split())[:60]
        channel = Channel(function, kept, cell, byte, _level(default) or 0, _level(highlight), ranges)
        return channel, bool(meaning and meaning.sure)

    def _cell(self, wording: str, *, numbered: bool) -> tuple[int | None, str]:
        """The cell that a wording names, and the wording without it; ``numbered``: also by a number behind a colour."""
        if found := SUM.match(wording.strip()):
            return None, found[1]
        if found := CELL.search(wording):
            return int(found[1]), CELL.sub(" ", wording)
        if numbered and (found := LETTER_CELL.match(wording.strip())):
            return int(found[2]), found[1]
        if numbered and (found := TAIL_NUMBER.match(wording.strip())):
            known = meaning_of(found[1], self.words)
            if known and known.function in COLOURS:
                return int(found[2]), found[1]
        return None, wording

    def _said(self) -> str:
        return str(self.current[-1].channel.function) if self.current else "something else"

    def _split(self, words: str) -> tuple[str, tuple[Range, ...], bool]:
        """The name of a channel, the ranges behind it, and whether all of it was read."""
        cells = [cell.strip() for cell in re.split(r"\t+|\s*\|\s*|\s{2,}|\s*;\s*", words) if cell.strip()]
        if self.default_column and len(cells) > 1 and re.fullmatch(r"\d{1,3}", cells[1]):
            cells[:2] = [f"{cells[0]} default {cells[1]}"]
        if len(cells) == 1:
            cells = _at_first_range(cells[0])
        elif cells and not re.search(r"[a-z]", cells[0], re.I):
            if not RANGE.fullmatch(cells[0]) or not re.search(r"[a-z]", cells[1], re.I):
                return "", (), False
            cells = _range_first(cells)
        name = cells[0].strip(" ,:=-") if cells else ""
        if "," in name and RANGE.search(name):
            head, _, tail = name.partition(",")
            name, cells = head, [head, tail, *cells[1:]]
        ranges, sure = _ranges_of(" ; ".join(cells[1:]))
        return name, ranges, sure


def _name_modes(words: list[str]) -> bool:
    """Whether words over columns can be names of modes: short, no headers, and not all of them functions."""
    tidy = [tidy_words(word) for word in words]
    plausible = all(0 < len(word) <= 20 and not set(word.split()) & HEADER_WORDS for word in tidy)
    return plausible and any(meaning_of(word) is None for word in tidy)


def _range_first(cells: list[str]) -> list[str]:
    """The cells of a row whose levels stand before the function, in the usual order."""
    head, comma, tail = cells[1].partition(",")
    known = meaning_of(head)
    words = tail if comma and known is not None and known.sure else cells[1]
    return [head if words is tail else cells[1], " ".join([cells[0], words, *cells[2:]])]


def _level(found: re.Match[str] | None) -> int | None:
    if found is None:
        return None
    percent = found.re is DEFAULT and found[2]
    return min(255, math.ceil(255 * int(found[1]) / 100) if percent else int(found[1]))


def _at_first_range(words: str) -> list[str]:
    """A name and the levels behind it, parted where the first range begins."""
    for pattern in (RANGE, PHYSICAL):
        found = pattern.search(words)
        if found and re.search(r"[a-z]", words[: found.start()], re.I):
            return [words[: found.start()].strip(" (:,=-"), words[found.start() :].strip(" )")]
    head, comma, tail = words.partition(",")
    if comma and (FINE.match(tail.strip()) or COARSE.match(tail.strip())):
        return [words.replace(",", " ", 1)]
    return [head, tail] if comma else [words]


def _from_percent(first: int, last: int) -> tuple[int, int]:
    """Levels that show as ``first`` to ``last`` percent on every tool, without a gap to the next percent."""
    return math.ceil(255 * first / 100), min(255, math.ceil(255 * (last + 1) / 100) - 1)


def _ranges_of(words: str) -> tuple[tuple[Range, ...], bool]:
    """The ranges in the words behind a name. What is no range is left aside: it is a remark, not a channel."""
    spots = [found for found in RANGE.finditer(words) if not _is_physical(words, found)]
    levels = [found for found in spots if not (found[2] or found[4])]
    spots = levels or spots  # percents beside levels say what the levels do
    ranges: list[Range] = []
    sure = True
    for place, found in enumerate(spots):
        end = spots[place + 1].start() if place + 1 < len(spots) else len(words)
        meaning = words[found.end() : end].strip(" ,;:()-./")
        first, last = int(found[1]), int(found[3])
        percent = bool(found[2] or found[4])
        if percent:
            if (first, last) == (0, 100) and len(spots) == 1:
                return (Range(0, 255, meaning or "0 to 100 %", 0, 100, "%"),), True
            first, last = _from_percent(first, last)
        if first > last or last > 255 or any(r.first <= last and first <= r.last for r in ranges):
            sure = False
            continue
        if (first, last) == (0, 255) and not meaning:
            continue
        ranges.append(_with_physical(Range(first, last, meaning or "no words")))
    if not spots and (physical := PHYSICAL.search(words)):
        return (_with_physical(Range(0, 255, words.strip(" ;,")[: physical.end()])),), True
    return tuple(sorted(ranges, key=lambda found: found.first)), sure


def _is_physical(words: str, found: re.Match[str]) -> bool:
    """Whether a range is of Kelvin, Hertz or degrees and not of levels."""
    unit = re.match(r"\s*(K|Hz|°|deg)", words[found.end(3) :], re.I)
    return unit is not None or int(found[3]) > 255


def _with_physical(found: Range) -> Range:
    """The range with its low, high and unit, where its words say so."""
    if braced := BRACED.search(found.meaning):
        low, high, unit = float(braced[1]), float(braced[2]), braced[3] or ""
        return replace(found, meaning=found.meaning[: braced.start()], low=low, high=high, unit=unit)
    physical = PHYSICAL.search(found.meaning)
    if not physical:
        return found
    unit = {"k": "K", "hz": "Hz", "%": "%"}.get(physical[4].lower(), "degrees")
    return replace(found, low=float(physical[1]), high=float(physical[3]), unit=unit)
