"""Repairs and layouts, followed through edits, beside a show that is new."""

from __future__ import annotations

from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from fence.core.addressing.repair import RepairOptions, repair_rig
from fence.core.addressing.schools import Layout, School, lay_out
from fence.core.checks import check
from fence.core.model.desk import Desk
from fence.core.model.fixture import Fixture
from fence.core.model.patch import Patch
from fence.core.model.profile import Mode, Part
from fence.core.model.record import Seen, SetTo, Sign
from fence.core.model.show import Position, Show
from fence.core.model.standing import State, state_of, states_of
from tests.core.model.test_occupancy import edited, unknown
from tests.examples import examples
from tests.rigs import bare, rig, rigs

OPTIONS = st.builds(
    RepairOptions,
    stay=st.booleans(),
    new_universes=st.booleans(),
    willing=st.frozensets(st.integers(1, 12), max_size=3),
    edited=st.frozensets(st.integers(1, 12), max_size=2),
    held=st.frozensets(st.integers(1, 12), max_size=3),
)


@st.composite
def worked_on(draw: st.DrawFn, show: Show) -> Show:
    """The show after one edit, or after somebody was at a fixture, or said where it hangs."""
    what = draw(st.sampled_from(["edit", "edit", "set", "hang", "hard", "sign", "near"]))
    if what == "edit" or not show.fixtures:
        return draw(edited(show))
    if what == "hard":
        return replace(show, positions=(Position("Bridge", hard=draw(st.booleans())),))
    at = draw(st.integers(0, len(show.fixtures) - 1))
    fixture = show.fixtures[at]
    if what == "hang":
        fixture = replace(fixture, position="Bridge")
    elif what == "sign":
        fixture = replace(fixture, sign=Sign(Seen.DARK))
    elif what == "near":  # where another one is
        fixture = replace(fixture, patch=draw(st.sampled_from(show.fixtures)).patch)
    else:
        fixture = replace(fixture, set_to=SetTo(fixture.mode, fixture.patch))
    return replace(show, fixtures=(*show.fixtures[:at], fixture, *show.fixtures[at + 1 :]))


@examples(200)
@given(rigs(), st.data())
def test_repairs_and_layouts_are_as_if_opened_anew(show: Show, data: st.DataObject) -> None:
    """Edit after edit, and back, with one option and another."""
    if data.draw(st.booleans()):  # of a group each universe depends on the others
        alone = tuple(replace(fixture, share="") for fixture in show.fixtures)
        show = replace(show, fixtures=alone)
    shows = [show]
    for _ in range(data.draw(st.integers(1, 4))):
        shows.append(data.draw(worked_on(data.draw(st.sampled_from(shows)))))
        for each in (shows[-1], data.draw(st.sampled_from(shows))):
            anew, options = unknown(each), data.draw(st.one_of(st.just(RepairOptions()), OPTIONS))
            repair = repair_rig(each, options)
            assert repair == repair_rig(anew, options)
            assert list(check(repair.show)) == list(check(unknown(repair.show)))
            assert states_of(each) == {f.id: state_of(anew, f) for f in anew.fixtures}
            ids = data.draw(st.sampled_from([None, tuple(f.id for f in each.fixtures[::2])]))
            layout = Layout(School.BACK_TO_BACK, ids=ids)
            assert lay_out(each, layout) == lay_out(anew, layout)


def test_a_repair_follows_all_that_it_weighs() -> None:
    """What moving costs, what is kept free, where the rest of a group stands."""

    def moved(show: Show) -> list[int]:
        return [move.fixture for move in repair_rig(show).moves]

    show = rig(("Fern", 4, 1, 1), ("Lily", 4, 1, 3), ("Moss", 4, 1, 9), ("Ivy", 4, 2, 1))
    assert moved(show) == [2]
    fixtures = show.fixtures
    hung = replace(fixtures[1], position="Bridge"), *fixtures[2:]
    hard = replace(show, fixtures=(fixtures[0], *hung), positions=(Position("Bridge", hard=True),))
    assert moved(replace(hard, positions=())) == [2]
    assert moved(hard) == [1]
    assert moved(replace(hard, positions=())) == [2]
    kept = replace(show.universes[0], reserved=(1,)), *show.universes[1:]
    assert moved(replace(show, universes=kept)) == [1]
    assert moved(show) == [2]
    held = repair_rig(show, RepairOptions(held=frozenset({2})))
    assert [move.fixture for move in held.moves] == [1]
    pair = rig(("Fern", 4, 1, 5), ("Lily", 4, 1, 7))
    assert len(moved(pair)) == 1
    assert moved(replace(pair, desk=Desk(page=8))) == [1, 2]
    named = replace(show, fixtures=(replace(fixtures[0], label="Bracken"), *fixtures[1:]))
    assert [move.why[:20] for move in repair_rig(named).moves] == ["Bracken keeps 1 to 4"]


def test_a_group_is_followed_through_all_universes() -> None:
    """One that stands apart joins the others, wherever these were moved to meanwhile."""
    show = rig(("Fern", 4, 2, 1), ("Lily", 4, 1, 3), ("Moss", 4, 3, 1), ("Ivy", 4, 3, 9))
    lead, *others = (replace(f, share="g") if f.id < 3 else f for f in show.fixtures)
    spans = []
    for slot in (1, 20, 40):
        lead = replace(lead, patch=(Patch(2, slot),), pinned=True)
        show = replace(show, fixtures=(lead, *others))
        spans.append(show.occupancy.spans[1])
        assert repair_rig(show).show.fixtures[1].patch == (Patch(2, slot),)
    assert spans[1] is spans[2], "nothing of that universe changed"


def test_a_part_without_an_address_leaves_a_fixture_unplanned() -> None:
    """Also where another part of it takes slots."""
    two = replace(bare(2), modes=(Mode("m", (Part(2), Part(3))),))
    halves = (Patch(1, 1), Patch(1, None)), (Patch(1, 10), Patch(2, 1))
    fixtures = tuple(Fixture(n, f"F{n}", "p2", "m", patch=halves[n - 1]) for n in (1, 2))
    show = Show("S", fixtures, (two,), next_id=3)
    assert states_of(show) == {1: State.UNPLANNED, 2: State.TO_SET}


def test_the_same_moves_make_the_same_fixtures() -> None:
    """So that what was found out of them once still holds; a few moves are not remembered."""
    rows = [(f"F{n}", 2, 1 + n // 100, 1 + n % 100 * 2) for n in range(60)]
    show = rig(*rows)
    there = {fixture.id: (Patch(7, 1 + fixture.id),) for fixture in show.fixtures}
    moved = show.with_patches(there)
    again = replace(show, note="Seen").with_patches(there)
    assert all(one is other for one, other in zip(moved.fixtures, again.fixtures, strict=True))
    elsewhere = show.with_patches({**there, 3: (Patch(8, 1),)})
    assert elsewhere.fixtures[2] == replace(show.fixtures[2], patch=(Patch(8, 1),))
    assert elsewhere.fixtures[3] is moved.fixtures[3]
    named = show.fixtures[0], replace(show.fixtures[1], label="Other"), *show.fixtures[2:]
    other = replace(show, fixtures=named).with_patches(there)
    assert [f.label for f in other.fixtures[:3]] == ["F0", "Other", "F2"]
