"""Mends really mend, and the repair of a rig keeps as many as can be kept."""

from __future__ import annotations

from itertools import combinations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fence.core.address import Address
from fence.core.checks import Severity, check, findings_of
from fence.core.errors import FenceError
from fence.core.layout import Layout, School, lay_out, mend_show
from fence.core.layout.schools import group_of
from fence.core.mends import Move, Share, apply_mend, mends_for
from fence.core.show import Fixture, Show
from fence.demo import demo_show
from tests.rigs import rig, rigs


@given(rigs())
def test_every_offered_move_lands_clear(show: Show) -> None:
    """A mend that moves a fixture leaves it without any stop about where it stands."""
    for finding in check(show):
        for mend in mends_for(show, finding):
            after = apply_mend(show, mend)
            if isinstance(mend.action, Move):
                at_fault = {f.rule for f in check(after) if mend.action.fixture in f.fixtures}
                assert not at_fault & {"overlap", "past-end", "reserved", "setter-range", "universe-limit"}
            if isinstance(mend.action, Share) and finding.rule == "overlap":
                assert finding.key not in {f.key for f in check(after)}


def test_the_mends_of_an_overlap() -> None:
    """Nearest gap, next gap after, next universe, the other fixture instead, and sharing where it is legal."""
    show = rig(("A", 5, 1, 10), ("B", 5, 1, 13), ("C", 400, 1, 20), ("D", 5, 2, 1))
    overlap = next(finding for finding in check(show) if finding.rule == "overlap")
    assert [mend.text for mend in mends_for(show, overlap)] == [
        "Move B to 15",
        "Move B to U2 006",
        "Move A to 8",
        "Move A to 420",
        "Move A to U2 006",
        "Declare A and B as shared at U1 010",
    ]


def test_demo_stops_all_have_a_way_out() -> None:
    """Each stop of the demo show offers at least one mend, and taking the first of each ends them all."""
    show = demo_show()
    for _ in range(10):
        stops = [f for f in findings_of(show) if f.severity is Severity.STOP]
        if not stops:
            break
        show = apply_mend(show, mends_for(show, stops[0])[0])
    assert not [f for f in check(show) if f.severity is Severity.STOP]


def most_that_can_stay(show: Show) -> int:
    """How many fixtures of one universe can stay, by trying all sets; for rigs without shares."""
    kept = {slot for universe in show.universes for slot in universe.reserved}

    def slots(fixture: Fixture) -> set[tuple[int, int]]:
        run = show.runs_of(fixture)[0].run
        return {(run.universe, slot) for slot in range(run.first, run.last + 1)}

    placed = [fixture for fixture in show.fixtures if show.runs_of(fixture)]
    pinned = [fixture for fixture in placed if fixture.pinned]
    wall = set().union(*(slots(fixture) for fixture in pinned)) | {(u.number, s) for u in show.universes for s in kept}
    loose = [
        fixture
        for fixture in placed
        if not fixture.pinned and not slots(fixture) & wall and max(slot for _, slot in slots(fixture)) <= 512
    ]
    for size in range(len(loose), 0, -1):
        for some in combinations(loose, size):
            if sum(len(slots(f)) for f in some) == len(set().union(*(slots(f) for f in some))):
                return len(pinned) + size
    return len(pinned)


def without_shares(show: Show) -> Show:
    fixtures = tuple(Fixture(f.id, f.label, f.profile, f.mode, f.number, "", f.patch, f.pinned) for f in show.fixtures)
    return Show(show.name, fixtures, show.profiles, show.universes, next_id=show.next_id)


@settings(max_examples=60)
@given(rigs(most=9, universes=2).map(without_shares))
def test_a_repair_keeps_as_many_as_brute_force(show: Show) -> None:
    """The number of fixtures left where they are is the largest possible; nothing pinned moves."""
    repair = mend_show(show)
    addressed = [fixture for fixture in show.fixtures if show.runs_of(fixture)]
    assert len(addressed) - len({m.fixture for m in repair.moves}) - len(repair.unplaced) == repair.kept
    assert repair.kept == most_that_can_stay(show)
    assert not {m.fixture for m in repair.moves} & {f.id for f in show.fixtures if f.pinned}


