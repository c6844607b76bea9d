"""Copies that Fence makes by itself: one a day, one before an update, so many and no more; what a
restore loses."""

from __future__ import annotations

import threading
from datetime import datetime, timedelta
from pathlib import Path

import pytest
from sqlalchemy import create_engine

from fence.core import edits
from fence.core.model.show import Show
from fence.disk import DiskError
from fence.store.backups import backup, is_fence_database, lost_by
from fence.store.database import migrate, open_engine
from fence.store.keeping import (
    DAY,
    MOST_KEPT,
    UPDATE,
    DailyCopies,
    copies_of,
    folder_of,
    keep,
    keep_by_day,
)
from fence.store.shows import ShowStore

MORNING = datetime(2026, 11, 28, 8, 0)


@pytest.fixture
def path(tmp_path: Path) -> Path:
    """A database with one show."""
    found = tmp_path / "fence.db"
    engine = open_engine(found)
    ShowStore(engine).create(Show("S"), who="A")
    engine.dispose()
    return found


def test_one_copy_a_day_and_the_oldest_go_first(path: Path) -> None:
    """Each copy is a whole database that only its owner reads; copies of another kind are let
    alone."""
    update = keep(path, UPDATE, MORNING)
    for day in range(MOST_KEPT + 4):
        at = MORNING + timedelta(days=day)
        made = keep_by_day(path, at)
        assert made is not None
        assert keep_by_day(path, at + timedelta(hours=9)) is None
        assert is_fence_database(made, whole=True)
        assert made.stat().st_mode & 0o077 == 0
    names = [copy.name for copy in copies_of(path, DAY)]
    assert len(names) == MOST_KEPT
    assert names[0].startswith("fence-20261202")
    assert copies_of(path, UPDATE) == [update]


def test_a_database_of_an_older_fence_is_copied_before_it_is_brought_up(tmp_path: Path) -> None:
    """The copy is of the older schema, so that the older Fence can open it; a new database needs
    none."""
    old = tmp_path / "old.db"
    engine = create_engine(f"sqlite:///{old}")
    migrate(engine, "0009")
    engine.dispose()
    assert not folder_of(old).exists()
    open_engine(old).dispose()
    (copy,) = copies_of(old, UPDATE)
    assert is_fence_database(copy, whole=True)
    open_engine(old).dispose()
    assert len(copies_of(old, UPDATE)) == 1


def test_copies_are_made_while_it_serves_and_a_bad_place_stops_nothing(path: Path) -> None:
    """The copy of the day is there soon after the start; where it cannot be written, work goes
    on."""
    made = threading.Event()

    def clock() -> datetime:
        made.set()
        return MORNING

    with DailyCopies(path, clock, every=0.01):
        assert made.wait(10)
    assert len(copies_of(path, DAY)) == 1
    folder = folder_of(path)
    for copy in copies_of(path, DAY):
        copy.unlink()
    folder.rmdir()
    folder.write_text("in the way")
    made.clear()
    with DailyCopies(path, clock, every=0.01):
        assert made.wait(10)
    with pytest.raises(DiskError, match="cannot be written"):
        keep(path, DAY, MORNING)


def test_what_a_restore_would_lose_is_said(path: Path, tmp_path: Path) -> None:
    """Shows that the backup lacks, and how many steps of the others; nothing where it has all."""
    out = tmp_path / "out.db"
    backup(path, out)
    assert lost_by(out, path) == []
    engine = open_engine(path)
    store = ShowStore(engine)
    for name in ("T", "U"):
        saved = store.get(1)
        store.save(saved, edits.rename_show(saved.show, name), who="A")
    store.create(Show("Later"), who="A")
    engine.dispose()
    told = lost_by(out, path)
    assert len(told) == 2
    assert told[0].startswith("U: 2 steps since 20")
    assert told[1].startswith("Later: the whole show, last changed 20")
    assert lost_by(tmp_path / "none.db", path) == []
