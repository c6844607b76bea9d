"""Bringing one fixture up so that it can be seen: which levels, from its chart, and what should be
seen then.

Whatever could do harm or take it away is left where it does nothing: reset, lamp, own programs,
sound.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping
from enum import StrEnum

from fence.core.charts.remarks import IDLE_WORDS
from fence.core.charts.vocabulary import EMITTERS, FILTERS
from fence.core.model.address import SLOTS
from fence.core.model.fixture import Fixture
from fence.core.model.profile import Byte, Channel, Function, Mode, Range
from fence.core.model.text import joined
from fence.core.simulation.practice import Seen, seen_of
from fence.core.simulation.sight import CLOSED_WORDS, OPEN_WORDS, RUNS_ALONE

LEFT_ALONE = RUNS_ALONE | {
    Function.RESET,
    Function.FUNCTION_SPEED,
    Function.SPEED,
    Function.FAN,
    Function.OTHER,
}
"""Functions that are never raised to see a fixture."""
OPEN_COLOURS = ("open", "white", *IDLE_WORDS)
MOVED_BY = 24
"""Levels by which pan and tilt move from where they rest, about a tenth of the way."""
FULL, REST = 255, 128


class Look(StrEnum):
    """How a fixture is brought up."""

    OPEN = "open white"
    RED = "red"
    GREEN = "green"
    BLUE = "blue"
    WHITE = "white"
    AMBER = "amber"
    LIME = "lime"
    UV = "ultraviolet"
    MOVED = "a little to the side"


OF_COLOUR = {
    Look.RED: ({Function.RED}, {Function.MAGENTA, Function.YELLOW}),
    Look.GREEN: ({Function.GREEN}, {Function.CYAN, Function.YELLOW}),
    Look.BLUE: ({Function.BLUE}, {Function.CYAN, Function.MAGENTA}),
    Look.WHITE: ({Function.WHITE}, frozenset[Function]()),
    Look.AMBER: ({Function.AMBER}, frozenset[Function]()),
    Look.LIME: ({Function.LIME}, frozenset[Function]()),
    Look.UV: ({Function.UV}, frozenset[Function]()),
}
"""What makes a colour: emitters that are raised, or filters that are put in."""
WHITE_OF = frozenset({Function.RED, Function.GREEN, Function.BLUE, Function.WHITE})


def looks_of(mode: Mode) -> tuple[Look, ...]:
    """The looks that a mode can show, in the order in which they are asked for; none where nothing
    would be seen."""
    functions = {channel.function for part in mode.parts for channel in part.channels}
    if not functions & (EMITTERS | FILTERS | {Function.DIMMER, Function.SHUTTER, Function.OUTPUT}):
        return ()
    colours = [
        look
        for look, (emitters, filters) in OF_COLOUR.items()
        if emitters <= functions or (filters and filters <= functions)
    ]
    moves = [Look.MOVED] if functions & {Function.PAN, Function.TILT} else []
    return (Look.OPEN, *colours, *moves)


def called(mode: Mode, look: Look) -> str:
    """What a look of a mode is called: open white is what it comes to where a fixture has no white
    light."""
    emitters = {channel.function for part in mode.parts for channel in part.channels} & EMITTERS
    raised = raised_for_white(emitters)
    if look is not Look.OPEN or not raised or raised & WHITE_OF:
        return str(look)
    return joined([str(one) if one is not Function.UV else str(Look.UV) for one in sorted(raised)])


def levels_for(mode: Mode, look: Look = Look.OPEN) -> bytes:
    """The levels of all slots of a mode, part after part, that bring it up in a look."""
    channels = [channel for part in mode.parts for channel in part.channels]
    if not channels:
        return bytes(mode.footprint)
    given = any(channel.highlight for channel in channels if channel.function in EMITTERS)
    raised = raised_for_white({channel.function for channel in channels})
    return bytes(_level(channel, look, given, raised) for channel in channels)


def raised_for_white(functions: Collection[Function]) -> frozenset[Function]:
    """The emitters that make a fixture's open white, or as near to it as it comes: red, green, blue
    and white where it has any of them, else all of its others but ultraviolet, which is raised only
    where there is nothing else."""
    emitters = frozenset(functions) & EMITTERS
    return emitters & WHITE_OF or emitters - {Function.UV} or emitters


def _level(channel: Channel, look: Look, given: bool, raised: Collection[Function]) -> int:
    function = channel.function
    if function in LEFT_ALONE:
        return idle_level(channel)
    if function in EMITTERS:
        return _of_emitter(channel, look, given, raised)
    if function in FILTERS:
        _, filters = OF_COLOUR.get(look, (frozenset(), frozenset()))
        return FULL if function in filters else 0
    if function is Function.DIMMER:
        return FULL
    if function is Function.SHUTTER:
        return (
            channel.highlight
            if channel.highlight is not None
            else _in_words(channel, OPEN_WORDS, CLOSED_WORDS)
        )
    if function is Function.OUTPUT:
        return FULL if look is Look.OPEN else channel.default
    if function in (Function.PAN, Function.TILT):
        return _of_movement(channel, look)
    if function is Function.COLOUR_WHEEL:
        return (
            channel.highlight
            if channel.highlight is not None
            else _in_words(channel, OPEN_COLOURS, ())
        )
    return channel.default if channel.highlight is None else channel.highlight


def _of_emitter(channel: Channel, look: Look, given: bool, raised: Collection[Function]) -> int:
    if look in OF_COLOUR:
        emitters, _ = OF_COLOUR[look]
        return FULL if channel.function in emitters else 0
    if given:
        return channel.highlight or 0
    return FULL if channel.function in raised else 0


def _of_movement(channel: Channel, look: Look) -> int:
    if channel.byte is Byte.FINE:
        return channel.default
    rest = channel.highlight if channel.highlight is not None else channel.default or REST
    if look is not Look.MOVED:
        return rest
    return rest + MOVED_BY if rest + MOVED_BY <= FULL else rest - MOVED_BY


def idle_level(channel: Channel) -> int:
    """A level at which a channel does nothing by itself: its range of no function, else its
    default."""
    for found in channel.ranges:
        if found.meaning.lower().startswith(IDLE_WORDS):
            return channel.default if found.first <= channel.default <= found.last else found.first
    return channel.default if channel.function is not Function.RESET else 0


def _in_words(channel: Channel, wanted: tuple[str, ...], unwanted: tuple[str, ...]) -> int:
    """A level in the range whose words begin as wanted, else the default, else the first that is
    not unwanted."""

    def begins(found: Range, words: tuple[str, ...]) -> bool:
        return bool(words) and found.meaning.lower().startswith(words)

    best = [found for found in channel.ranges if begins(found, wanted)]
    if best:
        return (best[0].first + best[0].last) // 2
    if not channel.ranges or not any(
        begins(f, unwanted) for f in channel.ranges if f.first <= channel.default <= f.last
    ):
        return channel.default
    other = next((found for found in channel.ranges if not begins(found, unwanted)), None)
    return other.first if other else channel.default


def expected(mode: Mode, look: Look = Look.OPEN) -> Seen:
    """What should be seen of a fixture that is brought up in a look."""
    return seen_of(mode, levels_for(mode, look))


def put_in(frames: Mapping[int, bytearray], fixture: Fixture, mode: Mode, levels: bytes) -> None:
    """Put the levels of a fixture, part after part, where the plan has it; what lies past the end
    is left out."""
    done = 0
    for part, entry in zip(mode.parts, fixture.patch, strict=False):
        mine = levels[done : done + part.footprint]
        done += part.footprint
        if entry.universe is not None and entry.slot is not None:
            mine = mine[: SLOTS + 1 - entry.slot]
            frames[entry.universe][entry.slot - 1 : entry.slot - 1 + len(mine)] = mine
