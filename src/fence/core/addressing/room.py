"""How many more fixtures would fit: into the gaps as they are, and with others moved."""

from __future__ import annotations

from bisect import bisect_left
from collections import Counter
from dataclasses import dataclass

from fence.core.addressing.packing import packs_quickly
from fence.core.model.address import EVERY_SLOT, bits_of
from fence.core.model.profile import Mode, Profile
from fence.core.model.sharing import buttons_left, holder_of, mover_of
from fence.core.model.show import Show
from fence.core.model.space import gaps, page_rooms, reserved_bits, sent_bits, starts_one_by_one

MOST_ASKED = 4096
"""How many more fixtures are counted at most."""


@dataclass(frozen=True, slots=True)
class Room:
    """How many more fixtures of a mode fit into the show's universes, as far as the desk has
    buttons for them: moving nobody, and moving all but the pinned.
    """

    profile: Profile
    mode: Mode
    as_it_is: int
    with_moves: int


def room_for_more(show: Show) -> list[Room]:
    """How many more of each mode in use would fit. Modes with one run of channels only.

    With moves the limits of address setters are left out of the sum, and it is a count that was
    found by packing: a cleverer packing might hold one more.
    """
    used = dict.fromkeys((fixture.profile, fixture.mode) for fixture in show.fixtures)
    lengths = _loose_lengths(show)
    bins = _loose_bins(show)
    left = buttons_left(show)
    most = MOST_ASKED if left is None else left
    rooms = []
    for profile_id, mode_name in used:
        profile, mode = show.profile_by_id.get(profile_id), show.modes.get((profile_id, mode_name))
        if profile is None or mode is None or len(mode.parts) != 1 or not mode.footprint:
            continue
        now = sum(
            len(starts_one_by_one(show, number, mode.footprint, setter=profile.setter))
            for number in _usable(show)
        )
        packed = max(now, _more_packed(show, lengths, bins, mode.footprint))
        rooms.append(Room(profile, mode, min(now, most), min(packed, most)))
    return sorted(rooms, key=lambda room: (room.profile.title.casefold(), room.mode.footprint))


def _usable(show: Show) -> list[int]:
    limit = show.desk.last_universe
    return [number for number in show.universe_by_number if number <= limit]


def _loose_lengths(show: Show) -> Counter[int]:
    """How many runs of each length could move, sharers once."""
    lengths, seen = Counter[int](), set[object]()
    for number in _usable(show):
        for placed in show.runs_in(number):
            key = (mover_of(placed.fixture), placed.run, placed.part)
            if holder_of(show, placed.fixture) or key in seen:
                continue
            seen.add(key)
            lengths[placed.run.length] += 1
    return lengths


def _loose_bins(show: Show) -> list[int]:
    """The room of the universes with only the pinned in them: gaps, or pages as far as they are
    free."""
    bins, page = [], show.desk.page
    for number in _usable(show):
        taken = reserved_bits(show, number) | (EVERY_SLOT & ~sent_bits(show, number))
        for placed in show.runs_in(number):
            if holder_of(show, placed.fixture):
                taken |= bits_of(placed.run.first, placed.run.length)
        free = EVERY_SLOT & ~taken
        if page is None:
            bins += [gap.length for gap in gaps(free)]
        else:
            bins += page_rooms(free, page)
    return bins


def _more_packed(show: Show, lengths: Counter[int], bins: list[int], footprint: int) -> int:
    """The largest number of further runs for which a quick packing is found, by halving."""
    if show.desk.page is not None:
        return _more_on_pages(lengths, bins, footprint)
    length = footprint
    low, high = (
        0,
        min(
            MOST_ASKED,
            max(0, (sum(bins) - sum(n * count for n, count in lengths.items())) // length),
        ),
    )
    while low < high:
        middle = (low + high + 1) // 2
        if packs_quickly(lengths + Counter({length: middle}), bins):
            low = middle
        else:
            high = middle - 1
    return low


def _more_on_pages(lengths: Counter[int], bins: list[int], footprint: int) -> int:
    """The same where each page takes one run: the shortest runs leave the longest pages to the
    others."""
    rooms = sorted(bins)
    for length in sorted(lengths.elements(), reverse=True):
        at = bisect_left(rooms, length)
        if at == len(rooms):
            return 0
        rooms.pop(at)
    return min(MOST_ASKED, len(rooms) - bisect_left(rooms, footprint))
