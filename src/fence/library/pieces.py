"""What charts are made of: usual channels, and short words for modes."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cache

from fence.core.model.profile import (
    Byte,
    Channel,
    Function,
    Mode,
    Part,
    Range,
    Setter,
)

F = Function

SHUTTER = Channel(
    F.SHUTTER,
    "shutter",
    default=255,
    highlight=255,
    ranges=(
        Range(0, 9, "closed"),
        Range(10, 239, "strobe, slow to fast", 0.5, 18, "Hz"),
        Range(240, 255, "open"),
    ),
)
PROGRAM = Channel(
    F.PROGRAM,
    "own programs",
    ranges=(
        Range(0, 9, "no function"),
        Range(10, 199, "programs 1 to 19"),
        Range(200, 255, "sound to light"),
    ),
)
DIMMER = Channel(F.DIMMER, highlight=255)
PAN_TILT = (
    Channel(
        F.PAN, byte=Byte.COARSE, default=128, ranges=(Range(0, 255, "pan", 0, 540, "degrees"),)
    ),
    Channel(F.PAN, byte=Byte.FINE),
    Channel(
        F.TILT, byte=Byte.COARSE, default=128, ranges=(Range(0, 255, "tilt", 0, 230, "degrees"),)
    ),
    Channel(F.TILT, byte=Byte.FINE),
)
PAN_TILT_SPEED = Channel(F.SPEED, "pan and tilt speed")
CONTROL = Channel(
    F.RESET,
    "control",
    ranges=(
        Range(0, 99, "no function"),
        Range(100, 119, "fan quiet"),
        Range(200, 209, "reset, hold 3 s"),
    ),
)
MENU = Setter(
    steps="Menu, DMX, Address: turn to the number, press to store.",
    confirm="The number blinks until it is stored.",
    display_flips=True,
)


@cache
def plain(*functions: Function, cell: int | None = None) -> tuple[Channel, ...]:
    """One whole channel a function; colours and dimmers light fully for the highlight."""
    lit = {F.DIMMER, F.RED, F.GREEN, F.BLUE, F.WHITE}
    return tuple(
        Channel(function, cell=cell, highlight=255 if function in lit else None)
        for function in functions
    )


def cells(count: int, *functions: Function) -> tuple[Channel, ...]:
    """The same functions for each of ``count`` cells."""
    return tuple(
        channel for cell in range(1, count + 1) for channel in plain(*functions, cell=cell)
    )


def mode(name: str, *pieces: Channel | Iterable[Channel]) -> Mode:
    """A mode of one part from channels and groups of channels."""
    channels: list[Channel] = []
    for piece in pieces:
        channels.extend([piece] if isinstance(piece, Channel) else piece)
    return Mode(name, (Part(len(channels), tuple(channels)),))


RGB = (F.RED, F.GREEN, F.BLUE)
RGBW = (*RGB, F.WHITE)
