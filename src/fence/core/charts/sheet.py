"""What is known while a text is read, row after row: modes, the channel that is read, the table, what each line was."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import replace

from fence.core.charts.draft import Building, Slot, Taken, meaningful
from fence.core.charts.headings import Heading
from fence.core.charts.levels import spans_of, with_physical
from fence.core.charts.naming import AS_IN, DEFAULT, WITHOUT_CELL, Namer
from fence.core.charts.parting import parted
from fence.core.charts.roles import Role
from fence.core.charts.shape import Row
from fence.core.charts.tables import Table
from fence.core.model.profile import Byte, Channel, Function, Range

MOST_MODES = 100
MOST_CHANNELS = 4000
"""Channels, of all modes together, after which no further mode is begun."""
MOST_DOUBTS = 12
"""Doubts about one mode that are told."""
TOO_MANY = (Taken.LOST, f"more than {MOST_MODES} modes or {MOST_CHANNELS} channels are not read")
JOINED = "belongs to the line above"

Answered = tuple[Taken, str]
"""What a row was taken for, and a note."""
OWN_LABEL = re.compile(r"^[\[(]?(?P<label>[a-z]{1,4})[-. ]?(?P<n>\d{1,3})(?![^\W_])", re.I)
"""What a text may call its channels by itself, such as ``K1``."""
FEWEST_LABELLED = 3


def labels_in(rows: Sequence[Row], namer: Namer) -> frozenset[str]:
    """What a text calls its channels: letters in front of numbers that run from 1 up, line after line.

    Letters that mean something themselves, such as the R of ``R1``, are names and no labels.
    """
    reached: dict[str, int] = {}
    for row in rows:
        found = OWN_LABEL.match(row.words)
        if found and int(found["n"]) == reached.get(found["label"].lower(), 0) + 1:
            reached[found["label"].lower()] = int(found["n"])
    return frozenset(label for label, last in reached.items() if last >= FEWEST_LABELLED and namer.means(label) is None)


def is_whole(value: str) -> bool:
    """Whether a cell says all levels and no more: ``0-255``, ``0-100 %``."""
    spans = spans_of(value, value=True)
    return len(spans) == 1 and (spans[0].first, spans[0].last) == (0, 255)


class Sheet:
    """What is known of a text so far. The rules of ``rows`` look at it and add to it."""

    def __init__(self, rows: list[Row], namer: Namer, columns: Mapping[int, Mapping[int, Role]]) -> None:
        self.rows, self.namer, self.columns_said = rows, namer, columns
        self.tables: list[Table] = []
        self.labels = labels_in(rows, namer)
        self.readings: dict[int, Answered] = {}
        self.modes: list[Building] = []
        self.pending: Heading | None = None
        self.current: list[Slot] = []
        self.columns: list[Building] = []
        self.table: Table | None = None
        self.grid: tuple[Function, ...] = ()
        self.cell: int | None = None
        self.held: Row | None = None
        self.place = 0
        self.read_to = -1
        self.base = 0
        self.indent = 0
        self.own = False
        self.joinable = False
        self.last_split: tuple[str, tuple[str, tuple[Range, ...], str]] = ("", ("", (), ""))

    def say(self, line: int, taken: Taken, note: str) -> None:
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

    @property
    def mode(self) -> Building:
        """The mode that is read, begun where there is none yet."""
        if not self.modes:
            self.open(self.fresh())
        return self.modes[-1]

    @property
    def expected(self) -> int:
        """The number of the next channel."""
        return max(self.modes[-1].slots, default=0) + 1 if self.modes and not self.pending else 1

    @property
    def declared(self) -> int | None:
        """How many channels the heading says, where it does."""
        return self.pending.declared if self.pending else (self.modes[-1].declared if self.modes else None)

    @property
    def following(self) -> int:
        """The level that comes next in the channel that is read."""
        held = self.current[-1].channel.ranges if self.current else ()
        return held[-1].last + 1 if held else 0

    def open(self, *modes: Building) -> bool:
        """Begin modes; False where there are too many already."""
        held = sum(len(mode.slots) for mode in self.modes)
        if len(self.modes) + len(modes) > MOST_MODES or held > MOST_CHANNELS:
            return False
        self.modes += modes
        self.cell, self.base = None, 0
        return True

    def fresh(self) -> Building:
        """A mode of the heading that was read last."""
        heading, self.pending = self.pending, None
        if heading is None:
            return Building()
        return Building(heading.name, heading.declared, firm=heading.firm)

    def mode_for(self, first: int) -> Building | None:
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
            return self.modes[-1] if self.open(self.fresh()) else None
        if held is None or self.columns or (first == 1 and held.slots):
            self.columns = []
            return self.modes[-1] if self.open(self.fresh()) else None
        return held

    def close(self, row: Row) -> bool:
        """Whether the row stands right behind one that was read."""
        return 0 <= row.lines[0] - self.read_to <= 1

    def adjacent(self, held: Row, row: Row) -> bool:
        """Whether a row stands right behind one that was kept for later."""
        return 0 < row.lines[0] - held.lines[-1] <= 1

    def goes_on(self, found: Heading) -> bool:
        """Whether a heading is that of the mode that is read, once more on a further page."""
        mode = self.modes[-1] if self.modes else None
        if mode is None or not mode.slots or self.pending is not None or self.columns:
            return False
        if found.declared is not None:
            return found.declared == mode.declared and max(mode.slots) < found.declared
        return found.name == mode.name

    def claim(self, held: Row) -> str:
        """The words of a line that stood alone, as the name of the channel behind it."""
        for line in held.lines:
            self.readings[line] = (Taken.SURE, "name of the next line")
        self.held = None
        return held.words

    def added(
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

    def several(
        self, mode: Building, first: int, last: int, words: str, ranges: tuple[Range, ...], row: Row, doubt: str,
        *, keep: bool = False,
    ) -> Answered:  # fmt: skip
        """A row that speaks of several channels: a pair of bytes, or colours for each cell."""
        count = last - first + 1
        before = [mode.slots[n].channel for n in range(1, first) if n in mode.slots]
        aligned = before if len(before) == first - 1 else []
        made = self.as_in_another(mode, first, last, words) or self.namer.several(words, count, aligned)
        if made is None:
            made = [self.namer.channel(words).channel] * count, f"taken as {count} channels of one kind"
        channels, said = made
        if aligned and channels and (channels[0].cell or 0) > 1:
            self.first_cell(mode, first, channels)
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

    def as_in_another(self, mode: Building, first: int, last: int, words: str) -> tuple[list[Channel], str] | None:
        """The channels ``first`` to ``last`` of an earlier mode that the words name by its count: ``as 9-CH mode``."""
        found = AS_IN.match(words.strip(" -=:"))
        if found is None:
            return None
        for other in self.modes:
            slots = [other.slots.get(number) for number in range(first, last + 1)]
            if other is not mode and max(other.slots, default=0) == int(found[1]) and all(slots):
                return [slot.channel for slot in slots if slot is not None], ""
        return None

    def first_cell(self, mode: Building, first: int, channels: list[Channel]) -> None:
        """The channels that later cells are like are those of the cell before, where none is named."""
        size = sum(channel.cell == channels[0].cell for channel in channels)
        cell = (channels[0].cell or 1) - 1
        before = [mode.slots[n] for n in range(first - size, first) if n in mode.slots]
        alike = [slot.channel.function for slot in before] == [channel.function for channel in channels[:size]]
        if alike and cell == 1 and all(slot.channel.cell is None for slot in before):
            for slot in before:
                slot.channel = replace(slot.channel, cell=1)

    def put_range(self, found: Range) -> Answered:
        """Give levels to the channel that is read, or to all that its row speaks of; not where they are taken."""
        for slot in self.current:
            held = slot.channel.ranges
            if any(r.first <= found.last and found.first <= r.last for r in held):
                return Taken.LOST, f"levels {found.first} to {found.last} are taken already"
            slot.channel = replace(slot.channel, ranges=tuple(sorted((*held, found), key=lambda r: r.first)))
        return Taken.SURE, ""

    def more_levels(self, ranges: tuple[Range, ...]) -> Answered:
        """Further levels of the channel that is read; what is said of them is said of the worst."""
        worst: Answered = (Taken.SURE, "")
        for found in ranges:
            taken = self.put_range(found)
            worst = taken if taken[0] is not Taken.SURE else worst
        return worst

    def join_name(self, name: str) -> None:
        """Words that go on with the name of the channel: it is looked up anew with them."""
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

    def join_meaning(self, words: str) -> None:
        """Words that go on with what the last levels do."""
        for slot in self.current:
            if slot.channel.ranges:
                last = slot.channel.ranges[-1]
                known = "" if last.meaning == "no words" else f"{last.meaning} "
                joined = with_physical(replace(last, meaning=f"{known}{' '.join(words.split())}"))
                slot.channel = replace(slot.channel, ranges=(*slot.channel.ranges[:-1], joined))

    def all_added(self, names: list[str], row: Row) -> Answered:
        """Put the channels of one row into the mode, one after the other."""
        taken: Answered = (Taken.SURE, "")
        first = max(self.mode.slots, default=0) + 1
        for place, name in enumerate(names, first):
            added = self.added(self.mode, place, name, (), row, "")
            taken = added if added[0] is not Taken.SURE else taken
        self.current = []
        return taken

    def split(self, words: str) -> tuple[str, tuple[Range, ...], str]:
        """The name of a channel and the levels behind it, and what to doubt about them."""
        if self.last_split[0] != words:
            name, ranges, doubt = parted(self.namer, words)
            if (default := DEFAULT.search(words)) and not DEFAULT.search(name):
                name = f"{name} {default[0]}"
            self.last_split = words, (name, ranges, doubt)
        return self.last_split[1]
