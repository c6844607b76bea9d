"""Edits: named functions that take a show and give another one.

A preview is an edit that is not saved. Every function raises ``EditError`` with a sentence for the person, and never
leaves a show half changed.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, replace

from fence.core.words.address import SLOTS, Address
from fence.core.words.errors import EditError
from fence.core.words.needs import Need
from fence.core.words.profile import Mode, Profile
from fence.core.words.show import Desk, Fixture, Patch, Position, SetTo, Show, TellTale, Universe
from fence.core.words.space import desk_starts, first_from, free_bits
from fence.core.words.text import check_text

MOST_AT_ONCE = 2000
"""Fixtures that one edit may add."""

_COUNTED = re.compile(r"^(.*?)(\d+)$", re.DOTALL)


# ---- fixtures: adding and removing


@dataclass(frozen=True, slots=True)
class AddRun:
    """What to add: ``quantity`` alike fixtures from ``start`` on, or into the next free gaps where it is None."""

    profile: Profile
    mode: str
    quantity: int
    first_label: str
    first_number: int | None = None
    position: str = ""
    universe: int = 1
    start: Address | None = None


def labels_from(first: str, quantity: int) -> list[str]:
    """``quantity`` labels counting on from ``first``: ``Palm 3``, ``Palm 4`` …; a name alone counts from 1."""
    counted = _COUNTED.match(first)
    if counted is None:
        return [first] if quantity == 1 else [f"{first} {number}" for number in range(1, quantity + 1)]
    stem, digits = counted.groups()
    return [f"{stem}{int(digits) + step:0{len(digits)}d}" for step in range(quantity)]


def next_number(show: Show) -> int:
    """The number after the highest in use."""
    return max((fixture.number for fixture in show.fixtures if fixture.number is not None), default=0) + 1


def add_fixtures(show: Show, spec: AddRun) -> Show:
    """Add a run of alike fixtures.

    With a start address they stand back to back from it and go on at slot 1 of the next universe when one does not
    fit; other fixtures are not avoided, so clashes show. Without, each takes the next gap from ``spec.universe`` on.
    """
    if not 1 <= spec.quantity <= MOST_AT_ONCE:
        raise EditError(f"{spec.quantity} fixtures cannot be added at once: accepted are 1 to {MOST_AT_ONCE}.")
    check_text("label", spec.first_label)
    show, profile = with_profile(show, spec.profile)
    mode = profile.mode(spec.mode)
    if mode is None:
        raise EditError(f"{profile.title} has no mode “{spec.mode}”. Accepted: {_mode_names(profile)}.")
    patches = _patches_from(spec, mode) if spec.start else _patches_free(show, spec, mode, profile)
    labels = labels_from(spec.first_label.strip(), spec.quantity)
    first = next_number(show) if spec.first_number is None else spec.first_number
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
    return with_places(replace(show, fixtures=(*show.fixtures, *added), next_id=show.next_id + spec.quantity))


def _patches_from(spec: AddRun, mode: Mode) -> list[tuple[Patch, ...]]:
    assert spec.start is not None
    universe, slot = spec.start.universe, spec.start.slot
    patches = []
    for step in range(spec.quantity):
        entries = []
        for part in mode.parts:
            if step and slot + part.footprint - 1 > SLOTS:
                universe, slot = universe + 1, 1
            entries.append(Patch(universe, slot) if part.footprint else Patch(universe))
            slot += part.footprint
            if slot > SLOTS:
                universe, slot = universe + 1, 1
        patches.append(tuple(entries))
    return patches


def _patches_free(show: Show, spec: AddRun, mode: Mode, profile: Profile) -> list[tuple[Patch, ...]]:
    last = max([spec.universe, *show.universe_by_number])
    if show.desk.universes:
        last = max(spec.universe, show.desk.universes)
    free: dict[int, int] = {}
    patches = []
    for _ in range(spec.quantity):
        entries = []
        for part in mode.parts:
            entries.append(Patch(spec.universe))
            if not part.footprint:
                continue
            for universe in range(spec.universe, last + 1):
                room = free.setdefault(universe, free_bits(show, universe))
                slot = first_from(desk_starts(show, room, part.footprint, setter=profile.setter))
                if slot is not None:
                    entries[-1] = Patch(universe, slot)
                    free[universe] &= ~(((1 << part.footprint) - 1) << (slot - 1))
                    break
            else:
                entries[-1] = Patch()
        patches.append(tuple(entries))
    return patches


def remove_fixtures(show: Show, ids: Collection[int]) -> Show:
    """Take fixtures out of the rig."""
    _known(show, ids)
    gone = set(ids)
    return replace(show, fixtures=tuple(fixture for fixture in show.fixtures if fixture.id not in gone))


def merge_rig(show: Show, other: Show) -> Show:
    """Add all fixtures of another show behind those of this one, with their profiles, universes and positions."""
    named: dict[str, str] = {}
    for profile in other.profiles:
        show, kept = with_profile(show, profile)
        named[profile.id] = kept.id
    groups = {fixture.share for fixture in show.fixtures if fixture.share}
    added = tuple(
        replace(
            fixture,
            id=show.next_id + step,
            profile=named.get(fixture.profile, fixture.profile),
            share=free_name(fixture.share, groups) if fixture.share else "",
        )
        for step, fixture in enumerate(other.fixtures)
    )
    known = show.universe_by_number
    universes = (*show.universes, *(u for u in other.universes if u.number not in known))
    return with_places(
        replace(
            show,
            fixtures=(*show.fixtures, *added),
            universes=universes,
            next_id=show.next_id + len(other.fixtures),
        )
    )


def free_name(name: str, taken: Collection[str]) -> str:
    """``name``, or ``name 2``, ``name 3`` … until it is not among ``taken``."""
    count, free = 1, name
    while free in taken:
        count += 1
        free = f"{name} {count}"
    return free


def with_profile(show: Show, profile: Profile) -> tuple[Show, Profile]:
    """The show holding ``profile``, and the profile as the show knows it.

    One that is already there with the same content is used; another one of the same id gets a free id.
    """
    count, wanted = 1, profile
    while (held := show.profile_by_id.get(wanted.id)) is not None:
        if held == wanted:
            return show, held
        count += 1
        wanted = replace(profile, id=f"{profile.id[:100]}-{count}")
    return replace(show, profiles=(*show.profiles, wanted)), wanted


def update_chart(show: Show, profile: Profile) -> Show:
    """Put a newer chart in the place of the show's one of the same id. Fixtures keep their modes and starts.

    A mode that the newer chart lacks is then missing, which the rules tell. ``EditError`` if the show lacks it.
    """
    if profile.id not in show.profile_by_id:
        raise EditError(f"{profile.title} is not in the show, so there is nothing to bring up to date.")
    profiles = tuple(profile if held.id == profile.id else held for held in show.profiles)
    return with_parts(replace(show, profiles=profiles))


def with_parts(show: Show) -> Show:
    """The show with one patch entry for each part of each fixture's mode: starts beyond are dropped, new ones empty."""

    def parted(fixture: Fixture) -> Fixture:
        mode = show.mode_of(fixture)
        if mode is None or len(mode.parts) == len(fixture.patch):
            return fixture
        patch = fixture.patch[: len(mode.parts)]
        return replace(fixture, patch=patch + (Patch(),) * (len(mode.parts) - len(patch)))

    fixtures = tuple(map(parted, show.fixtures))
    return show if fixtures == show.fixtures else replace(show, fixtures=fixtures)


