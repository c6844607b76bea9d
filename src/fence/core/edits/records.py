"""What all edits share: changing some fixtures of a show, and keeping what belongs to them in
step."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable
from dataclasses import replace
from itertools import chain
from operator import attrgetter

from fence.core.model.fixture import Fixture
from fence.core.model.patch import Patch
from fence.core.model.profile import Profile
from fence.core.model.show import Position, Show, Universe
from fence.core.model.text import LONGEST_TEXT


def free_name(name: str, taken: Collection[str], *, most: int = LONGEST_TEXT) -> str:
    """``name``, or ``name 2``, ``name 3`` … until it is not among ``taken``. Its end gives way to
    the number where it would come to be longer than ``most`` characters."""
    count, free = 1, name[:most]
    while free in taken:
        count += 1
        number = f" {count}"
        free = name[: most - len(number)] + number
    return free


def free_names(names: Iterable[str]) -> list[str]:
    """Names in their order, each one that comes again with the next number that is free: in one
    pass."""
    held = list(names)
    taken: set[str] = set()
    reached: dict[str, int] = {}
    made = []
    for name in held:
        free, count = name, reached.get(name, 1)
        while free in taken:
            count += 1
            number = f" {count}"
            free = name[: LONGEST_TEXT - len(number)] + number
        reached[name] = count
        taken.add(free)
        made.append(free)
    return made


def with_parts(show: Show) -> Show:
    """The show with one patch entry for each part of each fixture's mode: starts beyond are
    dropped, new ones empty."""

    def parted(fixture: Fixture) -> Fixture:
        mode = show.mode_of(fixture)
        if mode is None or len(mode.parts) == len(fixture.patch):
            return fixture
        patch = fixture.patch[: len(mode.parts)]
        return replace(fixture, patch=patch + (Patch(),) * (len(mode.parts) - len(patch)))

    fixtures = tuple(map(parted, show.fixtures))
    return show if fixtures == show.fixtures else replace(show, fixtures=fixtures)


def check_known(show: Show, ids: Collection[int]) -> None:
    """Raise ``EditError`` for an id that the show does not have."""
    for fixture_id in ids:
        show.fixture(fixture_id)


def change_each(show: Show, ids: Collection[int], change: Callable[[Fixture], Fixture]) -> Show:
    """Replace the fixtures of these ids, in place; the show itself when nothing differs."""
    check_known(show, ids)
    chosen = set(ids)
    if not chosen:
        return show
    fixtures = tuple(
        change(fixture) if fixture.id in chosen else fixture for fixture in show.fixtures
    )
    if fixtures == show.fixtures:
        return show
    return with_places(replace(show, fixtures=fixtures))


def only_marks(before: Show, after: Show) -> bool:
    """Whether an edit records only what was done or seen at fixtures and boxes, and changes nothing
    of the plan."""
    return _plan_alone(before) == _plan_alone(after)


def _plan_alone(show: Show) -> Show:
    """A show without what was recorded at its fixtures and boxes."""
    fixtures = tuple(
        replace(
            fixture,
            set_to=None,
            read_back=None,
            proven=None,
            ticked=(),
            serial="",
            turned=False,
            upright=False,
            sign=None,
        )
        for fixture in show.fixtures
    )
    boxes = tuple(
        replace(
            box, typed=None, read=None, ports=tuple(replace(port, says=None) for port in box.ports)
        )
        for box in show.boxes
    )
    return replace(show, fixtures=fixtures, boxes=boxes)


def with_places(show: Show) -> Show:
    """Add the universes and positions that fixtures name and the show does not list yet."""
    patches = chain.from_iterable(map(attrgetter("patch"), show.fixtures))
    named: set[int | None] = {None, *show.universe_by_number}
    if fresh := {*map(attrgetter("universe"), patches)} - named:
        universes = sorted(
            (*show.universes, *map(Universe, fresh)), key=lambda universe: universe.number
        )
        show = replace(show, universes=tuple(universes))
    places = {position.name for position in show.positions}
    hung_at = dict.fromkeys(map(attrgetter("position"), show.fixtures))
    new_places = [place for place in hung_at if place and place not in places]
    if new_places:
        show = replace(show, positions=(*show.positions, *map(Position, new_places)))
    return show


def mode_names(profile: Profile) -> str:
    """The names of a profile's modes, for a sentence."""
    return ", ".join(f"“{mode.name}”" for mode in profile.modes)
