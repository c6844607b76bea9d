"""What is saved stays: differences, undo across restarts, conflicts, kills, backups."""

from __future__ import annotations

import os
import random
import signal
import sqlite3
import subprocess
import sys
from dataclasses import replace
from pathlib import Path

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from hypothesis import given
from hypothesis import strategies as st
from sqlalchemy import text

from fence.core import edits
from fence.core.checks import analyse
from fence.core.model.errors import EditError
from fence.core.model.show import Show
from fence.demo import clean_show, demo_show
from fence.store.backups import backup, restore
from fence.store.database import open_engine
from fence.store.errors import DatabaseFileError
from fence.store.shows import NoSuchShow, SavedShow, ShowStore, StaleShow
from fence.store.tables import Base
from tests.core.edits.test_edits import some_edit
from tests.examples import examples


def reopened(store: ShowStore) -> ShowStore:
    """The same file, as after a restart: nothing in memory."""
    return ShowStore(store.engine)


@examples(12)
@given(st.data())
def test_any_edits_are_saved_undone_and_redone(
    tmp_path_factory: pytest.TempPathFactory, data: st.DataObject
) -> None:
    """After every save, undo and redo the file holds just the show that is in memory, also after a
    restart."""
    store = ShowStore(open_engine(tmp_path_factory.mktemp("any") / "fence.db"))
    saved = store.create(clean_show(), who="A")
    states = [saved.show]
    for _ in range(data.draw(st.integers(1, 5))):
        after = some_edit(data.draw, saved.show)
        if after != saved.show:
            states.append(after)
        saved = store.save(saved, after, who="A")
        assert reopened(store).get(saved.id) == saved
    ids = saved.show.next_id
    for show in reversed(states[:-1]):
        saved = reopened(store).undo(saved.id, revision=saved.revision, who="B")
        assert reopened(store).get(saved.id).show == saved.show == replace(show, next_id=ids)
    with pytest.raises(EditError, match="nothing to undo"):
        store.undo(saved.id, revision=saved.revision, who="B")
    for show in states[1:]:
        saved = reopened(store).redo(saved.id, revision=saved.revision, who="B")
        assert reopened(store).get(saved.id).show == saved.show == replace(show, next_id=ids)
    store.engine.dispose()


def test_a_new_edit_ends_what_could_be_redone(store: ShowStore) -> None:
    """After undo and another edit there is nothing to redo, and the log tells all three steps."""
    saved = store.create(demo_show(), who="A")
    saved = store.save(saved, edits.nudge(saved.show, 1, 1), who="A")
    saved = store.undo(saved.id, revision=saved.revision, who="B")
    saved = store.save(saved, edits.nudge(saved.show, 1, 2), who="C")
    assert store.steps(saved.id)[1] is None
    assert [(entry.who, entry.words) for entry in store.history(saved.id)][:3] == [
        ("C", "Palm 1 moved from U1 001 to U1 003"),
        ("B", "Undo: Palm 1 moved from U1 001 to U1 002"),
        ("A", "Palm 1 moved from U1 001 to U1 002"),
    ]


def test_the_second_of_two_is_told_and_nothing_is_lost(store: ShowStore) -> None:
    """Who saves from an old revision is told what changed; the first save stands."""
    start = store.create(demo_show(), who="A")
    first = store.save(start, edits.nudge(start.show, 1, 1), who="Ladder crew A")
    with pytest.raises(StaleShow) as told:
        reopened(store).save(start, edits.nudge(start.show, 1, 2), who="Desk")
    assert told.value.reasons == ("Palm 1 was changed meanwhile as well.",)
    assert [entry.who for entry in told.value.since] == ["Ladder crew A"]
    assert told.value.current == first == reopened(store).get(start.id)


def test_what_was_worked_out_goes_with_its_state(store: ShowStore) -> None:
    """What a preview found out of a show serves until the show is saved anew; what was found out of
    the new state before it was saved is still there."""
    other = store.create(clean_show(), who="A")
    before = store.create(demo_show(), who="A")
    after = edits.nudge(before.show, 1, 1)
    for show in (other.show, before.show, after):
        analyse(show)
    saved = store.save(before, after, who="A")
    assert store.get(saved.id).show is saved.show is after
    assert not before.show.worked_out
    assert after.worked_out
    assert other.show.worked_out
    store.state_at(saved.id, 1)  # an earlier state is looked at
    assert after.worked_out


def test_delete_has_a_way_back(store: ShowStore) -> None:
    """A deleted show is not found, comes back with its log, and can be removed for good only when
    deleted."""
    saved = store.create(demo_show(), who="A")
    store.remove_for_good(saved.id)
    store.delete(saved.id)
    with pytest.raises(NoSuchShow):
        store.get(saved.id)
    assert store.put_back(saved.id, who="B").show == saved.show
    assert next(entry.words for entry in store.history(saved.id)) == "Show put back"
    store.delete(saved.id)
    store.remove_for_good(saved.id)
    assert store.list_shows(deleted=True) == []
    with store.engine.connect() as connection:
        for table in ("fixtures", "patches", "log", "profiles", "universes", "positions"):
            assert connection.execute(text(f"SELECT count(*) FROM {table}")).scalar() == 0


