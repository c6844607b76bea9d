"""Repairs that keep the order along the cable."""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise

import pytest
from hypothesis import given

from fence.core import edits
from fence.core.addressing.neighbours import OF_PLACE, keep_together, push_along
from fence.core.addressing.repair import Repair, repair_rig
from fence.core.checks import analyse, check, news
from fence.core.checks.finding import Severity
from fence.core.model.show import Show
from fence.demo import clean_show
from tests.rigs import rich_rigs, rig

FERNS = list(range(5, 11))


def starts(show: Show) -> list[tuple[str, int | None]]:
    return [(fixture.label, fixture.start) for fixture in show.fixtures]


def test_six_grown_neighbours_stay_in_order() -> None:
    """From 8 to 10 channels: torn apart by the fewest moves, kept together and in order on
    request."""
    grown = edits.change_mode(clean_show(), FERNS, "10 channel")
    few, together, along = repair_rig(grown), keep_together(grown), push_along(grown)
    for repair in (few, together, along):
        assert analyse(repair.show).verdict.stops == 0
    ferns = [repair.show.fixture(i).start or 0 for repair in (together,) for i in FERNS]
    assert [b - a for a, b in pairwise(ferns)] == [10] * 5
    torn = [few.show.fixture(i).start or 0 for i in FERNS]
    assert torn != sorted(torn)
    pushed = [along.show.fixture(i).start or 0 for i in FERNS]
    assert pushed == sorted(pushed)
    assert len(few.moves) <= len(together.moves)
    assert len(few.moves) <= len(along.moves)


def test_pushed_until_a_gap_takes_it_up() -> None:
    """Each begins where the one before ends; behind a gap nothing moves; a pinned one is stepped
    over."""
    show = rig(("A", 8, 1, 1), ("B", 6, 1, 7), ("C", 6, 1, 13), ("D", 6, 1, 30))
    assert starts(push_along(show).show) == [("A", 1), ("B", 9), ("C", 15), ("D", 30)]
    pinned = edits.pin(show, [3])
    assert starts(push_along(pinned).show) == [("A", 1), ("B", 19), ("C", 13), ("D", 30)]


@pytest.mark.parametrize("way", [keep_together, push_along])
@given(rich_rigs())
def test_neither_way_makes_a_stop(way: Callable[[Show], Repair], show: Show) -> None:
    """No stop that was not there, pins and shares kept, what moves is told, whoever finds no place
    is named."""
    repair = way(show)
    new = [
        f
        for f in news(check(show), check(repair.show))
        if f.severity is Severity.STOP and f.rule in OF_PLACE
    ]
    # who finds no place stays in the way, and is named; so do groups whose members do not agree
    excused = {f.id for f in show.fixtures if f.share} | set(repair.unplaced)
    new = [f for f in new if not set(f.fixtures) & excused]
    assert not new, [f.message for f in new]
    moved = {move.fixture for move in repair.moves}
    for old, now in zip(show.fixtures, repair.show.fixtures, strict=True):
        assert (old.patch != now.patch) == (old.id in moved)
        assert not (old.pinned and old.patch != now.patch)
