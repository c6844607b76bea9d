"""The lists that a crew works from: by fixture, and by channel with free slots folded."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from enum import StrEnum

from fence.core.addressing.sheet import SlotRow, slot_sheet
from fence.core.model.errors import SetterError
from fence.core.model.fixture import Fixture
from fence.core.model.profile import SetterKind
from fence.core.model.setter import Switch, as_seen
from fence.core.model.show import Show


class ListOrder(StrEnum):
    """How a list by fixture runs."""

    RIG = "rig"
    NUMBER = "number"
    ADDRESS = "address"
    POSITION = "position"


@dataclass(frozen=True, slots=True)
class ListedFixture:
    """A fixture on a list. ``switches``: from left to right as seen upright, empty where it has
    none to set.

    ``channels`` is None where its mode is not known.
    """

    fixture: Fixture
    kind: str
    channels: int | None
    switches: tuple[Switch, ...]

    @property
    def address(self) -> str:
        """Where it starts, all parts; empty for one that needs no address."""
        return self.fixture.planned_at if self.channels != 0 else ""


ORDERS: dict[ListOrder, Callable[[Fixture], tuple[object, ...]]] = {
    ListOrder.RIG: lambda fixture: (),
    ListOrder.NUMBER: lambda fixture: (fixture.number is None, fixture.number or 0),
    ListOrder.ADDRESS: lambda fixture: (
        fixture.start is None,
        fixture.universe or 0,
        fixture.start or 0,
    ),
    ListOrder.POSITION: lambda fixture: (fixture.position == "", fixture.position.casefold()),
}


def in_order(
    show: Show,
    order: ListOrder = ListOrder.RIG,
    *,
    universe: int | None = None,
    position: str | None = None,
) -> list[Fixture]:
    """The fixtures of a show in an order, of one universe or one position where that is asked
    for."""
    chosen = [
        fixture
        for fixture in show.fixtures
        if (universe is None or any(entry.universe == universe for entry in fixture.patch))
        and (position is None or fixture.position == position)
    ]
    return chosen if order is ListOrder.RIG else sorted(chosen, key=ORDERS[order])


def listed(show: Show, fixtures: Iterable[Fixture]) -> list[ListedFixture]:
    """Fixtures as a list has them, one line each."""
    return [_listed(show, fixture) for fixture in fixtures]


def _listed(show: Show, fixture: Fixture) -> ListedFixture:
    profile, mode = show.profile_of(fixture), show.mode_of(fixture)
    switches: tuple[Switch, ...] = ()
    if (
        profile is not None
        and profile.setter.kind is SetterKind.SWITCHES
        and fixture.start is not None
    ):
        try:
            switches = as_seen(fixture.start, profile.setter)
        except SetterError:
            switches = ()
    title = profile.title if profile else "chart missing"
    return ListedFixture(fixture, title, mode.footprint if mode else None, switches)


@dataclass(frozen=True, slots=True)
class ChannelLine:
    """A line of a list by channel: one slot in use or kept, or a run of free ones (``row``
    None)."""

    first: int
    last: int
    row: SlotRow | None


def channels_listed(show: Show, universe: int) -> list[ChannelLine]:
    """The slots of a universe in order, each run of free ones folded to one line."""
    lines: list[ChannelLine] = []
    for row in slot_sheet(show, universe):
        if row.fixtures or row.kept:
            lines.append(ChannelLine(row.slot, row.slot, row))
        elif lines and lines[-1].row is None:
            lines[-1] = ChannelLine(lines[-1].first, row.slot, None)
        else:
            lines.append(ChannelLine(row.slot, row.slot, None))
    return lines
