"""Trials on a copy: what fits as it is, what needs moves, what needs another universe, and how many
more fit."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from fence.core.addressing.room import room_for_more
from fence.core.addressing.trial import Trial, try_out
from fence.core.checks import Severity, check
from fence.core.edits import AddRun, add_fixtures, pin
from fence.core.model.desk import Desk
from fence.core.model.show import Show
from fence.demo import clean_show
from tests.rigs import bare, rig, rigs


def adding(show: Show, channels: int, quantity: int) -> AddRun:
    """A run of so many fixtures of so many channels."""
    return AddRun(show.profile_by_id.get(f"p{channels}", bare(channels)), "m", quantity, "New 1")


def test_into_the_gaps_as_they_are() -> None:
    """Where the gaps take them nothing moves and no universe is opened."""
    show = rig(("A", 100, 1, 1), ("B", 100, 1, 201), desk=Desk(universes=1))
    result = try_out(show, Trial(adding(show, 50, 4)))
    assert (result.fits, result.moved, result.without, result.opened) == (True, {}, (), ())
    assert result.show.fixtures[:2] == show.fixtures


def test_by_moving_others() -> None:
    """Where only moving others makes room, they move, and it is said who."""
    show = rig(("A", 100, 1, 101), ("B", 100, 1, 301), desk=Desk(universes=1))
    result = try_out(show, Trial(adding(show, 150, 2)))
    assert result.fits
    assert result.moved
    assert not [f for f in check(result.show) if f.severity is Severity.STOP]


def test_what_clashed_before_is_left_alone() -> None:
    """A trial is not a mend: two that clash already stay where they are."""
    show = rig(("A", 10, 1, 1), ("B", 10, 1, 5), ("C", 10, 1, 100))
    result = try_out(show, Trial(adding(show, 20, 2)))
    assert result.fits
    assert result.moved == {}
    assert result.show.fixtures[:3] == show.fixtures


def test_in_another_universe_or_not_at_all() -> None:
    """A desk with more universes opens one; a desk without says who finds no place, and they have
    no address."""
    show = rig(("A", 500, 1, 1), desk=Desk(universes=2))
    assert try_out(show, Trial(adding(show, 100, 3))).opened == (2,)
    tight = rig(("A", 500, 1, 1), desk=Desk(universes=1))
    result = try_out(tight, Trial(adding(tight, 100, 3)))
    assert (result.fits, len(result.without)) == (False, 3)
    assert result.show.fixtures[0] == tight.fixtures[0]
    assert all(f.start is None for f in result.show.fixtures[1:])


def test_other_modes_and_another_desk() -> None:
    """A mode or a desk is tried like fixtures: what no longer fits moves."""
    show = clean_show()
    ferns = {f.id: "10 channel" for f in show.fixtures if f.label.startswith("Fern")}
    result = try_out(show, Trial(modes=ferns))
    assert result.fits
    assert {f.mode for f in result.show.fixtures if f.id in ferns} == {"10 channel"}
    assert result.moved
    assert not [f for f in check(result.show) if f.severity is Severity.STOP]
    assert not try_out(show, Trial(universes=1)).fits
    assert show.desk.universes != 1


@given(rigs(most=8, universes=2, widest=150), st.integers(1, 150), st.integers(1, 12))
def test_a_trial_that_fits_has_no_new_clash(show: Show, channels: int, quantity: int) -> None:
    """The added fixtures never clash with anything that can move; those without a place are
    named."""
    result = try_out(show, Trial(AddRun(bare(channels), "m", quantity, "New 1")))
    new = {f.id for f in result.show.fixtures} - set(show.fixture_by_id)
    assert len(new) == quantity
    placed = {i for i in new if result.show.fixture(i).start is not None}
    assert placed == new - set(result.without)
    for finding in check(result.show):
        assert finding.rule not in ("overlap", "past-end", "reserved") or not placed & set(
            finding.fixtures
        )


@given(rigs(most=10, universes=2, widest=90))
def test_as_many_as_are_said_to_fit_do_fit(show: Show) -> None:
    """The number that fits as it is can be added without a move, and one more cannot."""
    for room in room_for_more(show):
        for quantity, fits in ((room.as_it_is, True), (room.as_it_is + 1, False)):
            if quantity:
                desk = Show(
                    show.name,
                    show.fixtures,
                    show.profiles,
                    show.universes,
                    desk=Desk(universes=2),
                    next_id=99,
                )
                after = add_fixtures(desk, AddRun(room.profile, room.mode.name, quantity, "New 1"))
                assert (all(f.start is not None for f in after.fixtures if f.id >= 99)) == fits
        assert room.with_moves >= room.as_it_is


def test_moving_others_makes_room_for_more() -> None:
    """Gaps that are too small alone hold more once others close up; the pinned stay in the way."""
    show = rig(("A", 10, 1, 200), ("B", 10, 1, 400), ("C", 180, 1, 20))
    (room,) = [room for room in room_for_more(show) if room.mode.footprint == 180]
    assert (room.as_it_is, room.with_moves) == (1, 1)
    show = rig(("A", 10, 1, 150), ("B", 10, 1, 320), ("C", 160, 2, 1), desk=Desk(universes=2))
    (room,) = [room for room in room_for_more(show) if room.mode.footprint == 160]
    assert (room.as_it_is, room.with_moves) == (4, 5)
    (pinned,) = [room for room in room_for_more(pin(show, [1, 2])) if room.mode.footprint == 160]
    assert pinned.with_moves == 4