def test_the_order_of_the_rig_survives_an_edit_that_does_several_things(store: ShowStore) -> None:
    """One save that renames many and takes some out of the middle is undone into the same order,
    also on disk."""
    saved = store.create(clean_show(), who="A")
    others = [fixture.id for fixture in saved.show.fixtures if fixture.id not in (30, 31)][:40]
    after = edits.relabel(edits.remove_fixtures(saved.show, [30, 31]), others, "Renamed 1")
    changed = store.save(saved, after, who="A")
    back = store.undo(saved.id, revision=changed.revision, who="A")
    assert back.show == saved.show
    assert reopened(store).get(saved.id).show == saved.show


def test_names_are_kept_apart(store: ShowStore) -> None:
    """Two shows never bear one name, so that the command line can call them by it."""
    saved = store.create(Show("Yule"), who="A")
    assert store.create(Show("Yule"), who="A").show.name == "Yule 2"
    assert store.copy(saved.id, who="A").show.name == "Yule copy"
    assert store.find("Yule 2").id == 2


def test_migrations_make_just_the_tables_of_the_code(store: ShowStore) -> None:
    """A migrated file equals the tables as declared, with WAL and foreign keys on."""
    with store.engine.connect() as connection:
        assert compare_metadata(MigrationContext.configure(connection), Base.metadata) == []
        assert connection.execute(text("PRAGMA journal_mode")).scalar() == "wal"
        assert connection.execute(text("PRAGMA foreign_keys")).scalar() == 1
        assert connection.execute(text("PRAGMA synchronous")).scalar() == 2


EDITOR = """
import sys
from dataclasses import replace
from pathlib import Path
from fence.core import edits
from fence.store.database import open_engine
from fence.store.shows import ShowStore
store = ShowStore(open_engine(Path(sys.argv[1])))
saved = store.get(1)
print("ready", flush=True)
while True:
    by = 1 if (saved.show.fixture(1).start or 1) < 400 else -300
    saved = store.save(saved, edits.nudge(saved.show, 1, by), who="A")
    print(saved.revision, saved.show.fixture(1).start, flush=True)
"""


def test_killed_in_the_middle_of_edits(store: ShowStore, tmp_path: Path) -> None:
    """After kill -9 every edit that was answered is there, and the file is sound."""
    store.create(demo_show(), who="A")
    for stop_after in random.Random(5).sample(range(5, 60), 4):
        program = [sys.executable, "-c", EDITOR, str(tmp_path / "fence.db")]
        with subprocess.Popen(program, stdout=subprocess.PIPE, text=True) as process:
            assert process.stdout is not None
            answered = ""
            for count, line in enumerate(process.stdout):
                answered = line
                if count >= stop_after:
                    break
            os.kill(process.pid, signal.SIGKILL)
            rest = process.stdout.read().splitlines(keepends=True)
            answered = next((line for line in reversed(rest) if line.endswith("\n")), answered)
        revision, start = map(int, answered.split())
        saved = reopened(store).get(1)
        assert saved.revision >= revision
        if saved.revision == revision:
            assert saved.show.fixture(1).start == start
        with sqlite3.connect(tmp_path / "fence.db") as connection:
            assert connection.execute("PRAGMA integrity_check").fetchone() == ("ok",)
        connection.close()


def test_backup_and_restore(store: ShowStore, tmp_path: Path) -> None:
    """A backup made while the file is open brings everything back; what was there is kept
    beside."""
    path, copy = tmp_path / "fence.db", tmp_path / "copy.db"
    saved = store.create(demo_show(), who="A")
    backup(path, copy)
    later: SavedShow = store.save(saved, edits.nudge(saved.show, 1, 1), who="A")
    store.engine.dispose()
    kept = restore(copy, path)
    again = ShowStore(open_engine(path))
    assert again.get(1).show == saved.show
    again.engine.dispose()
    assert kept is not None
    old = ShowStore(open_engine(kept))
    assert old.get(1) == later
    old.engine.dispose()


@pytest.mark.parametrize("content", [b"", b"no database", b"SQLite format 3\0" + b"x" * 200])
def test_a_bad_backup_changes_nothing(store: ShowStore, tmp_path: Path, content: bytes) -> None:
    """A file that is no backup is refused, and the database stays as it is."""
    saved = store.create(demo_show(), who="A")
    bad = tmp_path / "bad.db"
    bad.write_bytes(content)
    with pytest.raises(DatabaseFileError, match="not a Fence backup"):
        restore(bad, tmp_path / "fence.db")
    assert reopened(store).get(1) == saved
    assert not list(tmp_path.glob("*.restoring*"))


def test_a_file_that_is_no_database(tmp_path: Path) -> None:
    """Opening something else as a database says so."""
    (tmp_path / "x.db").write_bytes(b"not a database, but long enough to be looked at" * 40)
    with pytest.raises(DatabaseFileError, match="cannot be opened"):
        open_engine(tmp_path / "x.db")
