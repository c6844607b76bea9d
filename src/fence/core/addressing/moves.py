"""Edits that move several fixtures: a block together, two for each other, a universe closed up, a
group split."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import replace

from fence.core import edits
from fence.core.model.address import EVERY_SLOT, SLOTS, Address, Run, bits_of
from fence.core.model.errors import EditError
from fence.core.model.fixture import Fixture
from fence.core.model.patch import Patch
from fence.core.model.sharing import check_free, holder_of, mover_of, moving
from fence.core.model.show import PlacedRun, Show
from fence.core.model.space import (
    desk_starts,
    first_from,
    free_bits,
    nearest,
    other_parts,
    reserved_bits,
)
from fence.core.model.text import counted


def move_block(show: Show, ids: Collection[int], by: int) -> Show:
    """Move fixtures together by some slots within their universes; the gaps between them stay as
    they are."""
    return _shifted(show, moving(show, ids), by, None)


def place_block(show: Show, ids: Collection[int], address: Address) -> Show:
    """Move fixtures together so that the lowest of them starts at ``address``; the gaps between
    them stay.

    All must stand in one universe. Raises ``EditError`` where one would start outside slots 1 to
    512.
    """
    movers = moving(show, ids)
    starts = [entry.address for fixture in movers for entry in fixture.patch if entry.address]
    if not starts:
        raise EditError("None of these fixtures has an address yet: give them one first.")
    if len({start.universe for start in starts}) > 1:
        raise EditError(
            "These fixtures stand in more than one universe: move them universe by universe."
        )
    return _shifted(
        show, movers, address.slot - min(start.slot for start in starts), address.universe
    )


def _shifted(show: Show, movers: Sequence[Fixture], by: int, universe: int | None) -> Show:
    patches = {}
    for fixture in movers:
        entries = []
        for entry in fixture.patch:
            if entry.slot is None:
                entries.append(entry)
                continue
            slot = entry.slot + by
            if not 1 <= slot <= SLOTS:
                raise EditError(
                    f"{fixture.label} starts at {entry.slot}: a move by {by:+d} would leave slots "
                    f"1 to {SLOTS}."
                )
            entries.append(Patch(universe or entry.universe, slot))
        patches[fixture.id] = tuple(entries)
    return _patched(show, patches)


def _patched(show: Show, patches: dict[int, tuple[Patch, ...]]) -> Show:
    fixtures = tuple(
        replace(f, patch=patches[f.id]) if f.id in patches else f for f in show.fixtures
    )
    return (
        show if fixtures == show.fixtures else edits.with_places(replace(show, fixtures=fixtures))
    )


def swap(show: Show, one: int, other: int) -> Show:
    """Let two fixtures change places.

    Direct neighbours change their order and keep the gap between them, also when one is longer;
    others take each other's start. Both must have one run.
    """
    first, second = sorted(
        (_only_run(show, one), _only_run(show, other)), key=lambda placed: placed.run
    )
    if first.fixture.share and first.fixture.share == second.fixture.share:
        raise EditError(
            f"{first.fixture.label} and {second.fixture.label} share one address: there is "
            "nothing to swap."
        )
    a, b = first.run, second.run
    later = Address(b.universe, b.first)
    between = [p for p in show.runs_in(a.universe) if a.last < p.run.first < b.first]
    if a.universe == b.universe and not between and b.last <= SLOTS and a.last < b.first:
        later = Address(b.universe, b.last + 1 - a.length)
    patches: dict[int, tuple[Patch, ...]] = {}
    for placed, target in ((first, later), (second, Address(a.universe, a.first))):
        for sharer in moving(show, [placed.fixture.id]):
            patches[sharer.id] = (Patch(target.universe, target.slot),)
    return _patched(show, patches)


def _only_run(show: Show, fixture_id: int) -> PlacedRun:
    fixture = show.fixture(fixture_id)
    runs = show.runs_of(fixture)
    if len(runs) != 1 or len(fixture.patch) != 1:
        raise EditError(
            f"{fixture.label} has {len(runs)} runs of slots: only fixtures with one can be swapped."
        )
    return runs[0]


def compact(show: Show, universe: int) -> Show:
    """Close the gaps of a universe: each run moves down to the first place behind the one before
    it, in order.

    Pinned fixtures and reserved slots stay and are stepped over. What finds no place further down
    stays.
    """
    blocked = reserved_bits(show, universe)
    groups: dict[tuple[object, ...], list[PlacedRun]] = {}
    for placed in show.runs_in(universe):
        fixture = placed.fixture
        key = (mover_of(fixture), placed.part, placed.run)
        groups.setdefault(key, []).append(placed)
    for members in groups.values():
        if any(holder_of(show, member.fixture) for member in members):
            blocked |= bits_of(members[0].run.first, members[0].run.length)
    taken, patches, cursor = blocked, dict[int, list[Patch]](), 1
    for members in groups.values():
        if any(holder_of(show, member.fixture) for member in members):
            continue
        run, profile = members[0].run, show.profile_of(members[0].fixture)
        fits = desk_starts(
            show, EVERY_SLOT & ~taken, run.length, setter=profile.setter if profile else None
        )
        slot = first_from(fits, cursor)
        if slot is None or slot > run.first:
            slot = run.first
        taken |= bits_of(slot, run.length)
        cursor = max(cursor, slot)
        for member in members:
            entries = patches.setdefault(member.fixture.id, list(member.fixture.patch))
            entries[member.part] = Patch(universe, slot)
    return _patched(show, {fixture_id: tuple(entries) for fixture_id, entries in patches.items()})


def split(show: Show, ids: Collection[int]) -> Show:
    """End the sharing of fixtures and find each its own place: one keeps the address, the others
    take the nearest gaps.

    A fixture for which no gap is left keeps the address and so clashes, which the rules tell.
    """
    leaving = [fixture for fixture in show.fixtures if fixture.id in set(ids)]
    if not leaving or not any(fixture.share for fixture in leaving):
        raise EditError("None of these fixtures shares an address.")
    groups = {fixture.share for fixture in leaving if fixture.share}
    stays = {
        fixture.id for group in groups for fixture in _keepers(show, group, {f.id for f in leaving})
    }
    show = edits.unshare(show, [fixture.id for fixture in leaving])
    for fixture in leaving:
        if fixture.id in stays:
            continue
        for placed in show.runs_of(show.fixture(fixture.id)):
            target = _nearest_gap(show, fixture, placed.run)
            if target is not None:
                show = edits.place(show, fixture.id, target, part=placed.part)
    return show


def _keepers(show: Show, group: str, leaving: Collection[int]) -> list[Fixture]:
    """Who of a group keeps its address: those that go on sharing, else the pinned one, else the
    first.

    Raises ``EditError`` where a pin holds one that would have to leave.
    """
    members = [fixture for fixture in show.fixtures if fixture.share == group]
    keepers = [fixture for fixture in members if fixture.id not in leaving]
    keepers = keepers or [fixture for fixture in members if fixture.pinned][:1] or members[:1]
    for fixture in members:
        if fixture.id in leaving and fixture not in keepers:
            check_free(fixture)
    return keepers


def _nearest_gap(show: Show, fixture: Fixture, run: Run) -> Address | None:
    profile = show.profile_of(fixture)
    setter = profile.setter if profile else None
    for universe in sorted(
        show.universe_by_number, key=lambda number: (number != run.universe, number)
    ):
        if universe > show.desk.last_universe:
            continue
        fits = desk_starts(show, free_bits(show, universe), run.length, setter=setter)
        slot = nearest(fits, run.first) if universe == run.universe else first_from(fits)
        if slot is not None:
            return Address(universe, slot)
    return None


def next_gap_for(show: Show, fixture_id: int, part: int = 0) -> Address:
    """The next free run that is long enough for a part of a fixture, at a slot that it can be set
    to.

    Looked for behind where it stands, then in the universes after, then from the first one on. Its
    own slots, and those of all that share with it, count as free; one that stands clear goes beyond
    them, one that clashes only to the next start that is clear. Raises ``EditError`` where there is
    none, and for a part without channels.
    """
    fixture = show.fixture(fixture_id)
    footprints = show.footprints_of(fixture)
    length = footprints[part] if 0 <= part < len(footprints) else 0
    if not length:
        raise EditError(f"{fixture.label} takes no channels here, so it needs no gap.")
    entry = fixture.patch[part] if part < len(fixture.patch) else None
    profile = show.profile_of(fixture)
    setter = profile.setter if profile else None
    sharers = {sharer.id for sharer in show.sharers_of(fixture)}
    home = entry.universe if entry and entry.universe else min(show.universe_by_number, default=1)
    stands = entry.slot if entry and entry.slot else 0
    numbers = sorted({*show.universe_numbers, home})
    at = numbers.index(home)
    for place, number in enumerate([*numbers[at:], *numbers[: at + 1]]):
        free = free_bits(show, number, without=sharers) & ~other_parts(show, fixture, part, number)
        fits = desk_starts(show, free, length, setter=setter)
        clear = place == 0 and stands and fits >> (stands - 1) & 1
        behind = 1 if place else stands + (length if clear else 1)
        slot = first_from(fits, behind)
        if slot is not None and (number, slot) != (home, stands):
            return Address(number, slot)
    raise EditError(
        f"No universe has another gap of {counted(length, 'channel')} for {fixture.label}."
    )
