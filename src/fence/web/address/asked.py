"""What a form or a link asks the board to show."""

from __future__ import annotations

from dataclasses import dataclass

from fence.web.address.rails import WIDE, Rails


@dataclass(frozen=True, slots=True)
class Asked:
    """What the page was asked to show."""

    universe: int | None = None
    pick: int | None = None
    part: int = 0
    finding: str = ""
    turned: bool = False
    also: tuple[int, ...] = ()
    on: Rails = WIDE

    @property
    def picks(self) -> tuple[int, ...]:
        """The ids of all picked fixtures, the first picked first."""
        return tuple(dict.fromkeys((*((self.pick,) if self.pick else ()), *self.also)))

    @property
    def also_words(self) -> str:
        """The further picks as they stand in an address of a page; empty for none."""
        return ",".join(map(str, self.also))
