"""Two edits that began at one show: the second one put on top of the first, or what stands between them.

An edit is known by the show it began at and the show it made. Where another edit was saved meanwhile, only what this
one changed is done again on top of it. Edits of different records (fixtures, universes, positions, charts, needs) do
not meet, unless both together make a stop or a caution that neither had made alone.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import dataclass, fields, replace
from typing import Any, TypeVar

from fence.core.changes.difference import Heading, difference, heading_of, with_heading
from fence.core.changes.edits import with_parts, with_places
from fence.core.checks import Analysis, Severity, analyse, news
from fence.core.words.errors import EditError
from fence.core.words.fixture import Fixture
from fence.core.words.needs import Need
from fence.core.words.show import Show

Record = TypeVar("Record")

MOST_TOLD = 6


@dataclass(frozen=True, slots=True)
class Merge:
    """Both edits together. ``collisions`` says in words where they meet; empty where they do not."""

    show: Show
    collisions: tuple[str, ...]


def merge(base: Show, mine: Show, theirs: Show, *, mine_wins: bool = False) -> Merge:
    """What ``mine`` changed of ``base``, done on top of ``theirs``.

    Where both changed one record, that is a collision; with ``mine_wins`` the fields that ``mine`` changed are taken
    from it and all others from ``theirs``. Fixtures that both added are kept apart by new ids. Raises ``EditError``
    where ``mine_wins`` and what it changed was removed meanwhile.
    """
    mine = _with_fresh_ids(base, mine, theirs)
    told: list[str] = []
    wins = mine_wins
    show = replace(
        theirs,
        fixtures=_ordered(base, mine, theirs, _fixtures(base, mine, theirs, told, wins), told, wins),
        profiles=_records(base.profiles, mine.profiles, theirs.profiles, lambda p: p.id, "title", told, wins),
        universes=tuple(
            sorted(
                _records(base.universes, mine.universes, theirs.universes, lambda u: u.number, "title", told, wins),
                key=lambda universe: universe.number,
            )
        ),
        positions=_records(base.positions, mine.positions, theirs.positions, lambda p: p.name, "name", told, wins),
        next_id=max(mine.next_id, theirs.next_id),
    )
    show = with_heading(show, _heading(base, mine, theirs, told, wins))
    show = with_places(with_parts(show) if mine_wins else show)
    told += _groups_of_one_name(base, mine, theirs)
    if not told and not mine_wins:
        told += _clashes(analyse(show), analyse(mine), analyse(theirs))
    return Merge(show, tuple(dict.fromkeys(told))[:MOST_TOLD])


def _with_fresh_ids(base: Show, mine: Show, theirs: Show) -> Show:
    """``mine`` with the fixtures that it added under ids that ``theirs`` has not given away."""
    shift = theirs.next_id - base.next_id
    if shift <= 0 or mine.next_id == base.next_id:
        return mine
    fixtures = tuple(replace(f, id=f.id + shift) if f.id >= base.next_id else f for f in mine.fixtures)
    return replace(mine, fixtures=fixtures, next_id=mine.next_id + shift)


# ---- records


def _fixtures(base: Show, mine: Show, theirs: Show, told: list[str], wins: bool) -> tuple[Fixture, ...]:
    return _records(base.fixtures, mine.fixtures, theirs.fixtures, lambda f: f.id, "label", told, wins)


def _records(
    base: tuple[Record, ...],
    mine: tuple[Record, ...],
    theirs: tuple[Record, ...],
    key: Callable[[Record], Hashable],
    name: str,
    told: list[str],
    wins: bool,
) -> tuple[Record, ...]:
    """One list of records: what ``mine`` changed of it, on top of ``theirs``."""
    if mine is base or mine == base:
        return theirs
    old, other = {key(r): r for r in base}, {key(r): r for r in theirs}
    merged = dict(other)
    for record in mine:
        known = key(record)
        before = old.get(known)
        if before is record or before == record:
            continue
        there = other.get(known)
        if there == before or (before is None and there == record):
            merged[known] = record
            continue
        merged[known] = _both(before, record, there, getattr(record, name), told, wins)
    for known in old.keys() - {key(record) for record in mine}:
        if merged.pop(known, None) not in (None, old[known]):
            told.append(f"{getattr(other[known], name)} was changed meanwhile, and this step removes it.")
    return _placed(mine, theirs, merged, key)


def _both(
    before: Record | None, record: Record, there: Record | None, name: str, told: list[str], wins: bool
) -> Record:
    """A record that both changed, or both added."""
    if there is None:
        if wins:
            raise EditError(f"{name} was removed meanwhile: this step cannot be done any more.")
        told.append(f"{name} was removed meanwhile.")
        return record
    told.append(f"{name} was changed meanwhile as well." if before is not None else f"{name} was added twice.")
    return _field_by_field(before, record, there) if before is not None else record


def _field_by_field(before: Record, mine: Record, theirs: Record) -> Record:
    """``theirs`` with those fields that ``mine`` changed."""
    names = [found.name for found in fields(mine)]  # type: ignore[arg-type]
    changed: dict[str, Any] = {n: getattr(mine, n) for n in names if getattr(mine, n) != getattr(before, n)}
    return replace(theirs, **changed)  # type: ignore[type-var]


def _placed(
    mine: tuple[Record, ...],
    theirs: tuple[Record, ...],
    merged: dict[Hashable, Record],
    key: Callable[[Record], Hashable],
) -> tuple[Record, ...]:
    """The merged records in the order of ``theirs``; those that only ``mine`` has follow the one they follow there."""
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


def _ordered(
    base: Show, mine: Show, theirs: Show, fixtures: tuple[Fixture, ...], told: list[str], wins: bool
) -> tuple[Fixture, ...]:
    """The fixtures in the order of ``mine``, where that is what it changed."""
    reorder = difference(base, mine).reorder
    if reorder is None:
        return fixtures
    other = difference(base, theirs).reorder
    if other is not None and other.after != reorder.after:
        told.append("The order of the rig was changed meanwhile as well.")
    rank = {fixture_id: place for place, fixture_id in enumerate(reorder.after)}
    moved = iter(sorted((f for f in fixtures if f.id in rank), key=lambda fixture: rank[fixture.id]))
    return tuple(next(moved) if fixture.id in rank else fixture for fixture in fixtures)


# ---- what a show says about itself


def _heading(base: Show, mine: Show, theirs: Show, told: list[str], wins: bool) -> Heading:
    old, new, there = heading_of(base), heading_of(mine), heading_of(theirs)
    changed: dict[str, Any] = {}
    for name, words in (("name", "show's name"), ("desk", "desk"), ("note", "show's note"), ("tell_tale", "tell-tale")):
        value = getattr(new, name)
        if value == getattr(old, name):
            continue
        if getattr(there, name) not in (getattr(old, name), value):
            told.append(f"The {words} was changed meanwhile as well.")
            if name == "desk":
                value = _field_by_field(old.desk, new.desk, there.desk)
        changed[name] = value
    needs = _needs(old.needs, new.needs, there.needs, told, wins)
    return replace(there, needs=needs, next_id=max(new.next_id, there.next_id), **changed)


def _needs(
    old: tuple[Need, ...], new: tuple[Need, ...], there: tuple[Need, ...], told: list[str], wins: bool
) -> tuple[Need, ...]:
    before = len(told)
    found = _records(old, new, there, lambda need: (need.scope, need.key), "scope", told, wins)
    if len(told) > before:
        told[before:] = ["What is needed was changed meanwhile as well."]
    return found


# ---- what both make together


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
        if finding.severity is not Severity.NOTE
    ]
