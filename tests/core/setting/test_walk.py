"""The walk: in which order, whom a change sends back, what a mark for many claims, which steps a
fixture needs."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core import edits
from fence.core.model.errors import EditError
from fence.core.model.fixture import Fixture
from fence.core.model.line import Device
from fence.core.model.record import Prep
from fence.core.model.show import Position, Show
from fence.core.model.standing import DONE, State, state_of
from fence.core.setting.prep import cautions_for, is_done, same_for_all, steps_for
from fence.core.setting.rounds import round_of
from fence.core.setting.walk import again, claim, height_words, moved_by, places_in_order, walk
from fence.demo import on_site_show
from fence.demo.glasshouse import uncabled_show


def called(show: Show, label: str) -> Fixture:
    return next(fixture for fixture in show.fixtures if fixture.label == label)


def test_within_a_position_the_walk_follows_the_cable() -> None:
    """Along the line where there is one, else as the rig list runs."""
    show = uncabled_show()
    ferns = [f.id for f in show.fixtures if f.label.startswith("Fern")]
    labels = [stop.fixture.label for stop in walk(show, "Fern Gully").along]
    assert labels[:3] == ["Fern 1", "Fern 2", "Fern 3"]
    lined = edits.chain(edits.add_line(show, "Back", 1), 1, ferns[::-1])
    labels = [stop.fixture.label for stop in walk(lined, "Fern Gully").along]
    assert labels[:6] == ["Fern 6", "Fern 5", "Fern 4", "Fern 3", "Fern 2", "Fern 1"]
    assert labels[6:] == ["Mist 1", "Mist 2", "Spore 1", "Spore 2", "Spore 3"]


@given(
    st.lists(st.integers(1, 62), max_size=20),
    st.lists(st.integers(1, 62), max_size=6),
    st.integers(1, 62),
)
def test_the_walk_visits_everybody_once(done: list[int], moved: list[int], at: int) -> None:
    """Those to go back to first, each once; "next" leads through all that are open and ends when
    none is."""
    show = on_site_show()
    able = [f.id for f in show.fixtures if state_of(show, f) is not State.UNPLANNED]
    show = edits.mark_set(show, [i for i in dict.fromkeys(done) if i in able])
    show = edits.unpin(show, [f.id for f in show.fixtures if f.pinned])
    for fixture_id in dict.fromkeys(i for i in moved if i in able):
        if (start := show.fixture(fixture_id).start) and start < 500:
            show = edits.nudge(show, fixture_id, 1)
    found = walk(show)
    ids = [stop.fixture.id for stop in found.along]
    assert sorted(ids) == sorted(able)
    assert ids[: len(found.first)] == [stop.fixture.id for stop in found.first]
    assert all(stop.state in (State.RE_SET, State.DIFFERS) for stop in found.first)
    open_ones = {stop.fixture.id for stop in found.along if stop.state not in DONE}
    visited, here = set[int](), found.after(at)
    while here is not None and here.id not in visited:
        visited.add(here.id)
        here = found.after(here.id)
    assert visited in (open_ones, open_ones - {at}) or len(open_ones) <= 1


def test_positions_are_put_in_order() -> None:
    """One earlier or later, never beyond the ends; positions that are not named come after."""
    show = replace(uncabled_show(), walk=())
    names = [position.name for position in show.positions]
    assert places_in_order(show) == [*names, ""]
    show = edits.set_walk(show, moved_by(show, names[2], -1))
    assert places_in_order(show)[:3] == [names[0], names[2], names[1]]
    assert moved_by(show, names[0], -1)[0] == names[0]
    with pytest.raises(EditError, match="no position"):
        edits.set_walk(show, ["Nowhere"])


@pytest.mark.parametrize(
    ("position", "words"),
    [
        (Position("A"), ""),
        (Position("A", height=0), "on the ground"),
        (Position("A", height=4.5), "4.5 m up"),
        (Position("A", hard=True, height=-2), "2 m down, hard to reach"),
    ],
)
def test_heights_in_words(position: Position, words: str) -> None:
    """How high, and whether it is hard to reach."""
    assert height_words(position) == words


def test_whom_a_change_sends_back() -> None:
    """Only those that are set and would not be right any more, place by place; nobody where only
    labels change."""
    show = on_site_show()
    palms = [f.id for f in show.fixtures if f.position == "Palm House"]
    show = edits.mark_set(show, palms[:2])
    moved = edits.change_mode(show, palms, "26 channel")
    assert again(show, moved).words == (
        "2 fixtures that are set would have to be set again: 2 at Palm House (6 m up)."
    )
    assert again(show, moved).told == "2 fixtures have to be set again: 2 at Palm House (6 m up)."
    assert again(show, edits.rename(show, palms[0], "Other")).words == ""


def test_a_proof_is_stale_when_its_line_changes() -> None:
    """A stop put in on the way, or taken out; not what happens behind it, nor the line's name, nor
    lengths."""
    show = edits.terminate(
        edits.chain(edits.add_line(uncabled_show(), "Line A", 1), 1, [1, 2, 3, 4]), 1
    )
    show = edits.mark_proven(show, [1, 2, 3, 4])

    def states(changed: Show) -> list[str]:
        return [str(state_of(changed, changed.fixture(number))) for number in (1, 2, 3, 4)]

    assert states(show) == ["proven"] * 4
    assert (
        states(edits.set_cable_runs(edits.rename_line(show, 1, "Back", 1), 1, {1: 24, 2: 3}))
        == ["proven"] * 4
    )
    split = edits.insert(show, 1, Device.SPLITTER, before=3, outputs=4)
    assert states(split) == ["proven", "proven", "prove again", "prove again"]
    assert states(edits.take_off(show, 1, [1])) == ["prove again"] * 4
    planned_later = edits.chain(
        edits.add_line(edits.mark_proven(uncabled_show(), [1]), "Line A", 1), 1, [1]
    )
    assert state_of(planned_later, planned_later.fixture(1)) is State.PROVEN


def test_what_a_mark_for_many_claims() -> None:
    """Who is claimed, who is set already, and who said something else."""
    show = edits.mark_set(uncabled_show(), [1])
    show = edits.read_back(show, 2, 300)
    found = claim(show, [show.fixture(number) for number in (1, 2, 3, 63)])
    assert [[f.id for f in group] for group in (found.claimed, found.done, found.doubted)] == [
        [2, 3],
        [1],
        [2],
    ]


def test_steps_follow_the_chart_and_the_show() -> None:
    """Switches need no firmware, wireless needs a link, a tick for another name counts no more."""
    show = uncabled_show()
    fern, reed = called(show, "Fern 1"), called(show, "Reed 1")
    steps = {step.step for step in steps_for(show, fern)}
    assert Prep.FIRMWARE not in steps
    assert Prep.LISTENS in steps
    assert Prep.LINK in {step.step for step in steps_for(show, reed)}
    assert Prep.LINK not in {
        step.step for step in steps_for(edits.skip_steps(show, [Prep.LINK]), reed)
    }
    assert Prep.LISTENS not in {step.step for step in steps_for(show, called(show, "Fork 1"))}
    named = edits.tick(show, [reed.id], Prep.NAME)
    assert is_done(named, named.fixture(reed.id), Prep.NAME)
    renamed = edits.rename(named, reed.id, "Rush 1")
    assert not is_done(renamed, renamed.fixture(reed.id), Prep.NAME)
    groups = same_for_all(show, [f for f in show.fixtures if f.position == "Rill"])
    assert {group.kind for group in groups} == {
        "6 × Rill 1 to Rill 6, 24 channel",
        "5 × Reed 1 to Reed 5, 6 channel",
    }


def test_cautions_speak_of_what_can_hurt_there() -> None:
    """A moving head swings, a strobe strobes, switches are behind a cover, a height is a height."""
    show = on_site_show()
    high = next(position for position in show.positions if position.name == "Gatehouse")
    words = " ".join(cautions_for(show, called(show, "Vine 1"), high))
    for danger in ("swing", "strobe", "cover", "height", "bond"):
        assert danger in words
    assert "height" not in " ".join(cautions_for(show, called(show, "Fork 1"), None))


def test_a_round_of_one_after_the_other() -> None:
    """Only types whose chart says so; the first that is not done is next; none is left at the
    end."""
    show = uncabled_show()
    spores = [f.id for f in show.fixtures if f.label.startswith("Spore")]
    found = round_of(show)
    assert [f.id for f in found.fixtures] == spores
    assert found.current is not None
    assert found.current.id == spores[0]
    assert round_of(edits.mark_set(show, spores[:1])).current == show.fixture(spores[1])
    assert round_of(edits.mark_set(show, spores)).current is None
    assert round_of(show, turn=spores[2]).current == show.fixture(spores[2])
