"""Edits of what stands around the rig: universes, positions, the desk, what the show needs, its
name."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

from fence.core.model.day import Day
from fence.core.model.desk import Desk, TellTale
from fence.core.model.errors import EditError
from fence.core.model.ground import Ground
from fence.core.model.needs import Need
from fence.core.model.show import Show, Universe
from fence.core.model.stock import Item
from fence.core.model.text import check_text, counted


def add_universe(show: Show, number: int, name: str = "") -> Show:
    """Add a universe; ``EditError`` if the show has it already."""
    if number in show.universe_by_number:
        raise EditError(
            f"Universe {number} is already there: {show.universe_by_number[number].title}."
        )
    universes = sorted(
        (*show.universes, Universe(number, name.strip())), key=lambda universe: universe.number
    )
    return replace(show, universes=tuple(universes))


def rename_universe(show: Show, number: int, name: str) -> Show:
    """Give a universe another name; its number stays."""
    return _change_universe(show, number, lambda universe: replace(universe, name=name.strip()))


def reserve(show: Show, number: int, slots: Sequence[int]) -> Show:
    """Set which slots (1 to 512) of a universe are kept free of fixtures; an empty list lifts them
    all."""
    return _change_universe(
        show, number, lambda universe: replace(universe, reserved=tuple(sorted(set(slots))))
    )


def remove_universe(show: Show, number: int) -> Show:
    """Take out an empty universe; ``EditError`` while fixtures are planned on it."""
    _change_universe(show, number, lambda universe: universe)
    planned = [f.label for f in show.fixtures if any(patch.universe == number for patch in f.patch)]
    if planned:
        raise EditError(
            f"U{number} still has {counted(len(planned), 'fixture')}, {planned[0]} first: move "
            "them before."
        )
    return replace(show, universes=tuple(u for u in show.universes if u.number != number))


def _change_universe(show: Show, number: int, change: Callable[[Universe], Universe]) -> Show:
    if number not in show.universe_by_number:
        raise EditError(f"The show has no universe {number}.")
    return replace(
        show, universes=tuple(change(u) if u.number == number else u for u in show.universes)
    )


def set_hard(show: Show, position: str, *, hard: bool) -> Show:
    """Say whether a position is hard to reach: fixtures there are moved last by a repair."""
    if position not in {held.name for held in show.positions}:
        raise EditError(f"The show has no position “{position[:60]}”.")
    return replace(
        show,
        positions=tuple(replace(p, hard=hard) if p.name == position else p for p in show.positions),
    )


def set_tell_tale(show: Show, tell_tale: TellTale | None) -> Show:
    """Keep a slot of every universe at a level that tells its number, or keep none."""
    return replace(show, tell_tale=tell_tale)


def set_desk(show: Show, desk: Desk) -> Show:
    """Say which desk the show is for."""
    check_text("desk name", desk.name, required=False)
    return replace(show, desk=desk)


def set_need(show: Show, need: Need) -> Show:
    """Say what is needed of whom, in the place of what was said of the same before; an empty need
    takes it away."""
    kept = tuple(held for held in show.needs if (held.scope, held.key) != (need.scope, need.key))
    said = (need,) if need.features or need.school else ()
    return replace(show, needs=(*kept, *said))


def add_need(show: Show, need: Need) -> Show:
    """Say what is needed of whom beside what was said of the same before; a school takes the place
    of another one."""
    held = next(
        (held for held in show.needs if (held.scope, held.key) == (need.scope, need.key)), None
    )
    if held is not None:
        need = replace(
            need, features=(*held.features, *need.features), school=need.school or held.school
        )
    return set_need(show, need)


def rename_show(show: Show, name: str) -> Show:
    """Give the show another name."""
    return replace(show, name=check_text("show name", name.strip()))


def set_ground(
    show: Show, ground: Ground, spacings: Mapping[str, float | None] | None = None
) -> Show:
    """Say how far places lie apart, and how far fixtures hang from each other at positions
    (metres)."""
    spacings = spacings or {}
    known = {position.name for position in show.positions}
    if lost := next((name for name in spacings if name not in known), None):
        raise EditError(f"The show has no position “{lost[:60]}”.")
    positions = tuple(
        replace(p, spacing=spacings[p.name]) if p.name in spacings else p for p in show.positions
    )
    return replace(
        show, ground=ground, positions=positions if positions != show.positions else show.positions
    )


def set_stock(show: Show, stock: Sequence[Item]) -> Show:
    """Say what lies in the store; pieces that are alike are counted together."""
    counts: dict[Item, int] = {}
    for item in stock:
        alike = replace(item, count=0)
        counts[alike] = counts.get(alike, 0) + item.count
    return replace(show, stock=tuple(replace(item, count=count) for item, count in counts.items()))


def set_day(show: Show, day: Day | None) -> Show:
    """Say when batteries must last; None for a show without such a plan."""
    known = show.fixture_by_id
    if day is not None:
        day = replace(day, measured=tuple(held for held in day.measured if held.fixture in known))
    return replace(show, day=day)
