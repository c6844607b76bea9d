"""Saving without pages: what is new is seen first, and what is really written is checked last."""

from __future__ import annotations

from pathlib import Path

import pytest

from fence.core import edits
from fence.core.checks import analyse
from fence.core.model.address import Address
from fence.core.model.errors import EditError
from fence.core.model.show import Show
from fence.store.database import open_engine
from fence.store.shows import ShowStore, StaleShow
from fence.work.saving import Asked, UnseenStops, mended, save
from tests.rigs import rig


def anything(_before: Show, _after: Show) -> None:
    """Everybody may do everything."""


@pytest.fixture
def store(tmp_path: Path) -> ShowStore:
    """A store with a show of three fixtures, four slots each, side by side."""
    found = ShowStore(open_engine(tmp_path / "saving.db"))
    found.create(rig(("A", 4, 1, 1), ("B", 4, 1, 5), ("C", 4, 1, 9)), who="T")
    return found


def onto(show: Show, slot: int) -> Show:
    """The first fixture moved to a slot."""
    return edits.place(show, show.fixtures[0].id, Address(1, slot))


def test_new_stops_are_seen_before_anything_is_written(store: ShowStore) -> None:
    """Unseen they are raised and nothing is saved; seen they are saved, and named."""
    before = store.get(1)
    clash = onto(before.show, 6)
    with pytest.raises(UnseenStops) as raised:
        save(store, before, clash, Asked("T", "Address", anything))
    assert [stop.rule for stop in raised.value.stops] == ["overlap", "overlap"]
    assert store.get(1).revision == before.revision
    done = save(store, before, clash, Asked("T", "Address", anything, seen=True))
    assert (done.saved.show, done.joined) == (clash, False)
    assert {stop.key for stop in done.stops} == {stop.key for stop in raised.value.stops}


def test_a_repair_moves_what_was_edited(store: ShowStore) -> None:
    """In the same step, without a stop left, and the others stay where they are."""
    before = store.get(1)
    clash = onto(before.show, 6)
    done = save(store, before, clash, Asked("T", "Address", anything, repair=True))
    assert analyse(done.saved.show).verdict.stops == 0
    assert done.saved.show == mended(before, clash)
    assert [f.patch for f in done.saved.show.fixtures[1:]] == [
        f.patch for f in before.show.fixtures[1:]
    ]


def test_what_is_really_written_is_checked(store: ShowStore) -> None:
    """Who may not move fixtures moves none; who is asked on top of what others saved is asked about
    what is written."""
    before = store.get(1)

    def may(old: Show, new: Show) -> None:
        if [f.patch for f in old.fixtures] != [f.patch for f in new.fixtures]:
            raise EditError("Only marks.")

    with pytest.raises(EditError, match="Only marks"):
        save(store, before, onto(before.show, 6), Asked("T", "Set", may))
    assert store.get(1).revision == before.revision
    renamed = edits.relabel(before.show, [before.show.fixtures[2].id], "Fog")
    others = save(store, before, renamed, Asked("O", "Rig", anything)).saved
    seen: list[str] = []

    def look(_old: Show, new: Show) -> None:
        seen.append(new.fixtures[2].label)

    done = save(store, before, onto(before.show, 100), Asked("T", "Address", look))
    assert seen == ["C", "Fog"]  # first what was asked for, then what is written
    assert (done.joined, done.saved.revision) == (True, others.revision + 1)


def test_the_same_changed_by_two_is_asked(store: ShowStore) -> None:
    """The second of them is told, and may have it on top."""
    before = store.get(1)
    save(store, before, onto(before.show, 100), Asked("O", "Address", anything))
    with pytest.raises(StaleShow):
        save(store, before, onto(before.show, 200), Asked("T", "Address", anything))
    on_top = store.get(1).revision
    done = save(
        store, before, onto(before.show, 200), Asked("T", "Address", anything, on_top=on_top)
    )
    assert str(done.saved.show.fixtures[0].patch[0]) == str(
        onto(before.show, 200).fixtures[0].patch[0]
    )
