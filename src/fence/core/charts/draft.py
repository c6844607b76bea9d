"""What a pasted chart was understood as: lines, modes, doubts, and the profile that comes of it."""

from __future__ import annotations

from collections.abc import Container
from dataclasses import dataclass, field, replace
from enum import StrEnum

from fence.core.model.address import format_slots
from fence.core.model.errors import ChartError
from fence.core.model.profile import Byte, Channel, Function, Mode, Part, Profile
from fence.core.model.text import counted

NOT_IN_TEXT = "not in the text"
"""Name of a channel that a chart must have by its count but that the text does not mention."""


class Taken(StrEnum):
    """What a line was taken for, and how sure that is."""

    SURE = "sure"
    GUESS = "guessed"
    HEADING = "heading"
    BLANK = "blank"
    LOST = "not understood"
    LEFT = "left out"


@dataclass(frozen=True, slots=True)
class LineReading:
    """A line of the text, counted from 1, and what it was taken for."""

    number: int
    text: str
    taken: Taken
    note: str = ""


@dataclass(frozen=True, slots=True)
class DraftMode:
    """A mode as read. ``doubts`` says what to look at, such as a channel that the text does not mention; ``guessed`` is
    how many of its channels stand on lines that were guessed.
    """

    name: str
    channels: tuple[Channel, ...]
    doubts: tuple[str, ...] = ()
    guessed: int = 0

    @property
    def score(self) -> str:
        """How well it was read, in a few words."""
        missing = sum(channel.name == NOT_IN_TEXT for channel in self.channels)
        places = self.guessed + missing + (not missing and bool(self.doubts))
        if 2 * places > len(self.channels):
            return "hardly read"
        return f"{counted(places, 'place')} doubtful" if places else "read whole"


@dataclass(frozen=True, slots=True)
class TableReading:
    """A table that was found: the line of its head, and for each of its columns the words over it and what it holds.

    A column that numbers the channels of a mode holds that mode's name.
    """

    line: int
    columns: tuple[tuple[str, str], ...]


@dataclass(frozen=True, slots=True)
class OtherReading:
    """Another way in which the text can be read, "" as it stands: the modes that come of it with their channels, and by
    how much it makes less of a chart (more, where it is negative: too little to be taken).
    """

    way: str
    modes: tuple[tuple[str, int], ...]
    behind: float


@dataclass(frozen=True, slots=True)
class Draft:
    """What a pasted text was understood as, line by line. ``read_as`` says how, where it was not read as it stands;
    ``hardly`` that it may be no chart at all; ``others`` the other readings, the best one first.
    """

    modes: tuple[DraftMode, ...]
    lines: tuple[LineReading, ...]
    tables: tuple[TableReading, ...] = ()
    read_as: str = ""
    hardly: bool = False
    others: tuple[OtherReading, ...] = ()

    @property
    def empty(self) -> bool:
        """True when no channel was found."""
        return not any(mode.channels for mode in self.modes)


@dataclass(slots=True)
class Slot:
    """A channel as it was read, and the line that it stands on; ``said``: its name as it stands there."""

    channel: Channel
    line: int
    said: str = ""
    lines: tuple[int, ...] = ()


@dataclass(slots=True)
class Building:
    """A mode while its lines are read: slots by channel number.

    ``unnumbered``: the text gives its channels no numbers; ``labelled``: it calls each of them a channel; ``firm``: it
    says that it is a mode.
    """

    name: str = ""
    declared: int | None = None
    slots: dict[int, Slot] = field(default_factory=dict)
    doubts: list[str] = field(default_factory=list)
    unnumbered: bool = False
    labelled: bool = False
    firm: bool = False


def meaningful(mode: Building) -> bool:
    """Whether a function is known in the mode, or levels."""
    return any(slot.channel.function is not Function.OTHER or slot.channel.ranges for slot in mode.slots.values())


def finished(mode: Building, guessed: Container[int] = ()) -> DraftMode:
    """Channels 1 to the last, coarse beside fine, cells where colours repeat; ``guessed`` are lines that were."""
    doubts = list(mode.doubts)
    last = max(mode.slots)
    channels = []
    for offset in range(1, last + 1):
        slot = mode.slots.get(offset)
        channels.append(slot.channel if slot else Channel(Function.OTHER, NOT_IN_TEXT))
    missing = format_slots(tuple(offset for offset in range(1, last + 1) if offset not in mode.slots))
    if missing:
        doubts.append(f"Not in the text: channel {missing}.")
    if mode.declared is not None and mode.declared != last:
        doubts.append(f"The heading says {counted(mode.declared, 'channel')}, {last} were read.")
    channels = _paired(channels, doubts)
    name = mode.name or f"{last} channel"
    return DraftMode(name, tuple(channels), tuple(doubts), sum(slot.line in guessed for slot in mode.slots.values()))


def _paired(channels: list[Channel], doubts: list[str]) -> list[Channel]:
    """Mark the coarse byte of each fine one: the nearest before it of the same function and cell."""
    result = list(channels)
    for place, channel in enumerate(result):
        if channel.byte is not Byte.FINE:
            continue
        before = [
            other
            for other in range(place - 1, -1, -1)
            if (result[other].function, result[other].cell) == (channel.function, channel.cell)
            and result[other].byte is not Byte.FINE
        ]
        if before:
            result[before[0]] = replace(result[before[0]], byte=Byte.COARSE)
        else:
            result[place] = replace(channel, byte=Byte.WHOLE)
            doubts.append(f"Channel {place + 1} is called fine, but its coarse byte is not before it.")
    coarse = {(c.function, c.cell) for c in result if c.byte is Byte.FINE}
    return [
        replace(c, byte=Byte.WHOLE) if c.byte is Byte.COARSE and (c.function, c.cell) not in coarse else c
        for c in result
    ]


def profile_from(draft: Draft, *, profile_id: str, maker: str, model: str) -> Profile:
    """The profile of a draft; two modes of one name are told apart by a number. ``ChartError`` for an empty draft."""
    if draft.empty:
        raise ChartError("No channel was found in the text, so there is no chart to keep.")
    modes: dict[str, Mode] = {}
    for mode in draft.modes:
        name, count = mode.name, 1
        while name in modes:
            count += 1
            name = f"{mode.name} {count}"
        modes[name] = Mode(name, (Part(len(mode.channels), mode.channels),))
    return Profile(profile_id, maker.strip(), model.strip(), tuple(modes.values()))
