"""How a universe is laid out as a picture: so many pickets a rail, and where each slot's picket
stands.

Slot s stands on rail (s - 1) // pickets as picket (s - 1) % pickets. All in units of the drawing.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from flask import request

from fence.core.model.address import SLOTS

PICKET_HEIGHT = 26
TIP = 5
TOP = 6
RAIL_PITCH = 64


@dataclass(frozen=True, slots=True)
class Segment:
    """The piece of a run that stands on one rail: where its rail board goes, from ``x1`` to ``x2``
    at ``y``."""

    x1: int
    x2: int
    y: int


@dataclass(frozen=True, slots=True)
class Rails:
    """A way to lay 512 pickets out. ``aside``: room behind the end post, for pickets that fall over
    it."""

    pickets: int
    pitch: int
    width: int
    left: int
    aside: int

    @property
    def count(self) -> int:
        """How many rails there are."""
        return SLOTS // self.pickets

    @property
    def end(self) -> int:
        """Where the rails end, at the end post."""
        return self.left + self.pickets * self.pitch

    @property
    def whole_width(self) -> int:
        """Width of the drawing."""
        return self.end + self.aside

    @property
    def height(self) -> int:
        """Height of the drawing."""
        return TOP + self.count * RAIL_PITCH

    def rail_of(self, slot: int) -> int:
        """The number of the rail that carries a slot, from 0."""
        return (slot - 1) // self.pickets

    def x_of(self, slot: int) -> int:
        """Left edge of a slot's picket."""
        return self.left + (slot - 1) % self.pickets * self.pitch

    def y_of(self, slot: int) -> int:
        """Top of the rail that carries a slot."""
        return TOP + self.rail_of(slot) * RAIL_PITCH

    def picket_path(self, slots: Iterable[int]) -> str:
        """The path of the pickets of these slots; slots beyond 512 have none."""
        body = PICKET_HEIGHT - TIP
        picket = f"v{body}h-{self.width}v-{body}l{self.width / 2},-{TIP}z"
        return "".join(
            f"M{self.x_of(slot) + self.width},{self.y_of(slot) + TIP}{picket}"
            for slot in slots
            if 1 <= slot <= SLOTS
        )

    def post_path(self, slots: Iterable[int]) -> str:
        """The path of the capped posts of reserved slots."""
        cap = self.width + 3
        post = f"h{self.width}v{PICKET_HEIGHT}h-{self.width}zm-1.5,-3h{cap}v3h-{cap}z"
        return "".join(f"M{self.x_of(slot)},{self.y_of(slot)}{post}" for slot in slots)

    def segments_of(self, first: int, last: int) -> tuple[Segment, ...]:
        """The pieces of slots ``first`` to ``last``, one a rail."""
        pieces = []
        slot, last = first, min(last, SLOTS)
        while slot <= last:
            end = min(last, (self.rail_of(slot) + 1) * self.pickets)
            pieces.append(Segment(self.x_of(slot), self.x_of(end) + self.width, self.y_of(slot)))
            slot = end + 1
        return tuple(pieces)

    def fallen_path(self, count: int) -> str:
        """Pickets lying beyond the end post, leaning more and more: those that a run asks for past
        slot 512.

        As many as there is room for.
        """
        paths = []
        for step in range(min(count, (self.aside - 20) // 8)):
            x, y = self.end + 4 + step * 8, TOP + (self.count - 1) * RAIL_PITCH + PICKET_HEIGHT
            lean = 6 + step * 1.6
            paths.append(
                f"M{x},{y}l{lean:.1f},-{20 - step * 1.6:.1f}l5,2l-1,5"
                f"l-{lean - 1:.1f},{13 - step * 1.2:.1f}z"
            )
        return "".join(paths)


WIDE = Rails(64, 12, 9, 44, 62)
"""Eight rails of 64, for a screen."""
NARROW = Rails(32, 10, 7, 38, 28)
"""Sixteen rails of 32, as wide as a phone held upright."""


def asked_rails() -> Rails:
    """The rails for the screen that asks: the page notes in a cookie whether it is a narrow one."""
    return NARROW if request.cookies.get("rail") == "32" else WIDE