# ---- fixtures: names


def rename(show: Show, fixture_id: int, label: str) -> Show:
    """Give one fixture another label."""
    name = check_text("label", label.strip())
    return _change(show, [fixture_id], lambda fixture: replace(fixture, label=name))


def set_number(show: Show, fixture_id: int, number: int | None) -> Show:
    """Give one fixture another number, or none."""
    return _change(show, [fixture_id], lambda fixture: replace(fixture, number=number))


def relabel(show: Show, ids: Sequence[int], first_label: str) -> Show:
    """Name fixtures, counting on from ``first_label`` in the order of ``ids``."""
    check_text("label", first_label)
    names = dict(zip(ids, labels_from(first_label.strip(), len(ids)), strict=True))
    return _change(show, ids, lambda fixture: replace(fixture, label=names[fixture.id]))


def renumber(show: Show, ids: Sequence[int], first: int) -> Show:
    """Number fixtures upwards from ``first`` in the order of ``ids``."""
    numbers = {fixture_id: first + step for step, fixture_id in enumerate(ids)}
    return _change(show, ids, lambda fixture: replace(fixture, number=numbers[fixture.id]))


def set_position(show: Show, ids: Collection[int], position: str) -> Show:
    """Hang fixtures at a position; an empty name takes them off it."""
    return _change(show, ids, lambda fixture: replace(fixture, position=position.strip()))


