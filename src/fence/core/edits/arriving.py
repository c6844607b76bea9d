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
from fence.core.model.patch import Patch
from fence.core.model.scene import InScene, Place
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
    | {"pinned", "note", "place", "scene"}
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


def who_is_who(
    show: Show, coming: Show, columns: Collection[str] = ALL_COLUMNS, key: str = ""
) -> Arrivals:
    """Match the fixtures of a file with those of a show: by their identity in scenes where the file
    has them, by number, by label and position, and those left over by label. ``key`` is that of
    the show, from which its own fixtures have their identity."""
    taken: dict[int, Fixture] = {}
    found: dict[int, Fixture] = {}
    keys: list[tuple[str, Key, Key]] = [
        ("scene", lambda fixture: _identity(fixture, key), lambda fixture: _identity(fixture)),
        *(
            (column, told, told)
            for column, told in (
                ("number", _number),
                ("position", _label_and_position),
                ("label", _label),
            )
        ),
    ]
    for column, of_held, of_coming in keys:
        if column not in (*columns, "label"):
            continue
        held = _alone([fixture for fixture in show.fixtures if fixture.id not in taken], of_held)
        left = [f for f in coming.fixtures if f.id not in found]
        for name, fixture in _alone(left, of_coming).items():
            if name in held:
                found[fixture.id] = held[name]
                taken[held[name].id] = fixture
    each = tuple(Arrival(found.get(fixture.id), fixture) for fixture in coming.fixtures)
    return Arrivals(each, tuple(fixture for fixture in show.fixtures if fixture.id not in taken))


Key = Callable[[Fixture], object]


def _identity(fixture: Fixture, key: str = "") -> str:
    """The identity of a fixture in scenes; empty for one that has none."""
    if key:
        return fixture.uuid_in(key)
    return fixture.scene.uuid if fixture.scene is not None else ""


def _number(fixture: Fixture) -> int | None:
    return fixture.number


def _label(fixture: Fixture) -> str:
    return fixture.label.casefold()


def _label_and_position(fixture: Fixture) -> tuple[str, str]:
    return fixture.label.casefold(), fixture.position.casefold()


def _alone(fixtures: Sequence[Fixture], key: Callable[[Fixture], object]) -> dict[object, Fixture]:
    """The fixtures by a key that no other of them has; those without one left out."""
    counts = Counter(map(key, fixtures))
    return {
        name: fixture
        for fixture in fixtures
        if (name := key(fixture)) not in (None, "") and counts[name] == 1
    }


def take_over(
    show: Show,
    coming: Show,
    columns: Collection[str] = ALL_COLUMNS,
    *,
    drop_missing: bool = False,
    key: str = "",
) -> Show:
    """The show with what a file says: known fixtures changed, new ones added behind, the missing
    kept unless told.

    A group of the file is the show's one of that name only where a fixture that is known was in it
    before; else it gets a free name. What was set at a fixture stays.
    """
    arrivals = who_is_who(show, coming, columns, key)
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
            changed[arrival.held.id] = _changed(arrival.held, fixture, columns, key)
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


def _changed(held: Fixture, coming: Fixture, columns: Collection[str], key: str) -> Fixture:
    """A fixture as the file says it, where the file speaks of it."""
    placed = len(held.patch) != len(coming.patch) or "address" in columns or "universe" in columns
    return replace(
        held,
        number=coming.number if "number" in columns else held.number,
        label=coming.label,
        profile=coming.profile,
        mode=coming.mode,
        patch=_patch(held, coming) if placed else held.patch,
        position=coming.position if "position" in columns else held.position,
        share=coming.share if "shared" in columns else held.share,
        pinned=coming.pinned if "pinned" in columns else held.pinned,
        note=coming.note if "note" in columns else held.note,
        at=(coming.at or held.at) if "place" in columns else held.at,
        scene=_scene(held, coming, key) if "scene" in columns else held.scene,
    )


def _patch(held: Fixture, coming: Fixture) -> tuple[Patch, ...]:
    """Its addresses as they come in; where one has none on either side, the planned universe
    stays."""
    if len(held.patch) != len(coming.patch):
        return coming.patch
    return tuple(
        now if now.slot is not None or now.universe is not None or was.slot is not None else was
        for was, now in zip(held.patch, coming.patch, strict=True)
    )


def _scene(held: Fixture, coming: Fixture, key: str) -> InScene | None:
    """What a scene says of a fixture; what it says that Fence wrote there itself is nothing new."""
    own = InScene(uuid=held.uuid_in(key))
    return held.scene if coming.scene in (None, own) else coming.scene


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


def _told(scene: InScene | None) -> str:
    """What a scene says of a fixture, in words; its identity is for programs."""
    if scene is None:
        return ""
    unit = "" if scene.unit is None else f"unit {scene.unit}"
    return ", ".join(filter(None, (scene.fixture_id, unit, scene.layer, scene.group)))


def _metres(at: Place | None) -> str:
    return at.words if at is not None else ""


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
        ("hangs at", _metres(held.at), _metres(now.at)),
        ("in the scene", _told(held.scene), _told(now.scene)),
    ]
    return [
        (what, str(a if a is not None else ""), str(b if b is not None else ""))
        for what, a, b in pairs
        if a != b
    ]
