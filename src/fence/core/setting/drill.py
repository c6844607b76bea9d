"""Practice at the switches: ten questions, half to read a row, half to set one, and what each
mistake was.

The questions follow from a seed, so that a drill can be drawn again from its answers alone.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from random import Random

from fence.core.model.errors import SetterError
from fence.core.model.profile import Setter
from fence.core.model.setter import address_of, misreadings

QUESTIONS = 10


@dataclass(frozen=True, slots=True)
class Question:
    """An address to be read from a row of switches, or to be set. ``turned``: the row hangs upside
    down."""

    address: int
    read: bool
    turned: bool


@dataclass(frozen=True, slots=True)
class Mark:
    """How a question was answered. ``said``: the address that was read or set, None for none;
    ``mistake``: why."""

    question: Question
    said: int | None
    mistake: str

    @property
    def right(self) -> bool:
        """Whether the answer is the address."""
        return self.said == self.question.address


def questions(seed: int, addresses: Sequence[int], setter: Setter) -> tuple[Question, ...]:
    """Ten questions on ``addresses`` (those that the setter holds), or where these are too few on
    others that it holds.

    No address is asked twice as long as there are enough; reading and setting take turns, one in
    three upside down.
    """
    chance = Random(seed)
    lowest, highest = setter.settable
    known = [address for address in dict.fromkeys(addresses) if lowest <= address <= highest]
    chosen = chance.sample(known, min(QUESTIONS, len(known)))
    others = [address for address in range(lowest, highest + 1) if address not in chosen]
    chosen += chance.sample(others, min(QUESTIONS - len(chosen), len(others)))
    while len(chosen) < QUESTIONS:
        chosen.append(chance.choice(chosen))
    return tuple(
        Question(address, read=place % 2 == 0, turned=chance.randrange(3) == 0)
        for place, address in enumerate(chosen)
    )


def marked(question: Question, answer: int | Collection[int] | None, setter: Setter) -> Mark:
    """An answer, marked: the address that was read, or the switches that were set on. A known
    mistake is named."""
    said: int | None
    if answer is None or isinstance(answer, int):
        said = answer
    else:
        try:
            said = address_of(answer, setter)
        except SetterError:
            said = None
    if said == question.address:
        return Mark(question, said, "")
    return Mark(question, said, _mistake(question.address, said, setter))


def _mistake(address: int, said: int | None, setter: Setter) -> str:
    if said is None:
        return "no address"
    for known in misreadings(address, setter):
        if known.address == said:
            return known.mistake
    apart = abs(address - said)
    if apart == 1:
        return "one too high" if said > address else "one too low"
    if apart & (apart - 1) == 0:
        return f"the switch that counts {apart}"
    return ""
