"""DIP switches, read and set: upright, upside down, seen from the wrong end, counting from 0."""

from __future__ import annotations

from dataclasses import replace
from random import Random

from fence.core.model.address import SLOTS
from fence.core.model.profile import Setter, SetterKind
from fence.core.model.setter import as_seen, misreadings, sum_words, switches_on
from fence.core.model.show import Show
from fence.core.practising.question import Kind, Question, question, switches_words

NINE = Setter(SetterKind.SWITCHES)


def setter_in(rig: Show, chance: Random, level: int) -> Setter:
    """Switches as a type of the rig has them, else nine. From level 2 on they may count from 0 or
    be on when down."""
    own = [one.setter for one in rig.profiles if one.setter.kind is SetterKind.SWITCHES]
    setter = chance.choice(own) if own and chance.random() < 0.5 else NINE
    if level == 1:
        return replace(setter, zero_based=False, on_is_up=True, first_is_left=True)
    if level == 3 and chance.random() < 0.5:
        return replace(setter, zero_based=True, first_is_left=chance.random() < 0.5)
    return setter


def _about(setter: Setter, *, turned: bool) -> list[str]:
    facts = []
    if turned:
        facts.append("The fixture hangs upside down, and so does the row.")
    if setter.zero_based:
        facts.append("They count from 0: the switches show address − 1.")
    if not setter.on_is_up:
        facts.append("On is down, when the fixture stands upright.")
    if not setter.first_is_left:
        facts.append("Switch 1 is on the right, when the fixture stands upright.")
    if setter.fixed_on:
        facts.append(f"Switch {switches_words(setter.fixed_on)} must be on besides (DMX mode).")
    return facts


def _address(chance: Random, setter: Setter, level: int) -> int:
    lowest, highest = setter.settable
    return chance.randint(lowest, min(highest, 127 if level == 1 else SLOTS))


def read(rig: Show, chance: Random, level: int) -> Question | None:
    """A row of switches is seen; its address is asked for."""
    setter = setter_in(rig, chance, level)
    turned = level > 1 and chance.random() < 0.5
    address = _address(chance, setter, level)
    slips: list[tuple[object, str]] = [
        (one.address, one.mistake) for one in misreadings(address, setter) if one.address
    ]
    if setter.zero_based:
        slips.insert(0, (address - 1, "they count from 0: add 1"))
    slips += _one_off(address)
    return question(
        "Which address is set?",
        Kind.NUMBER,
        str(address),
        sum_words(switches_on(address, setter), setter),
        slips,
        facts=_about(setter, turned=turned),
        row=as_seen(address, setter, turned=turned),
    )


def put(rig: Show, chance: Random, level: int) -> Question | None:
    """An address is asked for; which switches are on is the answer."""
    setter = setter_in(rig, chance, level)
    address = _address(chance, setter, level)
    on = switches_on(address, setter)
    slips: list[tuple[object, str]] = []
    if setter.zero_based and address < setter.settable[1]:
        more = switches_on(address + 1, setter)
        slips.append((switches_words(more), "they count from 0: set address − 1"))
    for one in misreadings(address, setter):
        if one.address is not None and 1 <= one.address <= setter.settable[1]:
            slips.append((switches_words(switches_on(one.address, setter)), one.mistake))
    if setter.fixed_on:
        slips.append(
            (switches_words(set(on) - set(setter.fixed_on)), "the further switch must be on, too")
        )
    for wrong, why in _one_off(address):
        if setter.settable[0] <= wrong <= setter.settable[1]:
            slips.append((switches_words(switches_on(wrong, setter)), f"that is {wrong}: {why}"))
    return question(
        f"Set address {address:03d}. Which switches are on?",
        Kind.SWITCHES,
        switches_words(on),
        sum_words(on, setter),
        slips,
        facts=_about(setter, turned=False),
        row=as_seen(1, replace(setter, zero_based=True), turned=False),
    )


def _one_off(address: int) -> list[tuple[int, str]]:
    return [
        (wrong, "one too high" if wrong > address else "one too low")
        for wrong in (address + 1, address - 1)
        if wrong > 0
    ]
