"""A question of a drill: what is asked, what is right and why, and the usual slips; and an answer,
marked."""

from __future__ import annotations

import re
from collections.abc import Collection
from dataclasses import dataclass
from enum import StrEnum

from fence.core.model.errors import EditError
from fence.core.model.setter import Switch
from fence.core.model.text import joined, printable

LEVELS = (1, 2, 3)
"""How hard a question is: the rule itself, the rule with a twist, as it comes on a bad day."""
LONGEST_ANSWER = 60


class Kind(StrEnum):
    """How a question is answered."""

    NUMBER = "a number"
    ADDRESS = "an address"
    CHOICE = "one of these"
    SWITCHES = "the switches that are on"
    TRIPLE = "net, sub-net and universe"


ACCEPTED = {
    Kind.NUMBER: "a whole number, such as 97",
    Kind.ADDRESS: "universe and slot, such as 2.117, or 117 for universe 1",
    Kind.SWITCHES: "the numbers of the switches that are on, such as 1, 6, 7; 0 for none",
    Kind.TRIPLE: "net, sub-net and universe, such as 0.1.4",
}
"""What is accepted as an answer, in words."""


@dataclass(frozen=True, slots=True)
class Slip:
    """A wrong answer that people give, and how they come to it."""

    answer: str
    why: str


@dataclass(frozen=True, slots=True)
class Question:
    """One question. ``facts`` are what is given, a line each; ``right`` all answers that are taken,
    the one to show first; ``working`` how it is reckoned. A question may show a row of switches,
    or the lit segments of a display, from left to right."""

    asks: str
    kind: Kind
    right: tuple[str, ...]
    working: str
    slips: tuple[Slip, ...] = ()
    facts: tuple[str, ...] = ()
    choices: tuple[str, ...] = ()
    row: tuple[Switch, ...] = ()
    lit: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Mark:
    """An answer, marked. ``said`` is how it was understood; ``why`` names the slip, empty where
    none is known that gives this answer."""

    said: str
    right: bool
    why: str


def question(
    asks: str,
    kind: Kind,
    right: str | Collection[str],
    working: str,
    slips: Collection[tuple[object, str]] = (),
    *,
    facts: Collection[str] = (),
    choices: Collection[str] = (),
    row: tuple[Switch, ...] = (),
    lit: tuple[str, ...] = (),
) -> Question:
    """A question with its slips in order: none that gives a right answer, each answer once."""
    answers = (right,) if isinstance(right, str) else tuple(right)
    kept: dict[str, Slip] = {}
    for wrong, why in slips:
        answer = str(wrong)
        below = isinstance(wrong, int) and wrong < 0
        if not below and answer not in answers and (not choices or answer in choices):
            kept.setdefault(answer, Slip(answer, why))
    return Question(
        asks,
        kind,
        answers,
        working,
        tuple(kept.values()),
        tuple(facts),
        tuple(choices),
        row,
        lit,
    )


def mark(asked: Question, typed: str) -> Mark:
    """An answer as typed or chosen, marked. ``EditError`` says what is accepted where it cannot be
    read: that is no wrong answer."""
    said = understood(asked, typed)
    if said in asked.right:
        return Mark(said, True, "")
    return Mark(said, False, next((slip.why for slip in asked.slips if slip.answer == said), ""))


def understood(asked: Question, typed: str) -> str:
    """The answer that was typed, as answers are written."""
    words = typed.strip()[: LONGEST_ANSWER + 1]
    found = None
    if len(words) <= LONGEST_ANSWER:
        found = _READERS[asked.kind](words) if asked.kind in _READERS else None
        if asked.kind is Kind.CHOICE:
            found = next((one for one in asked.choices if one == typed.strip()), None)
    if found is None:
        accepted = ACCEPTED.get(asked.kind) or f"one of {joined(list(asked.choices), most=12)}"
        raise EditError(f"“{printable(words[:30])}” cannot be read. Use {accepted}.")
    return found


def _number(words: str) -> str | None:
    return str(int(words)) if re.fullmatch(r"[0-9]{1,9}", words) else None


def _address(words: str) -> str | None:
    found = re.fullmatch(r"(?:[uU]?\s*([0-9]{1,5})\s*[./ ]\s*)?([0-9]{1,3})", words)
    return f"{int(found[1] or 1)}.{int(found[2])}" if found else None


def _switches(words: str) -> str | None:
    if words in ("", "0", "none"):
        return "0"
    numbers = re.split(r"[\s,;+]+", words.strip(" ,;+"))
    if not all(re.fullmatch(r"[0-9]{1,2}", one) and int(one) for one in numbers):
        return None
    return switches_words(map(int, numbers))


def switches_words(on: Collection[int] | map[int]) -> str:
    """The switches that are on, as an answer is written."""
    return ", ".join(map(str, sorted(set(on)))) or "0"


def _triple(words: str) -> str | None:
    found = re.fullmatch(r"([0-9]{1,3})[./: ]([0-9]{1,2})[./: ]([0-9]{1,2})", words)
    return ".".join(str(int(one)) for one in found.groups()) if found else None


_READERS = {
    Kind.NUMBER: _number,
    Kind.ADDRESS: _address,
    Kind.SWITCHES: _switches,
    Kind.TRIPLE: _triple,
}
