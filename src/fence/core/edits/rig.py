"""Edits of the rig: which fixtures there are, what they are called, where they hang."""

from __future__ import annotations

import re
from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace

from fence.core.edits.cabling import without_gone
from fence.core.edits.records import change_each, check_known, mode_names, with_parts, with_places
from fence.core.model.address import SLOTS, Address, bits_of
from fence.core.model.errors import EditError
from fence.core.model.fixture import HIGHEST_NUMBER, Fixture
from fence.core.model.patch import Patch
from fence.core.model.profile import Mode, Profile, Setter
from fence.core.model.show import Show
from fence.core.model.space import desk_starts, first_from, free_bits
from fence.core.model.text import check_text

MOST_AT_ONCE = 2000
"""Fixtures that one edit may add."""


COUNTED = re.compile(r"^(.*?)(\d+)$", re.DOTALL)
"""A label that ends in a number: what is before it, and its digits."""


@dataclass(frozen=True, slots=True)
class AddRun:
    """What to add: ``quantity`` alike fixtures from ``start`` on, or into the next free gaps where
    it is None."""

    profile: Profile
    mode: str
    quantity: int
    first_label: str
    first_number: int | None = None
    position: str = ""
    universe: int = 1
    start: Address | None = None


def labels_from(first: str, quantity: int) -> list[str]:
    """``quantity`` labels counting on from ``first``: ``Palm 3``, ``Palm 4`` …; a name alone counts
    from 1."""
    counted = COUNTED.match(first)
    if counted is None:
        return (
            [first] if quantity == 1 else [f"{first} {number}" for number in range(1, quantity + 1)]
        )
    stem, digits = counted.groups()
    return [f"{stem}{int(digits) + step:0{len(digits)}d}" for step in range(quantity)]


def next_number(show: Show, quantity: int = 1) -> int:
    """The number after the highest in use; where ``quantity`` of them would run past the highest
    that there is, the first of so many free ones in a row."""
    used = sorted({fixture.number for fixture in show.fixtures if fixture.number is not None})
    after = used[-1] + 1 if used else 1
    if after + quantity - 1 <= HIGHEST_NUMBER:
        return after
    free = 1
    for number in used:
        if number - free >= quantity:
            break
        free = max(free, number + 1)
    return free


def add_fixtures(show: Show, spec: AddRun) -> Show:
    """Add a run of alike fixtures.

    With a start address they stand back to back from it and go on at slot 1 of the next universe
    when one does not fit; other fixtures are not avoided, so clashes show. Without, each takes the
    next gap from ``spec.universe`` on.
    """
    if not 1 <= spec.quantity <= MOST_AT_ONCE:
        raise EditError(
            f"{spec.quantity} fixtures cannot be added at once. Use 1 to {MOST_AT_ONCE}."
        )
    check_text("label", spec.first_label)
    show, profile = with_profile(show, spec.profile)
    mode = profile.mode(spec.mode)
    if mode is None:
        raise EditError(
            f"{profile.title} has no mode “{spec.mode}”. Accepted: {mode_names(profile)}."
        )
    patches = _patches_from(spec, mode) if spec.start else _patches_free(show, spec, mode, profile)
    labels = labels_from(spec.first_label.strip(), spec.quantity)
    first = next_number(show, spec.quantity) if spec.first_number is None else spec.first_number
    added = [
        Fixture(
            id=show.next_id + step,
            label=label,
            profile=profile.id,
            mode=mode.name,
            number=first + step,
            position=spec.position.strip(),
            patch=patch,
        )
        for step, (label, patch) in enumerate(zip(labels, patches, strict=True))
    ]
    return with_places(
        replace(show, fixtures=(*show.fixtures, *added), next_id=show.next_id + spec.quantity)
    )


def _patches_from(spec: AddRun, mode: Mode) -> list[tuple[Patch, ...]]:
    assert spec.start is not None
    universe, slot = spec.start.universe, spec.start.slot
    patches = []
    for step in range(spec.quantity):
        entries = []
        for place, part in enumerate(mode.parts):
            if (step or place) and slot + part.footprint - 1 > SLOTS:
                universe, slot = universe + 1, 1
            entries.append(Patch(universe, slot) if part.footprint else Patch(universe))
            slot += part.footprint
            if slot > SLOTS:
                universe, slot = universe + 1, 1
        patches.append(tuple(entries))
    return patches


def _patches_free(
    show: Show, spec: AddRun, mode: Mode, profile: Profile
) -> list[tuple[Patch, ...]]:
    gaps = Gaps(show)
    return [gaps.take(mode, spec.universe, profile.setter) for _ in range(spec.quantity)]


