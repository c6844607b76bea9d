"""Slots, start addresses and runs of slots in a DMX512 universe.

A universe carries slots 1 to 512 (ANSI E1.11). People call the first slot of a fixture its start
address.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from fence.core.model.errors import AddressError

SLOTS = 512
"""Slots in one universe (ANSI E1.11)."""

EVERY_SLOT = (1 << SLOTS) - 1
"""All slots of a universe as bits, bit 0 for slot 1."""


def bits_of(first: int, length: int) -> int:
    """The bits of ``length`` slots from ``first``, cut off at slot 512."""
    return (((1 << length) - 1) << (first - 1)) & EVERY_SLOT


MAX_UNIVERSE = 63_999
"""Highest universe number that can be sent over a network (ANSI E1.31)."""

ACCEPTED = (
    "Type a slot from 1 to 512, such as 214, or universe/slot, such as 2/117; 2.117, 2 117 and "
    "u2 117 will do, and so will an absolute number above 512."
)

_PAIR = re.compile(r"^[uU]?\s*(\d{1,5})\s*[/.\s]\s*(\d{1,3})$", re.ASCII)
_SINGLE = re.compile(r"^(\d{1,8})$", re.ASCII)


def check_slot(slot: int) -> int:
    """Give the slot back if it is 1 to 512, else raise ``AddressError``."""
    if not 1 <= slot <= SLOTS:
        raise AddressError(f"There is no slot {slot}: a universe has slots 1 to {SLOTS}.")
    return slot


def check_universe(universe: int) -> int:
    """Give the universe number back if it is 1 to 63999, else raise ``AddressError``."""
    if not 1 <= universe <= MAX_UNIVERSE:
        raise AddressError(
            f"There is no universe {universe}: universes are numbered 1 to {MAX_UNIVERSE}."
        )
    return universe


@dataclass(frozen=True, slots=True, order=True)
class Address:
    """A slot in a universe: ``universe`` 1 to 63999, ``slot`` 1 to 512."""

    universe: int
    slot: int

    def __post_init__(self) -> None:
        if not 1 <= self.universe <= MAX_UNIVERSE:
            check_universe(self.universe)
        if not 1 <= self.slot <= SLOTS:
            check_slot(self.slot)

    def __str__(self) -> str:
        return f"U{self.universe} {self.slot:03d}"

    @property
    def absolute(self) -> int:
        """The number some boxes show: slots counted on from universe 1, slot 1."""
        return (self.universe - 1) * SLOTS + self.slot


@dataclass(frozen=True, slots=True, order=True)
class Run:
    """Consecutive slots of one universe: ``length`` slots from ``first``. It may ask for more than
    exist."""

    universe: int
    first: int
    length: int

    @property
    def last(self) -> int:
        """The last slot asked for; above 512 when the run goes past the end."""
        return self.first + self.length - 1

    @property
    def past_end(self) -> int:
        """How many of its slots lie beyond slot 512."""
        return max(0, self.last - SLOTS) if self.length else 0


def from_absolute(number: int) -> Address:
    """The address that a box counting on from universe 1 calls ``number``.

    Raises ``AddressError`` for a number below 1 or beyond universe 63999.
    """
    if number < 1:
        raise AddressError(f"{number} is not an address: the first slot is 1. {ACCEPTED}")
    return Address((number - 1) // SLOTS + 1, (number - 1) % SLOTS + 1)


def parse_address(text: str, *, current_universe: int = 1, absolute: bool = True) -> Address:
    """Read an address as a person types it.

    A bare number up to 512 is a slot of ``current_universe``; a larger one is an absolute number,
    unless ``absolute`` is False: where something is moved, 513 may be a slip, so the person is
    asked to say which universe is meant. Raises ``AddressError``, naming what is accepted, for
    anything else.
    """
    tidy = text.strip()
    if pair := _PAIR.match(tidy):
        return Address(int(pair[1]), int(pair[2]))
    if single := _SINGLE.match(tidy):
        number = int(single[1])
        if number > SLOTS and not absolute:
            meant = from_absolute(number)
            raise AddressError(
                f"{number} is past slot {SLOTS}, the last of U{current_universe}. Counted on from "
                "universe 1 it is "
                f"{meant}: type {meant.universe}/{meant.slot} if you mean that."
            )
        return Address(current_universe, number) if number <= SLOTS else from_absolute(number)
    shown = tidy if len(tidy) <= 40 else tidy[:40] + "…"
    raise AddressError(f"“{shown}” is not an address. {ACCEPTED}")


LONGEST_LIST = 4000
"""Characters of a list of slots; all 512 one by one take half of it."""


def parse_slots(text: str) -> tuple[int, ...]:
    """Read a list of slots such as ``509-512, 1``; gives them sorted, each once.

    Raises ``AddressError`` where a piece is neither a slot nor a range of slots from low to high.
    """
    slots: set[int] = set()
    joined = re.sub(r"\s*[-–]\s*", "-", text[:LONGEST_LIST])
    for piece in filter(None, re.split(r"[,;\s]+", joined)):
        match = re.match(r"^(\d{1,3})(?:\s*[-–]\s*(\d{1,3}))?$", piece, re.ASCII)
        if not match:
            raise AddressError(
                f"“{piece[:40]}” is not a slot. Type slots and ranges, such as 512 or 509-512."
            )
        first, last = int(match[1]), int(match[2] or match[1])
        if last < first:
            raise AddressError(
                f"The range {piece} runs backwards. Type the lower one first, such as 509-512."
            )
        slots.update(range(check_slot(first), check_slot(last) + 1))
    return tuple(sorted(slots))


def format_slots(slots: tuple[int, ...]) -> str:
    """Write slots as ``parse_slots`` reads them, neighbours joined to ranges."""
    pieces: list[str] = []
    start = previous = 0
    for slot in (*sorted(set(slots)), None):
        if slot is not None and previous and slot == previous + 1:
            previous = slot
            continue
        if previous:
            pieces.append(str(start) if start == previous else f"{start}-{previous}")
        start = previous = slot or 0
    return ", ".join(pieces)
