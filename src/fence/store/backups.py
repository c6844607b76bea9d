"""Whole database files: a copy while it is in use, and a copy put back."""

from __future__ import annotations

import shutil
import sqlite3
from contextlib import closing
from pathlib import Path

from fence.core.words.text import counted
from fence.disk import DiskError, held, replacing
from fence.store.database import connect_reading, open_engine
from fence.store.errors import DatabaseFileError
from fence.store.keeping import folder_of

OURS = {"shows", "fixtures", "log", "alembic_version"}
"""Tables that every Fence database has."""


def backup(path: Path, target: Path, *, force: bool = False) -> None:
    """Write a consistent copy of the database file, also while it is in use.

    Refused are the database itself, what is no regular file, and, without ``force``, an existing file that is no
    Fence database. Raises ``DatabaseFileError`` or ``DiskError``; the target is then as it was.
    """
    if not path.is_file():
        raise DatabaseFileError(f"There is no database at {path} yet, so there is nothing to back up.")
    if target.exists():
        if any(target.exists() and target.samefile(p) for p in (path, *_companions(path)) if p.exists()):
            raise DatabaseFileError(f"{target} is the database itself: choose another place for the backup.")
        if target.is_file() and target.stat().st_size and not force and not is_fence_database(target):
            raise DatabaseFileError(f"{target} is no Fence database: --force writes over it.")
    with replacing(target, private=True) as partial:
        try:
            with closing(connect_reading(path)) as source, closing(sqlite3.connect(partial)) as copy:
                source.backup(copy)
                copy.execute("PRAGMA journal_mode=DELETE")
        except sqlite3.Error as error:
            raise DatabaseFileError(f"The backup cannot be written to {target}: {error}.") from error


def _companions(path: Path) -> list[Path]:
    return [path.with_name(path.name + ending) for ending in ("-wal", "-shm", "-journal", ".key", ".lock")]


def is_fence_database(path: Path, *, whole: bool = False) -> bool:
    """Whether a file holds Fence's tables; with ``whole`` every page of it is looked at."""
    try:
        with closing(connect_reading(path)) as connection:
            tables = {name for (name,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
            sound = not whole or connection.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
    except sqlite3.Error:
        return False
    return sound and tables >= OURS


def restore(source: Path, path: Path) -> Path | None:
    """Put a backup in the place of the database; gives where the one before was kept, if there was one.

    Needs the database for itself: ``HeldError`` while it is served. The backup is looked at and brought up to date
    first, on a copy, so that a bad file changes nothing. Revisions and ids go on above those of the database before,
    so that a page that was open all the while cannot take one state for another. Who may get on stays as it was.
    """
    if not source.is_file():
        raise DatabaseFileError(f"There is no file {source}.")
    with held(path), replacing(path, private=True) as candidate:
        _copy(source, candidate)
        open_engine(candidate).dispose()
        _forget_copies(candidate)
        kept = None
        with closing(sqlite3.connect(candidate, isolation_level=None)) as connection:
            if path.exists():
                kept = _keep(path)
                _go_on_above(connection, path)
            _let_in_as_before(connection, path)
            connection.execute("PRAGMA journal_mode=DELETE")
        for ending in ("-wal", "-shm"):
            path.with_name(path.name + ending).unlink(missing_ok=True)
    return kept


def lost_by(source: Path, path: Path) -> list[str]:
    """What putting a backup in place of a database would lose: shows, and steps of the log that it does not have.

    Empty where nothing would be, or where one of the two cannot be read.
    """
    if not path.exists():
        return []
    try:
        held, now = _heads_of(source), _heads_of(path)
    except sqlite3.Error:
        return []
    lost = []
    for key, (name, revision, changed) in now.items():
        if key not in held:
            lost.append(f"{name}: the whole show, last changed {changed[:16]}")
        elif held[key][1] < revision:
            steps = revision - held[key][1]
            lost.append(f"{name}: {counted(steps, 'step')} since {held[key][2][:16]}, last changed {changed[:16]}")
    return lost


def _heads_of(path: Path) -> dict[str, tuple[str, int, str]]:
    with closing(connect_reading(path)) as connection:
        rows = connection.execute("SELECT key, name, revision, changed_at FROM shows WHERE deleted_at IS NULL")
        return {key: (name, revision, str(changed)) for key, name, revision, changed in rows if key}


def _forget_copies(candidate: Path) -> None:
    """Take away the copies that were made while a candidate was brought up to date."""
    shutil.rmtree(folder_of(candidate), ignore_errors=True)


def _copy(source: Path, candidate: Path) -> None:
    if not is_fence_database(source, whole=True):
        raise DatabaseFileError(f"{source.name}: this file is no Fence backup.")
    try:
        shutil.copyfile(source, candidate)
    except OSError as error:
        raise DiskError(f"{source}: cannot be copied ({error.strerror}).") from None


def _keep(path: Path) -> Path:
    """A copy of the database before; of one that is damaged the file as it is."""
    kept = path.with_name(path.name + ".before-restore")
    try:
        with closing(sqlite3.connect(path)) as connection:
            connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")  # so that the file is whole without its log
        backup(path, kept, force=True)
    except (DatabaseFileError, sqlite3.Error):
        with replacing(kept, private=True) as partial:
            shutil.copyfile(path, partial)
    return kept


def _let_in_as_before(connection: sqlite3.Connection, old: Path) -> None:
    """Whoever may get on, and is logged in, stays as in the database before: a restore brings back shows, and nobody
    who was taken out since. Where there was none, the people of the backup log in anew; no invitation of it holds.
    """
    tables = ("people", "sittings", "invitations")
    try:
        with closing(connect_reading(old)) as before:
            kept = {table: before.execute(f"SELECT * FROM {table}").fetchall() for table in tables}
    except sqlite3.Error:
        kept = {}  # none, damaged, or of an older schema
    with connection:
        connection.execute("BEGIN")
        for table in reversed(tables):
            if table != "people" or kept.get("people"):
                connection.execute(f"DELETE FROM {table}")
        for table in tables:
            for row in kept.get(table, ()) if kept.get("people") else ():
                connection.execute(f"INSERT INTO {table} VALUES ({', '.join('?' * len(row))})", row)


def _go_on_above(connection: sqlite3.Connection, old: Path) -> None:
    """Lift revisions and the counter of ids above those that the database before had reached."""
    try:
        with closing(connect_reading(old)) as before:
            reached = before.execute("SELECT key, revision FROM shows WHERE key <> ''").fetchall()
            counters = before.execute("SELECT name, value FROM counters").fetchall()
    except sqlite3.Error:
        return  # it is damaged or of an older schema: no page of it can be open with this Fence
    with connection:
        connection.execute("BEGIN")
        connection.executemany(
            "UPDATE shows SET revision = max(revision, ?2) + 1, summary = NULL WHERE key = ?1", reached
        )
        connection.executemany("UPDATE counters SET value = max(value, ?2) WHERE name = ?1", counters)
