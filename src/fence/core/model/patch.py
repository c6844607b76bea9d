"""Where a part of a fixture is planned to listen."""

from __future__ import annotations

from dataclasses import dataclass

from fence.core.model.address import MAX_UNIVERSE, SLOTS, Address, check_slot, check_universe
from fence.core.model.errors import EditError


@dataclass(frozen=True, slots=True)
class Patch:
    """Where one part of a fixture is planned: a universe and a start slot, a universe only, or
    nothing."""

    universe: int | None = None
    slot: int | None = None

    def __post_init__(self) -> None:
        universe, slot = self.universe, self.slot
        if universe is not None and not 1 <= universe <= MAX_UNIVERSE:
            check_universe(universe)
        if slot is not None:
            if not 1 <= slot <= SLOTS:
                check_slot(slot)
            if universe is None:
                raise EditError(f"Slot {slot} needs a universe beside it.")

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
