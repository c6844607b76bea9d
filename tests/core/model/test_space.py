"""Bits against sets of slots."""

from __future__ import annotations

from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from fence.core.addressing.room import room_for_more
from fence.core.model.profile import Setter
from fence.core.model.sharing import buttons_left
from fence.core.model.show import Show
from fence.core.model.space import (
    bits_of_slots,
    every,
    first_from,
    gaps,
    last_before,
    nearest,
    page_rooms,
    starts,
    starts_one_by_one,
    taken_bits,
    use_of,
)
from fence.core.model.standing import planned_for
from tests.rigs import rich_rigs

slot_sets = st.sets(st.integers(1, 512))


def naive_starts(free: set[int], length: int) -> set[int]:
    return {slot for slot in range(1, 513) if all(slot + step in free for step in range(length))}


@given(slot_sets, st.integers(1, 60), st.integers(1, 512))
def test_gap_search_equals_trying_every_slot(free: set[int], length: int, slot: int) -> None:
    """Where a run fits, what is nearest, first after and last before: the same as by trying."""
    fits = starts(bits_of_slots(free), length)
    wanted = naive_starts(free, length)
    assert fits == bits_of_slots(wanted)
    assert first_from(fits, slot) == min((s for s in wanted if s >= slot), default=None)
    assert last_before(fits, slot) == max((s for s in wanted if s < slot), default=None)
    assert nearest(fits, slot) == min(wanted, key=lambda s: (abs(s - slot), s < slot), default=None)


@given(slot_sets)
def test_gaps_cover_the_free_slots_exactly(free: set[int]) -> None:
    """Gaps are as long as they can be and together are the free slots."""
    found = gaps(bits_of_slots(free))
    assert [s for gap in found for s in range(gap.first, gap.last + 1)] == sorted(free)
    assert all(gap.last + 1 < after.first for gap, after in pairwise(found))


@given(slot_sets, st.integers(1, 512), st.integers(1, 512))
def test_pages_against_looking_at_each_slot(free: set[int], page: int, last: int) -> None:
    """Where pages begin, and how long a run each takes from its first slot on."""
    firsts = [slot for slot in range(1, 513) if (slot - 1) % page == 0]
    assert every(page, last=last) == bits_of_slots(slot for slot in firsts if slot <= last)
    rooms = [
        next(n for n in range(page + 1) if n == page or first + n not in free) for first in firsts
    ]
    assert page_rooms(bits_of_slots(free), page) == [room for room in rooms if room]


@given(rich_rigs())
def test_counts_agree_with_counting_slot_by_slot(show: Show) -> None:
    """Taken, reserved, free and how many more fit, on any desk: its universes, its slots, its
    pages, its buttons."""
    desk = show.desk
    needing = {f.share or str(f.id) + "/" for f in show.fixtures if any(show.footprints_of(f))}
    left = None if desk.buttons is None else max(0, desk.buttons - len(needing))
    assert buttons_left(show) == left
    frees = {}
    for number in show.universe_by_number:
        use = use_of(show, number)
        runs = [placed.run for placed in show.runs_in(number)]
        taken = {slot for run in runs for slot in range(run.first, min(run.last, 512) + 1)}
        sent = number <= (desk.universes or number)
        free = (
            {s for s in range(1, 513) if sent and s <= desk.highest}
            - taken
            - set(show.reserved_in(number))
        )
        frees[number] = free
        assert (use.used, use.free, use.sent) == (
            len(taken),
            len(free),
            desk.highest if sent else 0,
        )
        assert sum(gap.length for gap in use.gaps) == len(free)
        assert (use.largest_gap.length if use.largest_gap else 0) == max(
            (gap.length for gap in use.gaps), default=0
        )
        for length in (1, 7, 16):
            assert starts_one_by_one(show, number, length) == by_hand(
                free, length, desk.page, Setter()
            )
    for room in room_for_more(show):
        length, setter = room.mode.footprint, room.profile.setter
        fit = sum(len(by_hand(free, length, desk.page, setter)) for free in frees.values())
        assert room.as_it_is == (fit if left is None else min(fit, left))
        assert room.as_it_is <= room.with_moves <= (4096 if left is None else left)


@given(rich_rigs())
def test_who_takes_what_is_counted_run_by_run(show: Show) -> None:
    """What others than one or two fixtures take, which universes carry how many fixtures, which a
    fixture listens to, and who is planned in full: as by looking at every run of every fixture."""
    runs = {
        fixture.id: [placed.run for placed in show.runs_of(fixture)] for fixture in show.fixtures
    }
    for number in show.universe_by_number:
        taken = {
            one: {
                s
                for r in held
                if r.universe == number
                for s in range(r.first, min(r.last, 512) + 1)
            }
            for one, held in runs.items()
        }
        for without in [*((one,) for one in runs), tuple(runs)[:2], (99,)]:
            others = set[int]().union(*(taken[one] for one in runs if one not in without))
            assert taken_bits(show, number, without=without) == bits_of_slots(others)
        count = sum(1 for held in runs.values() if any(run.universe == number for run in held))
        assert show.carried.get(number, 0) == count
    for fixture in show.fixtures:
        mode = show.mode_of(fixture)
        widths = [part.footprint for part in mode.parts] if mode else [1] * len(fixture.patch)
        entries = [entry for width, entry in zip(widths, fixture.patch, strict=False) if width]
        heard = [entry.universe for entry in entries if entry.universe is not None]
        assert show.universes_of(fixture) == tuple(dict.fromkeys(heard))
        whole = mode is not None and bool(entries) and all(entry.slot for entry in entries)
        assert planned_for(show, fixture) == whole


def by_hand(free: set[int], length: int, page: int | None, setter: Setter) -> list[int]:
    """Where runs go one by one, looking at one slot after the other."""
    found, slot = [], 1
    while slot <= 512:
        fits = all(step in free for step in range(slot, slot + length))
        on_page = page is None or ((slot - 1) % page == 0 and length <= page)
        if fits and on_page and setter.settable[0] <= slot <= setter.settable[1]:
            found.append(slot)
            slot += length
        else:
            slot += 1
    return found
