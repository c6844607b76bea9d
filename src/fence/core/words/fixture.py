"""A fixture of the rig: what people call it, where it is planned, what was set at it."""

from __future__ import annotations

from dataclasses import dataclass

from fence.core.words.address import Address, check_slot, check_universe
from fence.core.words.errors import EditError
from fence.core.words.text import LONGEST_TEXT, check_text, check_whole

HIGHEST_ID = 2**53 - 1
"""Highest fixture id: whole numbers up to here are exact in every program that reads JSON."""


@dataclass(frozen=True, slots=True)
class Patch:
    """Where one part of a fixture is planned: a universe and a start slot, a universe only, or nothing."""

    universe: int | None = None
    slot: int | None = None

    def __post_init__(self) -> None:
        if self.universe is not None:
            check_universe(self.universe)
        if self.slot is not None:
            check_slot(self.slot)
            if self.universe is None:
                raise EditError(f"Slot {self.slot} needs a universe beside it.")

    @property
    def address(self) -> Address | None:
        """The start address, or None while it has none."""
        if self.universe is None or self.slot is None:
            return None
        return Address(self.universe, self.slot)

    def __str__(self) -> str:
        if self.slot is None:
            return "no address" if self.universe is None else f"U{self.universe}, no address"
        return str(self.address)


@dataclass(frozen=True, slots=True)
class SetTo:
    """What was really set at a fixture: the mode and the start of each part, whatever the plan says by now."""

    mode: str
    patch: tuple[Patch, ...]

    def __post_init__(self) -> None:
        check_text("mode", self.mode, required=False)


@dataclass(frozen=True, slots=True)
class Fixture:
    """One fixture of the rig.

    ``id`` tells it apart for good; ``number`` and ``label`` are what people call it. ``patch`` has one entry a part
    of its mode. Fixtures of one ``share`` group listen to the same address on purpose. ``set_to`` is what was set at
    the fixture, None while nobody has been there.
    """

    id: int
    label: str
    profile: str
    mode: str
    number: int | None = None
    position: str = ""
    patch: tuple[Patch, ...] = (Patch(),)
    pinned: bool = False
    share: str = ""
    note: str = ""
    set_to: SetTo | None = None

    def __post_init__(self) -> None:
        words = self.label + self.profile + self.mode + self.position + self.share + self.note
        if len(words) > LONGEST_TEXT or not words.isprintable() or not self.label.strip():
            self._check_words()
        check_whole("fixture id", self.id, 1, HIGHEST_ID)
        if self.number is not None:
            check_whole("fixture number", self.number, 0, 999_999_999)
        if not self.patch:
            raise EditError(f"{self.label} has no patch entry: there is one for each part of its mode.")

    def _check_words(self) -> None:
        """Each text by itself. One look at all of them together is enough for nearly every fixture."""
        check_text("label", self.label)
        check_text("profile", self.profile, required=False)
        check_text("mode", self.mode, required=False)
        check_text("position", self.position, required=False)
        check_text("sharing group", self.share, required=False)
        check_text("note", self.note, required=False)

    @property
    def universe(self) -> int | None:
        """Universe of its first part."""
        return self.patch[0].universe

    @property
    def start(self) -> int | None:
        """Start slot of its first part."""
        return self.patch[0].slot

    @property
    def set_as_planned(self) -> bool:
        """Whether it was set, and to what the plan still says."""
        return self.set_to is not None and (self.set_to.mode, self.set_to.patch) == (self.mode, self.patch)
