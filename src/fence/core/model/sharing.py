"""Who moves as one: a fixture alone, or a sharing group.

Fixtures of a group listen to one address on purpose. Wherever Fence moves, counts or compares
fixtures, the group is one thing; this is the only place that says what belongs together, and
whether it is held by a pin.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable
from typing import NamedTuple

from fence.core.model.errors import EditError
from fence.core.model.fixture import Fixture
from fence.core.model.show import Show


class Mover(NamedTuple):
    """What tells apart who moves as one: the name of a group, or the id of a fixture that shares
    with nobody."""

    group: str
    fixture: int


def mover_of(fixture: Fixture) -> Mover:
    """Who the fixture moves with."""
    return Mover(fixture.share, 0) if fixture.share else Mover("", fixture.id)


class Alike(NamedTuple):
    """What the members of a group must have in common to move as one: the group, the type and the
    mode."""

    mover: Mover
    profile: str
    mode: str


def alike(fixture: Fixture) -> Alike:
    """What a fixture has in common with those that move with it."""
    return Alike(mover_of(fixture), fixture.profile, fixture.mode)


def movers_in(fixtures: Iterable[Fixture]) -> dict[Mover, list[Fixture]]:
    """The fixtures by who moves as one, in the order in which each first comes."""
    found: dict[Mover, list[Fixture]] = {}
    for fixture in fixtures:
        found.setdefault(mover_of(fixture), []).append(fixture)
    return found


def buttons_left(show: Show) -> int | None:
    """How many more fixtures (or sharing groups) the desk has fixture buttons for; None where it
    has no such limit."""
    if show.desk.buttons is None:
        return None
    needed = movers_in(fixture for fixture in show.fixtures if any(show.footprints_of(fixture)))
    return max(0, show.desk.buttons - len(needed))


def holder_of(show: Show, fixture: Fixture) -> Fixture | None:
    """The pinned fixture that holds this one where it is: itself, or one of its group; None where
    it may move."""
    return next((sharer for sharer in show.sharers_of(fixture) if sharer.pinned), None)


def moving(show: Show, ids: Collection[int]) -> list[Fixture]:
    """The fixtures of these ids with all that share with them, each once, in rig order.

    Raises ``EditError`` for an id that the show does not have, and where a pin holds one of them.
    """
    wanted = {mover_of(show.fixture(fixture_id)) for fixture_id in ids}
    found = [fixture for fixture in show.fixtures if mover_of(fixture) in wanted]
    for fixture in found:
        check_free(fixture)
    return found


def check_free(fixture: Fixture) -> None:
    """Raise ``EditError`` for a fixture that is pinned."""
    if fixture.pinned:
        raise EditError(
            f"{fixture.label} is pinned at {fixture.planned_at}: take the pin out before it is "
            "moved."
        )
