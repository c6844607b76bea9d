"""Several fixtures moved at once: blocks keep their gaps, swaps their order, compacting its
promises."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core.addressing.moves import compact, move_block, next_gap_for, place_block, split, swap
from fence.core.checks import check
from fence.core.edits import share
from fence.core.model.address import Address
from fence.core.model.errors import EditError
from fence.core.model.show import Show
from tests.rigs import rig, rigs

ROW = rig(("A", 4, 1, 10), ("B", 6, 1, 20), ("C", 4, 1, 26), ("D", 5, 2, 1))


def starts(show: Show) -> list[str]:
    return [str(fixture.patch[0]) for fixture in show.fixtures]


def test_a_block_keeps_its_gaps() -> None:
    """A block moves by slots, to an address and to another universe with the distances between its
    fixtures."""
    assert starts(move_block(ROW, [1, 3], -9)) == ["U1 001", "U1 020", "U1 017", "U2 001"]
    assert starts(place_block(ROW, [1, 2, 3], Address(2, 101))) == [
        "U2 101",
        "U2 111",
        "U2 117",
        "U2 001",
    ]


@pytest.mark.parametrize(
    ("move", "words"),
    [
        (lambda: move_block(ROW, [1, 2], -10), "A starts at 10"),
        (lambda: place_block(ROW, [1, 2], Address(1, 510)), "B starts at 20"),
        (lambda: place_block(ROW, [1, 4], Address(1, 1)), "more than one universe"),
        (lambda: place_block(rig(("A", 4, None, None)), [1], Address(1, 1)), "None of these"),
        (lambda: swap(rig(("A", 4, 1, 1), ("B", 0, None, None)), 1, 2), "B has 0 runs"),
        (lambda: split(ROW, [1]), "None of these fixtures shares"),
        (
            lambda: move_block(
                replace(ROW, fixtures=(replace(ROW.fixtures[0], pinned=True),)), [1], 1
            ),
            "A is pinned",
        ),
    ],
)
def test_moves_that_cannot_be(move: object, words: str) -> None:
    """What would leave the universe, is pinned, or has nothing to move is refused by name."""
    with pytest.raises(EditError, match=words):
        move()  # type: ignore[operator]


def test_swaps() -> None:
    """Neighbours change their order, the longer one too; others take each other's start."""
    assert starts(swap(ROW, 2, 3)) == ["U1 010", "U1 024", "U1 020", "U2 001"]
    assert starts(swap(ROW, 1, 2)) == ["U1 022", "U1 010", "U1 026", "U2 001"]
    assert starts(swap(ROW, 1, 4)) == ["U2 001", "U1 020", "U1 026", "U1 010"]
    assert starts(swap(swap(ROW, 2, 3), 2, 3)) == starts(ROW)


@given(rigs(most=12, universes=1))
def test_compacting(show: Show) -> None:
    """Nothing moves up or is unpinned, no clash appears, order is kept, and doing it twice changes
    nothing."""
    after = compact(show, 1)
    for old, new in zip(show.fixtures, after.fixtures, strict=True):
        if old.start is not None and new.start is not None:
            assert new.start <= old.start
        assert new == old or not old.pinned
    if not any(f.rule in ("overlap", "past-end", "reserved") for f in check(show)):
        assert not [f for f in check(after) if f.rule in ("overlap", "past-end", "reserved")]
        assert compact(after, 1) == after
        loose = [
            p for p in show.runs_in(1) if not any(f.pinned for f in show.sharers_of(p.fixture))
        ]
        then = {p.fixture.id: p.run.first for p in after.runs_in(1)}
        kept = [then[p.fixture.id] for p in loose]
        assert kept == sorted(kept)


@given(st.integers(2, 8), st.integers(1, 120))
def test_splitting_a_group_finds_room(count: int, width: int) -> None:
    """All members of a group get their own places, the first keeps its own, as far as there is
    room."""
    show = rig(*((f"F{n}", width, 1, 1) for n in range(count)))
    after = split(share(show, [f.id for f in show.fixtures]), [f.id for f in show.fixtures])
    assert after.fixtures[0].start == 1
    assert not any(f.share for f in after.fixtures)
    fitting = 512 // width
    assert len({f.patch for f in after.fixtures}) == min(count, fitting)


def test_splitting_off_one() -> None:
    """One of three leaves; the others go on sharing at their address."""
    show = share(rig(("A", 5, 1, 1), ("B", 5, 1, 1), ("C", 5, 1, 1)), [1, 2, 3])
    after = split(show, [1])
    assert starts(after) == ["U1 006", "U1 001", "U1 001"]
    assert [f.share for f in after.fixtures] == ["", "A group", "A group"]


@given(rigs(), st.data())
def test_the_next_gap(show: Show, data: st.DataObject) -> None:
    """It is the first place behind the fixture, around all universes, whose slots are all free, one
    by one."""
    fixtures = [
        fixture
        for fixture in show.fixtures
        if sum(show.footprints_of(fixture)) and not fixture.share
    ]
    if not fixtures:
        return
    fixture = data.draw(st.sampled_from(fixtures))
    length, entry = show.footprints_of(fixture)[0], fixture.patch[0]
    taken = {(u.number, slot) for u in show.universes for slot in u.reserved}
    for placed in (placed for u in show.universes for placed in show.runs_in(u.number)):
        if placed.fixture is not fixture:
            taken |= {
                (placed.run.universe, slot) for slot in range(placed.run.first, placed.run.last + 1)
            }

    def is_clear(universe: int, slot: int) -> bool:
        return all(
            step <= 512 and (universe, step) not in taken for step in range(slot, slot + length)
        )

    home, numbers = entry.universe or 1, show.universe_numbers
    order = [*(n for n in numbers if n >= home), *(n for n in numbers if n < home), home]
    around = [(number, slot) for number in order for slot in range(1, 513)]
    behind = around.index((home, entry.slot)) + 1 if entry.slot else 0
    if entry.slot and is_clear(home, entry.slot):
        behind += length - 1
    found = (place for place in around[behind:] if is_clear(*place) and place != (home, entry.slot))
    wanted = next(found, None)
    if wanted is None:
        with pytest.raises(EditError, match="No universe has another gap"):
            next_gap_for(show, fixture.id)
    else:
        assert next_gap_for(show, fixture.id) == Address(*wanted)
