"""A rig that comes in from a file, beside the one that is there: who is who, what differs, and
taking it over.

Rows are told apart by number, then by label, where these name one fixture on each side. What a file
does not speak of (a column that it lacks) stays as it is.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass, replace

from fence.core.edits.cabling import without_gone
from fence.core.edits.records import free_name, with_places
from fence.core.edits.rig import with_profile
from fence.core.model.fixture import Fixture
from fence.core.model.show import Show

ALL_COLUMNS = frozenset(
    {
        "number",
        "label",
        "maker",
        "model",
        "mode",
        "channels",
        "universe",
        "address",
        "position",
        "shared",
    }
    | {"pinned", "note"}
)
"""What a file may speak of. A file of a whole show speaks of all."""


@dataclass(frozen=True, slots=True)
class Arrival:
    """A fixture that comes in, and the one that it is in the show (None for a new one)."""

    held: Fixture | None
    coming: Fixture


@dataclass(frozen=True, slots=True)
class Arrivals:
    """Those who come in, in the order of the file, and those of the show that the file does not
    name."""

    each: tuple[Arrival, ...]
    missing: tuple[Fixture, ...]


def who_is_who(show: Show, coming: Show, columns: Collection[str] = ALL_COLUMNS) -> Arrivals:
    """Match the fixtures of a file with those of a show: by number, those left over by label."""
    taken: dict[int, Fixture] = {}
    found: dict[int, Fixture] = {}
    keys: list[Callable[[Fixture], object]] = [
        lambda fixture: fixture.number,
        lambda fixture: fixture.label.casefold(),
    ]
    for key in keys if "number" in columns else keys[1:]:
        held = _alone([fixture for fixture in show.fixtures if fixture.id not in taken], key)
        for name, fixture in _alone([f for f in coming.fixtures if f.id not in found], key).items():
            if name in held:
                found[fixture.id] = held[name]
                taken[held[name].id] = fixture
    each = tuple(Arrival(found.get(fixture.id), fixture) for fixture in coming.fixtures)
    return Arrivals(each, tuple(fixture for fixture in show.fixtures if fixture.id not in taken))


def _alone(fixtures: Sequence[Fixture], key: Callable[[Fixture], object]) -> dict[object, Fixture]:
    """The fixtures by a key that no other of them has; those without one left out."""
    counts = Counter(map(key, fixtures))
    return {
        name: fixture
        for fixture in fixtures
        if (name := key(fixture)) not in (None, "") and counts[name] == 1
    }


def take_over(
    show: Show, coming: Show, columns: Collection[str] = ALL_COLUMNS, *, drop_missing: bool = False
) -> Show:
    """The show with what a file says: known fixtures changed, new ones added behind, the missing
    kept unless told.

    A group of the file is the show's one of that name only where a fixture that is known was in it
    before; else it gets a free name. What was set at a fixture stays.
    """
    arrivals = who_is_who(show, coming, columns)
    profiles: dict[str, str] = {}
    groups = _groups(show, arrivals)
    next_id, changed, added = show.next_id, dict[int, Fixture](), list[Fixture]()
    for arrival in arrivals.each:
        fixture = replace(arrival.coming, share=groups[arrival.coming.share])
        if arrival.held is not None and _same_kind(
            show, arrival.held, coming, arrival.coming, columns
        ):
            fixture = replace(fixture, profile=arrival.held.profile, mode=arrival.held.mode)
        else:
            if fixture.profile not in profiles:
                show, kept = with_profile(show, coming.profile_by_id[fixture.profile])
                profiles[fixture.profile] = kept.id
            fixture = replace(fixture, profile=profiles[fixture.profile])
        if arrival.held is None:
            added.append(
                replace(
                    fixture,
                    id=next_id,
                    set_to=None,
                    read_back=None,
                    proven=None,
                    ticked=(),
                    sign=None,
                )
            )
            next_id += 1
        else:
            changed[arrival.held.id] = _changed(arrival.held, fixture, columns)
    gone = {fixture.id for fixture in arrivals.missing} if drop_missing else set()
    fixtures = [
        changed.get(fixture.id, fixture) for fixture in show.fixtures if fixture.id not in gone
    ]
    known = show.universe_by_number
    universes = (
        *show.universes,
        *(universe for universe in coming.universes if universe.number not in known),
    )
    names = {position.name for position in show.positions}
    places = tuple(
        replace(p, hard=p.hard or p.name in coming.hard_positions) for p in show.positions
    )
    return without_gone(
        with_places(
            replace(
                show,
                fixtures=(*fixtures, *added),
                universes=tuple(sorted(universes, key=lambda universe: universe.number)),
                positions=(
                    *places,
                    *(position for position in coming.positions if position.name not in names),
                ),
                next_id=next_id,
            )
        )
    )


def _same_kind(
    show: Show, held: Fixture, other: Show, coming: Fixture, columns: Collection[str]
) -> bool:
    """Whether both are of the same type and mode as far as the file says, so that the show's own
    chart stays."""
    mine, theirs = show.profile_of(held), other.profile_of(coming)
    return (
        mine is not None
        and theirs is not None
        and (not theirs.model or mine.title.casefold() == theirs.title.casefold())
        and ("mode" not in columns or held.mode.casefold() == coming.mode.casefold())
        and show.footprints_of(held) == other.footprints_of(coming)
    )


def _changed(held: Fixture, coming: Fixture, columns: Collection[str]) -> Fixture:
    """A fixture as the file says it, where the file speaks of it."""
    placed = len(held.patch) != len(coming.patch) or "address" in columns or "universe" in columns
    return replace(
        held,
        number=coming.number if "number" in columns else held.number,
        label=coming.label,
        profile=coming.profile,
        mode=coming.mode,
        patch=coming.patch if placed else held.patch,
        position=coming.position if "position" in columns else held.position,
        share=coming.share if "shared" in columns else held.share,
        pinned=coming.pinned if "pinned" in columns else held.pinned,
        note=coming.note if "note" in columns else held.note,
    )


def _groups(show: Show, arrivals: Arrivals) -> dict[str, str]:
    """The name in the show for each group of the file."""
    taken = {fixture.share for fixture in show.fixtures if fixture.share}
    own = {
        each.coming.share
        for each in arrivals.each
        if each.held and each.held.share == each.coming.share
    }
    groups = {name: name for name in own} | {"": ""}
    for each in arrivals.each:
        if each.coming.share not in groups:
            groups[each.coming.share] = free_name(each.coming.share, taken)
            taken.add(groups[each.coming.share])
    return groups


def differing(held: Fixture, now: Fixture) -> list[tuple[str, str, str]]:
    """What differs between a fixture as it was and as it would be: what, before, after; in
    words."""
    pairs = [
        ("number", held.number, now.number),
        ("label", held.label, now.label),
        ("type", held.profile, now.profile),
        ("mode", held.mode, now.mode),
        ("address", held.planned_at, now.planned_at),
        ("position", held.position, now.position),
        ("shares as", held.share, now.share),
        ("pinned", "yes" if held.pinned else "no", "yes" if now.pinned else "no"),
        ("note", held.note, now.note),
    ]
    return [
        (what, str(a if a is not None else ""), str(b if b is not None else ""))
        for what, a, b in pairs
        if a != b
    ]
