"""What a person sees of a fixture that gets a frame of levels, worked out from its chart.

Rough but consistent: light is dimmer times colour, through a shutter that may be closed or flash; a
running program takes the colours over. Movement and everything else is told as a value from 0 to 1,
or as the range that is hit.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from fence.core.charts.remarks import IDLE_WORDS
from fence.core.charts.vocabulary import EMITTERS, FILTERS
from fence.core.model.profile import Byte, Channel, Function, Mode, Range

OPEN_WORDS = ("open", "no strobe", "steady", *IDLE_WORDS)
CLOSED_WORDS = ("closed", "shut", "blackout", "dark")
SMOOTH = {
    Function.PAN,
    Function.TILT,
    Function.ZOOM,
    Function.FOCUS,
    Function.IRIS,
    Function.FROST,
    Function.CCT,
    Function.TINT,
    Function.FAN,
    *FILTERS,
}
"""Functions whose value can be seen as such, dark or lit."""
OWN_COLOUR = (150, 120, 200)
"""The light of a program whose colours are not known."""
LAMP = "lamp"

OF_A_LAMP = FILTERS | {Function.DIMMER, Function.SHUTTER}
"""A mode without emitters that has one of these has a lamp behind it."""
RUNS_ALONE = {Function.PROGRAM, Function.SOUND}
UNSEEN = RUNS_ALONE | {
    Function.SHUTTER,
    Function.DIMMER,
    Function.SPEED,
    Function.FUNCTION_SPEED,
    Function.OTHER,
}
"""Functions that are told elsewhere, or cannot be seen by themselves."""


@dataclass(frozen=True, slots=True)
class Sight:
    """What is seen. ``light`` is the level of each emitter, 0 to 1, as it leaves the fixture, by
    colour and cell (0 where there are none); the lamp of a fixture without colours is ``lamp``.
    ``values`` are smooth functions from 0 to 1, ``doings`` the words of stepped ones.
    """

    light: tuple[tuple[tuple[str, int], float], ...]
    flashing: str
    running: str
    values: tuple[tuple[Function, float], ...]
    doings: tuple[tuple[Function, str], ...]

    @property
    def intensity(self) -> float:
        """The brightest emitter, 0 to 1."""
        return max((level for _, level in self.light), default=0.0)


def sight_of(mode: Mode, levels: Mapping[int, int] | Sequence[int], start: int = 1) -> Sight:
    """What a fixture in ``mode`` at ``start`` shows of a frame: levels (0 to 255) by slot from 1;
    others are 0."""
    frame = levels if isinstance(levels, Mapping) else dict(enumerate(levels, 1))
    channels = [channel for part in mode.parts for channel in part.channels]
    heard = [(channel, frame.get(start + offset, 0)) for offset, channel in enumerate(channels)]
    held = _Held(heard)
    dimmer = held.value(Function.DIMMER, missing=1.0)
    dimmed = dict.fromkeys(
        c.cell for c in channels if c.function is Function.DIMMER and c.cell is not None
    )
    cells = {cell: held.value(Function.DIMMER, cell) for cell in dimmed}
    gate, flashing = _shutter(heard)
    running = next(
        (words for c, level in heard if c.function in RUNS_ALONE and (words := doing(c, level))), ""
    )
    shown = 1.0 if running else dimmer * gate
    light: dict[tuple[str, int], float] = {}
    for function, cell in dict.fromkeys((c.function, c.cell) for c in channels):
        if function in EMITTERS:
            own = 1.0 if running or cell is None else cells.get(cell, 1.0)
            light[(str(function), cell or 0)] = shown * own * held.value(function, cell)
    if not light and cells:
        light = {
            (LAMP, cell or 0): shown * (1.0 if running else level) for cell, level in cells.items()
        }
    elif not light and any(channel.function in OF_A_LAMP for channel in channels):
        light[(LAMP, 0)] = shown
    lit = any(light.values()) if light else bool(shown)
    smooth = dict.fromkeys(channel.function for channel, _ in heard if channel.function in SMOOTH)
    told = (
        (c.function, doing(c, level))
        for c, level in heard
        if c.function not in SMOOTH | EMITTERS | UNSEEN
    )
    return Sight(
        tuple(light.items()),
        flashing if lit and not running else "",
        running,
        tuple((function, held.value(function)) for function in smooth),
        tuple((function, words) for function, words in told if words),
    )


def range_at(channel: Channel, level: int) -> Range | None:
    """The range of a channel that a level lies in."""
    return next((found for found in channel.ranges if found.first <= level <= found.last), None)


def doing(channel: Channel, level: int) -> str:
    """What a stepped channel does at a level, in the words of its chart; empty where it has no
    function."""
    found = range_at(channel, level)
    if found is None:
        return "" if channel.ranges or not level else str(channel.function)
    words = found.meaning.lower()
    return "" if any(words.startswith(idle) for idle in IDLE_WORDS) else found.meaning


class _Held:
    """The levels that a fixture hears, by function and cell: the highest where several channels
    carry it."""

    def __init__(self, heard: Iterable[tuple[Channel, int]]) -> None:
        self._coarse: dict[tuple[Function, int | None], int] = {}
        self._fine: dict[tuple[Function, int | None], int] = {}
        for channel, level in heard:
            held = self._fine if channel.byte is Byte.FINE else self._coarse
            of = (channel.function, channel.cell)
            held[of] = max(held.get(of, 0), level)

    def value(self, function: Function, cell: int | None = None, missing: float = 0.0) -> float:
        """A function from 0 to 1, coarse and fine byte together; ``missing`` where no channel
        carries it."""
        coarse = self._coarse.get((function, cell))
        if coarse is None:
            return missing
        fine = self._fine.get((function, cell))
        return coarse / 255 if fine is None else (coarse * 256 + fine) / 65535


def _shutter(heard: Sequence[tuple[Channel, int]]) -> tuple[float, str]:
    """Whether light passes, 0 or 1, and how it flashes."""
    for channel, level in heard:
        if channel.function is not Function.SHUTTER:
            continue
        found = range_at(channel, level)
        words = found.meaning.lower() if found else ""
        if any(words.startswith(closed) for closed in CLOSED_WORDS):
            return 0.0, ""
        if found is None and not channel.ranges:
            return 1.0, "flashes" if level else ""
        if words and not any(words.startswith(steady) for steady in OPEN_WORDS):
            return 1.0, found.meaning if found else ""
    return 1.0, ""


HUES: dict[str, tuple[int, int, int]] = {
    LAMP: (255, 244, 229),
    "white": (255, 250, 244),
    "red": (255, 24, 12),
    "green": (20, 235, 40),
    "blue": (20, 50, 255),
    "amber": (255, 150, 0),
    "uv": (96, 0, 200),
    "lime": (180, 255, 60),
}


def colour_of(sight: Sight) -> tuple[int, int, int]:
    """Red, green and blue (0 to 255) of the light, roughly as an eye would name it; black where it
    is dark."""
    mixed = [0.0, 0.0, 0.0]
    for (name, _), level in sight.light:
        for place, part in enumerate(HUES[name]):
            mixed[place] += part * level
    for function, value in sight.values:
        if function in FILTERS:
            place = (Function.CYAN, Function.MAGENTA, Function.YELLOW).index(function)
            mixed[place] *= 1 - value
    strongest = max(*mixed, 1.0)
    scale = min(1.0, 255 / strongest)
    red, green, blue = (round(part * scale) for part in mixed)
    return red, green, blue
