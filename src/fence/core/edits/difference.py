"""What lies between two shows: a reversible difference."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass, replace
from itertools import compress, count
from operator import is_not
from typing import Any, Generic, TypeVar

from fence.core.model.box import Box
from fence.core.model.day import Day
from fence.core.model.desk import Desk, TellTale
from fence.core.model.errors import EditError
from fence.core.model.fixture import Fixture
from fence.core.model.ground import NO_GROUND, Ground
from fence.core.model.line import Line
from fence.core.model.needs import Need
from fence.core.model.net import NO_NET, Net
from fence.core.model.profile import Profile
from fence.core.model.record import Prep
from fence.core.model.show import Position, Show, Universe
from fence.core.model.stock import Item
from fence.core.model.waiver import Waiver

Record = TypeVar("Record")


@dataclass(frozen=True, slots=True)
class Change(Generic[Record]):
    """One record before and after; None on the side where it does not exist. ``index`` is its place
    in the list."""

    before: Record | None
    after: Record | None
    index: int

    def reversed(self) -> Change[Record]:
        """The change back."""
        return Change(self.after, self.before, self.index)


@dataclass(frozen=True, slots=True)
class Heading:
    """What a show says about itself, free of its lists."""

    next_id: int
    name: str
    desk: Desk
    note: str
    needs: tuple[Need, ...] = ()
    tell_tale: TellTale | None = None
    walk: tuple[str, ...] = ()
    skipped: tuple[Prep, ...] = ()
    ground: Ground = NO_GROUND
    stock: tuple[Item, ...] = ()
    day: Day | None = None
    net: Net = NO_NET
    waivers: tuple[Waiver, ...] = ()


@dataclass(frozen=True, slots=True)
class Reorder:
    """The order of the fixtures that both shows have, by id."""

    before: tuple[int, ...]
    after: tuple[int, ...]


@dataclass(frozen=True, slots=True)
class Difference:
    """All that turns one show into another, and back."""

    heading: Change[Heading] | None = None
    fixtures: tuple[Change[Fixture], ...] = ()
    profiles: tuple[Change[Profile], ...] = ()
    universes: tuple[Change[Universe], ...] = ()
    positions: tuple[Change[Position], ...] = ()
    lines: tuple[Change[Line], ...] = ()
    boxes: tuple[Change[Box], ...] = ()
    reorder: Reorder | None = None

    @property
    def empty(self) -> bool:
        """True when nothing differs."""
        return self == Difference()

    def reversed(self) -> Difference:
        """The difference that leads back."""
        return Difference(
            heading=self.heading.reversed() if self.heading else None,
            fixtures=tuple(change.reversed() for change in self.fixtures),
            profiles=tuple(change.reversed() for change in self.profiles),
            universes=tuple(change.reversed() for change in self.universes),
            positions=tuple(change.reversed() for change in self.positions),
            lines=tuple(change.reversed() for change in self.lines),
            boxes=tuple(change.reversed() for change in self.boxes),
            reorder=Reorder(self.reorder.after, self.reorder.before) if self.reorder else None,
        )


def difference(before: Show, after: Show) -> Difference:
    """What turns ``before`` into ``after``. Records that are the same object cost one
    comparison."""
    heading = Change(heading_of(before), heading_of(after), 0)
    return Difference(
        heading=heading if heading.before != heading.after else None,
        fixtures=_changes(before.fixtures, after.fixtures, lambda fixture: fixture.id),
        profiles=_changes(before.profiles, after.profiles, lambda profile: profile.id),
        universes=_changes(before.universes, after.universes, lambda universe: universe.number),
        positions=_changes(before.positions, after.positions, lambda position: position.name),
        lines=_changes(before.lines, after.lines, lambda line: line.id),
        boxes=_changes(before.boxes, after.boxes, lambda box: box.id),
        reorder=_reorder(before, after),
    )


def _reorder(before: Show, after: Show) -> Reorder | None:
    """The order of the fixtures that both have, where it is another one."""
    if _in_step(before.fixtures, after.fixtures, lambda fixture: fixture.id):
        return None
    old_order = tuple([fixture.id for fixture in before.fixtures])
    new_order = tuple([fixture.id for fixture in after.fixtures])
    kept = set(old_order) & set(new_order)
    old_order = tuple(fixture_id for fixture_id in old_order if fixture_id in kept)
    new_order = tuple(fixture_id for fixture_id in new_order if fixture_id in kept)
    return Reorder(old_order, new_order) if old_order != new_order else None


def heading_of(show: Show) -> Heading:
    """What the show says about itself."""
    return Heading(show.next_id, **{name: getattr(show, name) for name in HEADING_FIELDS})


def _apart(before: Sequence[object], after: Sequence[object]) -> list[int]:
    """The places at which two lists hold different objects, as far as both go: few of many, as a
    rule, and these alone are compared."""
    return list(compress(count(), map(is_not, before, after)))


def _in_step(
    before: Sequence[Record], after: Sequence[Record], key: Callable[[Record], Hashable]
) -> bool:
    """Whether both have the same records in the same order, whatever became of them, but for some
    at the end of one of them."""
    return all(key(before[index]) == key(after[index]) for index in _apart(before, after))


def _changes(
    before: Sequence[Record], after: Sequence[Record], key: Callable[[Record], Hashable]
) -> tuple[Change[Record], ...]:
    changes: list[Change[Record]] = []
    if before is after:
        return ()
    if _in_step(before, after, key):
        both = min(len(before), len(after))
        changes += [
            Change(before[index], after[index], index)
            for index in _apart(before, after)
            if before[index] != after[index]
        ]
        changes += [Change(None, record, index) for index, record in enumerate(after[both:], both)]
        changes += [Change(record, None, index) for index, record in enumerate(before[both:], both)]
        return tuple(changes)
    old = {key(record): (index, record) for index, record in enumerate(before)}
    seen = set()
    for index, record in enumerate(after):
        name = key(record)
        seen.add(name)
        held = old.get(name)
        if held is None:
            changes.append(Change(None, record, index))
        elif held[1] is not record and held[1] != record:
            changes.append(Change(held[1], record, index))
    changes += [
        Change(record, None, index) for name, (index, record) in old.items() if name not in seen
    ]
    return tuple(changes)


def apply_difference(show: Show, found: Difference) -> Show:
    """The show with the difference applied.

    Raises ``EditError`` where the show is not what the difference started from, so nothing is
    overwritten unseen.
    """
    fixtures = _applied(show.fixtures, found.fixtures, lambda fixture: fixture.id)
    if found.reorder:
        rank = {fixture_id: place for place, fixture_id in enumerate(found.reorder.after)}
        moved = iter(
            sorted((f for f in fixtures if f.id in rank), key=lambda fixture: rank[fixture.id])
        )
        fixtures = tuple(next(moved) if fixture.id in rank else fixture for fixture in fixtures)
    show = replace(
        show,
        fixtures=fixtures,
        profiles=_applied(show.profiles, found.profiles, lambda profile: profile.id),
        universes=_applied(show.universes, found.universes, lambda universe: universe.number),
        positions=_applied(show.positions, found.positions, lambda position: position.name),
        lines=_applied(show.lines, found.lines, lambda line: line.id),
        boxes=_applied(show.boxes, found.boxes, lambda box: box.id),
    )
    if found.heading and found.heading.before and found.heading.after:
        show = with_heading(
            show, _stepped(heading_of(show), found.heading.before, found.heading.after)
        )
    return show


def _stepped(now: Heading, before: Heading, after: Heading) -> Heading:
    """``now`` with those fields that differ between ``before`` and ``after``; ``EditError`` where
    they are not as then.

    The next id only grows: an id that was given away once is never given to another fixture. A name
    may differ: a show that was put back under a name that is taken by now bears another one.
    """
    names = [name for name in HEADING_FIELDS if getattr(before, name) != getattr(after, name)]
    if any(getattr(now, name) != getattr(before, name) for name in names if name != "name"):
        raise EditError("The show has changed since: this step cannot be applied to it any more.")
    changed: dict[str, Any] = {name: getattr(after, name) for name in names}
    return replace(now, next_id=max(now.next_id, after.next_id), **changed)


HEADING_FIELDS = (
    "name",
    "desk",
    "note",
    "needs",
    "tell_tale",
    "walk",
    "skipped",
    "ground",
    "stock",
    "day",
    "net",
    "waivers",
)


def with_heading(show: Show, heading: Heading) -> Show:
    """The show with another heading."""
    said: dict[str, Any] = {name: getattr(heading, name) for name in HEADING_FIELDS}
    return replace(show, next_id=heading.next_id, **said)


def _applied(
    records: tuple[Record, ...],
    changes: tuple[Change[Record], ...],
    key: Callable[[Record], Hashable],
) -> tuple[Record, ...]:
    if not changes:
        return records
    held = {key(record): record for record in records}
    for change in changes:
        old = change.before
        name = (
            key(old) if old is not None else key(change.after) if change.after is not None else None
        )
        if held.get(name) != old:
            raise EditError(
                "The show has changed since: this step cannot be applied to it any more."
            )
    swapped = {key(c.before): c.after for c in changes if c.before is not None}
    kept = [swapped.get(key(record), record) for record in records]
    result = [record for record in kept if record is not None]
    inserted = [change for change in changes if change.before is None and change.after is not None]
    for change in sorted(inserted, key=lambda change: change.index):
        assert change.after is not None
        result.insert(change.index, change.after)
    return tuple(result)
