"""Edits give another show and never half of one; differences lead there and back."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fence.core import edits
from fence.core.addressing import moves
from fence.core.addressing.repair import repair_rig
from fence.core.addressing.schools import Layout, School, lay_out
from fence.core.checks import check
from fence.core.edits.difference import Change, Difference, apply_difference, difference
from fence.core.edits.prose import describe
from fence.core.model.address import Address
from fence.core.model.desk import Desk, Scale, TellTale
from fence.core.model.errors import EditError, FenceError
from fence.core.model.needs import ModeSchool, Need, Scope
from fence.core.model.profile import Mode, Part, Profile
from fence.core.model.show import Position, Show, Universe
from fence.demo import clean_show, demo_show
from tests.rigs import bare, rig, rigs


def places(show: Show) -> list[tuple[str, int | None, int | None]]:
    return [(f.label, f.universe, f.start) for f in show.fixtures]


def test_a_run_from_an_address_stands_back_to_back() -> None:
    """A run goes on from its start, counts labels and numbers, and spills at the end of the
    universe."""
    show = edits.add_universe(Show("S"), 1)
    show = edits.add_fixtures(
        show, edits.AddRun(bare(100), "m", 6, "Palm 08", 8, "Roof", start=Address(1, 13))
    )
    assert places(show) == [
        ("Palm 08", 1, 13),
        ("Palm 09", 1, 113),
        ("Palm 10", 1, 213),
        ("Palm 11", 1, 313),
        ("Palm 12", 1, 413),
        ("Palm 13", 2, 1),
    ]
    assert [f.number for f in show.fixtures] == [8, 9, 10, 11, 12, 13]
    assert [u.number for u in show.universes] == [1, 2]
    assert [p.name for p in show.positions] == ["Roof"]


@given(rigs(universes=2), st.integers(0, 90), st.integers(1, 8))
def test_a_run_into_free_gaps_clashes_with_nothing(show: Show, width: int, quantity: int) -> None:
    """Fixtures added without an address bring no new stop, and those without room stay
    unaddressed."""
    known = {finding.key for finding in check(show)}
    after = edits.add_fixtures(show, edits.AddRun(bare(width), "m", quantity, "New 1", 900))
    added = {fixture.id for fixture in after.fixtures} - show.fixture_by_id.keys()
    assert len(added) == quantity
    for finding in check(after):
        if added & set(finding.fixtures) and finding.key not in known:
            assert finding.rule in ("no-address", "duplicate-label", "universe-full")


def test_sharers_move_as_one_and_pins_hold() -> None:
    """Moving one of a sharing group moves all; a pin in the group refuses the move."""
    show = edits.share(rig(("A", 4, 1, 1), ("B", 4, 1, 9)), [1, 2])
    assert places(show) == [("A", 1, 1), ("B", 1, 1)]
    assert places(edits.nudge(show, 2, 5)) == [("A", 1, 6), ("B", 1, 6)]
    with pytest.raises(EditError, match="pinned"):
        edits.nudge(edits.pin(show, [1]), 2, 5)
    assert {f.share for f in edits.unshare(show, [1]).fixtures} == {""}


REFUSED: list[tuple[str, Callable[[Show], Show]]] = [
    ("no such fixture", lambda show: edits.nudge(show, 99, 1)),
    ("past slot 512", lambda show: edits.nudge(show, 1, 600)),
    ("nudge without address", lambda show: edits.nudge(show, 3, 1)),
    ("pin without address", lambda show: edits.pin(show, [3])),
    ("share unlike", lambda show: edits.share(show, [1, 2])),
    ("share one", lambda show: edits.share(show, [1])),
    ("unknown mode", lambda show: edits.change_mode(show, [1], "gone")),
    ("no such part", lambda show: edits.place(show, 1, Address(1, 1), part=1)),
    ("empty label", lambda show: edits.relabel(show, [1], "  ")),
    ("control character", lambda show: edits.rename(show, 1, "a\0b")),
    ("endless label", lambda show: edits.rename(show, 1, "x" * 2000)),
    ("universe there", lambda show: edits.add_universe(show, 1)),
    ("universe missing", lambda show: edits.rename_universe(show, 9, "x")),
    ("universe in use", lambda show: edits.remove_universe(show, 1)),
    ("no quantity", lambda show: edits.add_fixtures(show, edits.AddRun(bare(1), "m", 0, "x"))),
    ("empty show name", lambda show: edits.rename_show(show, " ")),
]


@pytest.mark.parametrize("edit", [case[1] for case in REFUSED], ids=[case[0] for case in REFUSED])
def test_refusals(edit: Callable[[Show], Show]) -> None:
    """What cannot be done is refused with a sentence."""
    with pytest.raises(FenceError, match=r"\w+ .*[.]$"):
        edit(rig(("A", 4, 1, 1), ("B", 5, 1, 9), ("C", 4, None, None)))


def some_edit(draw: st.DrawFn, show: Show) -> Show:
    """One random edit of a show."""
    ids = [fixture.id for fixture in show.fixtures]
    one = draw(st.sampled_from(ids)) if ids else 0
    some = draw(st.lists(st.sampled_from(ids), unique=True, max_size=4)) if ids else []
    slot = draw(st.integers(1, 512))
    choices: list[Callable[[], Show]] = [
        lambda: edits.add_fixtures(
            show, edits.AddRun(bare(slot % 40), "m", slot % 4 + 1, f"N{slot}", position="P")
        ),
        lambda: edits.remove_fixtures(show, some),
        lambda: edits.place(show, one, Address(slot % 5 + 1, slot)),
        lambda: edits.relabel(show, some, f"R{slot}"),
        lambda: edits.renumber(show, some, slot),
        lambda: edits.set_position(show, some, f"At {slot % 3}"),
        lambda: edits.share(show, some),
        lambda: edits.pin(show, some),
        lambda: edits.reserve(show, 1, [slot]),
        lambda: edits.add_universe(show, slot, "Added"),
        lambda: edits.set_desk(show, Desk("D", slot)),
        lambda: edits.rename_show(show, f"Show {slot}"),
        lambda: edits.mark_set(show, some),
        lambda: edits.mark_unset(show, some),
        lambda: edits.set_hard(
            show, show.positions[-1].name if show.positions else "none", hard=slot % 2 == 0
        ),
        lambda: edits.set_tell_tale(show, TellTale(slot, Scale.RAW) if slot % 3 else None),
        lambda: edits.set_need(
            show, Need(Scope.FIXTURE, str(slot % 3), ("dimmer",), ModeSchool.FULL)
        ),
        lambda: edits.set_need(show, Need(features=("white", "cells apart"))),
        lambda: moves.move_block(show, some, slot % 9 - 4),
        lambda: moves.swap(show, one, some[0] if some else one),
        lambda: moves.compact(show, 1),
        lambda: moves.split(show, some),
        lambda: lay_out(show, Layout(School.SHARED, ids=tuple(some))).show,
        lambda: repair_rig(show).show,
        lambda: edits.take_over(show, demo_show()),
        lambda: replace(show, fixtures=tuple(draw(st.permutations(show.fixtures)))),
    ]
    try:
        return draw(st.sampled_from(choices))()
    except FenceError:
        return show


@given(st.data(), rigs(most=6))
def test_differences_lead_there_and_back(data: st.DataObject, show: Show) -> None:
    """A difference applied gives the later show, reversed the earlier one; words exist just when
    something differs."""
    after = show
    for _ in range(data.draw(st.integers(1, 4))):
        after = some_edit(data.draw, after)
    found = difference(show, after)
    assert apply_difference(show, found) == after
    assert apply_difference(after, found.reversed()) == replace(show, next_id=after.next_id)
    assert found.empty == (after == show) == (describe(show, after) == "")


def test_a_difference_refuses_another_show() -> None:
    """A step is not applied to a show that it was not made from."""
    show = clean_show()
    moved = edits.nudge(show, 1, 1)
    with pytest.raises(EditError, match="changed since"):
        apply_difference(edits.nudge(show, 1, 2), difference(show, moved))


def test_a_step_is_applied_only_where_it_began() -> None:
    """Desk, positions and new fixtures as they were then; a show that bears another name by now is
    no hindrance."""
    show = replace(rig(("A", 4, 1, 1)), positions=(Position("Pole"),))
    desk = difference(show, edits.set_desk(show, Desk("Spade")))
    renamed = edits.rename_show(show, "Other")
    assert apply_difference(renamed, desk) == edits.set_desk(renamed, Desk("Spade"))
    with pytest.raises(EditError, match="changed since"):
        apply_difference(edits.set_desk(show, Desk("Hoe")), desk)
    hung = edits.set_position(show, [1], "Wall")
    with pytest.raises(EditError, match="changed since"):
        apply_difference(hung, difference(show, hung))
    added = edits.take_over(show, rig(("B", 4, 1, 9), ("C", 4, 1, 20)), drop_missing=False)
    with pytest.raises(EditError, match="changed since"):
        apply_difference(added, difference(show, added))
    again = Difference(fixtures=(Change(None, added.fixtures[-1], len(show.fixtures)),))
    assert apply_difference(show, again).fixtures == (*show.fixtures, added.fixtures[-1])
    with pytest.raises(EditError, match="has changed since"):
        apply_difference(added, again)
    both = replace(added, fixtures=added.fixtures[::-1])
    assert apply_difference(show, difference(show, both)) == both


@pytest.mark.parametrize(
    ("edit", "words"),
    [
        (lambda s: edits.nudge(s, 1, 1), "A moved from U1 001 to U1 002"),
        (lambda s: edits.pin(s, [1]), "A pinned"),
        (lambda s: edits.remove_fixtures(s, [1, 2]), "Removed A and B"),
        (lambda s: edits.set_position(s, [1, 2, 3], "Roof"), "3 fixtures, A to C hung at Roof"),
        (lambda s: edits.rename_universe(s, 1, "Hall"), "U1 renamed Hall"),
        (lambda s: edits.reserve(s, 1, [511, 512]), "U1 reserves 511-512"),
        (lambda s: edits.share(s, [1, 3]), "A and C share U1 001"),
        (lambda s: edits.unshare(edits.share(s, [1, 3]), [1, 3]), "C moved from U1 020 to U1 001"),
        (lambda s: edits.place(s, 2, Address(2, 5)), "B moved from U1 009 to U2 005"),
        (lambda s: edits.unplace(s, [1, 2]), "A and B moved"),
        (lambda s: edits.rename(s, 1, "Oak"), "A renamed Oak"),
        (lambda s: edits.relabel(s, [1, 2], "Oak 1"), "Renamed Oak 1 and Oak 2"),
        (lambda s: edits.renumber(s, [1, 2, 3], 11), "Renumbered 3 fixtures, A to C"),
        (lambda s: edits.mark_set(s, [1]), "A set at the fixture"),
        (lambda s: edits.set_note(s, [1], "loose"), "Note of A"),
        (lambda s: edits.set_position(s, [1], ""), ""),
        (lambda s: edits.change_mode(s, [2], "n"), "B to mode n"),
        (lambda s: edits.choose_modes(s, {1: "n", 2: "n"}), "A and B to mode n"),
        (lambda s: edits.choose_modes(s, {1: "n", 2: "o"}), "Modes of A and B changed"),
        (lambda s: edits.nudge(edits.change_mode(s, [2], "n"), 1, 1), "B to mode n, 1 more moved"),
        (lambda s: replace(s, fixtures=s.fixtures[::-1]), "Put the rig in another order"),
        (lambda s: edits.add_universe(s, 7), "Added U7"),
        (lambda s: edits.remove_universe(edits.add_universe(s, 7), 7), ""),
        (lambda s: edits.remove_universe(s, 2), "Removed U2"),
        (lambda s: edits.rename_universe(s, 2, ""), ""),
        (lambda s: edits.reserve(edits.reserve(s, 1, [5]), 1, []), ""),
        (lambda s: edits.set_hard(s, "Pole", hard=True), "Pole is hard to reach"),
        (lambda s: edits.set_hard(s, "Wall", hard=False), "Wall is easy to reach"),
        (lambda s: edits.set_tell_tale(s, TellTale(5)), "Tell-tale slot 5, percent"),
        (lambda s: edits.set_desk(s, Desk("Spade")), "Desk: name none → Spade"),
        (lambda s: edits.set_desk(s, Desk("", 4)), "Desk: universes none → 4"),
        (lambda s: edits.rename_show(s, "Night"), "Show renamed Night"),
        (lambda s: edits.set_need(s, Need(Scope.SHOW, "", ("red",))), "Needed of all: red"),
        (
            lambda s: edits.update_chart(s, replace(s.profiles[0], kind="wash", revision=3)),
            "Chart of Trowel T4 brought to revision 3",
        ),
    ],
)
def test_words_for_the_log(edit: Callable[[Show], Show], words: str) -> None:
    """The log and the undo button name a step in the rig's own words; the way back has words of its
    own."""
    show = rig(
        ("A", 4, 1, 1), ("B", 5, 1, 9), ("C", 4, 1, 20), universes=(Universe(1), Universe(2))
    )
    more = (Mode("m", (Part(4),)), Mode("n", (Part(6),)), Mode("o", (Part(7),)))
    profiles = tuple(
        replace(profile, modes=(profile.modes[0], *more[1:])) for profile in show.profiles
    )
    show = replace(
        show, profiles=profiles, positions=(Position("Pole"), Position("Wall", hard=True))
    )
    after = edit(show)
    assert describe(show, after) == words
    back = {
        "A pinned": "A unpinned",
        "A set at the fixture": "A not set after all",
        "Added U7": "Removed U7",
        "Tell-tale slot 5, percent": "Tell-tale slot off",
        "A and C share U1 001": "A and C no longer share an address",
        "3 fixtures, A to C hung at Roof": "3 fixtures, A to C taken off Roof",
        "Removed A and B": "Added A and B",
        "U1 renamed Hall": "U1 renamed without a name",
        "U1 reserves 511-512": "U1 reserves nothing",
    }
    assert words not in back or describe(after, show) == back[words]


def test_a_mode_with_more_parts_keeps_the_first_start() -> None:
    """Changing to a mode of two parts keeps where the first part was; the second has no address
    yet."""
    profile = Profile("p4", "T", "T", (Mode("m", (Part(4),)), Mode("two", (Part(1), Part(3)))))
    show = edits.add_fixtures(Show("S"), edits.AddRun(profile, "m", 1, "A", start=Address(1, 10)))
    after = edits.change_mode(show, [1], "two")
    assert [str(patch) for patch in after.fixtures[0].patch] == ["U1 010", "no address"]
    assert edits.change_mode(after, [1], "m").fixtures == show.fixtures


def test_adding_and_removing_is_no_new_order() -> None:
    """Only fixtures that both shows have can change places."""
    show = rig(("A", 4, 1, 1), ("B", 4, 1, 5), ("C", 4, 1, 9))
    fewer = edits.remove_fixtures(show, [show.fixtures[1].id])
    for found in (difference(show, fewer), difference(fewer, show)):
        assert found.reorder is None
    turned = replace(fewer, fixtures=fewer.fixtures[::-1])
    found = difference(show, turned)
    assert found.reorder is not None
    assert set(found.reorder.before) == {fixture.id for fixture in fewer.fixtures}
