"""Plugs, pins and adapters."""

from __future__ import annotations

from random import Random

from fence.core.lines.pins import COMMON, MINUS, PINS, PLUS, adapter, adapter_words, carried_by
from fence.core.model.line import Plug
from fence.core.model.show import Show
from fence.core.practising.question import Kind, Question, question

KNOWN = (Plug.FIVE, Plug.THREE, Plug.RJ45)
RESISTOR = ("pins 2 and 3", "pins 1 and 2", "pins 1 and 3", "pins 4 and 5")


def plugs(rig: Show, chance: Random, level: int) -> Question | None:
    """Level 1: which pin is what; level 2: which adapter; level 3: how one is wired, and where the
    resistor of a terminator goes."""
    if level == 2:
        return _adapter(chance)
    if level == 3 and chance.random() < 0.2:
        return _resistor()
    if level == 3:
        return _wired(chance)
    plug = chance.choice(KNOWN)
    what = chance.choice((COMMON, MINUS, PLUS))
    pins = carried_by(plug, what)
    return question(
        f"Which pin of a {plug} plug carries {what} of DMX?",
        Kind.NUMBER,
        [str(pin) for pin in pins],
        f"{what} is on pin {' and '.join(map(str, pins))}.",
        [(pin.number, f"pin {pin.number} carries {pin.carries}") for pin in PINS[plug]],
    )


def _adapter(chance: Random) -> Question:
    one, other = chance.sample(KNOWN, 2)
    right = adapter_words(one, other)
    wrong = {
        f"{one} female to {other} male": "it would meet sockets of its own kind at both ends",
        f"{one} male to {other} male": "a fixture’s input is male: it takes a female plug",
        adapter_words(other, one): "that is the way back, from the fixture to the next one",
    }
    if Plug.RJ45 in (one, other):
        del wrong[f"{one} female to {other} male"], wrong[f"{one} male to {other} male"]
        wrong[f"{one} to {other}, straight through pin by pin"] = (
            "the pins of RJ45 carry other things than those of XLR"
        )
        wrong["none: they meet"] = f"{one} and {other} do not meet"
    choices = [right, *(one for one in wrong if one != right)]
    chance.shuffle(choices)
    return question(
        f"A cable with {one} plugs ends at a fixture whose input is {other}. Which adapter?",
        Kind.CHOICE,
        right,
        "Outputs are female and inputs male, so the signal comes out of a female end: the adapter "
        f"takes {one} there and gives {other} to the input.",
        list(wrong.items()),
        choices=choices,
    )


def _wired(chance: Random) -> Question:
    one, other = chance.sample(KNOWN, 2)
    what, origin, to = chance.choice(adapter(one, other))
    pin = chance.choice(origin)
    others = [(number, name) for name, _, pins in adapter(one, other) for number in pins]
    return question(
        f"An adapter from {one} to {other} is made. To which pin of {other} goes pin {pin} of "
        f"{one}?",
        Kind.NUMBER,
        [str(number) for number in to],
        f"Pin {pin} of {one} carries {what}, which is on pin "
        f"{' and '.join(map(str, to))} of {other}.",
        [(number, f"pin {number} of {other} carries {name}") for number, name in others],
    )


def _resistor() -> Question:
    minus, plus = carried_by(Plug.FIVE, MINUS)[0], carried_by(Plug.FIVE, PLUS)[0]
    return question(
        "Between which pins of a terminator with a 5-pin plug is its resistor of 120 ohm?",
        Kind.CHOICE,
        f"pins {min(minus, plus)} and {max(minus, plus)}",
        f"Between data − (pin {minus}) and data + (pin {plus}).",
        [
            ("pins 1 and 2", "pin 1 is the shield"),
            ("pins 1 and 3", "pin 1 is the shield"),
            ("pins 4 and 5", "that is the second pair, which DMX does not use"),
        ],
        choices=RESISTOR,
    )
