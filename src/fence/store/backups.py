"""Whole database files: a copy while it is in use, and a copy put back."""

from __future__ import annotations

import shutil
import sqlite3
from contextlib import closing
from pathlib import Path

from fence.core.model.text import counted
from fence.disk import held, replacing
from fence.store.database import REASONS, connect_reading, make_at, open_engine, schema_in
from fence.store.errors import UNREADABLE, DatabaseFileError
from fence.store.keeping import folder_of

OURS = {"shows", "fixtures", "log", "alembic_version"}
"""Tables that every Fence database has."""


def backup(path: Path, target: Path, *, force: bool = False) -> None:
    """Write a consistent copy of the database file, also while it is in use.

    Refused are the database itself, what is no regular file, and, without ``force``, an existing
    file that is no Fence database. Raises ``DatabaseFileError`` or ``DiskError``; the target is
    then as it was.
    """
    if not path.is_file():
        raise DatabaseFileError(
            f"There is no database at {path} yet, so there is nothing to back up."
        )
    if target.exists():
        if any(
            target.exists() and target.samefile(p) for p in (path, *_companions(path)) if p.exists()
        ):
            raise DatabaseFileError(
                f"{target} is the database itself: choose another place for the backup."
            )
        if (
            target.is_file()
            and target.stat().st_size
            and not force
            and not is_fence_database(target)
        ):
            raise DatabaseFileError(f"{target} is not a Fence database: --force writes over it.")
    with replacing(target, private=True) as partial:
        try:
            with (
                closing(connect_reading(path)) as source,
                closing(sqlite3.connect(partial)) as copy,
            ):
                source.backup(copy)
                copy.execute("PRAGMA journal_mode=DELETE")
        except UNREADABLE as error:
            reason = REASONS.get(
                getattr(error, "sqlite_errorcode", sqlite3.SQLITE_CORRUPT) & 0xFF, "it is damaged"
            )
            raise DatabaseFileError(
                f"The backup cannot be written to {target}: {path}: {reason}."
            ) from error


def _companions(path: Path) -> list[Path]:
    return [
        path.with_name(path.name + ending)
        for ending in ("-wal", "-shm", "-journal", ".key", ".lock")
    ]


def is_fence_database(path: Path, *, whole: bool = False) -> bool:
    """Whether a file holds Fence's tables; with ``whole`` every page of it is looked at."""
    try:
        with closing(connect_reading(path)) as connection:
            tables = {
                name
                for (name,) in connection.execute(
                    "SELECT name FROM sqlite_master WHERE type = 'table'"
                )
            }
            sound = not whole or connection.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
    except UNREADABLE:
        return False
    return sound and tables >= OURS


def restore(source: Path, path: Path) -> Path | None:
    """Put a backup in the place of the database; gives where the one before was kept, if there was
    one.

    Needs the database for itself: ``HeldError`` while it is served. The backup is looked at and
    brought up to date first, beside the database, so that a bad file changes nothing. Only its rows
    are taken, into tables that Fence makes: triggers and the like, which would run with every later
    step, stay behind. Revisions and ids go on above those of the database before, so that a page
    that was open all the while cannot take one state for another. Who may get on stays as it was.
    """
    if not source.is_file():
        raise DatabaseFileError(f"There is no file {source}.")
    with held(path), replacing(path, private=True) as candidate:
        _copy_rows_of(source, candidate)
        open_engine(candidate).dispose()
        _forget_copies(candidate)
        kept = None
        with closing(sqlite3.connect(candidate, isolation_level=None)) as connection:
            if path.stat().st_size:
                kept = _keep(path)
                _go_on_above(connection, path)
            _let_in_as_before(connection, path)
            connection.execute("PRAGMA journal_mode=DELETE")
        for ending in ("-wal", "-shm"):
            path.with_name(path.name + ending).unlink(missing_ok=True)
    return kept


def lost_by(source: Path, path: Path) -> list[str]:
    """What putting a backup in place of a database would lose: shows, and steps of the log that it
    does not have.

    Empty where nothing would be, or where one of the two cannot be read.
    """
    if not path.exists():
        return []
    try:
        held, now = _heads_of(source), _heads_of(path)
    except UNREADABLE:
        return []
    lost = []
    for key, (name, revision, changed) in now.items():
        if key not in held:
            lost.append(f"{name}: the whole show, last changed {changed[:16]}")
        elif held[key][1] < revision:
            steps = revision - held[key][1]
            lost.append(
                f"{name}: {counted(steps, 'step')} since {held[key][2][:16]}, last changed "
                f"{changed[:16]}"
            )
    return lost


def _heads_of(path: Path) -> dict[str, tuple[str, int, str]]:
    with closing(connect_reading(path)) as connection:
        rows = connection.execute(
            "SELECT key, name, revision, changed_at FROM shows WHERE deleted_at IS NULL"
        )
        return {key: (name, revision, str(changed)) for key, name, revision, changed in rows if key}


