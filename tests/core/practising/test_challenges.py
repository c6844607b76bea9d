"""Challenges beside naive readings: how a heap stands, and what a cable comes to."""

from __future__ import annotations

from random import Random

import pytest

from fence.core.lines.seeking import BROKEN, SPLITTER
from fence.core.model.errors import EditError
from fence.core.model.show import Show
from fence.core.practising.challenges import (
    HEAPS,
    OUTPUTS,
    POSITIONS,
    Run,
    _branch,
    addressed,
    best_of,
    by_fence,
    cable_of,
    heap_of,
    judged,
    laid,
)
from fence.demo import back_room


@pytest.mark.parametrize("level", HEAPS)
def test_a_heap_as_fence_lays_it_has_nothing_to_touch(level: int) -> None:
    """And no slot in between; with one fixture on another's address one has to be touched."""
    heap = heap_of(back_room(), Random(level), level)
    better = by_fence(heap)
    stands = judged(better)
    assert (stands.touched, stands.gaps) == (0, 0)
    typed = {one.id: f"{one.universe}.{one.start}" for one in better.fixtures}
    assert judged(addressed(heap, typed)) == stands
    first, second = better.fixtures[:2]
    typed[second.id] = typed[first.id]
    assert judged(addressed(heap, typed)).touched == 1
    typed[second.id] = "here"
    with pytest.raises(EditError, match=f"Fixture {second.label}"):
        addressed(heap, typed)


def test_a_heap_needs_types() -> None:
    """It is said what is missing."""
    with pytest.raises(EditError, match="chart"):
        heap_of(Show("Empty"), Random(1), 1)


def random_runs(chance: Random, count: int) -> list[Run]:
    """What each position hangs on, at random."""
    return [Run(chance.choice([None, *range(count)]), chance.random() < 0.6) for _ in range(count)]


@pytest.mark.parametrize("level", POSITIONS)
def test_no_plan_by_hand_is_better_than_fences(level: int) -> None:
    """Of many plans at random none that holds has fewer splitters, or less cable with as many; each
    comes to what the search itself would reckon."""
    chance, sound = Random(level), 0
    cables = [cable_of(chance, level) for _ in range(6)]
    for number in range(4000):
        cable = cables[number % len(cables)]
        runs = random_runs(chance, len(cable.spots))
        try:
            mine = laid(cable, runs)
        except EditError:
            continue
        if mine.broken:
            continue
        sound += 1
        best = best_of(cable)
        assert (best.splitters, best.metres) <= (mine.splitters, mine.metres)
        cost = cable.task.cost(_branch(cable, runs, None))
        assert cost is not None
        assert (mine.splitters, mine.metres) == divmod(cost % BROKEN, SPLITTER)
    assert sound > 3


def test_what_is_no_plan_is_said() -> None:
    """A ring, and two cables out of one position; too much on a driver, too many on a splitter."""
    cable = cable_of(Random(3), 3)
    count = len(cable.spots)
    chain = [Run(None if at == 0 else at - 1, False) for at in range(count)]
    assert "which feeds 32" in laid(cable, chain).broken[0]
    star = [Run(None, True)] * count
    assert f"has {OUTPUTS} outputs, not {count}" in laid(cable, star).broken[-1]
    with pytest.raises(EditError, match="hangs on itself"):
        laid(cable, [Run(1, True), Run(0, True), *star[2:]])
    with pytest.raises(EditError, match="Two cables begin at the desk"):
        laid(cable, [Run(None, False), Run(None, False), *chain[2:]])
