"""What is known of a fixture itself, beside the plan: set, read back, proven. Each says who, when
and how.

None of these facts overwrites another, and none changes when the plan does. What follows from them
all is computed by ``standing``.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from datetime import UTC, datetime
from enum import StrEnum

from fence.core.model.errors import EditError
from fence.core.model.patch import Patch
from fence.core.model.text import LONGEST_TEXT, check_text, check_whole

HIGHEST_READING = 99_999
"""The highest number that a display is taken to show. Some show numbers over all universes."""


class How(StrEnum):
    """How it came to be known."""

    HAND = "by hand"
    RDM = "by RDM"
    SEEN = "seen"


@dataclass(frozen=True, slots=True)
class Witness:
    """Who recorded a fact, when (in UTC; None for a record of old that has no time) and how."""

    who: str = ""
    at: datetime | None = None
    how: How = How.HAND

    def __post_init__(self) -> None:
        check_text("name", self.who, required=False)
        if self.at is not None:
            if self.at.tzinfo is None:
                raise EditError(
                    "A time without its zone is not accepted: it is taken in UTC, such as "
                    "2026-02-14T18:30Z."
                )
            object.__setattr__(self, "at", self.at.astimezone(UTC))


NOBODY = Witness()


IDENTITY = re.compile(r"[0-9A-F]{4}:[0-9A-F]{8}", re.ASCII)


def is_identity(serial: str) -> bool:
    """Whether a serial number is what a device calls itself on the line [ANSI E1.20], as
    ``7FF0:0000001A``."""
    return IDENTITY.fullmatch(serial) is not None


@dataclass(frozen=True, slots=True)
class SetTo:
    """What was really set at a fixture: the mode and the start of each part, whatever the plan says
    by now."""

    mode: str
    patch: tuple[Patch, ...]
    by: Witness = NOBODY

    def __post_init__(self) -> None:
        check_text("mode", self.mode, required=False)


@dataclass(frozen=True, slots=True)
class ReadBack:
    """What a fixture said of itself: the number of each part (None where it was not read) and the
    mode, if known.

    ``planned_mode`` and ``planned`` are what the plan said then: they tell a fixture that was never
    right from one whose plan has changed since. ``reason`` says why it is left so, where it is.
    """

    says: tuple[int | None, ...]
    planned_mode: str
    planned: tuple[Patch, ...]
    mode: str = ""
    by: Witness = NOBODY
    reason: str = ""

    def __post_init__(self) -> None:
        check_text("mode", self.mode, required=False)
        check_text("mode", self.planned_mode, required=False)
        check_text("reason", self.reason, required=False)
        for number in self.says:
            if number is not None:
                check_whole("number on a display", number, 0, HIGHEST_READING)


@dataclass(frozen=True, slots=True)
class Proof:
    """That the right fixture answered in the right way, in this mode and at these addresses.

    ``way`` stands for the cable that led to it then (see ``Show.way_in``); 0 where no line was
    planned.
    """

    mode: str
    patch: tuple[Patch, ...]
    by: Witness = NOBODY
    way: int = 0

    def __post_init__(self) -> None:
        check_text("mode", self.mode, required=False)


class Seen(StrEnum):
    """What was seen of a fixture that was brought up, where that was not what ought to be."""

    DARK = "dark"
    OTHER = "other"
    WRONG = "wrong"


SEEN_WORDS = {
    Seen.DARK: "stays dark",
    Seen.OTHER: "is not the one that lights up",
    Seen.WRONG: "shows something else, or moves",
}


@dataclass(frozen=True, slots=True)
class Sign:
    """That a fixture did not answer as it should when it was brought up in a ``look``. It stays
    open until the fixture is proven."""

    seen: Seen
    look: str = ""
    by: Witness = NOBODY

    def __post_init__(self) -> None:
        check_text("look", self.look, required=False)

    @property
    def words(self) -> str:
        """What was seen, to stand behind the name of the fixture."""
        return SEEN_WORDS[self.seen] + (f", brought up in {self.look}" if self.look else "")


class Prep(StrEnum):
    """What is done at a fixture, once each, in this order; address and safety bond are the last
    before it goes up."""

    FIRMWARE = "firmware"
    RESET = "factory settings"
    LISTENS = "listens to DMX"
    MODE = "mode"
    LINK = "wireless link"
    NAME = "name"
    ADDRESS = "address"
    LABEL = "label"
    BOND = "safety bond"


@dataclass(frozen=True, slots=True)
class Tick:
    """A step of the preparation that was done. ``of`` is what it was done for: a mode, an address;
    it must still be. By whom it was ticked makes no other tick of it."""

    step: Prep
    of: str = ""
    by: Witness = field(default=NOBODY, compare=False)

    def __post_init__(self) -> None:
        if len(self.of) > LONGEST_TEXT:
            check_text("tick", self.of)
