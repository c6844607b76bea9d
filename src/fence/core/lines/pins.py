"""Which pin is what [ANSI E1.11, E1.27-2], where they stand on the solder side, a terminator and an
adapter."""

from __future__ import annotations

from dataclasses import dataclass
from math import cos, radians, sin

from fence.core.model.line import Plug

COMMON, MINUS, PLUS = "common (shield)", "data −", "data +"
OHMS = 120
BANDS = (("brown", 1), ("red", 2), ("brown", 1))
"""The colour code of the resistor between data − and data +: two digits and how many zeros."""
SPARE = "second pair"


@dataclass(frozen=True, slots=True)
class Pin:
    """A pin: its number, what it carries, and where it stands seen from the solder side of a female
    plug (as the pins of a male one look from the front), as parts of the radius to the right and
    down. What counts is the number that is moulded beside the pin."""

    number: int
    carries: str
    x: float
    y: float


def _round(numbers: tuple[int, ...], angles: tuple[float, ...]) -> tuple[Pin, ...]:
    carries = {1: COMMON, 2: MINUS, 3: PLUS, 4: SPARE + " −", 5: SPARE + " +"}
    return tuple(
        Pin(
            number,
            carries[number],
            round(sin(radians(angle)) * 0.6, 4),
            round(-cos(radians(angle)) * 0.6, 4),
        )
        for number, angle in zip(numbers, angles, strict=True)
    )


PINS: dict[Plug, tuple[Pin, ...]] = {
    Plug.FIVE: _round((1, 2, 3, 4, 5), (54, 117, 180, 243, 306)),
    # from left over the bottom to right: 1, 3, 2. They do not run in sequence.
    Plug.THREE: _round((1, 3, 2), (300, 180, 60)),
    Plug.RJ45: tuple(
        Pin(number, carries, round(-0.7 + 0.2 * (number - 1), 4), 0.0)
        for number, carries in enumerate(
            (PLUS, MINUS, SPARE, "not used", "not used", SPARE, COMMON, COMMON), 1
        )
    ),
}


def carried_by(plug: Plug, what: str) -> tuple[int, ...]:
    """The numbers of the pins of a plug that carry something."""
    return tuple(pin.number for pin in PINS[plug] if pin.carries == what)


def adapter(one: Plug, other: Plug) -> tuple[tuple[str, tuple[int, ...], tuple[int, ...]], ...]:
    """How an adapter is wired: what, from which pins, to which."""
    return tuple(
        (what, carried_by(one, what), carried_by(other, what)) for what in (COMMON, MINUS, PLUS)
    )


def adapter_words(one: Plug, other: Plug) -> str:
    """The adapter between the end of a cable with one plug and the input of a device with another.
    Outputs are female and inputs male [ANSI E1.11]: it takes the signal with a male plug."""
    ends = {Plug.FIVE: ("5-pin male", "5-pin female"), Plug.THREE: ("3-pin male", "3-pin female")}
    return f"{ends.get(one, (str(one),))[0]} to {ends.get(other, (str(other),))[-1]}"


def ohms(bands: tuple[tuple[str, int], ...]) -> int:
    """What three bands of colour say: two digits and how many zeros."""
    (_, first), (_, second), (_, zeros) = bands
    return (first * 10 + second) * int(10**zeros)