def set_note(show: Show, ids: Collection[int], note: str) -> Show:
    """Write the note of fixtures."""
    check_text("note", note, required=False)
    return _change(show, ids, lambda fixture: replace(fixture, note=note.strip()))


# ---- fixtures: modes and addresses


def change_mode(show: Show, ids: Collection[int], mode_name: str) -> Show:
    """Put fixtures into another mode of their profile. They keep their starts; longer runs may then clash."""

    def changed(fixture: Fixture) -> Fixture:
        profile = show.profile_of(fixture)
        mode = show.modes.get((fixture.profile, mode_name))
        if mode is None:
            offered = f" Accepted: {_mode_names(profile)}." if profile else ""
            raise EditError(f"{fixture.label} has no mode “{mode_name}”.{offered}")
        patch = (*fixture.patch[: len(mode.parts)],)
        patch += (Patch(),) * (len(mode.parts) - len(patch))
        return replace(fixture, mode=mode_name, patch=patch)

    return _change(show, ids, changed)


def choose_modes(show: Show, modes: Mapping[int, str]) -> Show:
    """Put fixtures into the modes of their profiles named by fixture id. They keep their starts."""
    by_mode: dict[str, list[int]] = {}
    for fixture_id, mode in modes.items():
        if show.fixture(fixture_id).mode != mode:
            by_mode.setdefault(mode, []).append(fixture_id)
    for mode, ids in by_mode.items():
        show = change_mode(show, ids, mode)
    return show


def place(show: Show, fixture_id: int, address: Address, *, part: int = 0) -> Show:
    """Move a fixture (and all that share with it) to a start address."""
    return _patch(show, fixture_id, part, Patch(address.universe, address.slot))


def unplace(show: Show, ids: Collection[int]) -> Show:
    """Take the start address from fixtures; they stay in the rig."""
    for fixture_id in ids:
        _may_move(show, show.fixture(fixture_id))
    return _change(show, ids, lambda fixture: replace(fixture, patch=tuple(Patch() for _ in fixture.patch)))


def nudge(show: Show, fixture_id: int, slots: int, *, part: int = 0) -> Show:
    """Move a fixture (and all that share with it) by some slots within its universe; negative is towards 1."""
    fixture = show.fixture(fixture_id)
    patch = fixture.patch[_part_of(fixture, part)]
    if patch.universe is None or patch.slot is None:
        raise EditError(f"{fixture.label} has no address yet: give it one first.")
    target = patch.slot + slots
    if not 1 <= target <= SLOTS:
        raise EditError(f"{fixture.label} starts at {patch.slot}: a move by {slots:+d} would leave slots 1 to {SLOTS}.")
    return _patch(show, fixture_id, part, Patch(patch.universe, target))


def _patch(show: Show, fixture_id: int, part: int, patch: Patch) -> Show:
    fixture = show.fixture(fixture_id)
    _part_of(fixture, part)
    moved = show.sharers_of(fixture)
    for mover in moved:
        _may_move(show, mover)

    def changed(mover: Fixture) -> Fixture:
        entries = list(mover.patch)
        entries[min(part, len(entries) - 1)] = patch
        return replace(mover, patch=tuple(entries))

    return _change(show, [mover.id for mover in moved], changed)