@given(rigs(most=14))
def test_a_repair_leaves_no_clash_among_what_it_may_move(show: Show) -> None:
    """After a repair only pinned fixtures (with their sharers) and those without a place can still clash."""
    repair = mend_show(show)
    pinned = [fixture for fixture in show.fixtures if fixture.pinned]
    stuck = {sharer.id for fixture in pinned for sharer in show.sharers_of(fixture)} | set(repair.unplaced)
    for finding in check(repair.show):
        if finding.rule in ("overlap", "past-end", "reserved"):
            assert set(finding.fixtures) & stuck
    if not stuck:
        assert mend_show(repair.show).moves == ()


# ---- the schools of layout


def naive_layout(show: Show, layout: Layout) -> tuple[list[tuple[str, int, int]], list[str]]:
    """The schools read once more, slot by slot."""
    universe, slot, group = 1, 1, None
    placed, unplaced, shared = [], [], {}
    for fixture in show.fixtures:
        width = show.footprints_of(fixture)[0]
        opens, group = group_of(fixture) != group, group_of(fixture)
        if fixture.share in shared and fixture.share:
            where = shared[fixture.share]
            (placed.append((fixture.label, *where)) if where else unplaced.append(fixture.label)) if width else None
            continue
        if not width:
            continue
        u, s, found = universe, slot, None
        while u <= (layout.universes or 99) and found is None:
            for start in range(s, 513):
                fits = start + width - 1 <= 512
                if layout.school is School.PAGED:
                    fits = width <= layout.page and (start - 1) % layout.page == 0 and start + layout.page - 1 <= 512
                if layout.school is School.ROUND and opens:
                    fits = fits and (start - 1) % layout.round == 0
                if fits:
                    found = (u, start)
                    break
            u, s = u + 1, 1
            if u > universe + 2:
                break
        if fixture.share:
            shared[fixture.share] = found
        if found is None:
            unplaced.append(fixture.label)
            continue
        universe, slot = found[0], found[1] + width + (layout.spare if layout.school is School.SPACED else 0)
        placed.append((fixture.label, *found))
    return placed, unplaced


layouts = st.builds(
    Layout,
    st.sampled_from(list(School)),
    page=st.integers(1, 90),
    round=st.integers(1, 120),
    spare=st.integers(0, 30),
    universes=st.sampled_from([None, 1, 2, 3]),
)


def unpinned(show: Show) -> Show:
    fixtures = tuple(
        Fixture(f.id, f.label, f.profile, f.mode, f.number, f"P{f.id // 3}" if f.id % 2 else "", f.patch, share=f.share)
        for f in show.fixtures
    )
    return Show(show.name, fixtures, show.profiles, next_id=show.next_id)


@given(rigs(most=16, widest=200, reserved=False).map(unpinned), layouts)
def test_schools_equal_a_naive_reading(show: Show, layout: Layout) -> None:
    """Every school places and refuses just what its definition says."""
    result = lay_out(show, layout)
    placed = [(show.fixture(owner).label, at.universe, at.slot) for owner, _, at in result.placed]
    assert (placed, [show.fixture(i).label for i in result.unplaced]) == naive_layout(show, layout)


@given(rigs(most=16, widest=120), layouts)
def test_layouts_respect_pins_and_reserved_slots(show: Show, layout: Layout) -> None:
    """No laid-out fixture clashes with another, with a pinned one, or with a reserved slot."""
    result = lay_out(show, layout)
    laid = {owner for owner, _, _ in result.placed}
    pinned = {fixture.id: fixture.patch for fixture in show.fixtures if fixture.pinned}
    assert all(result.show.fixture(i).patch == patch for i, patch in pinned.items())
    free = laid - {f.id for f in show.fixtures if f.share}
    for finding in check(result.show):
        assert finding.rule not in ("overlap", "past-end", "reserved") or not free & set(finding.fixtures)


def test_layout_numbers_out_of_range() -> None:
    """A page of nothing is refused in words."""
    for numbers in ({"page": 0}, {"round": 513}, {"spare": -1}, {"universes": 0}):
        with pytest.raises(FenceError, match="accepted"):
            Layout(School.PAGED, **numbers)  # type: ignore[arg-type]


def test_a_gap_for_a_fixture_with_settable_limits() -> None:
    """A scanner whose switches hold 1 to 255 is mended to a place that can be set."""
    show = demo_show()
    finding = next(f for f in check(show) if f.rule == "setter-range")
    mend = mends_for(show, finding)[0]
    assert isinstance(mend.action, Move)
    assert mend.action.to == Address(4, 252)
