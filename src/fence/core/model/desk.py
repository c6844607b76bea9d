"""The control desk, described by its limits, and the tell-tale slot."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from fence.core.model.address import MAX_UNIVERSE, SLOTS, check_slot, check_universe
from fence.core.model.errors import EditError
from fence.core.model.profile import Function
from fence.core.model.text import check_text, check_whole

MOST_BUTTONS = 100_000


@dataclass(frozen=True, slots=True)
class Desk:
    """The control desk, described by its limits.

    ``universes``: the highest universe number it sends, None where not known. ``page``: slots of
    the page that each fixture button controls, None for a desk that patches freely. ``buttons``:
    how many fixture buttons it has. ``highest``: the highest slot it sends. ``layout``: the
    functions it expects slot by slot, empty where it takes any.
    """

    name: str = ""
    universes: int | None = None
    page: int | None = None
    buttons: int | None = None
    highest: int = SLOTS
    layout: tuple[Function, ...] = ()

    def __post_init__(self) -> None:
        if self.universes is not None:
            check_universe(self.universes)
        if self.page is not None:
            check_slot(self.page)
        if self.buttons is not None:
            check_whole("number of fixture buttons", self.buttons, 1, MOST_BUTTONS)
        check_slot(self.highest)
        check_text("desk name", self.name, required=False)
        if len(self.layout) > SLOTS:
            raise EditError(
                f"The desk's layout has {len(self.layout)} channels. Use up to {SLOTS}."
            )

    @property
    def last_universe(self) -> int:
        """The highest universe number that may be planned on it."""
        return self.universes or MAX_UNIVERSE


NO_DESK = Desk()
"""A desk of which nothing is known, so that nothing is limited by it."""


class Scale(StrEnum):
    """How the tell-tale slot says its universe's number: as a percentage, or as the level
    itself."""

    PERCENT = "percent"
    RAW = "raw"

    @property
    def highest(self) -> int:
        """The highest universe number that the scale can say."""
        return 100 if self is Scale.PERCENT else 255


@dataclass(frozen=True, slots=True)
class TellTale:
    """A slot that is kept, in every universe, at a level which is the universe's number. Practice,
    not standard."""

    slot: int = SLOTS
    scale: Scale = Scale.PERCENT

    def __post_init__(self) -> None:
        check_slot(self.slot)

    def level(self, universe: int) -> int | None:
        """The level (0 to 255) that says ``universe``; None where the scale does not reach so far.

        In percent it is the lowest level that every display, rounding or cutting, shows as that
        percentage.
        """
        if universe > self.scale.highest:
            return None
        return -(-255 * universe // 100) if self.scale is Scale.PERCENT else universe
