"""Packing runs into gaps: each way to do it alone, against trying everything."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from functools import cache
from itertools import combinations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core.addressing import packing
from fence.core.addressing.packing import DEEPEST, Packing, pack, packs_quickly

LENGTHS = st.lists(st.integers(1, 9), max_size=7)
BINS = st.lists(st.integers(0, 14), max_size=4)


@cache
def can(lengths: tuple[int, ...], room: tuple[int, ...]) -> bool:
    """Whether the lengths go into the bins, by trying each in each."""
    if not lengths:
        return True
    return any(
        can(lengths[1:], tuple(sorted((*room[:at], left - lengths[0], *room[at + 1 :]))))
        for at, left in enumerate(room)
        if left >= lengths[0]
    )


def holds(lengths: Sequence[int], bins: Sequence[int], chosen: Sequence[int]) -> bool:
    """Whether each length has a bin and no bin is asked for more than it has."""
    asked = [0] * len(bins)
    for length, place in zip(lengths, chosen, strict=True):
        asked[place] += length
    return all(used <= capacity for used, capacity in zip(asked, bins, strict=True))


@given(LENGTHS, BINS)
def test_every_way_is_right_alone(lengths: list[int], bins: list[int]) -> None:
    """The quick tries never overfill a bin; the search finds a way if there is one, else proves
    that there is none."""
    longest_first = sorted(lengths, reverse=True)
    there_is = can(tuple(lengths), tuple(sorted(bins)))
    for quick in (packing._tightest_first, packing._fullest_first):
        found = quick(longest_first, bins)
        assert found is None or holds(longest_first, bins, found)
    chosen, certain = packing._search(longest_first, bins, 10**6) if lengths else ([], True)
    assert certain
    assert (chosen is not None) == there_is
    assert chosen is None or holds(longest_first, bins, chosen)
    packed = pack(lengths, bins)
    assert (packed.certain, packed.bins is not None) == (True, there_is)
    assert packed.bins is None or holds(lengths, bins, packed.bins)
    assert there_is or not packs_quickly(Counter(lengths), bins)


@given(st.lists(st.integers(1, 12), max_size=8), st.integers(0, 40))
def test_the_fullest_sum(lengths: list[int], capacity: int) -> None:
    """A bin is filled as far as any choice of the lengths fills it."""
    picked = packing._best_sum(Counter(lengths), capacity)
    sums = {sum(some) for count in range(len(lengths) + 1) for some in combinations(lengths, count)}
    assert sum(picked) == max(total for total in sums if total <= capacity)
    assert not Counter(picked) - Counter(lengths)


def test_long_runs_go_first_and_into_the_tightest_gap() -> None:
    """Where several ways fit, long runs stand in the gap that they leave least of, and equal gaps
    fill in order."""
    assert pack([2, 5], [9, 5, 2]) == Packing((2, 1))
    assert pack([4, 4, 4], [8, 12]) == Packing((0, 0, 1))
    assert packing._best_sum(Counter([6, 3, 3, 2]), 6) == [6]
    assert pack([], []) == Packing(())


@pytest.mark.parametrize(
    ("lengths", "bins", "quick"),
    [
        ([3, 3], [3, 2], False),
        ([4], [3, 3], False),
        ([4], [4], True),
        ([5, 4, 3, 3, 3], [10, 8], True),
        ([2] * 9, [3] * 8, False),
    ],
)
def test_a_quick_answer(lengths: list[int], bins: list[int], quick: bool) -> None:
    """A quick yes is a yes; totals and the longest run give a quick no."""
    assert packs_quickly(Counter(lengths), bins) == quick


def test_alike_runs_and_alike_gaps_are_not_tried_over_and_over() -> None:
    """Nine pairs in eight gaps of three are known to be too many at once; a budget that is gone
    proves nothing."""
    assert pack([2] * 9, [3] * 8, budget=12) == Packing(None)
    hard, room = [6, 6, 5, 4, 4, 4, 4, 4], [10, 11, 11, 7]
    assert not can(tuple(hard), tuple(room))
    assert pack(hard, room, budget=91) == Packing(None)
    assert pack(hard, room, budget=90) == Packing(None, certain=False)


def test_too_many_runs_to_search_are_told_as_unsure() -> None:
    """From so many runs on nothing is searched: no packing is found, and none is ruled out."""
    unlucky = [3] * (DEEPEST // 2) + [2] * (DEEPEST // 2)
    room = [5] * (DEEPEST // 2 - 1) + [4, 1]
    assert sum(room) == sum(unlucky)
    assert pack(unlucky, room) == Packing(None, certain=False)
    assert packing._search([1] * (DEEPEST - 1), [DEEPEST], 10**6)[1]
    assert packing._search([1] * DEEPEST, [DEEPEST], 10**6) == (None, False)
