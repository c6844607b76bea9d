"""The schools of layout against a second, naive reading of their rules."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core.addressing.schools import Layout, Order, School, Spill, group_of, lay_out
from fence.core.checks import check
from fence.core.model.address import Address
from fence.core.model.desk import Scale, TellTale
from fence.core.model.errors import FenceError
from fence.core.model.fixture import Fixture
from fence.core.model.show import Position, Show
from tests.rigs import rig, rigs


def in_order(show: Show, layout: Layout) -> list[Fixture]:
    """The fixtures to lay out, in order, by counting places."""
    chosen = [
        f for f in show.fixtures if not f.pinned and (layout.ids is None or f.id in layout.ids)
    ]
    names = [position.name for position in show.positions]
    ranks = {
        Order.CABLE: lambda f: show.fixtures.index(f),
        Order.NUMBER: lambda f: (f.number is None, f.number),
        Order.POSITION: lambda f: names.index(f.position) if f.position in names else 99,
        Order.PICKED: lambda f: layout.ids.index(f.id) if layout.ids else 0,
    }
    return sorted(chosen, key=ranks[layout.order])


def naive_layout(show: Show, layout: Layout) -> tuple[list[tuple[str, int, int]], list[str]]:
    """The schools read once more, slot by slot: which fixture stands where, and which nowhere."""
    order = in_order(show, layout)
    moving = {f.id for f in order}
    wall: dict[int, set[int]] = {}
    for u in range(1, 100):
        wall[u] = set(show.reserved_in(u))
    shared: dict[str, tuple[int, int] | None] = {}
    for f in show.fixtures:
        if f.id not in moving:
            for placed in show.runs_of(f):
                wall[placed.run.universe] |= set(range(placed.run.first, placed.run.last + 1))
            if f.share and f.start and f.share not in shared:
                shared[f.share] = (f.universe, f.start)
    universe, slot, before = layout.first.universe, layout.first.slot, None
    here = 0
    placed, unplaced = [], []
    for f in order:
        width = show.footprints_of(f)[0]
        if f.share in shared and f.share:
            where, before = shared[f.share], f
            if width:
                placed.append((f.label, *where)) if where else unplaced.append(f.label)
            continue
        opens = before is None or group_of(f) != group_of(before)
        if before is not None and here:
            if layout.spill is Spill.POSITION and before.position != f.position:
                universe, slot, here = universe + 1, 1, 0
            elif opens:
                slot += layout.after_group
        before = f
        if not width:
            if f.share:
                shared[f.share] = None
            continue
        found = None
        for u in range(universe, min(layout.universes or 99, 99) + 1):
            if u > max(universe, *show.universe_by_number, 1) + 1:
                break
            free = set(range(1, 513)) - wall[u]
            if len(free) - (here if u == universe else 0) - layout.keep < width:
                continue
            for start in range(slot if u == universe else 1, 513):
                fits = set(range(start, start + width)) <= free
                if layout.school is School.PAGED:
                    fits = fits and width <= layout.page and (start - 1) % layout.page == 0
                    fits = fits and start + layout.page - 1 <= 512
                if layout.school is School.ROUND and opens:
                    fits = fits and (start - 1) % layout.round == 0
                if fits:
                    found = (u, start)
                    break
            if found:
                break
        if f.share:
            shared[f.share] = found
        if found is None:
            unplaced.append(f.label)
            continue
        here = here + width if found[0] == universe else width
        universe, slot = (
            found[0],
            found[1] + width + (layout.spare if layout.school is School.SPACED else 0),
        )
        placed.append((f.label, *found))
    return placed, unplaced


CHOICES = st.builds(
    Layout,
    st.sampled_from([school for school in School if school is not School.SHARED]),
    page=st.integers(1, 90),
    round=st.integers(1, 120),
    spare=st.integers(0, 30),
    universes=st.sampled_from([None, 1, 2, 3]),
    order=st.sampled_from(list(Order)),
    spill=st.sampled_from(list(Spill)),
    keep=st.sampled_from([0, 0, 50, 400]),
    after_group=st.sampled_from([0, 0, 7]),
    first=st.builds(Address, st.integers(1, 2), st.sampled_from([1, 1, 100, 500])),
    ids=st.none() | st.lists(st.integers(1, 16), unique=True, max_size=16).map(tuple),
)


def placed_apart(show: Show) -> Show:
    """The same rig with positions, some of them without, and numbers that are not in order."""
    fixtures = tuple(
        replace(
            f,
            position=f"P{f.id // 3}" if f.id % 2 else "",
            number=(f.id * 7) % 11 if f.id % 4 else None,
        )
        for f in show.fixtures
    )
    names = dict.fromkeys(f.position for f in reversed(fixtures) if f.position)
    return replace(show, fixtures=fixtures, positions=tuple(map(Position, names)))


def only_known(show: Show, layout: Layout) -> Layout:
    return (
        replace(layout, ids=tuple(i for i in layout.ids if i in show.fixture_by_id))
        if layout.ids
        else layout
    )


@given(rigs(most=16, widest=200).map(placed_apart), CHOICES)
def test_schools_equal_a_naive_reading(show: Show, layout: Layout) -> None:
    """Every school, order, spill and room to grow places and refuses just what its definition
    says."""
    layout = only_known(show, layout)
    result = lay_out(show, layout)
    placed = [(show.fixture(owner).label, at.universe, at.slot) for owner, _, at in result.placed]
    assert (placed, [show.fixture(i).label for i in result.unplaced]) == naive_layout(show, layout)


@given(rigs(most=16, widest=120).map(placed_apart), CHOICES, st.sampled_from([None, 1, 256, 512]))
def test_layouts_respect_what_stays(show: Show, layout: Layout, tell_tale: int | None) -> None:
    """No laid-out fixture clashes with another, with one that stays, with a reserved slot or the
    tell-tale slot."""
    show = replace(show, tell_tale=TellTale(tell_tale, Scale.RAW) if tell_tale else None)
    layout = only_known(show, layout)
    result = lay_out(show, layout)
    laid = {owner for owner, _, _ in result.placed}
    for fixture in show.fixtures:
        if fixture.pinned or (layout.ids is not None and fixture.id not in layout.ids):
            assert result.show.fixture(fixture.id) == fixture
    free = laid - {f.id for f in show.fixtures if f.share}
    for finding in check(result.show):
        assert finding.rule not in ("overlap", "past-end", "reserved") or not free & set(
            finding.fixtures
        )
    for universe, bits in result.show.taken.items():
        if layout.keep and all(p.fixture.id in free for p in result.show.runs_in(universe)):
            assert 512 - len(show.reserved_in(universe)) - bits.bit_count() >= layout.keep


@given(rigs(most=14, universes=2, widest=100))
def test_shared_puts_alike_fixtures_together(show: Show) -> None:
    """All alike fixtures take one address by declaration; nothing is undeclared and nothing
    clashes."""
    show = replace(show, fixtures=tuple(replace(f, pinned=False, share="") for f in show.fixtures))
    after = lay_out(show, Layout(School.SHARED)).show
    for fixture in after.fixtures:
        alike = [
            f for f in after.fixtures if (f.profile, f.mode) == (fixture.profile, fixture.mode)
        ]
        if sum(after.footprints_of(fixture)):
            assert len({f.patch for f in alike}) == 1
            assert all(f.share for f in alike) == (len(alike) > 1)
    assert not [
        f for f in check(after) if f.rule in ("overlap", "share-mismatch", "past-end", "reserved")
    ]


def test_sharers_stay_with_one_that_is_not_laid_out() -> None:
    """A picked member of a sharing group joins the member that stays."""
    show = rig(("A", 5, 1, 40), ("B", 5, 1, 40), ("C", 5, 1, 1))
    show = replace(
        show, fixtures=tuple(replace(f, share="g" if f.label != "C" else "") for f in show.fixtures)
    )
    after = lay_out(show, Layout(School.BACK_TO_BACK, ids=(2, 3))).show
    assert [f.start for f in after.fixtures] == [40, 40, 1]


def test_a_universe_for_each_position() -> None:
    """With a universe per position each position opens the next one, in the order of the rig."""
    show = rig(("A", 5, None, None), ("B", 5, None, None), ("C", 5, None, None))
    hung = tuple(replace(f, position="Rill" if f.label == "C" else "Gate") for f in show.fixtures)
    after = lay_out(
        replace(show, fixtures=hung), Layout(School.BACK_TO_BACK, spill=Spill.POSITION)
    ).show
    assert [str(f.patch[0]) for f in after.fixtures] == ["U1 001", "U1 006", "U2 001"]


def test_numbers_out_of_range() -> None:
    """A page of nothing is refused in words, and so is a fixture that is not there."""
    for numbers in (
        {"page": 0},
        {"round": 513},
        {"spare": -1},
        {"universes": 0},
        {"keep": 513},
        {"after_group": -1},
    ):
        with pytest.raises(FenceError, match="Use "):
            Layout(School.PAGED, **numbers)  # type: ignore[arg-type]
    with pytest.raises(FenceError, match="no longer in the show"):
        lay_out(rig(("A", 5, 1, 1)), Layout(School.PAGED, ids=(99,)))
