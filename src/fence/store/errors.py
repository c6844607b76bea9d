"""What can go wrong with a database file, in words for the person, from what SQLite says."""

from __future__ import annotations

import sqlite3

from sqlalchemy.exc import DBAPIError

from fence.core.model.errors import FenceError

BUSY_SECONDS = 5
"""How long a writer waits for another before it gives up."""


class StorageError(FenceError):
    """The database cannot do what was asked now: it is held, full, read-only or damaged. Nothing
    was saved."""


class DatabaseFileError(StorageError):
    """The database file cannot be opened, or is no Fence database."""


UNREADABLE = (sqlite3.Error, UnicodeError, OverflowError)
"""What Python's SQLite raises for a file that is damaged: its own words may be no text."""
DAMAGED = (
    "A part of the database file is damaged, so this cannot be read. Other shows may still be "
    "whole: export them, then "
    "restore a backup."
)
_MEANINGS: dict[int, str] = {
    sqlite3.SQLITE_BUSY: f"Another program has held the database for {BUSY_SECONDS} seconds. "
    "Nothing of this step is "
    "saved: try again in a moment.",
    sqlite3.SQLITE_LOCKED: "The database is in use by another step. Nothing of this step is "
    "saved: try again.",
    sqlite3.SQLITE_FULL: "The disk is full. Nothing of this step is saved: make room and repeat "
    "it.",
    sqlite3.SQLITE_IOERR: "The disk does not take what is written to it (full, or failing). "
    "Nothing of this step is "
    "saved.",
    sqlite3.SQLITE_READONLY: "The database can only be read here, so nothing can be saved. "
    "Looking, exporting and "
    "backing up work.",
    sqlite3.SQLITE_CANTOPEN: "The database file cannot be opened any more. Nothing of this step "
    "is saved.",
    sqlite3.SQLITE_CORRUPT: DAMAGED,
    sqlite3.SQLITE_NOTADB: "The database file is not a database any more. Restore a backup.",
}


def told(error: DBAPIError | sqlite3.Error) -> StorageError:
    """The error for people that says what SQLite said; anything unknown is given back in SQLite's
    words."""
    origin = error.orig if isinstance(error, DBAPIError) else error
    code = getattr(origin, "sqlite_errorcode", 0) & 0xFF
    return StorageError(
        _MEANINGS.get(code, "The database refused this step. Nothing of it is saved.")
    )
