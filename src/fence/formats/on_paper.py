"""What goes on paper, as values: no page waits for the package that draws it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from fence.core.model.errors import EditError
from fence.core.model.setter import Switch


@dataclass(frozen=True, slots=True)
class Heading:
    """What stands on top of every page: the show, what the list is of, the revision and the local
    time it was made."""

    show: str
    title: str
    revision: int
    made: datetime


@dataclass(frozen=True, slots=True)
class Stickers:
    """A sheet of stickers: how many across and down, the size of each, and where they begin, in
    millimetres on A4."""

    columns: int
    rows: int
    width: float
    height: float
    left: float
    top: float
    across: float = 0.0
    down: float = 0.0

    def __post_init__(self) -> None:
        for what, size, least, most in (
            ("columns", self.columns, 1, 20),
            ("rows", self.rows, 1, 40),
            ("mm width", self.width, 20, PAGE[0]),
            ("mm height", self.height, 12, PAGE[1]),
            ("mm from the left", self.left, 0, PAGE[0]),
            ("mm from the top", self.top, 0, PAGE[1]),
            ("mm between columns", self.across, 0, PAGE[0]),
            ("mm between rows", self.down, 0, PAGE[1]),
        ):
            if not least <= size <= most:
                raise EditError(f"{size:g} {what} is not possible. Use {least:g} to {most:g}.")
        right = self.left + self.columns * self.width + (self.columns - 1) * self.across
        bottom = self.top + self.rows * self.height + (self.rows - 1) * self.down
        if right > PAGE[0] + 0.6 or bottom > PAGE[1] + 0.6:
            raise EditError(
                f"These stickers end {right:g} mm from the left and {bottom:g} mm from the top: "
                f"an A4 sheet has {PAGE[0]:g} by {PAGE[1]:g} mm."
            )

    @property
    def each(self) -> int:
        """Stickers on a sheet."""
        return self.columns * self.rows


PAGE = (210.0, 297.0)

SIZES = {
    "70x37": Stickers(3, 8, 70, 37, 0, 0.5),
    "63x38": Stickers(3, 7, 63.5, 38.1, 7.2, 15.1, 2.5),
    "99x38": Stickers(2, 7, 99.1, 38.1, 4.7, 15.1, 2.5),
    "48x25": Stickers(4, 10, 48.5, 25.4, 8, 21.5),
    "105x74": Stickers(2, 4, 105, 74, 0, 0.5),
}
"""Common sheets of stickers on A4, by width and height in millimetres."""


@dataclass(frozen=True, slots=True)
class Label:
    """What stands on one label. ``code`` is the text of its square code; ``again`` marks one to be
    set once more."""

    number: str
    name: str
    address: str
    mode: str
    kind: str
    position: str
    switches: tuple[Switch, ...]
    code: str
    note: str = ""


@dataclass(frozen=True, slots=True)
class TickLine:
    """A fixture on a sheet to tick."""

    label: Label
    how: str
    state: str


@dataclass(frozen=True, slots=True)
class Logged:
    """An entry of the log as it goes along: its state, local time, person, place, words with the
    note."""

    state: int
    at: datetime
    who: str
    origin: str
    words: str