def _part_of(fixture: Fixture, part: int) -> int:
    if not 0 <= part < len(fixture.patch):
        raise EditError(f"{fixture.label} has {len(fixture.patch)} part(s); there is no part {part + 1}.")
    return part


def _may_move(show: Show, fixture: Fixture) -> None:
    if fixture.pinned:
        raise EditError(f"{fixture.label} is pinned at {fixture.patch[0]}: take the pin out before it is moved.")


def pin(show: Show, ids: Collection[int]) -> Show:
    """Hold fixtures at their addresses: nothing moves them until they are unpinned."""
    for fixture_id in ids:
        fixture = show.fixture(fixture_id)
        if fixture.start is None:
            raise EditError(f"{fixture.label} has no address yet, so there is nothing to pin.")
    return _change(show, ids, lambda fixture: replace(fixture, pinned=True))


def unpin(show: Show, ids: Collection[int]) -> Show:
    """Let fixtures move again."""
    return _change(show, ids, lambda fixture: replace(fixture, pinned=False))


def mark_set(show: Show, ids: Collection[int]) -> Show:
    """Record that fixtures were set as the plan says now."""
    for fixture_id in ids:
        fixture = show.fixture(fixture_id)
        if show.mode_of(fixture) is None or (any(show.footprints_of(fixture)) and fixture.start is None):
            raise EditError(f"{fixture.label} has no mode or no address yet, so it cannot have been set.")
    return _change(show, ids, lambda fixture: replace(fixture, set_to=SetTo(fixture.mode, fixture.patch)))


def mark_unset(show: Show, ids: Collection[int]) -> Show:
    """Record that fixtures were not set after all."""
    return _change(show, ids, lambda fixture: replace(fixture, set_to=None))


def share(show: Show, ids: Sequence[int], group: str = "") -> Show:
    """Declare that fixtures share one address on purpose: that of the first in ``ids`` that has one.

    They must be alike: same profile and mode. Without a name the group is called after its first fixture.
    """
    if len(set(ids)) < 2:
        raise EditError("Pick at least two fixtures to share an address.")
    members = [show.fixture(fixture_id) for fixture_id in ids]
    lead = next((member for member in members if member.start is not None), members[0])
    for member in members:
        if (member.profile, member.mode) != (lead.profile, lead.mode):
            raise EditError(
                f"{member.label} and {lead.label} are not alike: "
                "fixtures that share an address must have the same profile and the same mode."
            )
        if member.pinned and member.patch != lead.patch:
            raise EditError(f"{member.label} is pinned at {member.patch[0]}: take the pin out before it is moved.")
    check_text("sharing group", group, required=False)
    taken = {fixture.share for fixture in show.fixtures} - {""} - {member.share for member in members}
    name = group.strip() or free_name(f"{lead.label} group", taken)
    return _change(show, ids, lambda fixture: replace(fixture, share=name, patch=lead.patch))


def unshare(show: Show, ids: Collection[int]) -> Show:
    """End the declared sharing of fixtures. A group left with one member is no group. Addresses stay."""
    show = _change(show, ids, lambda fixture: replace(fixture, share=""))
    sizes: dict[str, int] = {}
    for fixture in show.fixtures:
        sizes[fixture.share] = sizes.get(fixture.share, 0) + 1
    alone = [fixture.id for fixture in show.fixtures if fixture.share and sizes[fixture.share] == 1]
    return _change(show, alone, lambda fixture: replace(fixture, share=""))


# ---- universes, desk, show


def add_universe(show: Show, number: int, name: str = "") -> Show:
    """Add a universe; ``EditError`` if the show has it already."""
    if number in show.universe_by_number:
        raise EditError(f"Universe {number} is already there: {show.universe_by_number[number].title}.")
    universes = sorted((*show.universes, Universe(number, name.strip())), key=lambda universe: universe.number)
    return replace(show, universes=tuple(universes))


