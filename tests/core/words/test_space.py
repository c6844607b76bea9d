"""Bits against sets of slots."""

from __future__ import annotations

from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from fence.core.words.show import Show
from fence.core.words.space import bits_of_slots, first_from, gaps, last_before, nearest, starts, use_of
from tests.rigs import rigs

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


@given(rigs())
def test_use_counts_distinct_slots(show: Show) -> None:
    """Taken, reserved and free slots are counted once each, whatever overlaps."""
    for universe in show.universes:
        use = use_of(show, universe.number)
        taken = {
            slot
            for placed in show.runs_in(universe.number)
            for slot in range(placed.run.first, min(placed.run.last, 512) + 1)
        }
        free = set(range(1, 513)) - taken - set(universe.reserved)
        assert (use.used, use.free) == (len(taken), len(free))
        assert sum(gap.length for gap in use.gaps) == len(free)
        longest = max((gap.length for gap in use.gaps), default=None)
        assert (use.largest_gap.length if use.largest_gap else None) == longest
        assert use.room_for(7) == sum(gap.length // 7 for gap in use.gaps)