def _forget_copies(candidate: Path) -> None:
    """Take away the copies that were made while a candidate was brought up to date."""
    shutil.rmtree(folder_of(candidate), ignore_errors=True)


def _copy_rows_of(source: Path, candidate: Path) -> None:
    """Make fresh tables of the backup's own schema, and copy its rows into them."""
    if not is_fence_database(source, whole=True):
        raise DatabaseFileError(f"{source.name}: this file is not a Fence backup.")
    try:
        with closing(connect_reading(source)) as backup_:
            backup_.execute("PRAGMA trusted_schema = OFF")
            make_at(candidate, schema_in(backup_, source))
            with closing(sqlite3.connect(candidate, isolation_level=None)) as copy:
                copy.execute("BEGIN")
                for table in tables_of(copy):
                    copy_rows(backup_, copy, table)
                if copy.execute("PRAGMA foreign_key_check").fetchone() is not None:
                    raise sqlite3.DatabaseError("rows belong to others that are not there")
                copy.execute("COMMIT")
    except UNREADABLE as error:
        raise DatabaseFileError(
            f"{source.name}: this backup is damaged, so nothing of it was taken."
        ) from error


def tables_of(connection: sqlite3.Connection) -> list[str]:
    """The tables of a database that hold rows of Fence."""
    found = connection.execute("SELECT name FROM sqlite_master WHERE type = 'table' ORDER BY rowid")
    return [
        name for (name,) in found if not name.startswith("sqlite_") and name != "alembic_version"
    ]


def copy_rows(source: sqlite3.Connection, target: sqlite3.Connection, table: str) -> None:
    """Copy the rows of a table as they are: those of its columns that both have and that are no
    expressions.

    What another database calls so and is no plain table is passed over.
    """
    plain = source.execute(
        "SELECT sql FROM sqlite_master WHERE type = 'table' AND name = ? AND rootpage > 0", (table,)
    ).fetchone()
    if plain is None:
        return
    theirs = {
        name for _, name, *_, hidden in source.execute(f"PRAGMA table_xinfo({table})") if not hidden
    }
    columns = [
        name for _, name, *_ in target.execute(f"PRAGMA table_info({table})") if name in theirs
    ]
    if not columns:
        return
    named = ", ".join(f'"{name}"' for name in columns)
    target.execute(f"DELETE FROM {table}")  # what a migration put there
    target.executemany(
        f"INSERT INTO {table} ({named}) VALUES ({', '.join('?' * len(columns))})",
        source.execute(f"SELECT {named} FROM main.{table}"),
    )


def _keep(path: Path) -> Path:
    """A copy of the database before; of one that is damaged the file as it is."""
    kept = path.with_name(path.name + ".before-restore")
    try:
        with closing(sqlite3.connect(path)) as connection:
            # so that the file is whole without its log
            connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        backup(path, kept, force=True)
    except (DatabaseFileError, *UNREADABLE):
        with replacing(kept, private=True) as partial:
            shutil.copyfile(path, partial)
    return kept


def _let_in_as_before(connection: sqlite3.Connection, old: Path) -> None:
    """Whoever may get on, and is logged in, stays as in the database before: a restore brings back
    shows, and nobody who was taken out since. Where there was none, the people of the backup log in
    anew; no invitation of it holds.
    """
    tables = ("people", "sittings", "invitations")
    try:
        before = connect_reading(old)
    except UNREADABLE:
        before = sqlite3.connect(":memory:")  # damaged
    with closing(before), connection:
        before.execute("PRAGMA trusted_schema = OFF")
        try:
            before.execute("SELECT role FROM people").fetchall()
            known = before.execute("SELECT count(*) FROM people").fetchone()[0] > 0
        except UNREADABLE:
            known = False  # there was none, it is damaged, or of an older schema
        connection.execute("BEGIN")
        for table in reversed(tables):
            if table != "people" or known:
                connection.execute(f"DELETE FROM {table}")
        for table in tables if known else ():
            copy_rows(before, connection, table)


def _go_on_above(connection: sqlite3.Connection, old: Path) -> None:
    """Lift revisions and the counter of ids above those that the database before had reached."""
    try:
        with closing(connect_reading(old)) as before:
            reached = before.execute("SELECT key, revision FROM shows WHERE key <> ''").fetchall()
            counters = before.execute("SELECT name, value FROM counters").fetchall()
    except UNREADABLE:
        return  # it is damaged or of an older schema: no page of it can be open with this Fence
    with connection:
        connection.execute("BEGIN")
        connection.executemany(
            "UPDATE shows SET revision = max(revision, ?2) + 1, summary = NULL WHERE key = ?1",
            reached,
        )
        connection.executemany(
            "UPDATE counters SET value = max(value, ?2) WHERE name = ?1", counters
        )
