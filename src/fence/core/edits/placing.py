"""Edits of modes and addresses: where fixtures listen, who is pinned, who shares."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace

from fence.core.edits.records import change_each, free_name, mode_names
from fence.core.model.address import SLOTS, Address
from fence.core.model.errors import EditError
from fence.core.model.fixture import Fixture
from fence.core.model.patch import Patch
from fence.core.model.sharing import check_free
from fence.core.model.show import Show
from fence.core.model.text import check_text, counted


def change_mode(show: Show, ids: Collection[int], mode_name: str) -> Show:
    """Put fixtures into another mode of their profile. They keep their starts; longer runs may then
    clash."""

    def changed(fixture: Fixture) -> Fixture:
        profile = show.profile_of(fixture)
        mode = show.modes.get((fixture.profile, mode_name))
        if mode is None:
            offered = f" Accepted: {mode_names(profile)}." if profile else ""
            raise EditError(f"{fixture.label} has no mode “{mode_name}”.{offered}")
        patch = (*fixture.patch[: len(mode.parts)],)
        patch += (Patch(),) * (len(mode.parts) - len(patch))
        return replace(fixture, mode=mode_name, patch=patch)

    return change_each(show, ids, changed)


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
        check_free(show.fixture(fixture_id))
    return change_each(
        show, ids, lambda fixture: replace(fixture, patch=tuple(Patch() for _ in fixture.patch))
    )


def nudge(show: Show, fixture_id: int, slots: int, *, part: int = 0) -> Show:
    """Move a fixture (and all that share with it) by some slots within its universe; negative is
    towards 1."""
    fixture = show.fixture(fixture_id)
    patch = fixture.patch[_part_of(fixture, part)]
    if patch.universe is None or patch.slot is None:
        raise EditError(f"{fixture.label} has no address yet: give it one first.")
    target = patch.slot + slots
    if not 1 <= target <= SLOTS:
        raise EditError(
            f"{fixture.label} starts at {patch.slot}: a move by {slots:+d} would leave slots 1 to "
            f"{SLOTS}."
        )
    return _patch(show, fixture_id, part, Patch(patch.universe, target))


def _patch(show: Show, fixture_id: int, part: int, patch: Patch) -> Show:
    fixture = show.fixture(fixture_id)
    _part_of(fixture, part)
    moved = show.sharers_of(fixture)
    for mover in moved:
        check_free(mover)

    def changed(mover: Fixture) -> Fixture:
        entries = list(mover.patch)
        entries[min(part, len(entries) - 1)] = patch
        return replace(mover, patch=tuple(entries))

    return change_each(show, [mover.id for mover in moved], changed)


def _part_of(fixture: Fixture, part: int) -> int:
    if not 0 <= part < len(fixture.patch):
        raise EditError(
            f"{fixture.label} has {counted(len(fixture.patch), 'part')}; there is no part "
            f"{part + 1}."
        )
    return part


def pin(show: Show, ids: Collection[int]) -> Show:
    """Hold fixtures at their addresses: nothing moves them until they are unpinned."""
    for fixture_id in ids:
        fixture = show.fixture(fixture_id)
        if all(entry.slot is None for entry in fixture.patch):
            raise EditError(f"{fixture.label} has no address yet, so there is nothing to pin.")
    return change_each(show, ids, lambda fixture: replace(fixture, pinned=True))


def unpin(show: Show, ids: Collection[int]) -> Show:
    """Let fixtures move again."""
    return change_each(show, ids, lambda fixture: replace(fixture, pinned=False))


def share(show: Show, ids: Sequence[int], group: str = "") -> Show:
    """Declare that fixtures share one address on purpose: that of the first in ``ids`` that has
    one.

    They must be alike: same profile and mode. Without a name the group is called after its first
    fixture.
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
        if member.patch != lead.patch:
            check_free(member)
    check_text("sharing group", group, required=False)
    taken = (
        {fixture.share for fixture in show.fixtures} - {""} - {member.share for member in members}
    )
    name = group.strip() or free_name(f"{lead.label} group", taken)
    return change_each(show, ids, lambda fixture: replace(fixture, share=name, patch=lead.patch))


def unshare(show: Show, ids: Collection[int]) -> Show:
    """End the declared sharing of fixtures. A group left with one member is no group. Addresses
    stay."""
    show = change_each(show, ids, lambda fixture: replace(fixture, share=""))
    sizes: dict[str, int] = {}
    for fixture in show.fixtures:
        sizes[fixture.share] = sizes.get(fixture.share, 0) + 1
    alone = [fixture.id for fixture in show.fixtures if fixture.share and sizes[fixture.share] == 1]
    return change_each(show, alone, lambda fixture: replace(fixture, share=""))
