"""Mends really mend, and the repair of a rig keeps as many as can be kept."""

from __future__ import annotations

from itertools import combinations

from hypothesis import given, settings

from fence.core.address import Address
from fence.core.checks import Severity, check, findings_of
from fence.core.layout import mend_show
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


def test_a_gap_for_a_fixture_with_settable_limits() -> None:
    """A scanner whose switches hold 1 to 255 is mended to a place that can be set."""
    show = demo_show()
    finding = next(f for f in check(show) if f.rule == "setter-range")
    mend = mends_for(show, finding)[0]
    assert isinstance(mend.action, Move)
    assert mend.action.to == Address(4, 252)