def patches_free(show: Show, fixtures: Sequence[Fixture]) -> list[tuple[Patch, ...]]:
    """The next free gaps for one more of each of these fixtures, in their order: each from the
    universe of the fixture on."""
    gaps = Gaps(show)
    patches: list[tuple[Patch, ...]] = []
    for fixture in fixtures:
        mode, profile = show.mode_of(fixture), show.profile_of(fixture)
        if mode is None or profile is None:
            patches.append((Patch(fixture.universe),))
        else:
            patches.append(gaps.take(mode, fixture.universe or 1, profile.setter))
    return patches


class Gaps:
    """What is free in a show, and gets less with each run that takes some of it."""

    def __init__(self, show: Show) -> None:
        self._show = show
        self._last = show.desk.universes or max(show.universe_by_number, default=1)
        self._free: dict[int, int] = {}

    def take(self, mode: Mode, universe: int, setter: Setter) -> tuple[Patch, ...]:
        """The next gaps for the parts of a mode, from a universe on; no address for a part that
        finds none."""
        entries = []
        for part in mode.parts:
            entries.append(Patch(universe))
            if part.footprint:
                entries[-1] = self._one(part.footprint, universe, setter)
        return tuple(entries)

    def _one(self, footprint: int, first: int, setter: Setter) -> Patch:
        for universe in range(first, max(first, self._last) + 1):
            room = self._free.setdefault(universe, free_bits(self._show, universe))
            slot = first_from(desk_starts(self._show, room, footprint, setter=setter))
            if slot is not None:
                self._free[universe] &= ~bits_of(slot, footprint)
                return Patch(universe, slot)
        return Patch()


def remove_fixtures(show: Show, ids: Collection[int]) -> Show:
    """Take fixtures out of the rig."""
    check_known(show, ids)
    gone = set(ids)
    return without_gone(
        replace(
            show, fixtures=tuple(fixture for fixture in show.fixtures if fixture.id not in gone)
        )
    )


def with_profile(show: Show, profile: Profile) -> tuple[Show, Profile]:
    """The show holding ``profile``, and the profile as the show knows it.

    One that is already there with the same content is used; another one of the same id gets a free
    id.
    """
    count, wanted = 1, profile
    while (held := show.profile_by_id.get(wanted.id)) is not None:
        if held == wanted:
            return show, held
        count += 1
        wanted = replace(profile, id=f"{profile.id[:100]}-{count}")
    return replace(show, profiles=(*show.profiles, wanted)), wanted


def update_chart(show: Show, profile: Profile) -> Show:
    """Put a newer chart in the place of the show's one of the same id. Fixtures keep their modes
    and starts.

    A mode that the newer chart lacks is then missing, which the rules tell. ``EditError`` if the
    show lacks it.
    """
    if profile.id not in show.profile_by_id:
        raise EditError(
            f"{profile.title} is not in the show, so there is nothing to bring up to date."
        )
    profiles = tuple(profile if held.id == profile.id else held for held in show.profiles)
    return with_parts(replace(show, profiles=profiles))


def rename(show: Show, fixture_id: int, label: str) -> Show:
    """Give one fixture another label."""
    name = check_text("label", label.strip())
    return change_each(show, [fixture_id], lambda fixture: replace(fixture, label=name))


def set_number(show: Show, fixture_id: int, number: int | None) -> Show:
    """Give one fixture another number, or none."""
    return change_each(show, [fixture_id], lambda fixture: replace(fixture, number=number))


def relabel(show: Show, ids: Sequence[int], first_label: str) -> Show:
    """Name fixtures, counting on from ``first_label`` in the order of ``ids``."""
    check_text("label", first_label)
    names = dict(zip(ids, labels_from(first_label.strip(), len(ids)), strict=True))
    return change_each(show, ids, lambda fixture: replace(fixture, label=names[fixture.id]))


def renumber(show: Show, ids: Sequence[int], first: int) -> Show:
    """Number fixtures upwards from ``first`` in the order of ``ids``."""
    numbers = {fixture_id: first + step for step, fixture_id in enumerate(ids)}
    return change_each(show, ids, lambda fixture: replace(fixture, number=numbers[fixture.id]))


def set_position(show: Show, ids: Collection[int], position: str) -> Show:
    """Hang fixtures at a position; an empty name takes them off it."""
    return change_each(show, ids, lambda fixture: replace(fixture, position=position.strip()))


def set_note(show: Show, ids: Collection[int], note: str) -> Show:
    """Write the note of fixtures."""
    check_text("note", note, required=False)
    return change_each(show, ids, lambda fixture: replace(fixture, note=note.strip()))
