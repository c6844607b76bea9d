"""Two edits that began at one show: the second one put on top of the first, or what stands between
them.

An edit is known by the show it began at and the show it made. Where another edit was saved
meanwhile, only what this one changed is done again on top of it. Edits of different records
(fixtures, universes, positions, charts, needs) do not meet, unless both together make a stop or a
caution that neither had made alone.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import dataclass, fields, replace
from typing import Any, TypeVar

from fence.core.checks import OF_THE_RECORD, Analysis, Severity, analyse, news
from fence.core.edits import with_parts, with_places, without_gone
from fence.core.edits.compare import RECORDS
from fence.core.edits.difference import Heading, difference, heading_of, with_heading
from fence.core.model.box import Box
from fence.core.model.errors import EditError
from fence.core.model.fixture import Fixture
from fence.core.model.needs import Need
from fence.core.model.show import Show
from fence.core.model.waiver import Waiver

Record = TypeVar("Record")

MOST_TOLD = 6


@dataclass(frozen=True, slots=True)
class Merge:
    """Both edits together. ``collisions`` says in words where they meet; empty where they do
    not."""

    show: Show
    collisions: tuple[str, ...]


def merge(base: Show, mine: Show, theirs: Show, *, mine_wins: bool = False) -> Merge:
    """What ``mine`` changed of ``base``, done on top of ``theirs``.

    Where both changed one record, that is a collision; with ``mine_wins`` the fields that ``mine``
    changed are taken from it and all others from ``theirs``. Fixtures that both added are kept
    apart by new ids. Raises ``EditError`` where ``mine_wins`` and what it changed was removed
    meanwhile.
    """
    mine = _with_fresh_ids(base, mine, theirs)
    join = _Join(base, mine, theirs, mine_wins)
    show = join.show()
    show = with_places(with_parts(show) if mine_wins else show)
    told = [*join.told, *_groups_of_one_name(base, mine, theirs)]
    if not told and not mine_wins:
        told += _clashes(analyse(show), analyse(mine), analyse(theirs))
    return Merge(show, tuple(dict.fromkeys(told))[:MOST_TOLD])


def _with_fresh_ids(base: Show, mine: Show, theirs: Show) -> Show:
    """``mine`` with the fixtures that it added under ids that ``theirs`` has not given away."""
    shift = theirs.next_id - base.next_id
    if shift <= 0 or mine.next_id == base.next_id:
        return mine
    fixtures = tuple(
        replace(f, id=f.id + shift) if f.id >= base.next_id else f for f in mine.fixtures
    )
    return replace(mine, fixtures=fixtures, next_id=mine.next_id + shift)


class _Join:
    """Puts what ``mine`` changed on top of ``theirs``, and collects in ``told`` where the two
    meet."""

    def __init__(self, base: Show, mine: Show, theirs: Show, wins: bool) -> None:
        self.base, self.mine, self.theirs, self.wins = base, mine, theirs, wins
        self.told: list[str] = []

    def show(self) -> Show:
        """Both together."""
        universes = self.records(lambda show: show.universes, lambda universe: universe.number)
        show = replace(
            self.theirs,
            fixtures=self.ordered(
                self.records(lambda show: show.fixtures, lambda fixture: fixture.id)
            ),
            profiles=self.records(lambda show: show.profiles, lambda profile: profile.id),
            universes=tuple(sorted(universes, key=lambda universe: universe.number)),
            positions=self.records(lambda show: show.positions, lambda position: position.name),
            lines=self.records(lambda show: show.lines, lambda line: line.id),
            boxes=self.records(lambda show: show.boxes, lambda box: box.id),
        )
        return without_gone(with_heading(show, self.heading()))

    def records(
        self, list_of: Callable[[Show], tuple[Record, ...]], key: Callable[[Record], Hashable]
    ) -> tuple[Record, ...]:
        """One list of records."""
        base, mine, theirs = list_of(self.base), list_of(self.mine), list_of(self.theirs)
        if mine is base or mine == base:
            return theirs
        old, other = {key(r): r for r in base}, {key(r): r for r in theirs}
        merged = dict(other)
        for record in mine:
            known = key(record)
            before, there = old.get(known), other.get(known)
            if before is record or before == record:
                continue
            if there == before or (before is None and there == record):
                merged[known] = record
            else:
                merged[known] = self.both(before, record, there)
        for known in old.keys() - {key(record) for record in mine}:
            if merged.pop(known, None) not in (None, old[known]):
                self.told.append(
                    f"{_called(other[known])} was changed meanwhile, and this step removes it."
                )
        return _placed(mine, theirs, merged, key)

    def both(self, before: Record | None, record: Record, there: Record | None) -> Record:
        """A record that both changed, or both added."""
        name = _called(record)
        if there is None:
            if self.wins:
                raise EditError(f"{name} was removed meanwhile: this step cannot be done any more.")
            self.told.append(f"{name} was removed meanwhile.")
            return record
        if before is None:
            self.told.append(f"{name} was added twice.")
            return record
        if isinstance(before, (Fixture, Box)):
            mine, theirs = _changed_fields(before, record), _changed_fields(before, there)
            marks = mine <= KNOWN_OF_IT or theirs <= KNOWN_OF_IT
            if not mine & theirs and (marks or isinstance(before, Box)):
                return _field_by_field(before, record, there)
        self.told.append(f"{name} was changed meanwhile as well.")
        return _field_by_field(before, record, there)

    def ordered(self, fixtures: tuple[Fixture, ...]) -> tuple[Fixture, ...]:
        """The fixtures in the order of ``mine``, where that is what it changed."""
        reorder = difference(self.base, self.mine).reorder
        if reorder is None:
            return fixtures
        other = difference(self.base, self.theirs).reorder
        if other is not None and other.after != reorder.after:
            self.told.append("The order of the rig was changed meanwhile as well.")
        rank = {fixture_id: place for place, fixture_id in enumerate(reorder.after)}
        moved = iter(
            sorted((f for f in fixtures if f.id in rank), key=lambda fixture: rank[fixture.id])
        )
        return tuple(next(moved) if fixture.id in rank else fixture for fixture in fixtures)

    def heading(self) -> Heading:
        """What the show says about itself, field by field; its needs and what is let stand one by
        one."""
        old, new, there = heading_of(self.base), heading_of(self.mine), heading_of(self.theirs)
        changed: dict[str, Any] = {}
        for name, words in HEADINGS.items():
            value = getattr(new, name)
            if value == getattr(old, name):
                continue
            if getattr(there, name) not in (getattr(old, name), value):
                self.told.append(f"The {words} was changed meanwhile as well.")
                if name == "desk":
                    value = _field_by_field(old.desk, new.desk, there.desk)
            changed[name] = value
        needs = self.records(lambda show: show.needs, lambda need: (need.scope, need.key))
        waivers = self.records(lambda show: show.waivers, lambda waiver: waiver.key)
        return replace(
            there, needs=needs, waivers=waivers, next_id=max(new.next_id, there.next_id), **changed
        )


HEADINGS = {
    "name": "show's name",
    "desk": "desk",
    "note": "show's note",
    "tell_tale": "tell-tale slot",
    "walk": "order of the walk",
    "skipped": "list of steps to prepare",
    "ground": "distances",
    "stock": "stock",
    "day": "day plan",
    "net": "network",
}

KNOWN_OF_IT = frozenset((*RECORDS, "typed", "read"))
"""Fields of a fixture or a box that say what is known of it. They never stand in the way of a
change of the plan."""


def _called(record: object) -> str:
    """What people call a record."""
    if isinstance(record, Need):
        return f"What is needed of the {record.scope}"
    if isinstance(record, Waiver):
        return f"A finding that is accepted ({record.rule})"
    return next(
        str(getattr(record, name)) for name in ("label", "title", "name") if hasattr(record, name)
    )


def _field_by_field(before: Record, mine: Record, theirs: Record) -> Record:
    """``theirs`` with those fields that ``mine`` changed."""
    changed: dict[str, Any] = {name: getattr(mine, name) for name in _changed_fields(before, mine)}
    return replace(theirs, **changed)  # type: ignore[type-var]


def _changed_fields(before: object, after: object) -> set[str]:
    names = [found.name for found in fields(after)]  # type: ignore[arg-type]
    return {name for name in names if getattr(after, name) != getattr(before, name)}


def _placed(
    mine: tuple[Record, ...],
    theirs: tuple[Record, ...],
    merged: dict[Hashable, Record],
    key: Callable[[Record], Hashable],
) -> tuple[Record, ...]:
    """The merged records in the order of ``theirs``; those that only ``mine`` has follow the one
    they follow there."""
    order = [key(record) for record in theirs if key(record) in merged]
    place = {known: at for at, known in enumerate(order)}
    behind: dict[Hashable, list[Hashable]] = {}
    anchor: Hashable = None
    for record in mine:
        known = key(record)
        if known in place:
            anchor = known
        elif known in merged:
            behind.setdefault(anchor, []).append(known)
    result = list(behind.get(None, ()))
    for known in order:
        result += [known, *behind.get(known, ())]
    return tuple(merged[known] for known in result)


def _groups_of_one_name(base: Show, mine: Show, theirs: Show) -> list[str]:
    """Sharing groups that both began under one name: they would become one."""
    known = {fixture.share for fixture in base.fixtures}
    begun = {fixture.share for fixture in mine.fixtures} - known
    both = begun & {fixture.share for fixture in theirs.fixtures}
    return [f"A sharing group called {name} was begun meanwhile as well." for name in sorted(both)]


def _clashes(merged: Analysis, mine: Analysis, theirs: Analysis) -> list[str]:
    return [
        f"Together they clash: {finding.message}"
        for finding in news((*mine.findings, *theirs.findings), merged.findings)
        if finding.severity is not Severity.NOTE and finding.rule not in OF_THE_RECORD
    ]
