"""The log as it is read: narrowed, by page, with notes and snapshots; and what a migration makes of
an older one."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime, timedelta
from pathlib import Path

import pytest
from sqlalchemy import delete

from fence.core import edits
from fence.core.model.address import Address
from fence.core.model.errors import EditError
from fence.core.model.profile import Mode, Part, Profile
from fence.core.model.show import Show
from fence.store.database import open_engine, writing
from fence.store.journal import PAGE, Journal, Wanted
from fence.store.shows import ShowStore
from fence.store.tables import LogFixtureRow

TYPE = Profile("type", "Trowel", "T", (Mode("small", (Part(4),)),))
START = datetime(2026, 11, 27, 22, 0)


class Clock:
    """A clock that goes on by an hour with each look."""

    def __init__(self) -> None:
        self.now = START

    def __call__(self) -> datetime:
        self.now += timedelta(hours=1)
        return self.now


@pytest.fixture
def store(tmp_path: Path) -> Iterator[ShowStore]:
    """A store with its own clock and one show of three fixtures."""
    found = ShowStore(open_engine(tmp_path / "log.db"), clock=Clock())
    found.create(
        edits.add_fixtures(
            Show("S"), edits.AddRun(TYPE, "small", 3, "A 1", None, "", 1, Address(1, 1))
        ),
        who="A",
    )
    yield found
    found.engine.dispose()


def moved(
    store: ShowStore, fixture: int, slot: int, who: str = "A", origin: str = "Address"
) -> int:
    """One step of the log; gives the revision after it."""
    saved = store.get(1)
    return store.save(
        saved, edits.place(saved.show, fixture, Address(2, slot)), who=who, origin=origin
    ).revision


def words(journal: Journal, **wanted: object) -> list[str]:
    return [entry.words for entry in journal.page(1, Wanted(**wanted)).entries]  # type: ignore[arg-type]


def test_the_log_is_narrowed_by_what_it_is_about(store: ShowStore) -> None:
    """By fixture, person, place, words and time; an undo is about the fixtures that it moved."""
    journal = Journal(store.engine, store.clock)
    moved(store, 1, 10)
    moved(store, 2, 20, who="B", origin="Rig")
    store.undo(1, revision=3, who="C")
    assert words(journal, fixture=1)[0] == "A 1 moved from U1 001 to U2 010"
    assert [w.startswith("Undo") for w in words(journal, fixture=2)][:2] == [True, False]
    assert words(journal, who="B") == ["A 2 moved from U1 005 to U2 020"]
    assert words(journal, origin="Rig") == words(journal, who="B")
    assert words(journal, words="U2 010") == ["A 1 moved from U1 001 to U2 010"]
    assert words(journal, words="%") == []
    late = journal.page(1, Wanted()).entries[0].at
    assert words(journal, since=late) == ["Undo: A 2 moved from U1 005 to U2 020"]
    assert len(words(journal, until=late)) == 3
    assert journal.people(1) == ["A", "B", "C"]
    assert words(journal, fixture=99) == []


def test_pages_go_on_where_the_last_one_ended(store: ShowStore) -> None:
    """Every entry stands on one page and none twice."""
    journal = Journal(store.engine, store.clock)
    for slot in range(1, PAGE + 30):
        moved(store, 1, slot)
    first = journal.page(1, Wanted())
    second = journal.page(1, Wanted(before=first.entries[-1].id))
    assert (len(first.entries), first.more, second.more) == (PAGE, True, False)
    revisions = [entry.revision for entry in (*first.entries, *second.entries)]
    assert revisions == list(range(store.get(1).revision, 0, -1))


def test_notes_and_snapshots(store: ShowStore) -> None:
    """A note says whose it is and can be taken away; a snapshot has one name, of a state that
    was."""
    journal = Journal(store.engine, store.clock)
    revision = moved(store, 1, 10)
    entry = journal.page(1, Wanted()).entries[0]
    journal.note(1, entry.id, "  the rill \n needed room ", who="B")
    assert [(e.note, e.noted_by) for e in journal.page(1, Wanted()).entries[:1]] == [
        ("the rill needed room", "B")
    ]
    journal.note(1, entry.id, "", who="B")
    assert journal.page(1, Wanted()).entries[0].noted_by == ""
    with pytest.raises(EditError, match="no such entry"):
        journal.note(2, entry.id, "x", who="B")
    journal.name_snapshot(1, revision, "as hung", who="B")
    with pytest.raises(EditError, match="called “as hung” already"):
        journal.name_snapshot(1, 1, "as hung", who="B")
    with pytest.raises(EditError, match="Use 1 to 2"):
        journal.name_snapshot(1, 3, "later", who="B")
    (snapshot,) = journal.snapshots(1)
    journal.forget_snapshot(2, snapshot.id)
    assert journal.snapshots(1) == [snapshot]
    journal.forget_snapshot(1, snapshot.id)
    assert journal.snapshots(1) == []


def test_any_state_can_be_looked_at(store: ShowStore) -> None:
    """Each state is the show as it was then; one that never was is refused."""
    shows = {1: store.get(1).show}
    for slot in range(1, 40):
        revision = moved(store, 1 + slot % 3, 10 * slot)
        shows[revision] = store.get(1).show
    fresh = ShowStore(store.engine, clock=store.clock)
    assert {revision: fresh.state_at(1, revision).show for revision in shows} == shows
    with pytest.raises(EditError, match="no state 99"):
        fresh.state_at(1, 99)


def test_a_removed_show_takes_its_log_along(store: ShowStore) -> None:
    """Nothing of a show that is gone for good stays behind, and a fixture's id finds nothing of
    another show's."""
    journal = Journal(store.engine, store.clock)
    moved(store, 1, 10)
    other = store.create(Show("T"), who="A")
    assert journal.page(other.id, Wanted(fixture=1)).entries == ()
    store.delete(1)
    store.remove_for_good(1)
    with writing(store.engine) as session:
        left = session.execute(delete(LogFixtureRow).returning(LogFixtureRow.log_id)).all()
    assert left == []