def rename_universe(show: Show, number: int, name: str) -> Show:
    """Give a universe another name; its number stays."""
    return _change_universe(show, number, lambda universe: replace(universe, name=name.strip()))


def reserve(show: Show, number: int, slots: Sequence[int]) -> Show:
    """Set which slots (1 to 512) of a universe are kept free of fixtures; an empty list lifts them all."""
    return _change_universe(show, number, lambda universe: replace(universe, reserved=tuple(sorted(set(slots)))))


def remove_universe(show: Show, number: int) -> Show:
    """Take out an empty universe; ``EditError`` while fixtures are planned on it."""
    _change_universe(show, number, lambda universe: universe)
    planned = [f.label for f in show.fixtures if any(patch.universe == number for patch in f.patch)]
    if planned:
        raise EditError(f"U{number} still has {len(planned)} fixture(s), {planned[0]} first: move them before.")
    return replace(show, universes=tuple(u for u in show.universes if u.number != number))


def _change_universe(show: Show, number: int, change: Callable[[Universe], Universe]) -> Show:
    if number not in show.universe_by_number:
        raise EditError(f"The show has no universe {number}.")
    return replace(show, universes=tuple(change(u) if u.number == number else u for u in show.universes))


def set_hard(show: Show, position: str, *, hard: bool) -> Show:
    """Say whether a position is hard to reach: fixtures there are moved last by a repair."""
    if position not in {held.name for held in show.positions}:
        raise EditError(f"The show has no position “{position[:60]}”.")
    return replace(show, positions=tuple(replace(p, hard=hard) if p.name == position else p for p in show.positions))


def set_tell_tale(show: Show, tell_tale: TellTale | None) -> Show:
    """Keep a slot of every universe at a level that tells its number, or keep none."""
    return replace(show, tell_tale=tell_tale)


def set_desk(show: Show, desk: Desk) -> Show:
    """Say which desk the show is for."""
    check_text("desk name", desk.name, required=False)
    return replace(show, desk=desk)


def set_need(show: Show, need: Need) -> Show:
    """Say what is needed of whom, in the place of what was said of the same before; an empty need takes it away."""
    kept = tuple(held for held in show.needs if (held.scope, held.key) != (need.scope, need.key))
    said = (need,) if need.features or need.school else ()
    return replace(show, needs=(*kept, *said))


def rename_show(show: Show, name: str) -> Show:
    """Give the show another name."""
    return replace(show, name=check_text("show name", name.strip()))


# ---- shared by the edits above


def _known(show: Show, ids: Collection[int]) -> None:
    for fixture_id in ids:
        show.fixture(fixture_id)


def _change(show: Show, ids: Collection[int], change: Callable[[Fixture], Fixture]) -> Show:
    """Replace the fixtures of these ids, in place; the show itself when nothing differs."""
    _known(show, ids)
    chosen = set(ids)
    if not chosen:
        return show
    fixtures = tuple(change(fixture) if fixture.id in chosen else fixture for fixture in show.fixtures)
    if fixtures == show.fixtures:
        return show
    return with_places(replace(show, fixtures=fixtures))


def with_places(show: Show) -> Show:
    """Add the universes and positions that fixtures name and the show does not list yet."""
    known = show.universe_by_number
    named = {entry.universe for fixture in show.fixtures for entry in fixture.patch if entry.universe is not None}
    if fresh := named - known.keys():
        universes = sorted((*show.universes, *map(Universe, fresh)), key=lambda universe: universe.number)
        show = replace(show, universes=tuple(universes))
    places = {position.name for position in show.positions}
    new_places = dict.fromkeys(f.position for f in show.fixtures if f.position and f.position not in places)
    if new_places:
        show = replace(show, positions=(*show.positions, *map(Position, new_places)))
    return show


def _mode_names(profile: Profile) -> str:
    return ", ".join(f"“{mode.name}”" for mode in profile.modes)
